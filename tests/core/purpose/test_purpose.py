"""A purpose: what each supply makes of a heater, and materials that do not stand what is allowed."""

from dataclasses import replace
from math import sqrt

import pytest

from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import Practice
from rellux.core.parts.mains import mains_findings
from rellux.core.purpose.checks import purpose_findings
from rellux.core.purpose.heater import heater_current, heater_power
from rellux.core.purpose.purpose import SUPPLY_VOLTAGES, TO_NEUTRAL, Limited, Purpose, RigKind, Supply, check_purpose
from rellux.core.wiring.choice import Actuator, Choice, Output

SHELL = Purpose(150, 180, "seals harden", Supply.THREE_PHASE, 400, 4500, 400)


def test_a_three_phase_bank_draws_p_over_root_three_v():
    """Worked example: three 1500 W 220 V elements in star on 380 V draw 6.80 A each, 1492 W each."""
    star = Purpose(150, 180, "x", Supply.THREE_PHASE, 380, 4500, 220 * sqrt(3))
    assert heater_power(star).value / 3 == pytest.approx(1492, abs=1)
    assert heater_current(star).value == pytest.approx(6.80, abs=0.01)


def test_control_circuits_take_one_live_against_neutral():
    assert (SHELL.control_voltage_v, SHELL.lives) == (230, 3)
    assert set(SUPPLY_VOLTAGES[Supply.THREE_PHASE]) == set(TO_NEUTRAL)
    for between, to_neutral in TO_NEUTRAL.items():
        assert between / to_neutral == pytest.approx(sqrt(3), rel=0.01)
    assert replace(SHELL, supply_voltage_v=240).control_voltage_v == 138.6  # typed: by √3
    assert replace(SHELL, supply=Supply.SPLIT_PHASE, supply_voltage_v=236).control_voltage_v == 118


def test_the_weakest_material_decides():
    def found(limit):
        return [
            (f.rule, f.severity)
            for f in purpose_findings(replace(SHELL, materials=(Limited("wax", limit),)), RigKind.BELL)
        ]

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


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"supply_voltage_v": 179}, "supply_voltage_v"),
        ({"supply_voltage_v": 721}, "supply_voltage_v"),
        ({"frequency_hz": 0}, "frequency_hz"),
        ({"frequency_hz": 500}, "frequency_hz"),
        ({"supply": Supply.DC, "supply_voltage_v": 61}, "supply_voltage_v"),
    ],
)
def test_a_supply_is_typed_within_what_is_one(changed, field):
    check_purpose(replace(SHELL, supply_voltage_v=437.5, frequency_hz=16.7))
    check_purpose(replace(SHELL, supply=Supply.DC, supply_voltage_v=13.8, frequency_hz=0))
    with pytest.raises(Refused) as refused:
        check_purpose(replace(SHELL, **changed))
    assert refused.value.problems[0].field == field


@pytest.mark.parametrize(
    ("hz", "choice", "words"),
    [
        (16.7, Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.IEC), "coil of its contactor draws more"),
        (400, Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.IEC), "limiter's contactor may not pull in"),
        (400, Choice("K", Output.SSR_DRIVE, Actuator.SSR, False, Practice.IEC), "SSR may not turn off"),
    ],
)
def test_mains_of_another_frequency_name_what_cannot_work(hz, choice, words):
    odd, usual = ([f.reason for f in mains_findings(replace(SHELL, frequency_hz=f), choice)] for f in (hz, 60))
    assert words in odd[0] and not usual
    assert not mains_findings(replace(SHELL, supply=Supply.DC, supply_voltage_v=24, frequency_hz=hz), choice)


def test_controls_are_not_fed_with_more_than_they_are_made_for():
    choice = Choice("K", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
    rules = {v: [f.rule for f in mains_findings(replace(SHELL, supply_voltage_v=v), choice)] for v in (415, 480, 600)}
    assert rules == {415: [], 480: ["parts.control-voltage"], 600: ["parts.control-voltage"]}
