"""What a relay test says of the limit of stability: the describing function's estimate, and how far it is off on this process.

``K_u ≈ 4 d/(π √(a² − ε²))`` with d half the step of the output, a half the swing, ε half the hysteresis (Åström & Hägglund, Automatica 20,
1984). It takes the swing for a sine: on a lag-dominant process, which swings in triangles, it is 17 to 19 % low, and the period of a
lop-sided swing is longer than P_u. The model fitted to the cycles has neither fault.
"""

from dataclasses import dataclass
from math import pi, sqrt

from ...errors import refuse
from ...explain import Figure, Input
from ...units import Kind
from ..rules.limit import Limit


@dataclass(frozen=True)
class Estimated:
    """By the describing function, and by the model; ``off``: the first as a share of the second, less one."""

    by_function: Limit
    by_model: Limit | None

    @property
    def gain_off(self) -> float | None:
        return self.by_function.gain / self.by_model.gain - 1.0 if self.by_model else None

    @property
    def period_off(self) -> float | None:
        return self.by_function.period_s / self.by_model.period_s - 1.0 if self.by_model else None


def estimated(step: float, swing_c: float, hysteresis_c: float, period_s: float, model: Limit | None) -> Estimated:
    """From half the output step in %, the whole swing and the whole hysteresis in °C. Raises ``Refused`` for a swing no wider than the
    hysteresis: then nothing but the relay was seen."""
    half, inner = swing_c / 2.0, hysteresis_c / 2.0
    if not step > 0.0:
        raise refuse("step", "the output did not move", "more than {0 %}")
    if not half > inner >= 0.0:
        raise refuse("swing_c", "it is no wider than the hysteresis", "a wider swing, or a smaller hysteresis")
    return Estimated(Limit(4.0 * step / (pi * sqrt(half**2 - inner**2)), period_s), model)


def limit_figures(found: Estimated, step: float, swing_c: float, hysteresis_c: float) -> tuple[Figure, ...]:
    """Both estimates of gain and period at the limit, each with how it was found."""
    seen = (
        Input("half the step of the output", step, Kind.PERCENT, "d", "test"),
        Input("half the swing", swing_c / 2.0, Kind.DIFFERENCE, "a", "test"),
        Input("half the hysteresis", hysteresis_c / 2.0, Kind.DIFFERENCE, "ε", "test"),
    )
    told = [
        Figure("gain at the limit, as controllers reckon it", found.by_function.gain, Kind.PERCENT_PER_DEGREE,
               formula="K_u = 4 d / (π √(a² − ε²))", inputs=seen, symbol="K_u", reason=_off(found.gain_off, "gain"),
               source="Åström & Hägglund 1984, describing function"),
        Figure("period of the swing", found.by_function.period_s, Kind.TIME, formula="measured from cycle to cycle", inputs=seen[:1],
               symbol="P_u", reason=_off(found.period_off, "period")),
    ]  # fmt: skip
    if found.by_model:
        told += [
            Figure("gain at the limit, by the model", found.by_model.gain, Kind.PERCENT_PER_DEGREE, formula="1 / |P(jω)| at −180°",
                   symbol="K_u", reason="From the process that was fitted, dead time exact."),
            Figure("period at the limit, by the model", found.by_model.period_s, Kind.TIME, formula="2π / ω at −180°", symbol="P_u",
                   reason="From the process that was fitted, dead time exact."),
        ]  # fmt: skip
    return tuple(told)


def _off(share: float | None, what: str) -> str:
    if share is None:
        return "No gain makes the model that was fitted swing: there is nothing to compare with."
    if abs(share) < AGREES:
        return f"The {what} of the model is the same, nearly."
    return f"{abs(share):.0%} {'more' if share > 0 else 'less'} than the {what} of the model that was fitted: take the model’s."


AGREES = 0.03
"""Estimates nearer than this are the same (our choice)."""
