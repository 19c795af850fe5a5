"""A comparison as it is asked for: what it was compared with, pairs, circumstances; and what follows from it."""

from dataclasses import dataclass, field
from typing import Any

from django.shortcuts import get_object_or_404
from django.utils import timezone

from rellux.core.calibration.belief import Circumstances
from rellux.core.calibration.certificates import HOTTEST_C, CertificateSays
from rellux.core.calibration.certified import CertifiedAt, certified
from rellux.core.calibration.offsets import KnownBefore, OffsetResult, OffsetRule, Pair, work_out
from rellux.core.calibration.references import ReferenceWorth, worth
from rellux.core.calibration.schools import SAYS, OffsetSchool
from rellux.core.equipment.equipment import EquipmentRole
from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.messages import temperature
from rellux.core.units import ABSOLUTE_ZERO_C
from rellux.server.equipment.domain import piece
from rellux.server.equipment.models import Equipment
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig

from .domain import known_before, offset_of, reference_from


@dataclass(frozen=True)
class PairInput:
    """``reference_c`` is left out where the reference has a temperature of its own."""

    display_c: float
    reference_c: float | None = None


@dataclass(frozen=True)
class OffsetInput:
    """Pairs and what the controller takes; differences in °C. ``school``, ``existing_c`` and ``resolution_c`` default to what is known
    of the controller; another school than its own is refused. What the reference is worth follows from ``compared_with``, the answers
    of its form, or from the certificates of ``instrument``, a reference of the workshop; else ``reference_u_c`` and the certificate's
    number are said here. ``at_c``: near which temperature they are compared, the working one by default."""

    pairs: list[PairInput]
    school: OffsetSchool | None = None
    existing_c: float | None = None
    resolution_c: float | None = None
    limit_c: float = 20.0
    setpoint_c: float | None = None
    display_digit_c: float = 0.1
    reference_u_c: float = 0.0
    certificate_c: float = 0.0
    certificate_says: CertificateSays | None = None
    compared_with: dict[str, Any] = field(default_factory=dict)
    instrument: int | None = None
    how: Circumstances = field(default_factory=Circumstances)
    at_c: float | None = None


@dataclass(frozen=True)
class Standard:
    """What it is compared with, worked out: its kind's worth, and what its certificates say where it is a piece of the workshop."""

    worth: ReferenceWorth | None
    certified: CertifiedAt | None


def near(rig: Rig, at_c: float | None) -> float:
    """Where it is compared, °C. Raises ``Refused`` for what is no temperature here."""
    if at_c is None:
        return rig.working_c
    if not ABSOLUTE_ZERO_C < at_c < HOTTEST_C:
        raise refuse("at_c", f"{temperature(at_c)} is not a temperature here", "{-273…2000 °C}")
    return at_c


def standard_of(rig: Rig, compared_with: dict[str, Any], instrument: int | None, at_c: float | None) -> Standard:
    """Raises ``Refused`` for answers that cannot be, and for certificates that do not reach where it is compared."""
    at = near(rig, at_c)
    found = worth(reference_from(compared_with), at, purpose_of(rig).ambient_c) if compared_with else None
    if instrument is None:
        return Standard(found, None)
    row = get_object_or_404(Equipment, pk=instrument, role=EquipmentRole.REFERENCE.value)
    return Standard(found, certified(piece(row).certificates, at, timezone.localdate()))


@dataclass(frozen=True)
class Comparison:
    """All of it: the rule, the pairs as they were taken, what was known before, and the result."""

    rule: OffsetRule
    pairs: tuple[Pair, ...]
    known: KnownBefore
    result: OffsetResult


def comparison(rig: Rig, given: OffsetInput) -> Comparison:
    """Raises ``Refused`` for what is missing, of another school, or cannot be."""
    if not rig.sensor:
        raise refuse("parts", "choose the parts first", "a sensor")
    known = offset_of(rig)
    if given.school is not None and given.school is not known.school and known.fixed_by:
        raise refuse(
            "school",
            f"this controller's offset is {SAYS[known.school]}, {known.fixed_by}: one of the other kind corrects the wrong way",
            f"{known.school.value}; if that is wrong, change it in Set-up first",
        )
    standard = standard_of(rig, given.compared_with, given.instrument, given.at_c)
    u, number, says = _reference(given, standard)
    rule = OffsetRule(
        given.school or known.school,
        known.offset_c if given.existing_c is None else given.existing_c,
        known.step_c if given.resolution_c is None else given.resolution_c,
        given.limit_c,
        given.setpoint_c,
        given.display_digit_c,
        u,
        number,
        says,
        given.how,
        known.correction.gain,
        known.correction.points,
    )
    pairs = _pairs(given, standard)
    before = known_before(rig)
    return Comparison(rule, pairs, before, work_out(pairs, rule, rig.sensor, before))


def _reference(given: OffsetInput, standard: Standard) -> tuple[float, float, CertificateSays | None]:
    """Standard uncertainty, the certificate's number and what it is."""
    if standard.certified:
        return standard.certified.u_c, standard.certified.added_c, CertificateSays.CORRECTION
    if standard.worth and standard.worth.u:
        return standard.worth.u.value, given.certificate_c, given.certificate_says
    return given.reference_u_c, given.certificate_c, given.certificate_says


def _pairs(given: OffsetInput, standard: Standard) -> tuple[Pair, ...]:
    own = standard.worth.value.value if standard.worth and standard.worth.value else None
    refuse_all(
        Problem(f"pairs[{i}].reference_c", "what the reference showed is missing", "a temperature")
        for i, p in enumerate(given.pairs)
        if p.reference_c is None and own is None
    )
    found = []
    for p in given.pairs:
        reference = p.reference_c if p.reference_c is not None else own
        assert reference is not None
        found.append(Pair(p.display_c, reference))
    return tuple(found)
