"""A second sensor at the heater: two loops in a row, simulated as a plain loop does, never asking the heater for more than it may."""

from dataclasses import replace
from itertools import product
from math import inf, isfinite

import control
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.linalg import expm

from rellux.core.control.pid import PID
from rellux.core.control.settings import AntiWindup, ControllerSettings, InnerLoop, Mode
from rellux.core.errors import Refused
from rellux.core.guarding.family import HeatedRig, Identified, Span, family
from rellux.core.guarding.predict import running_overshoot
from rellux.core.heating.conductor_tables import Practice
from rellux.core.logs.columns import cells, roles
from rellux.core.logs.words import heading
from rellux.core.plant.rig_models import check_heater_sensor, heater_stands, network_of
from rellux.core.plant.simulation import Simulation
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import ThermalNetwork, behind_heater, from_fopdt
from rellux.core.profiles.predict import Conditions, course
from rellux.core.profiles.profile import EndAction, Profile, Segment, SegmentKind
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.heater_sensor import HeaterSensor
from rellux.core.purpose.purpose import Effect, Fire, Purpose, RigKind, Supply, check_purpose
from rellux.core.setup.auto_tune import check_auto_tune
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.dictionary.inner import INNER_NAMES
from rellux.core.setup.parameters import check_values, inner_of, parameters_for, settings_from
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.tuning.candidates import TWO_LOOPS, proposals, remark_of, too_hot, try_out, two_loops
from rellux.core.tuning.cascade import HeatedChamber, cascade, heated_chamber, margins_of
from rellux.core.tuning.comparison import compare, loop_figures, outcome_figures, setting_figures
from rellux.core.tuning.hand import HandNumbers, as_entered, numbers_of, proposal_of
from rellux.core.tuning.relay.before import before
from rellux.core.tuning.relay.experiment import RelayKind, forecast, relay_test
from rellux.core.tuning.schools import schools
from rellux.core.tuning.situation import Situation
from rellux.core.tuning.trials import Trial, put_through
from rellux.core.tuning.truths import truths
from rellux.core.wiring.choice import Actuator, Choice, Output, check_choice, fitting
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.staleness import stale
from rellux.core.wiring.usual_circuits import Usual, offers, usual
from tests.examples import cases, some

SENSOR = HeaterSensor(330.0, 40.0)
OVEN = Purpose(200.0, 260.0, "the bond browns", Supply.SINGLE_PHASE, 230.0, 2000.0, 230.0, heater_sensor=SENSOR)
FOUND = FOPDT(3.4, 1400.0, 40.0)
SSR = Choice("K", Output.SSR_DRIVE, Actuator.SSR, limiter=True, practice=Practice.IEC)
CHAMBER = heated_chamber(RigKind.OVEN, OVEN, FOUND, OVEN.ambient_c)


def plain(
    network: ThermalNetwork, how: ControllerSettings, room_c: float, looks: int
) -> list[tuple[float, float, float]]:
    """The judge: both loops of a continuous output written out again, the plant by a matrix exponential. Reading, heater, output."""
    g, c, h = network.conductance_matrix(), np.array(network.capacities), how.sample_s
    n, inner, pid = len(c), how.inner, how.pid
    augmented = np.zeros((2 * n, 2 * n))
    augmented[:n, :n], augmented[:n, n:] = -g / c[:, None], np.diag(1.0 / c)
    whole = expm(augmented * h)
    x, heat = np.zeros(n), np.zeros(n)
    shown, seen, i_outer, i_inner, u = [0.0] * (round(network.dead_time_s / h) + 1), [], 0.0, 0.0, 0.0
    for _ in range(looks):
        reading, heater = shown[0] + room_c, x[network.heater_node] + room_c
        error = how.setpoint_c - reading
        wanted = pid.gain * error + i_outer
        asks = min(max(wanted, 0.0), 100.0)
        stuck = ((wanted > 100.0 or u >= 100.0) and error > 0) or ((wanted < 0.0 or u <= 0.0) and error < 0)
        if not stuck:
            i_outer += pid.gain / pid.integral_time_s * h * error
        lacks = inner.low_c + asks / 100.0 * (inner.high_c - inner.low_c) - heater
        gives = inner.gain * lacks + i_inner
        u = min(max(gives, 0.0), 100.0)
        if not (gives > 100.0 and lacks > 0) and not (gives < 0.0 and lacks < 0):
            i_inner += inner.gain / inner.integral_time_s * h * lacks
        seen.append((reading, heater, u))
        heat[network.heater_node] = network.heater_power_w * u / 100.0
        x = whole[:n, :n] @ x + whole[:n, n:] @ heat
        shown = [*shown[1:], float(x[network.sensor_node])]
    return seen


@pytest.mark.parametrize("seed", range(cases(3)))
def test_the_plant_runs_two_loops_as_a_plain_loop_does(seed):
    rng = np.random.default_rng(seed)
    link, loss, lag = rng.uniform(3.0, 12.0), 1.0, rng.uniform(300.0, 2000.0)
    network = ThermalNetwork(
        (link * rng.uniform(10.0, 60.0), lag, lag * 0.3),
        ((0, 1, link), (1, 2, 0.4)),
        (0.0, loss, 0.1),
        float(rng.uniform(300.0, 900.0)),
        sensor_node=1,
        dead_time_s=float(rng.integers(0, 40)),
        late_reading=True,
    )
    how = ControllerSettings(
        150.0,
        Mode.PID,
        pid=PID(float(rng.uniform(0.3, 3.0)), float(rng.uniform(100.0, 900.0))),
        period_s=0.0,
        sample_s=0.5,
        inner=InnerLoop(
            float(rng.uniform(1.0, 8.0)), float(rng.uniform(10.0, 60.0)), 20.0, float(rng.uniform(200.0, 400.0))
        ),
    )
    rig = Simulation(network, how, 20.0, 0.5)
    rows = rig.advance(3000.0, 0.5)
    told = np.array(plain(network, how, 20.0, len(rows.time_s)))
    assert rows.reading_c == pytest.approx(told[:, 0], abs=1e-6)
    assert rows.output == pytest.approx(told[:, 2], abs=1e-5)
    assert rig.hottest_heater_c == pytest.approx(told[:, 1].max(), abs=0.5)


@settings(max_examples=cases(25), deadline=None)
@given(
    hotter=st.floats(10.0, 120.0), lag=st.floats(8.0, 120.0), spare=st.floats(20.0, 200.0), dead=st.floats(0.0, 120.0),
    rise=st.floats(40.0, 900.0), holds=st.floats(20.0, 80.0), period=st.sampled_from([0.0, 1.0, 2.0, 20.0]),
)  # fmt: skip
def test_the_heater_is_never_asked_for_more_and_hardly_gets_past_it(hotter, lag, spare, dead, rise, holds, period):
    process = FOPDT(rise / holds, 60.0 * lag, dead)
    rig = HeatedChamber(process, rise, hotter, min(lag, 0.4 * process.lag_s * hotter / rise), rise + hotter + spare)
    period = min(period, rig.heater_lag_s)  # longer pulses are on/off to the heater
    one = ControllerSettings(20.0 + rise, Mode.PID, period_s=period)
    found = cascade(rig, 0.25, period, 0.1)
    how = found.settings(one, 20.0)
    assume(found.fits)
    check_values(as_entered(how, at_heater=True))
    plant = Simulation(rig.seen(), how, 20.0, 0.25)
    asked = []
    for _ in range(40):
        plant.advance(0.25 * process.lag_s, 3600.0)
        asked.append(plant.asked_c)
    assert max(asked) <= 20.0 + rig.most_c + 1e-9
    # a pulse that is latched for a period goes on for as long as that, whatever is felt meanwhile
    latched = period / rig.heater_lag_s * (process.full_power_rise_c / rig.link)
    assert plant.hottest_heater_c <= 20.0 + rig.most_c + 0.1 * rig.hotter_c + latched
    ripple = 0.25 * period * process.full_power_rise_c / process.lag_s
    assert plant.reading_c == pytest.approx(20.0 + rise, abs=max(0.02 * rise, 1.0) + ripple)
    assert margins_of(rig, how).ms < 2.0


def test_going_over_to_two_loops_does_not_jump_and_one_mass_is_refused():
    how = cascade(CHAMBER, 0.25, 0.0).settings(
        ControllerSettings(200.0, Mode.PID, pid=PID(3.0, 900.0), period_s=0.0), 21.0
    )
    one = replace(how, inner=None, pid=PID(3.0, 900.0))
    plant = Simulation(CHAMBER.seen(), one, 21.0, 0.25)
    plant.advance(4 * 3600.0, 60.0)
    before = plant.output
    for other in (how, one, how):
        plant.apply(other)
        assert plant.advance(30.0, 0.25).output == pytest.approx(before, abs=1.0)
    with pytest.raises(Refused, match="one mass"):
        Simulation(from_fopdt(FOUND), how, 21.0, 0.25)
    with pytest.raises(Refused, match="compressor"):
        replace(how, cools=True)


def test_a_loop_within_that_swings_makes_both_swing():
    how = cascade(CHAMBER, 0.25, 2.0).settings(ControllerSettings(200.0, Mode.PID, period_s=2.0), 21.0)
    assert margins_of(CHAMBER, how).ms == pytest.approx(outer_by_python_control(CHAMBER, how), rel=0.01)
    wild = replace(how, inner=replace(how.inner, gain=how.inner.gain * 20.0))
    assert margins_of(CHAMBER, wild).ms == inf
    with pytest.raises(Refused, match="one loop"):
        margins_of(CHAMBER, replace(how, inner=None))


def outer_by_python_control(rig: HeatedChamber, how: ControllerSettings) -> float:
    """Max |1/(1+L)| with dead times as exponentials, the plant by python-control."""
    network, w = rig.network(), np.geomspace(1e-6, 1e2, 8000)
    g, c = network.conductance_matrix(), np.array(network.capacities)
    system = control.ss(-g / c[:, None], np.array([[network.heater_power_w / 100.0 / c[0]], [0.0]]), np.eye(2), 0)
    heater, chamber = (system[i, 0](1j * w) for i in (0, 1))
    s, late = 1j * w, 0.5 * (how.sample_s + how.period_s)
    inner = how.inner.gain * (1 + 1 / (s * how.inner.integral_time_s)) * heater * np.exp(-s * late)
    outer = how.pid.gain * how.inner.span_c / 100.0 * (1 + 1 / (s * how.pid.integral_time_s))
    loop = outer * inner / (1 + inner) * chamber / heater * np.exp(-s * (rig.later_s + 0.5 * how.sample_s))
    return float(np.abs(1 / (1 + loop)).max())


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"heater_sensor": HeaterSensor(259.0, 40.0)}, "heater_sensor.most_c"),
        ({"heater_sensor": HeaterSensor(1801.0, 40.0)}, "heater_sensor.most_c"),
        ({"heater_sensor": HeaterSensor(330.0, 1.0)}, "heater_sensor.hotter_c"),
        ({"heater_sensor": HeaterSensor(330.0, 40.0, 0.5)}, "heater_sensor.lag_s"),
        ({"cooler": Cooler(CooledBy.FAN, 600.0, 40.0)}, "heater_sensor"),
        ({"fire": Fire(5000.0)}, "heater_sensor"),
        ({"effect": Effect.WATCHES, "heater_power_w": 0.0, "heater_voltage_v": 0.0}, "heater_sensor"),
    ],
)
def test_what_it_cannot_be_is_asked_back(changed, field):
    check_purpose(replace(OVEN, heater_sensor=HeaterSensor(260.0, 40.0)))
    with pytest.raises(Refused) as refused:
        check_purpose(replace(OVEN, **changed))
    assert field in [p.field for p in refused.value.problems]


def test_what_was_not_said_of_the_heater_is_as_its_kind_has_it():
    unsaid = replace(OVEN, heater_sensor=HeaterSensor(330.0))
    hotter_c, lag_s = heater_stands(RigKind.OVEN, unsaid)
    assert (hotter_c, lag_s) == pytest.approx((179.0 / 6.0, 45.0))
    assert heater_stands(RigKind.OVEN, replace(OVEN, heater_sensor=HeaterSensor(330.0, 40.0, 20.0))) == pytest.approx(
        (40.0, 20.0)
    )
    check_heater_sensor(RigKind.OVEN, replace(unsaid, heater_sensor=HeaterSensor(250.0)))
    for sensor, field in ((HeaterSensor(249.0), "most_c"), (HeaterSensor(400.0, 5.0, 300.0), "lag_s")):
        with pytest.raises(Refused) as refused:
            check_heater_sensor(RigKind.OVEN, replace(OVEN, heater_sensor=sensor))
        assert refused.value.problems[0].field == f"heater_sensor.{field}"
    plant = Simulation(
        network_of(RigKind.OVEN, OVEN),
        ControllerSettings(0.0, Mode.MANUAL, manual_output=50.0, period_s=0.0),
        21.0,
        1.0,
    )
    plant.advance(20 * 3600.0, 3600.0)
    assert plant.heater_c - plant.true_c == pytest.approx(40.0 * (plant.true_c - 21.0) / 179.0, rel=0.01)


def test_it_is_wired_with_two_probes_and_only_by_what_has_two_inputs():
    for key in (Usual.PARTS, Usual.BEACON, Usual.START, Usual.FAN):
        laid = usual(OVEN, SSR, key)
        assert laid.part("A1").type.kind == "controller_cascade_ssr"
        assert {(p.name, p.ratings["place"]) for p in laid.of_kind("thermocouple") if "place" in p.ratings} >= {
            ("B1", "chamber"),
            ("B3", "heater"),
        }
        assert len({p.name for p in laid.parts}) == len(laid.parts)
    two, one = (
        {o.key: o.refused for o in offers(RigKind.OVEN, p, SSR)} for p in (OVEN, replace(OVEN, heater_sensor=None))
    )
    assert not {Usual.CASCADE, Usual.CASCADE_BEACON} & set(two)
    assert "Purpose" in one[Usual.CASCADE] and "Purpose" in one[Usual.CASCADE_BEACON]
    assert (
        usual(OVEN, replace(SSR, output=Output.RELAY, actuator=Actuator.CONTACTOR), Usual.PARTS).part("A1").type.kind
        == "controller_cascade"
    )
    linear = replace(SSR, output=Output.LINEAR, actuator=Actuator.PHASE_ANGLE)
    unit = usual(OVEN, linear, Usual.PARTS)
    assert unit.part("A1").type.kind == "controller_cascade_linear"
    rules = {f.rule for f in check(unit, context_for(OVEN, Practice.IEC, "K"))}
    assert rules == {
        f.rule
        for f in check(
            usual(replace(OVEN, heater_sensor=None), linear, Usual.PARTS), context_for(OVEN, Practice.IEC, "K")
        )
    }
    board = replace(SSR, output=Output.PIN)
    with pytest.raises(Refused, match="two inputs"):
        check_choice(OVEN, board)
    assert fitting(OVEN, board).output is Output.SSR_DRIVE
    single = replace(OVEN, heater_sensor=None)
    for was, will_be in ((single, OVEN), (OVEN, single)):
        assert [f.rule for f in stale(usual(was, SSR, Usual.PARTS), will_be, SSR, Usual.PARTS)] == ["wiring.stale"]
    assert not stale(usual(OVEN, SSR, Usual.PARTS), OVEN, SSR, Usual.PARTS)


def sheet_of(facts: RigFacts, **changed):
    return {**{p.name: p.value for p in propose(facts)}, "mode": "pid", **changed}


FACTS = RigFacts(OVEN, "K", "ssr", process=FOUND, process_verdict="supported", chamber=CHAMBER)


def test_a_sheet_has_both_loops_where_the_rig_has_the_sensor_and_says_so():
    assert settings_from(sheet_of(FACTS), OVEN).inner.high_c == 330.0
    assert settings_from(sheet_of(FACTS, loops="one"), OVEN).inner is None
    single = replace(OVEN, heater_sensor=None)
    assert settings_from(sheet_of(FACTS), single).inner is None
    assert not set(INNER_NAMES) & {p.name for p in parameters_for(single)}
    assert set(INNER_NAMES) <= {p.name for p in parameters_for(OVEN)}
    assert inner_of(sheet_of(FACTS, inner_low_c=400.0)).span_c == 1.0
    older = replace(FACTS, set_as_one=True)
    assert settings_from(sheet_of(older), OVEN).inner is None


@pytest.mark.parametrize(
    ("rule", "triggers", "near"),
    [
        ("setup.one-loop", {"loops": "one"}, {"loops": "two"}),
        ("setup.asks-too-hot", {"inner_high_c": 331.0}, {"inner_high_c": 330.0}),
        ("setup.asks-too-hot", {"inner_low_c": 331.0, "loops": "one"}, {"inner_low_c": 100.0, "loops": "one"}),
        ("setup.pulses-late", {"period_s": 46.0}, {"period_s": 45.0}),
        ("setup.never-lets-go", {"inner_low_c": 240.0, "mode": "on_off"}, {"inner_low_c": 239.0}),
        ("setup.asks-too-little", {"inner_high_c": 259.0}, {"inner_high_c": 260.0}),
        ("setup.two-narrow", {"inner_band_c": 0.9}, {"inner_band_c": 4.3}),
        ("setup.two-narrow", {"proportional_band_c": 50.0}, {"proportional_band_c": 146.0}),
        ("setup.winds-up-behind", {"anti_windup": "limits", "integrates_within_c": 5.0}, {"anti_windup": "stops"}),
        ("setup.two-swing", {"inner_band_c": 1.0, "period_s": 20.0}, {"inner_band_c": 60.0, "proportional_band_c": 200.0}),
        ("setup.two-swing", {"proportional_band_c": 15.0}, {"proportional_band_c": 60.0}),
    ],
)  # fmt: skip
def test_each_rule_of_two_loops_has_a_case_and_a_near_miss(rule, triggers, near):
    assert rule in [f.rule for f in check_sheet(sheet_of(FACTS, **triggers), FACTS)]
    assert rule not in [f.rule for f in check_sheet(sheet_of(FACTS, **near), FACTS)]


def test_numbers_of_two_loops_are_no_numbers_of_one_and_no_test_of_one_tunes_two():
    single = replace(FACTS, purpose=replace(OVEN, heater_sensor=None), chamber=None)
    for sheet, rules in ((sheet_of(FACTS), True), (sheet_of(FACTS, mode="on_off"), False), (sheet_of(single), False)):
        assert ("setup.made-for-two" in [f.rule for f in check_sheet(sheet, single)]) is rules
    with pytest.raises(Refused, match="one loop"):
        check_auto_tune("on", sheet_of(FACTS), FACTS)
    check_auto_tune("on", sheet_of(FACTS, loops="one"), FACTS)
    check_auto_tune("off", sheet_of(FACTS), FACTS)


def test_a_proposed_change_of_a_band_settles_it():
    for wrong in ({"proportional_band_c": 15.0}, {"inner_band_c": 1.0, "period_s": 20.0}):
        sheet = sheet_of(FACTS, **wrong)
        for _ in range(3):
            found = [f for f in check_sheet(sheet, FACTS) if f.rule in ("setup.two-swing", "setup.two-narrow")]
            for f in found:
                sheet[f.proposal.target.removeprefix("setup.")] = f.proposal.value
        assert not found, [f.title for f in found]


def situation(chamber: HeatedChamber | None = CHAMBER, **more) -> Situation:
    how = ControllerSettings(200.0, Mode.ON_OFF, period_s=2.0)
    return Situation(FOUND, how, 21.0, 190.0, 260.0, noise_c=0.05, chamber=chamber, **more)


def test_rigs_that_fit_the_record_have_the_heater_that_was_told_and_the_same_answer():
    here = situation()
    for network, bare in zip(here.judges, truths(here.members, here.rise_c, 21.0, 0.98).networks, strict=True):
        at, before = network.equilibrium_rise(), bare.equilibrium_rise()
        assert at[network.sensor_node] == pytest.approx(before[bare.sensor_node])
        hands_on_w = network.holding_w(here.rise_c, 21.0)  # radiation counted
        assert 0.8 <= hands_on_w / network.links[0][2] / CHAMBER.hotter_c <= 1.25
        assert sum(network.capacities[:2]) == pytest.approx(sum(bare.capacities[:2]))
        assert network.late_reading and network.dead_time_s <= bare.dead_time_s


@pytest.mark.slow
def test_two_loops_are_a_candidate_that_low_mains_hardly_touch_and_spares_the_heater():
    here = situation()
    found = compare(here)
    both, one = found.candidate(TWO_LOOPS), found.candidate("simc")
    dips = {c.key: try_out(here, c.proposal, (Trial.MAINS,)).tried[Trial.MAINS].worst.away_c for c in (both, one)}
    assert dips[TWO_LOOPS] < 0.2 * dips["simc"]
    assert not too_hot(here, both) and both.loop.worst_ms < 1.6
    assert {"inner proportional band", "inner integral time"} <= {f.name for f in setting_figures(here, both.proposal)}
    assert "heater gets to" in {f.name for f in outcome_figures(here, both.heat_up, Trial.HEAT_UP)}
    assert all(isfinite(f.value) for f in loop_figures(here, both))
    entered = as_entered(both.proposal.settings, at_heater=True)
    assert entered["loops"] == "two" and entered["inner_high_c"] == 330.0
    assert as_entered(one.proposal.settings, at_heater=True)["loops"] == "one" and "loops" not in as_entered(
        one.proposal.settings
    )
    by_hand = proposal_of(here, numbers_of(both.proposal.settings)).settings
    assert by_hand.inner.band_c == pytest.approx(both.proposal.settings.inner.band_c)
    told = schools(replace(here, now=both.proposal.settings))
    assert told and all(s.steps[0].do.startswith("One loop, not two.") for s in told)
    assert not any("not two" in s.steps[0].do for s in schools(here))
    test = forecast(here, relay_test(here, RelayKind.OWN, None, 100.0))
    assert any("one loop" in s for s in before(test, [], 5.0, True, two_loops=True).says)
    assert not found.short and TWO_LOOPS in {c.key for c in found.candidates}
    quick = heated_chamber(RigKind.OVEN, OVEN, FOPDT(3.4, 18.0, 1.0), 21.0)  # its heater holds no more than it can
    seldom = compare(replace(situation(quick), process=quick.process))
    assert (
        quick.heater_lag_s < 45.0 and seldom.candidate(TWO_LOOPS) is None and "Two loops are not tried" in seldom.short
    )
    assert TWO_LOOPS not in [c.key for c in compare(situation(None)).candidates]
    with pytest.raises(Refused, match="second sensor"):
        proposal_of(situation(None), HandNumbers(20.0, 300.0, inner_band_c=10.0))


def test_what_gets_a_heater_too_hot_is_said_and_not_chosen():
    spared = replace(CHAMBER, most_c=239.0 + 20.0 - 21.0)
    here = situation(spared)
    on_off = try_out(here, proposal_of(here, HandNumbers(hysteresis_c=1.0)), (Trial.HEAT_UP,))
    assert too_hot(here, on_off) and "more than it may" in remark_of(here, on_off)
    how = cascade(spared, 0.25, 2.0, 0.1).settings(here.settings, 21.0)
    seen = put_through(here.network, how, here.stage, (Trial.HEAT_UP,), 0.25)[Trial.HEAT_UP]
    assert seen.heater_c <= 259.0 + 0.1 * spared.hotter_c


def test_what_guards_and_what_follows_a_profile_know_both_loops():
    how = settings_from(sheet_of(FACTS), OVEN)
    around = (Span(3.4, 3.2, 3.6), Span(1400.0, 1300.0, 1500.0), Span(40.0, 35.0, 45.0))
    rigs = family(HeatedRig(RigKind.OVEN, OVEN, 2000.0, Identified(*around)))
    assert all(n.late_reading and n.heater_node != n.sensor_node for n in rigs.all)
    assert running_overshoot(rigs, how, 21.0).high < 5.0
    climb = Profile(
        (Segment(SegmentKind.RAMP_RATE, 320.0, rate_c_per_min=2.0), Segment(SegmentKind.END, end=EndAction.HOLD))
    )
    reached = {}
    for high in (330.0, 500.0):
        loops = replace(
            how, inner=replace(how.inner, high_c=high), pid=replace(how.pid, gain=how.pid.gain * 309.0 / (high - 21.0))
        )
        reached[high] = course(climb, rigs.likely, Conditions(rigs, loops, 21.0, 21.0))
    beyond = behind_heater(rigs.likely, 330.0 - 21.0)
    assert reached[330.0].reach_c == pytest.approx(21.0 + float(beyond.equilibrium_rise()[beyond.sensor_node]))
    assert reached[330.0].reach_c < 320.0 < reached[500.0].reach_c
    assert reached[330.0].reading_c.max() <= reached[330.0].reach_c + 1.0


@pytest.mark.parametrize("school", some(AntiWindup, 3))
def test_a_heater_at_its_limit_winds_the_outer_loop_up_only_where_it_is_said_to(school):
    how = replace(
        cascade(CHAMBER, 0.25, 0.0).settings(ControllerSettings(200.0, Mode.PID, period_s=0.0), 21.0),
        anti_windup=school,
    )
    weak = replace(how, pid=replace(how.pid, gain=0.3, integral_time_s=200.0))
    plant = Simulation(CHAMBER.seen(), weak, 21.0, 0.25)
    over = plant.advance(3 * 3600.0, 10.0).reading_c.max() - 200.0
    assert (over < 12.0) == (school is AntiWindup.STOPS)


def test_a_log_names_the_heaters_temperature():
    names, unit = ("Time s", "Chamber temp", "Heater temp", "Heater"), "°C"
    heads = [heading(n, unit if "temp" in n else "") for n in names]
    rows = [
        cells([str(v) for v in values], ".")
        for values in (range(9), [20 + i for i in range(9)], [30 + i for i in range(9)], [0, 1] * 4 + [0])
    ]
    found, _ = roles(heads, rows)
    assert found["heater"] == 2 and found["reading"] == 1 and found["switch"] == 3


def test_every_pair_of_words_for_loops_is_a_setting():
    for mode, loops in product(("pid", "on_off", "off"), ("one", "two")):
        assert settings_from(sheet_of(FACTS, mode=mode, loops=loops), OVEN).in_cascade == (
            mode == "pid" and loops == "two"
        )


@settings(max_examples=cases(20), deadline=None)
@given(
    kind=st.sampled_from([RigKind.OVEN, RigKind.TOOL, RigKind.KILN, RigKind.BLOWER, RigKind.TANK]),
    hotter=st.one_of(st.none(), st.floats(2.0, 1000.0)), lag=st.one_of(st.none(), st.floats(1.0, 600.0)), spare=st.floats(0.0, 1400.0),
    actuator=st.sampled_from(["ssr", "contactor"]),
)  # fmt: skip
def test_whatever_is_proposed_can_be_entered_and_nothing_is_found_wrong_with_it(kind, hotter, lag, spare, actuator):
    rig = replace(OVEN, heater_sensor=HeaterSensor(min(220.0 + (hotter or 60.0) + spare, 1800.0), hotter, lag))
    try:
        check_purpose(rig)
        check_heater_sensor(kind, rig)
    except Refused:
        return
    facts = RigFacts(rig, "K", actuator, chamber=heated_chamber(kind, rig, None, rig.ambient_c))
    sheet = sheet_of(facts)
    check_values({n: sheet[n] for n in (*INNER_NAMES, "proportional_band_c", "integral_time_s")})
    found = {f.rule for f in check_sheet(sheet, facts)}
    late = {"setup.pulses-late"} if sheet["period_s"] > facts.chamber.heater_lag_s else set()
    assert found == ({"setup.one-loop"} if sheet["loops"] == "one" else late)


@pytest.mark.parametrize("low", [100.0, 230.0, 250.0, 320.0])
def test_a_heater_that_is_never_let_go_is_said_just_where_the_rig_then_stays_too_hot(low):
    sheet = sheet_of(FACTS, inner_low_c=low, period_s=0.0)
    plant = Simulation(CHAMBER.seen(), settings_from(sheet, OVEN), 21.0, 0.25)
    plant.advance(8 * 1400.0, 3600.0)
    assert ("setup.never-lets-go" in [f.rule for f in check_sheet(sheet, FACTS)]) == (plant.reading_c > 201.0)


def test_where_others_keep_it_warm_nothing_asks_for_no_more_than_the_room_itself():
    """A zone that rests at 120 °C among others: with all of them off, no output must leave its heater as cold as the room."""
    among = heated_chamber(RigKind.OVEN, OVEN, FOUND, 120.0)
    here = replace(situation(among), ambient_c=120.0)
    found = two_loops(here)
    by_hand = proposal_of(here, HandNumbers(200.0, 300.0, inner_band_c=10.0)).settings
    for inner in (found.settings(here.settings, 120.0).inner, by_hand.inner):
        assert (inner.low_c, inner.high_c) == (21.0, 330.0)
    told = {f.name: f for f in setting_figures(here, next(p for p in proposals(here) if p.key == TWO_LOOPS))}
    kc = 100.0 / told["inner proportional band"].value
    k, tau, closed = (i.value for i in told["inner proportional band"].inputs)
    assert kc == pytest.approx(tau / (k * (closed + found.late_s)))
