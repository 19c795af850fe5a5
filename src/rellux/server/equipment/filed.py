"""Equipment in a rig's file: which pieces were in it, and when."""

from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any

from django.utils import timezone

from rellux.core.calibration.certified import Certificate
from rellux.core.equipment.equipment import LONGEST_NAME, Equipment, EquipmentRole, Probe, check_equipment
from rellux.core.errors import refuse
from rellux.server.api.shapes import as_json, of_plain
from rellux.server.rigs.models import Rig

from . import models
from .domain import keep, piece


@dataclass(frozen=True)
class Filed:
    """A piece as it is, and one of its stays."""

    name: str
    role: EquipmentRole
    since: datetime
    note: str = ""
    probe: Probe | None = None
    life: float | None = None
    due: date | None = None
    until: datetime | None = None
    certificates: list[Certificate] = field(default_factory=list)


def described(rig: Rig) -> list[dict[str, Any]]:
    rows = []
    for s in models.Stay.objects.filter(rig=rig).select_related("equipment"):
        it = piece(s.equipment)
        filed = Filed(it.name, it.role, s.since, it.note, it.probe, it.life, it.due, s.until, list(it.certificates))
        plain: dict[str, Any] = as_json(filed)
        rows.append(plain)
    return rows


def bring_in(rig: Rig, rows: list[dict[str, Any]]) -> None:
    """The stays of a file. A piece this workshop knows is the same where role and sensor are; one that was elsewhere then stays there, as
    in the double of a rig. One that only has the same name comes in under another. Raises ``Refused`` for what cannot be."""
    now = timezone.now()
    for i, plain in enumerate(rows):
        row = of_plain(Filed, plain, f"equipment[{i}]")
        it = Equipment(row.name, row.role, row.note, row.probe, row.life, row.due, tuple(row.certificates))
        check_equipment(it, timezone.localdate())
        if row.since > now or (row.until is not None and not row.since <= row.until <= now):
            raise refuse(
                f"equipment[{i}].since", "that stay ends before it begins, or has not been", "a time that has passed"
            )
        known = _known(it) or _new(it, rig)
        _stay(known, rig, row)


def _known(it: Equipment) -> models.Equipment | None:
    found = models.Equipment.objects.filter(name__iexact=it.name).first()
    if found is None:
        return None
    mine = piece(found)
    same_sensor = (mine.probe and mine.probe.sensor) == (it.probe and it.probe.sensor)
    return found if mine.role is it.role and same_sensor else None


def _new(it: Equipment, rig: Rig) -> models.Equipment:
    taken = {n.casefold() for n in models.Equipment.objects.values_list("name", flat=True)}
    names = (it.name if n == 1 else f"{it.name[: LONGEST_NAME - 5]} ({n})" for n in range(1, len(taken) + 3))
    row = models.Equipment()
    keep(row, replace(it, name=next(n for n in names if n.casefold() not in taken)))
    row.save()
    models.Remark.objects.create(equipment=row, at=timezone.now(), who="", text=f"Came with the file of {rig.name}")
    return row


def _stay(known: models.Equipment, rig: Rig, row: Filed) -> None:
    lost = known.stays.filter(rig=None, rig_name=rig.name, since=row.since).first()
    if lost is not None:  # of this rig, before it was removed
        lost.rig = rig
        lost.save()
        return
    ends = row.until or timezone.now()
    for other in known.stays.all():
        if other.since < ends and (other.until is None or row.since < other.until):
            return
    here = models.Stay.objects.filter(rig=rig, until__isnull=True, equipment__role=known.role).exists()
    if row.until is not None or not here:
        models.Stay.objects.create(equipment=known, rig=rig, rig_name=rig.name, since=row.since, until=row.until)
