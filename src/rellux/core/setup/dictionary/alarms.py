"""The controller's own alarms, by number, and what it finds out about its loop and its heater."""

from collections.abc import Iterator

from ...units import Kind
from .parameter import Applies, Parameter

ALARM_NUMBERS = (1, 2, 3)
"""Alarms that the dictionary names: few controllers have more that a plan would use."""
ABSOLUTE, RELATIVE = ("high", "low"), ("above_setpoint", "below_setpoint", "outside_band", "inside_band")
"""Types whose value is a temperature, and those whose value is a distance from the set-point: as Guarding calls them."""
_TYPES = (
    ("off", "Off"),
    ("high", "Too hot"),
    ("low", "Too cold"),
    ("above_setpoint", "Above set-point"),
    ("below_setpoint", "Below set-point"),
    ("outside_band", "Outside a band"),
    ("inside_band", "Inside a band"),
)


def _alarm(n: int) -> Iterator[Parameter]:
    name, title, group = f"alarm_{n}", f"Alarm {n}", f"Alarm {n}"
    used = Applies(f"{name}_type", (*ABSOLUTE, *RELATIVE))
    yield Parameter(
        f"{name}_type",
        title,
        "Off where it is not used: a light nobody meant confuses.",
        group,
        choices=_TYPES,
        without="off",
    )
    yield Parameter(
        f"{name}_at_c", f"{title} at", "The temperature at which it comes.", group, Kind.TEMPERATURE, -200, 1900,
        applies=(Applies(f"{name}_type", ABSOLUTE),),
    )  # fmt: skip
    yield Parameter(
        f"{name}_away_c", f"{title} away by", "How far from the set-point it comes.", group, Kind.DIFFERENCE, 0, 500,
        applies=(Applies(f"{name}_type", RELATIVE),),
    )  # fmt: skip
    yield Parameter(
        f"{name}_hysteresis_c", f"{title} clears after", "So far back to the normal.", group, Kind.DIFFERENCE, 0, 100, applies=(used,)
    )  # fmt: skip
    yield Parameter(
        f"{name}_delay_s", f"{title} waits", "So long it must last first.", group, Kind.TIME, 0, 3600, applies=(used,), without=0.0
    )  # fmt: skip
    yield Parameter(
        f"{name}_latch", f"{title} stays", "Until somebody resets it, or until it clears.", group,
        choices=(("off", "Until it clears"), ("on", "Until reset")), applies=(used,), without="off",
    )  # fmt: skip
    yield Parameter(
        f"{name}_standby", f"{title} on the way", "Held until it was first in range, and again after each new set-point.", group,
        choices=(("none", "Calls"), ("first", "Held the first time"), ("every", "Held every time")), applies=(used,), without="none",
    )  # fmt: skip
    yield Parameter(
        f"{name}_contact", f"{title} contact", "What its contact does to alarm.", group,
        choices=(("opens", "Opens"), ("closes", "Closes")), applies=(used,), without="closes",
    )  # fmt: skip


ALARMS = (
    *(p for n in ALARM_NUMBERS for p in _alarm(n)),
    Parameter(
        "loop_break_s",
        "Loop break",
        "Full output for so long without the reading moving. 0: not watched.",
        "Loop",
        Kind.TIME,
        0,
        86_400,
        without=0.0,
    ),
    Parameter(
        "heater_break_a",
        "Heater break",
        "Current below this while the output is on. 0: not watched.",
        "Loop",
        Kind.CURRENT,
        0,
        1000,
        without=0.0,
    ),
)
