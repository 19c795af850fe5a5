"""What is measured beside the control reading: told by the names devices and logs use, and never two things at once."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.logs.guess import guess as guess_log
from rellux.core.logs.rows import RowReader
from rellux.core.runs.channels import OF_SOURCE, READING, ROLES, Channel, check, guess, offered, quantity_of
from rellux.core.units import Kind

SOURCES = st.lists(st.sampled_from([*OF_SOURCE, READING, "output", "mode", "nonsense"]), unique=True)


@given(SOURCES, st.booleans())
def test_what_is_guessed_can_be_kept(values, controls):
    """Every channel guessed is one the check takes, with the quantity of its role."""
    found = guess(values, controls)
    assert [c.source for c in found] == list(offered(values, controls))
    assert all(ROLES[c.role].kind is quantity_of(c.source) for c in found)
    if len({c.called for c in found}) == len(found):
        check(found, values, controls)


def test_the_reading_of_a_device_that_controls_is_no_channel():
    assert guess(("reading_c", "setpoint_c"), controls=True) == ()
    assert [c.role for c in guess(("reading_c", "second_c", "load_c"), controls=False)] == ["air", "second", "load"]


@pytest.mark.parametrize(
    ("channel", "field"),
    [
        (Channel("load_a", "load"), "channels[0].role"),
        (Channel("load_c", "door"), "channels[0].role"),
        (Channel("load_c", "sideways"), "channels[0].role"),
        (Channel("setpoint_c", "load"), "channels[0].source"),
        (Channel("load_c", "load", offset=100.5), "channels[0].offset"),
        (Channel("load_c", "load", offset=float("nan")), "channels[0].offset"),
        (Channel("load_c", "load", sensor="x" * 61), "channels[0].sensor"),
    ],
)
def test_a_channel_that_cannot_be_is_refused(channel, field):
    with pytest.raises(Refused) as told:
        check([channel], ["load_c", "load_a", "setpoint_c"], controls=False)
    assert told.value.problems[0].field == field


def test_two_by_one_name_are_refused_unless_one_is_left_out():
    both = [Channel("load_c", "load", "tray"), Channel("air_c", "air", "tray")]
    with pytest.raises(Refused, match="tray is there twice"):
        check(both, ["load_c", "air_c"], controls=False)
    check([both[0], Channel("air_c", "air", "tray", kept=False)], ["load_c", "air_c"], controls=False)


@pytest.mark.parametrize(
    ("head", "roles"),
    [
        ("time,PV,SP,Limiter temp,Heater current (A),Mains [V],Door", {"limiter": 3, "current": 4, "voltage": 5, "door": 6}),
        ("time_s,oven temp,ambient temp,part temp,Zone 2 temp", {"air": 2, "load": 3, "zone_2": 4}),
        ("Zeit,Ist °C,Soll °C,Kaltstelle °C,Raumtemperatur °C,Leistung (W)", {"cold_junction": 3, "air": 4, "power": 5}),
        ("time,temp 1,temp 2,temp 3", {"second": 2}),
        ("time,temp °C,temp 2 °F", {}),  # in another unit than the reading
        ("time,temp,limit,alarm,error,humidity,ramp rate", {}),  # nothing measured in a rig
    ],
)  # fmt: skip
def test_columns_of_a_log_are_told_apart(head, roles):
    width = head.count(",") + 1
    rows = [",".join([str(i), f"{20 + i}.5", *(["1" if "Door" in head and k == width - 1 else f"{i % 7 + 3}.25" for k in range(2, width)])])
            for i in range(30)]  # fmt: skip
    found = guess_log("\n".join([head, *rows]).encode())
    at = {c.role: i for i, c in enumerate(found.columns) if c.role in ROLES}
    assert at == roles, found.columns


@pytest.mark.parametrize(
    ("form", "cells"),
    [
        ("seconds", ["0", "1.5", "3600"]), ("ms", ["0", "1500", "3600000"]), ("unix", ["1764000000", "1764000001.5", "1764003600"]),
        ("iso", ["2026-11-24T08:00:00", "2026-11-24T08:00:01.5", "2026-11-24T09:00:00"]),
        ("dmy", ["24.11.2026 08:00:00", "24.11.2026 08:00:01.5", "24.11.2026 09:00:00"]),
        ("pm", ["11:59:59 PM", "12:00:00.5 AM", "12:59:59 AM"]),
    ],
)  # fmt: skip
def test_a_row_says_when_it_was_taken(form, cells):
    head = {"ms": "time (ms)", "seconds": "time (s)"}.get(form, "time")
    cells = [c.replace(".", ",") if form in ("seconds", "unix") else c for c in cells]
    lines = [f"{head};T °C;SP;duty %", *(f"{c};20,5;65;{i}" for i, c in enumerate(cells))]
    mapping = guess_log("\n".join(lines).encode(), ";", ",").mapping
    reader = RowReader(mapping, 4)
    rows = [reader.row(line) for line in lines[1:]]
    assert np.diff([r["clock_s"] for r in rows]) == pytest.approx([1.5, 3598.5])
    assert rows[0]["reading_c"] == 20.5 and rows[2]["output"] == 2.0
    for wrong in ("x;20,5;65;1", "0;20,5;65", "0;zwanzig;65;1", "", "0;20,5;65;1;2"):
        assert reader.row(wrong) is None


def test_roles_have_a_quantity_and_a_source_of_their_own():
    assert len({r.source for r in ROLES.values()}) == len(ROLES)
    assert {r.kind for r in ROLES.values()} == {Kind.TEMPERATURE, Kind.CURRENT, Kind.VOLTAGE, Kind.POWER, None}
