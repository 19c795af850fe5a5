"""Blocks of constants: filled as worked by hand, read back, and never quietly something else."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rellux.core.control.languages import Form, Language, Rate
from rellux.core.errors import Refused
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.text_block import FIRMWARE, TextBlock, check_block, filled, read_back, rounded

SHEET = {
    "setpoint_c": 60.0, "setpoint_high_c": 66.0, "offset_c": -0.5, "period_s": 2.0, "mode": "pid",
    "proportional_band_c": 12.5, "integral_time_s": 240.0, "derivative_time_s": 60.0,
}  # fmt: skip
BLOCK = TextBlock()
WORDS = TextBlock(
    "mode = {mode}\n# what it holds\ntarget={setpoint_c}", words={"mode": {"pid": "2", "on_off": "1", "off": "0"}}
)


def test_gains_of_firmware_are_as_worked_by_hand():
    """A band of 12.5 °C is 8 %/°C, of 255 counts 20.4 a degree; Ki = Kc/Ti = 20.4/240 = 0.085 a second; Kd = 20.4·60 = 1224.
    Looking every 0.5 s without the time in its sums: Ki·0.5 = 0.0425, Kd/0.5 = 2448. In °F each count a degree is 1/1.8 of it."""
    told = filled(BLOCK, SHEET)
    assert "KP         = 20.4000;" in told and "KI         = 0.085000;" in told and "KD         = 1224.000;" in told
    assert "WINDOW_MS  = 2000;" in told and "OFFSET     = -0.50;" in told
    looks = replace(BLOCK, language=Language(Form.PARALLEL, rate=Rate.LOOK, look_s=0.5, full=255.0))
    assert "KI         = 0.042500;" in filled(looks, SHEET) and "KD         = 2448.000;" in filled(looks, SHEET)
    one_gain = filled(
        replace(BLOCK, language=replace(FIRMWARE, form=Form.STANDARD)), SHEET
    )  # and no band, unless it is said to be one
    assert (
        "KP         = 20.4000;" in one_gain
        and "KI         = 240.000000;" in one_gain
        and "KD         = 60.000;" in one_gain
    )
    fahrenheit = filled(replace(BLOCK, unit="F"), SHEET)
    assert (
        "SET_POINT  = 140.0;" in fahrenheit
        and "OFFSET     = -0.90;" in fahrenheit
        and "KP         = 11.3333;" in fahrenheit
    )
    kelvin = filled(replace(BLOCK, template="{setpoint_c:.2f} {offset_c:.1f}", unit="K"), SHEET)
    assert kelvin == "333.15 -0.5"


NUMBERED = [p.name for p in BY_NAME.values() if p.kind is not None]
values = st.dictionaries(st.sampled_from(NUMBERED), st.floats(0.5, 50), min_size=1, max_size=8)


@settings(max_examples=150, deadline=None)
@given(values, st.sampled_from("CFK"), st.integers(3, 6), st.sampled_from([1.0, 1000.0, 60.0]), st.randoms())
def test_what_was_filled_in_is_read_back_from_among_other_lines_in_any_order(sheet, unit, digits, scale, order):
    lines = [f"#define {n.upper()}_X  ({{{n}*{scale:g}:.{digits}f}})  // {i}" for i, n in enumerate(sheet)]
    block = TextBlock("\n".join(lines), unit)
    pasted = [
        *filled(block, sheet).replace("  ", " \t ").splitlines(),
        "void loop() { x = 3.5; }",
        "// #define GONE (1)",
    ]
    order.shuffle(pasted)
    back = read_back(block, "\n".join(pasted))
    assert not back.missing and not back.odd
    assert back.values == pytest.approx(sheet, abs=0.6 * 10.0**-digits * max(1.0, 1.0 / scale) + 1e-9)


LOOKING = Language(Form.PARALLEL, rate=Rate.LOOK, look_s=0.1, full=1.0)


@pytest.mark.parametrize("language", [BLOCK.language, LOOKING, Language(), Language(Form.SERIES)])
def test_gains_come_back_as_band_and_times_only_where_all_three_are_there(language):
    block = TextBlock("KP={kp:.9f}\nKI={ki:.9f}\nKD={kd:.9f}", language=language)
    told = filled(block, SHEET)
    names = ("proportional_band_c", "integral_time_s", "derivative_time_s")
    assert read_back(block, told).values == pytest.approx({n: SHEET[n] for n in names}, rel=1e-4)
    two = read_back(block, told.replace("KD=", "DK="))
    assert two.values == {} and two.missing == ("kd",)


def test_what_is_commented_out_or_stands_there_twice_or_is_no_value_is_not_taken_for_one():
    pasted = filled(BLOCK, SHEET)
    commented = pasted.replace("const float KP ", "// const float KP = 99;\nconst float KP ")
    assert read_back(BLOCK, commented).values == read_back(BLOCK, pasted).values
    twice = pasted + "\nconst float SET_POINT = 80.0;"
    found = read_back(BLOCK, twice)
    assert "setpoint_c" not in found.values and found.odd[0].field == "setpoint_c"
    assert read_back(BLOCK, pasted.replace("60.0", "WARM")).missing == ("setpoint_c",)
    assert read_back(BLOCK, "").values == {} and len(read_back(BLOCK, "").missing) == 8
    assert read_back(BLOCK, pasted.replace("SET_POINT", "RESET_POINT")).missing == ("setpoint_c",)
    assert read_back(WORDS, filled(WORDS, SHEET)).values == {"mode": "pid", "setpoint_c": 60.0}
    assert read_back(WORDS, "mode = 3\ntarget=60").odd[0].accepted == "1, 2, 0"
    assert read_back(BLOCK, pasted.replace("= 60.0", "= 1e400")).odd[0].field == "setpoint_c"


def test_a_tuning_is_read_from_the_line_that_tells_of_it():
    block = replace(BLOCK, tune="tune", tuned="autotune done, Kp: {kp} Ki: {ki} Kd: {kd}")
    line = "12:03 [i] autotune done, Kp: 20.4 Ki: 0.085  Kd: 1224\nheating"
    assert read_back(block, line, block.tuned).values == pytest.approx(
        {"proportional_band_c": 12.5, "integral_time_s": 240.0, "derivative_time_s": 60.0}
    )


def test_digits_that_make_something_else_of_a_value_are_told():
    few = replace(BLOCK, template=BLOCK.template.replace("{ki:.6f}", "{ki:.1f}"))
    assert [p.field for p in rounded(few, SHEET)] == ["integral_time_s"] and rounded(BLOCK, SHEET) == ()


@pytest.mark.parametrize(
    ("field", "bad"),
    [
        ("template", {"template": "nothing"}), ("template", {"template": "{warmth}"}), ("template", {"template": "{kp} {kp}"}),
        ("template", {"template": "{kp*0}"}), ("template", {"template": "x" * 20_001}), ("tuned", {"tuned": "{warmth}"}),
        ("unit", {"unit": "R"}), ("language.full", {"language": Language(full=0.0)}), 
        ("language.look_s", {"language": Language(Form.PARALLEL, rate=Rate.LOOK, look_s=0.0)}),
        ("words.mode", {"words": {"mode": {"pid": "1", "off": "1"}}}), ("words.mode", {"words": {"mode": {"sideways": "1"}}}),
        ("words.mode", {"words": {"mode": {"pid": "a b"}}}), ("words.kp", {"words": {"kp": {"x": "1"}}}),
    ],
)  # fmt: skip
def test_a_block_that_cannot_be_is_refused_by_field(field, bad):
    with pytest.raises(Refused) as refusal:
        check_block(replace(BLOCK, **bad))
    assert {p.field for p in refusal.value.problems} == {field}


def test_a_place_without_a_value_is_refused_and_braces_of_the_language_stay():
    with pytest.raises(Refused) as refusal:
        filled(BLOCK, {"setpoint_c": 60.0})
    assert refusal.value.problems[0].field == "kp"
    assert filled(TextBlock("if (x) { y(); } {{z}} {setpoint_c:.0f}"), SHEET) == "if (x) { y(); } {z} 60"
