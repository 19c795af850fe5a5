"""Rules of supply, currents, commands, probes and logic level: each with a case that triggers it and a near-miss."""

from dataclasses import replace

import pytest

from rellux.core.findings import Severity
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.generate import generate
from rellux.core.wiring.model import Circuit, Connection, ConnectionList
from rellux.core.wiring.rules import check, context_for
from rellux.core.wiring.usual_circuits import Usual, usual
from tests.core.wiring.test_wiring_more import CONTACTOR, KILN, SHELL, SSR, added, part, rated, through

PLATE = Purpose(65, 80, "oils", Supply.DC, 24, 110, 24)
HOT_PLATE = replace(PLATE, working_c=150, highest_c=180)
MOSFET = Choice("NTC", Output.PIN, Actuator.MOSFET, False, Practice.IEC)
CONVERTER = replace(MOSFET, sensor="K")
PT100 = replace(SSR, sensor="Pt100")
KILN_SSR, SHELL_K, PLATE_NTC = generate(KILN, SSR), generate(SHELL, CONTACTOR), generate(PLATE, MOSFET)
PLATE_K, KILN_PT = generate(PLATE, CONVERTER), generate(replace(KILN, highest_c=590), PT100)
KILN_RELAY = generate(KILN, replace(SSR, output=Output.RELAY, actuator=Actuator.RELAY))


def rules(wiring, purpose=KILN, sensor="N"):
    return {f.rule for f in check(wiring, context_for(purpose, Practice.IEC, sensor))}


def without(wiring, *ends):
    kept = tuple(w for w in wiring.connections if not {w.a, w.b} & set(ends))
    return ConnectionList(wiring.parts, kept)


def changed(wiring, first, second, **values):
    """The wire between two terminals with other values."""
    wires = tuple(replace(w, **values) if {w.a, w.b} == {first, second} else w for w in wiring.connections)
    return ConnectionList(wiring.parts, wires)


def kind(wiring, name, other, **ratings):
    """One part taken for another kind with the same terminals."""
    parts = tuple(part(name, other, **{**p.ratings, **ratings}) if p.name == name else p for p in wiring.parts)
    return ConnectionList(parts, wiring.connections)


def plugged(wiring, **ratings):
    """The supply through a plug, both poles."""
    turned = {"Q0.L": "P0.2", "Q0.N": "P0.4"}
    wires = tuple(replace(w, a=turned.get(w.a, w.a), b=turned.get(w.b, w.b)) for w in wiring.connections)
    ends = (Connection(700, "Q0.L", "P0.1"), Connection(701, "Q0.N", "P0.3"))
    return ConnectionList((*wiring.parts, part("P0", "plug", **ratings)), (*wires, *ends))


def two_pole(wiring):
    """The kiln's breaker and limiter contactor with both poles: the neutral goes through them too."""
    parts = {
        "F1": part("F1", "breaker_2p", current_a=16.0),
        "K0": part("K0", "contactor_2p", current_a=20.0, coil_v=230.0),
    }
    kept = tuple(parts.get(p.name, p) for p in wiring.parts)
    wires = tuple(w for w in wiring.connections if {w.a, w.b} != {"E1.2", "P0.4"})
    more = (Connection(710, "P0.4", "F1.3"), Connection(711, "F1.4", "K0.3"), Connection(712, "K0.4", "E1.2"))
    return ConnectionList(kept, (*wires, *more))


def estop(wiring, which):
    return through(wiring, part("S9", which, current_a=6.0), "A2.OK", "K0.A1", "S9.1", "S9.2")


def star(first_w, joined):
    """Three heaters of their own behind the shell's contactor, far ends on a star point or in delta."""
    heaters = [part(f"E{i}", "heater", power_w=first_w if i == 1 else 1500.0, voltage_v=230.0) for i in (1, 2, 3)]
    kept = tuple(p for p in SHELL_K.parts if p.name != "E1")
    moved = tuple(
        replace(w, b={"E1.1": "E1.1", "E1.2": "E2.1", "E1.3": "E3.1"}.get(w.b, w.b)) for w in SHELL_K.connections
    )
    far = {
        "star": (("E1.2", "E2.2"), ("E2.2", "E3.2")),
        "delta": (("E1.2", "E2.1"), ("E2.2", "E3.1"), ("E3.2", "E1.1")),
    }[joined]
    more = tuple(Connection(720 + i, a, b, Circuit.POWER, 2.5, "black") for i, (a, b) in enumerate(far))
    return ConnectionList((*kept, *heaters), (*moved, *more))


def module(which, pull_up=None):
    """A relay module on the plate's board instead of the MOSFET, its contact holding a lamp."""
    extra = [part("M1", which, voltage_v=5.0)]
    pairs = [("G1.OUT+", "M1.VCC"), ("G1.OUT-", "M1.GND"), ("A1.PWM1", "M1.IN")]
    if pull_up:
        extra.append(part("R9", "resistor", ohm=pull_up))
        pairs += [("R9.1", "M1.VCC"), ("R9.2", "M1.IN")]
    return added(PLATE_NTC, *pairs, parts=tuple(extra))


PHASE = rated(KILN_SSR, "A1", mode="phase")
ONE_LEG = through(KILN_SSR, part("X7", "terminal_block"), "B1.+", "A1.IN+", "X7.1", "X7.1")
BLOCK = ConnectionList(
    ONE_LEG.parts,
    (
        *(replace(w, b="X7.3") if {w.a, w.b} == {"B1.-", "A1.IN-"} else w for w in ONE_LEG.connections),
        Connection(950, "X7.3", "A1.IN-", Circuit.SENSOR, 0.5, "white"),
    ),
)


def fed(watts):
    """A fan on the plate's 5 V rail."""
    fan = part("M1", "fan", power_w=watts, voltage_v=5.0)
    return added(PLATE_NTC, ("G1.OUT+", "M1.1"), ("G1.OUT-", "M1.2"), parts=(fan,))


def behind(wiring, terminal):
    """The pump fed from another terminal."""
    return ConnectionList(
        wiring.parts, tuple(replace(w, a=terminal) if w.b == "M1.1" else w for w in wiring.connections)
    )


BLOWN = rated(KILN_SSR, "E1", blown="yes")
FLOW = part("B7", "flow_switch", current_a=6.0)
PUMPED = usual(KILN, SSR, Usual.PUMP)
SECOND = (part("A9", "controller_ssr", voltage_v=230.0),)
CASES = [
    ("wiring.disconnection", rated(KILN_SSR, "Q0", earthing="tt"), KILN_SSR, {}),
    ("wiring.disconnection", rated(KILN_SSR, "F1", curve="D", current_a=63.0), rated(KILN_SSR, "F1", curve="C"), {}),
    ("wiring.means", kind(KILN_SSR, "F1", "fuse"), plugged(kind(KILN_SSR, "F1", "fuse")), {}),
    ("wiring.plug-load", plugged(KILN_SSR, current_a=13.0), plugged(KILN_SSR, current_a=16.0), {}),
    ("wiring.plug-reversible", plugged(KILN_SSR, reversible="yes"), two_pole(plugged(KILN_SSR, reversible="yes")), {}),
    ("wiring.plug-reversible", plugged(KILN_SSR, reversible="yes"), plugged(KILN_SSR), {}),
    ("wiring.energise-to-trip", changed(KILN_SSR, "A2.OK", "K0.A1", a="A2.TRIP"), KILN_SSR, {}),
    ("wiring.estop-no", estop(KILN_SSR, "estop_no"), estop(KILN_SSR, "estop"), {}),
    ("wiring.contact-overload", rated(KILN_RELAY, "K1", current_a=13.0), rated(KILN_RELAY, "K1", current_a=14.0), {}),
    ("wiring.ssr-overload", rated(KILN_SSR, "V1", current_a=19.0), rated(KILN_SSR, "V1", current_a=20.0), {}),
    ("wiring.ssr-sink", rated(KILN_SSR, "V1", sink="none"), rated(KILN_SSR, "V1", sink="fitted"), {}),
    ("wiring.ssr-input", rated(KILN_SSR, "A1", drive_v=4.0), rated(KILN_SSR, "A1", drive_v=5.0), {}),
    ("wiring.load-voltage", star(1500.0, "delta"), star(1500.0, "star"), {"purpose": SHELL, "sensor": "K"}),
    ("wiring.star-unbalanced", star(1000.0, "star"), star(1450.0, "star"), {"purpose": SHELL, "sensor": "K"}),
    ("wiring.inrush", rated(KILN_SSR, "E1", element="halogen"), rated(KILN_SSR, "E1", element="wire"), {}),
    (
        "wiring.insulation",
        changed(KILN_SSR, "V1.2", "E1.1", insulation="pvc_90"),
        changed(KILN_SSR, "V1.2", "E1.1", insulation="silicone"),
        {},
    ),
    ("wiring.unpowered", without(KILN_SSR, "A1.L"), KILN_SSR, {}),
    ("wiring.supply-voltage", rated(KILN_SSR, "A1", voltage_v=120.0), rated(KILN_SSR, "A1", voltage_v=240.0), {}),
    ("wiring.floating-input", without(KILN_SSR, "V1.4-"), without(KILN_SSR, "V1.4-", "V1.3+"), {}),
    (
        "wiring.two-drivers",
        added(KILN_SSR, ("A9.OUT+", "V1.3+"), ("A9.OUT-", "V1.4-"), parts=SECOND),
        added(KILN_SSR, ("A9.OUT-", "V1.4-"), parts=SECOND),
        {},
    ),
    ("wiring.fan-interlock", BLOWN, through(BLOWN, FLOW, "A2.OK", "K0.A1", "B7.1", "B7.2"), {}),
    (
        "wiring.fan-interlock",
        through(changed(PUMPED, "A2.OK", "B3.1", b="K0.A1"), FLOW, "A1.OUT+", "V1.3+", "B7.1", "B7.2"),
        PUMPED,
        {},
    ),
    ("wiring.flow-deadlock", behind(PUMPED, "B3.2"), PUMPED, {}),
    (
        "wiring.flow-deadlock",
        added(behind(PUMPED, "B3.2"), ("F2.2", "M9.1"), ("M9.2", "Q0.N"), parts=(part("M9", "fan"),)),
        PUMPED,
        {},
    ),
    ("wiring.flow-deadlock", behind(PUMPED, "K0.2"), behind(PUMPED, "F1.2"), {}),
    ("wiring.phase-angle", PHASE, rated(PHASE, "V1", firing="random"), {}),
    ("wiring.copper", changed(KILN_SSR, "B1.+", "A1.IN+", insulation="copper_pair"), KILN_SSR, {}),
    (
        "wiring.tc-colours",
        changed(changed(KILN_SSR, "B1.+", "A1.IN+", colour="white"), "B1.-", "A1.IN-", colour="pink"),
        KILN_SSR,
        {},
    ),
    (
        "wiring.tc-terminals",
        BLOCK,
        through(KILN_SSR, part("X7", "terminal_block"), "B1.+", "A1.IN+", "X7.1", "X7.1"),
        {},
    ),
    (
        "wiring.rtd-leads",
        changed(without(KILN_PT, "B1.B2"), "B1.A", "A1.IN+", length_m=5.0),
        changed(KILN_PT, "B1.A", "A1.IN+", length_m=5.0),
        {"sensor": "Pt100"},
    ),
    (
        "wiring.tc-grounded",
        rated(rated(KILN_SSR, "B1", junction="grounded"), "A1", input="common"),
        rated(KILN_SSR, "B1", junction="grounded"),
        {},
    ),
    (
        "wiring.bundle",
        changed(changed(KILN_SSR, "V1.2", "E1.1", route="duct 1"), "B1.+", "A1.IN+", route="duct 1"),
        changed(changed(KILN_SSR, "V1.2", "E1.1", route="duct 1"), "B1.+", "A1.IN+", route="duct 2"),
        {},
    ),
    ("wiring.common-ground", without(PLATE_NTC, "V1.GND"), PLATE_NTC, {"purpose": PLATE, "sensor": "NTC"}),
    (
        "wiring.pin-twice",
        added(
            PLATE_NTC, ("A1.PWM3", "M1.IN"), ("G1.OUT-", "M1.GND"), parts=(part("M1", "relay_module", voltage_v=5.0),)
        ),
        added(
            PLATE_NTC, ("A1.PWM2", "M1.IN"), ("G1.OUT-", "M1.GND"), parts=(part("M1", "relay_module", voltage_v=5.0),)
        ),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    (
        "wiring.select-shared",
        added(PLATE_K, ("A1.CLK1", "U2.CS"), ("G1.OUT-", "U2.GND"), parts=(part("U2", "converter", voltage_v=5.0),)),
        added(PLATE_K, ("A1.IO2", "U2.CS"), ("G1.OUT-", "U2.GND"), parts=(part("U2", "converter", voltage_v=5.0),)),
        {"purpose": PLATE, "sensor": "K"},
    ),
    (  # one select with something else on its pin is no second converter
        "wiring.pin-twice",
        added(PLATE_K, ("A1.CLK1", "M1.IN"), ("G1.OUT-", "M1.GND"), parts=(part("M1", "relay_module", voltage_v=5.0),)),
        added(PLATE_K, ("A1.IO2", "M1.IN"), ("G1.OUT-", "M1.GND"), parts=(part("M1", "relay_module", voltage_v=5.0),)),
        {"purpose": PLATE, "sensor": "K"},
    ),
    (
        "wiring.pin-able",
        changed(PLATE_NTC, "B1.A", "A1.AN1", b="A1.IO1"),
        changed(PLATE_NTC, "B1.A", "A1.AN1", b="A1.AN2"),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    (
        "wiring.pin-boot",
        changed(PLATE_NTC, "A1.PWM3", "V1.SIG", a="A1.CLK4"),
        changed(PLATE_NTC, "A1.PWM3", "V1.SIG", a="A1.PWM2"),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    (
        "wiring.pin-current",
        added(
            PLATE_NTC, ("A1.PWM3", "H1.1"), ("H1.2", "A1.GND"), parts=(part("H1", "lamp", power_w=0.5, voltage_v=5.0),)
        ),
        added(
            PLATE_NTC, ("A1.PWM3", "H1.1"), ("H1.2", "A1.GND"), parts=(part("H1", "lamp", power_w=0.05, voltage_v=5.0),)
        ),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    (
        "wiring.pin-voltage",
        added(PLATE_NTC, ("F2.2", "A1.AN3")),
        added(PLATE_NTC, ("G1.OUT+", "A1.AN3")),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    ("wiring.rail-budget", fed(5.5), fed(4.0), {"purpose": PLATE, "sensor": "NTC"}),
    (
        "wiring.vin-low",
        changed(PLATE_NTC, "G1.OUT+", "A1.5V", b="A1.RAW"),
        rated(changed(PLATE_NTC, "G1.OUT+", "A1.5V", b="A1.RAW"), "G1", output_v=9.0),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    (
        "wiring.active-low",
        module("relay_module_low"),
        module("relay_module_low", 10_000.0),
        {"purpose": PLATE, "sensor": "NTC"},
    ),
    ("wiring.active-low", module("relay_module_low"), module("relay_module"), {"purpose": PLATE, "sensor": "NTC"}),
    (
        "wiring.thermal-fuse",
        through(KILN_SSR, part("F8", "thermal_fuse"), "V1.2", "E1.1", "F8.1", "F8.2"),
        KILN_SSR,
        {},
    ),
    (
        "wiring.dead-end",
        added(KILN_SSR, ("F1.2", "S4.1"), parts=(part("S4", "switch"),)),
        through(KILN_SSR, part("S4", "switch"), "F1.2", "K0.1", "S4.1", "S4.2"),
        {},
    ),
]


@pytest.mark.slow
@pytest.mark.parametrize(("rule", "trigger", "near_miss", "about"), CASES, ids=[c[0] for c in CASES])
def test_rules(rule, trigger, near_miss, about):
    assert rule in rules(trigger, **about)
    assert rule not in rules(near_miss, **about)


def test_an_alarm_contact_that_is_wired_wants_an_alarm():
    lamp = part("H9", "beacon", power_w=5.0, voltage_v=230.0)
    wired = added(KILN_SSR, ("F2.2", "A1.AL1"), ("A1.AL2", "H9.1"), ("H9.2", "Q0.N"), parts=(lamp,))
    assert "wiring.alarm-off" in rules(rated(wired, "A1", alarm="off"))
    assert "wiring.alarm-off" not in rules(wired)
    assert "wiring.alarm-off" not in rules(rated(KILN_SSR, "A1", alarm="off"))


def test_an_earth_leakage_breaker_covers_a_rod_of_its_own():
    """TT, 100 Ω of rod: 2.3 A opens no breaker but any 30 mA device (IEC 60364-4-41)."""
    tt = rated(KILN_SSR, "Q0", earthing="tt")
    turned = {"Q0.L": "F0.2", "Q0.N": "F0.4"}
    wires = tuple(replace(w, a=turned.get(w.a, w.a), b=turned.get(w.b, w.b)) for w in tt.connections)
    ends = (Connection(700, "Q0.L", "F0.1"), Connection(701, "Q0.N", "F0.3"))
    guarded = ConnectionList((*tt.parts, part("F0", "rcd", trips_a=0.03)), (*wires, *ends))
    assert "wiring.disconnection" in rules(tt) and "wiring.disconnection" not in rules(guarded)


def test_a_dc_ssr_the_wrong_way_round():
    """Plus at its plus it blocks; the other way its body diode conducts."""
    plate = generate(PLATE, Choice("K", Output.SSR_DRIVE, Actuator.SSR, False, Practice.IEC))
    right = rated(plate, "V1", load_type="dc")
    swap = {"V1.1": "V1.2", "V1.2": "V1.1"}
    wires = tuple(replace(w, a=swap.get(w.a, w.a), b=swap.get(w.b, w.b)) for w in right.connections)
    assert "wiring.ssr-polarity" not in rules(right, PLATE, "K")
    assert "wiring.ssr-polarity" in rules(ConnectionList(right.parts, wires), PLATE, "K")


def test_nec_allows_the_next_size_up_beyond_the_small_conductors():
    """NEC 240.4(B), table 310.16: 6 AWG (13.3 mm²) stands 55 A; the next usual breaker is 60 A, the one after is too large."""
    big = Purpose(515, 600, "slumps", Supply.SINGLE_PHASE, 240, 9000, 240)
    choice = Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.NEC)
    wiring = generate(big, choice)
    wide = tuple(replace(w, area_mm2=13.3) if w.circuit is Circuit.POWER else w for w in wiring.connections)

    def found(amps):
        listed = rated(ConnectionList(wiring.parts, wide), "F1", current_a=amps)
        return {f.rule for f in check(listed, context_for(big, Practice.NEC, "K"))}

    assert "wiring.wire-breaker" not in found(60.0) and "wiring.wire-breaker" in found(70.0)


def test_a_pin_that_cannot_is_told_which_can():
    wrong = changed(PLATE_NTC, "B1.A", "A1.AN1", b="A1.IO1")
    found = next(f for f in check(wrong, context_for(PLATE, Practice.IEC, "NTC")) if f.rule == "wiring.pin-able")
    pins = found.fix.removeprefix("Pins that can: ").rstrip(".").split(", ")
    assert {"AN1", "AN2"} <= set(pins) and "D4" not in pins


@pytest.mark.parametrize(
    ("outer", "inner", "told"),
    [
        ("chamber", "heater", False),
        ("heater", "chamber", True),
        ("heater", "load", True),
        ("heater", "heater", False),
        ("load", "heater", False),
    ],
)
def test_exchanged_probes_of_a_cascade(outer, inner, told):
    shell = usual(SHELL, CONTACTOR, Usual.CASCADE)
    placed = {"B1": outer, "B3": inner}
    parts = tuple(
        replace(p, ratings={**p.ratings, "place": placed[p.name]}) if p.name in placed else p for p in shell.parts
    )
    assert ("wiring.probes-exchanged" in rules(ConnectionList(parts, shell.connections), SHELL, "K")) is told
    assert "wiring.probes-exchanged" not in rules(shell, SHELL, "K")


def found(wiring, rule):
    return [f for f in check(wiring, context_for(KILN, Practice.IEC, "N")) if f.rule == rule]


def test_an_alarm_contact_is_a_pilot_like_the_output():
    """3 A: a beacon of 800 W on 230 V takes 3.5 A of it, one of 600 W 2.6 A."""
    for watts, titles in ((800.0, ["{3.5 A} through A1's alarm contact, made for {3 A}"]), (600.0, [])):
        beacon = part("H9", "beacon", power_w=watts, voltage_v=230.0)
        pairs = (("F2.2", "A1.AL1"), ("A1.AL2", "H9.1"), ("H9.2", "Q0.N"))
        assert [f.title for f in found(added(KILN_SSR, *pairs, parts=(beacon,)), "wiring.contact-overload")] == titles


@pytest.mark.parametrize(
    ("volts", "says", "severity"),
    [(4.0, "it may not turn on", Severity.FAULT), (60.0, "it burns", Severity.DANGER), (12.0, "", None)],
)
def test_an_input_driven_too_weakly_may_stay_off_and_too_strongly_burns(volts, says, severity):
    told = found(rated(KILN_SSR, "A1", drive_v=volts), "wiring.ssr-input")
    assert [(f.severity, says in f.reason) for f in told] == ([(severity, True)] if says else [])


def test_three_instruments_on_one_sensor_are_told_as_two_are():
    for many in (2, 3):
        others = [part(f"U{i}", "controller_relay", voltage_v=230.0) for i in range(many - 1)]
        pairs = [(f"A1.{leg}", f"{u.name}.{leg}") for u in others for leg in ("IN+", "IN-")]
        told = found(added(KILN_SSR, *pairs, parts=tuple(others)), "wiring.shared-sensor")
        assert [set(f.subjects) for f in told] == [{"B1", "A1", *(u.name for u in others)}]
