"""More of one thing is never less of another where physics says so: every law over random inputs inside the question's bounds.

Common practice, no source: each line is the sign of a partial derivative that a technician would expect without any arithmetic.
"""

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.form import fields_of, rows_of
from rellux.core.questions.registry import ALL
from rellux.core.units import Kind
from tests.examples import cases, some

from .test_plausible import inputs, value


def words(part):
    return str(part).replace(" ", "-")


QUESTIONS = {q.key: q for q in ALL}
UP, DOWN = 1, -1
LAWS = [
    ("reading", "input_c", "expanded uncertainty", UP),
    ("reading", "cold_junction_c", "expanded uncertainty", UP),
    ("reading", "digit_c", "expanded uncertainty", UP),
    ("reading", "placement_c", "erred the same way", UP),
    ("two_sensors", "input_c", "sound pairs differ", UP),
    ("two_sensors", "gradient_c", "allowed at most", UP),
    ("two_sensors", "drift_c", "allowed at most", UP),
    ("front", "full_v", "gain", UP),
    ("front", "offset_uv", "offset makes", UP),
    ("thermistor", "supply_v", "warms itself", UP),
    ("thermistor", "mw_per_k", "warms itself", DOWN),
    ("bank", "count", "power of the bank", UP),
    ("element", "power_w", "current when hot", UP),
    ("element", "supply_v", "power here", UP),
    ("element", "supply_v", "current when hot", UP),
    ("element", "rated_v", "power here", DOWN),
    ("coil", "diameter_mm", "length", UP),
    ("coil", "diameter_mm", "surface load", DOWN),
    ("coil", "voltage_v", "length", UP),
    ("dip", "load_kg", "dip", UP),
    ("dip", "load_heat", "dip", UP),
    ("dip", "start_c", "dip", DOWN),
    ("dip", "lining_kg", "dip", DOWN),
    ("dip", "power_w", "load through", DOWN),
    ("dip", "loss_w", "load through", UP),
    ("dip", "water_kg", "load through", UP),
    ("tip", "power_w", "slowest from cold", DOWN),
    ("tip", "supply_v", "power here", UP),
    ("tip", "hold_w", "slowest from cold", UP),
    ("flow", "flow", "heat the flow takes", UP),
    ("flow", "out_c", "heat the flow takes", UP),
    ("flow", "in_c", "heat the flow takes", DOWN),
    ("flow", "power_w", "most flow", UP),
    ("switch", "rise_per_min", "longest period", DOWN),
    ("zones", "step", "zone 1 holds with", UP),
    ("zones", "ambient_c", "zone 1 holds with", DOWN),
    ("cascade", "low_percent", "one loop: low mains take off", UP),
    ("cascade", "period_s", "inner loop, gain", DOWN),
    ("cascade", "hotter_c", "inner loop, gain", DOWN),
    ("split", "band_c", "cooling’s band", UP),
    ("split", "cools", "cooling’s band", UP),
    ("split", "heats", "cooling’s band", DOWN),
    ("split", "noise_c", "least dead band", UP),
    ("swing", "hysteresis_c", "swing", UP),
    ("swing", "hysteresis_c", "period", UP),
    ("swing", "dead_s", "smallest swing", UP),
    ("swing", "allowed_c", "hysteresis for what it may swing", UP),
    ("early", "dead_s", "lead time", UP),
    ("early", "setpoint_c", "off before the set-point", DOWN),
    ("early", "pulse_s", "pulses on for", UP),
    ("marks", "speed_mm_s", "marks by the heat's rhythm", UP),
    ("marks", "swing_c", "movement by expansion", UP),
    ("switch", "ripple_c", "longest period", UP),
    ("switch", "years", "cycling in its life", UP),
    ("switch", "hours_a_week", "cycling in its life", UP),
    ("sink", "current_a", "heat sink, at most", DOWN),
    ("sink", "ambient_c", "heat sink, at most", DOWN),
    ("sink", "sink_kw", "most on this sink", DOWN),
    ("sink", "ambient_c", "case", UP),
    ("sink", "melting", "fuse", UP),
    ("phase_angle", "delay_deg", "rms voltage", DOWN),
    ("phase_angle", "power_percent", "firing delay", DOWN),
    ("mosfet", "current_a", "junction", UP),
    ("mosfet", "on_mohm", "while on", UP),
    ("mosfet", "frequency_hz", "in the edges", UP),
    ("mosfet", "to_air", "junction", UP),
    ("mosfet", "ambient_c", "junction", UP),
    ("mosfet", "frequency_hz", "swing of the load", DOWN),
    ("walls", "inside_c", "steady loss", UP),
    ("walls", "ambient_c", "steady loss", DOWN),
    ("walls", "width_mm", "steady loss", UP),
    ("walls", "opening_cm2", "steady loss", UP),
    ("walls", "bridges_percent", "steady loss", UP),
    ("walls", "inside_c", "outside", UP),
    ("capability", "power_w", "highest it reaches", UP),
    ("capability", "power_w", "heat-up at full power", DOWN),
    ("capability", "load_kg", "heat-up at full power", UP),
    ("capability", "load_heat", "energy of the firing", UP),
    ("capability", "soak_h", "energy of the firing", UP),
    ("capability", "price", "cost of the firing", UP),
    ("capability", "opening_cm2", "highest it reaches", DOWN),
    ("capability", "load_kg", "cooling by itself", UP),
    ("warm", "heat_w", "air inside", UP),
    ("warm", "ambient_c", "air inside", UP),
    ("warm", "covered_percent", "air inside", UP),
    ("warm", "fan_l_min", "air inside", DOWN),
    ("warm", "width_mm", "most heat", UP),
    ("wire", "length_m", "voltage drop", UP),
    ("cold_box", "leak_w_k", "runs for", UP),
    ("cold_box", "rest_s", "a rest warms", UP),
    ("cold_box", "humidity_percent", "dew point", UP),
    ("cold_box", "power_w", "between on and off", UP),
    ("module", "sink_kw", "most it pumps", DOWN),
    ("burner", "bed_s", "hottest after off", UP),
    ("burner", "bed_s", "fan off at most", DOWN),
    ("burner", "height_m", "it boils at", DOWN),
    ("series_tool", "off_ms", "full duty", DOWN),
    ("series_tool", "recovery_ms", "window needed", UP),
]
SLOW = "capability"
"""A firing is followed through the wall: a second each."""
WHERE = {
    ("element", "supply_v"): {"kind": "wire"},
    ("phase_angle", "delay_deg"): {"way": "delay"},
    ("coil", "voltage_v"): {"diameter_mm": 1.5},
    ("dip", "load_kg"): {"water_kg": 0.0},
    ("dip", "load_heat"): {"water_kg": 0.0},
}
"""Where a law holds: a PTC takes less current the more volts it has, and a wet load falls to its wet bulb, and a heavier one later."""


@pytest.mark.slow
@pytest.mark.parametrize(("key", "field", "figure", "sign"), [w for w in LAWS if w[0] != SLOW], ids=words)
@settings(max_examples=cases(2), phases=(Phase.generate,))
@given(st.data())
def test_more_of_it_is_never_less_of_that(key, field, figure, sign, data):
    hold(key, field, figure, sign, data)


@pytest.mark.parametrize(("key", "field", "figure", "sign"), some([w for w in LAWS if w[0] == SLOW], 2), ids=words)
@settings(max_examples=2, phases=(Phase.generate,))
@given(st.data())
def test_more_of_it_is_never_less_of_that_in_a_firing(key, field, figure, sign, data):
    hold(key, field, figure, sign, data)


def hold(key, field, figure, sign, data):
    """The law, for what is drawn."""
    question = QUESTIONS[key]
    fields = fields_of(question.shape)
    rows = rows_of(question.shape)
    moved = next(f for f in fields if f.name == field)
    others = data.draw(inputs([f for f in (*fields, *([rows] if rows else ())) if f is not moved]))
    others |= WHERE.get((key, field), {})
    less, more = sorted(data.draw(st.tuples(*[value(moved).filter(lambda v: v is not None)] * 2)))
    told = [_figure(question, {**others, field: v}, figure) for v in (less, more)]
    if None not in told:
        low, high = told if sign is UP else told[::-1]
        assert low <= high + 1e-6 * max(abs(low), abs(high), 1e-3)


@pytest.mark.long
@pytest.mark.parametrize(("key", "field", "figure", "sign"), LAWS, ids=words)
def test_the_law_is_about_something(key, field, figure, sign):
    """Round the example that the question opens with the figure really moves that way: else the law above would hold of nothing."""
    question = QUESTIONS[key]
    moved = next(f for f in fields_of(question.shape) if f.name == field)
    usual = getattr(question.shape(), field) or 0.8
    changed = usual * (2 if moved.kind is Kind.COUNT else 1.25)
    others = WHERE.get((key, field), {})
    less, more = (
        _figure(question, {**others, field: min(max(v, moved.low), moved.high)}, figure) for v in (usual, changed)
    )
    assert less is not None and more is not None
    assert (more - less) * sign > 0


def _figure(question, given_, name):
    try:
        answer = question.ask(given_)
    except Refused:
        return None
    return next((f.value for f in answer.figures if name in f.name), None)
