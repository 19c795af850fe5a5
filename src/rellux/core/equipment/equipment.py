"""One piece of equipment: what it is, and of a probe what decides how it may be used."""

import re
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from ..calibration.certified import Certificate, check_certificates
from ..errors import Problem, refuse, refuse_all
from ..heating.wire import ohm_per_metre
from ..messages import quantity
from ..sensing.choosing import Build, Junction, Medium, response_s, thickness_limit
from ..sensing.sensors import NAMES, NOMINAL_OHM, PT100, describe, is_thermocouple

LONGEST_NAME, LONGEST_NOTE = 40, 400
"""Letters of a name, as it is printed on its label; of a remark."""
SHEATH_MM, LENGTH_MM = (0.25, 50.0), (3.0, 5000.0)
"""Diameters and lengths probes have (our choice: a slip of unit is asked back)."""
LEAD_M, LEAD_MM2 = (0.0, 500.0), (0.01, 6.0)
"""Length and conductor of a lead (our choice)."""
LIFE = (1e3, 1e9)
"""Operations a switch is made for, from a loaded contact to a bare mechanism (common practice, no source)."""
LEAD_C = 25.0
"""What a lead's copper is taken at, °C."""


class EquipmentRole(StrEnum):
    """What it is used as. A reference is compared with and never fitted."""

    SENSOR = "sensor"
    LIMITER = "limiter"
    CONTROLLER = "controller"
    SWITCH = "switch"
    REFERENCE = "reference"


ROLES = {
    EquipmentRole.SENSOR: "Sensor",
    EquipmentRole.LIMITER: "Limiter",
    EquipmentRole.CONTROLLER: "Controller",
    EquipmentRole.SWITCH: "Switch",
    EquipmentRole.REFERENCE: "Reference",
}
JUNCTIONS = {
    Junction.UNGROUNDED: "Insulated from the sheath",
    Junction.GROUNDED: "Welded to the sheath",
    Junction.EXPOSED: "Bare, without sheath over it",
}
FITTED = (EquipmentRole.SENSOR, EquipmentRole.CONTROLLER, EquipmentRole.SWITCH, EquipmentRole.LIMITER)
"""Roles there is one place for in a rig, in the order they are shown."""


@dataclass(frozen=True)
class Probe:
    """A sensor as it lies in the hand. ``leads``: wires of one element; ``elements``: how many are in one sheath; sheath and the
    length that goes in, in mm; its own lead in m and mm². None: not measured."""

    sensor: str
    leads: int = 2
    elements: int = 1
    junction: Junction = Junction.UNGROUNDED
    sheath_mm: float | None = None
    length_mm: float | None = None
    lead_m: float | None = None
    lead_mm2: float | None = None

    @property
    def loop_ohm(self) -> float | None:
        """Resistance of both wires of its lead, copper, Ω."""
        if self.lead_m is None or self.lead_mm2 is None:
            return None
        return 2.0 * self.lead_m * ohm_per_metre("", self.lead_mm2, LEAD_C)

    @property
    def stands_c(self) -> float | None:
        """The hottest it stands for good by its thickness, °C; None where that is not known or does not decide."""
        return thickness_limit(self.sensor, Build.PROBE, self.sheath_mm) if self.sheath_mm else None

    @property
    def follows_s(self) -> float | None:
        """In so long it has gone 63 % of a step in moved air, s; None where its thickness is not known."""
        return response_s(self.sheath_mm, Medium.MOVED_AIR, self.junction) if self.sheath_mm else None


@dataclass(frozen=True)
class Equipment:
    """``name``: what stands on its label. ``life``: operations a switch is made for at its load. ``due``: when its certificate or check is
    to be renewed. ``certificates``: of a reference, in any order."""

    name: str
    role: EquipmentRole
    note: str = ""
    probe: Probe | None = None
    life: float | None = None
    due: date | None = None
    certificates: tuple[Certificate, ...] = ()

    @property
    def says(self) -> str:
        """What it is, in a few words."""
        if self.probe is None:
            return ROLES[self.role]
        wires = f", {self.probe.leads} wires" if self.probe.sensor in NOMINAL_OHM else ""
        pair = ", double" if self.probe.elements > 1 else ""
        size = f", {quantity(self.probe.sheath_mm, 'mm')}" if self.probe.sheath_mm else ""
        return f"{describe(self.probe.sensor)}{wires}{pair}{size}"


def check_equipment(it: Equipment, today: date) -> None:
    """Raise ``Refused`` with every field that cannot be."""
    problems = []
    if not 1 <= len(it.name) <= LONGEST_NAME or not re.search(r"\w", it.name):
        problems.append(
            Problem(
                "name", "it needs a name with letters or digits in it, as on its label", f"1…{LONGEST_NAME} characters"
            )
        )
    if len(it.note) > LONGEST_NOTE:
        problems.append(Problem("note", "that is too long", f"up to {LONGEST_NOTE} characters"))
    if it.role is EquipmentRole.SENSOR and it.probe is None:
        problems.append(Problem("probe", "say which sensor it is", ", ".join(NAMES)))
    if it.probe is not None and it.role not in (EquipmentRole.SENSOR, EquipmentRole.REFERENCE):
        problems.append(Problem("probe", f"a {ROLES[it.role].lower()} is no probe", "left out"))
    if it.life is not None and it.role is not EquipmentRole.SWITCH:
        problems.append(Problem("life", "only a switch wears by operations", "left out"))
    problems += _outside("life", it.life, LIFE, "", "operations a switch is made for")
    if it.certificates and it.role is not EquipmentRole.REFERENCE:
        problems.append(Problem("certificates", f"a {ROLES[it.role].lower()} is no reference", "left out"))
    refuse_all([*problems, *(_probe_problems(it.probe) if it.probe else [])])
    check_certificates(it.certificates, today)


def _outside(name: str, value: float | None, span: tuple[float, float], unit: str, what: str) -> list[Problem]:
    low, high = span
    if value is None or low <= value <= high:
        return []
    accepted = f"{low:g}…{high:g} {unit}".rstrip()
    return [Problem(name, f"{value:g} is not {what}", accepted)]


def _probe_problems(p: Probe) -> list[Problem]:
    if p.sensor not in NAMES:
        return [Problem("probe.sensor", f"{p.sensor!r} is not a sensor this version knows", ", ".join(NAMES))]
    found = [
        *_outside("probe.sheath_mm", p.sheath_mm, SHEATH_MM, "mm", "the diameter of a probe"),
        *_outside("probe.length_mm", p.length_mm, LENGTH_MM, "mm", "the length of a probe"),
        *_outside("probe.lead_m", p.lead_m, LEAD_M, "m", "the length of a lead"),
        *_outside("probe.lead_mm2", p.lead_mm2, LEAD_MM2, "mm²", "the conductor of a lead"),
    ]
    may = leads_of(p.sensor)
    if p.leads not in may:
        found.append(
            Problem("probe.leads", f"a {describe(p.sensor)} has not {p.leads} wires", " or ".join(map(str, may)))
        )
    if p.elements not in (1, 2):
        found.append(Problem("probe.elements", f"{p.elements} elements in one sheath", "1 or 2"))
    if p.junction not in junctions_of(p.sensor):
        reason = "only a thermocouple can be welded to its sheath: an element of resistance would be shorted by it"
        found.append(Problem("probe.junction", reason, "ungrounded or exposed"))
    return found


@dataclass(frozen=True)
class ProbeKind:
    """What probes of a sensor can have: wires of one element, the usual number first, and junctions."""

    sensor: str
    leads: tuple[int, ...]
    junctions: tuple[Junction, ...]


def leads_of(sensor: str) -> tuple[int, ...]:
    """Wires one element can have, the usual number first: three make up for a Pt100's lead, a Pt1000 hardly needs them."""
    if sensor not in NOMINAL_OHM:
        return (2,)
    return (3, 2, 4) if sensor == PT100 else (2, 3, 4)


def junctions_of(sensor: str) -> tuple[Junction, ...]:
    """A resistance would be shorted by the sheath it is welded to."""
    return tuple(j for j in Junction if is_thermocouple(sensor) or j is not Junction.GROUNDED)


def probe_kinds() -> tuple[ProbeKind, ...]:
    return tuple(ProbeKind(name, leads_of(name), junctions_of(name)) for name in NAMES)


def check_same_piece(before: Equipment, after: Equipment) -> None:
    """Raise ``Refused`` for what makes another piece of one that has a record: another role, another sensor."""
    if after.role is not before.role:
        raise refuse("role", f"it was fitted as a {before.role.value}", before.role.value)
    if after.probe and before.probe and after.probe.sensor != before.probe.sensor:
        reason = "it was fitted as another: another sensor is another piece"
        raise refuse("probe.sensor", reason, before.probe.sensor)


def changed(before: Equipment, after: Equipment) -> str:
    """What of a piece was changed, for its record."""
    pairs = {
        "Name": (before.name, after.name),
        "What it is": (before.says, after.says),
        "Note": (before.note, after.note),
        "Life": (f"{before.life:g}" if before.life else "", f"{after.life:g}" if after.life else ""),
        "Certificate until": (before.due, after.due),
        "Certificates": (_dated(before), _dated(after)),
    }
    said = [f"{what}: {old or '—'} → {new or '—'}" for what, (old, new) in pairs.items() if old != new]
    return "; ".join(said) or "Details changed"


def _dated(it: Equipment) -> str:
    """The days of its certificates."""
    return ", ".join(f"{c.dated}" for c in sorted(it.certificates, key=lambda c: c.dated))
