"""Tuning by hand as practitioners do it: three schools, each as a path with what to change, what to watch and when to stop, and with the
numbers this rig will stop at by its model (common practice, no source).
"""

from dataclasses import dataclass, replace
from math import inf

from ..control.pid import PID
from ..messages import difference, quantity
from .hand import BAND_C, DERIVATIVE_S, INTEGRAL_S, HandNumbers
from .loop_figures import loop_of
from .situation import Situation

MOST_MS = 1.8
"""A path ends where the worst of what may be has no more (our choice within Åström & Hägglund's 1.4 to 2.0)."""
WIDE_FIRST = 4.0
"""A search begins with so many times the band at which it will end."""
WAITS = 3.0
"""So many periods are waited before the next change."""
LIGHT_S, HEAVY = 1200.0, 10.0
"""A light oven has a lag up to so long, s; a heavy mass one of so many dead times at the least (our choice)."""
LONG_INTEGRAL, DERIVATIVE = 20.0, 0.5
"""Of the narrow band: integral and derivative time in dead times (common practice: many minutes, and a fraction of it)."""
HALVINGS, CLOSE, WIDER, LONGER = 40, 1.02, 1.15, 30
AFTER_INTEGRAL = 1.1
"""With integral the band is a tenth wider (Ziegler & Nichols 1942: 0.45 instead of 0.5)."""


@dataclass(frozen=True)
class SchoolStep:
    """``do``, ``watch`` and ``until`` in words; ``numbers`` to rehearse it with, where it has some."""

    do: str
    watch: str
    until: str
    numbers: HandNumbers | None = None


@dataclass(frozen=True)
class TuningSchool:
    """``suits``: what it is for; ``fits``: whether this rig is of that kind; ``ends``: where it will end on this rig, or why not."""

    key: str
    name: str
    suits: str
    fits: bool
    steps: tuple[SchoolStep, ...]
    ends: str


def schools(situation: Situation) -> tuple[TuningSchool, ...]:
    """The three, those that suit this rig first. They end with numbers whose Ms stays below 1.8 on all it may be."""
    found = (_raise_and_halve(situation), _proportional(situation), _narrow(situation))
    first = situation.now is not None and situation.now.inner is not None
    told = [_of_one_loop(s) if first else s for s in found if s]
    return tuple(sorted(told, key=lambda s: not s.fits))


def _of_one_loop(school: TuningSchool) -> TuningSchool:
    """On a controller that has two at work: their numbers are not those of one."""
    begins, *others = school.steps
    return replace(school, steps=(replace(begins, do=f"One loop, not two. {begins.do}"), *others))


def _calm_band(situation: Situation, integral_s: float, derivative_s: float) -> float | None:
    """The narrowest band, °C, with these times that nowhere swings more than is borne; ``None`` where none does."""
    low, high = BAND_C
    if not _calm(situation, PID(100.0 / high, integral_s, derivative_s)):
        return None
    for _ in range(HALVINGS):
        middle = (low * high) ** 0.5
        if _calm(situation, PID(100.0 / middle, integral_s, derivative_s)):
            high = middle
        else:
            low = middle
        if high < CLOSE * low:
            break
    return high


def _calm_integral(situation: Situation, band_c: float, period_s: float) -> float | None:
    """The shortest integral time, s, with which this band swings no more than is borne."""
    for tried in range(LONGER):
        integral = period_s * WIDER**tried
        if _calm(situation, PID(100.0 / band_c, integral)):
            return integral
    return None


def _numbers(band_c: float, integral_s: float = 0.0, derivative_s: float = 0.0) -> HandNumbers:
    """What a controller takes of it."""
    integral = min(integral_s, INTEGRAL_S[1])
    return HandNumbers(min(max(band_c, BAND_C[0]), BAND_C[1]), integral, min(derivative_s, DERIVATIVE_S[1]))


def _calm(situation: Situation, pid: PID) -> bool:
    return loop_of(situation, situation.with_pid(pid)).worst_ms <= MOST_MS


def _raise_and_halve(situation: Situation) -> TuningSchool | None:
    limit = situation.known.limit
    if limit is None:
        return None
    band, period = 100.0 / limit.gain, limit.period_s
    wait = quantity(WAITS * period / 60.0, "min", ".1f")
    plain = _calm_band(situation, inf, 0.0)
    if plain is None:
        return None
    halved = max(2.0 * band, plain)
    integral = _calm_integral(situation, AFTER_INTEGRAL * halved, period)
    last = _numbers(AFTER_INTEGRAL * halved, integral) if integral else None
    steps = (
        SchoolStep(
            f"Integral and derivative off. A band of {difference(WIDE_FIRST * band, '.2g')}.",
            "It settles below the set-point: that is as it must be without integral.",
            f"It is quiet for {wait}.",
            _numbers(WIDE_FIRST * band),
        ),
        SchoolStep(
            f"Narrow the band by a quarter, and wait {wait}; again and again.",
            "Does the swing die out, or stay?",
            f"It just keeps swinging: here at about {difference(band, '.2g')}, once in {quantity(period / 60.0, 'min', '.1f')}. "
            "Much sooner or later than that: the process is another one, learn it anew.",
        ),
        SchoolStep(
            f"Twice that band, and here no narrower than {difference(halved, '.2g')}.",
            "It settles quickly, still below the set-point.",
            "It is quiet.",
            _numbers(halved),
        ),
        SchoolStep(
            f"The band a tenth wider, {difference(AFTER_INTEGRAL * halved, '.2g')}, and integral from long to short, down to "
            f"{quantity((integral or period) / 60.0, 'min', '.1f')}.",
            "The standing error goes; a slow roll means it is too short.",
            "The error is gone without a roll. Derivative only if the reading is quiet, an eighth of the period at the most.",
            last,
        ),
    )
    return TuningSchool(
        "raise_and_halve", "Raise until it just swings, then halve", "Anything that may swing for a while without harm.", True, steps,
        _ends(last, situation),
    )  # fmt: skip


def _proportional(situation: Situation) -> TuningSchool | None:
    process = situation.known.one
    band = _calm_band(situation, inf, 0.0)
    ends = _calm_band(situation, process.lag_s, 0.0)
    if band is None or ends is None:
        return None
    last = _numbers(ends, process.lag_s)
    steps = (
        SchoolStep(
            f"Look often: every {quantity(process.dead_time_s / 4.0, 's', '.2g')} or oftener. Integral and derivative off, a band of "
            f"{difference(WIDE_FIRST * band, '.2g')}.",
            "How far below the set-point it rests.",
            "It rests.",
            _numbers(WIDE_FIRST * band),
        ),
        SchoolStep(
            f"Narrow the band down to {difference(band, '.2g')}.",
            "A step of a few degrees: one small overshoot, then quiet.",
            "It answers quickly and does not ring.",
            _numbers(band),
        ),
        SchoolStep(
            f"A little integral: {quantity(process.lag_s / 60.0, 'min', '.1f')}, as long as the rig is slow. No derivative: "
            "it would carry the fan’s and the display’s unrest to the heater.",
            "The rest of the error goes within some of these times.",
            "The error is gone.",
            last,
        ),
    )
    return TuningSchool(
        "proportional", "Mostly proportional, no derivative", "Light ovens with a strong heater.", process.lag_s <= LIGHT_S, steps,
        _ends(last, situation),
    )  # fmt: skip


def _narrow(situation: Situation) -> TuningSchool | None:
    process = situation.known.one
    integral, derivative = LONG_INTEGRAL * process.dead_time_s, DERIVATIVE * process.dead_time_s
    band = _calm_band(situation, integral, derivative)
    if band is None:
        return None
    wanted = situation.window_high_c - situation.window_low_c
    narrow = max(band, wanted)
    last = _numbers(narrow, integral, derivative)
    steps = (
        SchoolStep(
            f"Warm it through first, with a wide band of {difference(WIDE_FIRST * narrow, '.2g')} and an integral time of "
            f"{quantity(integral / 60.0, 'min', '.0f')}.",
            "A heavy mass takes its time: nothing is judged before it is warm through.",
            "The output has been the same for an hour.",
            _numbers(WIDE_FIRST * narrow, integral),
        ),
        SchoolStep(
            f"Derivative of {quantity(derivative, 's', '.2g')}.",
            "Unrest of the output: the reading must be quiet enough for it.",
            "The output stays within a few per cent.",
            _numbers(WIDE_FIRST * narrow, integral, derivative),
        ),
        SchoolStep(
            f"Narrow the band to about what may be off: {difference(wanted, '.2g')} here"
            + (
                "."
                if wanted >= band
                else f", but no narrower than {difference(band, '.2g')}: below that it gets nervous here."
            ),
            "A step of a degree: it must die out.",
            "It holds within what may be off.",
            last,
        ),
    )
    heavy = process.lag_s >= HEAVY * process.dead_time_s and process.lag_s > LIGHT_S
    return TuningSchool(
        "narrow", "Narrow band, long integral, much derivative", "Big slow masses that are held within tenths.", heavy, steps,
        _ends(last, situation),
    )  # fmt: skip


def _ends(last: HandNumbers | None, situation: Situation) -> str:
    if last is None or last.proportional_band_c is None:
        return "On this rig it does not end calmly: with such an integral some of what it may be swings at any band."
    pid = PID(100.0 / last.proportional_band_c, last.integral_time_s or inf, last.derivative_time_s)
    worst = loop_of(situation, situation.with_pid(pid)).worst_ms
    return f"On this rig it will end near a band of {difference(last.proportional_band_c, '.2g')}, with Ms up to {worst:.2g}."
