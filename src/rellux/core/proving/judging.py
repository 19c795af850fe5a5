"""What was seen or measured at a step, judged; a number in the wrong unit is asked back."""

from dataclasses import dataclass
from enum import StrEnum
from math import inf, isfinite

from ..errors import Problem, Refused, refuse
from ..messages import SECONDS_S, quantity, span
from ..units import UNIT, Kind, celsius_from_fahrenheit
from .step import Measure, ProvingStep

SLIPS: dict[Kind, tuple[tuple[str, float], ...]] = {
    Kind.RESISTANCE: (("kΩ for Ω", 1e3), ("MΩ for Ω", 1e6), ("mΩ for Ω", 1e-3)),
    Kind.VOLTAGE: (("kV for V", 1e3), ("mV for V", 1e-3)),
    Kind.TIME: (("ms for s", 1e-3), ("minutes for s", 60.0), ("hours for s", 3600.0)),
}
"""Units that are mistaken for one another: what was typed, times the factor, is what was read. Degrees are told apart besides."""
LEAST_SHARE = 0.05
"""Of the most that passes: where anything down to nothing passes, a slip is only asked about from here on (our choice)."""
LARGE_OHM = 10_000.0
"""From here on ohms are said in thousands."""
LONGEST_WHY = 400
LEAST_WHY = 3


class StepVerdict(StrEnum):
    """How a step went: as it must, or not, or left out for a reason."""

    PASSED = "passed"
    FAILED = "failed"
    SKIPPED = "skipped"


@dataclass(frozen=True)
class SeenAtStep:
    """What somebody saw. ``value``: a number in the core’s unit, and for a quotient ``divided_by`` what it is to be divided by; ``beyond``:
    more than the meter’s range; ``as_told``: whether what must be seen was seen; ``skipped``: why it is left out; ``sure``: that the unit
    was meant so; ``remark``: whatever else."""

    value: float | None = None
    divided_by: float | None = None
    beyond: bool = False
    as_told: bool | None = None
    skipped: str = ""
    sure: bool = False
    remark: str = ""


@dataclass(frozen=True)
class JudgedStep:
    """``number``: what was measured, infinite beyond range; ``None`` where nothing was."""

    verdict: StepVerdict
    says: str
    number: float | None = None


def judge_step(step: ProvingStep, seen: SeenAtStep) -> JudgedStep:
    """Raises ``Refused`` where nothing was seen nor a reason given, for numbers that cannot be, and for one that fits in another unit."""
    for name, words in (("skipped", seen.skipped), ("remark", seen.remark)):
        if len(words) > LONGEST_WHY:
            raise refuse(name, f"{len(words)} letters", f"up to {LONGEST_WHY}")
    if step.elsewhere:
        raise refuse("step", "this one is proved elsewhere, not ticked here", f"under {step.elsewhere.capitalize()}")
    if seen.skipped.strip():
        if len(seen.skipped.strip()) < LEAST_WHY:
            raise refuse("skipped", "says too little of why it is left out", "a few words")
        return JudgedStep(StepVerdict.SKIPPED, seen.skipped.strip())
    number = _number(step.measure, seen) if step.measure else None
    if step.measure is None and seen.value is not None:
        raise refuse("value", "nothing is measured at this step", "seen or not")
    if seen.as_told is None:
        raise refuse("as_told", f"was it so? {step.must}", "yes or no")
    if step.measure and number is not None and not _fits(step.measure, number):
        if not seen.sure and (slip := _slip(step.measure, number)):
            raise Refused(
                Problem(
                    "sure",
                    f"{_said(step.measure, number)} is far off, but as {slip} it fits: which was it?",
                    accepted(step.measure),
                )
            )
        return JudgedStep(
            StepVerdict.FAILED, f"{_said(step.measure, number)}, expected {accepted(step.measure)}.", number
        )
    if not seen.as_told:
        return JudgedStep(StepVerdict.FAILED, f"It was not so: {step.must}", number)
    if step.measure and number is not None:
        return JudgedStep(
            StepVerdict.PASSED, f"{_said(step.measure, number)}, expected {accepted(step.measure)}.", number
        )
    return JudgedStep(StepVerdict.PASSED, "Seen as it must be.")


def accepted(measure: Measure) -> str:
    """The range that passes, in words."""
    if measure.low is None or measure.high is None:
        end = measure.high if measure.low is None else measure.low
        words = "at most" if measure.low is None else "at least"
        return f"{words} {_worded(end or 0.0, measure.kind)}"
    times, unit = _scale(measure.high, measure.kind)
    return span(measure.low * times, measure.high * times, unit, ".3g" if times < 1 else ".4g")


def _scale(value: float, kind: Kind) -> tuple[float, str]:
    """A factor and the unit in which somebody would say a value of a kind."""
    if kind is Kind.RESISTANCE and abs(value) >= LARGE_OHM:
        return 1e-3, "kΩ"
    if kind is Kind.TIME and abs(value) >= SECONDS_S:
        return 1.0 / 60.0, "min"
    return 1.0, "°C" if kind is Kind.TEMPERATURE else UNIT[kind]


def _worded(value: float, kind: Kind) -> str:
    times, unit = _scale(value, kind)
    return quantity(value * times, unit, ".4g")


def _number(measure: Measure, seen: SeenAtStep) -> float:
    if seen.beyond:
        if measure.kind is not Kind.RESISTANCE:
            raise refuse("beyond", "only ohms are beyond a meter’s range when nothing is wrong with it", "a number")
        return inf
    if seen.value is None:
        raise refuse("value", "what was measured?", accepted(measure))
    if not isfinite(seen.value):
        raise refuse("value", "is no number", accepted(measure))
    if measure.kind is not Kind.TEMPERATURE and measure.kind is not Kind.DIFFERENCE and seen.value < 0:
        if measure.kind is Kind.VOLTAGE:
            raise refuse(
                "value",
                f"{quantity(seen.value, 'V')}: the sign says that the leads, or the wires, are swapped",
                accepted(measure),
            )
        raise refuse("value", "cannot be negative", accepted(measure))
    if not measure.divided:
        return seen.value
    if seen.divided_by is None or not isfinite(seen.divided_by) or seen.divided_by <= 0:
        raise refuse("divided_by", "how many amperes?", "more than 0")
    return seen.value / seen.divided_by


def _fits(measure: Measure, number: float) -> bool:
    return (measure.low is None or number >= measure.low) and (measure.high is None or number <= measure.high)


def _slip(measure: Measure, number: float) -> str:
    """In which other unit the number would fit; nothing where both ends are not known: anything would."""
    low, high = measure.low, measure.high
    if low is None or high is None or measure.divided or not isfinite(number):
        return ""
    if measure.kind is Kind.TEMPERATURE:
        return "°F for °C" if _fits(measure, celsius_from_fahrenheit(number)) else ""
    least = low if low > 0 else LEAST_SHARE * high
    return next((words for words, factor in SLIPS.get(measure.kind, ()) if least <= number * factor <= high), "")


def _said(measure: Measure, number: float) -> str:
    return _worded(number, measure.kind) if isfinite(number) else "Beyond the meter’s range"
