"""The plan's alarms over a recorded run: what would have called, when, for how long; and which settings would have caught it."""

from dataclasses import dataclass, replace

import numpy as np

from ..control.alarms.replay import Recorded, Replayed, replay
from ..control.alarms.settings import AlarmKind, AlarmSettings
from .ladder import Situation
from .plan import Plan

LIMITER = "independent limiter"
"""What the limiter is called beside the alarms of a plan."""
VALUES, DELAYS_S = 13, (0.0, 2.0, 5.0, 10.0, 30.0, 60.0, 120.0, 300.0)
"""How many values and which delays a chart tries."""
MOST_CHARTED = 2_000_000
"""Samples that a chart looks at; longer runs are thinned (our choice)."""
BY_VALUE = frozenset(
    {AlarmKind.HIGH, AlarmKind.LOW, AlarmKind.ABOVE_SETPOINT, AlarmKind.BELOW_SETPOINT, AlarmKind.OUTSIDE_BAND}
)


@dataclass(frozen=True)
class Checked:
    """One guard over a run; ``found`` is ``None`` where what it watches was not recorded."""

    name: str
    found: Replayed | None


@dataclass(frozen=True)
class Chart:
    """How often an alarm would have called, for every value (rows) and delay in s (columns)."""

    values: tuple[float, ...]
    delays_s: tuple[float, ...]
    calls: tuple[tuple[int, ...], ...]


def check_run(plan: Plan, situation: Situation, recorded: Recorded) -> tuple[Checked, ...]:
    """Every alarm of the plan, and the limiter as if it had seen the control reading."""
    named = [(a.name, a.alarm) for a in plan.alarms]
    if plan.limiter:
        named.append(
            (
                LIMITER,
                AlarmSettings(AlarmKind.HIGH, plan.limiter.trip_c, plan.limiter.hysteresis_c, latching=True),
            )
        )
    found = replay([alarm for _, alarm in named], recorded)
    return tuple(Checked(name, each) for (name, _), each in zip(named, found, strict=True))


def chart(alarm: AlarmSettings, recorded: Recorded) -> Chart | None:
    """Threshold against delay; ``None`` for a kind without a threshold of the reading, or a run without what it watches."""
    if alarm.kind not in BY_VALUE or not len(recorded.time_s):
        return None
    seen = recorded.reading_c[np.isfinite(recorded.reading_c)]
    if alarm.kind is AlarmKind.LOW and (seen > alarm.value).any():
        seen = seen[int(np.argmax(seen > alarm.value)) :]  # a heat-up from cold tells nothing of it
    if not len(seen):
        return None
    if alarm.kind in (AlarmKind.HIGH, AlarmKind.LOW):
        ends = (alarm.value, float(seen.max() if alarm.kind is AlarmKind.HIGH else seen.min()))
        low, high = min(ends), max(ends)
        room = max(high - low, 1.0) / 2.0
        low, high = low - room, high + room
    else:
        low, high = alarm.value / 4.0, alarm.value * 2.0
    values = tuple(float(v) for v in np.round(np.linspace(low, high, VALUES), 1))
    thinned = _thinned(recorded)
    calls = []
    for value in values:
        tried = [
            replace(alarm, value=value, on_delay_s=d, hysteresis=min(alarm.hysteresis, abs(value) / 2))
            for d in DELAYS_S
        ]
        found = replay(tried, thinned)
        if found[0] is None:
            return None
        calls.append(tuple(each.count if each else 0 for each in found))
    return Chart(values, DELAYS_S, tuple(calls))


def _thinned(recorded: Recorded) -> Recorded:
    every = -(-len(recorded.time_s) // MOST_CHARTED)
    return Recorded(*(getattr(recorded, name)[::every] for name in Recorded.__dataclass_fields__))
