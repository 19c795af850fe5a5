"""One value of a plan changed, as a proposal says, or a step of the ladder that was moved."""

from dataclasses import replace
from typing import Any

from ..errors import refuse
from .fuses import HOLDS_BELOW_C
from .plan import Plan

TARGETS = (
    "limiter",
    "limiter_trip_c",
    "fuse_rating_c",
    "hold_s",
    "maximum_c",
    "light_warm_c",
    "light_hot_c",
    "light_after_s",
    "alarms",
    "alarm.N",
)


def with_value(plan: Plan, offered: Plan, name: str, value: Any) -> Plan:
    """The plan with this value. ``offered`` is the proposed plan, for what is taken from it whole. Raises ``Refused`` for a name that is
    nothing of it, or a value that is no number."""
    if name == "limiter":
        return replace(plan, limiter=offered.limiter or plan.limiter)
    if name == "alarms":
        return replace(plan, alarms=offered.alarms)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise refuse("value", f"{value!r} is no number", "a number")
    number = float(value)
    if name == "hold_s":
        return replace(plan, policy=replace(plan.policy, hold_s=number))
    if name == "maximum_c":
        return replace(plan, maximum_c=number)
    if name in ("light_warm_c", "light_hot_c", "light_after_s") and plan.light:
        return replace(plan, light=replace(plan.light, **{name.removeprefix("light_"): number}))
    if name == "limiter_trip_c" and plan.limiter:
        return replace(plan, limiter=replace(plan.limiter, trip_c=number))
    if name == "fuse_rating_c" and plan.fuse:
        below = max(plan.fuse.rating_c - plan.fuse.holding_c, HOLDS_BELOW_C)
        return replace(plan, fuse=replace(plan.fuse, rating_c=number, holding_c=number - below))
    kind, _, index = name.partition(".")
    if kind == "alarm" and index.isdigit() and int(index) < len(plan.alarms):
        alarms = list(plan.alarms)
        planned = alarms[int(index)]
        alarms[int(index)] = replace(planned, alarm=replace(planned.alarm, value=number))
        return replace(plan, alarms=tuple(alarms))
    raise refuse("target", f"{name!r} is nothing of this plan", ", ".join(TARGETS))
