"""One rig, one file: a zip of JSON and CSV. The format is described in docs/rig-file.md; ``unpack`` reads it."""

import json
import zipfile
from collections.abc import Iterator
from datetime import datetime
from typing import Any

from django.db import models

from rellux.server.api.pieces import Pieces
from rellux.server.calibration.models import Calibration, CalibrationPlan
from rellux.server.equipment.filed import described
from rellux.server.guarding.models import GuardPlan, Proof
from rellux.server.menus.models import RigController
from rellux.server.profiles.models import ProfileVersion
from rellux.server.proving.models import ProvedStage, ProvedStep
from rellux.server.questions.models import Kept
from rellux.server.runs.export import own_rows
from rellux.server.setup.models import Sheet
from rellux.server.wiring.models import Accepted, BuiltWire, FittedPart, Wire

from .domain import PARTS_FIELDS, PURPOSE_FIELDS
from .models import Entry, Rig

FORMAT, VERSION = "rellux-rig", 1

KEPT: tuple[tuple[str, type[models.Model], tuple[str, ...]], ...] = (
    ("parts", FittedPart, ("name", "kind", "ratings", "title", "numbers")),
    (
        "wires",
        Wire,
        ("number", "a", "b", "circuit", "area_mm2", "colour", "length_m", "insulation", "route"),
    ),
    ("built", BuiltWire, ("number", "a", "b", "area_mm2", "colour", "at")),
    ("accepted", Accepted, ("rule", "subjects", "reason", "who", "at")),
    ("kept", Kept, ("question", "values", "at")),
    ("sheets", Sheet, ("at", "kind", "values", "why", "walked", "who")),
    ("guard_plans", GuardPlan, ("at", "plan", "why")),
    (
        "controllers",
        RigController,
        ("at", "key", "description", "found", "wanted", "began", "done", "block", "fresh", "why"),
    ),
    (
        "profiles",
        ProfileVersion,
        ("key", "number", "name", "at", "who", "kind", "inputs", "profile", "why", "removed_at"),
    ),
    ("proofs", Proof, ("at", "who", "plan", "terminals_c", "by_heat", "observed", "passed", "says")),
    (
        "proved_steps",
        ProvedStep,
        ("at", "who", "key", "stage", "title", "verdict", "says", "seen", "number", "room_c", "cites", "why"),
    ),
    ("proved_stages", ProvedStage, ("at", "who", "stage", "steps", "why")),
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
            "compared_with",
            "scatter_before",
            "allowed_c",
            "guard",
        ),
    ),
    ("calibration_plans", CalibrationPlan, ("at", "who", "interval", "days", "allowed_c", "guard", "hot_c", "why")),
    ("entries", Entry, ("at", "who", "station", "title", "why", "before", "after")),
)
RIG = ("name", "kind", *PURPOSE_FIELDS, *PARTS_FIELDS, "circuit", "programme_forms", "created_at", "rewired_at")
RUN = ("name", "source", "status", "started_at", "sheet", "samples", "length_s", "peak_c", "programme")
TRACK = ("device", "channels", "interval_s", "samples")
IDENTIFICATION = (
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
RELAY_TEST = (
    "who",
    "begun_at",
    "driven",
    "before",
    "standing",
    "said",
    "is_off",
    "swing",
    "start_s",
    "end_s",
)


def _row(item: models.Model, names: tuple[str, ...]) -> dict[str, Any]:
    return {n: _plain(getattr(item, n)) for n in names}


def _plain(value: Any) -> Any:
    return value.isoformat() if isinstance(value, datetime) else value


def describe(rig: Rig) -> dict[str, Any]:
    """Everything of a rig but the samples, as plain data. Runs are numbered from 1 in order of time."""
    runs = list(rig.runs.filter(removed_at__isnull=True).order_by("started_at", "pk"))
    number = {run.pk: i for i, run in enumerate(runs, 1)}
    found: dict[str, Any] = {"rig": _row(rig, RIG)}
    for key, model, names in KEPT:
        found[key] = [_row(item, names) for item in model._default_manager.filter(rig=rig).order_by("pk")]
    found["equipment"] = described(rig)
    found["photos"] = [_row(p, ("terminal", "kind", "at")) for p in rig.photos.order_by("pk").defer("image")]
    found["runs"] = [
        {
            "number": number[run.pk],
            **_row(run, RUN),
            "events": [_row(e, ("time_s", "kind", "text")) for e in run.events.all()],
            "tracks": [_row(t, TRACK) for t in run.tracks.all()],
        }
        for run in runs
    ]
    found["identifications"] = [
        {"run": number.get(i.run_id or 0), **_row(i, IDENTIFICATION)} for i in rig.identifications.order_by("pk")
    ]
    found["relay_tests"] = [
        {"run": number.get(t.run_id or 0), **_row(t, RELAY_TEST)} for t in rig.relay_tests.order_by("pk")
    ]
    return found


def write(rig: Rig) -> Iterator[bytes]:
    """The zip, in pieces as it is made."""
    buffer = Pieces()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive:
        archive.writestr("rellux.json", json.dumps({"format": FORMAT, "version": VERSION}, indent=1))
        archive.writestr("rig.json", json.dumps(describe(rig), indent=1, ensure_ascii=False))
        yield buffer.take()
        for i, photo in enumerate(rig.photos.order_by("pk").iterator(), 1):
            archive.writestr(f"photos/{i}", bytes(photo.image))
            yield buffer.take()
        runs = rig.runs.filter(removed_at__isnull=True).order_by("started_at", "pk")
        for i, run in enumerate(runs, 1):
            named = [(f"runs/{i}.csv", run), *((f"runs/{i}-{k}.csv", t) for k, t in enumerate(run.tracks.all(), 1))]
            for name, held in named:
                with archive.open(name, "w") as file:
                    for count, row in enumerate(own_rows(held)):
                        file.write(row.encode())
                        if count % 5000 == 0:
                            yield buffer.take()
    yield buffer.take()
