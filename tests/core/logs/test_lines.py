"""Lines that boards print: learnt from a few, read as they were meant, and never half."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.logs.lines import LineFormat, LineKind, check, learn, values_of

NAMED = [f"T={20 + i / 10:.1f} SP=65.0 OUT={i * 5} relay=ON" for i in range(12)]


def read_all(lines, **changed):
    learnt = learn(lines)
    how = LineFormat(**{**{k: getattr(learnt.format, k) for k in LineFormat.__dataclass_fields__}, **changed})
    check(how)
    return learnt, [values_of(line, how) for line in lines]


def test_named_fields_are_told_by_their_names():
    learnt, values = read_all(["board v2 ready", *NAMED, "saving settings"])
    assert learnt.format.kind is LineKind.NAMED and (learnt.whole, learnt.heard) == (12, 14)
    assert values[0] is None and values[-1] is None
    assert values[3] == {"reading_c": 20.2, "setpoint_c": 65.0, "output": 10.0, "switch": 1.0}
    assert "°C is taken: the lines do not say" in learnt.doubts


@pytest.mark.parametrize("divider", [",", ";", "\t", " ", "|"])
def test_positions_are_told_by_a_heading(divider):
    rows = [divider.join(("millis", "setpoint", "oven_F", "pwm"))]
    rows += [divider.join((str(1000 * i), "212", f"{68 + 1.8 * i:.1f}", str(i * 17))) for i in range(16)]
    learnt, values = read_all(rows)
    assert learnt.format.roles == {"setpoint": "2", "reading": "3", "output": "4"} and learnt.format.unit == "F"
    assert values[0] is None
    assert values[10] == {"setpoint_c": pytest.approx(100), "reading_c": pytest.approx(29), "output": pytest.approx(60)}


def test_decimal_commas_and_a_lone_column():
    learnt, values = read_all([f"{20 + i},5;{i}" for i in range(8)], roles={"reading": "1"})
    assert learnt.format.decimal == "," and values[4] == {"reading_c": 24.5}
    _, values = read_all([f"{20 + i}.25" for i in range(8)])
    assert values[4] == {"reading_c": 24.25}


def test_json_with_an_object_inside():
    lines = [json.dumps({"oven": {"temp_c": 20 + i, "set": 65}, "heat": i % 2 == 1, "n": None}) for i in range(6)]
    _, values = read_all(lines)
    assert values[1] == {"reading_c": 21.0, "setpoint_c": 65.0, "switch": 1.0}
    assert values_of(lines[0][:-4], learn(lines).format) is None and values_of("[" * 9000, learn(lines).format) is None


@pytest.mark.parametrize(
    "lines", [[], ["hello"] * 9, NAMED[:2], ["ok", "T=5 T=6", "{", "}"] * 4, ["1,2", "1,2,3", "4", "7,8,9,1"] * 2]
)
def test_what_holds_no_readings_in_one_form_is_refused(lines):
    with pytest.raises(Refused, match="no readings in one form"):
        learn(lines)


@pytest.mark.parametrize(
    ("changed", "reason"),
    [
        ({"roles": {"setpoint": "SP"}}, "none of the fields is the reading"),
        ({"roles": {"reading": "X"}}, "no field of a line"),
        ({"roles": {"reading": "T", "output": "T"}}, "two things"),
        ({"roles": {"reading": "T", "time": "SP"}}, "nothing known"),
        ({"unit": "R"}, "unknown"),
        ({"output_scale": "12 bit"}, "unknown"),
        ({"keys": ()}, "0 fields"),
    ],
)
def test_a_format_by_which_nothing_can_be_read_is_refused(changed, reason):
    with pytest.raises(Refused, match=reason):
        read_all(NAMED, **changed)


def test_values_that_are_none_or_cannot_be_are_none():
    how = learn(NAMED).format
    for shown in ("nan", "---", "OPEN", "9999", "-300"):
        assert values_of(f"T={shown} SP=65 OUT=5 relay=OFF", how)["reading_c"] is None
    assert values_of("T=63.2 SP=65 OUT=130 relay=OFF", how)["output"] is None
    for garbled in ("T=6\ufffd.2 SP=65 OUT=5 relay=ON", "T=6T=63.2 SP=65 OUT=5 relay=ON", "T=63.2 SP=65 OUT=5"):
        assert values_of(garbled, how) is None


@given(st.data())
def test_a_line_that_lost_its_beginning_is_never_read(data):
    """Named fields and JSON: whatever is cut off in front, the rest is no line; nor are two run into each other."""
    t, sp = data.draw(st.floats(-50, 1700)), data.draw(st.integers(0, 1700))
    key = data.draw(st.sampled_from(["T", "temp", "oven_temp"]))
    line = data.draw(st.sampled_from([f"{key}={t:.2f} SP={sp}", json.dumps({key: round(t, 2), "SP": sp})]))
    how = learn([line] * 4).format
    assert values_of(line, how)["reading_c"] == pytest.approx(t, abs=0.006)
    cut = data.draw(st.integers(1, len(line) - 1))
    for damaged in (line[cut:], line + line[cut:], line[:cut] + line):
        found = values_of(damaged, how)
        assert found is None or found["reading_c"] == pytest.approx(t, abs=0.006), damaged
