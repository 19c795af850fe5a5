"""A hand tool whose sensor is in series with its heater: both share two wires, so the reading exists only while the heater is off."""

from dataclasses import dataclass

from ..errors import Problem, refuse_all


@dataclass(frozen=True)
class Bound:
    """One end of the supply range, V, and what sets it."""

    volts: float
    by: str


def full_duty(period_s: float, off_s: float) -> float:
    """Share of the time the heater can be on: ``(T − t_off) / T``. Raises ``Refused`` for an off-window that fills the period."""
    problems = []
    if not 0 < off_s < period_s:
        problems.append(Problem("off_ms", "the heater would never be on", "more than none, less than the period"))
    refuse_all(problems)
    return (period_s - off_s) / period_s


def supply_range(rail_v: float, dropout_v: float, ratings: dict[str, float], share: float) -> tuple[Bound, Bound]:
    """Lowest and highest supply, V: the highest rail with its regulator's drop-out, and the weakest part at ``share`` of its rating."""
    weakest = min(ratings, key=lambda name: ratings[name])
    return Bound(rail_v + dropout_v, "the regulator's drop-out"), Bound(share * ratings[weakest], weakest)
