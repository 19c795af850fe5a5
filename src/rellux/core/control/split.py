"""One signed output for two actuators: above nothing it heats, below it cools, and near nothing it does neither.

Each side has a gain of its own, so that a change of the reading is answered as fast either way: their gains go against each other as the
rates at which full output moves the reading. Common practice, no source.
"""

from dataclasses import dataclass

from ..errors import Problem, refuse_all
from .settings import FULL_OUTPUT


@dataclass(frozen=True)
class SplitOutput:
    """Gains of both sides, %/°C, and between their thresholds the dead band, °C. Raises ``Refused`` for sides that would overlap."""

    heat_gain: float
    cool_gain: float
    dead_band_c: float

    def __post_init__(self) -> None:
        problems = []
        if not (self.heat_gain > 0 and self.cool_gain > 0):
            problems.append(Problem("heat_gain", "each side needs a gain", "> 0 %/°C"))
        if not self.dead_band_c >= 0:
            problems.append(
                Problem("dead_band_c", "the sides would overlap and work against each other", "{0 Δ°C} or more")
            )
        refuse_all(problems)

    def shares(self, asked_c: float) -> tuple[float, float]:
        """Heating and cooling, %, for what proportional and integral action ask together in °C of deviation: never both.

        >>> SplitOutput(10.0, 5.0, 1.0).shares(2.5), SplitOutput(10.0, 5.0, 1.0).shares(-2.5), SplitOutput(10.0, 5.0, 1.0).shares(0.4)
        ((20.0, 0.0), (0.0, 10.0), (0.0, 0.0))
        """
        half = self.dead_band_c / 2.0
        heat, cool = self.heat_gain * max(asked_c - half, 0.0), self.cool_gain * max(-asked_c - half, 0.0)
        return min(heat, float(FULL_OUTPUT)), min(cool, float(FULL_OUTPUT))


def split_output(heat_gain: float, heats_c_min: float, cools_c_min: float, dead_band_c: float) -> SplitOutput:
    """Both sides answering alike: ``K_cool = K_heat · r_heat / r_cool``, the rates in °C/min at full output (any one unit).

    >>> split_output(10.0, 6.0, 2.0, 1.0).cool_gain
    30.0
    """
    return SplitOutput(heat_gain, heat_gain * heats_c_min / cools_c_min, dead_band_c)
