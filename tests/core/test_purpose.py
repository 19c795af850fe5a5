"""A purpose: what each supply makes of a heater, and materials that do not stand what is allowed."""

from dataclasses import replace
from math import sqrt

import pytest

from rellux.core.errors import Refused
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.heater import heater_current, heater_power
from rellux.core.purpose.purpose import SUPPLY_VOLTAGES, TO_NEUTRAL, Limited, Purpose, Supply, check_purpose

SHELL = Purpose(150, 180, "seals harden", Supply.THREE_PHASE, 400, 4500, 400)


def test_a_three_phase_bank_draws_p_over_root_three_v():
    """Worked example: three 1500 W 220 V elements in star on 380 V draw 6.80 A each, 1492 W each."""
    star = Purpose(150, 180, "x", Supply.THREE_PHASE, 380, 4500, 220 * sqrt(3))
    assert heater_power(star).value / 3 == pytest.approx(1492, abs=1)
    assert heater_current(star).value == pytest.approx(6.80, abs=0.01)


def test_control_circuits_take_one_live_against_neutral():
    assert (SHELL.control_voltage_v, SHELL.lives) == (230, 3)
    for supply in (Supply.SPLIT_PHASE, Supply.THREE_PHASE):
        assert set(SUPPLY_VOLTAGES[supply]) <= set(TO_NEUTRAL)
    for between, to_neutral in TO_NEUTRAL.items():
        if between != 240.0:  # split-phase halves it; the others are three-phase
            assert between / to_neutral == pytest.approx(sqrt(3), rel=0.01)


def test_the_weakest_material_decides():
    def found(limit):
        return [(f.rule, f.severity) for f in purpose_findings(replace(SHELL, materials=(Limited("wax", limit),)))]

    assert found(180) == []
    assert found(179) == [("purpose.material", "fault")]
    assert found(149) == [("purpose.material", "danger")]


@pytest.mark.parametrize(
    ("materials", "field"),
    [
        ((Limited(" ", 100),), "materials[0].name"),
        ((Limited("wax", 9000),), "materials[0].limit_c"),
        ((Limited("wax", 90), Limited("wax", 91)), "materials[0].name"),
        (tuple(Limited(f"m{i}", 90) for i in range(9)), "materials"),
    ],
)
def test_materials_that_cannot_be_are_asked_back(materials, field):
    with pytest.raises(Refused) as refused:
        check_purpose(replace(SHELL, materials=materials))
    assert refused.value.problems[0].field == field
