"""A phase-angle unit: what drives it, what it can be wired into, how it is set, and that its power follows the share asked."""

from dataclasses import replace

import numpy as np
import pytest

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import Practice
from rellux.core.parts.chain import chain
from rellux.core.parts.compare import alternatives
from rellux.core.parts.mains import mains_findings
from rellux.core.plant.rig_models import network_of
from rellux.core.plant.simulation import Simulation
from rellux.core.purpose.purpose import Purpose, RigKind, Supply
from rellux.core.setup.checks import check_sheet
from rellux.core.setup.proposals import propose
from rellux.core.setup.proposals.facts import RigFacts
from rellux.core.wiring.choice import Actuator, Choice, Output, check_choice
from rellux.core.wiring.circuit.faults import FailureVerdict, analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.switching import ON
from rellux.core.wiring.usual_circuits import Usual, usual

OVEN = Purpose(200.0, 260.0, "it chars", Supply.SINGLE_PHASE, 230.0, 3000.0, 230.0)
CHOICE = Choice("K", Output.LINEAR, Actuator.PHASE_ANGLE, True, Practice.IEC)


def test_the_usual_circuit_heats_is_limited_and_has_no_finding_but_what_every_rig_has():
    wiring = usual(OVEN, CHOICE, Usual.PARTS)
    circuit = CircuitSolver(wiring, 230.0)
    assert circuit.solve(ON).loads["E1"].watts == pytest.approx(3000.0, rel=0.05)
    found = [
        *check(wiring, context_for(OVEN, Practice.IEC, "K"), circuit),
        *circuit_findings(circuit, analyse(circuit)),
    ]
    assert {f.rule for f in found} <= {"circuit.restarts"}
    shorted = next(o for o in analyse(circuit).outcomes if o.title == "V1 fails shorted")
    assert shorted.verdict is FailureVerdict.COVERED  # the limiter ends what a unit that failed closed goes on with


@pytest.mark.parametrize(
    ("controller", "gives", "switch", "takes", "found"),
    [
        ("controller_linear", {}, "phase_unit", {}, False),
        ("controller_linear", {"mode": "0–10 V"}, "phase_unit", {"input": "0–10 V"}, False),
        ("controller_linear", {"mode": "0–10 V"}, "phase_unit", {}, True),
        ("controller_ssr", {}, "phase_unit", {}, True),
        ("controller_linear", {}, "ssr", {}, True),
        ("controller_ssr", {}, "ssr", {}, False),
    ],
)
def test_both_ends_of_its_signal_are_the_same(controller, gives, switch, takes, found):
    wiring = usual(OVEN, CHOICE, Usual.PARTS)
    swapped = {"A1": (controller, gives), "V1": (switch, takes)}
    parts = tuple(
        replace(p, type=PART_TYPES[swapped[p.name][0]], ratings={**p.ratings, **swapped[p.name][1]})
        if p.name in swapped
        else p
        for p in wiring.parts
    )
    rules = {f.rule for f in check(replace(wiring, parts=parts), context_for(OVEN, Practice.IEC, "K"))}
    assert ("wiring.signal" in rules) is found


@pytest.mark.parametrize(
    ("change", "choice", "field"),
    [
        ({"supply": Supply.DC, "supply_voltage_v": 24.0, "heater_voltage_v": 24.0}, CHOICE, "actuator"),
        ({"supply": Supply.THREE_PHASE, "supply_voltage_v": 400.0, "heater_voltage_v": 400.0}, CHOICE, "actuator"),
        ({}, replace(CHOICE, output=Output.SSR_DRIVE), "actuator"),
        ({}, replace(CHOICE, output=Output.RELAY), "actuator"),
        ({}, replace(CHOICE, actuator=Actuator.SSR), "actuator"),
    ],
)
def test_what_cannot_drive_it_or_feed_it_is_refused(change, choice, field):
    check_choice(OVEN, CHOICE)
    with pytest.raises(Refused) as refused:
        check_choice(replace(OVEN, **change), choice)
    assert refused.value.problems[0].field == field


def test_it_is_said_what_it_does_to_the_mains():
    assert [f.rule for f in mains_findings(OVEN, CHOICE)] == ["parts.phase-angle"]
    assert mains_findings(OVEN, replace(CHOICE, output=Output.SSR_DRIVE, actuator=Actuator.SSR)) == []
    odd = mains_findings(replace(OVEN, frequency_hz=400.0), CHOICE)
    assert "may not find the zero" in odd[0].reason
    assert chain(OVEN, CHOICE, 0.0).figures and any(
        c.chosen for c in alternatives(OVEN, CHOICE, lambda _: 0.0, "actuator")
    )


@pytest.mark.parametrize(("actuator", "period_s", "found"), [
    ("phase_angle", 0.0, False), ("phase_angle", 2.0, True), ("ssr", 0.0, True), ("ssr", 2.0, False), ("relay", 0.0, True),
])  # fmt: skip
def test_a_continuous_output_belongs_to_a_unit_that_takes_shares(actuator, period_s, found):
    facts = RigFacts(OVEN, "K", actuator)
    sheet = {**{p.name: p.value for p in propose(facts)}, "mode": "pid", "period_s": period_s}
    assert ("setup.continuous" in {f.rule for f in check_sheet(sheet, facts)}) is found


@pytest.mark.parametrize("share", [10.0, 37.0, 80.0])
def test_its_power_is_the_share_asked_all_the_time(share):
    told = ControllerSettings(200.0, Mode.MANUAL, manual_output=share, period_s=0.0)
    run = Simulation(network_of(RigKind.OVEN, OVEN), told, 21.0, 0.5)
    record = run.advance(600.0)
    assert run.on_time_s == pytest.approx(6.0 * share, rel=1e-3) and np.all(record.output[2:] == share)
