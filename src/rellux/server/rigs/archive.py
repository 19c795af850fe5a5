"""One rig, one file: a zip of JSON and CSV. The format is described in docs/rig-file.md.

Reading trusts nothing: the version is checked, only the expected names are opened, sizes are bounded, and the whole rig
is built in one transaction or not at all.
"""

import io
import json
import re
import zipfile
from collections.abc import Iterator
from datetime import datetime
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv
from django.db import models, transaction
from django.utils.dateparse import parse_datetime

from rellux.core.errors import Refused, refuse
from rellux.core.purpose.purpose import RigKind, check_purpose
from rellux.core.questions import QUESTIONS
from rellux.core.questions.form import fill
from rellux.core.runs.series import Series, check_times
from rellux.core.setup.parameters import check_values
from rellux.core.wiring.listing import formerly, from_plain
from rellux.server.calibration.models import Calibration
from rellux.server.questions.models import Kept
from rellux.server.runs import store
from rellux.server.runs.models import Event, Run
from rellux.server.runs.views import csv_rows
from rellux.server.setup.models import Sheet
from rellux.server.tuning.models import Identification
from rellux.server.wiring.domain import store as store_wiring
from rellux.server.wiring.models import LARGEST_PHOTO, Accepted, BuiltWire, FittedPart, Photo, Wire

from .domain import PARTS_FIELDS, PURPOSE_FIELDS, choice_of, purpose_of
from .models import Entry, Rig

FORMAT, VERSION = "rellux-rig", 1
MOST_BYTES = 1024 * 1024 * 1024
MOST_RATIO = 200
OWN_FILE = re.compile(r"runs/\d{1,6}\.csv|photos/\d{1,4}")

_KEPT: tuple[tuple[str, type[models.Model], tuple[str, ...]], ...] = (
    ("parts", FittedPart, ("name", "kind", "ratings", "title", "numbers")),
    (
        "wires",
        Wire,
        ("number", "a", "b", "circuit", "area_mm2", "colour", "length_m", "insulation", "route"),
    ),
    ("built", BuiltWire, ("number", "a", "b", "area_mm2", "colour", "at")),
    ("accepted", Accepted, ("rule", "subjects", "reason", "who", "at")),
    ("kept", Kept, ("question", "values", "at")),
    ("sheets", Sheet, ("at", "kind", "values", "why")),
    (
        "calibrations",
        Calibration,
        (
            "at",
            "who",
            "reference",
            "sensor",
            "school",
            "pairs",
            "rule",
            "as_found_c",
            "as_left_c",
            "error_c",
            "uncertainty_c",
        ),
    ),
    ("entries", Entry, ("at", "who", "station", "title", "why", "before", "after")),
)
_RIG = ("name", "kind", *PURPOSE_FIELDS, *PARTS_FIELDS, "circuit", "created_at", "rewired_at")
_SINCE: dict[str, Any] = {"materials": [], "plug_a": None, "circuit": "parts", "rewired_at": None}
"""What a rig is taken for by files of before it had these."""
_LATER = ("kept", "built", "accepted")
"""Tables that files of before they existed do not have."""
_RUN = ("name", "source", "status", "started_at", "sheet", "samples", "length_s", "peak_c")
_IDENTIFICATION = (
    "at",
    "start_s",
    "end_s",
    "gain",
    "lag_s",
    "dead_time_s",
    "verdict",
    "result",
    "accepted",
    "accepted_at",
)


def _row(item: models.Model, names: tuple[str, ...]) -> dict[str, Any]:
    return {n: _plain(getattr(item, n)) for n in names}


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, datetime) else value


def describe(rig: Rig) -> dict[str, Any]:
    """Everything of a rig but the samples, as plain data. Runs are numbered from 1 in order of time."""
    runs = list(rig.runs.filter(removed_at__isnull=True).order_by("started_at", "pk"))
    number = {run.pk: i for i, run in enumerate(runs, 1)}
    found: dict[str, Any] = {"rig": _row(rig, _RIG)}
    for key, model, names in _KEPT:
        found[key] = [_row(item, names) for item in model._default_manager.filter(rig=rig).order_by("pk")]
    found["photos"] = [_row(p, ("terminal", "kind", "at")) for p in rig.photos.order_by("pk").defer("image")]
    found["runs"] = [
        {
            "number": number[run.pk],
            **_row(run, _RUN),
            "events": [_row(e, ("time_s", "kind", "text")) for e in run.events.all()],
        }
        for run in runs
    ]
    found["identifications"] = [
        {"run": number.get(i.run_id or 0), **_row(i, _IDENTIFICATION)} for i in rig.identifications.order_by("pk")
    ]
    return found


def write(rig: Rig) -> Iterator[bytes]:
    """The zip, in pieces as it is made."""
    buffer = _Pieces()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive:
        archive.writestr("rellux.json", json.dumps({"format": FORMAT, "version": VERSION}, indent=1))
        archive.writestr("rig.json", json.dumps(describe(rig), indent=1, ensure_ascii=False))
        yield buffer.take()
        for i, photo in enumerate(rig.photos.order_by("pk").iterator(), 1):
            archive.writestr(f"photos/{i}", bytes(photo.image))
            yield buffer.take()
        runs = rig.runs.filter(removed_at__isnull=True).order_by("started_at", "pk")
        for i, run in enumerate(runs, 1):
            with archive.open(f"runs/{i}.csv", "w") as file:
                for count, row in enumerate(csv_rows(run)):
                    file.write(row.encode())
                    if count % 5000 == 0:
                        yield buffer.take()
    yield buffer.take()


class _Pieces(io.RawIOBase):
    """A write-only stream that can be emptied while a zip is being written to it."""

    def __init__(self) -> None:
        self._held = bytearray()
        self._at = 0

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._held += data
        self._at += len(data)
        return len(data)

    def tell(self) -> int:
        return self._at

    def take(self) -> bytes:
        piece = bytes(self._held)
        self._held.clear()
        return piece


def read(file: Any, slug_for: Any) -> Rig:
    """Build the rig in a file. Raises ``Refused`` for anything that is not a rig file of this version."""
    try:
        archive = zipfile.ZipFile(file)
    except zipfile.BadZipFile:
        raise refuse("file", "this is not a rig file", "a .zip exported by Rellux") from None
    with archive:
        _check_members(archive)
        head = _json(archive, "rellux.json")
        if head.get("format") != FORMAT:
            raise refuse("file", "this zip is not a rig exported by Rellux", f"format {FORMAT!r}")
        if head.get("version") != VERSION:
            raise refuse("file", f"it has version {head.get('version')!r} of the rig format", f"version {VERSION}")
        data = _json(archive, "rig.json")
        try:
            with transaction.atomic():
                return _build(data, archive, slug_for)
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            if isinstance(error, Refused):
                raise
            raise refuse(
                "file", f"rig.json is damaged ({type(error).__name__}: {error})", "an unchanged export"
            ) from error


def _check_members(archive: zipfile.ZipFile) -> None:
    total = 0
    for member in archive.infolist():
        name = member.filename
        if name not in ("rellux.json", "rig.json") and not OWN_FILE.fullmatch(name):
            raise refuse("file", f"it contains {name!r}, which does not belong in a rig file", "an unchanged export")
        total += member.file_size
        if member.file_size > 1_000_000 and member.file_size > MOST_RATIO * max(member.compress_size, 1):
            raise refuse("file", f"{name} unpacks to a suspicious size", "an unchanged export")
    if total > MOST_BYTES:
        raise refuse("file", "it unpacks to more than Rellux takes", f"up to {MOST_BYTES // 1048576} MB")


def _json(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    try:
        found = json.loads(archive.read(name))
    except KeyError:
        raise refuse("file", f"{name} is missing in it", "an unchanged export") from None
    except (ValueError, zipfile.BadZipFile) as error:
        raise refuse("file", f"{name} cannot be read", "an unchanged export") from error
    if not isinstance(found, dict):
        raise refuse("file", f"{name} is not what it should be", "an unchanged export")
    return found


def _values(row: dict[str, Any], names: tuple[str, ...]) -> dict[str, Any]:
    found = {n: row[n] for n in names}
    for name in ("at", "started_at", "created_at", "rewired_at", "accepted_at"):
        if found.get(name):
            found[name] = parse_datetime(found[name])
    return found


def _section(data: dict[str, Any], key: str) -> list[dict[str, Any]]:
    """Rows of one table; kept answers are missing from files of before they existed."""
    rows: list[dict[str, Any]] = data.get(key, []) if key in _LATER else data[key]
    if key == "parts":  # the user's own part is missing from them too
        rows = [{"title": "", "numbers": {}, **row} for row in rows]
    if key == "wires":
        rows = [{"length_m": 1.5, "insulation": "", "route": "", **row} for row in rows]
    for row in rows if key == "kept" else ():
        if row["question"] in QUESTIONS:
            fill(QUESTIONS[row["question"]].shape, row["values"])
    return rows


def _build(data: dict[str, Any], archive: zipfile.ZipFile, slug_for: Any) -> Rig:
    rig = Rig(**_values({**_SINCE, **data["rig"]}, _RIG))
    rig.slug = slug_for(rig.name)
    RigKind(rig.kind)
    check_purpose(purpose_of(rig))
    choice_of(rig)
    rig.full_clean(exclude=["lowest_reason"])
    rig.save()
    for row in data["sheets"]:
        check_values(row["values"])
    wiring = from_plain({key: _section(data, key) for key in ("parts", "wires")}, kept=True)
    store_wiring(rig, wiring)
    boards = {p.name for p in wiring.of_kind("microcontroller")}
    for key, model, names in _KEPT:
        if key not in ("parts", "wires"):
            rows = (_of_today(row, boards) for row in _section(data, key))
            model._default_manager.bulk_create(model(rig=rig, **_values(row, names)) for row in rows)
    for i, row in enumerate(data.get("photos", []), 1):
        image = _member(archive, f"photos/{i}", LARGEST_PHOTO)
        Photo.objects.create(rig=rig, image=image, **_values(_of_today(row, boards), ("terminal", "kind", "at")))
    runs = {row["number"]: _build_run(rig, row, archive) for row in data["runs"]}
    Identification.objects.bulk_create(
        Identification(rig=rig, run=runs.get(row["run"]), **_values(row, _IDENTIFICATION))
        for row in data["identifications"]
    )
    return rig


def _of_today(row: dict[str, Any], boards: set[str]) -> dict[str, Any]:
    """A row with the terminals of boards by their names of today."""
    ends = {k: formerly(row[k], boards) for k in ("a", "b", "terminal") if isinstance(row.get(k), str)}
    return {**row, **ends}


def _build_run(rig: Rig, row: dict[str, Any], archive: zipfile.ZipFile) -> Run:
    values = _values(row, _RUN)
    if values["status"] == Run.Status.RECORDING:
        values["status"] = Run.Status.INTERRUPTED
    run = Run.objects.create(rig=rig, **{**values, "samples": 0, "length_s": 0.0, "peak_c": None})
    Event.objects.bulk_create(Event(run=run, **e) for e in row["events"])
    name = f"runs/{int(row['number'])}.csv"
    if row["samples"] == 0:
        return run
    try:
        with archive.open(name) as file:
            table = pa.csv.read_csv(
                file,
                convert_options=pa.csv.ConvertOptions(column_types=dict.fromkeys(_CSV, pa.float64())),
            )
        columns = [table.column(c).to_numpy().astype(np.float64) for c in _CSV]
    except (KeyError, pa.ArrowInvalid, zipfile.BadZipFile) as error:
        raise refuse("file", f"{name} is missing or damaged", "an unchanged export") from error
    check_times(columns[0])
    store.append(run, Series(*columns))
    return run


def _member(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    """One file of the zip, refused where it is missing, damaged or larger than it may be."""
    try:
        if archive.getinfo(name).file_size > most:
            raise refuse("file", f"{name} is too large", f"up to {most // 1_000_000} MB")
        return archive.read(name)
    except (KeyError, zipfile.BadZipFile) as error:
        raise refuse("file", f"{name} is missing or damaged", "an unchanged export") from error


_CSV = ("time_s", "setpoint_c", "reading_c", "output_percent", "switch")
