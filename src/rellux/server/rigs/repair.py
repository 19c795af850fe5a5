"""Mending a rig that cannot be read: what cannot be is left out, row by row where that is enough, and a whole copy of it is kept.

It goes the way of a rig file, so that the same checks say what can be read.
"""

import io
import json
import zipfile
from typing import Any

from django.db import transaction

from rellux.core.errors import Refused
from rellux.core.spine import Station
from rellux.server.accounts.models import User
from rellux.server.equipment.models import Stay
from rellux.server.links.models import Instrument, Link
from rellux.server.zones.domain import follow_or_part
from rellux.server.zones.models import ChamberZone

from . import archive, unpack
from .change import note
from .keeping import keep_copy
from .models import Rig

MOST_STEPS = 300
SAID = {
    "kept": "kept answers",
    "accepted": "accepted findings",
    "built": "ticks of what is built",
    "photos": "photographs",
    "identifications": "identified processes",
    "relay_tests": "relay tests",
    "proofs": "proofs that guards act",
    "proved_steps": "steps of proving",
    "proved_stages": "names under stages of proving",
    "profiles": "profiles",
    "guard_plans": "plans of what guards it",
    "calibrations": "calibrations",
    "calibration_plans": "calibration plans",
    "entries": "lines of the book",
    "sheets": "parameter sheets",
    "runs": "runs",
    "wires": "wires",
    "parts": "parts of the wiring",
}
"""What can be left out, the more easily replaced first."""
BASE: dict[str, Any] = {
    "kind": "oven",
    "working_c": 60.0,
    "lowest_c": None,
    "lowest_reason": "",
    "highest_c": 80.0,
    "highest_reason": "to be said again: it could not be read",
    "ambient_c": 21.0,
    "supply": "single_phase",
    "supply_voltage_v": 230.0,
    "frequency_hz": 50.0,
    "effect": "heats",
    "heater_power_w": 500.0,
    "heater_voltage_v": 230.0,
    "materials": [],
    "fire": {},
    "cooler": {},
    "controls": {},
    "own_mains": {},
    "heater_sensor": {},
}
"""A cool and small rig, where the purpose itself cannot be read."""
NO_PARTS = {
    "sensor": "",
    "output": "",
    "actuator": "",
    "limiter": False,
    "practice": "iec",
    "plug_a": None,
    "circuit": "parts",
    "programme_forms": {},
}


class _Trial(Exception):  # noqa: N818 - only to roll back
    """The rig could be read; nothing of the trial is kept."""


def repair(rig: Rig, by: User) -> tuple[Rig, list[str]]:
    """The rig as far as it can be read, under its own address and with its link, and what was left out."""
    copy = b"".join(archive.write(rig))
    mended, left_out = mend(copy)
    slug = rig.slug
    with transaction.atomic():
        kept_as = keep_copy(slug, [copy])
        fresh = unpack.read(io.BytesIO(mended), lambda _name: f"{slug[:50]}-mended")
        for kind in (Link, Instrument, Stay, ChamberZone):
            kind.objects.filter(rig=rig).update(rig=fresh)
        rig.delete()
        fresh.slug, fresh.revision = slug, rig.revision + 1
        fresh.save()
        follow_or_part(fresh)
        text = "; ".join(left_out) or "nothing had to be left out"
        note(
            fresh,
            by,
            Station.BOOK,
            "Repaired: what could not be read was left out",
            why=f"{text}. Before: {kept_as}"[:400],
        )
    unpack.forget()
    return fresh, left_out


def mend(copy: bytes) -> tuple[bytes, list[str]]:
    """A rig file that can be read, and what of the other one is not in it. Raises ``Refused`` where nothing helps."""
    with zipfile.ZipFile(io.BytesIO(copy)) as file:
        data = json.loads(file.read("rig.json"))
    left_out: list[str] = []
    for _ in range(MOST_STEPS):
        tried = _light(data)
        problem = _problem(copy, tried)
        if problem is None:
            tried = data
            problem = _problem(copy, data)
        if problem is None:
            return _with(copy, data), left_out
        change, words = _least(copy, tried, problem)
        data |= change
        left_out.append(words)
    raise problem


def _light(data: dict[str, Any]) -> dict[str, Any]:
    """All but what takes long to read."""
    return {**data, "runs": [], "photos": []}


def _problem(copy: bytes, data: dict[str, Any]) -> Refused | None:
    """Why a rig cannot be read, if it cannot; nothing is kept of trying."""
    try:
        with transaction.atomic():
            unpack.read(io.BytesIO(_with(copy, data)), lambda _name: "being-mended")
            raise _Trial
    except _Trial:
        unpack.forget()
        return None
    except Refused as refused:
        return refused


def _least(copy: bytes, data: dict[str, Any], problem: Refused) -> tuple[dict[str, Any], str]:
    """The least to be left out that may be the cause, as a change of ``data``, and in words."""
    field = problem.problems[0].field
    section, _, rest = field.partition("[")
    bad = _row_at(data.get(section), section, rest.partition("]")[0]) if section in SAID else None
    if bad is not None:
        called = next((bad[k] for k in ("name", "title", "number", "reference", "at") if bad.get(k)), "")
        return {section: [r for r in data[section] if r is not bad]}, f"{SAID[section]}: {called}"
    rig = data["rig"]
    changes: list[tuple[dict[str, Any], str]] = [
        *(({section: []}, f"all {SAID[section]}") for section in SAID if data.get(section)),
        ({"rig": {**rig, **NO_PARTS}}, "the choice of parts"),
        ({"rig": {**rig, **BASE}}, "the purpose, which must be entered anew"),
    ]
    if field.removeprefix("rig.") in BASE:
        return changes[-1]
    if field.removeprefix("rig.") in NO_PARTS:
        return changes[-2]
    left = [c for c in changes if c[0].get("rig", None) != rig]
    for change, words in left:  # nobody says where it is: that without which the rest can be read
        if _problem(copy, {**data, **change}) is None:
            return change, words
    if not left:
        raise problem
    return left[0]


def _row_at(rows: Any, section: str, place: str) -> dict[str, Any] | None:
    """The row a refusal names: by its place from 0, a run by its number."""
    if not isinstance(rows, list) or not place.isdecimal():
        return None
    if section == "runs":
        return next((r for r in rows if r.get("number") == int(place)), None)
    return rows[int(place)] if int(place) < len(rows) else None


def _with(copy: bytes, data: dict[str, Any]) -> bytes:
    """The zip with another ``rig.json``, without the files of what is left out. Photographs are numbered by their place."""
    kept = {"rellux.json"}
    for r in data["runs"]:
        tracks = range(1, len(r.get("tracks") or ()) + 1)
        kept |= {f"runs/{r.get('number')}.csv", *(f"runs/{r.get('number')}-{k}.csv" for k in tracks)}
    made = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(copy)) as old,
        zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as new,
    ):
        for name in old.namelist():
            if name in kept or (name.startswith("photos/") and data["photos"]):
                new.writestr(name, old.read(name))
        new.writestr("rig.json", json.dumps(data))
    return made.getvalue()
