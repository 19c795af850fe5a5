"""Numbers thought of, as a controller says them: against its own language worked by hand, and back through what its pages mean."""

import pytest

from rellux.core.errors import Refused
from rellux.core.menus.keyed import keyed_in, keyed_into
from rellux.core.menus.meaning import PID_NAMES, sheet_of
from rellux.core.menus.shipped import SHIPPED
from rellux.core.setup.text_block import TextBlock

PID = {"mode": "pid", "proportional_band_c": 12.5, "integral_time_s": 240.0, "derivative_time_s": 60.0}
SHEET = {"display_unit": "C", "setpoint_c": 60.0}


@pytest.mark.parametrize("key", SHIPPED)
def test_what_is_shown_means_the_numbers_again(key):
    """Read back off the pages, they are the numbers to within what the last digit loses; what is lost more of is said."""
    made = SHIPPED[key]
    keyed = keyed_in(made, PID, SHEET)
    if not {n for p in made.pages for n in p.sets} & set(PID_NAMES):
        assert "Proportional band: there is no page for it" in keyed.lost and not keyed.pages
        return
    shows = {p.code: p.shows for p in keyed.pages}
    counts = []
    for page in made.pages:
        if page.code in shows and set(page.sets) & set(PID) and not page.choices:
            counts.append(round(float(shows[page.code]) * 10**page.decimals))
        elif page.code in shows and page.choices:
            counts.append(next(i for i, c in enumerate(page.choices) if c.code == shows[page.code]))
        else:
            counts.append(page.default)
    back = sheet_of(made, tuple(counts))
    for name in PID_NAMES:
        if name in back:
            assert back[name] == pytest.approx(PID[name], rel=0.06) or any(keyed.lost)


def test_in_fahrenheit_a_band_is_1_8_times_as_wide():
    larch = SHIPPED["larch"]
    band = {}
    for unit in "CF":
        pages = keyed_in(larch, PID, {**SHEET, "display_unit": unit}).pages
        band[unit] = next(p.shows for p in pages if p.code == "bELt")
    assert (band["C"], band["F"]) == ("12.5", "22.5")


def test_a_number_no_page_holds_is_said():
    assert any(
        "9999" in words for words in keyed_in(SHIPPED["larch"], {**PID, "integral_time_s": 14_000.0}, SHEET).lost
    )
    assert not keyed_in(SHIPPED["larch"], PID, SHEET).lost


def test_only_the_lines_of_a_source_text_that_hold_them_are_shown():
    block = TextBlock("set = {setpoint_c:.1f}\nP = {kp:.4f}\nI = {ki:.6f}\nD = {kd:.2f}\n// end")
    told = keyed_into(block, PID, {**SHEET, **PID})
    assert told.text.splitlines()[0].startswith("P = ") and "set" not in told.text and "end" not in told.text
    # 100 % of 255 counts over 12.5 °C: 20.4 counts a degree; over 240 s, and by 60 s
    assert told.text.splitlines() == ["P = 20.4000", "I = 0.085000", "D = 1224.00"]
    assert keyed_into(TextBlock("set = {setpoint_c:.1f}"), PID, SHEET).text == ""
    with pytest.raises(Refused):
        keyed_into(TextBlock("P = {kp:.1f}\nI = {ki:.1f}\nD = {kd:.1f}"), {"proportional_band_c": 5.0}, {})
