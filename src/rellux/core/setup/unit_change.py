"""A changed unit of temperature: what a controller that keeps its digits would mean by them now, and what to enter instead."""

from collections.abc import Set
from dataclasses import dataclass
from math import isclose

from ..findings import Finding, Severity
from ..messages import of_kind
from ..units import Kind, from_unit, in_unit
from .dictionary import BY_NAME
from .dictionary.alarms import ALARM_NUMBERS
from .parameters import Sheet

DEGREES = (Kind.TEMPERATURE, Kind.DIFFERENCE, Kind.RATE)
HELD = (
    "setpoint_c",
    "setpoint_high_c",
    "start_setpoint_c",
    "second_setpoint_c",
    *(f"alarm_{n}_at_c" for n in ALARM_NUMBERS),
)
"""What is held, or bounds what is held: hotter than meant, it is a danger."""
NAMES_TOLD = 6
"""So many are told in the sentence; the others are named by their number (our choice)."""
WORDS = {"C": "°C", "F": "°F", "K": "K"}


@dataclass(frozen=True)
class KeptDigits:
    """A parameter whose digits stay: ``digits`` as they stand there, ``means`` what they mean in the new unit (°C), ``enter`` what has to
    stand there for what is wanted. ``hotter``: meanwhile it means more than was wanted before or after."""

    name: str
    digits: float
    means: float
    enter: float
    hotter: bool


def kept_digits(before: Sheet, after: Sheet, seen_to: Set[str] = frozenset()) -> tuple[KeptDigits, ...]:
    """What is wrong in a controller that goes from one sheet to another with its unit first and nothing else done; empty where the unit
    stays. ``seen_to``: parameters that this controller converts or resets itself.

    >>> kept = kept_digits({"display_unit": "F", "setpoint_c": 180.0}, {"display_unit": "C", "setpoint_c": 180.0})[0]
    >>> kept.digits, kept.means, kept.enter, kept.hotter
    (356.0, 356.0, 180.0, True)
    """
    was, now = (str(s.get("display_unit", "C")) for s in (before, after))
    if was == now:
        return ()
    found = []
    for name, wanted in after.items():
        parameter, held = BY_NAME.get(name), before.get(name)
        if parameter is None or parameter.kind not in DEGREES or name in seen_to:
            continue
        if isinstance(held, str) or held is None or isinstance(wanted, str) or not parameter.applies_in(after):
            continue
        digits = in_unit(held, parameter.kind, was)
        means = from_unit(digits, parameter.kind, now)
        if not isclose(means, wanted, abs_tol=1e-6):
            enter = in_unit(wanted, parameter.kind, now)
            found.append(KeptDigits(name, round(digits, 3), means, round(enter, 3), means > max(held, wanted) + 1e-6))
    return tuple(found)


def check_unit_change(before: Sheet, after: Sheet, seen_to: Set[str] = frozenset()) -> list[Finding]:
    """The finding about a sheet that was left in another unit than the one before it."""
    kept = kept_digits(before, after, seen_to)
    if not kept:
        return []
    was, now = (WORDS[str(s.get("display_unit", "C"))] for s in (before, after))
    hotter = [k for k in kept if k.hotter and k.name in HELD]
    told = sorted(kept, key=lambda k: (k not in hotter, kept.index(k)))
    each = [
        f"{BY_NAME[k.name].title.lower()}: {k.digits:g} would be {of_kind(k.means, BY_NAME[k.name].kind)}, enter {k.enter:g}"
        for k in told[:NAMES_TOLD]
    ]
    more = [f"{len(told) - NAMES_TOLD} more the same way"] if len(told) > NAMES_TOLD else []
    return [
        Finding(
            "setup.unit-changed",
            Severity.DANGER if hotter else Severity.FAULT,
            title=f"The unit was changed from {was} to {now}",
            reason=f"A controller that keeps its digits now holds something else. {'; '.join([*each, *more]).capitalize()}.",
            fix="Read every page again, heater off, and save what you find as found: then this is answered.",
            subjects=("display_unit", *(k.name for k in told)),
            source="common practice, no source",
        )
    ]
