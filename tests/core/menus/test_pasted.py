"""Pages out of lists as manuals have them, in the words of an invented one."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.core.menus.description import Counted
from rellux.core.menus.pasted import guess, pasted

MANUAL = """
[Level A]
Zin   Sensor type: tK=thermocouple K, tJ=type J, P=Pt100, bad=own curve   default tJ
Zun   Unit: 0=°C, 1=°F
Zmd   Control type: oo=on/off, Pd=PID, St=stopped
Zac   Action: rE=reverse (heating), di=direct
[Level B]
LUP   Upper limit of the set value   -50…1200   default 400
LLO\tLower set limit\t-50 to 1200
Zof   PV bias  -19.9..19.9 default 0.0
Zpb   Proportional band   0.1 … 300.0 default 10.0
Zti   Integral time, s   0-3600
bri   Brightness  1…9
?
"""


def test_a_page_of_a_manual_becomes_pages_with_what_they_stand_for():
    first, second = pasted(MANUAL)
    assert [p.sets for p in first.pages] == [("input_type",), ("display_unit",), ("mode",), ("action",)]
    assert [[c.values[0] for c in p.choices] for p in first.pages] == [
        ["K", "J", "Pt100", ""], ["C", "F"], ["on_off", "pid", "off"], ["heating", "cooling"]
    ]  # fmt: skip
    assert first.pages[0].default == 1 and [c.code for c in first.pages[0].choices] == ["tK", "tJ", "P", "bad"]
    told = [(p.code, p.sets[0] if p.sets else "", p.low, p.high, p.decimals, p.default) for p in second.pages]
    assert told == [
        ("LUP", "setpoint_high_c", -50, 1200, 0, 400), ("LLO", "setpoint_low_c", -50, 1200, 0, -50),
        ("Zof", "offset_c", -199, 199, 1, 0), ("Zpb", "proportional_band_c", 1, 3000, 1, 100),
        ("Zti", "integral_time_s", 0, 3600, 0, 0), ("bri", "", 1, 9, 0, 1),
    ]  # fmt: skip
    assert second.pages[0].counted is Counted.TEMPERATURE and second.pages[2].counted is Counted.DIFFERENCE
    assert second.doubts == ("?",) and guess("Sensor break output") == "sensor_failure_output"


ALARMS = """
[Watching]
w1  Alarm 1 type: 0=off, 1=upper limit, 2=deviation high, 3=band  default 0
v1  Alarm 1 value  0…400
y1  Alarm 1 hysteresis  0.1…9.9 default 0.5
a4  Station number  1…247
bd  Baud rate: 96=9600, 192=19200
dp  Decimal point position  0…2
PL  Key lock  0…3
Fi  Input filter time, s  0.0…60.0
"""


def test_alarms_link_and_lock_are_known_by_their_words():
    (group,) = pasted(ALARMS)
    assert [p.sets for p in group.pages] == [
        ("alarm_1_type",), ("alarm_1_at_c", "alarm_1_away_c"), ("alarm_1_hysteresis_c",),
        ("link_address",), ("link_baud",), ("display_decimals",), (), ("filter_s",)
    ]  # fmt: skip
    assert [c.values[0] for c in group.pages[0].choices] == ["off", "high", "above_setpoint", "outside_band"]
    assert [c.values[0] for c in group.pages[4].choices] == ["9600", "19200"]


def test_two_pages_of_one_code_get_keys_of_their_own_and_nothing_is_refused():
    (group,) = pasted("A  one 0…9\nA  two 0…9", frozenset({"A"}))
    assert [p.code for p in group.pages] == ["A", "A"] and len({"A", *(p.key for p in group.pages)}) == 3
    (unsure,) = pasted("Q  something")
    assert (unsure.pages[0].low, unsure.pages[0].high) == (0, 999) and "no range" in unsure.doubts[0]
    for bad in ("", " \n ", "x" * 40_001):
        with pytest.raises(Refused):
            pasted(bad)


@given(st.text(max_size=400))
def test_whatever_is_pasted_is_read_or_refused(text):
    try:
        groups = pasted(text)
    except Refused:
        return
    assert all(p.low <= p.default <= p.high or p.choices for g in groups for p in g.pages)
