"""Settings chosen by hand, tried like any other candidate."""

from dataclasses import dataclass, replace
from math import inf, isfinite

from ..control.pid import PID
from ..control.settings import FULL_OUTPUT, ControllerSettings, InnerLoop, Mode
from ..errors import Problem, refuse, refuse_all
from ..setup.dictionary.inner import LOOPS, ONE, TWO
from ..setup.proposals.inner import rounded_down
from .candidates import Candidate, ProposedTuning
from .cascade import WIDEST_C
from .situation import Situation

BY_HAND = "by_hand"
BAND_C, INTEGRAL_S, DERIVATIVE_S, HYSTERESIS_C = (0.1, WIDEST_C), (1.0, 36_000.0), (0.0, 7200.0), (0.0, 100.0)
"""What is taken of each, °C and s (our choice: what controllers take)."""


@dataclass(frozen=True)
class HandNumbers:
    """``hysteresis_c`` alone is on/off. ``integral_time_s`` 0: none. With an ``inner_band_c`` there are two loops, and the other band is
    the outer one's."""

    proportional_band_c: float | None = None
    integral_time_s: float = 0.0
    derivative_time_s: float = 0.0
    hysteresis_c: float | None = None
    inner_band_c: float | None = None
    inner_integral_s: float = 0.0


def proposal_of(situation: Situation, numbers: HandNumbers) -> ProposedTuning:
    """Raises ``Refused`` for numbers no controller takes."""
    _check(numbers)
    if numbers.proportional_band_c is None:
        settings = replace(situation.settings, mode=Mode.ON_OFF, hysteresis_c=numbers.hysteresis_c or 0.0)
    else:
        integral = numbers.integral_time_s or inf
        settings = situation.with_pid(PID(100.0 / numbers.proportional_band_c, integral, numbers.derivative_time_s))
        settings = replace(settings, inner=_inner(situation, numbers))
    return ProposedTuning(BY_HAND, "By hand", "", "Your own numbers.", settings)


def _inner(situation: Situation, numbers: HandNumbers) -> InnerLoop | None:
    if numbers.inner_band_c is None:
        return None
    if situation.chamber is None:
        raise refuse("inner_band_c", "the rig has no second sensor at its heater", "nothing")
    ends = situation.chamber.asks_c(situation.ambient_c)
    return InnerLoop(FULL_OUTPUT / numbers.inner_band_c, numbers.inner_integral_s, *ends)


def numbers_of(settings: ControllerSettings) -> HandNumbers:
    """The numbers of settings, as :func:`proposal_of` takes them."""
    pid = settings.pid
    integral = pid.integral_time_s if isfinite(pid.integral_time_s) else 0.0
    inner = settings.inner
    at_heater = (inner.band_c, _entered_s(inner.integral_time_s)) if inner else (None, 0.0)
    return HandNumbers(pid.proportional_band_c, integral, pid.derivative_time_s, None, *at_heater)


def _entered_s(integral_s: float) -> float:
    """An integral time that is there stays there."""
    return max(float(round(integral_s)), INTEGRAL_S[0]) if 0.0 < integral_s < inf else 0.0


def as_entered(settings: ControllerSettings, at_heater: bool = False) -> dict[str, float | str]:
    """Settings as a sheet has them, rounded as a controller takes them: a tenth of a degree, whole seconds; an integral time that is there
    stays there. ``at_heater``: of a rig that may have two loops."""
    if settings.mode is Mode.ON_OFF:
        return {"mode": "on_off", "hysteresis_c": round(settings.hysteresis_c, 1)}
    told: dict[str, float | str] = {
        "mode": "pid",
        "proportional_band_c": max(round(settings.pid.proportional_band_c, 1), BAND_C[0]),
        "integral_time_s": _entered_s(settings.pid.integral_time_s),
        "derivative_time_s": float(round(settings.pid.derivative_time_s)),
    }
    band = settings.cooling
    if band is not None:
        told |= {"cool_above_c": round(band.above_c, 1), "cool_hysteresis_c": round(band.hysteresis_c, 1)}
    inner = settings.inner
    if inner is None:
        return {**told, LOOPS: ONE} if at_heater else told
    told |= {
        LOOPS: TWO,
        "inner_band_c": max(round(inner.band_c, 1), BAND_C[0]),
        "inner_integral_s": _entered_s(inner.integral_time_s),
        "inner_low_c": round(inner.low_c, 1),
        "inner_high_c": rounded_down(inner.high_c),
    }
    return told


def _check(numbers: HandNumbers) -> None:
    band, integral, hysteresis = numbers.proportional_band_c, numbers.integral_time_s, numbers.hysteresis_c
    if (band is None) == (hysteresis is None):
        raise refuse("proportional_band_c", "either a band or a hysteresis is needed, and not both", "one of the two")
    problems = []
    if hysteresis is not None and not _within(hysteresis, HYSTERESIS_C):
        problems.append(Problem("hysteresis_c", "is no hysteresis", _accepted(HYSTERESIS_C, "Δ°C")))
    if band is not None and not _within(band, BAND_C):
        problems.append(Problem("proportional_band_c", "is no proportional band", _accepted(BAND_C, "Δ°C")))
    if integral and not _within(integral, INTEGRAL_S):
        problems.append(
            Problem("integral_time_s", "is no integral time", f"0 for none, or {_accepted(INTEGRAL_S, 's')}")
        )
    if numbers.inner_band_c is not None and not _within(numbers.inner_band_c, BAND_C):
        problems.append(Problem("inner_band_c", "is no proportional band", _accepted(BAND_C, "Δ°C")))
    if numbers.inner_integral_s and not _within(numbers.inner_integral_s, INTEGRAL_S):
        problems.append(
            Problem("inner_integral_s", "is no integral time", f"0 for none, or {_accepted(INTEGRAL_S, 's')}")
        )
    if not _within(numbers.derivative_time_s, DERIVATIVE_S):
        problems.append(Problem("derivative_time_s", "is no derivative time", _accepted(DERIVATIVE_S, "s")))
    refuse_all(problems)


def _within(value: float, ends: tuple[float, float]) -> bool:
    return ends[0] <= value <= ends[1]


def _accepted(ends: tuple[float, float], unit: str) -> str:
    return f"{{{ends[0]:g}…{ends[1]:g} {unit}}}"


def check_stable(candidate: Candidate) -> None:
    """Raises ``Refused`` for settings with which the process that was found swings by itself."""
    if candidate.loop is not None and not isfinite(candidate.loop.margins.ms):
        raise refuse("candidate", "with the process as it was found this loop swings by itself", "a wider band")
