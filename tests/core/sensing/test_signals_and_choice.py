"""Scaled signals by NE 43, converters against the reference function, choosing a sensor, the box."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.panel.enclosure import Box, plate_resistance, rise
from rellux.core.panel.layout import EDGE_MM, GAP_MM, lay_out
from rellux.core.panel.parts_data import PANEL_PARTS
from rellux.core.questions.sensor.front_end import from_linear
from rellux.core.sensing import choosing
from rellux.core.sensing.choosing import Medium
from rellux.core.sensing.sensors import usual_span
from rellux.core.sensing.signals import SIGNALS, SignalVerdict, judge, reading, value
from rellux.core.sensing.thermocouples import emf, seebeck


# NAMUR NE 43: ≤ 3.6 and ≥ 21.0 mA fault, 3.8…20.5 measurement
@pytest.mark.parametrize(
    ("at", "verdict"),
    [
        (3.6, SignalVerdict.FAULT),
        (3.61, SignalVerdict.SATURATED),
        (3.8, SignalVerdict.MEASURED),
        (20.5, SignalVerdict.MEASURED),
        (20.500001, SignalVerdict.SATURATED),
        (20.6, SignalVerdict.SATURATED),
        (21.0, SignalVerdict.FAULT),
    ],
)
def test_ne_43_bands(at, verdict):
    assert judge(SIGNALS["4-20"], at) is verdict
    assert judge(SIGNALS["1-5"], at / 4) is verdict


def test_a_signal_without_live_zero_cannot_tell_a_broken_wire():
    assert judge(SIGNALS["0-10"], 0.0) is SignalVerdict.MEASURED


@given(st.sampled_from(sorted(SIGNALS)), st.floats(-200, 1500), st.floats(1, 1000), st.floats(0, 1))
def test_scaling_both_ways(key, low, span, share):
    celsius = low + share * span
    assert reading(SIGNALS[key], value(SIGNALS[key], celsius, low, low + span), low, low + span) == pytest.approx(
        celsius
    )


# NIST Monograph 175 tables: E(T) of type K at 400, 800, 1200 °C with the terminals at 25 °C (1.000 mV)
@pytest.mark.parametrize(("true_c", "off"), [(400, -2.0), (800, 7.0), (1200, -16.0)])
def test_a_linear_converter_is_off_as_its_users_report(true_c, off):
    shown = 25 + (float(emf("K", true_c)) - float(emf("K", 25))) / 0.041276
    assert shown - true_c == pytest.approx(off, abs=0.8)
    assert from_linear(shown, 25) == pytest.approx(true_c, abs=0.01)


def test_seebeck_of_type_k_near_room_temperature():
    assert seebeck("K", 25) * 1000 == pytest.approx(40.5, abs=0.3)  # NIST: 40.5 µV/°C at 25 °C
    assert seebeck("B", 0) < 0 < seebeck("B", 1000)


def test_response_grows_with_diameter():
    # a 3 mm steel rod: about 30 s at 100, about 200 s at 15 W/m²K
    assert choosing.response_s(3, Medium.MOVED_AIR) == pytest.approx(29, abs=2)
    assert choosing.response_s(3, Medium.STILL_AIR) == pytest.approx(194, abs=8)
    # typical mineral-insulated probes in stirred water
    assert [choosing.response_s(d, Medium.WATER) for d in (1.5, 3, 6)] == pytest.approx([0.2, 0.5, 2.0])
    assert choosing.response_s(12, Medium.WATER) == pytest.approx(8.0)


def test_sheaths_by_temperature():
    assert choosing.sheath_for(870) == "austenitic stainless steel"
    assert choosing.sheath_for(871) == "25-20 chromium-nickel steel"
    assert choosing.sheath_for(1700) is None


@given(st.lists(st.sampled_from(sorted(PANEL_PARTS)), max_size=14), st.floats(120, 600), st.floats(120, 600))
def test_parts_that_fit_neither_overlap_nor_leave_the_panel(keys, width, height):
    placed = [p for p in lay_out(keys, width, height) if p.fits]
    boxes = [(p.x - p.part.bezel[0] / 2, p.y - p.part.bezel[1] / 2, *p.part.bezel) for p in placed]
    for i, (x, y, w, h) in enumerate(boxes):
        assert x >= EDGE_MM - 1e-6 and y >= EDGE_MM - 1e-6
        assert x + w <= width - EDGE_MM + 1e-6 and y + h <= height - EDGE_MM + 1e-6
        for a, b, c, d in boxes[i + 1 :]:
            assert (
                x + w + GAP_MM <= a + 1e-6
                or a + c + GAP_MM <= x + 1e-6
                or y >= b + d + GAP_MM - 1e-6
                or b >= y + h + GAP_MM - 1e-6
            )


def test_box_and_plate():
    # by hand: 20 W, 0.33 m² of painted steel at 5.5 W/m²K
    assert rise(Box(0.3, 0.25, 0.1641, "steel"), 20) == pytest.approx(
        20 / (5.5 * (2 * (0.3 * 0.25 + 0.3 * 0.1641 + 0.25 * 0.1641)))
    )
    # a 20 × 20 cm plate, both sides, 30 K above the room: about 1.2 K/W (makers' charts of plain plate, from memory)
    assert plate_resistance(0.04, 60, 30, both_sides=True) == pytest.approx(1.15, abs=0.2)


def test_what_is_drawn_of_a_sensor_when_nothing_is_said():
    assert usual_span("K") == (0.0, 1100.0)  # four fifths of 1372 °C, to the next fifty
    assert usual_span("NTC") == (0.0, 100.0)
