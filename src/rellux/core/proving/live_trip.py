"""Stage 5, the limiter ends real heat; stage 6, a thermal fuse is sacrificed."""

from collections.abc import Iterator

import numpy as np

from ..explain import Figure, Input
from ..guarding.ladder import FUSE_BELOW_C, Situation, control_error, follower_at, length_s, sensor_error
from ..guarding.plan import LimiterReset
from ..guarding.runaway import runaway
from ..messages import temperature
from ..sensing.sensors import describe
from ..units import Kind
from .facts import Citing, Fitted, ProvingFacts
from .predicted import FromRest, course_of
from .step import Measure, MeterSetting, ProvingStep, Take

TRIP_SHARE = 0.6
"""Where of the way to the working temperature the limiter is made to trip for real (our choice: hot enough to be seen, with room above)."""

STAY = "Somebody stays with a hand on the main switch: this is the one test where heat must stop by itself."


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Stage 5: the limiter ends real heat, or real cold."""
    situation = facts.situation
    if situation is None or situation.plan.limiter is None or not facts.purpose.acts:
        return
    limiter, heats = situation.plan.limiter, facts.purpose.heats
    cite = Citing(facts)
    cite.plan("limiter", limiter)
    cite.fitted(Fitted.LIMITER)
    for part in facts.wiring.of_kind("limiter"):
        cite.part(part.name)
        cite.loads()
    cite.sensor()
    course = course_of(cite)
    dialled = course.share(cite.purpose("working_c"), TRIP_SHARE)
    own, other = (
        sensor_error(limiter.sensor, dialled, f"limiter’s {describe(limiter.sensor)}"),
        control_error(situation),
    )
    off = own.value + other.value
    late = _tripped(course, situation, dialled, own.value)
    nearest = dialled - course.sign * off
    furthest = late[0] + course.sign * other.value if late else dialled + course.sign * off
    yield _trips(facts, cite, course, dialled, furthest, (own, other))
    if late is not None:
        yield _goes_on(cite, course, nearest, furthest, late[1] + course.sign * other.value)
    manual = limiter.reset is LimiterReset.MANUAL
    yield ProvingStep(
        "reset live",
        5,
        "Reset",
        f"Let it {'cool well below' if heats else 'warm well above'}, touch nothing.",
        "It stays off; a person resets it." if manual else "It comes back by itself, as fitted.",
        caution=""
        if manual
        else "A limiter that comes back by itself trips again and again until something gives: one that latches is safer.",
        cites=dict(cite.cites),
    )
    yield ProvingStep(
        "dial back",
        5,
        "Dialled back",
        f"Dial the limiter to {temperature(limiter.trip_c)} again, and have somebody else read it.",
        f"It stands at {temperature(limiter.trip_c)}.",
        cites=dict(cite.cites),
    )


def _trips(
    facts: ProvingFacts, cite: Citing, course: FromRest, dialled: float, furthest: float, errors: tuple[Figure, Figure]
) -> ProvingStep:
    heats, (own, other) = facts.purpose.heats, errors
    off = own.value + other.value
    low, high = sorted((dialled - course.sign * off, furthest))
    what = "heat" if heats else "cold"
    figure = Figure(
        "reading at the trip",
        dialled,
        Kind.TEMPERATURE,
        formula=f"from T {'−' if heats else '+'} (a + b)",
        low=low,
        high=high,
        reason=f"Two sensors, both errors the same way; {'upwards' if heats else 'downwards'} also what the reading goes on until a "
        f"limiter with this lag has ended full power from {'its glow' if facts.purpose.fire else 'cold' if heats else 'the room'}, in the "
        "quickest that this rig may be.",
        inputs=(
            Input("dialled", dialled, Kind.TEMPERATURE, "T", "our choice"),
            own.as_input("a"),
            other.as_input("b"),
            Input(
                f"{'hottest' if heats else 'coldest'} reading at the trip",
                furthest,
                Kind.TEMPERATURE,
                "",
                "simulated at full power",
            ),
        ),
    )
    ends = "The fan stops" if facts.purpose.fire else f"The {what} ends"
    return ProvingStep(
        "trip live",
        5,
        f"Tripped by real {what}",
        f"Set-point {temperature(dialled + 2 * course.sign * off, '.0f')}; dial the limiter to {temperature(dialled, '.0f')} (one that "
        "cannot be dialled: bring its own probe there). The reading when it trips is…",
        f"{ends} by itself, the output’s lamp may still be on.",
        Measure(figure, low, high, take=Take.READING),
        MeterSetting.THERMOMETER,
        caution=STAY if heats else STAY.replace("heat", "cold"),
        cites=dict(cite.cites),
    )


def _goes_on(cite: Citing, course: FromRest, nearest: float, at_trip: float, last: float) -> ProvingStep:
    """What is still in the element, or in the cold of the evaporator, arrives after the trip."""
    heats = course.sign > 0
    extreme = "hottest" if heats else "coldest"
    low, high = sorted((nearest, last))
    source = "fire" if cite.facts.purpose.fire else "element"
    still = f"heat that is still in the {source}" if heats else "cold that is still in the cooler"
    figure = Figure(
        "peak after the trip" if heats else "coldest after the trip",
        last,
        Kind.TEMPERATURE,
        reason=f"The {still} arrives: {course.rigs.says}.",
        inputs=(Input(f"{extreme} reading at the trip", at_trip, Kind.TEMPERATURE, "T", "computed"),),
    )
    return ProvingStep(
        "peak after",
        5,
        "Peak after the trip" if heats else "Coldest after the trip",
        f"Leave it tripped and watch: the {'highest' if heats else 'lowest'} reading is…",
        "It turns and falls." if heats else "It turns and rises.",
        Measure(figure, low, high, take=Take.PEAK, falls=not heats),
        MeterSetting.THERMOMETER,
        caution=STAY if heats else STAY.replace("heat", "cold"),
        cites=dict(cite.cites),
    )


def _tripped(course: FromRest, situation: Situation, dialled: float, own_c: float) -> tuple[float, float] | None:
    """The reading when the limiter ends full power that began at rest, and the furthest after it, °C, at the bad edge of the rig, with the
    limiter’s own sensor wrong by ``own_c``."""
    rests = situation.rig.rests_c
    start = course.rests_c

    def heated(celsius: float) -> float:
        return rests + course.sign * (celsius - start)

    opens = follower_at(situation, heated(dialled) + own_c)
    found = runaway(course.rigs.fast, rests, rests, length_s(course.rigs), (opens,))
    if found.opened_s is None:
        return None
    at_trip = float(np.interp(found.opened_s, found.time_s, found.chamber_c))
    return start + course.sign * (at_trip - rests), start + course.sign * (found.peak_c - rests)


def fuse_steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Stage 6: one is sacrificed."""
    situation = facts.situation
    fuse = situation.plan.fuse if situation else None
    if fuse is None or not facts.purpose.heats:
        return
    cite = Citing(facts)
    cite.plan("fuse", fuse)
    for part in facts.wiring.of_kind("thermal_fuse"):
        cite.part(part.name)
    figure = Figure(
        "the fuse opens",
        fuse.rating_c,
        Kind.TEMPERATURE,
        source="IEC 60691, from memory",
        inputs=(
            Input("rating", fuse.rating_c, Kind.TEMPERATURE, "T_f", "plan"),
            Input("tolerance, downwards", FUSE_BELOW_C, Kind.DIFFERENCE, "", "IEC 60691, from memory"),
        ),
    )
    never = "Never by defeating the limiter: a sample in a test arrangement, with a battery and a lamp through it."
    yield ProvingStep(
        "fuse opens",
        6,
        "One fuse sacrificed",
        "Warm a spare of the same lot slowly beside a trusted thermometer, a low-voltage lamp through it: it goes out at…",
        "It opens, and does not close again when cold.",
        Measure(figure, fuse.rating_c - FUSE_BELOW_C, fuse.rating_c),
        MeterSetting.THERMOMETER,
        caution=never,
        cites=dict(cite.cites),
    )
    cite.purpose("working_c")
    holds = Figure(
        "place of the fuse",
        fuse.place_c,
        Kind.TEMPERATURE,
        inputs=(Input("holds", fuse.holding_c, Kind.TEMPERATURE, "T_h", "plan"),),
        reason="Above what it holds it ages, and opens one day for no reason.",
    )
    yield ProvingStep(
        "fuse place",
        6,
        "Its place in normal running",
        f"At the working temperature, {temperature(facts.purpose.working_c)}, settled: where it sits it is…",
        "Below what the fuse holds for good.",
        Measure(holds, None, fuse.holding_c),
        MeterSetting.THERMOMETER,
        cites=dict(cite.cites),
    )
    yield ProvingStep(
        "fuse fitted",
        6,
        "A new one fitted",
        "Fit a new one of the same rating, crimped, not soldered; write its lot into the remark.",
        "Its rating is the plan’s, and there is a spare.",
        constant="Whatever the fuse, a new one goes in the same way.",
        cites=dict(cite.cites),
    )
