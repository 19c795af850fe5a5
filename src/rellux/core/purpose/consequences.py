"""What hangs on a purpose that is to be changed: which findings come of it, which are settled, what was found for another rig."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from ..errors import Problem
from ..findings import Finding, Severity
from ..messages import quantity
from ..spine import Station, stations
from .heater import heat_w
from .purpose import Purpose

Found = Mapping[Station, Sequence[Finding]]
SAME_HEAT = 0.02
"""A heat that differs less, as a share, moves it alike (our choice: a nameplate's last digit)."""


@dataclass(frozen=True)
class Hanging:
    """A finding, and the station it is of."""

    station: Station
    finding: Finding


@dataclass(frozen=True)
class Consequences:
    """``new``: what is wrong only after the change, or graver than before; ``settled``: what is no longer wrong; ``gone``: stations the rig
    no longer has."""

    new: tuple[Hanging, ...]
    settled: tuple[Hanging, ...]
    gone: tuple[Station, ...]


def consequences(before: Found, after: Found, was: Purpose, will_be: Purpose) -> Consequences:
    """By rule and subject: one that only says another number is neither new nor settled."""
    old, new = _by_subject(before), _by_subject(after)
    order = list(Severity)
    graver = [h for key, h in new.items() if key not in old or _rank(h, order) < _rank(old[key], order)]
    settled = [h for key, h in old.items() if key not in new]
    gone = tuple(s for s in stations(was.effect) if s not in stations(will_be.effect))
    worst = sorted(graver, key=lambda h: _rank(h, order))
    return Consequences(tuple(worst), tuple(h for h in settled if h.station not in gone), gone)


def _by_subject(found: Found) -> dict[tuple[str, tuple[str, ...]], Hanging]:
    return {(f.rule, f.subjects): Hanging(station, f) for station, of in found.items() for f in of}


def _rank(hanging: Hanging, order: list[Severity]) -> int:
    return order.index(hanging.finding.severity)


def other_process(was: Purpose, will_be: Purpose) -> Iterator[Finding]:
    """A process was found with what heated it then: with other heat it is another."""
    if not was.heats or not will_be.heats:
        return
    before, after = heat_w(was), heat_w(will_be)
    if abs(after / before - 1.0) <= SAME_HEAT and was.fire == will_be.fire:
        return
    yield Finding(
        "purpose.other-process",
        Severity.FAULT,
        title="The process was found with another heat",
        reason=f"It was {quantity(before, 'W', '.0f')} then and will be {quantity(after, 'W', '.0f')}: gain, settings and what guards it "
        "by them no longer hold.",
        fix="Record a heat-up with it, find the process again, then choose the control.",
        subjects=("process",),
    )


def outgrown_profile(key: str, name: str, problem: Problem) -> Finding:
    """A profile that the rig may no longer run, for the first reason that was found."""
    return Finding(
        "profiles.outgrown",
        Severity.FAULT,
        title=f"{name} can no longer be run here",
        reason=f"One of its segments: {problem.reason}.",
        fix=f"Change it under Profiles: {problem.accepted}.",
        subjects=(key,),
    )
