"""The simulator against closed forms and against python-control."""

from dataclasses import replace

import control
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.pid import PID
from rellux.core.control.settings import AntiWindup, ControllerSettings, HysteresisSchool, Mode
from rellux.core.errors import Refused
from rellux.core.plant.rig_models import network_for
from rellux.core.plant.simulation import Disturbance, Simulation
from rellux.core.process.cycles import cycle
from rellux.core.process.models import FOPDT
from rellux.core.process.networks import ThermalNetwork, from_fopdt
from rellux.core.purpose.purpose import Purpose, RigKind, Supply

CABINET = FOPDT(1.05, 620.0, 52.0)


def simulate(process, settings_, length, step=0.25, every=None):
    return Simulation(from_fopdt(process), settings_, 20.0, step).advance(length, every)


def manual(output):
    return ControllerSettings(60, Mode.MANUAL, manual_output=output, period_s=0)


def test_open_loop_step_matches_python_control():
    record = simulate(CABINET, manual(40), 3000, every=5)
    system = control.tf([1.05], [620, 1])
    times = np.maximum(record.time_s - 52.0, 0.0)
    grid = np.linspace(0, 3000, 30_001)
    reference = 20 + 40 * np.interp(times, grid, control.step_response(system, grid).outputs)
    assert np.max(np.abs(record.reading_c - reference)) < 0.02


def test_second_order_network_matches_python_control():
    """Element and chamber: C₁ = 600, C₂ = 1800 J/K, link 20, loss 3 W/K; the chamber's rise for a 150 W step."""
    network = ThermalNetwork((600, 1800), ((0, 1, 20),), (0, 3), 150, heater_node=0, sensor_node=1)
    record = Simulation(network, manual(100), 20.0, 0.5).advance(4000, 10)
    system = control.ss([[-20 / 600, 20 / 600], [20 / 1800, -23 / 1800]], [[1 / 600], [0]], [[0, 1]], 0)
    reference = control.step_response(system, record.time_s).outputs * 150 + 20
    assert np.max(np.abs(record.reading_c - reference)) < 1e-6


def test_pid_loop_matches_python_control():
    """Continuous output, small sample, no dead time: the closed loop of PI and lag has an exact linear reference."""
    pid = PID(gain=2.0, integral_time_s=400.0)
    loop = ControllerSettings(30.0, Mode.PID, pid=pid, period_s=0, sample_s=0.1)
    record = simulate(FOPDT(1.05, 620.0, 0.0), loop, 3000, step=0.1, every=5)
    controller = control.tf([2.0 * 400, 2.0], [400, 0])
    closed = control.feedback(controller * control.tf([1.05], [620, 1]))
    reference = 20 + 10 * control.step_response(closed, record.time_s).outputs
    assert np.max(np.abs(record.reading_c - reference)) < 0.02
    assert record.output.max() < 100  # otherwise the comparison would not be linear


def as_each_school_says(process, pid, school, within, setpoint, length, step):
    """The loop in difference equations of its own: the integral as the books write each school (Åström & Hägglund, section 3.5)."""
    decay, late = np.exp(-step / process.lag_s), round(process.dead_time_s / step)
    tracking = np.sqrt(pid.integral_time_s * pid.derivative_time_s) if pid.derivative_time_s else pid.integral_time_s
    rise, integral, slope, before, given, seen = 0.0, 0.0, 0.0, 0.0, [0.0] * late, []
    for _ in range(round(length / step)):
        seen.append(20.0 + rise)
        error = setpoint - 20.0 - rise
        if pid.derivative_time_s:
            share = step / (pid.derivative_time_s / pid.derivative_filter + step)
            slope += ((rise - before) / step - slope) * share
        before = rise
        asked = pid.gain * (error - pid.derivative_time_s * slope) + integral
        output = min(max(asked, 0.0), 100.0)
        more = pid.gain / pid.integral_time_s * error * step if not within or abs(error) <= within else 0.0
        if school is AntiWindup.STOPS:
            integral += 0.0 if (asked > 100.0 and error > 0) or (asked < 0.0 and error < 0) else more
        elif school is AntiWindup.TRACKS:
            integral += more + (output - asked) * step / tracking
        else:
            integral = min(max(integral + more, 0.0), 100.0)
        given.append(output)
        rise = decay * rise + (1.0 - decay) * process.gain * given.pop(0)
    return np.array(seen)


@pytest.mark.parametrize("step", [1.0, 2.0])
@pytest.mark.parametrize("within", [0.0, 4.0])
@pytest.mark.parametrize("pid", [PID(8.0, 500.0), PID(12.0, 300.0, 40.0)])
@pytest.mark.parametrize("school", list(AntiWindup))
def test_at_full_output_the_integral_does_as_its_school_says(school, pid, within, step):
    loop = ControllerSettings(
        70.0, Mode.PID, pid=pid, period_s=0, sample_s=1.0, anti_windup=school, integrates_within_c=within
    )
    record = simulate(CABINET, loop, 4000, step=step, every=1)
    expected = as_each_school_says(CABINET, pid, school, within, 70.0, 4000, step)
    assert np.max(np.abs(record.reading_c - expected)) < 1e-6


def test_a_heat_up_overshoots_by_what_its_integral_does_at_full_output():
    """One that goes on to the output's limits overshoots most; inside a band of its own it does as well as one that stops."""

    def over(school, within=0.0):
        loop = ControllerSettings(70.0, Mode.PID, pid=PID(8.0, 500.0), period_s=0, anti_windup=school,
                                  integrates_within_c=within)  # fmt: skip
        return simulate(CABINET, loop, 6000, every=40).reading_c.max() - 70.0

    limits = over(AntiWindup.LIMITS)
    assert limits > 1.5 * max(over(AntiWindup.STOPS), over(AntiWindup.TRACKS))
    assert over(AntiWindup.LIMITS, 100.0 / 8.0) < 0.7 * limits


@pytest.mark.parametrize("school", list(HysteresisSchool))
@pytest.mark.parametrize("process", [CABINET, FOPDT(0.6, 300.0, 100.0), FOPDT(5.0, 3000.0, 20.0)])
def test_on_off_peak_trough_and_period_match_the_closed_form_within_one_percent(school, process):
    loop = ControllerSettings(50.0, Mode.ON_OFF, 2.0, school, sample_s=0.1)
    expected = cycle(process, 30 + loop.switch_off_offset, 30 + loop.switch_on_offset)
    record = simulate(process, loop, 12 * expected.period_s + 5 * process.lag_s, step=0.1)
    settled = record.time_s > record.time_s[-1] - 6 * expected.period_s
    rise, switch = record.reading_c[settled] - 20, record.switch[settled]
    starts = record.time_s[settled][1:][np.diff(switch) > 0]
    assert rise.max() == pytest.approx(expected.peak, rel=0.01)
    assert rise.min() == pytest.approx(expected.trough, rel=0.01)
    assert np.mean(np.diff(starts)) == pytest.approx(expected.period_s, rel=0.01)
    assert switch.mean() == pytest.approx(expected.duty, abs=0.05)


def test_swing_is_independent_of_the_setpoint():
    assert cycle(CABINET, 30, 28).swing == pytest.approx(cycle(CABINET, 70, 68).swing)


def test_on_off_beyond_full_power_is_refused():
    with pytest.raises(Refused, match="full power"):
        cycle(CABINET, 110, 108)


@settings(max_examples=25)
@given(st.floats(0, 100), st.floats(10, 90))
def test_mean_power_follows_the_duty_and_the_reading_stays_between_ambient_and_full_power(output, setpoint):
    loop = ControllerSettings(setpoint, Mode.MANUAL, manual_output=output, period_s=20)
    record = simulate(CABINET, loop, 2000, step=1.0)
    assert np.all((record.reading_c >= 20 - 1e-9) & (record.reading_c <= 20 + 105 + 1e-9))
    assert record.switch.mean() * 100 == pytest.approx(output, abs=3)


@settings(max_examples=40)
@given(st.floats(0, 100), st.sampled_from([0.5, 1.0, 2.0, 20.0]), st.sampled_from([0.1, 0.25, 0.5]))
def test_a_duty_is_whole_half_cycles_exactly(output, period, step):
    """A store without loss tells the energy: what each period's half-cycles of 10 ms gave, whatever the step."""
    store = ThermalNetwork((1000.0,), (), (0.0,), 100.0, heater_node=0, sensor_node=0)
    loop = ControllerSettings(60, Mode.MANUAL, manual_output=output, period_s=period)
    simulation = Simulation(store, loop, 20.0, step)
    simulation.advance(20.0)
    halves = round(period / 0.01)
    on = int(output / 100 * halves + 0.5) / halves
    assert simulation.true_c - 20 == pytest.approx(100.0 * on * 20.0 / 1000.0, abs=1e-9)
    assert simulation.output == pytest.approx(100 * on)
    assert simulation.on_time_s == pytest.approx(20.0 * on, abs=1e-9)


def test_advancing_in_pieces_is_the_same_as_at_once():
    whole = simulate(CABINET, ControllerSettings(60, Mode.PID), 1200, every=1)
    pieces = Simulation(from_fopdt(CABINET), ControllerSettings(60, Mode.PID), 20.0)
    parts = [pieces.advance(300, 1).reading_c for _ in range(4)]
    assert np.array_equal(np.concatenate(parts), whole.reading_c)


def test_a_broken_sensor_takes_the_heat_off():
    simulation = Simulation(from_fopdt(CABINET), ControllerSettings(60, Mode.ON_OFF), 20.0)
    simulation.advance(60)
    assert simulation.switch_closed
    simulation.break_sensor(True)
    simulation.advance(1)
    assert simulation.output == 0 and not simulation.switch_closed


def test_offset_is_added_to_the_display_not_to_the_oven():
    loop = ControllerSettings(60, Mode.PID, pid=PID(5, 300), offset_c=-5.0)
    simulation = Simulation(from_fopdt(CABINET), loop, 20.0)
    simulation.advance(6000)
    assert simulation.reading_c == pytest.approx(60, abs=1)
    assert simulation.true_c == pytest.approx(65, abs=1)


def test_change_into_pid_is_bumpless():
    simulation = Simulation(from_fopdt(CABINET), manual(30), 20.0)
    simulation.advance(600)
    simulation.apply(ControllerSettings(60, Mode.PID, pid=PID(2, 400), period_s=0))
    simulation.advance(0.25)
    assert simulation.output == pytest.approx(30, abs=1)


RAMPED = ControllerSettings(60.0, pid=PID(2.0, 400.0, 20.0), period_s=0.0, ramp_c_per_s=0.02)


@pytest.mark.parametrize(("mode", "sample"), [(Mode.PID, 0.25), (Mode.PID, 2.0), (Mode.ON_OFF, 1.0)])
def test_a_ramp_of_its_own_is_a_set_point_moved_at_every_sample(mode, sample):
    """The other is moved by hand; half-way the goal is taken back, in the end it is far below."""
    own = replace(RAMPED, mode=mode, sample_s=sample)
    ramped, moved = (Simulation(from_fopdt(CABINET), s, 20.0, 0.25) for s in (own, replace(own, ramp_c_per_s=0.0)))
    at = 20.0
    for goal, lasts in ((60.0, 1500.0), (45.0, 600.0), (45.2, 600.0), (30.0, 900.0)):
        ramped.apply(replace(own, setpoint_c=goal))
        for _ in range(int(lasts / sample)):
            at += min(max(goal - at, -0.02 * sample), 0.02 * sample)
            moved.apply(replace(own, ramp_c_per_s=0.0, setpoint_c=at))
            assert abs(ramped.advance(sample).reading_c[-1] - moved.advance(sample).reading_c[-1]) < 1e-9
    assert at == 30.0


@pytest.mark.parametrize("how", ["off", "manual", "broken"])
def test_a_ramp_begins_at_the_reading_whenever_control_does(how):
    """Hot and left alone for a while, it climbs on from where it is: as one whose set-point is moved by hand from there."""
    own = replace(RAMPED, mode=Mode.PID)
    ramped, moved = (Simulation(from_fopdt(CABINET), s, 20.0, 0.25) for s in (own, replace(own, ramp_c_per_s=0.0)))
    at = 20.0
    for rig in (ramped, moved):
        rig.start_at(60.0)
        if how == "broken":
            rig.break_sensor(True)
        else:
            rig.apply(replace(rig.settings, mode=Mode(how)))
        rig.advance(300.0)
        at = rig.reading_c
        rig.break_sensor(False)
    ramped.apply(own)
    moved.apply(replace(moved.settings, mode=Mode.PID, setpoint_c=at))
    assert 30.0 < at < 55.0
    for _ in range(1200):
        at = min(at + 0.02 * 0.25, 60.0)
        moved.apply(replace(moved.settings, setpoint_c=at))
        assert abs(ramped.advance(0.25).reading_c[-1] - moved.advance(0.25).reading_c[-1]) < 1e-9


def test_an_open_door_costs_heat_and_is_recovered():
    simulation = Simulation(
        from_fopdt(CABINET),
        ControllerSettings(60, Mode.PID, pid=PID(5, 400)),
        20.0,
        0.25,
        (Disturbance(5000, 5060, 2),),
    )
    before = simulation.advance(5000).reading_c[-1]
    dip = simulation.advance(200).reading_c.min()
    after = simulation.advance(3000).reading_c[-1]
    assert dip < before - 3 and abs(after - 60) < 1.5


def test_switchings_are_counted():
    simulation = Simulation(
        from_fopdt(CABINET), ControllerSettings(60, Mode.MANUAL, manual_output=50, period_s=20), 20.0
    )
    simulation.advance(2000)
    assert simulation.switchings == 100


@pytest.mark.parametrize("kind", list(RigKind))
def test_every_kind_of_rig_reaches_its_working_temperature(kind):
    purpose = Purpose(200, 260, "x", Supply.SINGLE_PHASE, 230, 1500, 230)
    rise = network_for(kind, purpose, 1500).equilibrium_rise()
    assert rise[1] > 1.2 * (200 - 21)


@pytest.mark.parametrize(
    ("power_w", "vigour", "field"), [(0.0, 1.0, "power_w"), (900.0, 0.0, "vigour"), (900.0, 1.51, "vigour")]
)
def test_what_gives_no_heat_or_more_than_it_can_is_no_plant(power_w, vigour, field):
    with pytest.raises(Refused) as refused:
        network_for(RigKind.OVEN, Purpose(200, 260, "x", Supply.SINGLE_PHASE, 230, 1500, 230), power_w, vigour)
    assert [p.field for p in refused.value.problems] == [field]


def test_it_does_the_same_without_the_compiler():
    """A stand-in runs a few steps at a time as plain Python: to the last digits the same as compiled."""
    network = from_fopdt(FOPDT(1.05, 620, 20))
    settings = ControllerSettings(60.0, Mode.ON_OFF, 2.0)
    fast, plain = Simulation(network, settings, 21.0, 1.0), Simulation(network, settings, 21.0, 1.0, interpreted=True)
    for _ in range(120):
        a, b = fast.advance(20.0), plain.advance(20.0)
        for x, y in zip(a.columns, b.columns, strict=True):
            assert np.allclose(x, y, rtol=1e-12, atol=1e-9)
    assert fast.switchings == plain.switchings > 1
