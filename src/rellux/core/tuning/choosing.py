"""Which candidate suits what the user cares about most: by the worst of what may be, not by what was found."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ..messages import difference, quantity
from .candidates import Candidate, Window, worst_ms
from .situation import Situation
from .trials import Trial

ROBUST_MS = 2.0
"""Largest Ms of a loop that is proposed (Åström & Hägglund, PID Controllers: 1.4 to 2.0)."""
CALM_MS = 1.6
"""And of one that is to keep from overshooting (from memory of the same: below it a loop is calm)."""
DIGITS, OF_RISE, OF_WINDOW = 2.0, 0.03, 0.25
"""An overshoot up to so many digits of the reading is called none; or up to so much of the rise, where it is no more than a quarter of what
the window has above the set-point (our choice)."""
SOONER = 0.9
"""Less than a tenth sooner is not called so (our choice)."""

FEWER = 1.2
"""Nor are so few more switchings more (our choice): a time-proportioned output's are its period's, whatever the numbers."""


class Priority(StrEnum):
    """What the user cares about most."""

    NO_OVERSHOOT = "no_overshoot"
    FAST = "fast"
    STEADY = "steady"
    GENTLE = "gentle"


@dataclass(frozen=True)
class Choice:
    """The candidate for a priority, why, and what it costs against the best of another kind."""

    key: str
    reason: str


NEAREST = {
    Window.HOLDS: " that hold the window",
    Window.MAY_LEAVE: "; with some of the rigs it may be each leaves the window",
    Window.LEAVES: "; none holds the window",
}
"""What is said of the best there is."""


def choose(situation: Situation, tried: Sequence[Candidate]) -> dict[Priority, Choice]:
    """One of those that were put through a heat-up and a door, for each priority."""
    rank = list(Window).index
    loops = [c for c in tried if c.loop is not None and c.key != "now"]
    plain = [c for c in loops if _earns_derivative(situation) or not c.proposal.settings.pid.derivative_time_s]
    robust = [c for c in plain if worst_ms(c) < ROBUST_MS] or [min(loops, key=worst_ms)]
    is_robust = worst_ms(robust[0]) < ROBUST_MS
    calm = [c for c in robust if worst_ms(c) <= CALM_MS] or robust
    room = max(situation.window_high_c - situation.settings.setpoint_c, 0.0)
    none = max(DIGITS * situation.digit_c, min(OF_RISE * situation.rise_c, OF_WINDOW * room))

    def over(c: Candidate) -> float:
        return max(c.heat_up.worst.away_c, none)  # below it one is as good as another

    def soon(c: Candidate) -> float:
        return c.heat_up.worst.back_s

    calmest = min(calm, key=lambda c: (rank(c.window), over(c), soon(c)))
    fastest = min(robust, key=lambda c: (rank(c.window), soon(c), over(c)))
    steady = min(robust, key=lambda c: (rank(c.window), c.tried[Trial.DOOR].worst.mean_c))
    on_off = next(c for c in tried if c.key == "on_off")
    offered = (*robust, on_off)
    holding = [c for c in offered if rank(c.window) == min(rank(o.window) for o in offered)]
    few = FEWER * min(_rate(c) for c in holding)
    gentle = min((c for c in holding if _rate(c) <= few), key=lambda c: (over(c), soon(c)))
    those = (
        "those with Ms below 2 for all it may be"
        if is_robust
        else "what there is: no loop here has Ms below 2 for all it may be,"
    )
    enough = _good_enough(on_off)
    return {
        Priority.NO_OVERSHOOT: Choice(calmest.key, f"{_little(calmest, none)} {_costs(calmest, fastest)} {enough}"),
        Priority.FAST: Choice(
            fastest.key,
            f"Settles soonest of {those}{NEAREST[fastest.window]}, {_by(fastest)}. {_over(fastest)} {enough}",
        ),
        Priority.STEADY: Choice(
            steady.key,
            f"Least off after a door of {those}{NEAREST[steady.window]}: {difference(steady.tried[Trial.DOOR].worst.away_c, '.2g')} at "
            f"the most. {_over(steady)} {enough}",
        ),
        Priority.GENTLE: Choice(
            gentle.key, f"Fewest switchings of {those}, and on/off{NEAREST[gentle.window]}. {_over(gentle)} {enough}"
        ),
    }


def _earns_derivative(situation: Situation) -> bool:
    """Derivative is proposed where a second lag longer than the dead time was found (Skogestad 2003): elsewhere it mostly carries noise."""
    return situation.model is not None and situation.model.second_lag_s > situation.model.dead_time_s


def _rate(c: Candidate) -> float:
    return c.metrics.switch_rate.value if c.metrics.switch_rate else float("inf")


def _little(c: Candidate, none: float) -> str:
    worst = c.heat_up.worst.away_c
    if worst <= none:
        return f"No overshoot to speak of, {_most(c)}, and of those the soonest, {_by(c)}."
    return f"Least overshoot, {_most(c)}."


def _most(c: Candidate) -> str:
    return f"{difference(c.heat_up.worst.away_c, '.2g')} at the most"


def _over(c: Candidate) -> str:
    return f"Overshoot: {_most(c)}."


def _by(c: Candidate) -> str:
    back = c.heat_up.worst.back_s
    if back == float("inf"):
        return "with some of the rigs it may be not within the time simulated"
    return f"after {quantity(back / 60.0, 'min', '.0f')} at the latest"


def _costs(calmest: Candidate, fastest: Candidate) -> str:
    if fastest.heat_up.worst.back_s > SOONER * calmest.heat_up.worst.back_s:
        return "Hardly any is there sooner."
    return f"What it costs: {fastest.proposal.name} is there {_by(fastest)}, with {_most(fastest)} over."


def _good_enough(on_off: Candidate) -> str:
    swing = difference(on_off.metrics.ripple.value if on_off.metrics.ripple else 0.0, ".2g")
    return (
        f"On/off would swing {swing} peak to peak"
        + {
            Window.HOLDS: ", inside the window: it is good enough if you like it simple.",
            Window.MAY_LEAVE: ", inside the window as it was found, but with some of the rigs it may be it leaves it.",
            Window.LEAVES: " and leave the window.",
        }[on_off.window]
    )
