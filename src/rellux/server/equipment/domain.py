"""Equipment between the database and the core: what is fitted, and what a piece has gone through."""

from dataclasses import asdict

from django.db.models import Q, QuerySet
from django.utils import timezone

from rellux.core.calibration.certified import Certificate
from rellux.core.control.settings import Mode
from rellux.core.equipment.equipment import Equipment, EquipmentRole, Probe
from rellux.core.equipment.findings import Fitted, fitted_findings
from rellux.core.findings import Finding
from rellux.core.runs.wear import times_on
from rellux.server.answers.once import remembered
from rellux.server.api.shapes import as_json, of_plain
from rellux.server.calibration.models import Calibration
from rellux.server.guarding.models import Proof
from rellux.server.rigs.domain import choice_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run

from . import models
from .places import fitted_to


def piece(row: models.Equipment) -> Equipment:
    probe = of_plain(Probe, row.probe, "probe") if row.probe else None
    certificates = tuple(of_plain(Certificate, c, f"certificates[{i}]") for i, c in enumerate(row.certificates))
    return Equipment(row.name, EquipmentRole(row.role), row.note, probe, row.life, row.due, certificates)


def keep(row: models.Equipment, it: Equipment) -> None:
    """The row as the piece says; not saved."""
    row.name, row.role, row.note, row.life, row.due = it.name, it.role.value, it.note, it.life, it.due
    row.probe = asdict(it.probe) if it.probe else {}
    row.certificates = [as_json(c) for c in it.certificates]


def _while(row: models.Equipment, moment: str) -> Q:
    """Rows of a rig from while it was there, by the column that holds their moment."""
    found = Q(pk__in=())
    for one in row.stays.filter(rig__isnull=False):
        of = Q(rig=one.rig, **{f"{moment}__gte": one.since})
        found |= of & Q(**{f"{moment}__lt": one.until}) if one.until else of
    return found


def runs_with(row: models.Equipment) -> QuerySet[Run]:
    """Runs that were recorded while it was fitted."""
    return Run.objects.filter(_while(row, "started_at"), removed_at__isnull=True)


def compared_with(row: models.Equipment) -> QuerySet[Calibration]:
    """Comparisons of a sensor while it was fitted; those a reference was named in."""
    if row.role == EquipmentRole.REFERENCE:
        return Calibration.objects.filter(reference__iexact=row.name)
    return (
        Calibration.objects.filter(_while(row, "at"))
        if row.role == EquipmentRole.SENSOR
        else Calibration.objects.none()
    )


def proved_with(row: models.Equipment) -> QuerySet[Proof]:
    return Proof.objects.filter(_while(row, "at")) if row.role == EquipmentRole.LIMITER else Proof.objects.none()


def operations_of(row: models.Equipment) -> float:
    """How often a switch came on in all runs recorded with it."""
    if row.role != EquipmentRole.SWITCH:
        return 0.0
    return sum(_times_on(run.pk, run.samples) for run in runs_with(row))


@remembered(4096)
def _times_on(key: int, samples: int) -> float:
    run = Run.objects.get(pk=key)
    period = run.sheet.get("period_s") if run.sheet.get("mode") == Mode.PID else None
    times, stood = 0.0, 0.0
    for part in store.parts(run):
        more, stood = times_on(part, period, stood)  # type: ignore[arg-type]
        times += more
    return times


def equipment_findings(rig: Rig) -> list[Finding]:
    """What is wrong with what is fitted to a rig; nothing before its parts are chosen."""
    choice = choice_of(rig)
    if choice is None:
        return []
    fitted = [(role, s.equipment, s.equipment.life is not None) for role, s in fitted_to(rig).items()]
    known = {role: Fitted(piece(row), operations_of(row) if wears else 0.0) for role, row, wears in fitted}
    return list(fitted_findings(known, choice, rig.working_c, timezone.localdate()))
