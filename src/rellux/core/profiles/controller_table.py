"""A profile as the segment table of a controller that has so many segments, by rate or by time, in steps of its own; and what it cannot
say, with the profile that it would then run, so that the consequence can be simulated.

Rounded times add up over a programme: what is rounded off is carried into the next segment.
"""

from dataclasses import dataclass, replace
from enum import StrEnum

from ..control.steps import held
from ..errors import Problem, refuse_all
from ..messages import quantity, span, spoken_time, temperature
from .apart import Keeps, apart, keeps
from .profile import (
    MOVES,
    RAMPS,
    EndAction,
    Holdback,
    Loop,
    Profile,
    Segment,
    SegmentKind,
    Side,
    commanded,
)


class RampBy(StrEnum):
    """Whether its ramps are entered as a rate or as a time."""

    RATE = "rate"
    TIME = "time"


class HoldbackKind(StrEnum):
    """Whether it can wait for the load: not at all, by one band for the whole programme, or segment by segment."""

    NONE = "none"
    WHOLE = "whole"
    EACH = "each"


@dataclass(frozen=True)
class ProgrammeForm:
    """What a controller's programmes can hold. ``rate_step`` in °C/min, ``time_step_s`` in s, ``degree_step`` in °C; ``longest_s``: of one
    segment; ``loops``: it can repeat."""

    segments: int = 8
    ramp_by: RampBy = RampBy.TIME
    time_step_s: float = 60.0
    rate_step: float = 0.1
    degree_step: float = 1.0
    longest_s: float = 59_940.0
    holdback: HoldbackKind = HoldbackKind.NONE
    loops: bool = False


@dataclass(frozen=True)
class ProgrammeRow:
    """One row to enter: ``time_s`` 0 with a target is a step. ``segment``: of the profile, counted from 0."""

    number: int
    segment: int
    target_c: float | None
    rate_c_per_min: float | None
    time_s: float | None
    holdback_c: float | None
    says: str


@dataclass(frozen=True)
class Loss:
    """Something of the profile that cannot be entered, and what follows from it."""

    segment: int
    what: str
    then: str


@dataclass(frozen=True)
class ControllerTable:
    """Rows to enter, what is lost, and the profile the controller will run of it. ``apart_c`` and ``late_s``: how far the two set-points
    are from one another at the most, and how much later it ends."""

    rows: tuple[ProgrammeRow, ...]
    losses: tuple[Loss, ...]
    runs: Profile
    apart_c: float
    late_s: float
    keeps: Keeps


def check_form(form: ProgrammeForm) -> None:
    """Raises ``Refused`` naming every field that cannot be."""
    found = []
    if not 2 <= form.segments <= MOST_ROWS:
        found.append(Problem("segments", f"{form.segments} segments", f"2…{MOST_ROWS}"))
    for name, most in (("time_step_s", 3600.0), ("rate_step", 60.0), ("degree_step", 10.0)):
        if not 0 < getattr(form, name) <= most:
            found.append(Problem(name, "no step", f"more than 0, up to {most:g}"))
    if not form.time_step_s < form.longest_s:
        found.append(Problem("longest_s", "shorter than its own step", span(form.time_step_s, 1e7, "s")))
    refuse_all(found)


MOST_ROWS = 999


def controller_table(profile: Profile, form: ProgrammeForm, start_c: float) -> ControllerTable:
    """The profile in a controller's form, its first ramp counted from ``start_c``."""
    check_form(form)
    losses: list[Loss] = []
    made: list[Segment] = []
    order: list[int] = []
    celsius, carried = start_c, 0.0
    for i in range(len(profile.segments)) if form.loops else profile.order():
        s = profile.segments[i]
        entered, carried = _entered(s, i, form, celsius, carried, losses)
        made += entered
        order += [i] * len(entered)
        if s.kind in MOVES and s.target_c is not None:
            celsius = s.target_c
    made, order = _cut(made, order, form, losses)
    runs = replace(profile, segments=tuple(made), loops=_loops(profile, order) if form.loops else ())
    rows = tuple(_row(n, i, s) for n, (i, s) in enumerate(zip(order, made, strict=True), 1))
    before, after = commanded(profile, start_c), commanded(runs, start_c)
    apart_c, late_s = apart(before, after, start_c), after[-1].time_s - before[-1].time_s
    return ControllerTable(rows, tuple(losses), runs, apart_c, late_s, keeps(losses, apart_c, late_s))


def _loops(profile: Profile, order: list[int]) -> tuple[Loop, ...]:
    """The loops by rows that are entered."""
    found = []
    for loop in profile.loops:
        rows = [n for n, i in enumerate(order[:-1], 1) if loop.first - 1 <= i <= loop.last - 1]
        if rows:
            found.append(Loop(rows[0], rows[-1], loop.times))
    return tuple(found)


def _entered(
    s: Segment, i: int, form: ProgrammeForm, celsius: float, carried: float, losses: list[Loss]
) -> tuple[list[Segment], float]:
    """One segment as it can be entered (several where it is too long for one), and what its rounding leaves for the next, s."""
    losses += beyond_the_course(s, i)
    kept = _holdback(s, i, form, losses)
    plain = replace(s, events=(), says="", alarms=None, pid_set=1, holdback=kept)
    if s.kind is SegmentKind.WAIT:
        losses.append(Loss(i, "that it waits", "it goes on at once: put it on hold by hand"))
        return [], carried
    if s.target_c is not None:
        target = held(s.target_c, form.degree_step)
        if target != s.target_c:
            losses.append(Loss(i, f"{temperature(s.target_c)} exactly", f"it is {temperature(target)}"))
        plain = replace(plain, target_c=target)
    if s.kind in RAMPS:
        return _ramp(plain, i, form, celsius, carried, losses)
    if s.kind is SegmentKind.SOAK and s.time_s is not None:
        return _timed(plain, s.time_s, i, form, carried, losses)
    return [plain], carried


def beyond_the_course(s: Segment, i: int) -> list[Loss]:
    """What segment ``i`` asks for besides its course, which no table of segments says."""
    asked = (
        (s.events, "outputs that it switches", "switch them by hand"),
        (s.says, "what the operator is told", "write it beside the table"),
        (s.alarms is not None, "alarms of its own", "every alarm holds in it"),
        (s.pid_set != 1, "another set of control values", "the first set holds"),
    )
    return [Loss(i, what, then) for given, what, then in asked if given]


NO_HOLDBACK = ("that it waits for the load", "time runs on while the load is behind")


def _holdback(s: Segment, i: int, form: ProgrammeForm, losses: list[Loss]) -> Holdback | None:
    if s.holdback is None or form.holdback is HoldbackKind.EACH:
        return s.holdback
    if form.holdback is HoldbackKind.NONE:
        losses.append(Loss(i, *NO_HOLDBACK))
        return None
    if s.holdback.side is not Side.EITHER:
        losses.append(Loss(i, "on which side it waits", "it waits on either side"))
    return replace(s.holdback, side=Side.EITHER)


def _ramp(
    s: Segment, i: int, form: ProgrammeForm, celsius: float, carried: float, losses: list[Loss]
) -> tuple[list[Segment], float]:
    way = abs((s.target_c or 0.0) - celsius)
    wanted = s.time_s if s.kind is SegmentKind.RAMP_TIME else way / (s.rate_c_per_min or 1.0) * 60.0
    assert wanted is not None
    if form.ramp_by is RampBy.TIME:
        return _timed(replace(s, kind=SegmentKind.RAMP_TIME, rate_c_per_min=None), wanted, i, form, carried, losses)
    asked = way / (wanted / 60.0) if s.kind is SegmentKind.RAMP_TIME else (s.rate_c_per_min or 0.0)
    rate = max(held(asked, form.rate_step), form.rate_step)
    if abs(rate - asked) > TINY * asked:
        losses.append(
            Loss(i, f"{quantity(asked, '°C/min', '.4g')} exactly", f"it is {quantity(rate, '°C/min', '.4g')}")
        )
    return [
        replace(s, kind=SegmentKind.RAMP_RATE, rate_c_per_min=rate, time_s=None)
    ], carried + wanted - way / rate * 60.0


TINY = 1e-9


def _timed(
    s: Segment, wanted_s: float, i: int, form: ProgrammeForm, carried: float, losses: list[Loss]
) -> tuple[list[Segment], float]:
    time_s = max(held(wanted_s + carried, form.time_step_s), form.time_step_s)
    left = wanted_s + carried - time_s
    if abs(time_s - wanted_s) > TINY * wanted_s:
        losses.append(
            Loss(
                i,
                f"{spoken_time(wanted_s, '.5g')} exactly",
                f"it is {spoken_time(time_s, '.5g')}; the rest is carried on",
            )
        )
    if time_s <= form.longest_s:
        return [replace(s, time_s=time_s)], left
    if s.kind is not SegmentKind.SOAK:
        losses.append(
            Loss(i, f"a ramp of {spoken_time(time_s)} in one", f"it takes {spoken_time(form.longest_s)}: steeper")
        )
        return [replace(s, time_s=form.longest_s)], left
    whole = held(form.longest_s - form.time_step_s / 2.0, form.time_step_s)
    pieces = [replace(s, time_s=whole)] * int(time_s // whole)
    rest = time_s - whole * len(pieces)
    return [*pieces, replace(s, time_s=rest)] if rest >= form.time_step_s / 2.0 else list(pieces), left


def _cut(
    made: list[Segment], order: list[int], form: ProgrammeForm, losses: list[Loss]
) -> tuple[list[Segment], list[int]]:
    if len(made) <= form.segments:
        return made, order
    kept = form.segments - 1
    at = order[kept] if kept < len(order) else order[-1]
    losses.append(
        Loss(
            at,
            f"{len(made) - form.segments} rows more than it has",
            "it switches off there: run the rest as a second programme",
        )
    )
    return [*made[:kept], Segment(SegmentKind.END, end=EndAction.OFF)], [*order[:kept], order[-1]]


def _row(number: int, segment: int, s: Segment) -> ProgrammeRow:
    words = {SegmentKind.STEP: "step", SegmentKind.SOAK: "hold", SegmentKind.END: f"end: {s.end or EndAction.OFF}"}
    time_s = 0.0 if s.kind is SegmentKind.STEP else s.time_s
    return ProgrammeRow(
        number,
        segment,
        s.target_c,
        s.rate_c_per_min,
        time_s,
        s.holdback.band_c if s.holdback else None,
        words.get(s.kind, "ramp"),
    )
