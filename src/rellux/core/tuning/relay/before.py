"""What to see to before a relay test: what it would set off, what must not be near it, and when to stop it."""

from collections.abc import Iterable
from dataclasses import dataclass
from math import floor, inf

from ...control.settings import FULL_OUTPUT
from ...errors import Refused
from ...explain import Figure, Input
from ...messages import quantity, temperature
from ...units import Kind
from ..situation import Situation, effective_dead_time
from ..truths import judged_on
from .experiment import (
    DEADS_WITHOUT_ANSWER,
    TENTH,
    Edge,
    RelayForecast,
    RelayKind,
    RelayTest,
    forecast,
    in_its_way,
    relay_test,
)

LOWERINGS = 8
CLEAR_C, CLEAR_SHARE = 1.0, 0.5
"""How far below a limit a test stays at the least, and by which share of what it may go over its set-point (our choice: of simulated rigs
beyond those that foretold it the worst went higher by 28 % of that)."""
LEAST_ANSWER_C = 0.5
"""Heat that moved the reading by less has moved nothing, °C, where its hysteresis is not smaller still (our choice)."""
LEAST_PATIENCE_S = 60.0
"""And it is given so long at the least, s (our choice)."""
SLOWER = 4.0
"""So many times slower than foretold it may be (our choice)."""


@dataclass(frozen=True)
class BeforeTest:
    """``hard`` and ``soft``: what must not be reached, and what it would only set off. ``says``: what to do, in order."""

    hard: tuple[Edge, ...]
    soft: tuple[Edge, ...]
    says: tuple[str, ...]


def clear_c(told: RelayForecast) -> float:
    """How far below a limit its highest reading stays, °C."""
    return max(CLEAR_C, CLEAR_SHARE * (told.highest_c - told.test.setpoint_c))


def answer_c(test: RelayTest) -> float:
    """By so much heat must move the reading to have moved it at all, °C."""
    return min(LEAST_ANSWER_C, test.hysteresis_c)


def patience_s(situation: Situation, test: RelayTest) -> float:
    """How long full heat may seem to change nothing, s: for a few dead times, and where it only just holds the set-point for several times
    as long as it takes to move the reading by what counts."""
    p = situation.process
    spare = p.full_power_rise_c * test.high / FULL_OUTPUT - (test.setpoint_c - situation.ambient_c)
    slowest = SLOWER * answer_c(test) * p.lag_s / spare if spare > 0 else inf
    return max(DEADS_WITHOUT_ANSWER * effective_dead_time(situation), LEAST_PATIENCE_S, min(slowest, p.lag_s))


def before(
    told: RelayForecast,
    edges: Iterable[Edge],
    patience_s: float,
    is_planned: bool,
    cooled: bool = False,
    two_loops: bool = False,
) -> BeforeTest:
    """``edges``: everything on the rig that acts at a temperature. ``patience_s``: how long heat may seem to change nothing.
    ``is_planned``: its limiter and alarms are known; ``cooled``: a cooler stands beside its heater; ``two_loops`` are at work."""
    known = list(edges)
    near = in_its_way(known, told.highest_c + clear_c(told), told.lowest_c)
    hard = tuple(e for e in near if e.is_hard)
    soft = tuple(e for e in in_its_way(known, told.highest_c, told.lowest_c) if not e.is_hard)
    says = ["Take the product out, and close the door: it is to be tested as it works, empty."]
    if cooled:
        says.append(
            "Switch its cooler off for it, and on again afterwards: what it takes would be taken for the rig’s own loss."
        )
    if two_loops:
        says.append(
            "Set it to one loop for it: what a test finds is what the output does, not what a heater’s loop is asked for."
        )
    says += [
        f"{_begun(e.name)} acts from {temperature(e.celsius, '.1f')}, and the reading may come to "
        f"{temperature(told.highest_c, '.1f')}: test lower. Never raise it to let a test pass."
        for e in hard
    ]
    says += [
        f"{_begun(e.name)} comes {'below' if e.is_below else 'at'} {temperature(e.celsius, '.1f')}: expect it, or set it clear of the "
        "swing for the time of the test, and back afterwards."
        for e in soft
    ]
    if not is_planned:
        says.append("Nothing is known here of limiter and alarms: see in Guarding that they stand clear of the swing.")
    if told.test.kind is RelayKind.OWN:
        says.append("Stay with it, a hand near the main switch: the controller’s own test asks nobody.")
    patience = quantity(patience_s / 60.0, "min", ".1f")
    says.append(
        f"Stop it if nothing moves within {patience} of a change of the output, or after "
        f"{quantity(told.stop_after_s / 60.0, 'min', '.0f')} in all: output off, and the old numbers stay."
    )
    return BeforeTest(hard, soft, tuple(says))


def clear_setpoint(situation: Situation, told: RelayForecast, first: BeforeTest) -> float | None:
    """A test set-point at which nothing is reached that must not be, each step foretold anew; ``None`` where it is clear as it is, or there
    is none above the room."""
    if not first.hard:
        return None
    edge = min(e.celsius for e in first.hard)
    for _ in range(LOWERINGS):
        lower = floor((told.test.setpoint_c - (told.highest_c + clear_c(told) - edge)) / TENTH) * TENTH
        if lower <= situation.ambient_c + CLEAR_C:
            return None
        try:
            told = forecast(situation, relay_test(situation, told.test.kind, lower))
        except Refused:
            return None
        if told.highest_c + clear_c(told) <= edge:
            return told.test.setpoint_c
    return None


def _begun(name: str) -> str:
    return name[:1].upper() + name[1:]


def forecast_figures(told: RelayForecast) -> tuple[Figure, ...]:
    """Swing, highest reading, period, duty and how long it takes: as found, and over what may be."""
    found, test, every = told.found, told.test, [s for s in told.all if s.period_s < float("inf")]
    swings, periods = [s.top_c - s.bottom_c for s in every], [s.period_s for s in every]
    takes = [s.takes_s for s in every]
    some = "" if len(every) == len(told.all) else " Some of them do not swing round it at all, or not evenly."
    inputs = (
        Input("test set-point", test.setpoint_c, Kind.TEMPERATURE, "SP", "test"),
        Input("output while below", test.high, Kind.PERCENT, "u₊", "test"),
        Input("output while above", test.low, Kind.PERCENT, "u₋", "test"),
        Input("hysteresis", test.hysteresis_c, Kind.DIFFERENCE, "H", "test"),
    )
    reason = judged_on(len(told.all) - 1) + some
    return (
        Figure("swing", found.top_c - found.bottom_c, Kind.DIFFERENCE, low=min(swings), high=max(swings), inputs=inputs,
               formula="max(y) − min(y) of a settled cycle", reason=reason, symbol="2a"),
        Figure("highest reading", found.highest_c, Kind.TEMPERATURE, high=told.highest_c, inputs=inputs, formula="max(y)", reason=reason),
        Figure("period", found.period_s, Kind.TIME, low=min(periods), high=max(periods), inputs=inputs,
               formula="from cycle to cycle", reason=reason, symbol="T"),
        Figure("share of the time on", 100.0 * found.duty, Kind.PERCENT, inputs=inputs, formula="t_on / T",
               reason="Near one half the swing is even, and its period near the one at the limit.", symbol="d"),
        Figure("takes", found.takes_s, Kind.TIME, high=max(takes), inputs=inputs, formula="until two cycles are alike, from cold",
               reason=reason),
    )  # fmt: skip
