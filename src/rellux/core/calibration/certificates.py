"""What a certificate says of its thermometer, and records in which its number was taken the wrong way.

Some certificates state the *correction*, which is added to the reading; some the *error*, which is taken from it. Taken the wrong way
a reference is off by twice the number, and so is the offset that follows. Nothing in one comparison shows it; two of the same
sensor, with different references, do: they differ by twice the number, and agree once its sign is turned.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise
from math import hypot

from ..findings import Finding, Severity
from ..messages import difference
from .schools import OffsetSchool

HOTTEST_C = 2000.0
"""The highest reading that is one, °C (our choice: beyond any sensor here)."""
MOST_CERTIFIED_C = 50.0
"""The largest number of a certificate that is taken, °C (our choice: beyond it the thermometer is no reference)."""
NEARBY_C = 40.0
"""Comparisons further apart than this are not held against each other: an offset holds near where it was found (our choice)."""


class CertificateSays(StrEnum):
    """Which of the two its number is."""

    CORRECTION = "correction"
    ERROR = "error"


SAYS = {
    CertificateSays.CORRECTION: "Correction: added to what it reads",
    CertificateSays.ERROR: "Error: taken from what it reads",
}


def correction(number_c: float, says: CertificateSays | None) -> float:
    """What is added to the reference's reading, °C.

    >>> correction(2.9, CertificateSays.ERROR)
    -2.9
    """
    return -number_c if says is CertificateSays.ERROR else number_c


@dataclass(frozen=True)
class Compared:
    """One comparison of the record. ``at`` names it (its day); ``reads_high_c``: what the sensor, without any offset, reads above the
    reference, with its expanded uncertainty, °C; ``added_c``: what was added to the reference for its certificate; ``piece``: which of the
    workshop's sensors it was."""

    at: str
    sensor: str
    near_c: float
    reads_high_c: float
    uncertainty_c: float
    added_c: float
    piece: str = ""

    @property
    def probe(self) -> tuple[str, str]:
        """Comparisons of one sensor: of its type, and of the piece where it is known."""
        return self.sensor, self.piece


def reads_high(school: OffsetSchool, existing_c: float, error_c: float) -> float:
    """What a sensor without any offset reads above the reference, °C, from the offset in force and the error found with it."""
    total = existing_c - error_c
    return total if school is OffsetSchool.TEMPERATURE_ADJUST else -total


def doubts(record: Iterable[Compared]) -> tuple[Finding, ...]:
    """Comparisons, oldest first, that only agree with the next one of their sensor when a certificate's number is turned round.

    Silent where they agree as they stand, and where turning it does not make them agree: then something else changed.
    """
    found = []
    by_sensor: dict[tuple[str, str], list[Compared]] = {}
    for one in record:
        by_sensor.setdefault(one.probe, []).append(one)
    for same in by_sensor.values():
        for earlier, later in pairwise(same):
            if abs(earlier.near_c - later.near_c) > NEARBY_C:
                continue
            found += [_doubt(one, other) for one, other in ((earlier, later), (later, earlier)) if _turned(one, other)]
    return tuple(found)


def _turned(one: Compared, other: Compared) -> bool:
    """Whether the two disagree as they stand, and agree with the first one's certificate the other way round."""
    allowed = hypot(one.uncertainty_c, other.uncertainty_c)
    turned = replace(one, reads_high_c=one.reads_high_c + 2.0 * one.added_c)
    return abs(one.reads_high_c - other.reads_high_c) > allowed >= abs(turned.reads_high_c - other.reads_high_c)


def _doubt(one: Compared, other: Compared) -> Finding:
    apart = abs(one.reads_high_c - other.reads_high_c)
    return Finding(
        "calibration.sign",
        Severity.FAULT,
        subjects=(one.at,),
        title=f"The certificate of {one.at} may have been taken the wrong way",
        reason=f"{one.at} and {other.at} differ by {difference(apart, '.2g')}, and {difference(one.added_c, '+.2g')} was added to the "
        f"reference of {one.at}. Taken from it instead, the two agree within "
        f"{difference(hypot(one.uncertainty_c, other.uncertainty_c), '.2g')}. A sensor that drifted so far meanwhile would look the same.",
        fix="Read on the certificate whether its number is the correction or the error; then compare once more with another reference.",
    )
