"""Controls that are fed by something of their own: laid out without a fault, judged by physics where two supplies are mixed up."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from rellux.core.errors import Refused
from rellux.core.findings import Severity
from rellux.core.handover.safe_use import safe_use
from rellux.core.heating.conductor_tables import Practice
from rellux.core.parts.mains import mains_findings
from rellux.core.purpose.controls import Controls, ControlsFedBy
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.heater import heater_current
from rellux.core.purpose.own_mains import MadeBy, OwnMains
from rellux.core.purpose.purpose import Effect, Purpose, RigKind, Supply, check_purpose
from rellux.core.wiring.choice import COOLED, DRIVES, SUGGESTED, Actuator, Output
from rellux.core.wiring.circuit.faults import analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.solve import CircuitSolver
from rellux.core.wiring.generate import generate
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Closed, Connection, ConnectionList, Part
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.staleness import for_purpose, stale
from rellux.core.wiring.usual_circuits import Usual, offers, usual
from tests.core.proving.rigs import planned_for, steps_of
from tests.examples import some
from tests.oracle.compare import compare

MAINS, DC, MODULE = (Controls(f, v) for f, v in zip(ControlsFedBy, (230.0, 24.0, 24.0), strict=True))
THREE = Purpose(400.0, 450.0, "glass flows", Supply.THREE_PHASE, 400.0, 9000.0, 400.0)
PLATE = Purpose(200.0, 250.0, "the board", Supply.DC, 48.0, 500.0, 48.0)
ONE = replace(THREE, supply=Supply.SINGLE_PHASE, supply_voltage_v=230.0, heater_power_w=2000.0, heater_voltage_v=230.0)
CONTACTOR = replace(SUGGESTED, output=Output.RELAY, actuator=Actuator.CONTACTOR)


def rules(wiring: ConnectionList, purpose: Purpose = THREE, practice: Practice = Practice.IEC) -> set[str]:
    return {f.rule for f in check(wiring, context_for(purpose, practice, "K"))}


def moved(wiring: ConnectionList, number: int, a: str, b: str) -> ConnectionList:
    return replace(
        wiring, connections=tuple(replace(w, a=a, b=b) if w.number == number else w for w in wiring.connections)
    )


LAID_OUT = [
    (purpose, controls, output, actuator, cooler)
    for purpose, controls, cooler in product(
        (ONE, THREE, PLATE, replace(THREE, supply_voltage_v=480.0, heater_voltage_v=480.0)),
        (MAINS, replace(MAINS, controls_v=120.0), DC, replace(DC, controls_v=12.0), MODULE),
        (None, Cooler(CooledBy.FAN, 300.0, 20.0)),
    )
    for output in Output
    for actuator in DRIVES[output]
    if not (controls.fed_by is ControlsFedBy.MODULE and purpose.supply is Supply.DC)
]


@pytest.mark.slow
@pytest.mark.parametrize(("purpose", "controls", "output", "actuator", "cooler"), some(LAID_OUT, 60))
def test_whatever_feeds_the_controls_every_usual_circuit_is_laid_out_without_a_fault_of_its_own(
    purpose, controls, output, actuator, cooler
):
    own = replace(purpose, controls=controls, cooler=cooler)
    choice = replace(SUGGESTED, output=output, actuator=actuator)
    check_purpose(own)
    offered = [o.key for o in offers(RigKind.OVEN, own, choice) if not o.refused]
    for key in offered:
        wiring = usual(own, choice, key)
        alone = rules(usual(replace(own, controls=None), choice, key), own)
        new = rules(wiring, own) - alone
        assert new <= ({"wiring.several-supplies"} if controls.apart else set()), (key, new)
        assert ("wiring.several-supplies" in new) is (len(wiring.fed_by) > 1)
        assert stale(wiring, own, choice, key) == []
    laid = [o.key for o in offers(RigKind.OVEN, replace(own, controls=None), choice) if not o.refused]
    assert offered == laid


JUDGED = [
    (replace(base, controls=controls), choice)
    for controls in (MAINS, DC, MODULE)
    for base in (ONE, THREE, PLATE)
    for choice in (CONTACTOR, SUGGESTED, replace(SUGGESTED, output=Output.PIN))
    if not (controls is MODULE and base is PLATE)
]


@pytest.mark.slow
@pytest.mark.parametrize(("purpose", "choice"), some(JUDGED, 4))
def test_no_single_failure_of_them_leaves_the_heat_on_and_a_second_opinion_agrees(purpose, choice):
    wiring = generate(purpose, choice)
    circuit = CircuitSolver(wiring, purpose.control_voltage_v)
    assert {f.rule for f in circuit_findings(circuit, analyse(circuit))} <= {"circuit.restarts"}
    found = compare(wiring, purpose.control_voltage_v)
    assert found.wrong == () and found.marginal <= 0.05 * found.judged


def stray_amps(wiring: ConnectionList) -> float:
    """What an earth-leakage breaker at each supply would see at the most, A: all contacts closed, loads of 100 Ω, the neutrals of both
    joined at the origin, outside the rig. By Kirchhoff's laws alone."""
    ends = sorted({f"{p.name}.{t.name}" for p in wiring.parts for t in p.type.terminals})
    at = {end: i for i, end in enumerate(ends)}
    g = np.zeros((len(ends), len(ends)))
    current = np.zeros(len(ends))

    def join(a: int, b: int | None, siemens: float) -> None:
        g[a, a] += siemens
        if b is not None:
            g[b, b] += siemens
            g[a, b] -= siemens
            g[b, a] -= siemens

    for i in range(len(ends)):
        join(i, None, 1e-9)
    for w in wiring.connections:
        join(at[w.a], at[w.b], 1e3)
    for part in wiring.parts:
        for path in part.type.paths:
            join(at[f"{part.name}.{path.a}"], at[f"{part.name}.{path.b}"], 1e-2 if path.closed is Closed.LOAD else 1e3)
    sources = {
        s.name: (at[f"{s.name}.L"], at[f"{s.name}.N"], volts)
        for s, volts in zip(wiring.of_kind("supply"), (230.0, 215.0), strict=True)
    }
    cable = 1e3
    for live, neutral, volts in sources.values():
        join(live, None, cable)
        join(neutral, None, cable)
        current[live] += volts * cable
    u = np.linalg.solve(g, current)
    return float(max(abs((volts - u[live] - u[neutral]) * cable) for live, neutral, volts in sources.values()))


def test_what_is_mixed_up_between_two_supplies_is_told_just_where_a_current_goes_astray():
    """Every wire at a supply, or at what it feeds, moved to the other's same pole; and to the other's live."""
    wiring = generate(replace(ONE, controls=MAINS), CONTACTOR)
    assert stray_amps(wiring) < 1e-3 and not rules(wiring, ONE) & {"wiring.fed-twice", "wiring.other-return"}
    told = 0
    other = {"Q0.L": "Q9.L", "Q9.L": "Q0.L", "Q0.N": "Q9.N", "Q9.N": "Q0.N"}
    slips = [
        moved(wiring, w.number, other.get(w.a, w.a), other.get(w.b, w.b))
        for w in wiring.connections
        if {w.a, w.b} & set(other)
    ]
    extra = [
        replace(wiring, connections=(*wiring.connections, Connection(90, a, b, Circuit.POWER, 1.5, "brown")))
        for a, b in (("Q0.L", "Q9.L"), ("F1.2", "F2.2"), ("Q0.N", "Q9.N"), ("A1.L", "A2.COM"))
        if not any({a, b} == {w.a, w.b} for w in wiring.connections)
    ]
    for slip in slips + extra:
        found = rules(slip, ONE) & {"wiring.fed-twice", "wiring.neutrals-joined", "wiring.other-return"}
        assert bool(found) is (stray_amps(slip) > 1e-2), (
            found,
            [w for w in slip.connections if w not in wiring.connections],
        )
        told += bool(found)
    assert told > 5


def test_a_change_over_switch_joins_nothing_and_one_switch_for_all_is_enough():
    wiring = generate(replace(ONE, controls=MAINS), CONTACTOR)
    selector = Part("S9", PART_TYPES["selector"], {"current_a": 16.0})
    first = max(w.number for w in wiring.connections) + 1
    from_control = [w for w in wiring.connections if w.a == "Q9.L"]
    changed = ConnectionList(
        (*wiring.parts, selector),
        (
            *(w for w in wiring.connections if w not in from_control),
            Connection(first, "Q9.L", "S9.1", Circuit.CONTROL, 1.5, "brown"),
            Connection(first + 1, "Q0.L", "S9.3", Circuit.CONTROL, 1.5, "brown"),
            Connection(first + 2, "S9.2", "F2.1", Circuit.CONTROL, 1.5, "brown"),
            Connection(first + 3, "S9.4", "S9.2", Circuit.CONTROL, 1.5, "brown"),
        ),
    )
    found = rules(changed, ONE)
    assert "wiring.fed-twice" not in found
    assert "wiring.other-return" in found, "fed by Q0 it comes back by the neutral of Q9"

    beside_dc = generate(replace(ONE, controls=DC), CONTACTOR)
    plug = Part("Q2", PART_TYPES["plug"], {"current_a": 16.0})
    plugged = ConnectionList(
        (*beside_dc.parts, plug),
        (
            *(replace(w, a={"Q0.L": "Q2.2", "Q0.N": "Q2.4"}.get(w.a, w.a), b=w.b) for w in beside_dc.connections),
            Connection(first, "Q0.L", "Q2.1", Circuit.POWER, 1.5, "brown"),
            Connection(first + 1, "Q0.N", "Q2.3", Circuit.POWER, 1.5, "blue"),
        ),
    )
    assert "wiring.several-supplies" in rules(plugged, ONE), "with the plug out its 24 V are still there"

    both = Part("Q1", PART_TYPES["isolator"], {})
    taken = {"Q0.L": ("Q1.1", "Q1.2"), "Q9.L": ("Q1.3", "Q1.4")}
    behind = tuple(replace(w, a=taken[w.a][1] if w.a in taken else w.a) for w in wiring.connections)
    ahead = tuple(
        Connection(first + i, live, inlet, Circuit.POWER, 4.0, "brown")
        for i, (live, (inlet, _)) in enumerate(taken.items())
    )
    assert "wiring.several-supplies" in rules(wiring, ONE)
    assert "wiring.several-supplies" not in rules(ConnectionList((*wiring.parts, both), (*behind, *ahead)), ONE)


def test_what_calls_while_only_the_heater_is_off_is_told():
    def said(wiring: ConnectionList) -> str:
        return next(
            f.reason for f in check(wiring, context_for(ONE, Practice.IEC, "K")) if f.rule == "wiring.several-supplies"
        )

    apart = generate(replace(ONE, controls=MAINS), CONTACTOR)
    lit = Part("H9", PART_TYPES["lamp"], {"power_w": 5.0, "voltage_v": 230.0})
    beside = generate(ONE, CONTACTOR)
    second = Part("Q9", PART_TYPES["supply_1ph"], {"voltage_v": 230.0})
    fuse = Part("F9", PART_TYPES["breaker"], {"current_a": 6.0})
    lamp = ConnectionList(
        (*beside.parts, second, fuse, lit),
        (
            *beside.connections,
            Connection(91, "Q9.L", "F9.1", Circuit.CONTROL, 1.5, "brown"),
            Connection(92, "F9.2", "H9.1", Circuit.CONTROL, 1.5, "brown"),
            Connection(93, "H9.2", "Q9.N", Circuit.CONTROL, 1.5, "blue"),
        ),
    )
    assert "comes back at full power" in said(apart) and "comes back" not in said(lamp)


def test_a_box_with_mains_for_its_controls_is_no_extra_low_voltage_one():
    plate, board = replace(PLATE, controls=MAINS), replace(PLATE, controls=DC)
    wiring, low = (generate(p, replace(SUGGESTED, practice=Practice.IEC)) for p in (plate, board))
    bare = replace(wiring, connections=tuple(w for w in wiring.connections if w.circuit is not Circuit.EARTH))
    assert "wiring.earth" in rules(bare, plate) and "wiring.earth" not in rules(wiring, plate)
    assert "wiring.earth" not in rules(low, board), "nothing in it hurts"
    assert not {"wiring.means", "wiring.disconnection"} & rules(wiring, plate), "its heater has 48 V"


def test_what_was_drawn_for_other_controls_is_out_of_date_and_each_supply_keeps_its_volts():
    own = replace(THREE, controls=MAINS)
    wiring = generate(own, CONTACTOR)
    assert {f.rule for f in stale(generate(THREE, CONTACTOR), own, CONTACTOR, Usual.PARTS)} == {"wiring.stale"}
    after = {
        p.name: p.ratings
        for p in for_purpose(
            wiring.parts, replace(own, supply_voltage_v=440.0, controls=replace(MAINS, controls_v=120.0))
        )
    }
    assert after["Q0"]["voltage_v"] == 440.0 and after["Q9"]["voltage_v"] == 120.0
    for was, now in product((None, MAINS, DC, MODULE), repeat=2):
        old, new = (replace(THREE, controls=c) for c in (was, now))
        told = {f.rule for f in stale(generate(old, CONTACTOR), new, CONTACTOR, Usual.PARTS)}
        assert told == (set() if was is now else {"wiring.stale"}), (was, now)
    module = replace(THREE, controls=replace(MODULE, controls_v=48.0))
    other = {p.name: p for p in for_purpose(generate(replace(THREE, controls=MODULE), CONTACTOR).parts, module)}
    assert other["G9"].ratings["output_v"] == 48.0
    drawn = replace(wiring, parts=tuple(replace(p, name=p.name) for p in wiring.parts))
    kept = {p.name: p.ratings for p in for_purpose(drawn.parts, replace(own, controls=None))}
    assert kept["Q9"]["voltage_v"] == 230.0, "a second supply somebody drew is not the heater's"


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"controls": Controls(ControlsFedBy.DC, 61.0)}, "controls.controls_v"),
        ({"controls": Controls(ControlsFedBy.DC, 9.9)}, "controls.controls_v"),
        ({"controls": Controls(ControlsFedBy.MAINS, 24.0)}, "controls.controls_v"),
        ({"controls": Controls(ControlsFedBy.MODULE, 230.0)}, "controls.controls_v"),
        ({"controls": MODULE, "supply": Supply.DC, "supply_voltage_v": 48.0}, "controls.fed_by"),
        ({"controls": DC, "effect": Effect.WATCHES, "heater_power_w": 0.0, "heater_voltage_v": 0.0}, "controls"),
    ],
)
def test_controls_that_cannot_be_are_refused(changed, field):
    for near in (MAINS, DC, MODULE, Controls(ControlsFedBy.DC, 60.0), Controls(ControlsFedBy.DC, 10.0)):
        check_purpose(replace(THREE, controls=near))
    with pytest.raises(Refused) as refused:
        check_purpose(replace(THREE, **changed))
    assert [p.field for p in refused.value.problems] == [field]


def test_what_the_heaters_mains_do_to_controls_they_do_not_do_to_what_is_fed_otherwise():
    high, slow = replace(THREE, supply_voltage_v=600.0), replace(THREE, frequency_hz=16.7)
    for purpose, rule in ((high, "parts.control-voltage"), (slow, "parts.frequency")):
        assert [f.rule for f in mains_findings(purpose, CONTACTOR)] == [rule]
        assert not mains_findings(replace(purpose, controls=MAINS), CONTACTOR)
    rules_of = {
        v: [f.rule for f in mains_findings(replace(ONE, supply_voltage_v=v, controls=MODULE), CONTACTOR)]
        for v in (264.0, 265.0)
    }
    assert rules_of == {264.0: [], 265.0: ["parts.module-voltage"]}
    module = mains_findings(replace(slow, controls=MODULE), CONTACTOR)
    assert "supply module may run hot" in module[0].reason and "coil" not in module[0].reason
    assert [f.rule for f in mains_findings(replace(PLATE, controls=replace(MAINS, controls_v=277.0)), CONTACTOR)] == [
        "parts.control-voltage"
    ]


@pytest.mark.slow
def test_a_power_cut_is_one_of_every_supply_and_every_plug_is_out():
    told = {
        None: ("main switch off", "Plug out"),
        MAINS: ("all supplies (Q0 and Q9) off", "Every plug (Q0 and Q9) out"),
    }
    for controls, (off, out) in told.items():
        purpose = replace(THREE, controls=controls)
        steps = steps_of(planned_for(purpose, CONTACTOR, RigKind.OVEN))
        assert off in steps["power cut"].does and steps["look"].isolated.startswith(out)


def test_safe_use_says_that_it_is_fed_twice():
    def after(fed_by: tuple[str, ...]) -> str:
        return " ".join(safe_use(RigKind.OVEN, THREE, None, 60.0, fed_by)[-1].lines)

    assert "unplug or lock off each of them" in after(("Q0", "Q9")) and "unplug it or lock" in after(("Q0",))


def made(by: MadeBy, watts: float) -> Purpose:
    return replace(ONE, heater_power_w=1000.0, own_mains=OwnMains(by, watts))


@pytest.mark.parametrize(
    ("watts", "found"),
    [
        (4000.0, {}),
        (3999.0, {"parts.own-mains-pulses": Severity.ADVICE}),
        (1263.0, {"parts.own-mains-pulses": Severity.ADVICE}),
        (1262.0, {"parts.own-mains-pulses": Severity.ADVICE, "parts.own-mains-power": Severity.ADVICE}),
        (1009.0, {"parts.own-mains-pulses": Severity.ADVICE, "parts.own-mains-power": Severity.FAULT}),
    ],
)
@pytest.mark.parametrize("by", MadeBy)
def test_what_a_rig_asks_of_a_generator_or_an_inverter(by, watts, found):
    """1000 W, and 10 W for its controls; at most 80 % for hours."""
    choice = replace(SUGGESTED, practice=Practice.IEC)
    assert {f.rule: f.severity for f in mains_findings(made(by, watts), choice)} == found
    assert not mains_findings(replace(made(by, watts), own_mains=None), choice)


def test_phase_angle_bends_what_is_soft_and_a_compressor_wants_its_start():
    phase = replace(SUGGESTED, output=Output.LINEAR, actuator=Actuator.PHASE_ANGLE)
    told = [
        {f.rule for f in mains_findings(p, phase)}
        for p in (made(MadeBy.INVERTER, 9000.0), replace(ONE, own_mains=None))
    ]
    assert "parts.own-mains-waveform" in told[0] and "parts.own-mains-waveform" not in told[1]
    box = Purpose(4.0, 10.0, "x", Supply.SINGLE_PHASE, 230.0, 230.0, 230.0, -8.0, "y", 20.0, effect=Effect.COOLS)
    starts = 5.0 * heater_current(box).value
    for watts, hums in ((0.99 * starts * 230.0 / 3.0, True), (1.01 * starts * 230.0 / 3.0, False)):
        own = replace(box, own_mains=OwnMains(MadeBy.GENERATOR, watts))
        assert ("parts.own-mains-start" in {f.rule for f in mains_findings(own, COOLED)}) is hums


def behind_rcd(wiring: ConnectionList) -> ConnectionList:
    """An earth-leakage breaker in the live and the neutral of the supply."""
    first = max(w.number for w in wiring.connections) + 1
    taken = {"Q0.L": "F0.2", "Q0.N": "F0.4"}
    rcd = Part("F0", PART_TYPES["rcd"], {"current_a": 40.0, "trips_a": 0.03})
    ahead = (
        Connection(first, "Q0.L", "F0.1", Circuit.POWER, 4.0, "brown"),
        Connection(first + 1, "Q0.N", "F0.3", Circuit.POWER, 4.0, "blue"),
    )
    return ConnectionList(
        (*wiring.parts, rcd),
        (*(replace(w, a=taken.get(w.a, w.a), b=taken.get(w.b, w.b)) for w in wiring.connections), *ahead),
    )


def test_a_fault_on_the_case_opens_no_breaker_behind_a_small_source_but_an_earth_leakage_one():
    """At 230 V: a B breaker opens at once from five times its rating, a generator of P watts brings 3 P / 230."""
    wiring = generate(ONE, CONTACTOR)
    needed = 5.0 * wiring.part("F1").number("current_a")
    for watts, live in ((0.98 * needed * 230.0 / 3.0, True), (1.02 * needed * 230.0 / 3.0, False)):
        own = replace(ONE, own_mains=OwnMains(MadeBy.GENERATOR, watts))
        assert ("wiring.disconnection" in rules(wiring, own)) is live
        assert "wiring.disconnection" not in rules(behind_rcd(wiring), own)
    assert "wiring.disconnection" not in rules(wiring, ONE)


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"own_mains": OwnMains(MadeBy.INVERTER, 49.0)}, "own_mains.made_w"),
        ({"own_mains": OwnMains(MadeBy.GENERATOR, 2e6)}, "own_mains.made_w"),
        ({"own_mains": OwnMains(MadeBy.GENERATOR, 5e3), "supply": Supply.DC, "supply_voltage_v": 48.0}, "own_mains"),
        (
            {
                "own_mains": OwnMains(MadeBy.GENERATOR, 5e3),
                "effect": Effect.WATCHES,
                "heater_power_w": 0.0,
                "heater_voltage_v": 0.0,
            },
            "own_mains",
        ),
    ],
)
def test_a_source_that_cannot_be_is_refused(changed, field):
    check_purpose(replace(THREE, own_mains=OwnMains(MadeBy.INVERTER, 50.0)))
    with pytest.raises(Refused) as refused:
        check_purpose(replace(THREE, **changed))
    assert [p.field for p in refused.value.problems] == [field]
