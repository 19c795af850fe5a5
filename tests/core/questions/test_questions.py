"""Questions of the bench: forms that refuse what cannot be, findings with a case that triggers and a near-miss."""

import math
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.form import fields_of, fill, plain
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, RigKind, Supply
from rellux.core.questions.answer import Known
from rellux.core.questions.registry import ALL, QUESTIONS
from rellux.core.units import ABSOLUTE_ZERO_C
from rellux.core.wiring.choice import Actuator, Choice, Output

PURPOSE = Purpose(560, 620, "sags", Supply.SINGLE_PHASE, 230, 3200, 230)
KNOWN = Known(PURPOSE, Choice("N", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC), RigKind.KILN)


@pytest.mark.slow
@pytest.mark.parametrize("question", ALL, ids=lambda q: q.key)
def test_every_question_has_an_answer_as_it_opens(question):
    for start in (question.start(None), question.start(KNOWN)):
        answer = question.ask(plain(start))
        assert answer.headline
        pictures = (
            answer.curves,
            answer.bars,
            answer.alternatives,
            answer.drawing,
            answer.cables,
            answer.bank,
            answer.table,
        )
        assert any(pictures)
        for figure in answer.figures:
            assert figure.source or figure.formula, figure.name
            assert math.isfinite(figure.value), figure.name
        for curve in answer.curves.lines if answer.curves else ():
            heights = [y for y in curve.y if y is not None]
            assert len(curve.x) == len(curve.y) > 1 and all(map(math.isfinite, (*curve.x, *heights))), curve.name


@pytest.mark.parametrize("question", ALL, ids=lambda q: q.key)
def test_every_number_is_bounded_and_a_slip_of_unit_asked_back(question):
    for field in fields_of(question.shape):
        if field.sort != "number" or field.when_field:
            continue
        for bad in (field.high * 10 + 1, "three", math.nan, True):
            with pytest.raises(Refused) as refused:
                question.ask({field.name: bad})
            assert refused.value.problems[0].field == field.name and refused.value.problems[0].accepted
        if field.kind == "temperature":
            assert field.low >= ABSOLUTE_ZERO_C


@pytest.mark.parametrize("question", ALL, ids=lambda q: q.key)
def test_a_form_survives_plain_data(question):
    start = question.start(KNOWN)
    assert fill(question.shape, plain(start)) == start


@given(
    st.dictionaries(
        st.sampled_from([f.name for key in ("wire", "panel") for f in fields_of(QUESTIONS[key].shape)])
        | st.just("parts"),
        st.none() | st.floats() | st.text(max_size=9) | st.lists(st.integers(), max_size=3),
        max_size=6,
    )
)
def test_nonsense_is_refused_or_answered_never_an_accident(values):
    for key in ("wire", "panel"):
        try:
            QUESTIONS[key].ask(values)
        except Refused as refused:
            assert all(p.field and p.reason for p in refused.problems)


@pytest.mark.parametrize("changed", [{"off_minutes": 60}, {"power_w": 100_000}, {"power_w": 50}])
def test_a_lining_that_does_not_fit_its_log_is_refused(changed):
    with pytest.raises(Refused) as refused:
        QUESTIONS["lining"].ask(changed)
    assert refused.value.problems[0].field == "log"


def whole(words):
    """The seconds of a period in a sentence."""
    return float(re.search(r"period ([\d.]+) s", words)[1])


@given(
    st.floats(0.05, 200),
    st.floats(1, 690),
    st.sampled_from(["ac50", "ac60", "dc"]),
    st.floats(0.01, 1000),
    st.floats(0.01, 100),
)
def test_no_switch_that_is_offered_swings_more_than_allowed(amps, volts, mains, rise, ripple):
    """The period said, at half power: the load climbs by rate × period / 4, never more than the swing allowed."""
    given_ = {"current_a": amps, "voltage_v": volts, "mains": mains, "rise_per_min": rise, "ripple_c": ripple}
    for option in QUESTIONS["switch"].ask(given_).alternatives:
        if option.verdict is None and "period" in option.says:
            assert rise / 60 * whole(option.says) / 4 <= ripple * 1.0001
            assert whole(option.says) > 0
        if option.verdict is None and mains == "dc":
            assert option.key == "mosfet" or volts <= 30 or amps <= 16 * 30 / volts


@pytest.mark.parametrize(
    ("volts", "amps", "breaks"),
    [(24, 10, True), (48, 10, False), (110, 0.4, True), (110, 0.6, False), (300, 0.1, False)],
)
def test_dc_contacts_break_by_voltage(volts, amps, breaks):
    """From memory of relay makers' load limit curves: 16 A at 30 V, 0.5 A at 110 V, 0.3 A at 220 V."""
    asked = QUESTIONS["switch"].ask(
        {"mains": "dc", "voltage_v": volts, "current_a": amps, "rise_per_min": 0.1, "years": 0.1}
    )
    assert ({a.key: a.verdict for a in asked.alternatives}["relay"] is None) == breaks


@pytest.mark.parametrize("every_s", [400.0, 900.0, 1500.0])
def test_a_hysteresis_for_so_seldom_switches_just_so_in_a_simulation(every_s):
    """The loop stepped through second by second, with nothing of the closed form."""
    swing = QUESTIONS["swing"]
    told = swing.ask({"every_s": every_s, "second_s": 0.0, "sample_s": 1.0})
    hysteresis = next(f.value for f in told.figures if f.name == "hysteresis for so seldom")
    y, on, late, switched = 0.0, False, [0.0] * 35, []
    for t in range(40_000):
        if not on and y < 39.0 - hysteresis:
            on = True
            switched.append(t)
        elif on and y > 39.0:
            on = False
        late.append(94.0 if on else 0.0)
        y += (late.pop(0) - y) / 620.0
    assert (switched[-1] - switched[-6]) / 5 == pytest.approx(every_s, rel=0.01)


def rules(key, **values):
    return {f.rule for f in QUESTIONS[key].ask(values).findings}


def zoned(*rises, hold=(300, 300)):
    """Rows of zones of 1000 W: what each one's step made of both."""
    return [
        {"setpoint_c": c, "power_w": 1000, "rise_1_c": a, "rise_2_c": b} for c, (a, b) in zip(hold, rises, strict=True)
    ]


OFF_PAIRS = [{"ohms": r, "celsius": t} for r, t in ((32_650, 0), (10_000, 25), (3_300, 60), (679, 100))]
NEAR_PAIRS = [{"ohms": r, "celsius": t} for r, t in ((32_650, 0), (10_000, 25), (679, 100))]
EARLY = [{"minutes": m, "inside_c": t} for m, t in ((1, 72), (2, 97), (4, 158), (6, 193))]
BRICK = {"material": "brick_23", "thickness_mm": 114}
# question, finding, what triggers it, a near-miss
CASES = [
    (
        "walls",
        "wall.layer-limit",
        {"layers": [BRICK, {"material": "pir_foam", "thickness_mm": 30}]},
        {"layers": [BRICK]},
    ),
    ("walls", "wall.touch", {"inside_c": 900}, {"inside_c": 600}),
    ("walls", "wall.opening", {"opening_cm2": 60, "inside_c": 900}, {"opening_cm2": 20, "inside_c": 900}),
    ("capability", "capability.reach", {"power_w": 500}, {"power_w": 900}),
    ("capability", "capability.slow", {"load_kg": 5000, "power_w": 2000}, {"load_kg": 500, "power_w": 2000}),
    ("capability", "capability.runaway", {"power_w": 3200}, {"power_w": 3200, "limiter": True}),
    ("wire", "wire.limit", {"current_a": 13}, {"current_a": 12}),
    (
        "wire",
        "wire.fitted",
        {"current_a": 14, "ambient_c": 38, "fitted_mm2": 1.5},
        {"current_a": 14, "ambient_c": 38, "fitted_mm2": 2.5},
    ),
    ("wire", "wire.drop", {"length_m": 30}, {"length_m": 10}),
    ("wire", "wire.none", {"ambient_c": 60}, {"ambient_c": 50}),
    # IEC 60898-1: a B curve of 13 A may open at once from 39 A, a C curve from 65 A, a D curve from 130 A
    ("wire", "wire.inrush", {"current_a": 13, "inrush": 3.1}, {"current_a": 13, "inrush": 2.9}),
    ("wire", "wire.inrush", {"current_a": 13, "inrush": 8, "curve": "C"}, {"current_a": 13, "inrush": 8, "curve": "D"}),
    (
        "wire",
        "wire.plug",
        {"current_a": 10, "plug_a": 13, "fitted_mm2": 2.5},
        {"current_a": 10, "plug_a": 13, "fitted_mm2": 1.5},
    ),
    ("wire", "wire.terminals", {"insulation": "silicone"}, {"insulation": "pvc"}),
    ("element", "element.over", {"rated_v": 18, "supply_v": 24}, {"rated_v": 22, "supply_v": 24}),
    ("element", "element.under", {"rated_v": 240, "supply_v": 208}, {"rated_v": 230, "supply_v": 220}),
    ("element", "element.inrush", {"kind": "halogen"}, {"kind": "wire"}),
    ("phase_angle", "phase_angle.steps", {"way": "burst", "period_s": 0.19}, {"way": "burst", "period_s": 0.2}),
    ("coil", "coil.load", {"diameter_mm": 1.0}, {"diameter_mm": 1.2}),
    ("dip", "dip.steam", {"water_kg": 0.2}, {"water_kg": 0.0}),
    ("gains", "gains.no-series", {"i": 239.9}, {"i": 240.0}),
    ("swing", "swing.never", {"allowed_c": 3.0}, {"allowed_c": 6.0}),
    ("swing", "swing.wide", {"allowed_c": 6.5, "hysteresis_c": 3}, {"allowed_c": 6.5, "hysteresis_c": 0.4}),
    ("swing", "swing.chatter", {"noise_c": 1.0, "hysteresis_c": 2}, {"noise_c": 0.99, "hysteresis_c": 2}),
    ("swing", "swing.both", {"every_s": 1500.0, "allowed_c": 10.0}, {"every_s": 300.0, "allowed_c": 10.0}),
    ("split", "split.interlock", {}, {"interlocked": True}),
    ("split", "split.overlap", {"dead_c": 0.5}, {"dead_c": 0.51}),
    ("split", "split.compressor", {"cooler": "compressor", "rest_s": 46.0}, {"cooler": "compressor", "rest_s": 45.0}),
    ("split", "split.module", {"cooler": "module"}, {"cooler": "valve"}),
    ("zones", "zones.exchanged", {"zones": zoned((20, 30), (30, 20))}, {"zones": zoned((30, 20), (20, 30))}),
    (
        "zones",
        "zones.too-hot",
        {"zones": zoned((40, 20), (4, 40), hold=(400, 210))},
        {"zones": zoned((40, 20), (4, 40), hold=(400, 212))},
    ),
    (
        "zones",
        "zones.short",
        {"zones": zoned((40, 0), (0, 40), hold=(402, 300))},
        {"zones": zoned((40, 0), (0, 40), hold=(400, 300))},
    ),
    ("zones", "zones.together", {"zones": zoned((40, 24), (24, 40))}, {"zones": zoned((40, 22), (22, 40))}),
    ("zones", "zones.supply", {"supply_w": 1999}, {"supply_w": 2000}),
    ("cascade", "cascade.unfelt", {"lag_s": 4000, "low_percent": 1}, {"lag_s": 3000, "low_percent": 1}),
    ("cascade", "cascade.no-help", {"period_s": 60}, {"period_s": 50}),
    ("cascade", "cascade.hot-heater", {"gain": 30}, {"gain": 20}),
    ("swing", "swing.life", {"relay": True}, {"relay": False}),
    ("early", "early.blind", {"setpoint_c": 23}, {"setpoint_c": 30}),
    ("early", "early.otherwise", {"seen_c": 6.5, "seen_rate": 6}, {"seen_c": 5, "seen_rate": 6}),
    ("marks", "marks.coincide", {"pitch_mm": 480}, {"pitch_mm": 400}),
    ("marks", "marks.same-speed", {"other_speed_mm_s": 26}, {"other_speed_mm_s": 30}),
    ("flow", "flow.power", {"flow": 2.1}, {"flow": 1.9}),
    ("flow", "flow.interlock", {"interlocked": False}, {"interlocked": True}),
    (
        "switch",
        "switch.none",
        {"mains": "ac50", "current_a": 60, "rise_per_min": 100},
        {"mains": "ac50", "current_a": 13},
    ),
    ("sink", "sink.hot", {"sink_kw": 4.0}, {"sink_kw": 3.8}),
    ("sink", "sink.rating", {"current_a": 20.5}, {"current_a": 19.5}),
    ("sink", "sink.leak", {"leakage_ma": 5}, {"leakage_ma": 1}),
    ("mosfet", "mosfet.gate", {"gate": "3.3"}, {"gate": "5"}),
    ("mosfet", "mosfet.hot", {"on_mohm": 30, "current_a": 6}, {"on_mohm": 20, "current_a": 6}),
    ("mosfet", "mosfet.audible", {"frequency_hz": 500}, {"frequency_hz": 25}),
    ("signal", "signal.band", {"at": 3.7}, {"at": 3.8}),
    ("signal", "signal.zero", {"signal": "0-10", "at": 5}, {"signal": "4-20"}),
    ("signal", "signal.disagree", {"shown_c": 201}, {"shown_c": 200.4}),
    ("front", "front.fast", {"way": "digital", "period_s": 0.1}, {"way": "digital", "period_s": 0.25}),
    ("front", "front.type", {"way": "linear", "sensor": "J"}, {"way": "linear", "sensor": "K"}),
    ("sensor", "sensor.slow", {"response_s": 190}, {"response_s": 200}),
    ("sensor", "sensor.sheath", {"working_c": 1500, "highest_c": 1650}, {"working_c": 1500, "highest_c": 1590}),
    (
        "along",
        "along.hot",
        {"places": [{"item": "solder", "celsius": 175}]},
        {"places": [{"item": "solder", "celsius": 165}]},
    ),
    ("along", "along.element", {"near": "element"}, {"near": "load"}),
    ("along", "along.wall", {"immersed_mm": 20}, {"immersed_mm": 30}),
    ("along", "along.short", {"immersed_mm": 29}, {"immersed_mm": 30}),
    ("panel", "panel.room", {"width_mm": 120}, {"width_mm": 280}),
    ("panel", "panel.depth", {"depth_mm": 120}, {"depth_mm": 125}),
    ("panel", "panel.strain", {"parts": [{"part": "inlet"}]}, {"parts": [{"part": "gland_16"}]}),
    (
        "panel",
        "panel.inside",
        {"parts": [{"part": "contactor", "count": 10}]},
        {"parts": [{"part": "contactor", "count": 3}]},
    ),
    ("warm", "box.hot", {"heat_w": 24}, {"heat_w": 23}),
    (
        "appliance",
        "appliance.timer",
        {"removed": [{"what": "timer"}]},
        {"removed": [{"what": "timer", "replaced": True}]},
    ),
    (
        "mistake",
        "mistake.fits",
        {"pairs": [{"display_c": 466, "true_c": 500}]},
        {"pairs": [{"display_c": 498, "true_c": 500}]},
    ),
    ("colours", "colours.open", {"first": "red", "second": "white"}, {"first": "green", "second": "white"}),
    ("thermistor", "thermistor.coarse", {"series_ohm": 100_000}, {"series_ohm": 10_000}),
    ("thermistor", "thermistor.warm", {"series_ohm": 1000}, {"series_ohm": 10_000}),
    ("thermistor", "thermistor.pairs", {"pairs": OFF_PAIRS}, {}),
    ("bank", "bank.overload", {"bank": "delta"}, {"bank": "star"}),
    ("bank", "bank.star-floats", {"fault": "L3"}, {"fault": "nothing"}),
    ("bank", "bank.weak", {"voltage_v": 260}, {"voltage_v": 250}),
    ("front", "front.warm", {"sensor": "Pt100", "current_ma": 4}, {"sensor": "Pt100", "current_ma": 1}),
    ("front", "front.leads", {"sensor": "Pt100", "way": "digital"}, {"sensor": "K", "way": "digital"}),
    ("thermistor", "thermistor.beyond", {"high_c": 115}, {"high_c": 105}),
    (
        "thermistor",
        "thermistor.near",
        {"pairs": [*NEAR_PAIRS, {"ohms": 9_600, "celsius": 26}]},
        {"pairs": [*NEAR_PAIRS, {"ohms": 7_960, "celsius": 31}]},
    ),
    ("lining", "lining.open", {"log": EARLY}, {}),
    ("tip", "tip.power", {"rated_v": 18}, {"rated_v": 24}),
    ("tip", "tip.sag", {"joint_g": 4}, {"joint_g": 3}),
    (
        "tip",
        "tip.offset",
        {"tips": [{"offset_c": -12}, {"offset_c": -6}]},
        {"tips": [{"offset_c": -12}, {"offset_c": -8}]},
    ),
    ("appliance", "appliance.baseline", {"baseline": False}, {"baseline": True}),
    ("phase_angle", "phase_angle.late", {"way": "pin", "detector_us": 510}, {"way": "pin", "detector_us": 490}),
    ("cold_box", "cold.reach", {"power_w": 12}, {"power_w": 14}),
    ("cold_box", "cold.starts", {"content_kg": 6, "hysteresis_c": 1.0}, {"content_kg": 6, "hysteresis_c": 1.2}),
    ("cold_box", "cold.short", {"content_kg": 6, "hysteresis_c": 0.5}, {"content_kg": 6, "hysteresis_c": 0.8}),
    (
        "cold_box",
        "cold.rest",
        {"content_kg": 5, "window_c": 1, "rest_s": 420},
        {"content_kg": 5, "window_c": 1, "rest_s": 400},
    ),
    ("cold_box", "cold.dew", {"humidity_percent": 30}, {"humidity_percent": 25}),
    ("module", "module.turns", {"current_a": 5.5}, {"current_a": 5.3}),
    ("module", "module.much", {"current_a": 4.3}, {"current_a": 4.1}),
    ("module", "module.reach", {"leak_w_k": 1.2}, {"leak_w_k": 1.0}),
    ("burner", "burner.boils", {"setpoint_c": 84.6}, {"setpoint_c": 84.4}),
    ("burner", "burner.alive", {"loss_w_k": 8.6}, {"loss_w_k": 8.8}),
    ("burner", "burner.condenses", {"differential_c": 15.1}, {"differential_c": 14.9}),
    ("burner", "burner.out", {"alive_s": 4100}, {"alive_s": 4200}),
    ("series_tool", "series.window", {"recovery_ms": 1.2}, {"recovery_ms": 1.05}),
    ("series_tool", "series.supply", {"supply_v": 24}, {"supply_v": 23.5}),
    ("series_tool", "series.clamp", {"input_v": 19}, {"input_v": 21}),
]


@pytest.mark.slow
@pytest.mark.parametrize(("key", "rule", "trigger", "near_miss"), CASES, ids=[c[1] for c in CASES])
def test_findings(key, rule, trigger, near_miss):
    assert rule in rules(key, **trigger)
    assert rule not in rules(key, **near_miss)


@pytest.mark.parametrize(
    ("key", "values", "field"),
    [
        ("dip", {"setpoint_c": 21, "ambient_c": 21}, "setpoint_c"),
        ("flow", {"in_c": 40, "out_c": 40}, "out_c"),
        ("sensor", {"working_c": 500, "highest_c": 400}, "highest_c"),
        ("front", {"sensor": "T", "highest_c": 500}, "highest_c"),
        ("front", {"highest_c": 20, "cold_c": 25}, "cold_c"),
        ("sink", {"current_a": 150, "ambient_c": 90}, "current_a"),
        ("walls", {"width_mm": 20, "height_mm": 20, "depth_mm": 20, "opening_cm2": 100}, "opening_cm2"),
        ("capability", {"inside_c": 20, "ambient_c": 21}, "inside_c"),
        ("mistake", {"sensor": "T", "high_c": 500}, "high_c"),
        ("mistake", {"sensor": "Pt100", "pairs": [{"display_c": 20, "true_c": 900}]}, "pairs[0].true_c"),
        ("colours", {"first": "red", "second": "red"}, "second"),
        ("reading", {"sensor": "Pt100", "tolerance_class": "IEC class 2"}, "tolerance_class"),
        ("reading", {"sensor": "B", "celsius": 300}, "celsius"),
        ("feed", {"low_c": 100, "high_c": 50}, "low_c"),
        ("thermistor", {"pairs": [{"ohms": r, "celsius": t} for r, t in ((9, 0), (10, 25), (11, 60))]}, "pairs"),
        ("thermistor", {"low_c": 90, "high_c": 20}, "high_c"),
        ("bank", {"count": 4}, "count"),
        ("bank", {"supply": "single 230", "bank": "delta"}, "bank"),
        ("bank", {"supply": "single 230", "bank": "parallel", "fault": "L2"}, "fault"),
        ("front", {"sensor": "Pt100", "way": "linear"}, "way"),
        ("lining", {"log": [{"minutes": 1, "inside_c": 21}] * 4}, "log"),
        ("tip", {"hold_w": 60}, "hold_w"),
        ("burner", {"full_w": 300}, "idle_w"),
        ("burner", {"pulse_s": 61, "alive_s": 60}, "pulse_s"),
    ],
)
def test_combinations_that_cannot_be_are_asked_back_where_they_were_typed(key, values, field):
    with pytest.raises(Refused) as refused:
        QUESTIONS[key].ask(values)
    assert refused.value.problems[0].field == field


def chosen(key, **values):
    return next((a.key for a in QUESTIONS[key].ask(values).alternatives if a.chosen), None)


@pytest.mark.parametrize(
    ("values", "key"),
    [
        ({"working_c": 560, "highest_c": 620}, "N"),
        ({"working_c": 60, "highest_c": 80, "error_c": 0.7, "medium": "moved_air"}, "Pt100"),
        ({"working_c": 300, "highest_c": 340, "atmosphere": "wet", "error_c": 5, "diameter_mm": 6}, "T"),
        ({"working_c": 1500, "highest_c": 1600, "error_c": 10}, "B"),
        ({"working_c": 400, "highest_c": 450, "atmosphere": "vacuum"}, "J"),
    ],
)
def test_the_sensor_a_practitioner_would_take(values, key):
    assert chosen("sensor", **values) == key


@pytest.mark.parametrize(
    ("values", "key"),
    [
        ({"current_a": 1.3, "rise_per_min": 1, "ripple_c": 1, "hours_a_week": 10, "years": 1}, "relay"),
        ({"current_a": 30, "rise_per_min": 1, "ripple_c": 1, "hours_a_week": 10, "years": 5}, "contactor"),
        ({"current_a": 13}, "ssr"),
        ({"current_a": 6, "mains": "dc"}, "mosfet"),
    ],
)
def test_the_simplest_switch_that_lasts(values, key):
    assert chosen("switch", **values) == key


@pytest.mark.parametrize(
    ("values", "fit"),
    [
        # a controller's own relay drives a coil, never a heater; AC-15 and AC-5b ratings of usual contacts, from memory
        ({"served": "coil", "current_a": 1.4}, {"own", "relay", "contactor"}),
        ({"served": "coil", "current_a": 1.6}, {"relay", "contactor"}),
        ({"served": "lamp", "current_a": 4.2}, {"relay", "contactor"}),
        ({"served": "lamp", "current_a": 4.4}, {"contactor"}),
        ({"served": "transformer", "current_a": 2.1}, {"contactor"}),
        ({"served": "coil", "current_a": 0.2, "mains": "dc", "voltage_v": 110}, set()),
        ({"served": "coil", "current_a": 0.14, "mains": "dc", "voltage_v": 110}, {"own", "relay", "contactor"}),
        ({"served": "heater", "current_a": 1.0}, {"relay", "contactor"}),
    ],
)
def test_contacts_by_what_they_switch(values, fit):
    slow = {"ripple_c": 20, "rise_per_min": 1, "hours_a_week": 5, "years": 1}
    found = {a.key for a in QUESTIONS["switch"].ask({**slow, **values}).alternatives if a.verdict is None}
    assert found - {"ssr", "mosfet"} == fit


def test_a_zero_cross_ssr_is_not_offered_for_transformers():
    ssr = next(
        a for a in QUESTIONS["switch"].ask({"served": "transformer", "current_a": 2}).alternatives if a.key == "ssr"
    )
    assert "saturates" in ssr.says
    with pytest.raises(Refused, match="short circuit"):
        QUESTIONS["switch"].ask({"served": "transformer", "mains": "dc", "voltage_v": 24, "current_a": 1})


def test_a_kept_answer_opens_again_but_follows_the_rig_where_it_must():
    kept = {**plain(QUESTIONS["capability"].start(KNOWN)), "load_kg": 3.0, "limiter": False}
    start = QUESTIONS["capability"].start(Known(PURPOSE, KNOWN.choice, KNOWN.kind, {"capability": kept}))
    assert start.load_kg == 3.0 and start.limiter is True


def test_walls_kept_are_the_walls_of_the_capability():
    walls = {**plain(QUESTIONS["walls"].start(KNOWN)), "layers": [{"material": "blanket", "thickness_mm": 75.0}]}
    start = QUESTIONS["capability"].start(Known(PURPOSE, KNOWN.choice, KNOWN.kind, {"walls": walls}))
    assert plain(start)["layers"] == walls["layers"]


def test_the_panel_drawing_is_at_scale():
    drawing = QUESTIONS["panel"].ask({"width_mm": 200, "height_mm": 150, "parts": [{"part": "controller_48"}]}).drawing
    cut = next(s for s in drawing.shapes if s.sort == "cut")
    assert (drawing.width, drawing.height, cut.width, cut.height) == (200, 150, 45.6, 45.6)  # IEC 61554: 45 +0.6
