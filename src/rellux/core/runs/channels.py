"""What is measured beside the control reading, the set-point and the output: a second probe, the limiter, the load, current, the door.

A channel has a role, which says its quantity. What a device offers is guessed by the names of its values and corrected by hand.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import Problem, refuse_all
from ..messages import quantity
from ..units import UNIT, Kind

LONGEST_NAME = 60
MOST_OFFSET = 100.0
"""What may be added to what a device shows, in its unit, either way: more is another sensor, not an offset (our choice)."""


@dataclass(frozen=True)
class Role:
    """What a channel measures: its words, its quantity (``None``: a state, 0 or 1), and the live value that is it without saying."""

    key: str
    words: str
    kind: Kind | None
    source: str


COOLER, COOLING = "cooler", "cooling"
"""What tells whether a cooler beside a heater is on, and what a device calls it; a rig without one has no such channel."""
HEATER, HEATER_C = "heater", "heater_c"
"""A second sensor at the heater; a rig without one has no such channel."""
ROLES = {
    role.key: role
    for role in (
        Role("second", "second probe", Kind.TEMPERATURE, "second_c"),
        Role("limiter", "limiter's reading", Kind.TEMPERATURE, "limiter_c"),
        Role("load", "load's temperature", Kind.TEMPERATURE, "load_c"),
        Role(HEATER, "heater's temperature", Kind.TEMPERATURE, HEATER_C),
        Role("air", "air around it", Kind.TEMPERATURE, "air_c"),
        Role("cold_junction", "cold junction", Kind.TEMPERATURE, "cold_junction_c"),
        *(Role(f"zone_{n}", f"zone {n}", Kind.TEMPERATURE, f"zone_{n}_c") for n in range(1, 5)),
        Role("current", "heater current", Kind.CURRENT, "load_a"),
        Role("voltage", "supply voltage", Kind.VOLTAGE, "supply_v"),
        Role("power", "power drawn", Kind.POWER, "power_w"),
        Role("door", "door open", None, "door"),
        Role(COOLER, "cooler on", None, COOLING),
    )
}
OF_SOURCE = {role.source: role.key for role in ROLES.values()}
READING = "reading_c"
"""What a device's main reading is called; of a device that does not control it is a second probe until somebody says otherwise."""


@dataclass(frozen=True)
class Channel:
    """One value of a device as it is recorded: the live value it comes from, what it is, what measures it, what is added to it to
    be true (in the unit of its quantity), and whether it is recorded at all."""

    source: str
    role: str
    name: str = ""
    sensor: str = ""
    offset: float = 0.0
    kept: bool = True

    @property
    def kind(self) -> Kind | None:
        """Its quantity; ``None`` for a state."""
        return ROLES[self.role].kind

    @property
    def called(self) -> str:
        """Its name, or what it is."""
        return self.name or ROLES[self.role].words


def offered(values: Sequence[str], controls: bool) -> tuple[str, ...]:
    """Which of a device's live values can be channels. The reading of the device that ``controls`` is the run's own."""
    return tuple(v for v in values if v in OF_SOURCE or (v == READING and not controls))


def of_rig(values: Sequence[str], has_cooler: bool, has_heater_sensor: bool) -> tuple[str, ...]:
    """What of a device's values means something at a rig: one without a cooler has none that is on, one with one loop no second sensor at
    its heater."""
    none = {*(() if has_cooler else (COOLING,)), *(() if has_heater_sensor else (HEATER_C,))}
    return tuple(v for v in values if v not in none)


def guess(values: Sequence[str], controls: bool) -> tuple[Channel, ...]:
    """The channels a device offers, as their names say.

    >>> [c.role for c in guess(("reading_c", "load_a"), controls=False)]
    ['second', 'current']
    """
    taken = {OF_SOURCE[v] for v in values if v in OF_SOURCE}
    free = next((r for r in ("second", "load", "air", "limiter") if r not in taken), "second")
    return tuple(Channel(v, OF_SOURCE.get(v, free)) for v in offered(values, controls))


def quantity_of(source: str) -> Kind | None:
    """Quantity of what a device shows under this name."""
    return Kind.TEMPERATURE if source == READING else ROLES[OF_SOURCE[source]].kind


def check(channels: Sequence[Channel], values: Sequence[str], controls: bool) -> None:
    """Raises ``Refused`` naming every channel that cannot be: of a value the device has not, of another quantity than its role,
    twice the same, with a name or an offset beyond bounds."""
    problems = []
    there = offered(values, controls)
    for i, c in enumerate(channels):
        at = f"channels[{i}]."
        if c.source not in there:
            problems.append(Problem(f"{at}source", f"{c.source!r} is nothing this device shows", ", ".join(there)))
            continue
        fitting = [r.key for r in ROLES.values() if r.kind is quantity_of(c.source)]
        if c.role not in fitting:
            problems.append(Problem(f"{at}role", f"{c.role!r} does not fit what it shows", ", ".join(fitting)))
        for field, text in (("name", c.name), ("sensor", c.sensor)):
            if len(text) > LONGEST_NAME:
                problems.append(Problem(f"{at}{field}", f"{len(text)} characters", f"up to {LONGEST_NAME}"))
        if not abs(c.offset) <= MOST_OFFSET:
            kind = quantity_of(c.source)
            unit = UNIT[Kind.DIFFERENCE if kind is Kind.TEMPERATURE else kind] if kind else ""
            most = quantity(MOST_OFFSET, unit) if unit else f"{MOST_OFFSET:g}"
            problems.append(Problem(f"{at}offset", "more than an offset", f"up to {most} either way"))
    for field in ("source", "called"):
        named = [getattr(c, field) for c in channels if c.role in ROLES and (c.kept or field == "source")]
        twice = sorted({n for n in named if named.count(n) > 1})
        if twice:
            problems.append(Problem("channels", f"{', '.join(twice)} is there twice", "each once, by its own name"))
    refuse_all(problems)
