"""What the kinds are written with."""

from ...units import Kind
from ..model import Rating, Role, Terminal


def right(name: str, role: Role) -> Terminal:
    return Terminal(name, role, "right")


def left(name: str, role: Role) -> Terminal:
    return Terminal(name, role, "left")


def pole_pairs(poles: int) -> tuple[tuple[str, str], ...]:
    """Terminals of each pole: 1-2, 3-4, 5-6."""
    return tuple((str(2 * i + 1), str(2 * i + 2)) for i in range(poles))


def pole_terminals(poles: int, role: Role) -> tuple[Terminal, ...]:
    return tuple(end for a, b in pole_pairs(poles) for end in (left(a, role), right(b, role)))


def amps(usual: float, label: str = "Rated current", name: str = "current_a") -> Rating:
    return Rating(name, label, Kind.CURRENT, usual)


def volts(usual: float, label: str = "Rated voltage", name: str = "voltage_v") -> Rating:
    return Rating(name, label, Kind.VOLTAGE, usual)


def watts(usual: float) -> Rating:
    return Rating("power_w", "Rated power", Kind.POWER, usual)


CHANGEOVER = (right("COM", Role.CONTACT), right("NO", Role.CONTACT), right("NC", Role.CONTACT))
"""A contact's three terminals."""
