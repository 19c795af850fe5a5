"""What is asked of a rig on the bench: thermal cycling, steps to calibrate at, presets of a hot tool, set-points by the season."""

from dataclasses import dataclass

from ...errors import Problem, refuse_all
from ...form import number, rows
from ...messages import temperature
from ...units import Kind
from ..profile import Loop, Profile, Segment, SegmentKind, WaitFor
from ..scoring import Score, Seen, Span, lowest, peak, score, span_between
from .kind import HOLD, OFF, PRACTICE, Places, ProfileKind, ramp, soak, step


@dataclass(frozen=True)
class Cycling:
    """Between two temperatures, with a dwell at each."""

    low_c: float = number("Cold", Kind.TEMPERATURE, -60, 500, 30.0)
    high_c: float = number("Hot", Kind.TEMPERATURE, -40, 1000, 80.0)
    rate_c_per_min: float = number("At", Kind.RATE, 0.05, 200, 2.0)
    dwell_s: float = number("Dwell at each", Kind.TIME, 5, 86_400, 900.0)
    band_c: float = number("within", Kind.DIFFERENCE, 0.2, 30, 3.0)
    cycles: float = number("Cycles", Kind.COUNT, 2, 400, 10.0)


def _cycling(g: Cycling) -> Profile:
    if g.low_c >= g.high_c:
        refuse_all([Problem("low_c", f"not colder than {temperature(g.high_c)}", f"below {temperature(g.high_c)}")])
    turn = (
        ramp(g.high_c, g.rate_c_per_min),
        soak(g.dwell_s, g.band_c),
        ramp(g.low_c, g.rate_c_per_min),
        soak(g.dwell_s, g.band_c),
    )
    return Profile((*turn, OFF), (Loop(1, len(turn), int(g.cycles)),))


def _judge_cycling(g: Cycling, places: Places) -> tuple[Score, ...]:
    hot, cold = dwells(places.coldest, g.high_c, g.band_c), dwells(places.hottest, g.low_c, g.band_c)
    return (
        score("cycles", "dwells at the hot end", PRACTICE, Kind.COUNT, _counted(hot, g), g.cycles),
        score("shortest", "shortest dwell at the hot end", PRACTICE, Kind.TIME, _shortest(hot), g.dwell_s),
        score("cold", "shortest dwell at the cold end", PRACTICE, Kind.TIME, _shortest(cold), g.dwell_s),
        score("peak", "hottest", PRACTICE, Kind.TEMPERATURE, peak(places.hottest), most=g.high_c + g.band_c),
    )


def dwells(seen: Seen, celsius: float, band_c: float) -> list[Span]:
    """How long it stayed within a band each time it was there, s: the last reading inside less the first. A gap inside, or at an
    end, leaves open how long it was."""
    inside = (seen.celsius >= celsius - band_c) & (seen.celsius <= celsius + band_c)
    found = []
    i, n = 0, len(inside)
    while i < n:
        if not inside[i]:
            i += 1
            continue
        j = i
        while j + 1 < n and inside[j + 1]:
            j += 1
        t = seen.time_s
        known = float(t[j] - t[i])
        gaps = float(sum(t[k + 1] - t[k] for k in range(i, j) if seen.breaks[k]))
        before = float(t[i] - t[i - 1]) if i and seen.breaks[i - 1] else 0.0
        after = float(t[j + 1] - t[j]) if j + 1 < n and seen.breaks[j] else 0.0
        found.append(Span(known, known - gaps, known + before + after))
        i = j + 1
    return found


def _counted(found: list[Span], g: Cycling) -> Span:
    def long_enough(ends: list[float]) -> float:
        return float(sum(end >= g.dwell_s * ALMOST for end in ends))

    return Span(
        long_enough([s.value for s in found]), long_enough([s.low for s in found]), long_enough([s.high for s in found])
    )


ALMOST = 0.98
"""A dwell that lacks so little counts: a reading falls between two polls (our choice)."""


def _shortest(found: list[Span]) -> Span | None:
    return min(found, key=lambda s: s.low, default=None)


@dataclass(frozen=True)
class Level:
    """One temperature to settle at."""

    celsius: float = number("At", Kind.TEMPERATURE, -60, 1700, 100.0)
    hold_s: float = number("for", Kind.TIME, 60, 86_400, 1800.0)


@dataclass(frozen=True)
class Steps:
    """Levels at which a comparison is read."""

    levels: tuple[Level, ...] = rows("Levels", Level, (Level(40.0), Level(50.0), Level(60.0)), 1, 20)
    band_c: float = number("Steady within", Kind.DIFFERENCE, 0.05, 10, 0.5)
    read_s: float = number("for the comparison", Kind.TIME, 30, 7200, 300.0)


def _steps(g: Steps) -> Profile:
    segments: list[Segment] = []
    for level in g.levels:
        segments += [step(level.celsius), soak(level.hold_s, g.band_c, "read once it is steady")]
        segments.append(Segment(SegmentKind.WAIT, wait=WaitFor.PERSON, says="write both readings down"))
    return Profile((*segments, OFF))


def _judge_steps(g: Steps, places: Places) -> tuple[Score, ...]:
    found = []
    for i, level in enumerate(g.levels):
        longest = max(
            dwells(places.coldest, level.celsius, g.band_c), key=lambda s: s.value, default=Span(0.0, 0.0, 0.0)
        )
        found.append(
            score(f"level{i}", f"steady at {temperature(level.celsius)}", PRACTICE, Kind.TIME, longest, g.read_s)
        )
    return tuple(found)


@dataclass(frozen=True)
class Presets:
    """A hot tool left alone: work, then standby, then sleep; a boost for a while before."""

    work_c: float = number("Work", Kind.TEMPERATURE, 40, 500, 330.0)
    boost_c: float = number("Boost", Kind.TEMPERATURE, 40, 520, 370.0)
    boost_s: float = number("for", Kind.TIME, 0, 600, 30.0)
    work_s: float = number("Left alone, standby after", Kind.TIME, 30, 7200, 300.0)
    standby_c: float = number("Standby", Kind.TEMPERATURE, 30, 400, 200.0)
    standby_s: float = number("sleep after", Kind.TIME, 30, 7200, 900.0)


def _presets(g: Presets) -> Profile:
    problems = []
    if not g.standby_c < g.work_c <= g.boost_c:
        problems.append(Problem("work_c", "standby, work and boost must rise", f"above {temperature(g.standby_c)}"))
    refuse_all(problems)
    boost = (step(g.boost_c, "boost"), soak(g.boost_s)) if g.boost_s else ()
    return Profile(
        (
            *boost,
            step(g.work_c, "work"),
            soak(g.work_s),
            step(g.standby_c, "standby"),
            soak(g.standby_s, says="asleep after it"),
            OFF,
        )
    )


def _judge_presets(g: Presets, places: Places) -> tuple[Score, ...]:
    last = places.coldest.time_s[-1]
    seen = places.coldest
    end = Seen(seen.time_s[-SOME:], seen.celsius[-SOME:], seen.breaks[-SOME + 1 :])
    asleep = peak(end) if last - places.coldest.time_s[0] > g.boost_s + g.work_s + g.standby_s else None
    return (
        score("hot", "hottest", PRACTICE, Kind.TEMPERATURE, peak(places.hottest), most=g.boost_c + OVER_C),
        score(
            "asleep", "at the end", PRACTICE, Kind.TEMPERATURE, asleep, most=g.standby_c, none="the run ends before it was to sleep"
        ),
    )  # fmt: skip


SOME, OVER_C = 10, 10.0
"""Readings at the end that tell whether it sleeps; a tip may pass its set-point so far (our choice)."""


@dataclass(frozen=True)
class Seasonal:
    """A day of a tank or a room: comfort and set-back, with what it must never leave."""

    comfort_c: float = number("Comfort", Kind.TEMPERATURE, 5, 95, 55.0)
    comfort_s: float = number("for", Kind.TIME, 600, 86_400, 16 * 3600.0)
    back_c: float = number("Set back to", Kind.TEMPERATURE, 4, 95, 45.0)
    least_c: float = number("Never below", Kind.TEMPERATURE, 0, 90, 40.0, hint="condensation in a boiler, frost, germs")
    most_c: float = number("Never above", Kind.TEMPERATURE, 10, 99, 85.0, hint="an open vessel must not boil")
    days: float = number("Days", Kind.COUNT, 2, 50, 7.0)


DAY_S = 86_400.0


def _seasonal(g: Seasonal) -> Profile:
    problems = []
    if not g.least_c <= g.back_c < g.comfort_c <= g.most_c:
        problems.append(
            Problem(
                "back_c", "never below, set back, comfort and never above must rise in this order", "values that rise"
            )
        )
    if not g.comfort_s < DAY_S:
        problems.append(Problem("comfort_s", "a day has 24 hours", "less than {24 h}"))
    refuse_all(problems)
    day = (step(g.comfort_c, "comfort"), soak(g.comfort_s), step(g.back_c, "set back"), soak(DAY_S - g.comfort_s))
    return Profile((*day, HOLD), (Loop(1, len(day), int(g.days)),))


def _judge_seasonal(g: Seasonal, places: Places) -> tuple[Score, ...]:
    near = span_between(places.coldest, g.comfort_c - NEAR_C, g.comfort_c + NEAR_C)
    return (
        score("cold", "coldest", PRACTICE, Kind.TEMPERATURE, lowest(places.coldest), least=g.least_c),
        score("hot", "hottest", PRACTICE, Kind.TEMPERATURE, peak(places.hottest), most=g.most_c),
        score("comfort", "at comfort", PRACTICE, Kind.TIME, near, g.comfort_s * KEPT),
    )


NEAR_C, KEPT = 2.0, 0.8
"""Comfort counts within so much, for most of its time: warming up takes some of it (our choice)."""

CYCLING = ProfileKind("cycling", "Thermal cycling", Cycling, _cycling, _judge_cycling, source=PRACTICE)
STEPS = ProfileKind("steps", "Steps to calibrate at", Steps, _steps, _judge_steps, source=PRACTICE)
PRESETS = ProfileKind(
    "presets", "Presets of a hot tool", Presets, _presets, _judge_presets, source=PRACTICE,
    caution="A tool on standby still burns skin and sets paper alight.",
)  # fmt: skip
SEASONAL = ProfileKind(
    "seasonal", "Set-points by the season", Seasonal, _seasonal, _judge_seasonal, source=PRACTICE,
    caution="Hot water that stands lukewarm breeds germs, and scalds when it is hot: local rules go first.",
)  # fmt: skip
