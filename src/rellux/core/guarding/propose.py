"""The plan to begin with for a rig: every value with the reason it is proposed for, from what is known of it."""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import ceil

from ..control.alarms.settings import KINDS, Action, AlarmKind, AlarmSettings, Standby
from ..messages import difference, quantity, temperature
from ..process.modes import time_63
from ..process.networks import ThermalNetwork
from ..sensing.sensors import sensor_range
from .findings import rounded_up
from .ladder import DIGIT_C, Gap, Ladder, Situation, ladder, soonest_at
from .plan import Limiter, Plan, PlannedAlarm

LIMITER_HYSTERESIS = 0.01
"""A limiter’s hysteresis as a share of its value (our choice: enough that it cannot chatter before it latches)."""
WARNING_DELAY_S, HEAVY_DELAY_S = 5.0, 30.0
"""A warning waits out a splash or a door (our choice)."""
LOW_DELAY_S = 60.0
HEAVY_S = 1800.0
"""A rig that takes longer to 63 % is a slow one, s."""
PROVE_C = 3.0
"""Three digits: what a reading must move to have moved (handbook: D of at least 3 q)."""
HOTTER = ("K", "S", "B")
"""Sensors of a limiter, where the rig's own kind does not read so high."""
LOW_SUPPLY = 0.81
"""Power at 10 % less voltage."""


@dataclass(frozen=True)
class Reason:
    """Why something of the plan is proposed; ``about`` is the limiter, or an alarm’s name."""

    about: str
    says: str


@dataclass(frozen=True)
class ProposedPlan:
    plan: Plan
    reasons: tuple[Reason, ...]


def usual_limiter(situation: Situation) -> tuple[Limiter, str]:
    """A limiter between ordinary work and what must not happen, with its own sensor of the same kind; and why there."""
    found = ladder(replace(situation, plan=Plan()))
    guess = situation.rig.purpose.highest_c
    lag = max(found.family.likely.sensor_lag_s, 1.0)
    limiter = Limiter(guess, max(round(LIMITER_HYSTERESIS * guess, 1), 1.0), _sensor_for(situation.sensor, guess), lag)
    for _ in range(3):
        found, over, under = _with(situation, limiter)
        lowest = found.running_top.high + over.needed.value
        highest = found.step(found.weakest).celsius - under.needed.value
        trip = rounded_up(lowest) if rounded_up(lowest) <= highest else -rounded_up(-highest)
        trip = max(trip, rounded_up(situation.settings.setpoint_c + over.needed.value))
        limiter = replace(limiter, trip_c=trip, sensor=_sensor_for(situation.sensor, trip))
    found, over, under = _with(situation, limiter)
    weakest = found.step(found.weakest).name
    if over.is_wide_enough and under.is_wide_enough:
        spare = difference(under.present_c - under.needed.value, ".1f")
        why = f"Clear of ordinary work by both sensors’ errors ({difference(over.needed.value, '.1f')}); {weakest} keeps {spare} to spare."
    elif under.is_wide_enough:
        why = f"It protects {weakest}, and may trip in ordinary work: no value does both."
    else:
        why = f"No value protects {weakest} and stays out of ordinary work: see what is found."
    return limiter, why


def _sensor_for(own: str, celsius: float) -> str:
    """The rig's own kind where it reads so high, else the first other one that does."""
    return next((s for s in (own, *HOTTER) if sensor_range(s)[0] <= celsius <= sensor_range(s)[1]), own)


def _with(situation: Situation, limiter: Limiter) -> tuple[Ladder, Gap, Gap]:
    found = ladder(replace(situation, plan=Plan(limiter=limiter)))
    over, under = found.gap("limiter over running"), found.gap("weakest over limiter")
    assert over and under
    return found, over, under


@lru_cache(maxsize=64)
def propose_plan(situation: Situation) -> ProposedPlan:
    """Limiter (where it is among the rig’s parts) and alarms for this rig, each with its reason."""
    limiter, reasons = None, []
    if situation.has_limiter:
        limiter, why = usual_limiter(situation)
        reasons.append(Reason("limiter", why))
    found = ladder(replace(situation, plan=Plan(limiter=limiter)))
    alarms = []
    for planned, why in _alarms(found, situation, limiter):
        alarms.append(planned)
        reasons.append(Reason(planned.name, why))
    return ProposedPlan(Plan(tuple(alarms), limiter), tuple(reasons))


def _alarms(found: Ladder, situation: Situation, limiter: Limiter | None) -> list[tuple[PlannedAlarm, str]]:
    purpose, network = situation.rig.purpose, found.family.likely
    setpoint = situation.settings.setpoint_c
    warning = rounded_up(found.step("running").high + DIGIT_C)
    if band := situation.settings.cooling:  # what the cooler brings down calls nobody
        warning = max(warning, rounded_up(setpoint + band.above_c + DIGIT_C))
    ceiling = min(limiter.trip_c if limiter else purpose.highest_c, purpose.highest_c)
    if warning >= ceiling:
        warning = rounded_up((setpoint + ceiling) / 2.0)
    act = soonest_at(found.family, situation, found.step(found.weakest).celsius)
    time = f"{quantity(act / 60.0, 'min', '.0f')} to act" if act else "time enough"
    delay = HEAVY_DELAY_S if _is_heavy(network) else WARNING_DELAY_S
    fuel, broken = (
        (", and whether it burns", "the fire out, the fan stuck") if purpose.fire else ("", "an element open")
    )
    alarms = [
        (
            PlannedAlarm(
                "Too hot", AlarmSettings(AlarmKind.HIGH, warning, DIGIT_C, on_delay_s=delay), (Action.BEACON, Action.BUZZER),
                "switch stuck, sensor slipped out, set-point typed wrong", purpose.highest_reason,
                f"Look at the reading and the {purpose.load}. Open the main switch if it still rises.",
            ),
            f"Above ordinary running by a digit, and {difference(ceiling - warning, '.1f')} below what comes next: {time}.",
        ),
        (
            PlannedAlarm(
                "Sensor broken", AlarmSettings(AlarmKind.SENSOR_BREAK, gap_s=2.0), (Action.BEACON, Action.OUTPUT_OFF),
                "a lead broken or loose", "the controller is blind", "Leave the heat off. Mend the lead, then look at the load.",
            ),
            "Without a reading nobody knows what it is doing: the output goes off.",
        ),
    ]  # fmt: skip
    if purpose.lowest_c is not None and purpose.lowest_c < setpoint:
        stuck = ", the cooler stuck on" if purpose.cooler and purpose.cooler.pumps else ""
        alarms.append(
            (
                PlannedAlarm(
                    "Too cold",
                    AlarmSettings(AlarmKind.LOW, purpose.lowest_c, DIGIT_C, on_delay_s=LOW_DELAY_S, standby=Standby.FIRST),
                    (Action.BEACON,), f"door open, {broken}, supply lost{stuck}", purpose.lowest_reason or "the load is not held",
                    f"Close the door. Look whether the {purpose.load} draws current{fuel}.",
                ),
                f"Held until it was first above {temperature(purpose.lowest_c)}, so that a heat-up does not call.",
            )
        )  # fmt: skip
    seconds, move = _loop_break(found, situation)
    if seconds > KINDS[AlarmKind.MINIMUM_HEAT].high:
        return alarms  # too slow a rig to tell anything by
    alarms.append(
        (
            PlannedAlarm(
                "Heats too slowly", AlarmSettings(AlarmKind.MINIMUM_HEAT, seconds, move_c=move), (Action.BEACON,),
                f"{broken}, a fuse blown, the sensor out of its place", "the run takes too long, or the sensor does not see the heat",
                f"Measure the {purpose.load}’s current{fuel}. Look where the sensor is.",
            ),
            f"At full power and 10 % less voltage it must rise {difference(move, '.1f')} in {quantity(seconds, 's', '.0f')}: twice what "
            "the slow edge of this rig needs.",
        )
    )  # fmt: skip
    return alarms


def _loop_break(found: Ladder, situation: Situation) -> tuple[float, float]:
    """Time and least rise at full power: ``t = 2 (L + D/R)`` with the slowest rate R at the set-point and 10 % less voltage."""
    slow = found.family.slow
    rise = float(slow.equilibrium_rise()[slow.sensor_node]) * LOW_SUPPLY
    capacity = sum(slow.capacities)
    spare = max(1.0 - (situation.settings.setpoint_c - situation.rig.rests_c) / rise, 0.05)
    rate = slow.heater_power_w * LOW_SUPPLY * spare / capacity
    move = PROVE_C * DIGIT_C
    return float(ceil(2.0 * (found.family.fast.dead_time_s + move / rate))), move


def _is_heavy(network: ThermalNetwork) -> bool:
    return time_63(network) > HEAVY_S
