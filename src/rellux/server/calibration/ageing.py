"""What ages a rig's sensor beside the calendar, from the database: hours it was hot in recorded runs, and what sensors like it did."""

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime, timedelta

import numpy as np
from django.db.models import QuerySet
from django.utils import timezone

from rellux.core.calibration.alike import Alike, alike, are_alike
from rellux.core.calibration.by_use import LATELY_DAYS, HotUse, hot_above
from rellux.core.calibration.certificates import NEARBY_C
from rellux.core.calibration.drift import Aged
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.runs.wear import hours_above
from rellux.server.answers.once import remembered
from rellux.server.equipment.domain import runs_with
from rellux.server.equipment.models import Stay
from rellux.server.equipment.places import place_of
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run

from .models import Calibration
from .reading import compared_as, day_of, spread_of

AN_HOUR = 3600
"""Of a run that is being recorded so many more samples are looked at together."""


def hot_use(rig: Rig, compared: Iterable[datetime], hot_c: float | None) -> HotUse:
    """From the runs recorded with the sensor in place; a comparison in the middle of a run takes its share of that run's hours."""
    at = list(compared)
    purpose, now = purpose_of(rig), timezone.now()
    hot = hot_above(purpose.ambient_c, rig.working_c) if hot_c is None else hot_c
    spans = [(run.started_at, timedelta(seconds=run.length_s), _hours(run.pk, _key(run), hot)) for run in _runs(rig)]

    def until(moment: datetime) -> float:
        return sum(h * min(max((moment - start) / took, 0.0), 1.0) for start, took, h in spans if took)

    ever = until(now)
    lately = ever - until(now - timedelta(days=LATELY_DAYS))
    hours = np.array([until(moment) for moment in at])
    return HotUse(hot, hours, ever - float(hours[-1]), day_of(now) - day_of(at[-1]), lately / LATELY_DAYS)


def _runs(rig: Rig) -> QuerySet[Run]:
    place = place_of(rig, EquipmentRole.SENSOR)
    runs = runs_with(place.equipment) if place else rig.runs.filter(removed_at__isnull=True)
    return runs.exclude(source=Run.Source.SIMULATED)


def _key(run: Run) -> int:
    return run.samples // AN_HOUR if run.status == Run.Status.RECORDING else -run.samples


@remembered(8192)
def _hours(run: int, samples: int, hot_c: float) -> float:
    return sum(hours_above(part, hot_c) for part in store.parts(Run.objects.get(pk=run)))  # type: ignore[arg-type]


def sensors_alike(rig: Rig, allowed_c: float | None, left_c: float, expanded_c: float) -> Alike | None:
    """What other sensors of its type did near its working temperature, in whatever rig of the workshop they were."""
    stays = list(Stay.objects.filter(equipment__role=EquipmentRole.SENSOR.value))
    place = place_of(rig, EquipmentRole.SENSOR)
    own = _sensor(place.equipment_id if place else None, rig.pk)
    records: dict[str, list[Aged]] = defaultdict(list)
    for c in Calibration.objects.filter(sensor=rig.sensor).order_by("at", "pk"):
        it = compared_as(c)
        if spread_of(c) > NEARBY_C or not are_alike(rig.sensor, rig.working_c, c.sensor, it.near_c):
            continue
        there = [s for s in stays if s.rig_id == c.rig_id and s.since <= c.at and (s.until is None or c.at < s.until)]
        key = _sensor(there[0].equipment_id if there else None, c.rig_id)
        if key != own:
            records[key].append(Aged(day_of(c.at), it.reads_high_c, it.uncertainty_c))
    return alike([tuple(r) for r in records.values()], allowed_c, left_c, expanded_c)


def _sensor(piece: int | None, rig: int) -> str:
    """Which sensor it is: a piece of the workshop, or the one of a rig that nobody named."""
    return f"piece {piece}" if piece else f"rig {rig}"
