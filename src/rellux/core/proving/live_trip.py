"""Stage 5, the limiter ends real heat; stage 6, a thermal fuse is sacrificed."""

from collections.abc import Iterator

import numpy as np

from ..explain import Figure, Input
from ..guarding.family import Family
from ..guarding.ladder import FUSE_BELOW_C, Situation, control_error, follower_at, length_s, sensor_error
from ..guarding.plan import LimiterReset
from ..guarding.runaway import runaway
from ..messages import temperature
from ..sensing.sensors import describe
from ..units import Kind
from .facts import Citing, Fitted, ProvingFacts
from .predicted import model_of
from .step import Measure, MeterSetting, ProvingStep, Take

TRIP_SHARE = 0.6
"""Where of the way to the working temperature the limiter is made to trip for real (our choice: hot enough to be seen, with room above)."""


def steps(facts: ProvingFacts) -> Iterator[ProvingStep]:
    """Stage 5: the limiter ends real heat."""
    situation = facts.situation
    if situation is None or situation.plan.limiter is None or not facts.purpose.heats:
        return
    limiter = situation.plan.limiter
    cite = Citing(facts)
    cite.plan("limiter", limiter)
    cite.fitted(Fitted.LIMITER)
    for part in facts.wiring.of_kind("limiter"):
        cite.part(part.name)
        cite.loads()
    cite.sensor()
    working = cite.purpose("working_c")
    dialled = facts.room_c + TRIP_SHARE * (working - facts.room_c)
    own, other = (
        sensor_error(limiter.sensor, dialled, f"limiter’s {describe(limiter.sensor)}"),
        control_error(situation),
    )
    off = own.value + other.value
    rigs = model_of(cite)
    late = _tripped(rigs, situation, dialled + own.value) if rigs else None
    hottest = late[0] + other.value if late else dialled + off
    figure = Figure(
        "reading at the trip",
        dialled,
        Kind.TEMPERATURE,
        formula="from T − (a + b)",
        low=dialled - off,
        high=hottest,
        reason="Two sensors, both errors the same way; upwards also what the reading rises until a limiter with this lag "
        "has ended full power "
        "from cold, in the quickest that this rig may be.",
        inputs=(
            Input("dialled", dialled, Kind.TEMPERATURE, "T", "our choice"),
            own.as_input("a"),
            other.as_input("b"),
            Input("hottest reading at the trip", hottest, Kind.TEMPERATURE, "", "simulated at full power"),
        ),
    )
    there = "Somebody stays with a hand on the main switch: this is the one test where heat must stop by itself."
    yield ProvingStep(
        "trip live",
        5,
        "Tripped by real heat",
        f"Set-point {temperature(dialled + 2 * off, '.0f')}; dial the limiter to {temperature(dialled, '.0f')} (one that "
        "cannot be dialled: bring its own probe there). The reading when it trips is…",
        "The heat ends by itself, the output’s lamp may still be on.",
        Measure(figure, dialled - off, hottest, take=Take.READING),
        MeterSetting.THERMOMETER,
        caution=there,
        cites=dict(cite.cites),
    )
    if rigs is not None and late is not None:
        most = late[1] + other.value
        after = Figure(
            "peak after the trip",
            most,
            Kind.TEMPERATURE,
            reason=f"The heat that is still in the element arrives: {rigs.says}.",
            inputs=(Input("reading at the trip, at most", hottest, Kind.TEMPERATURE, "T", "computed"),),
        )
        yield ProvingStep(
            "peak after",
            5,
            "Peak after the trip",
            "Leave it tripped and watch: the highest reading is…",
            "It turns and falls.",
            Measure(after, dialled - off, most, take=Take.PEAK),
            MeterSetting.THERMOMETER,
            caution=there,
            cites=dict(cite.cites),
        )
    manual = limiter.reset is LimiterReset.MANUAL
    yield ProvingStep(
        "reset live",
        5,
        "Reset",
        "Let it cool well below, touch nothing.",
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


def _tripped(rigs: Family, situation: Situation, opens_c: float) -> tuple[float, float] | None:
    """The reading when the limiter ends full power that began cold, and the hottest after it, °C, at the bad edge of the rig."""
    rests = situation.rig.rests_c
    course = runaway(rigs.fast, rests, rests, length_s(rigs), (follower_at(situation, opens_c),))
    if course.opened_s is None:
        return None
    return float(np.interp(course.opened_s, course.time_s, course.chamber_c)), course.peak_c


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
