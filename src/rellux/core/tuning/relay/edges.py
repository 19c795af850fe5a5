"""What on a rig acts at a temperature, with a test's own set-point."""

from collections.abc import Iterable

from ...control.alarms.settings import AlarmKind
from ...guarding.ladder import Rung, Step
from ...guarding.plan import Plan
from .experiment import Edge

MUST_NOT = (Rung.LIMITER, Rung.FUSE, Rung.HIGHEST, Rung.MATERIAL)


def edges(steps: Iterable[Step], plan: Plan | None, setpoint_c: float) -> list[Edge]:
    """``steps`` of its ladder, or of what its purpose allows where there is no plan. Alarms that go with the set-point go with the
    test's."""
    known = list(steps)
    found = [Edge(s.name, s.low, is_hard=True) for s in known if s.rung in MUST_NOT]
    found += [Edge(s.name, s.low) for s in known if s.rung is Rung.MAXIMUM]
    for planned in plan.alarms if plan else ():
        alarm, name = planned.alarm, planned.name
        if alarm.kind is AlarmKind.HIGH:
            found.append(Edge(name, alarm.value))
        elif alarm.kind is AlarmKind.LOW:
            found.append(Edge(name, alarm.value, is_below=True))
        if alarm.kind in (AlarmKind.ABOVE_SETPOINT, AlarmKind.OUTSIDE_BAND):
            found.append(Edge(name, setpoint_c + alarm.value))
        if alarm.kind in (AlarmKind.BELOW_SETPOINT, AlarmKind.OUTSIDE_BAND):
            found.append(Edge(name, setpoint_c - alarm.value, is_below=True))
    return found
