"""Which candidate suits what the user cares about most: by the worst of what may be, not by what was found."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import isfinite

from ..messages import difference, quantity
from .candidates import Candidate, Window, too_hot, worst_ms
from .robustness import CALM_MS, NERVOUS_MS
from .situation import Situation
from .trials import Trial

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


KEEPS = {
    Window.HOLDS: "hold the window",
    Window.MAY_LEAVE: "may leave the window with some of the rigs it may be",
    Window.LEAVES: "leave the window",
}
"""What the ones that are left to choose from do, best first."""


@dataclass(frozen=True)
class Shortlist:
    """What is chosen from: loops, and which they are in words; ``is_borne``: their Ms is."""

    loops: tuple[Candidate, ...]
    words: str
    is_borne: bool = True


def shortlist(situation: Situation, tried: Sequence[Candidate], most_ms: float = NERVOUS_MS) -> Shortlist:
    """Loops whose Ms stays below ``most_ms`` with all the processes it may be, without derivative where it is not earned; where there is
    none, with derivative; else the least nervous."""
    known = [c for c in tried if c.loop is not None and c.key != "now"]
    loops = [c for c in known if not too_hot(situation, c)] or known
    robust = [c for c in loops if worst_ms(c) < most_ms]
    plain = [c for c in robust if not c.proposal.settings.pid.derivative_time_s]
    below = f"loops with Ms below {most_ms:g} for all it may be"
    if robust and _earns_derivative(situation):
        return Shortlist(tuple(robust), below)
    if plain:
        return Shortlist(
            tuple(plain), f"{below}, without derivative (no second lag longer than the dead time was found)"
        )
    if robust:
        return Shortlist(tuple(robust), f"{below}, which there are with derivative only")
    least = f"no loop here has Ms below {most_ms:g} for all it may be, and this is the least nervous"
    return Shortlist((min(loops, key=worst_ms),), least, is_borne=False)


def choose(situation: Situation, tried: Sequence[Candidate]) -> dict[Priority, Choice]:
    """One of those that were put through a heat-up and a door, for each priority."""
    on_off = next(c for c in tried if c.key == "on_off")
    borne = shortlist(situation, tried)
    calm = shortlist(situation, tried, CALM_MS)
    calm = calm if calm.is_borne else borne
    none = _none(situation)

    def over(c: Candidate) -> float:
        return max(c.heat_up.worst.away_c, none)  # below it one is as good as another

    calmest = min(_best(calm.loops), key=lambda c: (over(c), _soon(c), _down(c)))
    fastest = min(_best(borne.loops), key=lambda c: (_soon(c), over(c), _down(c)))
    steady = min(_best(borne.loops), key=lambda c: (c.tried[Trial.DOOR].worst.mean_c, _down(c)))
    holding = _best((*borne.loops, on_off) if not too_hot(situation, on_off) else borne.loops)
    few = FEWER * min(_rate(c) for c in holding)
    gentle = min((c for c in holding if _rate(c) <= few), key=lambda c: (over(c), _soon(c), _down(c)))
    enough, door = _good_enough(on_off), steady.tried[Trial.DOOR].worst
    return {
        Priority.NO_OVERSHOOT: Choice(
            calmest.key, f"{_little(calmest, none)} {_of(calm.words, calmest)} {_costs(calmest, fastest)} {enough}"
        ),
        Priority.FAST: Choice(
            fastest.key, f"There soonest, {_by(fastest)}. {_over(fastest)} {_of(borne.words, fastest)} {enough}"
        ),
        Priority.STEADY: Choice(
            steady.key,
            f"Least off on average after a door, {difference(door.away_c, '.2g')} at the furthest. {_over(steady)} "
            f"{_of(borne.words, steady)} {enough}",
        ),
        Priority.GENTLE: Choice(
            gentle.key,
            f"Hardly any switches less, {_switches(gentle)}. {_over(gentle)} {_of(f'{borne.words}, and on/off', gentle)} {enough}",
        ),
    }


def front(tried: Sequence[Candidate]) -> tuple[str, ...]:
    """Keys of those that nothing beats in overshoot without being later, both at the worst; soonest first. What swings by itself, or with
    some rig is not there by the end, is left out."""
    there = [c for c in tried if isfinite(_soon(c)) and not (c.loop and not isfinite(c.loop.margins.ms))]
    best: list[Candidate] = []
    for c in sorted(there, key=lambda c: (_soon(c), c.heat_up.worst.away_c)):
        if not best or c.heat_up.worst.away_c < best[-1].heat_up.worst.away_c:
            best.append(c)
    return tuple(c.key for c in best)


def _none(situation: Situation) -> float:
    """An overshoot that is called none, °C."""
    room = max(situation.window_high_c - situation.settings.setpoint_c, 0.0)
    return max(DIGITS * situation.digit_c, min(OF_RISE * situation.rise_c, OF_WINDOW * room))


def _best(those: Sequence[Candidate]) -> list[Candidate]:
    """Those that keep the window best."""
    rank = list(Window).index
    least = min(rank(c.window) for c in those)
    return [c for c in those if rank(c.window) == least]


def _of(words: str, c: Candidate) -> str:
    return (
        f"Of {words}; those left {KEEPS[c.window]}."
        if not words.startswith("no ")
        else f"{words[:1].upper()}{words[1:]}."
    )


def _soon(c: Candidate) -> float:
    return c.heat_up.worst.back_s


def _down(c: Candidate) -> float:
    """How long a set-point that moves down takes, s, where that was tried: what is alike else is told apart by its cooler."""
    return c.tried[Trial.DOWN].worst.back_s if Trial.DOWN in c.tried else 0.0


def _switches(c: Candidate) -> str:
    rate = _rate(c)
    return f"about {quantity(rate, '/h', '.2g')}" if isfinite(rate) else "which is not known here"


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
        return "Hardly any that is proposed is there sooner."
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
