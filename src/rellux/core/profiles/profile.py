"""A profile: segments of temperature over time, with what waits, what is switched, how it begins and what a power cut does to it."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from enum import StrEnum

import numpy as np

from ..control.programme import kernel
from ..control.programme.programme import Rows
from ..errors import Problem, refuse, refuse_all
from ..messages import quantity, span, temperature

MOST_SEGMENTS = 60
MOST_UNROLLED = 2000
"""Segments once every loop is counted out."""
FASTEST_C_PER_MIN = 1000.0
"""Nothing here heats faster (our choice: soldering by reflow takes about 180)."""
SLOWEST_C_PER_MIN = 1e-4
"""0.006 °C an hour; slower is a slip of unit (our choice)."""
LONGEST_S = 60 * 86_400.0
COLDEST_C, HOTTEST_C = -200.0, 1800.0
WIDEST_BAND_C = 200.0
SOAK_BAND_C = 3.0
"""What counts as soaking where no holdback says it (our choice)."""
LONGEST_WORDS = 120


class SegmentKind(StrEnum):
    """What a segment does with the set-point."""

    RAMP_RATE = "ramp_rate"
    RAMP_TIME = "ramp_time"
    SOAK = "soak"
    STEP = "step"
    WAIT = "wait"
    END = "end"


class Side(StrEnum):
    """On which side of the set-point a reading outside the band stops the clock."""

    BELOW = "below"
    ABOVE = "above"
    EITHER = "either"


class WaitFor(StrEnum):
    """What a segment waits for: a person, or a reading from below or from above."""

    PERSON = "person"
    RISEN = "risen"
    FALLEN = "fallen"


class EndAction(StrEnum):
    """What becomes of the heat at the end."""

    OFF = "off"
    HOLD = "hold"


class EventOutput(StrEnum):
    """What a segment may switch on while it lasts."""

    FAN = "fan"
    VENT = "vent"
    BUZZER = "buzzer"
    SPARE = "spare"


class StartFrom(StrEnum):
    """Where the first ramp begins: at the reading, at the room, or at a temperature of its own."""

    READING = "reading"
    ROOM = "room"
    VALUE = "value"


class AfterCut(StrEnum):
    """What is done where a power cut was too long or it fell too far."""

    HOLD = "hold"
    ABORT = "abort"


@dataclass(frozen=True)
class Holdback:
    """The clock waits while the reading is further than ``band_c`` from the set-point. In a soak that makes it a guaranteed one."""

    band_c: float
    side: Side = Side.BELOW


@dataclass(frozen=True)
class Segment:
    """One segment; temperatures in °C, ``rate_c_per_min`` always positive, ``time_s`` in s. ``says``: what the operator is told when it
    begins. ``alarms``: the plan's alarms that hold in it (``None``: all); ``pid_set``: which of the controller's sets."""

    kind: SegmentKind
    target_c: float | None = None
    rate_c_per_min: float | None = None
    time_s: float | None = None
    holdback: Holdback | None = None
    wait: WaitFor | None = None
    end: EndAction | None = None
    events: tuple[EventOutput, ...] = ()
    says: str = ""
    alarms: tuple[str, ...] | None = None
    pid_set: int = 1


@dataclass(frozen=True)
class Loop:
    """Segments ``first`` to ``last`` (counted from 1) run ``times`` times in all."""

    first: int
    last: int
    times: int


@dataclass(frozen=True)
class AfterPower:
    """After a power cut: within ``resume_c`` of the set-point it goes on; within ``ramp_back_c`` it first comes back at the segment's
    rate; beyond, or after ``longest_s`` without power, what ``beyond`` says (handbook practice)."""

    resume_c: float = 5.0
    ramp_back_c: float = 50.0
    longest_s: float = 3600.0
    beyond: AfterCut = AfterCut.ABORT


@dataclass(frozen=True)
class Profile:
    """A programme. ``start_c`` only where it starts at a value of its own."""

    segments: tuple[Segment, ...]
    loops: tuple[Loop, ...] = ()
    start: StartFrom = StartFrom.READING
    start_c: float | None = None
    after_power: AfterPower = field(default_factory=AfterPower)

    def order(self) -> Iterator[int]:
        """Indices of the segments as they run, loops counted out."""
        by_first = {loop.first - 1: loop for loop in self.loops}
        i = 0
        while i < len(self.segments):
            loop = by_first.get(i)
            if loop is None:
                yield i
                i += 1
                continue
            for _ in range(loop.times):
                yield from range(i, loop.last)
            i = loop.last

    @property
    def highest_c(self) -> float:
        """The highest set-point it asks for."""
        return max(s.target_c for s in self.segments if s.target_c is not None and s.kind is not SegmentKind.WAIT)


RAMPS = (SegmentKind.RAMP_RATE, SegmentKind.RAMP_TIME)
MOVES = (*RAMPS, SegmentKind.STEP)
_CODE = {
    SegmentKind.RAMP_RATE: kernel.RAMP_RATE,
    SegmentKind.RAMP_TIME: kernel.RAMP_TIME,
    SegmentKind.SOAK: kernel.SOAK,
    SegmentKind.STEP: kernel.STEP,
}
_WAITS = {
    WaitFor.PERSON: kernel.WAIT_PERSON,
    WaitFor.RISEN: kernel.WAIT_ABOVE,
    WaitFor.FALLEN: kernel.WAIT_BELOW,
}
_ENDS = {EndAction.HOLD: kernel.END_HOLD, EndAction.OFF: kernel.END_OFF}


def start_of(profile: Profile, reading_c: float, room_c: float) -> float:
    """Where its first ramp begins, °C."""
    if profile.start is StartFrom.READING:
        return reading_c
    if profile.start is StartFrom.ROOM:
        return room_c
    assert profile.start_c is not None
    return profile.start_c


def rows_of(profile: Profile) -> Rows:
    """Its segments as the machine takes them, loops counted out: (n, SEGMENT_SIZE)."""
    return np.array([_row(profile.segments[i]) for i in profile.order()])


def _row(s: Segment) -> list[float]:
    if s.kind is SegmentKind.WAIT:
        code = _WAITS[s.wait or WaitFor.PERSON]
    elif s.kind is SegmentKind.END:
        code = _ENDS[s.end or EndAction.OFF]
    else:
        code = _CODE[s.kind]
    below = above = 0.0
    if s.holdback:
        below = s.holdback.band_c if s.holdback.side is not Side.ABOVE else 0.0
        above = s.holdback.band_c if s.holdback.side is not Side.BELOW else 0.0
    return [float(code), s.target_c or 0.0, (s.rate_c_per_min or 0.0) / 60.0, s.time_s or 0.0, below, above]


@dataclass(frozen=True)
class Corner:
    """The set-point at the end of a segment if nothing ever waits: at ``time_s`` s it is ``celsius``. ``segment`` counts from 0."""

    time_s: float
    celsius: float
    segment: int


def commanded(profile: Profile, start_c: float) -> tuple[Corner, ...]:
    """The corners of the set-point, loops counted out, from ``start_c`` on, as if nothing ever waited."""
    at, celsius, found = 0.0, start_c, []
    for i in profile.order():
        s = profile.segments[i]
        if s.kind is SegmentKind.RAMP_RATE:
            at += abs((s.target_c or 0.0) - celsius) / (s.rate_c_per_min or 1.0) * 60.0
        elif s.kind in (SegmentKind.RAMP_TIME, SegmentKind.SOAK):
            at += s.time_s or 0.0
        if s.kind in MOVES and s.target_c is not None:
            celsius = s.target_c
        found.append(Corner(at, celsius, i))
    return tuple(found)


def with_segment(profile: Profile, i: int, **changed: object) -> Profile:
    """The profile with one segment changed."""
    segments = list(profile.segments)
    segments[i] = replace(segments[i], **changed)  # type: ignore[arg-type]
    return replace(profile, segments=tuple(segments))


def rest_of(profile: Profile, row: int, elapsed_s: float, setpoint_c: float) -> Profile:
    """What is left of a profile, loops counted out, when it is so far into a row of the machine and its set-point is there."""
    order = list(profile.order())
    left = [profile.segments[i] for i in order[min(row, len(order) - 1) :]]
    if left[0].kind in (SegmentKind.SOAK, SegmentKind.RAMP_TIME) and left[0].time_s is not None:
        left[0] = replace(left[0], time_s=max(left[0].time_s - elapsed_s, SHORTEST_S))
    return replace(profile, segments=tuple(left), loops=(), start=StartFrom.VALUE, start_c=setpoint_c)


SHORTEST_S = 1e-3


def check_profile(profile: Profile) -> None:
    """Raises ``Refused`` naming every field that cannot be, whatever the rig."""
    refuse_all(profile_problems(profile))


def profile_problems(profile: Profile) -> list[Problem]:
    """Every field of a profile that cannot be."""
    n = len(profile.segments)
    if not 2 <= n <= MOST_SEGMENTS:
        return [Problem("segments", f"{n} segments", f"2…{MOST_SEGMENTS}, the last being its end")]
    found = [*segment_problems(profile), *_loop_problems(profile)]
    if profile.start is StartFrom.VALUE and (profile.start_c is None or not COLDEST_C <= profile.start_c <= HOTTEST_C):
        found.append(Problem("start_c", "say where it starts", span(COLDEST_C, HOTTEST_C, "°C")))
    power = profile.after_power
    if not 0 <= power.resume_c <= power.ramp_back_c <= HOTTEST_C:
        reason = "the nearer band must lie within the wider one"
        found.append(Problem("after_power.resume_c", reason, span(0, power.ramp_back_c, "Δ°C")))
    if not 0 <= power.longest_s <= LONGEST_S:
        found.append(Problem("after_power.longest_s", "no length of time", span(0, LONGEST_S / 3600, "h")))
    if not found and not any(s.target_c is not None for s in profile.segments if s.kind in MOVES):
        found.append(Problem("segments", "it never asks for a temperature", "at least one ramp or step"))
    if not found and (length := _length(profile)) > LONGEST_S:
        found.append(Problem("segments", f"it lasts {quantity(length / 86_400, form='.0f')} days", "up to 60 days"))
    return found


def segment_problems(profile: Profile) -> list[Problem]:
    """Every field of its segments that cannot be, however many they are."""
    found: list[Problem] = []
    for i, segment in enumerate(profile.segments):
        found += _segment_problems(segment, f"segments[{i}].", i == len(profile.segments) - 1)
    return found + _zero_ramps(profile)


def _segment_problems(s: Segment, at: str, last: bool) -> list[Problem]:
    found: list[Problem] = []

    def unless(ok: bool, name: str, reason: str, accepted: str) -> None:
        if not ok:
            found.append(Problem(f"{at}{name}", reason, accepted))

    unless(not last or s.kind is SegmentKind.END, "kind", "say what happens at its end", "an end: off, or hold")
    unless(last or s.kind is not SegmentKind.END, "kind", "nothing after an end is ever run", "an end only as the last")
    if s.kind in MOVES or (s.kind is SegmentKind.WAIT and s.wait in (WaitFor.RISEN, WaitFor.FALLEN)):
        ok = s.target_c is not None and COLDEST_C <= s.target_c <= HOTTEST_C
        said = "say which temperature" if s.target_c is None else f"no sensor here reads {temperature(s.target_c)}"
        unless(ok, "target_c", said, span(COLDEST_C, HOTTEST_C, "°C"))
    if s.kind is SegmentKind.RAMP_RATE:
        ok = s.rate_c_per_min is not None and SLOWEST_C_PER_MIN <= s.rate_c_per_min <= FASTEST_C_PER_MIN
        said = "say how fast" if s.rate_c_per_min is None else f"{quantity(s.rate_c_per_min, '°C/min')} is no rate"
        unless(ok, "rate_c_per_min", said, f"{span(SLOWEST_C_PER_MIN, FASTEST_C_PER_MIN, '°C/min')}, up and down alike")
    if s.kind in (SegmentKind.RAMP_TIME, SegmentKind.SOAK):
        said = "say how long" if s.time_s is None else f"{quantity(s.time_s, 's')} is no length of time"
        if s.kind is SegmentKind.RAMP_TIME and s.time_s == 0:
            said = "a ramp in no time is a step: say so"
        unless(s.time_s is not None and 0 < s.time_s <= LONGEST_S, "time_s", said, "more than {0 s}, up to 60 days")
    if s.holdback:
        unless(
            0 < s.holdback.band_c <= WIDEST_BAND_C,
            "holdback.band_c",
            "no band to wait in",
            f"more than {{0 Δ°C}}, up to {quantity(WIDEST_BAND_C, 'Δ°C')}",
        )
        waits = s.kind in (*RAMPS, SegmentKind.SOAK)
        unless(waits, "holdback", "only a ramp or a soak has a clock that can wait", "no holdback here")
    if s.kind is SegmentKind.WAIT:
        unless(s.wait is not None, "wait", "say what it waits for", ", ".join(WaitFor))
    if s.kind is SegmentKind.END:
        unless(s.end is not None, "end", "say what becomes of the heat", ", ".join(EndAction))
    unless(len(set(s.events)) == len(s.events), "events", "one output is switched on twice", "each once")
    unless(len(s.says) <= LONGEST_WORDS, "says", "too long for a screen", f"up to {LONGEST_WORDS} characters")
    unless(1 <= s.pid_set <= MOST_PID_SETS, "pid_set", f"there is no set {s.pid_set}", f"1…{MOST_PID_SETS}")
    return found


MOST_PID_SETS = 8


def _zero_ramps(profile: Profile) -> list[Problem]:
    """Ramps to where it is already, as far as that can be told before it starts."""
    found: list[Problem] = []
    celsius = profile.start_c if profile.start is StartFrom.VALUE else None
    for i, s in enumerate(profile.segments):
        if s.kind in RAMPS and s.target_c is not None and s.target_c == celsius:
            reason = f"it is at {temperature(celsius)} already: a ramp of no length"
            found.append(Problem(f"segments[{i}].target_c", reason, "another temperature, or a soak"))
        if s.kind in MOVES:
            celsius = s.target_c
    return found


def _loop_problems(profile: Profile) -> list[Problem]:
    found: list[Problem] = []
    taken: set[int] = set()
    most = len(profile.segments) - 1
    for i, loop in enumerate(profile.loops):
        covered = set(range(loop.first, loop.last + 1))
        if not 1 <= loop.first <= loop.last <= most:
            found.append(Problem(f"loops[{i}].last", "it does not go round these segments", f"segments 1…{most}"))
        elif taken & covered:
            found.append(Problem(f"loops[{i}].first", "two loops share a segment", "loops beside one another"))
        if not 2 <= loop.times <= MOST_UNROLLED:
            found.append(Problem(f"loops[{i}].times", "a loop without an end, or none", f"2…{MOST_UNROLLED} times"))
        taken |= covered
    if not found:
        n = most + 1 + sum((loop.last - loop.first + 1) * (loop.times - 1) for loop in profile.loops)
        if n > MOST_UNROLLED:
            found.append(Problem("loops", f"{n} segments once the loops are counted out", f"up to {MOST_UNROLLED}"))
    return found


def _length(profile: Profile) -> float:
    corners = commanded(profile, profile.start_c if profile.start_c is not None else 20.0)
    return corners[-1].time_s


def refuse_beyond(profile: Profile, highest_c: float, sensor_c: tuple[float, float], says: str) -> None:
    """Raises ``Refused`` for a target that this rig must not, or its sensor cannot, get to. ``says``: what the sensor is."""
    low, high = sensor_c
    problems = []
    if profile.start is StartFrom.VALUE and profile.start_c is not None and profile.start_c > highest_c:
        reason = f"the rig must never pass {temperature(highest_c)}"
        problems.append(Problem("start_c", reason, f"up to {temperature(highest_c)}"))
    for i, s in enumerate(profile.segments):
        if s.target_c is None or s.kind not in MOVES:
            continue
        if s.target_c > highest_c:
            reason = f"the rig must never pass {temperature(highest_c)}"
            problems.append(Problem(f"segments[{i}].target_c", reason, f"up to {temperature(highest_c)}"))
        elif not low <= s.target_c <= high:
            reason = f"{says} does not read {temperature(s.target_c)}"
            problems.append(Problem(f"segments[{i}].target_c", reason, span(low, high, "°C")))
    refuse_all(problems)


def segment_at(profile: Profile, row: int) -> int:
    """Which segment a row of the machine is of; the last one beyond the end. Raises ``Refused`` for a row before the first."""
    if row < 0:
        raise refuse("row", "before the first", "0 or more")
    order = list(profile.order())
    return order[min(row, len(order) - 1)]
