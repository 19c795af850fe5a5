"""Numbers thought of, as a controller says them: against its own language worked by hand, and back through what its pages mean."""

from dataclasses import replace

import pytest

from rellux.core.control.languages import Form, Language
from rellux.core.errors import Refused
from rellux.core.menus.contents import contents
from rellux.core.menus.description import shown
from rellux.core.menus.keyed import keyed_in, keyed_into
from rellux.core.menus.meaning import sheet_of, typed, wanted_counts
from rellux.core.menus.reading import PageRead, as_read, found_by_itself, sheet_read
from rellux.core.menus.shipped import SHIPPED
from rellux.core.setup.dictionary.control import PID_NAMES
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


@pytest.mark.parametrize("unit", ["C", "F", "K"])
@pytest.mark.parametrize("key", SHIPPED)
def test_what_is_typed_on_a_page_comes_back_on_it_and_nothing_else_moves(key, unit):
    """Every page, every number of a few it may show: keyed in again it shows just that, and the pages of other parameters stand."""
    made = SHIPPED[key]
    sheet = {**SHEET, **PID, "display_unit": unit, "gain_correction": 1.0, "period_s": 10.0}
    before = wanted_counts(made, sheet).counts
    for page in made.pages:
        if not page.sets or page.choices or not page.is_set or page.sets[0] not in sheet:
            continue
        for at in {page.low + (page.high - page.low) // n for n in (2, 3, 7)}:
            shows = shown(page, at)
            try:
                values = typed(made, page.key, shows, sheet)
            except Refused:
                assert page.sets[0] in PID_NAMES and at == 0, "a gain, or a time, of nothing"
                continue
            after = wanted_counts(made, {**sheet, **values}).counts
            assert after[page.key] == at, (page.code, shows, values)
            others = {k: v for k, v in after.items() if made.page(k).sets != page.sets}
            assert others == {k: v for k, v in before.items() if k in others}


def test_a_gain_of_three_numbers_apart_moves_the_times_too_and_by_hand():
    """Parallel: gain 8 %/°C with 240 s is 1/30 a second of integral; at gain 16 the same number is 480 s. 4.0 minutes are 240 s."""
    heron = SHIPPED["heron"]
    apart = replace(heron, language=Language(Form.PARALLEL))
    values = typed(apart, "C2", "16.0", {**SHEET, **PID})
    assert values["proportional_band_c"] == pytest.approx(6.25) and values["integral_time_s"] == pytest.approx(480.0)
    assert typed(heron, "C4", "4,0", {**SHEET, **PID}) == {"integral_time_s": pytest.approx(240.0)}
    with pytest.raises(Refused) as refused:
        typed(heron, "C4", "many", {**SHEET, **PID})
    assert refused.value.problems[0].field == "shows" and "99.9" in refused.value.problems[0].accepted
    with pytest.raises(Refused):
        typed(heron, "C9", "1", SHEET)
    assert typed(heron, "C1", "u.2", SHEET) == {"mode": "pid"}


@pytest.mark.parametrize("form", list(Form))
@pytest.mark.parametrize("key", SHIPPED)
def test_what_is_read_off_pages_stands_on_them_and_on_no_other(key, form):
    """Also of a controller that counts its three numbers apart, where another gain is another integral time."""
    made = replace(SHIPPED[key], language=replace(SHIPPED[key].language, form=form))
    sheet = {**SHEET, **PID, "gain_correction": 1.0, "period_s": 10.0, "hysteresis_c": 1.0}
    before = contents(made, sheet, {})
    for page in (p for p in made.pages if set(p.sets) & set(sheet) and not p.choices and p.is_set):
        for n in (2, 3):
            shows = shown(page, page.low + (page.high - page.low) // n)
            counts = as_read(made, before, [PageRead(page.key, shows)])
            after = contents(
                made, sheet_read(made, counts, [page.key], sheet), dict(zip(made.index, counts, strict=True))
            )
            assert after == counts, (page.code, shows)


def test_pages_that_cannot_be_read_are_refused_by_their_place():
    heron = SHIPPED["heron"]
    values = tuple(p.default for p in heron.pages)
    for line, field in ((PageRead("nothing", "1"), "read[1].page"), (PageRead("C2", "warm"), "read[1].shows")):
        with pytest.raises(Refused) as refused:
            as_read(heron, values, [PageRead("C2", "8.4"), line])
        assert refused.value.problems[0].field == field


def test_after_it_tuned_itself_its_numbers_are_read_also_where_they_were_hidden_before():
    heron = SHIPPED["heron"]
    on_off = tuple(0 if p.key == "C1" else p.default for p in heron.pages)
    found = found_by_itself(heron, on_off, "C1")
    assert [p.code for p in found.pages] == ["C1", "C2", "C4", "C5"]
    larch = SHIPPED["larch"]  # a page of its own for it
    rest = tuple(2 if p.key == "HOw" else p.default for p in larch.pages)
    assert [p.code for p in found_by_itself(larch, rest, "FInd").pages] == ["bELt", "SUn", "LEAd"]
