"""Reading a rig file. Nothing in it is trusted: names, sizes, shapes, numbers and the rules of the core are checked, the rig
is built in one transaction and read once as every screen will read it, or nothing is kept at all.
"""

import re
import zipfile
import zlib
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import numpy as np
from django.core.exceptions import ValidationError
from django.db import DatabaseError, models, transaction
from django.utils.dateparse import parse_datetime
from numpy.typing import NDArray

from rellux.core.calibration.by_use import check_hot
from rellux.core.calibration.certificates import HOTTEST_C
from rellux.core.calibration.conformity import WHOLE_U, check_guard
from rellux.core.calibration.due import Interval, check_plan
from rellux.core.calibration.offsets import Pair, work_out
from rellux.core.errors import Refused, refuse
from rellux.core.form import fill
from rellux.core.guarding.proof import Observed
from rellux.core.plant.rig_models import check_fire, check_heater_sensor
from rellux.core.proving.judging import SeenAtStep, StepVerdict
from rellux.core.purpose.kinds import check_kind
from rellux.core.purpose.purpose import RigKind, check_purpose
from rellux.core.questions.registry import FORMERLY, QUESTIONS
from rellux.core.runs.channels import LONGEST_NAME, MOST_OFFSET, ROLES
from rellux.core.runs.series import Points, Series, check_times
from rellux.core.setup.parameters import check_values
from rellux.core.spine import Station
from rellux.core.tuning.fit_verdict import FitVerdict
from rellux.core.tuning.relay.driven import UNDER_WAY, TestStanding
from rellux.core.tuning.relay.experiment import RelayTest, Swung
from rellux.core.units import ABSOLUTE_ZERO_C
from rellux.core.wiring.listing import formerly, from_plain
from rellux.server import arrow as pa
from rellux.server.api.shapes import of_plain
from rellux.server.api.strict_json import NotStrictError, loads
from rellux.server.calibration.domain import known_then, reference_from
from rellux.server.calibration.reading import rule_from
from rellux.server.equipment.filed import bring_in
from rellux.server.guarding.stored import plan_from
from rellux.server.menus.stored import block_from, description_from
from rellux.server.profiles.domain import check_programme, forms_from
from rellux.server.profiles.stored import profile_from
from rellux.server.profiles.views import kind_of
from rellux.server.runs import store
from rellux.server.runs.driven_relay import FOUND, test_from
from rellux.server.runs.models import Event, Run, Track
from rellux.server.tuning.models import DrivenRelayTest, Identification
from rellux.server.wiring.domain import store as store_wiring
from rellux.server.wiring.models import Photo
from rellux.server.wiring.photos import LARGEST_PHOTO, redrawn

from .archive import FORMAT, IDENTIFICATION, KEPT, RELAY_TEST, RIG, RUN, TRACK, VERSION
from .domain import check_name, choice_of, purpose_of
from .models import Rig
from .proof import forget, read_once

MOST_BYTES = 1024 * 1024 * 1024
MOST_JSON = 64 * 1024 * 1024
MOST_RATIO = 200
LARGEST_NUMBER = 1e9
OWN_FILE = re.compile(r"runs/\d{1,6}(-\d{1,2})?\.csv|photos/\d{1,4}")
MOST_TRACKS, MOST_CHANNELS = 32, 64
UNCHANGED = "an unchanged export"

_SINCE: dict[str, Any] = {
    "effect": "heats",
    "frequency_hz": 50.0,
    "fire": {},
    "cooler": {},
    "controls": {},
    "own_mains": {},
    "heater_sensor": {},
    "materials": [],
    "plug_a": None,
    "circuit": "parts",
    "programme_forms": {},
    "rewired_at": None,
}
"""What a rig is taken for by files of before it had these."""
_LATER = ("kept", "built", "accepted", "photos", "equipment", "guard_plans", "proofs", "profiles", "controllers", "proved_steps",
          "proved_stages", "calibration_plans", "relay_tests")  # fmt: skip
"""Tables that files of before they existed do not have."""
_MOMENTS = ("at", "begun_at", "started_at", "created_at", "rewired_at", "accepted_at", "removed_at")
_LISTS = ("pairs", "subjects", "materials", "channels", "observed", "began", "steps")
_OF_NUMBERS = ("fire", "cooler", "controls", "own_mains", "heater_sensor")
"""Parts of a purpose: numbers, or none, but for a choice ``…_by``."""
_CSV = ("time_s", "setpoint_c", "reading_c", "output_percent", "switch")
_UNREADABLE = (zipfile.BadZipFile, zlib.error, RuntimeError, NotImplementedError, EOFError, OSError, ValueError)
"""What the zip library raises for files that are corrupt, cut short, encrypted or packed in a way it does not know."""
_DAMAGE = (LookupError, TypeError, ValueError, AttributeError, ArithmeticError, RecursionError, DatabaseError)


def read(file: Any, slug_for: Any, name: str | None = None) -> Rig:
    """Build the rig in a file, under another name where one is given.

    Raises ``Refused`` for anything that is not a rig file of this version.
    """
    try:
        archive = zipfile.ZipFile(file)
    except _UNREADABLE:
        raise refuse("file", "this is not a rig file", "a .zip exported by Rellux") from None
    with archive:
        _check_members(archive)
        head = _json(archive, "rellux.json")
        if head.get("format") != FORMAT:
            raise refuse("file", "this zip is not a rig exported by Rellux", f"format {FORMAT!r}")
        if head.get("version") != VERSION:
            raise refuse(
                "file", f"it has version {head.get('version')!r} of the rig format"[:200], f"version {VERSION}"
            )
        data = _json(archive, "rig.json")
        try:
            if name is not None:
                data["rig"]["name"] = name
            with transaction.atomic():
                rig = _build(data, archive, slug_for)
                read_once(rig)
                return rig
        except Refused:
            forget()
            raise
        except (*_DAMAGE, ValidationError) as error:
            forget()
            said = f"{type(error).__name__}: {error}"[:200]
            raise refuse("file", f"rig.json is damaged ({said})", UNCHANGED) from error


def _check_members(archive: zipfile.ZipFile) -> None:
    total, seen = 0, set()
    for member in archive.infolist():
        name = member.filename
        if name not in ("rellux.json", "rig.json") and not OWN_FILE.fullmatch(name):
            raise refuse("file", f"it contains {name[:80]!r}, which does not belong in a rig file", UNCHANGED)
        if name in seen:
            raise refuse("file", f"it contains {name!r} twice", UNCHANGED)
        if member.flag_bits & 1:
            raise refuse("file", f"{name} is encrypted", UNCHANGED)
        seen.add(name)
        total += member.file_size
        if member.file_size > 1_000_000 and member.file_size > MOST_RATIO * max(member.compress_size, 1):
            raise refuse("file", f"{name} unpacks to a suspicious size", UNCHANGED)
        if name.endswith(".json") and member.file_size > MOST_JSON:
            raise refuse("file", f"{name} is too large", f"up to {MOST_JSON // 1048576} MB")
    if total > MOST_BYTES:
        raise refuse("file", "it unpacks to more than Rellux takes", f"up to {MOST_BYTES // 1048576} MB")


def _json(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    try:
        found = loads(archive.read(name))
    except KeyError:
        raise refuse("file", f"{name} is missing in it", UNCHANGED) from None
    except NotStrictError as error:
        raise refuse("file", f"{name}: {error}"[:200], UNCHANGED) from error
    except _UNREADABLE as error:
        raise refuse("file", f"{name} cannot be read", UNCHANGED) from error
    if not isinstance(found, dict):
        raise refuse("file", f"{name} is not what it should be", UNCHANGED)
    return found


def _values(row: dict[str, Any], names: tuple[str, ...]) -> dict[str, Any]:
    found = {n: row[n] for n in names}
    return {n: _moment(v) if n in _MOMENTS and v is not None else v for n, v in found.items()}


def _moment(text: str) -> datetime:
    found = parse_datetime(text)
    if found is None:
        raise ValueError(f"{text[:40]!r} is no moment")
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def _checked(item: models.Model, where: str) -> models.Model:
    """The row, with every column of its kind, length and choice. Raises ``Refused`` naming section, line and column."""
    for column in item._meta.concrete_fields:
        value = getattr(item, column.attname)
        reason = ""
        if isinstance(column, models.JSONField):
            wanted = list if column.name in _LISTS else dict
            reason = "" if isinstance(value, wanted) else f"is no {wanted.__name__}"
            if not reason and column.name in _OF_NUMBERS:
                _check_numbers(value, f"{where}.{column.name}")
        elif isinstance(column, models.CharField | models.SlugField):
            reason = "" if isinstance(value, str) else "is no text"
        elif isinstance(column, models.FloatField) and value is not None:
            reason = "" if _is_number(value) else NO_NUMBER
        if reason:
            raise refuse(f"{where}.{column.name}", reason, UNCHANGED)
    values = {c: getattr(item, c.attname) for c in item._meta.concrete_fields}
    empty = [c.name for c, value in values.items() if value in ("", {}, []) or (value is None and c.null)]
    try:
        item.clean_fields(exclude={*empty, "rig", "run"})
    except ValidationError as error:
        column, said = next(iter(error.message_dict.items()))
        raise refuse(f"{where}.{column}", " ".join(said)[:200], UNCHANGED) from None
    return item


NO_NUMBER = "is no number a rig can have"


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and abs(value) <= LARGEST_NUMBER


def _check_numbers(values: dict[str, Any], where: str) -> None:
    """Raises ``Refused`` naming the first that is neither a number, nor nothing, nor a choice."""
    for name, value in values.items():
        if value is not None and not name.endswith("_by") and not _is_number(value):
            raise refuse(f"{where}.{name}", NO_NUMBER, UNCHANGED)


def _section(data: dict[str, Any], key: str) -> list[dict[str, Any]]:
    """Rows of one table; kept answers are missing from files of before they existed."""
    rows: list[dict[str, Any]] = data.get(key, []) if key in _LATER else data[key]
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise refuse(key, "is no list of rows", UNCHANGED)
    if key == "parts":  # the user's own part is missing from them too
        rows = [{"title": "", "numbers": {}, **row} for row in rows]
    if key == "calibrations":
        rows = [{"compared_with": {}, "scatter_before": {}, "allowed_c": None, "guard": WHOLE_U, **row} for row in rows]
    if key == "calibration_plans":
        rows = [{"guard": WHOLE_U, "hot_c": None, **row} for row in rows]
    if key == "controllers":
        rows = [{"block": {}, **row} for row in rows]
    if key == "sheets":
        rows = [{"walked": False, "who": "", **row} for row in rows]
    if key == "wires":
        rows = [{"length_m": 1.5, "insulation": "", "route": "", **row} for row in rows]
    if key == "kept":
        rows = [
            {**row, "question": FORMERLY.get(row["question"], row["question"])} if "question" in row else row
            for row in rows
        ]
    return rows


def _check_kept(row: dict[str, Any]) -> None:
    if row["question"] in QUESTIONS:
        fill(QUESTIONS[row["question"]].shape, row["values"])


def _check_calibration(row: dict[str, Any]) -> None:
    """The pairs and the rule by the core that made them."""
    rule = rule_from(row["rule"], row["school"])
    if row["compared_with"]:
        reference_from(row["compared_with"])
    known = known_then(row["scatter_before"], row["allowed_c"], row["guard"])
    work_out(tuple(Pair(**p) for p in row["pairs"]), rule, row["sensor"], known)


def _check_calibration_plan(row: dict[str, Any]) -> None:
    check_plan(Interval(row["interval"]), row["days"], row["allowed_c"])
    check_guard(row["guard"])
    if row["hot_c"] is not None:
        check_hot(row["hot_c"], ABSOLUTE_ZERO_C, HOTTEST_C)


def _check_proof(row: dict[str, Any]) -> None:
    plan_from(row["plan"])
    for i, seen in enumerate(row["observed"]):
        of_plain(Observed, seen, f"observed[{i}]")


def _check_proved(row: dict[str, Any]) -> None:
    of_plain(SeenAtStep, row["seen"], "seen")
    StepVerdict(row["verdict"])
    if not all(isinstance(words, str) for words in dict(row["cites"]).values()):
        raise refuse("cites", "is no list of facts in words", UNCHANGED)


def _check_profile(row: dict[str, Any]) -> None:
    profile_from(row["profile"])
    if row["kind"]:
        kind_of(row["kind"]).read(row["inputs"])


def _check_controller(row: dict[str, Any]) -> None:
    if row["description"]:
        description_from(row["description"])
    if row["block"]:
        block_from(row["block"])


def _check_relay_test(row: dict[str, Any]) -> None:
    TestStanding(row["standing"])
    of_plain(RelayTest, row["driven"]["test"], "driven.test")
    test_from(row["driven"])
    if FOUND in row["swing"]:
        check_values(row["swing"][FOUND])
    elif row["swing"]:
        of_plain(Swung, row["swing"], "swing")


_RULES = {
    "kept": _check_kept,
    "calibrations": _check_calibration,
    "calibration_plans": _check_calibration_plan,
    "sheets": lambda row: check_values(row["values"]),
    "guard_plans": lambda row: plan_from(row["plan"]),
    "proofs": _check_proof,
    "proved_steps": _check_proved,
    "controllers": _check_controller,
    "profiles": _check_profile,
    "entries": lambda row: Station(row["station"]),
}


def _build(data: dict[str, Any], archive: zipfile.ZipFile, slug_for: Any) -> Rig:
    rig = Rig(**_values({**_SINCE, **data["rig"]}, RIG))
    _checked(rig, "rig")
    check_name(rig.name)
    forms_from(rig.programme_forms)
    rig.slug = slug_for(rig.name)
    purpose = purpose_of(rig)
    check_purpose(purpose)
    check_kind(RigKind(rig.kind), purpose)
    check_fire(RigKind(rig.kind), purpose)
    check_heater_sensor(RigKind(rig.kind), purpose)
    choice_of(rig)
    rig.full_clean(exclude=["lowest_reason"])
    rig.save()
    wiring = from_plain({key: _section(data, key) for key in ("parts", "wires")}, kept=True)
    store_wiring(rig, wiring)
    boards = {p.name for p in wiring.of_kind("microcontroller")}
    for key, model, names in KEPT:
        if key not in ("parts", "wires"):
            _add_rows(rig, key, model, names, [_of_today(row, boards) for row in _section(data, key)])
    bring_in(rig, _section(data, "equipment"))
    for i, row in enumerate(_section(data, "photos")):
        image, kind = redrawn(_member(archive, f"photos/{i + 1}", LARGEST_PHOTO))
        values = {**_values(_of_today(row, boards), ("terminal", "at")), "kind": kind}
        photo = Photo(rig=rig, image=image, **values)
        _checked(photo, f"photos[{i}]").save()
    runs = {row["number"]: _build_run(rig, row, archive) for row in _section(data, "runs")}
    for i, row in enumerate(_section(data, "identifications")):
        found = Identification(rig=rig, run=runs.get(row["run"]), **_values(row, IDENTIFICATION))
        heats = found.gain > 0 or found.verdict == FitVerdict.POOR  # one of a reversed sensor is told as what it is
        if not (heats and found.lag_s > 0 and found.dead_time_s >= 0):
            raise refuse(f"identifications[{i}]", "is no process", "gain and lag above 0, dead time from 0")
        _checked(found, f"identifications[{i}]").save()
    for i, row in enumerate(_section(data, "relay_tests")):
        _follow(_check_relay_test, row, f"relay_tests[{i}]")
        made = DrivenRelayTest(rig=rig, run=runs.get(row["run"]), generation=0, **_values(row, RELAY_TEST))
        made.beat_at = made.begun_at
        if made.standing in UNDER_WAY:  # nobody looks after it here
            made.standing, made.said = TestStanding.BROKEN_OFF.value, "it was under way when this file was made"
        _checked(made, f"relay_tests[{i}]").save()
    return rig


def _add_rows(
    rig: Rig, key: str, model: type[models.Model], names: tuple[str, ...], rows: list[dict[str, Any]]
) -> None:
    made = []
    for i, row in enumerate(rows):
        if key in _RULES:
            _follow(_RULES[key], row, f"{key}[{i}]")
        made.append(_checked(model(rig=rig, **_values(row, names), **_MARKS.get(key, {})), f"{key}[{i}]"))
    model._default_manager.bulk_create(made)


def _follow(rule: Callable[[dict[str, Any]], object], row: dict[str, Any], where: str) -> None:
    """A rule of the core on one row; what it refuses is told with the row's place."""
    try:
        rule(row)
    except Refused as refused:
        raise Refused(*(replace(p, field=f"{where}.{p.field}") for p in refused.problems)) from None
    except _DAMAGE as error:
        raise refuse(where, f"is damaged ({type(error).__name__}: {error})"[:200], UNCHANGED) from error


_MARKS: dict[str, dict[str, Any]] = {"entries": {"imported": True}}
"""Who wrote these, and when, is only what the file says."""


def _of_today(row: dict[str, Any], boards: set[str]) -> dict[str, Any]:
    """A row with the terminals of boards by their names of today."""
    ends = {k: formerly(row[k], boards) for k in ("a", "b", "terminal") if isinstance(row.get(k), str)}
    return {**row, **ends}


def _build_run(rig: Rig, row: dict[str, Any], archive: zipfile.ZipFile) -> Run:
    number = int(row["number"])
    values = _values({"programme": {}, **row}, RUN)
    check_programme(values["programme"])
    if values["status"] == Run.Status.RECORDING:
        values["status"] = Run.Status.INTERRUPTED
    run = Run(rig=rig, **{**values, "samples": 0, "length_s": 0.0, "peak_c": None})
    _checked(run, f"runs[{number}]").save()
    events = [Event(run=run, **_values(e, ("time_s", "kind", "text"))) for e in row["events"]]
    Event.objects.bulk_create(_checked(e, f"runs[{number}].events[{i}]") for i, e in enumerate(events))
    for k, told in enumerate(_tracks(row.get("tracks", []), number), 1):
        track = Track(run=run, **{**_values(told, TRACK), "samples": 0})
        _checked(track, f"runs[{number}].tracks[{k}]").save()
        if told["samples"]:
            time_s, *values = _samples(archive, f"runs/{number}-{k}.csv", store.names_of(track))
            store.append(track, Points(time_s, tuple(values)))
    if row["samples"]:
        store.append(run, Series(*_samples(archive, f"runs/{number}.csv", _CSV)))
    return run


def _tracks(rows: Any, number: int) -> list[dict[str, Any]]:
    """What was measured beside a run, as its rows say. Raises ``Refused`` for what no device can have shown."""
    where = f"runs[{number}].tracks"
    if not isinstance(rows, list) or len(rows) > MOST_TRACKS:
        raise refuse(where, "no list of devices", UNCHANGED)
    for row in rows:
        channels = row["channels"]
        if not isinstance(channels, list) or not 1 <= len(channels) <= MOST_CHANNELS:
            raise refuse(where, "a device without channels", UNCHANGED)
        for c in channels:
            role = ROLES.get(c["role"]) if isinstance(c["role"], str) else None
            words = all(isinstance(c[k], str) and len(c[k]) <= LONGEST_NAME for k in ("source", "name", "sensor"))
            offset = c["offset"]
            if role is None or not words or c["kind"] != (role.kind or "") or c["source"] in ("", "time_s"):
                raise refuse(where, "a channel that is nothing known", UNCHANGED)
            if isinstance(offset, bool) or not isinstance(offset, int | float) or not abs(offset) <= MOST_OFFSET:
                raise refuse(where, "an offset that is none", UNCHANGED)
            if set(c) != {"source", "role", "name", "kind", "sensor", "offset"}:
                raise refuse(where, "a channel that holds something else", UNCHANGED)
        if len({c["source"] for c in channels}) < len(channels):
            raise refuse(where, "a channel twice", UNCHANGED)
    return rows


def _samples(archive: zipfile.ZipFile, name: str, wanted: Sequence[str]) -> list[NDArray[np.float64]]:
    """The columns ``wanted`` of one file of samples, the first of them times. Raises ``Refused`` for what no run can hold."""
    try:
        with archive.open(name) as file:
            types = dict.fromkeys(wanted, pa.float64())
            table = pa.csv.read_csv(file, convert_options=pa.csv.ConvertOptions(column_types=types))
        columns = [table.column(c).to_numpy().astype(np.float64) for c in wanted]
    except (KeyError, pa.ArrowException, *_UNREADABLE) as error:
        raise refuse("file", f"{name} is missing or damaged", UNCHANGED) from error
    if any(np.any(np.abs(c) > LARGEST_NUMBER) for c in columns):
        raise refuse("file", f"{name} holds numbers no run can have", UNCHANGED)
    check_times(columns[0])
    return columns


def _member(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    """One file of the zip, refused where it is missing, damaged or larger than it may be."""
    try:
        if archive.getinfo(name).file_size > most:
            raise refuse("file", f"{name} is too large", f"up to {most // 1_000_000} MB")
        return archive.read(name)
    except Refused:
        raise
    except (KeyError, *_UNREADABLE) as error:
        raise refuse("file", f"{name} is missing or damaged", UNCHANGED) from error
