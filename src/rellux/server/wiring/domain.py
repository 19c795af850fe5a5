"""Connection lists between the database and the core."""

from dataclasses import asdict
from datetime import datetime

from rellux.core.findings import Finding, worst_first
from rellux.core.guarding.wired import contact_findings, wired_in
from rellux.core.heating.conductor_tables import Practice
from rellux.core.questions.wall.chamber import reaches
from rellux.core.wiring.circuit.faults import Analysis, analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.positions import Position, table
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.drawing import CircuitDrawing, drawings
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part
from rellux.core.wiring.rules import Context, check, context_for
from rellux.core.wiring.staleness import for_purpose, stale, voided
from rellux.core.wiring.usual_circuits import starting_point
from rellux.server.answers.once import remembered
from rellux.server.guarding.stored import plan_of
from rellux.server.questions.domain import known_of
from rellux.server.rigs.domain import choice_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.setup.domain import current_values

from .models import FittedPart, Wire


def connection_list(rig: Rig) -> ConnectionList:
    """The rig's list as it stands in the database."""
    return ConnectionList(
        tuple(Part(p.name, PART_TYPES[p.kind], p.ratings, p.title, p.numbers) for p in rig.parts.all()),
        tuple(
            Connection(w.number, w.a, w.b, Circuit(w.circuit), w.area_mm2, w.colour, w.length_m, w.insulation, w.route)
            for w in rig.wires.all()
        ),
    )


def store(rig: Rig, wiring: ConnectionList) -> None:
    """Replace the rig's list by this one."""
    rig.wires.all().delete()
    rig.parts.all().delete()
    FittedPart.objects.bulk_create(
        FittedPart(rig=rig, name=p.name, kind=p.type.kind, ratings=p.ratings, title=p.title, numbers=p.numbers)
        for p in wiring.parts
    )
    Wire.objects.bulk_create(Wire(rig=rig, **{**asdict(c), "circuit": c.circuit.value}) for c in wiring.connections)


def positions_of(rig: Rig) -> list[Position]:
    """The rig's circuit solved in every position that matters; once a revision."""
    return _positions(rig.pk, rig.created_at, rig.revision)


@remembered(32, lasts=True)
def _positions(key: int, created_at: datetime, revision: int) -> list[Position]:
    rig = Rig.objects.get(pk=key)
    return table(CircuitSolver(connection_list(rig), purpose_of(rig).control_voltage_v))


def drawings_of(rig: Rig) -> tuple[CircuitDrawing, ...]:
    """How the rig's list is drawn; once a revision."""
    return _drawings(rig.pk, rig.created_at, rig.revision)


@remembered(32, lasts=True)
def _drawings(key: int, created_at: datetime, revision: int) -> tuple[CircuitDrawing, ...]:
    return drawings(connection_list(Rig.objects.get(pk=key)))


def faults_of(rig: Rig) -> Analysis:
    """Every single failure of the rig, judged against what its chamber and materials stand where that is known; once a
    revision."""
    return _faults(rig.pk, rig.created_at, rig.revision)


@remembered(32, lasts=True)
def _faults(key: int, created_at: datetime, revision: int) -> Analysis:
    rig = Rig.objects.get(pk=key)
    return analyse(CircuitSolver(connection_list(rig), purpose_of(rig).control_voltage_v), reaches(known_of(rig)))


def context_of(rig: Rig) -> Context:
    input_type = str(current_values(rig).get("input_type") or rig.sensor)
    return context_for(purpose_of(rig), Practice(rig.practice), input_type)


def every_finding(rig: Rig) -> tuple[Finding, ...]:
    """What the rules and the solved circuit say about the list, and whether it still belongs to the chosen parts; once a
    revision."""
    identified = rig.identifications.values_list("pk", flat=True).first()
    return _every_finding(rig.pk, rig.created_at, rig.revision, identified)


@remembered(64, lasts=True)
def _every_finding(key: int, created_at: datetime, revision: int, identified: int | None) -> tuple[Finding, ...]:
    rig = Rig.objects.get(pk=key)
    if not rig.parts.exists():
        return ()
    wiring = connection_list(rig)
    circuit = CircuitSolver(wiring, purpose_of(rig).control_voltage_v)
    solved = circuit_findings(circuit, faults_of(rig))
    plan = plan_of(rig)
    alarms = contact_findings(plan, wired_in(wiring)) if plan else []
    rules = check(wiring, context_of(rig), circuit)
    return tuple(worst_first([*rules, *solved, *_stale(rig, wiring), *alarms, *_voided(rig)]))


def wiring_findings(rig: Rig) -> list[Finding]:
    """All but those somebody has accepted with a reason."""
    lived_with = {(a.rule, tuple(a.subjects)) for a in rig.accepted.all()}
    return [f for f in every_finding(rig) if (f.rule, f.subjects) not in lived_with]


def _voided(rig: Rig) -> list[Finding]:
    """What was measured before the wiring was last changed."""
    if rig.rewired_at is None:
        return []
    calibration = rig.calibrations.order_by("-at").first()
    tuned = rig.identifications.filter(accepted_at__isnull=False).order_by("-accepted_at").first()
    found = (("the calibration", calibration and calibration.at), ("the tuning", tuned and tuned.accepted_at))
    return voided([words for words, at in found if at is not None and at < rig.rewired_at])


def _stale(rig: Rig, wiring: ConnectionList) -> list[Finding]:
    choice = choice_of(rig)
    return stale(wiring, purpose_of(rig), choice, starting_point(rig.circuit)) if choice else []


def follow_purpose(rig: Rig) -> None:
    """After the purpose changed: the wired heaters and supplies carry the new ratings."""
    rows = list(rig.parts.all())
    for row, part in zip(rows, for_purpose(connection_list(rig).parts, purpose_of(rig)), strict=True):
        if row.ratings != part.ratings:
            row.ratings = part.ratings
            row.save()


def forget() -> None:
    """Drop what was worked out for rigs by their keys."""
    for worked_out in (_positions, _drawings, _faults, _every_finding):
        worked_out.cache_clear()
