"""Guessing how a text file is written: delimiter, decimal mark, header, columns and their roles."""

import csv
import re
from dataclasses import dataclass

from rellux.core.errors import refuse

SAMPLE_BYTES = 65_536
DELIMITERS = ("\t", ";", ",", "|", " ")
ROLES = ("time", "reading", "setpoint", "output", "switch")

_WORDS = {
    "time": ("time", "date", "zeit", "stamp", "elapsed", "seconds", "t"),
    "setpoint": ("setpoint", "set-point", "set point", "sp", "target", "soll"),
    "reading": ("reading", "temp", "pv", "actual", "ist", "value", "measured"),
    "output": ("output", "out", "power", "leistung", "duty", "op", "%"),
    "switch": ("switch", "relay", "relais", "state", "heater", "ssr"),
}


@dataclass(frozen=True)
class Column:
    """A column of the file: its heading and first values; ``role`` guessed, or empty."""

    name: str
    values: list[str]
    role: str


@dataclass(frozen=True)
class Guess:
    """How the file seems to be written. ``unit`` of temperatures and ``time_format`` as in the import request."""

    delimiter: str
    decimal: str
    header: bool
    time_format: str
    unit: str
    columns: list[Column]


def guess(sample: bytes) -> Guess:
    """From the first bytes of a file. Raises ``Refused`` for something that is not a text table."""
    text = decode(sample)
    lines = [line for line in text.splitlines() if line.strip()][:60]
    if (
        len(lines) == len(text.splitlines())
        and not text.endswith("\n")
        and len(lines) > 2
        and len(sample) >= SAMPLE_BYTES
    ):
        lines = lines[:-1]  # the last line of a cut sample may be half a line
    if len(lines) < 2:
        raise refuse("file", "there are no rows in it", "a heading and at least one row")
    delimiter = max(DELIMITERS, key=lambda d: _consistency(lines, d))
    if _consistency(lines, delimiter) <= 0:
        raise refuse("file", "no delimiter divides its lines into columns", "comma, semicolon, tab, bar or space")
    rows = [r for r in csv.reader(lines, delimiter=delimiter, skipinitialspace=True)]
    width = max(len(r) for r in rows[1:6])
    rows = [[c.strip() for c in r] + [""] * (width - len(r)) for r in rows]
    decimal = "," if delimiter != "," and _decimal_commas(rows) else "."
    header = not any(_is_number(c, decimal) for c in rows[0]) and not any(_is_date(c) for c in rows[0])
    names = rows[0][:width] if header else [f"column {i + 1}" for i in range(width)]
    body = rows[1:] if header else rows
    roles = _roles(names, body, decimal)
    columns = [Column(n or f"column {i + 1}", [r[i] for r in body[:5]], roles[i]) for i, n in enumerate(names)]
    times = [r[roles.index("time")] for r in body if "time" in roles]
    return Guess(delimiter, decimal, header, _time_format(times, decimal), _unit(names), columns)


def decode(sample: bytes) -> str:
    """The text of a sample. Raises ``Refused`` for binary content."""
    if b"\x00" in sample and not sample.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise refuse("file", "this is not a text file", "a CSV log: lines of text with columns")
    for encoding in ("utf-8-sig", "utf-16"):
        try:
            return sample.decode(encoding)
        except UnicodeDecodeError as error:
            if encoding == "utf-8-sig" and error.start >= len(sample) - 4:  # a character cut at the end
                return sample[: error.start].decode(encoding)
            if encoding == "utf-8-sig" and not sample.startswith((b"\xff\xfe", b"\xfe\xff")):
                break
    text = sample.decode("latin-1")
    odd = sum(1 for c in text if ord(c) < 32 and c not in "\t\r\n")
    if odd > len(text) / 100:
        raise refuse("file", "this is not a text file", "a CSV log: lines of text with columns")
    return text


def _consistency(lines: list[str], delimiter: str) -> float:
    counts = [line.count(delimiter) for line in lines[1:]]
    if not counts or min(counts) == 0:
        return 0.0
    most = max(set(counts), key=counts.count)
    score = counts.count(most) / len(counts) * (1 + min(most, 4) / 100)
    return score * (0.5 if delimiter == " " else 0.9 if delimiter == "," else 1.0)


def _decimal_commas(rows: list[list[str]]) -> bool:
    cells = [c for r in rows[1:20] for c in r]
    return sum(bool(re.fullmatch(r"-?\d+,\d+", c)) for c in cells) > sum(
        bool(re.fullmatch(r"-?\d+\.\d+", c)) for c in cells
    )


def _is_number(cell: str, decimal: str) -> bool:
    try:
        float(cell.replace(",", ".") if decimal == "," else cell)
    except ValueError:
        return False
    return True


def _is_date(cell: str) -> bool:
    return bool(re.match(r"\d{1,4}[-./]\d{1,2}[-./]\d{1,4}", cell) or re.match(r"\d{1,2}:\d{2}", cell))


def _time_format(times: list[str], decimal: str) -> str:
    first = next((t for t in times if t), "")
    if _is_number(first, decimal):
        return "seconds"
    if re.match(r"\d{4}-\d{2}-\d{2}[T ]\d", first):
        return "iso"
    if match := re.match(r"(\d{1,2})([./])(\d{1,2})[./](\d{4})", first):
        months = {int(m.group(2)) for t in times if (m := re.match(r"(\d{1,2})[./](\d{1,2})", t))}
        return "mdy" if match.group(2) == "/" and max(months, default=0) > 12 else "dmy"
    if re.match(r"\d{1,3}:\d{2}", first):
        return "clock"
    return "iso"


def _unit(names: list[str]) -> str:
    return "F" if any("°f" in n.lower() or "(f)" in n.lower() or "fahrenheit" in n.lower() for n in names) else "C"


def _roles(names: list[str], body: list[list[str]], decimal: str) -> list[str]:
    roles = [""] * len(names)
    for role in ("time", "setpoint", "output", "switch", "reading"):
        for i, name in enumerate(names):
            words = [w for w in re.split(r"[^a-z%-]+", name.lower()) if w]
            if not roles[i] and (
                any(w in _WORDS[role] for w in words) or any(k in name.lower() for k in _WORDS[role][:2])
            ):
                roles[i] = role
                break
    if "time" not in roles and body:
        roles[0] = "time"
    if "reading" not in roles:
        free = [i for i, r in enumerate(roles) if not r and body and _is_number(body[0][i], decimal)]
        if free:
            roles[free[0]] = "reading"
    return roles
