"""Every kind of step: at a rig that must have it, and at one that differs in just the thing that makes it."""

from dataclasses import replace

import pytest

from rellux.core.errors import Refused
from rellux.core.messages import spoken
from rellux.core.proving.facts import ProvingFacts, check_room
from rellux.core.proving.isolating import isolator
from rellux.core.proving.judging import accepted
from rellux.core.proving.meters import METER_HELP
from rellux.core.proving.plan import PLAN_FIRST, proving_stages
from rellux.core.proving.step import MeterSetting
from rellux.core.purpose.purpose import Effect
from rellux.core.units import Kind
from rellux.core.wiring.model import ConnectionList
from tests.core.proving.rigs import NAMES, burning, cooled, facts, steps_of, wired
from tests.oracle.circuits import added, dressed_circuits, part

DRESSED = dressed_circuits()


def with_parts(name: str, *parts, pairs=()) -> ProvingFacts:
    known = facts(name)
    return wired(known, added(known.wiring, *pairs, parts=parts))


def without(name: str, *gone: str) -> ProvingFacts:
    known = facts(name)
    wiring = ConnectionList(
        tuple(p for p in known.wiring.parts if p.name not in gone),
        tuple(w for w in known.wiring.connections if not w.parts & set(gone)),
    )
    return wired(known, wiring)


def rated(name: str, which: str, **ratings) -> ProvingFacts:
    known = facts(name)
    parts = tuple(replace(p, ratings={**p.ratings, **ratings}) if p.name == which else p for p in known.wiring.parts)
    return wired(known, ConnectionList(parts, known.wiring.connections))


def planned(name: str, **changed) -> ProvingFacts:
    known = facts(name)
    return replace(known, situation=replace(known.situation, plan=replace(known.situation.plan, **changed)))


def set_to(name: str, **values) -> ProvingFacts:
    return replace(facts(name), sheet={**facts(name).sheet, **values})


def dressed(name: str) -> ProvingFacts:
    return wired(facts("kiln"), DRESSED[f"kiln, {name}"][0])


FAN = part("M2", "fan", power_w=30.0, voltage_v=230.0)
RCD = part("F9", "rcd")
PRESENT = [
    ("earth X1.PE", facts("kiln"), without("kiln", "X1")),
    ("earth metal", facts("kiln"), facts("plate")),
    ("insulation", facts("kiln"), without("plate", "X1")),
    ("leads B1", facts("cabinet relay"), facts("kiln")),
    ("sheath B1", rated("kiln", "B1", junction="insulated"), rated("kiln", "B1", junction="grounded")),
    ("touched", facts("kiln"), facts("cabinet relay")),
    ("rail G1", facts("plate"), facts("kiln")),
    ("rail Q0", facts("plate"), facts("kiln")),
    ("reset", facts("plate"), facts("kiln")),
    ("drive V1 on", facts("kiln"), facts("cabinet relay")),
    ("drive K1 on", facts("cabinet relay"), facts("kiln")),
    (
        "fan",
        replace(with_parts("kiln", FAN), sheet={**facts("kiln").sheet, "fan_above_c": 50.0}),
        set_to("kiln", fan_above_c=50.0),
    ),
    ("guards", facts("kiln"), planned("kiln", alarms=(), limiter=None, maximum_c=None)),
    ("trip A2", facts("kiln"), facts("kiln bare")),
    ("latch A2", facts("kiln"), planned("kiln", limiter=replace(facts("kiln").situation.plan.limiter, reset="self"))),
    ("stop S9", dressed("stop in the coil"), facts("kiln")),
    ("rises", facts("kiln"), replace(facts("kiln"), purpose=replace(facts("kiln").purpose, effect=Effect.WATCHES))),
    ("hot E1", facts("kiln"), facts("shell")),
    ("volts E1.2 E1.3", facts("shell"), facts("kiln")),
    (
        "stop hot S9",
        dressed("door in the drive"),
        dressed("stop in the coil"),
    ),
    ("rcd F9", with_parts("kiln", RCD), facts("kiln")),
    ("rotation", with_parts("shell", FAN), with_parts("kiln", FAN)),
    ("rotation", with_parts("shell", FAN), facts("shell")),
    ("trip live", facts("kiln"), planned("kiln", limiter=None)),
    ("peak after", cooled(), planned("kiln", limiter=None)),
    ("fuse opens", facts("kiln"), planned("kiln", fuse=None)),
    ("heat-up", facts("kiln"), replace(facts("kiln"), purpose=replace(facts("kiln").purpose, effect=Effect.WATCHES))),
    ("case", facts("kiln"), cooled()),
    ("plate V1", facts("kiln"), facts("plate")),
]


@pytest.mark.slow
@pytest.mark.parametrize(("key", "has", "has_not"), PRESENT, ids=lambda v: v if isinstance(v, str) else "")
def test_a_step_is_there_where_it_must_be_and_nowhere_else(key, has, has_not):
    assert key in steps_of(has)
    assert key not in steps_of(has_not)


SMALL = replace(facts("kiln"), purpose=replace(facts("kiln").purpose, heater_power_w=2999.0))
SELF = planned("kiln", limiter=replace(facts("kiln").situation.plan.limiter, reset="self"))
IN_COIL, IN_DRIVE = dressed("stop in the coil"), dressed("door in the drive")
AT_START = dressed("stop at the start button")
SAID = [
    ("insulation", "dry them out", facts("kiln"), SMALL),
    ("unplugged", "while it is blind", set_to("kiln", sensor_failure_output=20.0), facts("kiln")),
    ("drive V1 on", "It watches its loop", set_to("kiln", loop_break_s=300.0), set_to("kiln", loop_break_s=0.0)),
    ("reset live", "trips again and again", SELF, facts("kiln")),
    ("power cut", "nobody there", set_to("kiln", after_power="go_on"), set_to("kiln", after_power="stand_by")),
    ("release S9", "Nobody expects that", IN_COIL, IN_DRIVE),
    ("stop S9", "would go on", AT_START, IN_COIL),
    ("heat-up", "soft start set to 0", set_to("kiln", soft_start_s=60.0), set_to("kiln", soft_start_s=0.0)),
    ("reset", "works while its input is low", rated("plate", "A1", active="low"), facts("plate")),
    (
        "inside",
        "Ask the bench",
        facts("kiln"),
        replace(facts("kiln"), box=steps_of(facts("kiln"))["reading"].measure.figure),
    ),
]


@pytest.mark.slow
@pytest.mark.parametrize(("key", "words", "says", "says_not"), SAID, ids=lambda v: v if isinstance(v, str) else "")
def test_what_is_dangerous_or_special_about_a_step_is_said_where_it_is_so(key, words, says, says_not):
    def all_of(known):
        step = steps_of(known)[key]
        return " ".join(
            (step.does, step.must, step.caution, step.isolated, step.measure.figure.reason if step.measure else "")
        )

    assert words in all_of(says) and words not in all_of(says_not)


def test_the_load_is_kept_dead_by_what_takes_its_power_and_no_controllers():
    """Hand-worked: the kiln's F1 feeds the element, F2 the controllers; without F1 nothing of the kind is left."""
    assert isolator(facts("kiln")) == "F1"
    words = steps_of(without("kiln", "F1"))["reading"].isolated
    assert "leads of E1 off" in words


def test_a_load_that_has_no_power_but_may_be_live_is_told_as_live():
    """A single pole on two lives leaves the other on the element; two poles leave nothing."""
    known = facts("dryer")
    two = steps_of(known)["reading"].isolated
    through = {p.name: p for p in known.wiring.parts}["F1"]
    assert ("may still be live" in two) == (through.type.kind == "breaker")


@pytest.mark.slow
@pytest.mark.parametrize("name", NAMES)
def test_every_step_of_every_rig_can_be_read_and_asked(name):
    """Titles are plain words, quantities have units, ranges are ranges, keys are unique, the meter has its help."""
    stages = proving_stages(facts(name))
    keys = [s.key for stage in stages for s in stage.steps]
    assert len(keys) == len(set(keys)) and all(len(k) <= 160 for k in keys)
    for step in (s for stage in stages for s in stage.steps):
        assert step.title and not list(spoken(step.title)) and len(step.title) <= 160
        assert step.does.endswith((".", "…", "?")) and step.must.endswith(".")
        assert step.cites and all(isinstance(v, str) for v in step.cites.values())
        if step.measure:
            low, high = step.measure.low, step.measure.high
            assert (low, high) != (None, None) and (low is None or high is None or low < high)
            assert accepted(step.measure) and step.measure.figure.reason + step.measure.figure.source
            assert step.meter is None or METER_HELP[step.meter]
        assert step.stage in {s.number for s in stages}
    assert set(METER_HELP) == set(MeterSetting)


def test_stages_stand_in_their_order_and_wait_for_the_plan():
    numbers = [s.number for s in proving_stages(facts("kiln"))]
    assert numbers == sorted(numbers) == list(range(8))
    waiting = {s.number: s.waits for s in proving_stages(replace(facts("kiln"), situation=None))}
    assert {n for n, words in waiting.items() if words == PLAN_FIRST} == {3, 5, 6}
    watching = replace(facts("cabinet relay"), purpose=replace(facts("cabinet relay").purpose, effect=Effect.WATCHES))
    stages = proving_stages(watching)
    assert [s.number for s in stages] == [0, 1, 3] and "load" not in " ".join(s.title for s in stages)


def test_a_cooler_is_asked_to_fall_and_a_fire_begins_at_its_glow():
    steps = steps_of(cooled())
    assert "fallen" in steps["rises"].must and steps["rises"].measure.falls and steps["peak after"].measure.falls
    assert "rests {4 min} first" in steps["rises"].does and "rests" not in steps_of(burning())["rises"].does
    assert "It turns and rises" in steps["peak after"].must and "real cold" in steps["trip live"].title
    assert "Set-point below" in steps["drive K1 on"].does
    assert "Lit and glowing" in steps_of(burning())["heat-up"].does
    assert "Lit" not in steps_of(facts("kiln"))["heat-up"].does
    assert "Set-point above" in steps_of(facts("cabinet relay"))["drive K1 on"].does


@pytest.mark.parametrize(
    ("known", "far", "near"), [(facts("cabinet relay"), 57.9, 58.1), (cooled(), 6.1, 5.9), (cooled(), 21.0, 3.0)]
)
def test_a_room_out_of_which_there_is_nothing_to_do_is_asked_back(known, far, near):
    """A cold box in a winter's workshop: its steps would ask to see it fall."""
    check_room(far, known.purpose)
    with pytest.raises(Refused) as refused:
        check_room(near, known.purpose)
    assert refused.value.problems[0].field == "room_c"
    check_room(near, replace(known.purpose, effect=Effect.WATCHES))


def test_the_reading_follows_the_room_and_what_the_offset_adds():
    cold, warm = (steps_of(replace(facts("kiln"), room_c=c))["reading"].measure for c in (5.0, 35.0))
    assert warm.figure.value - cold.figure.value == pytest.approx(30.0)
    shifted = replace(facts("kiln"), settings=replace(facts("kiln").settings, offset_c=-4.0))
    assert steps_of(shifted)["reading"].measure.figure.value == pytest.approx(facts("kiln").room_c - 4.0)


def test_the_live_trip_allows_both_sensors_and_the_limiters_own_lag():
    """The slower the limiter, the hotter the reading at its trip, and the peak after; never below what both errors allow."""
    limiter = facts("kiln").situation.plan.limiter
    found = [steps_of(planned("kiln", limiter=replace(limiter, lag_s=lag))) for lag in (1.0, 30.0, 120.0)]
    trips, peaks = ([s[key].measure.high for s in found] for key in ("trip live", "peak after"))
    assert trips == sorted(trips) and trips[0] < trips[-1] and peaks == sorted(peaks)
    assert all(peak >= trip for trip, peak in zip(trips, peaks, strict=True))
    assert len({s["trip live"].measure.low for s in found}) == 1
    assert found[0]["trip live"].measure.kind is Kind.TEMPERATURE


def test_a_stop_or_limiter_that_does_not_end_the_heat_as_wired_cannot_be_seen_as_it_must_be():
    """The element past everything: nothing that is seen then may be what must be seen."""
    past = dressed("second element past all")
    trip = steps_of(past)["trip A2"]
    assert "No power can reach the load" in trip.must and "E2 would go on" in trip.caution
    bad = steps_of(AT_START)["stop S9"]
    assert "No power can reach the load" in bad.must and "would go on" in bad.caution
    assert "drops out" in steps_of(facts("kiln"))["trip A2"].must and not steps_of(facts("kiln"))["trip A2"].caution
