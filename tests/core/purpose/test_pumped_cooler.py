"""A compressor or thermo-electric module beside a heater: it rests and runs its least times, and cold is a danger of its own."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rellux.core.control.alarms.settings import AlarmKind, AlarmSettings
from rellux.core.control.pid import PID
from rellux.core.control.settings import ControllerSettings, CoolingBand, Mode
from rellux.core.cooling.thermoelectric import module_of, settles, works
from rellux.core.errors import Refused
from rellux.core.guarding.by_effect import findings_in, propose
from rellux.core.guarding.family import HeatedRig, family
from rellux.core.guarding.ladder import Situation
from rellux.core.guarding.plan import Plan, PlannedAlarm
from rellux.core.handover.safe_use import safe_use
from rellux.core.heating.conductor_tables import Practice
from rellux.core.parts.own_mains import own_mains_findings
from rellux.core.plant.rig_models import network_for, rests_c, with_cooler
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import ThermalNetwork, from_model
from rellux.core.purpose.controls import Controls, ControlsFedBy
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.neighbours import Neighbours
from rellux.core.purpose.own_mains import MadeBy, OwnMains
from rellux.core.purpose.purpose import Purpose, RigKind, Supply, check_purpose
from rellux.core.questions.answer import Known
from rellux.core.questions.control.split import SPLIT
from rellux.core.runs.cooler_on import cooler_on
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.parameters import check_has, parameters_for, settings_from
from rellux.core.setup.proposals import propose as propose_sheet
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.tuning.cooled_too import cooled_too
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.switching import Switching
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.proving.rigs import planned_for, steps_of
from tests.examples import cases, some
from tests.oracle.compare import compare

CHILLER = Cooler(CooledBy.COMPRESSOR, 400.0, 150.0, coldest_c=-5.0)
MODULE = Cooler(CooledBy.MODULE, 60.0, 90.0, coldest_c=5.0)
CHAMBER = Purpose(
    35.0, 45.0, "the culture dies", Supply.SINGLE_PHASE, 230.0, 600.0, 230.0, 25.0, "it stops growing", cooler=CHILLER
)  # fmt: skip
FED = Controls(ControlsFedBy.DC, 24.0)
BLOCK = replace(CHAMBER, cooler=MODULE, controls=FED)
DC = replace(
    CHAMBER, cooler=MODULE, supply=Supply.DC, supply_voltage_v=24.0, heater_power_w=120.0, heater_voltage_v=24.0
)
SSR = Choice("K", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
PIN = replace(SSR, output=Output.PIN)


@pytest.mark.slow
@settings(max_examples=cases(60), deadline=None)
@given(
    st.floats(0.0, 300.0), st.floats(0.0, 300.0), st.floats(0.0, 5.0), st.floats(0.0, 6.0), st.floats(15.0, 60.0),
    st.lists(st.tuples(st.sampled_from([25.0, 30.0, 35.0, 40.0]), st.booleans()), min_size=1, max_size=8),
)  # fmt: skip
def test_it_never_rests_or_runs_for_less_and_never_while_it_heats(rest, run, above, hysteresis, start_c, moves):
    """Whatever it is told, step by step, with a sensor that breaks: only that ends a run before its time."""
    band = CoolingBand(above, hysteresis, rest, run)
    told = ControllerSettings(35.0, Mode.PID, pid=PID(20.0, 60.0), period_s=4.0, cooling=band)
    rig = ThermalNetwork((900.0,), (), (4.0,), 600.0, sensor_lag_s=5.0, cooler_w_per_k=20.0, coolant_rise_c=-26.0)
    sim = Simulation(rig, told, 21.0, 0.5)
    sim.start_at(start_c)
    states, blind = [], []
    for setpoint, broken in moves:
        sim.apply(replace(told, setpoint_c=setpoint))
        sim.break_sensor(broken)
        for _ in range(400):
            sim.advance(0.5)
            assert not (sim.cools_now and sim.switch_closed)
            states.append(sim.cools_now)
            blind.append(broken)
    edges = np.flatnonzero(np.diff([False, *states]))
    for began, ended in zip((0, *edges), edges, strict=False):
        lasted = 0.5 * (ended - began)
        if states[ended]:
            assert lasted >= rest - 0.5
        elif not blind[ended]:
            assert lasted >= run - 0.5


@settings(max_examples=cases(40), deadline=None)
@given(st.floats(6.0, 16.0), st.floats(2.0, 8.0), st.floats(0.3, 1.0), st.floats(0.05, 0.6), st.floats(0.0, 1.0))
def test_what_a_module_pumps_falls_evenly_down_to_where_it_takes_nothing(volts, amps, share, sink, between):
    """Against the module's own equations at one current on one heat sink, at any temperature between."""
    module = module_of(volts, amps, 68.0, 27.0)
    at_work, alone = works(module, share * amps, 20.0, 25.0, sink), settles(module, share * amps, 25.0, sink, 1e-12)
    if at_work is None or alone is None or at_work.pumped_w < 1.0 or alone > 19.0:
        return
    cooler = Cooler(CooledBy.MODULE, at_work.pumped_w, at_work.power_w, coldest_c=alone)
    celsius = alone + between * (20.0 - alone)
    takes = cooler.w_per_k(20.0, 25.0) * (celsius - cooler.with_c(25.0))
    assert takes == pytest.approx(
        works(module, share * amps, celsius, 25.0, sink).pumped_w, abs=1e-6 * at_work.pumped_w
    )


WIRED = (
    (CHAMBER, SSR),
    (CHAMBER, PIN),
    (CHAMBER, replace(SSR, output=Output.RELAY, actuator=Actuator.CONTACTOR)),
    (replace(BLOCK, controls=Controls(ControlsFedBy.MODULE, 24.0)), SSR),
    (BLOCK, PIN),
    (DC, replace(PIN, actuator=Actuator.MOSFET)),
)


@pytest.mark.slow
@pytest.mark.parametrize(("purpose", "choice"), some(WIRED, 3))
def test_as_wired_never_both_in_any_position_and_by_the_second_opinion(purpose, choice):
    wiring, facts = usual(purpose, choice, Usual.PARTS), planned_for(purpose, choice, RigKind.CABINET)
    found = {f.rule for f in check(wiring, context_for(purpose, choice.practice, "K"))}
    assert found <= {"wiring.several-supplies"}
    for out, trip, alarm in product((False, True), repeat=3):
        on = facts.circuit.solve(Switching(out, trip, alarm)).on
        assert bool({"M2", "E2"} & on) == alarm and ("E1" in on) == (out and not trip and not alarm)
    judged = compare(wiring, purpose.control_voltage_v)
    assert judged.wrong == () and judged.marginal <= 0.05 * judged.judged
    steps = steps_of(facts)
    assert len([k for k in steps if k.startswith("never both")]) == 1
    assert ("rests {4 min} first" in steps["cooler"].must) == purpose.has_compressor


def turned(wiring):
    """The module's two wires exchanged."""
    ends = {"E2.+": "E2.-", "E2.-": "E2.+"}
    return replace(
        wiring, connections=tuple(replace(w, a=ends.get(w.a, w.a), b=ends.get(w.b, w.b)) for w in wiring.connections)
    )


def test_a_module_that_heats_is_a_danger():
    wiring = usual(DC, replace(PIN, actuator=Actuator.MOSFET), Usual.PARTS)
    context = context_for(DC, Practice.IEC, "K")
    rules = [{f.rule for f in check(w, context)} & {"wiring.module-heats"} for w in (wiring, turned(wiring))]
    assert rules == [set(), {"wiring.module-heats"}]
    mains = usual(replace(CHAMBER, cooler=replace(CHILLER, drive_w=90.0)), SSR, Usual.PARTS)
    part = usual(BLOCK, SSR, Usual.PARTS).part("E2")
    ends = {"M2.1": "E2.+", "M2.2": "E2.-"}
    on_ac = replace(
        mains,
        parts=tuple(replace(part, ratings={**part.ratings, "voltage_v": 230.0}) if p.name == "M2" else p for p in mains.parts),
        connections=tuple(replace(w, a=ends.get(w.a, w.a), b=ends.get(w.b, w.b)) for w in mains.connections),
    )  # fmt: skip
    found = [f for f in check(on_ac, context_for(CHAMBER, Practice.IEC, "K")) if f.rule == "wiring.module-heats"]
    assert [f.severity for f in found] == ["danger"]


@pytest.mark.parametrize(("times", "opens"), [(6.8, False), (7.0, True)])
def test_a_breaker_that_its_start_opens_is_found(times, opens):
    """1 kW, 4.35 A, through a breaker of 6 A that opens at once from five times that on."""
    wiring = usual(replace(CHAMBER, cooler=replace(CHILLER, drive_w=1000.0)), SSR, Usual.PARTS)
    parts = tuple(
        replace(p, ratings={**p.ratings, "start_times": times}) if p.name == "M2" else p for p in wiring.parts
    )
    found = {f.rule for f in check(replace(wiring, parts=parts), context_for(CHAMBER, Practice.IEC, "K"))}
    assert found == ({"wiring.inrush"} if opens else set())


def test_a_generator_has_to_start_it():
    weak, strong = (replace(CHAMBER, own_mains=OwnMains(MadeBy.INVERTER, w)) for w in (450.0, 3000.0))
    rules = [{f.rule for f in own_mains_findings(p, SSR)} & {"parts.own-mains-start"} for p in (weak, strong)]
    assert rules == [{"parts.own-mains-start"}, set()]
    apart = replace(weak, controls=Controls(ControlsFedBy.MODULE, 24.0))
    assert "parts.own-mains-start" not in {f.rule for f in own_mains_findings(apart, SSR)}


def sheet_of(purpose, process=None, **changed):
    facts = RigFacts(purpose, "K", "relay", process=process)
    return facts, {**{p.name: p.value for p in propose_sheet(facts)}, **changed}


def test_its_rests_are_settings_of_a_compressor_only_and_too_short_ones_are_found():
    rests = {"minimum_off_s", "minimum_on_s"}
    assert rests <= {p.name for p in parameters_for(CHAMBER)} and not rests & {p.name for p in parameters_for(BLOCK)}
    with pytest.raises(Refused, match="no compressor"):
        check_has(["minimum_off_s"], BLOCK)
    check_has(["minimum_off_s"], CHAMBER)
    for rest, wrong in ((179.0, True), (180.0, False)):
        facts, sheet = sheet_of(CHAMBER, minimum_off_s=rest)
        assert ("setup.rest" in {f.rule for f in check_sheet(sheet, facts)}) is wrong
    band = settings_from(sheet_of(CHAMBER)[1], CHAMBER).cooling
    assert (band.rest_s, band.run_s) == (240.0, 90.0)
    bare = settings_from(sheet_of(BLOCK, minimum_off_s=240.0)[1], BLOCK)
    assert (bare.cooling.rest_s, bare.cooling.run_s, bare.rest_s) == (0.0, 0.0, 0.0)


@settings(max_examples=cases(20), deadline=None)
@given(
    st.floats(0.3, 2.0), st.floats(60.0, 2500.0), st.floats(2.0, 40.0), st.floats(20.0, 1500.0), st.floats(1.0, 8.0),
    st.floats(0.0, 300.0),
)  # fmt: skip
def test_a_least_run_that_carries_it_below_the_set_point_is_found(gain, lag_s, dead_s, takes_w, above, run_s):
    """By SciPy: from where it comes on, as late as that shows, through its least run; or, from where it goes off, through the dead time."""
    process = FOPDT(gain, lag_s, min(dead_s, lag_s / 3.0))
    purpose = replace(CHAMBER, highest_c=60.0, cooler=replace(CHILLER, cooler_w=takes_w))
    facts, sheet = sheet_of(purpose, process, cool_above_c=above, cool_hysteresis_c=above / 2.0, minimum_on_s=run_s)
    loss, own = 600.0 / (100.0 * gain), purpose.cooler.w_per_k(35.0, 21.0)

    def pulled(from_c, seconds):
        flows = solve_ivp(
            lambda _t, x: -(loss * (x - 21.0) + own * (x + 5.0)) / (loss * lag_s), (0.0, seconds), [from_c], rtol=1e-9
        )
        return flows.y[0, -1]

    late = process.dead_time_s + 0.25
    least = min(pulled(35.0 + above / 2.0, late), pulled(35.0 + above, run_s + late))
    if abs(least - 35.0) > 0.01:
        assert ("setup.cools-through" in {f.rule for f in check_sheet(sheet, facts)}) == (least < 35.0)
    still = [f for f in check_sheet(sheet_of(purpose, process)[1], facts) if f.rule == "setup.cools-through"]
    assert not still or "no distance" in still[0].fix


@settings(max_examples=cases(25), deadline=None)
@given(st.floats(0.0, 400.0), st.floats(0.5, 4.0), st.floats(0.1, 1.0), st.integers(1, 40), st.floats(30.0, 45.0))
def test_no_row_is_taken_for_uncooled_while_it_cooled(run_s, above, share, every, start_c):
    """A simulated run, looked at every so many steps: wherever it was on, it may have been on."""
    band = CoolingBand(above, share * above, 60.0, run_s)
    told = ControllerSettings(35.0, Mode.PID, pid=PID(8.0, 200.0), period_s=4.0, cooling=band)
    rig = ThermalNetwork((3000.0,), (), (4.0,), 600.0, sensor_lag_s=5.0, cooler_w_per_k=15.0, coolant_rise_c=-30.0)
    sim = Simulation(rig, told, 21.0, 0.25)
    sim.start_at(start_c)
    sim.stick(True)
    on, seen = [], []
    for _ in range(300):
        part = sim.advance(0.25 * every)
        seen.append(part)
        on.append(sim.cools_now)
    series = type(seen[0])(
        *(np.array([getattr(p, name)[-1] for p in seen]) for name in ("time_s", "setpoint_c", "reading_c", "output", "switch"))
    )  # fmt: skip
    assert not np.any(np.array(on) & ~cooler_on(series, band))


@settings(max_examples=cases(15), deadline=None)
@given(
    st.sampled_from([RigKind.CABINET, RigKind.TANK, RigKind.PLATE]), st.floats(50.0, 2500.0), st.floats(-20.0, 20.9),
    st.floats(15.0, 34.0),
)  # fmt: skip
def test_a_cooler_that_stays_on_is_told_where_it_freezes(kind, takes_w, coldest, lowest):
    """By SciPy's steady state of the coldest rig it may be, its heater off; an alarm at the lowest allowed silences it, one below not."""
    purpose = replace(CHAMBER, lowest_c=lowest, cooler=replace(CHILLER, cooler_w=takes_w, coldest_c=coldest))
    sheet = sheet_of(purpose)[1]
    rig = HeatedRig(kind, purpose, purpose.heater_power_w)
    situation = Situation(rig, Plan(), "K", settings_from(sheet, purpose), 40.0, None, False)

    def rests(network):
        n = with_cooler(network, purpose)
        g = n.conductance_matrix()
        g[n.sensor_node, n.sensor_node] += n.cooler_w_per_k
        into = np.zeros(len(n.capacities))
        into[n.sensor_node] = n.cooler_w_per_k * n.coolant_rise_c
        c = np.array(n.capacities)
        ends = solve_ivp(lambda _t, x: (into - g @ x) / c, (0.0, 300.0 * max(c / np.diag(g))), 0.0 * c, method="LSODA")
        return purpose.ambient_c + ends.y[n.sensor_node, -1]

    coldest_of_all = min(map(rests, family(rig).all))
    if abs(coldest_of_all - lowest) < 0.2:
        return

    def said(*alarms):
        plan = Plan(tuple(PlannedAlarm("Too cold", AlarmSettings(AlarmKind.LOW, c), (), "", "", "") for c in alarms))
        return [f for f in findings_in(replace(situation, plan=plan)) if f.rule == "guarding.cooler-freezes"]

    assert bool(said()) == (coldest_of_all < lowest) == bool(said(lowest - 0.1)) and not said(lowest)
    assert not [f for f in findings_in(replace(situation, plan=propose(situation).plan)) if "freezes" in f.rule]


def test_cold_water_freezes_too_and_the_rooms_air_is_no_colder_than_it():
    """At 30 °C in a room at 21, not below 25: water at 4 °C takes it there, a fan no farther than its own door would."""
    said = []
    for cooler in (Cooler(CooledBy.VALVE, 900.0, 12.0, 4.0), Cooler(CooledBy.FAN, 900.0, 40.0)):
        purpose = replace(CHAMBER, cooler=cooler)
        rig = HeatedRig(RigKind.CABINET, purpose, 600.0)
        bare = Situation(rig, Plan(), "K", settings_from(sheet_of(purpose)[1], purpose), 40.0, None, False)
        said.append("guarding.cooler-freezes" in {f.rule for f in findings_in(bare)})
    assert said == [True, False]


@pytest.mark.parametrize(
    ("purpose", "field"),
    [
        (replace(CHAMBER, lowest_c=None), "lowest_c"),
        (replace(CHAMBER, cooler=replace(CHILLER, coldest_c=None)), "cooler.coldest_c"),
        (replace(CHAMBER, cooler=replace(CHILLER, coldest_c=35.0)), "cooler.coldest_c"),
        (replace(CHAMBER, cooler=replace(CHILLER, coldest_c=float("nan"))), "cooler.coldest_c"),
        (replace(CHAMBER, cooler=replace(CHILLER, coldest_c=-45.1)), "cooler.coldest_c"),
        (replace(CHAMBER, cooler=replace(CHILLER, coolant_c=12.0)), "cooler.coolant_c"),
        (replace(BLOCK, cooler=replace(MODULE, coldest_c=-59.1)), "cooler.coldest_c"),
        (replace(BLOCK, controls=None), "cooler.cooled_by"),
        (replace(CHAMBER, cooler=Cooler(CooledBy.FAN, 100.0, 20.0, coldest_c=5.0)), "cooler.coldest_c"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(purpose, field):
    for good in (CHAMBER, BLOCK, DC, replace(BLOCK, cooler=replace(MODULE, coldest_c=-58.9))):
        check_purpose(good)
    with pytest.raises(Refused) as refused:
        check_purpose(purpose)
    assert field in [p.field for p in refused.value.problems]


@settings(max_examples=cases(20), deadline=None)
@given(
    st.sampled_from([RigKind.CABINET, RigKind.OVEN, RigKind.PLATE]), st.floats(0.05, 0.7), st.floats(20.0, 60.0), st.floats(20.0, 3000.0),
)  # fmt: skip
def test_among_other_zones_a_cooler_cools_from_where_they_keep_it(kind, share, at_c, takes_w):
    """Against the balance in degrees of the room, with the others as a bath; the same of the process found there."""
    alone = replace(CHAMBER, working_c=62.0, highest_c=70.0, cooler=replace(CHILLER, cooler_w=takes_w))
    zone = replace(alone, neighbours=Neighbours(at_c, share))
    own, among = network_for(kind, alone, 600.0), with_cooler(network_for(kind, zone, 600.0), zone)
    beside, pumps = among.to_ambient[1] - own.to_ambient[1], alone.cooler.w_per_k(62.0, 21.0)
    g, into = own.conductance_matrix(), np.zeros(3)
    g[1, 1] += beside + pumps
    into[1] = beside * (at_c - 21.0) + pumps * (-5.0 - 21.0)
    settled = 21.0 + np.linalg.solve(g, into)[1]
    assert rests_c(kind, zone) + among.equilibrium_rise(0.0, cooled=True)[1] == pytest.approx(settled, abs=1e-6)
    found = FOPDT(float(network_for(kind, zone, 600.0).equilibrium_rise()[1]) / 100.0, 900.0, 5.0)
    too = cooled_too(zone, found, CoolingBand(2.0, 1.0))
    model = too.on(from_model(found))
    assert zone.kept_at_c + model.equilibrium_rise(0.0, cooled=True)[model.sensor_node] == pytest.approx(
        settled, abs=1e-6
    )


def test_refrigerant_is_left_to_the_licensed_and_a_question_knows_what_cools():
    lines = [
        [line for part in safe_use(RigKind.CABINET, p, None, 60.0) for line in part.lines] for p in (CHAMBER, BLOCK)
    ]
    assert [any(line.startswith("Refrigerant") for line in found) for found in lines] == [True, False]
    process = FOPDT(0.5, 900.0, 20.0)
    asked = [SPLIT.of_rig(Known(p, SSR, RigKind.CABINET, process=process)).get("cooler") for p in (CHAMBER, BLOCK)]
    assert asked == ["compressor", "module"]
