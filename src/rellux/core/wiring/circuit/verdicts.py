"""What is said of a failure."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum


class FailureVerdict(StrEnum):
    """Worst first. ``uncalled``: with nothing broken a heater heats though nobody calls for it; ``unlimited``: with nothing
    broken the limiter does not stop it. ``uncovered``: a heater stays on although nobody calls for heat and everything
    independent has tripped. ``stronger``: elements get more than they are made for, or some heat that should not. ``latent``:
    unnoticed, but a protection is lost. ``covered``: heats on until the limiter trips. ``stops``/``weaker``: seen as missing
    heat. ``warm``: heats on, but never beyond what everything stands. ``trips``: a protective device opens. ``nothing``: no
    difference."""

    UNCALLED = "uncalled"
    UNLIMITED = "unlimited"
    UNCOVERED = "uncovered"
    STRONGER = "stronger"
    LATENT = "latent"
    COVERED = "covered"
    STOPS = "stops"
    WARM = "warm"
    WEAKER = "weaker"
    TRIPS = "trips"
    NOTHING = "nothing"


ORDER = list(FailureVerdict)


@dataclass(frozen=True)
class Reaches:
    """Where a heat in W leads, in °C at rest, and the lowest limit in °C of anything in the rig."""

    at: Callable[[float], float]
    weakest_c: float


@dataclass(frozen=True)
class Outcome:
    """A failure judged. Heater power in W while the output is off, with the limiter tripped and the output on, and with the
    output on; ``says`` in words; ``second``: failures that, after this unnoticed one, leave nothing that stops the heat;
    ``heaters``: those that stay on."""

    title: str
    subject: str
    verdict: FailureVerdict
    says: str
    off_w: float
    tripped_w: float
    on_w: float
    second: tuple[str, ...] = ()
    heaters: tuple[str, ...] = ()


def worse(one: Outcome, other: Outcome, when: str) -> Outcome:
    """The worse of two outcomes of one failure; the other's words say ``when`` it is so. Heaters that stay on are all named, and
    what must not fail second."""
    heaters = tuple(sorted({*one.heaters, *other.heaters}))
    if other.verdict is one.verdict and set(other.second) - set(one.second):
        says = f"With {when}: {other.says}" if when else other.says
        return replace(other, says=says, heaters=heaters, second=tuple(dict.fromkeys((*other.second, *one.second))))
    if other.verdict is one.verdict and heaters != one.heaters:
        return replace(one, heaters=heaters)
    if ORDER.index(other.verdict) >= ORDER.index(one.verdict):
        return one
    says = f"With {when}: {other.says}" if when else other.says
    return replace(other, says=says)
