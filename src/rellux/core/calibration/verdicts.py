"""Whether an offset may be corrected: from how many pairs, against what reference, and whether sensor and input explain the error.

An offset hides what it does not explain. So before anything is entered: more than one pair, a reference whose uncertainty is
known, an error beyond its uncertainty, and no larger than a new sensor of its class and an ordinary input can have. Beyond that
the causes are computed and compared with the pairs, and one of them is mended instead.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..errors import refuse
from ..messages import difference
from ..sensing.suspects import own_error
from .causes import Causes, Seen, ranked_causes, usable_pairs
from .certificates import NEARBY_C
from .schools import OffsetSchool

LEAST_REASON = 8
"""Letters of a reason for entering an offset against the advice: some words."""


class Advice(StrEnum):
    """What to do about an offset."""

    CORRECT = "correct"
    LEAVE = "leave"
    MORE_PAIRS = "more_pairs"
    NAME_REFERENCE = "name_reference"
    FIND_CAUSE = "find_cause"
    ONE_TEMPERATURE = "one_temperature"
    ONE_OFFSET = "one_offset"
    COMPARE_NEARER = "compare_nearer"


SAYS = {
    Advice.CORRECT: "correct it",
    Advice.LEAVE: "leave it",
    Advice.MORE_PAIRS: "more pairs first",
    Advice.NAME_REFERENCE: "say how good the reference is",
    Advice.FIND_CAUSE: "find the cause first",
    Advice.ONE_TEMPERATURE: "one temperature at a time",
    Advice.ONE_OFFSET: "one offset does",
    Advice.COMPARE_NEARER: "compare nearer the work",
}
NEEDS_REASON = (Advice.FIND_CAUSE, Advice.ONE_TEMPERATURE, Advice.COMPARE_NEARER)
"""Advice that is only passed over with a reason."""


@dataclass(frozen=True)
class Verdict:
    """The advice, why, and what could be behind an error too large for sensor and input."""

    advice: Advice
    says: str
    causes: Causes | None = None


@dataclass(frozen=True)
class Found:
    """What a worksheet holds, all in °C: the raw reading (without any offset) and the reference of each pair, the total offset
    that takes one to the other, the change against the offset in force, its expanded uncertainty, and what the reference has; the standard
    uncertainty of one pair, the offset in force as one added to the reading, the room and the hottest it may be."""

    raw_c: tuple[float, ...]
    reference_c: tuple[float, ...]
    total_c: float
    change_c: float
    uncertainty_c: float
    reference_u_c: float
    enters_change: bool
    pair_u_c: float
    added_offset_c: float
    room_c: float
    highest_c: float


def verdict(found: Found, sensor: str) -> Verdict:
    """What to do. Errors too large come first: no number of pairs makes a wrong connection an offset."""
    hottest = max(found.reference_c, key=abs)
    explained = own_error(sensor, hottest)
    if abs(found.total_c) > explained + found.uncertainty_c:
        return Verdict(
            Advice.FIND_CAUSE,
            f"{difference(abs(found.total_c), '.2g')} in all is more than a new sensor of its class and an ordinary input explain "
            f"({difference(explained, '.2g')}): an offset would hide what is wrong.",
            causes_of(
                sensor,
                found.raw_c,
                found.reference_c,
                found.pair_u_c,
                found.added_offset_c,
                found.room_c,
                found.highest_c,
            ),
        )
    apart = max(found.reference_c) - min(found.reference_c)
    if apart > NEARBY_C:
        return Verdict(
            Advice.ONE_TEMPERATURE,
            f"The pairs are spread over {difference(apart, '.0f')}, and one offset holds at one temperature: compare at the working "
            "temperature. Recorded, they serve to correct at several, where the controller can.",
        )
    if abs(found.change_c) < found.uncertainty_c:
        return Verdict(
            Advice.LEAVE,
            f"Do not touch it: the change of {difference(abs(found.change_c), '.2g')} is smaller than its uncertainty of "
            f"{difference(found.uncertainty_c, '.2g')}.",
        )
    if not found.reference_u_c > 0:
        return Verdict(
            Advice.NAME_REFERENCE, "No reference is exact: half of its certificate's U, or its step over √12."
        )
    if len(found.reference_c) < 2:
        return Verdict(
            Advice.MORE_PAIRS,
            "One pair says nothing about how well it repeats, and in a cycling oven may be off by the whole swing: take two more.",
        )
    if not found.enters_change:
        return Verdict(Advice.LEAVE, "The controller's step is too coarse to improve on the offset already in it.")
    return Verdict(
        Advice.CORRECT, "The error is larger than its uncertainty, and one that sensor and input can have: correct it."
    )


def causes_of(
    sensor: str,
    raw_c: Sequence[float],
    reference_c: Sequence[float],
    pair_u_c: float,
    added_offset_c: float,
    room_c: float,
    highest_c: float,
) -> Causes | None:
    """What could be behind pairs of a raw reading and a reference, one pair known to ``pair_u_c``, °C; ``None`` where the sensor's table
    holds none of them."""
    raw, true = np.array(raw_c), np.array(reference_c)
    known = usable_pairs(sensor, raw, true)
    if not known.any():
        return None
    return ranked_causes(sensor, Seen(raw[known], true[known], pair_u_c, added_offset_c, room_c, highest_c))


def raw_reading(display_c: float, existing_c: float, setpoint_c: float | None, school: OffsetSchool) -> float:
    """What the sensor says without any offset, °C: the display less the offset added to it; a control that adjusts what it
    delivers holds its own reading at set-point + number."""
    if school is OffsetSchool.ADDED_TO_READING or setpoint_c is None:
        return display_c - existing_c
    return setpoint_c + existing_c


def check_entering(advice: Advice, says: str, reason: str) -> None:
    """Raises ``Refused`` where an error too large, or of no one temperature, is to be entered without a reason; other advice may be
    passed over."""
    if advice in NEEDS_REASON and len(reason) < LEAST_REASON:
        raise refuse("anyway", f"{SAYS[advice]}: {says}", "record it as found, or say why all the same")
