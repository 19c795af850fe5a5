"""Own parts as files: JSON, and CSV with one line a terminal or rating. Both are described in docs/parts-file.md."""

import csv
import io
import json
from typing import Any

from rellux.core.cells import neutral, plain
from rellux.core.errors import refuse
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.own_parts import OwnPart, check_own, of_today
from rellux.server.api.strict_json import NotStrictError, loads

FORMAT, VERSION = "rellux-parts", 1
COLUMNS = ("title", "kind", "what", "name", "value")
MOST_PARTS, MOST_BYTES = 500, 2_000_000


def to_json(parts: list[OwnPart]) -> str:
    rows = [{"title": p.title, "kind": p.kind, "numbers": p.numbers, "ratings": p.ratings} for p in parts]
    return json.dumps({"format": FORMAT, "version": VERSION, "parts": rows}, indent=1, ensure_ascii=False)


def to_csv(parts: list[OwnPart]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for p in parts:
        rows = [("part", "", "")]
        rows += [("terminal", k, v) for k, v in p.numbers.items()]
        rows += [("rating", k, v) for k, v in p.ratings.items()]
        writer.writerows(tuple(map(neutral, (p.title, p.kind, *row))) for row in rows)
    return out.getvalue()


def from_file(data: bytes) -> list[OwnPart]:
    """Parts out of either file, each checked. Raises ``Refused`` naming what is wrong; nothing is kept then."""
    if len(data) > MOST_BYTES:
        raise refuse("file", "it is too large for a file of parts", f"up to {MOST_BYTES // 1_000_000} MB")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise refuse("file", "it is not text", "a .json or .csv exported by Rellux") from None
    parts = [of_today(p) for p in (_from_json(text) if text.lstrip().startswith("{") else _from_csv(text))]
    if not 1 <= len(parts) <= MOST_PARTS:
        raise refuse("file", f"it holds {len(parts)} parts", f"1…{MOST_PARTS}")
    for part in parts:
        check_own(part)
    return parts


def _from_json(text: str) -> list[OwnPart]:
    try:
        found = loads(text)
    except NotStrictError as error:
        raise refuse("file", str(error), "a file exported by Rellux") from None
    if found.get("format") != FORMAT or found.get("version") != VERSION:
        raise refuse("file", "this is not a file of parts of this version", f"format {FORMAT!r}, version {VERSION}")
    return [_part(row) for row in found.get("parts", ())]


def _part(row: Any) -> OwnPart:
    if (
        not isinstance(row, dict)
        or not isinstance(row.get("numbers", {}), dict)
        or not isinstance(row.get("ratings", {}), dict)
    ):
        raise refuse("file", "a part in it is not what it should be", "title, kind, numbers, ratings")
    numbers = {str(k): str(v) for k, v in row.get("numbers", {}).items()}
    return OwnPart(str(row.get("title", "")), str(row.get("kind", "")), numbers, row.get("ratings", {}))


def _from_csv(text: str) -> list[OwnPart]:
    reader = csv.DictReader(io.StringIO(text))
    if tuple(reader.fieldnames or ()) != COLUMNS:
        raise refuse("file", "its first line is not that of a file of parts", ",".join(COLUMNS))
    found: dict[str, OwnPart] = {}
    for line, written in enumerate(reader, 2):
        row = {k: plain(v or "") for k, v in written.items() if isinstance(k, str)}
        title = row["title"]
        part = found.setdefault(title, OwnPart(title, row["kind"]))
        if row["what"] == "terminal":
            part.numbers[row["name"]] = row["value"]
        elif row["what"] == "rating":
            part.ratings[row["name"]] = _value(part.kind, row["name"], row["value"])
        elif row["what"] != "part":
            raise refuse("file", f"line {line}: {row['what']!r} is neither part, terminal nor rating", "one of these")
    return list(found.values())


def _value(kind: str, name: str, text: str) -> float | str:
    known = PART_TYPES.get(kind)
    words = known is not None and any(r.name == name and r.kind is None for r in known.ratings)
    try:
        return text if words else float(text)
    except ValueError:
        return text
