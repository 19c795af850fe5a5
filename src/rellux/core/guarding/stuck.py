"""The two answers people want: what happens if the switch fails closed now, and how long until somebody must act."""

from dataclasses import dataclass

import numpy as np

from ..messages import spoken_time, temperature
from ..process.modes import time_63
from ..process.networks import Array
from ..wiring.circuit.verdicts import Outcome
from .ladder import Ladder, Rung, Situation, Step, length_s, peak_after, soonest_at
from .runaway import Course, Follower, runaway
from .wired import Unnoticed, unnoticed, unstopped

PASSED = (Rung.RUNNING, Rung.TUNING, Rung.FULL_POWER, Rung.AFTER_TRIP, Rung.MAXIMUM, Rung.COOLER)
"""What is no moment on the way up: the controller’s own maximum switches what is stuck."""
ROWS = 240
SLOWEST_LOAD = 1.0
"""A heavy load is taken to follow as slowly as the rig itself reaches 63 % (our choice: a fuller one is rare)."""
LATE, CLOSE, SHORT = 3.0, 1.3, 0.02
"""A picture ends at three times the earliest moment, or a third after the likely one, or a fiftieth of the whole course (our choice)."""


@dataclass(frozen=True)
class Reached:
    """When something on the ladder is reached at full power with nothing to stop it, s: at the bad edge, as it probably is, at the good
    edge; ``None`` where it never is."""

    key: str
    name: str
    celsius: float
    fast_s: float | None
    likely_s: float | None
    slow_s: float | None


@dataclass(frozen=True)
class Stuck:
    """``with_limiter``, ``load`` and ``alone``: what happens, as sentences (``load`` is empty where the limiter does not end it).
    ``act_within_s``: until the weakest is reached at the bad edge if nothing
    acts by itself (``None``: it never is). Courses in s and °C: chamber with the limiter (bad edge; empty without one), and alone as a
    band."""

    with_limiter: str
    load: str
    alone: str
    act: str
    act_within_s: float | None
    reached: tuple[Reached, ...]
    unnoticed: tuple[Unnoticed, ...]
    opened_s: float | None
    time_s: Array
    guarded_c: Array
    fast_c: Array
    likely_c: Array
    slow_c: Array


def stuck(found: Ladder, situation: Situation, outcomes: tuple[Outcome, ...] = ()) -> Stuck:
    """From rest at the working temperature, the switch closed for good. ``outcomes``: of every single failure of the circuit as it is
    wired; a limiter that is not in the way of one of them stops nothing here."""
    purpose, length = situation.rig.purpose, length_s(found.family)
    start, ambient = purpose.working_c, situation.rig.rests_c
    likely, fast, slow = (runaway(n, ambient, start, length) for n in found.family.all)
    above = [s for s in found.steps if s.celsius > start and s.rung not in PASSED]
    reached = tuple(
        Reached(s.key, s.name, s.celsius, fast.when(_bad(s)), likely.when(s.celsius), slow.when(s.celsius))
        for s in above
    )
    weakest = found.step(found.weakest)
    act = soonest_at(found.family, situation, weakest.celsius)
    surely = likely.when(weakest.celsius)
    end = min(max(LATE * (act or 0.0), CLOSE * (surely or 0.0), length * SHORT), length)
    time = np.linspace(0.0, end, ROWS)

    def on(course: Course) -> Array:
        return np.interp(time, course.time_s, course.chamber_c)

    loose = unstopped(outcomes)
    trips = found.trip if found.trip and found.trip.opened_s is not None and not loose else None
    return Stuck(
        f"As it is wired, the limiter does not stop it. {loose.title}: {loose.says}"
        if loose and situation.plan.limiter
        else _guarded(found, situation),
        _load(found, situation) if trips else "",
        _alone(found, weakest, act, situation.plan.limiter is not None) + _left_out(situation),
        _act(found, weakest, act),
        act,
        reached,
        unnoticed(outcomes),
        trips.opened_s if trips else None,
        time,
        on(trips) if trips else np.zeros(0),
        on(fast),
        on(likely),
        on(slow),
    )


def _bad(step: Step) -> float:
    """A guard acts at its late end, a material at what it stands."""
    return step.high if step.rung is Rung.LIMITER else step.celsius


def _guarded(found: Ladder, situation: Situation) -> str:
    limiter, weakest = situation.plan.limiter, found.step(found.weakest)
    if limiter is None:
        return "There is no limiter in the plan: nothing of its own stops it."
    course = found.trip
    if course is None or course.opened_s is None:
        ends = found.step("full_power")
        if ends.high >= limiter.trip_c:
            return f"The limiter does not act within {spoken_time(float(found.alone.time_s[-1]))}."
        return f"The limiter is never reached: full power for good ends at {temperature(ends.high, '.0f')} at most."
    trip_c = found.step("limiter").high
    peak, element = peak_after(found.family, situation, trip_c) or course.peak_c, float(course.element_c.max())
    burns = situation.rig.purpose.fire is not None
    hottest = "while the fire dies down" if burns else f"the element was at {temperature(element, '.0f')}"
    verdict = (
        f"{weakest.name} at {temperature(weakest.celsius)} is not reached"
        if peak < weakest.celsius
        else f"{weakest.name} at {temperature(weakest.celsius)} is passed all the same"
    )
    return (
        f"The limiter opens the contactor after {spoken_time(course.opened_s)}. The chamber goes on to {temperature(peak, '.0f')}, "
        f"{hottest}; {verdict} (bad edge of what the rig may be, out of a hold or a heat-up)."
    )


def load_peaks(found: Ladder, situation: Situation) -> tuple[float, float] | None:
    """How hot a load gets where the limiter ends it, °C: a heavy one at the good edge of the rig, and one so light that it is where the
    chamber is, at the bad edge. ``None`` where the limiter never trips. One that the element shines on gets hotter than the chamber."""
    limiter, rests, start = situation.plan.limiter, situation.rig.rests_c, situation.rig.purpose.working_c
    if limiter is None or (hottest := peak_after(found.family, situation, found.step("limiter").high)) is None:
        return None
    lows = []
    for network in found.family.all:
        guard = Follower(limiter.lag_s, 1.0, found.step("limiter").low, limiter.relay_s)
        heavy = Follower(SLOWEST_LOAD * time_63(network))
        course = runaway(network, rests, start, length_s(found.family), (guard, heavy))
        lows.append(float(course.followers_c[1].max()))
    return min(*lows, hottest), hottest


def _load(found: Ladder, situation: Situation) -> str:
    peaks = load_peaks(found, situation)
    if peaks is None:
        return ""
    low, high = (temperature(c, ".0f") for c in peaks)
    shone = f"what the {'fire' if situation.rig.purpose.fire else 'element'} shines on gets hotter"
    return f"A load at the working temperature comes to between {low}, a heavy one, and {high}, a light one; {shone}."


def _left_out(situation: Situation) -> str:
    return " Reckoned without the cooler: it may have failed too." if situation.rig.purpose.cooler else ""


def _alone(found: Ladder, weakest: Step, act: float | None, has_limiter: bool) -> str:
    fails = "If the limiter fails as well" if has_limiter else "If nothing else stops it"
    ends, name = found.step("full_power"), f"{weakest.name} ({temperature(weakest.celsius)})"
    between = f"{temperature(ends.low, '.0f')} and {temperature(ends.high, '.0f')}"
    if act is not None:
        return f"{fails}, {name} is reached after {spoken_time(act)} at the earliest; it ends between {between}."
    if ends.high >= weakest.celsius:
        long = spoken_time(float(found.alone.time_s[-1]))
        return f"{fails}, {name} is reached in the end, after more than {long}; it ends between {between}."
    return f"Even with nothing to stop it, it ends at {temperature(ends.high, '.0f')} at most: {name} is never reached."


def _act(found: Ladder, weakest: Step, act: float | None) -> str:
    if act is not None:
        return f"Somebody must open the main switch within {spoken_time(act)} if nothing acts by itself."
    if found.step("full_power").high >= weakest.celsius:
        return f"Somebody must open the main switch within {spoken_time(float(found.alone.time_s[-1]))} if nothing acts by itself."
    return "Nobody must act for the temperature’s sake; switch it off all the same."
