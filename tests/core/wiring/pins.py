"""What each threshold and table cell of the wiring core decides, as behaviour on both sides of it. A pin is true as things are,
and false once its constant is nudged by a tenth (a whole number: by one)."""

from collections.abc import Callable
from dataclasses import replace
from math import isclose

from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import Practice
from rellux.core.heating.wire import ohm_per_metre
from rellux.core.purpose.controls import Controls, ControlsFedBy
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.heater import heater_current
from rellux.core.purpose.purpose import Effect, Purpose, Supply
from rellux.core.wiring import insulation, listing, pasted, usual_circuits
from rellux.core.wiring.choice import Actuator, Choice, Output, actuator_rating, check_choice, switch_rating, switched_a
from rellux.core.wiring.circuit.dead import Dead
from rellux.core.wiring.circuit.faults import FailureVerdict, Reaches, analyse
from rellux.core.wiring.circuit.findings import circuit_findings
from rellux.core.wiring.circuit.meter import plan
from rellux.core.wiring.circuit.positions import table
from rellux.core.wiring.circuit.solution import Fault
from rellux.core.wiring.circuit.standings import standings
from rellux.core.wiring.circuit.suspects import Measured, explain
from rellux.core.wiring.generate import generate, live_colours
from rellux.core.wiring.insulation import covering_at
from rellux.core.wiring.model import Circuit, Connection, ConnectionList
from rellux.core.wiring.rules.currents import at_start
from rellux.core.wiring.rules.earth import iec_earth, nec_earth
from rellux.core.wiring.switching import OFF, ON, Switching
from tests.core.wiring.edges import built, dc, load, purpose, says, solver, straight
from tests.oracle.circuits import KILN, SSR, added, part

Pin = Callable[[], bool]
BOX = Purpose(4, 10, "x", Supply.SINGLE_PHASE, 230, 90, 230, -8, "y", 20, effect=Effect.COOLS)


def edge(said: Callable[[float], bool], below: float, above: float) -> Pin:
    """Silent just below, said just above."""
    return lambda: not said(below) and said(above)


def upto(said: Callable[[float], bool], below: float, above: float) -> Pin:
    """Said just below, silent just above."""
    return lambda: said(below) and not said(above)


def near(value: Callable[[], float], expected: float, within: float) -> Pin:
    return lambda: isclose(value(), expected, rel_tol=within)


def every(*pins: Pin) -> Pin:
    return lambda: all(pin() for pin in pins)


def accepted(work: Callable[[float], object]) -> Callable[[float], bool]:
    """Whether something is taken, not refused."""

    def taken(value: float) -> bool:
        try:
            work(value)
        except Refused:
            return False
        return True

    return taken


# Lists with one number in them


def ssr_fed(watts: float, **ratings: float | str):
    parts = (
        part("V1", "ssr", **{"current_a": 25.0, "sink": "fitted", **ratings}),
        load(watts=watts),
        part("A1", "controller_ssr", voltage_v=230.0),
    )
    pairs = (
        ("Q0.L", "A1.L"),
        ("Q0.N", "A1.N"),
        ("A1.OUT+", "V1.3+"),
        ("A1.OUT-", "V1.4-"),
        ("Q0.L", "V1.1"),
        ("V1.2", "E1.1"),
        ("E1.2", "Q0.N"),
    )
    return built(parts, *pairs)


def divided(share: float, between: tuple = (), watts: float = 1000.0, colour: str = ""):
    """Two elements in series, the lower one standing on this share of the supply; parts ``between`` them in a chain."""
    lower = load("E2", watts * (1 / share - 1))  # their resistances as share to 1 − share
    chain = [
        ("Q0.L", "E1.1"),
        *zip(["E1.2", *(f"{p.name}.2" for p in between)], [*(f"{p.name}.1" for p in between), "E2.1"], strict=True),
    ]
    wiring = built((load("E1", watts), lower, *between), *chain, ("E2.2", "Q0.N"))
    if colour:
        wiring = ConnectionList(
            wiring.parts, tuple(replace(w, colour=colour) if "E2.1" in (w.a, w.b) else w for w in wiring.connections)
        )
    return wiring


def bleeding(share: float):
    """A contact in the neutral; open, a second element beside it leaves this share of the supply behind it."""
    rest = load("E3", 1000.0 * (1 / share - 1))
    parts = (load("E1"), rest, part("S1", "switch", current_a=63.0))
    return built(parts, ("Q0.L", "E1.1"), ("E1.2", "S1.1"), ("S1.2", "Q0.N"), ("E1.2", "E3.1"), ("E3.2", "Q0.N"))


def fused_neutral(watts: float):
    return built(
        (load("H1", watts, kind="lamp"), part("F1", "fuse")), ("Q0.L", "H1.1"), ("H1.2", "F1.1"), ("F1.2", "Q0.N")
    )


def earth_return(watts: float):
    return built(
        (load("H1", watts, kind="lamp"), part("X1", "enclosure")),
        ("Q0.L", "H1.1"),
        ("H1.2", "Q0.PE"),
        ("Q0.PE", "X1.PE"),
    )


def earthed(area: float, live: float = 4.0):
    wiring = built((load(), part("X1", "enclosure")), ("Q0.L", "E1.1"), ("E1.2", "Q0.N"), ("Q0.PE", "X1.PE"), area=live)
    return ConnectionList(
        wiring.parts, tuple(replace(w, area_mm2=area) if w.circuit is Circuit.EARTH else w for w in wiring.connections)
    )


def pulled_up(ohm: float):
    parts = (
        part("A1", "microcontroller", voltage_v=5.0), part("K1", "relay_module_low", voltage_v=5.0),
        part("R1", "resistor", ohm=ohm),
    )  # fmt: skip
    pairs = (
        ("Q0.+", "A1.5V"),
        ("Q0.-", "A1.GND"),
        ("Q0.+", "K1.VCC"),
        ("Q0.-", "K1.GND"),
        ("A1.PWM3", "K1.IN"),
        ("R1.1", "K1.VCC"),
        ("R1.2", "K1.IN"),
    )
    return built(parts, *pairs, supply=dc(5.0))


def on_pin(watts: float):
    board = part("A1", "microcontroller", voltage_v=5.0, pin_a=0.02, pin_v=5.0)
    return built(
        (board, load("H1", watts, 5.0, "lamp")),
        ("Q0.+", "A1.5V"),
        ("Q0.-", "A1.GND"),
        ("A1.PWM1", "H1.1"),
        ("H1.2", "A1.GND"),
        supply=dc(5.0),
    )


def pin_at(volts: float):
    """A pin at this voltage: a regulator of it beside the board's own supply."""
    parts = (
        part("A1", "microcontroller", voltage_v=5.0, pin_v=5.0),
        part("G1", "regulator", voltage_v=24.0, output_v=5.0),
        part("G2", "regulator", voltage_v=24.0, output_v=volts),
    )
    pairs = [
        ("Q0.+", "G1.VIN+"),
        ("Q0.-", "G1.VIN-"),
        ("Q0.+", "G2.VIN+"),
        ("Q0.-", "G2.VIN-"),
        ("G1.OUT+", "A1.5V"),
        ("G1.OUT-", "A1.GND"),
        ("G2.OUT+", "A1.AN1"),
    ]
    return built(parts, *pairs, supply=dc())


def on_transistor(milliamps: float):
    valve = load("M1", 24.0 * milliamps / 1000.0, 24.0, "solenoid")
    parts = (part("V1", "ssr", load_type="dc", current_a=10.0), valve, part("A1", "controller_ssr", voltage_v=24.0))
    pairs = (
        ("Q0.+", "A1.L"),
        ("Q0.-", "A1.N"),
        ("A1.OUT+", "V1.3+"),
        ("A1.OUT-", "V1.4-"),
        ("Q0.+", "M1.1"),
        ("M1.2", "V1.1"),
        ("V1.2", "Q0.-"),
    )
    return built(parts, *pairs, supply=dc())


def two_wire_pt100(ohm: float):
    """A Pt100 on two wires whose loop has this resistance."""
    length = ohm / 2 / ohm_per_metre("AWG", 0.5, 25.0)
    wiring = built(
        (part("B1", "pt100", sensor="Pt100"), part("A1", "controller_relay", voltage_v=230.0)),
        ("B1.A", "A1.IN+"),
        ("B1.B", "A1.IN-"),
    )
    return ConnectionList(
        wiring.parts,
        tuple(replace(w, circuit=Circuit.SENSOR, area_mm2=0.5, length_m=length) for w in wiring.connections),
    )


def own_relay(amps: float):
    parts = (part("A1", "controller_relay", voltage_v=230.0), load(watts=230.0 * amps))
    return built(parts, ("Q0.L", "A1.L"), ("Q0.N", "A1.N"), ("Q0.L", "A1.COM"), ("A1.NO", "E1.1"), ("E1.2", "Q0.N"))


def behind(rating: float, amps: float, kind: str = "breaker"):
    watts = 230.0**2 / (230.0 / amps - 230.0 / 1500.0)  # less the supply's own impedance, so that just this flows
    return built(
        (part("F1", kind, current_a=rating, voltage_v=500.0), load(watts=watts)),
        ("Q0.L", "F1.1"),
        ("F1.2", "E1.1"),
        ("E1.2", "Q0.N"),
    )


def reversed_drive(volts: float):
    """An SSR whose input gets this many volts the wrong way round."""
    parts = (
        part("A1", "controller_ssr", voltage_v=230.0, drive_v=volts * 1350.0 / 1200.0),
        part("V1", "ssr", current_a=25.0),
    )
    return built(parts, ("Q0.L", "A1.L"), ("Q0.N", "A1.N"), ("A1.OUT-", "V1.3+"), ("A1.OUT+", "V1.4-"))


def inputs_on(drive_v: float, count: int = 3):
    ssrs = tuple(part(f"V{i}", "ssr", current_a=25.0) for i in range(1, count + 1))
    pairs = [p for s in ssrs for p in (("A1.OUT+", f"{s.name}.3+"), ("A1.OUT-", f"{s.name}.4-"))]
    return built(
        (part("A1", "controller_ssr", voltage_v=230.0, drive_v=drive_v), *ssrs),
        ("Q0.L", "A1.L"),
        ("Q0.N", "A1.N"),
        *pairs,
    )


def beside(amps: float):
    relays = tuple(part(n, "relay", current_a=16.0, coil_v=230.0) for n in ("K1", "K2"))
    pairs = [
        p
        for k in ("K1", "K2")
        for p in (("Q0.L", f"{k}.COM"), (f"{k}.NO", "E1.1"), ("Q0.L", f"{k}.A1"), (f"{k}.A2", "Q0.N"))
    ]
    return built((*relays, load(watts=230.0 * amps)), *pairs, ("E1.2", "Q0.N"))


def motor(watts: float, setting: float = 0.0):
    guard = (part("F1", "motor_breaker", current_a=setting),) if setting else ()
    ahead = (("Q0.L", "F1.1"), ("F1.2", "M1.1")) if setting else (("Q0.L", "M1.1"),)
    return built(
        (part("M1", "motor", power_w=watts, voltage_v=230.0, overload="none"), *guard), *ahead, ("M1.2", "Q0.N")
    )


def fed_motor(share: float):
    """A motor whose protection switch carries this share of its current: the rest has another way."""
    parts = (
        part("M1", "motor", power_w=1000.0, voltage_v=230.0, overload="none"),
        part("M2", "motor", power_w=1000.0 * share, voltage_v=230.0),
        part("F1", "motor_breaker", current_a=1.0),
    )
    return built(parts, ("Q0.L", "M1.1"), ("M1.2", "Q0.N"), ("Q0.L", "F1.1"), ("F1.2", "M2.1"), ("M2.2", "Q0.N"))


def instrument(rated: float, share: float = 1.0):
    """A limiter rated for this, on this share of 230 V."""
    ohm, need = rated**2 / 4.0, 1 / share - 1
    series = part("R1", "resistor", ohm=max(ohm * need, 1e-3))
    return built((part("A2", "limiter", voltage_v=rated), series), ("Q0.L", "R1.1"), ("R1.2", "A2.L"), ("A2.N", "Q0.N"))


def board(volts: float, turned: bool = False):
    ends = ("A1.GND", "A1.5V") if turned else ("A1.5V", "A1.GND")
    return built(
        (part("A1", "microcontroller", voltage_v=5.0),), ("Q0.+", ends[0]), ("Q0.-", ends[1]), supply=dc(volts)
    )


def earth_fault(rating: float, kind: str = "breaker", curve: str = "B"):
    guard = (
        part("F1", kind, current_a=rating, curve=curve)
        if kind == "breaker"
        else part("F1", kind, current_a=rating, voltage_v=500.0)
    )
    return built(
        (guard, load(), part("X1", "enclosure")),
        ("Q0.L", "F1.1"),
        ("F1.2", "E1.1"),
        ("E1.2", "Q0.N"),
        ("Q0.PE", "X1.PE"),
    )


def earth_fault_a() -> float:
    """Amperes with the live end of that heater on the case, solved."""
    solved = solver(earth_fault(1e6)).solve(ON, Fault(joined=(("E1.1", "X1.PE"),)), trips=False)
    return solved.contacts["F1"].amps


def opens_at(times: float, **guard: str) -> Callable[[], bool]:
    """The rule is silent where 1.05 times what opens it flows, and speaks at 0.95 times."""

    def holds() -> bool:
        amps = earth_fault_a()
        enough, short = (says(earth_fault(amps / times / k, **guard), "wiring.disconnection") for k in (1.05, 0.95))
        return not enough and short

    return holds


def three_phase(share: float):
    supply = part("Q0", "supply_3ph", voltage_v=400.0 * share**0.5)
    return built(
        (load(kind="heater_3ph", watts=3000.0, volts=400.0),),
        *((f"Q0.L{i}", f"E1.{i}") for i in (1, 2, 3)),
        supply=supply,
    )


def star(first: float, share: float = 1.0):
    """Three elements of 230 V on a star point, the first of another power, on this share of 400 V."""
    supply = part("Q0", "supply_3ph", voltage_v=400.0 * share)
    parts = (load("E1", first), load("E2"), load("E3"))
    return built(
        parts, *((f"Q0.L{i}", f"E{i}.1") for i in (1, 2, 3)), ("E1.2", "E2.2"), ("E2.2", "E3.2"), supply=supply
    )


def hot_wire(insulation: str):
    wiring = straight(load())
    return ConnectionList(wiring.parts, tuple(replace(w, insulation=insulation) for w in wiring.connections))


def crowd(count: int):
    lamps = tuple(load(f"H{i}", 5.0, kind="lamp") for i in range(1, count + 1))
    return built((part("S1", "switch"), *lamps), *(("S1.2", f"{h.name}.1") for h in lamps))


def past(ohm: float):
    """An element fed past its switch through a resistor, and a controller that never calls."""
    parts = (part("A1", "controller_relay", voltage_v=230.0), load(), part("R1", "resistor", ohm=ohm))
    return built(
        parts,
        ("Q0.L", "A1.L"),
        ("Q0.N", "A1.N"),
        ("Q0.L", "A1.COM"),
        ("A1.NO", "E1.1"),
        ("Q0.L", "R1.1"),
        ("R1.2", "E1.1"),
        ("E1.2", "Q0.N"),
    )


def uncalled_at(share: float) -> bool:
    """Whether an element that gets this share of its power past its switch is said to heat uncalled."""
    ohm = 52.9 * (1 / share**0.5 - 1)
    return any(o.verdict is FailureVerdict.UNCALLED for o in analyse(solver(past(ohm))).outcomes)


def bypassed(share: float) -> FailureVerdict:
    """The verdict on a bypass that stays open, which leaves an element this share of its power."""
    ohm = 52.9 * (1 / share**0.5 - 1)
    parts = (load(), part("R1", "resistor", ohm=ohm), part("S1", "estop", current_a=63.0))
    wiring = built(parts, ("Q0.L", "S1.1"), ("Q0.L", "R1.1"), ("S1.2", "E1.1"), ("R1.2", "E1.1"), ("E1.2", "Q0.N"))
    return next(o.verdict for o in analyse(solver(wiring)).outcomes if o.title == "S1 stays open")


def sharing(share: float):
    """Two elements behind a resistor: without the second, the first gets this share of the power it has beside it."""
    # v1 = R1/(R1 + Rs) alone, and less with E2 beside it; solved for Rs with E2 equal to E1
    low, high = 0.0, 52.9
    for _ in range(60):
        rs = (low + high) / 2
        alone, both = 52.9 / (52.9 + rs), 26.45 / (26.45 + rs)
        low, high = (rs, high) if (alone / both) ** 2 < share else (low, rs)
    series = part("R1", "resistor", ohm=rs - 230.0 / 1500.0)  # the supply's own impedance is part of it
    return built(
        (load(), load("E2"), series),
        ("Q0.L", "R1.1"),
        ("R1.2", "E1.1"),
        ("R1.2", "E2.1"),
        ("E1.2", "Q0.N"),
        ("E2.2", "Q0.N"),
    )


def relieved(share: float) -> FailureVerdict:
    """The verdict on the second of two such elements burnt out, after which the first gets this share of its power."""
    return next(o.verdict for o in analyse(solver(sharing(share))).outcomes if o.title == "E2 burns out")


def coil_at(share: float, start: bool = False) -> bool:
    """Whether a relay is in at this share of its coil's voltage, coming from rest or from being in."""
    wiring = built((part("K1", "relay", coil_v=230.0 / share),), ("Q0.L", "K1.A1"), ("K1.A2", "Q0.N"))
    circuit = solver(wiring)
    return "K1" in circuit.settled(ON, frozenset({"K1"}) if start else frozenset())


def runs_at(share: float) -> bool:
    return "A2" in solver(_limiter(230.0 / share)).settled(ON)


def _limiter(rated: float):
    return built((part("A2", "limiter", voltage_v=rated),), ("Q0.L", "A2.L"), ("A2.N", "Q0.N"))


def input_at(volts: float) -> bool:
    """Whether an SSR's input is on at this many volts."""
    parts = (
        part("A1", "controller_ssr", voltage_v=230.0, drive_v=volts * 1350.0 / 1200.0),
        part("V1", "ssr", current_a=25.0),
    )
    circuit = solver(built(parts, ("Q0.L", "A1.L"), ("Q0.N", "A1.N"), ("A1.OUT+", "V1.3+"), ("A1.OUT-", "V1.4-")))
    return "V1 input" in circuit.settled(ON)


def settles_s(kind: str, **ratings: float) -> float:
    terminals = ("A1", "A2") if kind != "limiter" else ("L", "N")
    wiring = built((part("K1", kind, **ratings),), ("Q0.L", f"K1.{terminals[0]}"), (f"K1.{terminals[1]}", "Q0.N"))
    return solver(wiring).solve(ON).time_s


def diode(volts: float) -> bool:
    """Whether a DC type that stands this many volts the wrong way round conducts by itself."""
    return bool(
        solver(
            built(
                (part("V1", "ssr", load_type="dc"), load(volts=volts)),
                ("Q0.+", "V1.2"),
                ("V1.1", "E1.1"),
                ("E1.2", "Q0.-"),
                supply=dc(volts),
            )
        ).uncontrolled
    )


def on_ac(volts: float) -> bool:
    supply = part("Q0", "supply_1ph", voltage_v=volts)
    return bool(
        solver(
            built(
                (part("V1", "ssr", load_type="dc"), load(volts=volts)),
                ("Q0.L", "V1.1"),
                ("V1.2", "E1.1"),
                ("E1.2", "Q0.N"),
                supply=supply,
            )
        ).uncontrolled
    )


def leaks(milliamps: float) -> bool:
    wiring = built(
        (part("F1", "rcd"), load(watts=0.23 * milliamps)),
        ("Q0.L", "F1.1"),
        ("Q0.N", "F1.3"),
        ("F1.2", "E1.1"),
        ("E1.2", "Q0.PE"),
    )
    return bool(solver(wiring).solve(ON).tripped)


def trips(times: float) -> bool:
    return bool(solver(behind(10.0, 10.0 * times)).solve(ON).tripped)


def trips_first(times: float) -> bool:
    """Whether a breaker opens before a relay cuts an overload of so many times its rating by its resting contact."""
    parts = (part("F1", "breaker", current_a=10.0), part("K1", "relay", coil_v=230.0), load(watts=2300.0 * times))
    wiring = built(
        parts,
        ("Q0.L", "F1.1"),
        ("F1.2", "K1.COM"),
        ("K1.NC", "E1.1"),
        ("E1.2", "Q0.N"),
        ("Q0.L", "K1.A1"),
        ("K1.A2", "Q0.N"),
    )
    return bool(solver(wiring).solve(ON).tripped)


def measured(
    value: float | None, watts: float = 60.0, state: str = "", a: str = "E1.1", b: str = "E1.2", **ratings: float | str
) -> bool:
    """Whether a reading over an element fits nothing being wrong; with the supply's wires off, so that it stands alone."""
    wiring = built(
        (load(watts=watts, **ratings), part("F1", "breaker", current_a=63.0)),
        ("Q0.L", "F1.1"),
        ("F1.2", "E1.1"),
        ("E1.2", "Q0.N"),
    )
    return next(s.fits for s in explain(solver(wiring), (Measured(a, b, value, state),)) if s.subject == "")


def place(about: str, wiring, **moved: str):
    return next(r for r in plan(solver(wiring)) if r.about == about)


def bridged(amps: float) -> bool:
    """Whether a wire that carries this share of the prospective current behind no breaker is called a short."""
    return any(f.rule == "circuit.short" for f in circuit_findings(solver(straight(load(watts=230.0 * amps)))))


def shell(count: int):
    """A generated rig of so many switches in its control circuit."""
    switches = tuple(part(f"S{i}", "switch") for i in range(1, count + 1))
    return added(
        generate(KILN, SSR),
        *((f"S{i}.1", "F2.2") for i in range(1, count + 1)),
        *((f"S{i}.2", "A2.L") for i in range(1, count + 1)),
        parts=switches,
    )


def live_terminals(wiring, name: str = "output on") -> frozenset[str]:
    return next(p.live for p in table(solver(wiring)) if p.name == name)


def low_live(volts: float, rated: float) -> bool:
    """Whether a point at this voltage counts as live in a rig whose control voltage is ``rated``."""
    share = volts / rated
    parts = (load("E1", 10.0, rated), load("E2", 10.0 * (1 / share - 1), rated))
    return "E2.1" in live_terminals(
        built(parts, ("Q0.+", "E1.1"), ("E1.2", "E2.1"), ("E2.2", "Q0.-"), supply=dc(rated))
    )


RELAY = Choice("K", Output.RELAY, Actuator.RELAY, False, Practice.IEC)
MODULE = Choice("K", Output.PIN, Actuator.RELAY, False, Practice.IEC)
STEPS = {
    Actuator.PHASE_ANGLE: (16.0, 25.0, 40.0, 60.0, 90.0, 125.0, 160.0, 250.0),
    Actuator.CONTACTOR: (20.0, 25.0, 32.0, 40.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 315.0, 400.0),
    Actuator.MOSFET: (10.0, 15.0, 30.0, 60.0, 100.0),
}


def steps(actuator: Actuator, share: float = 1.0) -> Pin:
    """Each rating is given up to itself, and the next beyond."""
    ratings = STEPS.get(actuator, (10.0, 25.0, 40.0, 60.0, 80.0, 100.0, 125.0))

    def holds() -> bool:
        given = all(actuator_rating(actuator, r * share * 0.999) == r for r in ratings)
        return given and not accepted(lambda a: actuator_rating(actuator, a))(ratings[-1] * share * 1.001)

    return holds


def dc_supply(watts: float) -> float:
    wiring = generate(purpose(watts, Supply.DC, 24.0), Choice("K", Output.SSR_DRIVE, Actuator.SSR, False, Practice.IEC))
    return wiring.part("Q0").number("current_a")


def module_a(watts: float) -> float:
    """What a module that feeds the controls gives, A, where a cooler's fan draws so much."""
    own = Controls(ControlsFedBy.MODULE, 24.0)
    fed = replace(purpose(1000.0), controls=own, cooler=Cooler(CooledBy.FAN, 100.0, watts))
    wiring = generate(fed, Choice("K", Output.RELAY, Actuator.RELAY, True, Practice.IEC))
    return wiring.part("G9").number("output_a")


def cooled_board() -> ConnectionList:
    fed = replace(purpose(1000.0), cooler=Cooler(CooledBy.FAN, 100.0, 20.0))
    return generate(fed, Choice("K", Output.PIN, Actuator.RELAY, True, Practice.IEC))


def wire(**values: float | str) -> Connection:
    return Connection(1, "A.1", "B.1", **values)  # type: ignore[arg-type]


def plain(parts: int = 0, wires: int = 0) -> dict:
    return {
        "parts": [{"name": f"H{i}", "kind": "terminal_block"} for i in range(1, parts + 1)],
        "wires": [
            {"number": i, "a": f"H{1 + i // 4}.{1 + i % 4}", "b": f"H{150 + i // 32}.{1 + i % 8}"}
            for i in range(1, wires + 1)
        ],
    }  # fmt: skip


PARALLEL = 4.0 / 230.0
PINS: dict[str, Pin] = {
    # rules
    "rules.currents.BARE_SSR_A": edge(lambda a: says(ssr_fed(230 * a, sink="none"), "wiring.ssr-sink"), 4.8, 5.2),
    "rules.currents.OVER": edge(lambda a: says(ssr_fed(230 * a, current_a=10.0), "wiring.ssr-overload"), 6.9, 7.4),
    "rules.currents.IDLE_V": edge(
        lambda v: says(
            built(
                (
                    part("A1", "controller_ssr", voltage_v=230.0, drive_v=v * 1350 / 1200),
                    part("V1", "ssr", current_a=25.0),
                ),
                ("Q0.L", "A1.L"),
                ("Q0.N", "A1.N"),
                ("A1.OUT+", "V1.3+"),
                ("A1.OUT-", "V1.4-"),
            ),
            "wiring.ssr-input",
        ),
        0.48,
        0.52,
    ),
    "rules.currents.STANDS_ON": edge(
        lambda s: says(star(300.0), "wiring.star-unbalanced", supply_voltage_v=3**0.5 * _highest() / s), 0.48, 0.52
    ),
    "rules.currents.FEEDS": edge(lambda s: says(_fed_lamp(s), "wiring.inrush"), 0.88, 0.92),
    "rules.currents.WITHIN": edge(
        lambda r: says(
            built(
                (part("F1", "fuse", current_a=63.0, voltage_v=230.0 / r), load()),
                ("Q0.L", "F1.1"),
                ("F1.2", "E1.1"),
                ("E1.2", "Q0.N"),
            ),
            "wiring.voltage-rating",
        ),
        1.095,
        1.105,
    ),
    "rules.logic.PIN_OVER": edge(lambda ma: says(on_pin(5.0 * ma / 1000), "wiring.pin-current"), 19.5, 21.0),
    "rules.logic.PIN_ABOVE_V": edge(lambda v: says(pin_at(v), "wiring.pin-voltage"), 5.48, 5.52),
    "rules.logic.PULL_UP_OHM": every(
        upto(lambda r: says(pulled_up(r), "wiring.active-low"), 480.0, 520.0),
        edge(lambda r: says(pulled_up(r), "wiring.active-low"), 48e3, 52e3),
    ),
    "rules.logic.FLYBACK_A": edge(lambda ma: says(on_transistor(ma), "wiring.flyback"), 0.95, 1.05),
    "rules.neutral.AT_NEUTRAL": upto(
        lambda s: says(divided(s, (part("S1", "switch", current_a=63.0),)), "wiring.neutral-switched"), 0.096, 0.104
    ),
    "rules.neutral.LIVE_BEHIND": edge(lambda s: says(bleeding(s), "wiring.neutral-switched"), 0.29, 0.31),
    "rules.neutral.LESS": edge(lambda s: says(_two_breakers(s), "wiring.breakers-apart"), 0.08, 0.12),
    "rules.neutral.CARRIES_A": edge(lambda ma: says(fused_neutral(0.23 * ma), "wiring.neutral-fused"), 0.95, 1.05),
    "rules.probes.OHM_TO_C": edge(lambda s: says(two_wire_pt100(s * 0.3 / 2.6), "wiring.rtd-leads"), 0.95, 1.05),
    "rules.probes.SHORT_LEADS_C": edge(lambda s: says(two_wire_pt100(s * 0.3 / 2.6), "wiring.rtd-leads"), 0.95, 1.05),
    "rules.power.PILOT_RATING_A": edge(lambda a: says(own_relay(a), "wiring.relay-overload"), 2.9, 3.1),
    "rules.power.SHORT": upto(lambda k: says(behind(10.0, 10.0 * k), "wiring.breaker-load"), 9.6, 10.4),
    "rules.power.SAME": edge(lambda a: says(behind(10.0, a), "wiring.breaker-load"), 9.9, 10.2),
    "rules.power.WITHIN": edge(lambda r: says(straight(load(volts=230.0 / r)), "wiring.load-voltage"), 1.095, 1.105),
    "rules.power.DROP_V": edge(
        lambda v: says(straight(load(volts=5.0 + v, watts=0.1), supply=dc(5.0)), "wiring.load-voltage"), 0.97, 1.03
    ),
    "rules.power.OFF_SHARE": edge(lambda s: says(divided(s), "wiring.load-voltage", "E2"), 0.048, 0.052),
    "rules.power.DELTA_WITHIN": upto(lambda d: _delta_said(3**0.5 + d), 0.095, 0.105),
    "rules.power.ROOT_3": lambda: _delta_said(1.74) and _delta_said(1.72),
    "rules.power.REVERSED_V": edge(lambda v: _reversed_said(v), 0.97, 1.03),
    "rules.power.DRIVE_A": edge(lambda v: says(inputs_on(v), "wiring.drive-budget"), 11.7, 12.3),
    "rules.power.SHARED_A": edge(lambda a: says(beside(a), "wiring.parallel-contacts"), 0.48, 0.52),
    "rules.power.AT_RETURN": edge(lambda s: says(_guarded_middle(s), "wiring.wire-breaker"), 0.096, 0.104),
    "rules.power.FEEDS_MOTOR": upto(lambda s: says(fed_motor(s), "wiring.motor-overload", "M1"), 0.48, 0.52),
    "rules.power.MOTOR_W": edge(lambda w: says(motor(w), "wiring.motor-overload"), 490.0, 510.0),
    "rules.power.MOTOR_SHARE": edge(lambda k: says(motor(1000.0, k * 1000 / 230), "wiring.motor-overload"), 1.22, 1.28),
    "rules.earth.CARRIES_A": edge(lambda ma: says(earth_return(0.23 * ma), "wiring.earth-carries"), 9.5, 10.5),
    "rules.earth.LIVE_SHARE": edge(lambda s: _coloured(s), 0.096, 0.104),
    "rules.earth.IEC_SAME_UP_TO_MM2": lambda: (
        iec_earth(15.9) == 15.9 and iec_earth(16.1) == 16.0 and iec_earth(34.0) == 16.0
    ),
    "rules.earth.IEC_HALF_FROM_MM2": lambda: iec_earth(34.0) == 16.0 and iec_earth(36.0) == 18.0,
    "rules.earth.NEC_EARTH_AWG": lambda: _nec_earths(),
    "rules.earth.NEC_EARTH_BEYOND_AWG": lambda: isclose(nec_earth(400.0), 26.67, rel_tol=0.01),
    "rules.earth.SLACK": upto(lambda a: says(earthed(a), "wiring.earth-size"), 3.8, 4.0),
    "rules.protective.EXTRA_LOW_VOLTAGE_AC": edge(
        lambda v: says(
            built(
                (load(volts=v), part("X1", "enclosure")),
                ("Q0.L", "E1.1"),
                ("E1.2", "Q0.N"),
                supply=part("Q0", "supply_1ph", voltage_v=v),
            ),
            "wiring.earth",
        ),
        49.0,
        51.0,
    ),
    "rules.protective.EXTRA_LOW_VOLTAGE_DC": edge(
        lambda v: says(straight(load(volts=v), supply=dc(v)), "wiring.no-enclosure"), 118.0, 122.0
    ),
    "rules.command.LOW": upto(lambda s: says(_limiter(230.0 / s), "wiring.supply-voltage"), 0.84, 0.86),
    "rules.command.HIGH": edge(lambda s: says(_limiter(230.0 / s), "wiring.supply-voltage"), 1.14, 1.16),
    "rules.command.NONE_SHARE": upto(lambda s: says(instrument(230.0, s * 1.15), "wiring.unpowered"), 0.048, 0.052),
    "rules.command.REVERSED_V": edge(lambda v: says(board(v, turned=True), "wiring.reversed"), 0.97, 1.03),
    "rules.supply.HEATS": edge(lambda s: says(_weak_on_rod(s), "wiring.disconnection"), 0.19, 0.21),
    "rules.control.PHASE_MISSING": every(
        edge(lambda s: says(three_phase(s), "wiring.lost-phase", supply_voltage_v=400.0), 0.195, 0.205),
        upto(lambda s: says(three_phase(s), "wiring.lost-phase", supply_voltage_v=400.0), 0.78, 0.82),
    ),
    "rules.tidy.MOST_AT_A_TERMINAL": edge(lambda n: says(crowd(int(n)), "wiring.crowded"), 2, 3),
    "insulation.INSULATIONS": lambda: (
        _coverings()
        == {"pvc": 70, "pvc_90": 90, "silicone": 180, "ptfe": 250, "glass": 400, "thermocouple": 400, "copper_pair": 70}
    ),
    "insulation.HOT_C": edge(lambda c: says(hot_wire("pvc"), "wiring.insulation", working_c=c), 98.0, 102.0),
    "insulation.MARGIN_C": lambda: (covering_at(149.0), covering_at(151.0)) == ("silicone", "ptfe"),
    "rules.currents.PLAIN_C": lambda: (
        says(hot_wire("pvc_90"), "wiring.insulation", working_c=150.0)
        and not says(hot_wire("silicone"), "wiring.insulation", working_c=150.0)
    ),
    # circuit
    "circuit.guards.TRIPS_AT": edge(trips, 1.43, 1.47),
    "circuit.guards.AT_ONCE": edge(trips_first, 4.9, 5.2),
    "circuit.guards.LEAKS_A": edge(leaks, 29.0, 31.0),
    "circuit.loads.PULL_IN": edge(coil_at, 0.84, 0.86),
    "circuit.loads.DROP_OUT": edge(lambda s: coil_at(s, start=True), 0.19, 0.21),
    "circuit.loads.RUNS": edge(runs_at, 0.79, 0.81),
    "circuit.loads.HEATS": edge(lambda s: "E1" in solver(straight(load(volts=230.0 / s))).settled(ON), 0.0195, 0.0205),
    "circuit.loads.SSR_ON_V": edge(input_at, 2.95, 3.05),
    "circuit.loads.DELAYS_S": lambda: _delays(),
    "circuit.solve.TRANSIT_S": near(lambda: settles_s("relay", coil_v=230.0), 0.012, 0.005),
    "circuit.solve.DIODE_V": edge(diode, 0.97, 1.03),
    "circuit.solve.AC_V": edge(on_ac, 2.9, 3.1),
    "circuit.findings.SHORT_SHARE": edge(bridged, 620.0, 700.0),
    "circuit.findings.SHORT_TIMES": edge(lambda k: _short_said(k), 9.6, 10.4),
    "circuit.findings.SAME_PATH": lambda: _on_the_path(0.78) == 2 and _on_the_path(0.82) == 3,
    "circuit.positions.LIVE_SHARE": edge(lambda s: "E2.1" in live_terminals(divided(s)), 0.096, 0.104),
    "circuit.positions.LIT_V": edge(lambda v: low_live(v, 12.0), 2.9, 3.1),
    "circuit.positions.LOW_V": lambda: not low_live(2.5, 23.5) and low_live(2.5, 24.4),
    "circuit.earthing.ROD_S": near(
        lambda: solver(_on_earth("tt")).solve(ON, trips=False).wires["wire 2"].amps, 2.29, 0.02
    ),
    "circuit.earthing.INSULATED_S": near(
        lambda: solver(_on_earth("it")).solve(ON, trips=False).wires["wire 2"].amps, 230e-6, 0.04
    ),
    "circuit.branches.CONTACT_OHM": near(
        lambda: Dead(solver(behind(10.0, 1.0))).ohms("F1.1", "F1.2").least or 0, 0.002, 0.02
    ),
    "circuit.branches.MOSFET_OHM": near(lambda: _transistor_ohm(), 0.02, 0.02),
    "circuit.branches.LEAKAGE_A": near(lambda: solver(ssr_fed(2300.0)).solve(OFF).wires["wire 6"].amps, 0.005, 0.02),
    "circuit.branches.PROSPECTIVE_A": near(lambda: _short_a(), 1500.0, 0.05),
    "circuit.branches.DC_SAG": near(
        lambda: (
            24.0
            - solver(straight(load(watts=24.0 * 6 * 0.98, volts=24 * 0.98), supply=dc(24.0, current_a=6.0)))
            .solve(ON)
            .loads["E1"]
            .volts
        ),
        0.48,
        0.04,
    ),
    "circuit.branches.DRIVE_V": near(lambda: _drive_volts(), 10.667, 0.01),
    "circuit.branches.DRIVE_OHM": near(lambda: _drive_volts(), 10.667, 0.005),
    "circuit.branches.SSR_INPUT_OHM": near(lambda: _drive_volts(), 10.667, 0.005),
    "circuit.branches.PIN_OHM": near(lambda: _pin_volts(), 4.6154, 0.004),
    "circuit.branches.LOGIC_RAIL_V": near(lambda: _pin_volts(), 4.6154, 0.004),
    "circuit.branches.LOW_INPUT_OHM": near(
        lambda: solver(pulled_up(10e3)).solve(OFF, Fault(opened=frozenset({"A1.5V A1.GND"}))).loads["K1 input"].volts,
        4.5454,
        0.004,
    ),
    "circuit.branches.BOARD_RAIL_A": near(lambda: _rail_drop(), 0.05, 0.04),
    "circuit.branches.COIL_W": near(
        lambda: (
            solver(built((part("K1", "relay", coil_v=230.0),), ("Q0.L", "K1.A1"), ("K1.A2", "Q0.N")))
            .solve(ON)
            .loads["K1"]
            .watts
        ),
        3.0,
        0.02,
    ),
    "circuit.branches.INSTRUMENT_W": near(lambda: solver(_limiter(230.0)).solve(ON).loads["A2"].watts, 4.0, 0.02),
    "circuit.branches.LOGIC_W": near(lambda: solver(board(5.0)).solve(ON).loads["A1"].watts, 0.3, 0.02),
    "circuit.branches.LOGIC_V": lambda: _display_w(11.8) < 0.4 and _display_w(12.2) > 3.5,
    "circuit.judge.WEAK": lambda: (
        bypassed(0.975) is FailureVerdict.NOTHING and bypassed(0.965) is FailureVerdict.WEAKER
    ),
    "circuit.judge.STRONG": lambda: (
        relieved(1.045) is not FailureVerdict.STRONGER and relieved(1.055) is FailureVerdict.STRONGER
    ),
    "circuit.judge.HOT": edge(uncalled_at, 0.0195, 0.0205),
    "circuit.judge.WALLS_WITHIN": lambda: (
        _walls(770.0) is FailureVerdict.UNCOVERED and _walls(815.0) is FailureVerdict.WARM
    ),
    "circuit.judge.HALF": lambda: _half(),
    "circuit.standings.MOST_TURNED": lambda: (
        (len(standings(shell(5)).all), standings(shell(5)).left_out) == (32, "") and len(standings(shell(6)).all) == 22
    ),
    "circuit.suspects.FAVOUR": lambda: _favoured(),
    "circuit.suspects.SWAPS_WITHIN": lambda: _swaps_found(),
    "circuit.meter.OHM_TOLERANCE": every(upto(measured, 890.6 * 1.097, 890.6 * 1.105)),
    "circuit.meter.LEAST_OHM": upto(lambda v: measured(v, a="F1.1", b="F1.2"), 0.97, 1.05),
    "circuit.meter.VOLT_TOLERANCE": upto(lambda v: measured(v, state="output on"), 230.0 * 1.058, 230.0 * 1.062),
    "circuit.meter.LEAST_V": upto(lambda v: measured(v, a="F1.1", b="F1.2", state="output on"), 1.95, 2.05),
    "circuit.dead.OPEN_OHM": upto(
        lambda ohm: _ohms(load(watts=230**2 * 1.01 / ohm), "E1").most is not None, 0.97e6, 1.03e6
    ),
    "circuit.dead.AC_COIL": lambda: _coil_range("supply", 176.3, 17_633.0),
    "circuit.dead.DC_COIL": lambda: _coil_range("dc", 0.8 * 192.0, 1.25 * 192.0),
    "circuit.dead.LAMP": lambda: isclose(
        _ohms(load("H1", 10.0, kind="lamp"), "H1").least or 0, 5290 / 15, rel_tol=0.01
    ),
    "circuit.dead.MODULE": lambda: (
        isclose(_module_ohms().least or 0, 0.3 * 9.6, rel_tol=0.01) and _module_ohms().most is None
    ),
    "circuit.dead.PTC": lambda: (
        lambda o: isclose(o.least or 0, 0.02 * 52.9, rel_tol=0.02) and isclose(o.most or 0, 529.0, rel_tol=0.02)
    )(_ohms(load(element="ptc"), "E1")),
    # lists, generation, names
    "choice.RELAY_RATING_A": edge(lambda a: not accepted(lambda x: actuator_rating(Actuator.RELAY, x))(a), 15.9, 16.1),
    "choice.MODULE_RATING_A": edge(lambda a: not accepted(lambda x: switch_rating(MODULE, x))(a), 9.9, 10.1),
    "choice.CONTACTOR_RATINGS_A": steps(Actuator.CONTACTOR),
    "choice.SSR_RATINGS_A": steps(Actuator.SSR, 0.7),
    "choice.SSR_SHARE": steps(Actuator.SSR, 0.7),
    "choice.MOSFET_RATINGS_A": steps(Actuator.MOSFET),
    "choice.PHASE_UNIT_RATINGS_A": steps(Actuator.PHASE_ANGLE),
    "choice.MOTOR_TIMES": lambda: isclose(switched_a(BOX), 3.0 * heater_current(BOX).value),
    "rules.currents.STARTS_S": lambda: at_start(part("M1", "compressor"))[2] == 0.5,
    "generate.STIFF": near(
        lambda: (
            generate(
                purpose(120_000.0, Supply.THREE_PHASE, 400.0),
                Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.IEC),
            )
            .part("Q0")
            .number("fault_a")
        ),
        25.0 * 200.0,
        0.05,
    ),
    "generate.DC_SUPPLIES_A": lambda: (
        [dc_supply(24.0 * (a / 1.25 * 0.96) - 10.0) for a in (1.0, 2.5, 5.0, 10.0, 20.0, 40.0)]
        == [1.0, 2.5, 5.0, 10.0, 20.0, 40.0]
    ),
    "generate.DC_RESERVE": lambda: (dc_supply(24.0 * 7.9 - 10.0), dc_supply(24.0 * 8.1 - 10.0)) == (10.0, 20.0),
    "generate.CONTROL_W": lambda: (dc_supply(24.0 * 0.79 - 10.0), dc_supply(24.0 * 0.81 - 10.0)) == (1.0, 2.5),
    "choice.LEAST_PLUG_A": edge(accepted(lambda a: check_choice(KILN, replace(SSR, plug_a=a))), 0.95, 1.05),
    "choice.LARGEST_PLUG_A": upto(accepted(lambda a: check_choice(KILN, replace(SSR, plug_a=a))), 245.0, 255.0),
    "generate.PULL_DOWN_OHM": lambda: cooled_board().part("R2").number("ohm") == 10_000.0,
    "generate.OWN_CONTROL_W": lambda: (module_a(2.9), module_a(3.1)) == (2.5, 5.0),
    "generate.NEC_HIGH_V": lambda: (
        (live_colours(Practice.NEC, 470.0)[0], live_colours(Practice.NEC, 490.0)[0]) == ("black", "brown")
    ),
    "generate.LOGIC_V": lambda: generate(purpose(500.0), MODULE).part("A1").number("voltage_v") == 5.0,
    "usual_circuits.PILOT_A": upto(
        accepted(lambda a: usual_circuits.usual(purpose(230.0 * a), RELAY, usual_circuits.Usual.THERMOSTAT)), 2.95, 3.05
    ),
    "listing.THINNEST_MM2": edge(accepted(lambda a: listing.check_wire(wire(area_mm2=a))), 0.048, 0.052),
    "listing.THICKEST_MM2": upto(accepted(lambda a: listing.check_wire(wire(area_mm2=a))), 390.0, 410.0),
    "listing.SHORTEST_M": edge(accepted(lambda m: listing.check_wire(wire(length_m=m))), 0.0095, 0.0105),
    "listing.LONGEST_M": upto(accepted(lambda m: listing.check_wire(wire(length_m=m))), 490.0, 510.0),
    "listing.LARGEST_NUMBER": upto(accepted(lambda n: listing.check_number(int(n))), 9999, 10_000),
    "listing.LONGEST_ROUTE": upto(accepted(lambda n: listing.check_wire(wire(route="x" * int(n)))), 40, 41),
    "listing.LONGEST_TEXT": upto(
        accepted(lambda n: listing.check_wire_row({"number": 1, "a": "x" * int(n), "b": "B.1"})), 80, 81
    ),
    "listing.LEAST_RATING": edge(accepted(lambda v: listing.check_ratings("heater", {"power_w": v})), 0.95e-6, 1.05e-6),
    "listing.LARGEST_RATING": upto(accepted(lambda v: listing.check_ratings("heater", {"power_w": v})), 0.98e7, 1.02e7),
    "listing.MOST_PARTS": upto(accepted(lambda n: listing.from_plain(plain(int(n)))), 200, 201),
    "listing.MOST_WIRES": upto(lambda n: _wires_taken(int(n)), 600, 601),
    "own_parts.LONGEST_TITLE": upto(accepted(lambda n: listing.check_labels("x" * int(n), {})), 60, 61),
    "own_parts.LONGEST_NUMBER": upto(accepted(lambda n: listing.check_labels("", {"1": "x" * int(n)})), 8, 9),
    "pasted.LARGEST_PASTE": upto(lambda n: "1…" in _paste_refused(int(n)), 200_000, 200_001),
    "defaults.USUAL_MM2": lambda: _new_wire().area_mm2 == 1.5,
    "defaults.MAINS_V": lambda: _new_rating() == 24.0,
    "model.USUAL_M": lambda: Connection.__dataclass_fields__["length_m"].default == 1.5 and _default_length(),
}
EXEMPT = {
    "circuit.network.TIE_S": "numerical: only makes floating islands solvable",
    "circuit.network.BRIDGE_S": "numerical: a joint without resistance to speak of",
    "circuit.network.NEAREST": "numerical: keeps a tap off an element's ends",
    "circuit.earthing.SOLID_S": "numerical: a joint without resistance to speak of",
    "circuit.branches.LEAST_OHM": "numerical bound",
    "circuit.branches.MOST_OHM": "numerical bound",
    "circuit.loads.HOLDS_A": "numerical: from where an SSR's drop is iterated",
    "circuit.loads.DIRECTLY": "numerical: direct volts and alternating ones on one module do not meet",
    "circuit.loads.LAW_FROM": "numerical bound of a load's law",
    "circuit.loads.LAW_TO": "numerical bound of a load's law",
    "circuit.loads.SSR_WITHIN": "numerical: how near an iteration comes",
    "circuit.loads.LAW_WITHIN": "numerical: how near an iteration comes",
    "circuit.loads.SLOW": "how much slower a coil is made to find a race: any large factor",
    "circuit.solve.NO_A": "numerical: below any coil or input, above the ties",
    "circuit.solve.NO_V": "numerical: below any coil or input, above the ties",
    "circuit.solve.EVENTS": "a budget: a circuit that has not come to rest by then chatters",
    "circuit.solve.SAME_S": "numerical",
    "circuit.solve.PEAK": "mathematics",
    "circuit.standings.MOST_EVENTS": "a budget of time; what is left out is said",
    "circuit.suspects.OPEN_MISFIT": "only that it is far above one tolerance",
    "circuit.suspects.UNDEFINED_MISFIT": "only that it is far above one tolerance",
    "circuit.dead.ALTERNATING_V": "numerical: above the solver's own residue",
    "circuit.netlist.MAINS_HZ": "what alternates is resistive here: any frequency gives the same volts",
    "circuit.failures.FRACTIONS": "where an element is tried: two places between its ends",
    "pasted.SHOWN": "how much of a cell a refusal repeats",
    "drawing.LARGE": "layout", "drawing.MOST_DRAWN": "layout", "drawing.MOST_RETURNING": "layout",
    "drawing.MOST_PINS": "layout", "drawing.PASSES": "layout",
    "rules.power.ROOT_3": "mathematics",
    "naming.LONGEST_NAME": "pinned by the API's test of names",
}  # fmt: skip
EXEMPT_UP = {"rules.currents.PLAIN_C": "no covering stands between 90 and 180 °C"}
"""Constants that only a nudge downwards can show."""


def _coverings() -> dict[str, float]:
    """What each covering stands, °C, as it is also written in its words."""
    return {
        key: top for key, (words, top) in insulation.INSULATIONS.items() if "°C" not in words or f"{top:g} °C" in words
    }


def _highest() -> float:
    """The highest volts on an element of that star, solved."""
    return max(t.volts for t in solver(star(300.0)).solve(ON).loads.values())


def _fed_lamp(share: float):
    """A halogen element, and a breaker that carries this share of its current: the rest has a way of its own."""
    other = load("E2", 1000.0 * share, element="wire")
    return built(
        (load(element="halogen"), other, part("F1", "breaker", current_a=6.0)),
        ("Q0.L", "E1.1"),
        ("E1.2", "Q0.N"),
        ("Q0.L", "F1.1"),
        ("F1.2", "E2.1"),
        ("E2.2", "Q0.N"),
    )


def _guarded_middle(share: float):
    """A breaker between two elements in series, at this share of the supply, and a thin wire behind it."""
    wiring = divided(share, (part("F1", "breaker", current_a=63.0),))
    thin = tuple(replace(w, area_mm2=0.5) if "F1.1" in (w.a, w.b) else w for w in wiring.connections)
    return ConnectionList(wiring.parts, thin)


def _two_breakers(share: float):
    """An element on two lives behind two breakers, each of which takes this share of its power when it opens: the rest stays by
    resistors past them."""
    supply = part("Q0", "supply_split", voltage_v=240.0)
    ohm = 57.6 * (1 / (1 - share) ** 0.5 - 1)
    parts = (
        load(volts=240.0),
        part("F1", "breaker", current_a=63.0),
        part("F2", "breaker", current_a=63.0),
        part("R1", "resistor", ohm=ohm),
        part("R2", "resistor", ohm=ohm),
    )
    pairs = [
        ("Q0.L1", "F1.1"),
        ("F1.2", "E1.1"),
        ("Q0.L2", "F2.1"),
        ("F2.2", "E1.2"),
        ("Q0.L1", "R1.1"),
        ("R1.2", "E1.1"),
        ("Q0.L2", "R2.1"),
        ("R2.2", "E1.2"),
    ]
    return built(parts, *pairs, supply=supply)


def _delta_said(ratio: float) -> bool:
    from tests.core.wiring.edges import findings

    return any(
        f.rule == "wiring.load-voltage" and "delta" in f.fix
        for f in findings(straight(load(watts=1.0, volts=230.0 / ratio)))
    )


def _reversed_said(volts: float) -> bool:
    from tests.core.wiring.edges import findings

    return any("reversed" in f.title for f in findings(reversed_drive(volts)))


def _coloured(share: float) -> bool:
    """Whether a green-yellow wire at this share of the supply is called live."""
    from tests.core.wiring.edges import findings

    return any(
        f.rule == "wiring.earth-colour" and "is live" in f.title
        for f in findings(divided(share, colour="green-yellow"))
    )


def _nec_earths() -> bool:
    published = (
        (14.9, 2.08),
        (15.0, 2.08),
        (15.2, 3.31),
        (20.0, 3.31),
        (20.3, 5.26),
        (60.0, 5.26),
        (61.0, 8.37),
        (100.0, 8.37),
        (101.0, 13.3),
        (200.0, 13.3),
        (201.0, 21.15),
        (300.0, 21.15),
        (301.0, 26.67),
    )
    return all(isclose(nec_earth(a), mm2, rel_tol=0.01) for a, mm2 in published)


def _weak_on_rod(share: float):
    """A heater that gives this share of its power on an earth rod without leakage breaker."""
    supply = part("Q0", "supply_1ph", voltage_v=230.0, earthing="tt")
    series = part("R1", "resistor", ohm=52.9 * (1 / share**0.5 - 1))
    parts = (part("F1", "breaker", current_a=16.0), load(), series, part("X1", "enclosure"))
    return built(
        parts, ("Q0.L", "F1.1"), ("F1.2", "E1.1"), ("E1.2", "R1.1"), ("R1.2", "Q0.N"), ("Q0.PE", "X1.PE"), supply=supply
    )


def _delays() -> bool:
    """Operate times from rest; release times from a supply that goes."""
    operate = {"relay": 0.012, "contactor": 0.025, "limiter": 0.5}
    on = all(
        isclose(settles_s(k, coil_v=230.0) if k != "limiter" else settles_s(k, voltage_v=230.0), t, rel_tol=0.02)
        for k, t in operate.items()
    )
    gone = Switching(output_on=True, power=False)
    release = {"relay": 0.007, "contactor": 0.015, "limiter": 0.1}
    off = True
    for kind, seconds in release.items():
        ends = ("L", "N") if kind == "limiter" else ("A1", "A2")
        rating = {"voltage_v": 230.0} if kind == "limiter" else {"coil_v": 230.0}
        circuit = solver(built((part("K1", kind, **rating),), ("Q0.L", f"K1.{ends[0]}"), (f"K1.{ends[1]}", "Q0.N")))
        off = off and isclose(circuit.solve(gone, start=frozenset({"K1"})).time_s, seconds, rel_tol=0.02)
    driven = solver(inputs_on(12.0, 1))
    started = driven.solve(ON, start=frozenset({"A1"})).time_s
    ended = driven.solve(OFF, start=frozenset({"A1", "V1 input"})).time_s
    module = solver(
        built(
            (part("G1", "power_module", voltage_v=230.0, output_v=5.0), part("K1", "relay_module", voltage_v=5.0)),
            ("Q0.L", "G1.L"),
            ("G1.N", "Q0.N"),
            ("G1.OUT+", "K1.VCC"),
            ("G1.OUT-", "K1.GND"),
        )
    )
    up = module.solve(ON).time_s
    down = module.solve(gone, start=frozenset({"G1", "K1"})).time_s
    low = solver(
        built((part("K1", "relay_module_low", voltage_v=5.0),), ("Q0.+", "K1.VCC"), ("Q0.-", "K1.GND"), supply=dc(5.0))
    )
    low_up, low_down = low.solve(ON).time_s, low.solve(gone, start=frozenset({"K1"})).time_s
    return (
        on and off and isclose(started, 0.010, rel_tol=0.02) and isclose(ended, 0.010, rel_tol=0.02)
        and isclose(up, 0.11, rel_tol=0.005) and isclose(down, 0.025, rel_tol=0.01)
        and isclose(low_up, 0.010, rel_tol=0.02) and isclose(low_down, 0.005, rel_tol=0.02)
    )  # fmt: skip


def _short_said(times: float) -> bool:
    found = circuit_findings(solver(behind(10.0, 10.0 * times)))
    return any("a short" in f.reason for f in found if f.rule == "circuit.trips")


def _on_the_path(share: float) -> int:
    """Wires said to be on the path of an overload: two that carry all of it and one that carries this share."""
    wiring = built(
        (part("F1", "breaker", current_a=5.0), load("E1", 2300.0 * share), load("E2", 2300.0 * (1 - share))),
        ("Q0.L", "F1.1"), ("F1.2", "E1.1"), ("F1.2", "E2.1"), ("E1.2", "E2.2"), ("E2.2", "Q0.N"),
    )  # fmt: skip
    said = next(f for f in circuit_findings(solver(wiring)) if f.rule == "circuit.trips")
    return len([s for s in said.subjects if s in ("wire 1", "wire 2", "wire 5")])


def _on_earth(earthing: str):
    return built(
        (load(watts=1e5),),
        ("Q0.L", "E1.1"),
        ("E1.2", "Q0.PE"),
        supply=part("Q0", "supply_1ph", voltage_v=230.0, earthing=earthing),
    )


def _transistor_ohm() -> float:
    parts = (
        part("V1", "mosfet", current_a=10.0),
        load(watts=120.0, volts=24.0),
        part("A1", "controller_ssr", voltage_v=24.0),
    )
    pairs = (
        ("Q0.+", "A1.L"),
        ("Q0.-", "A1.N"),
        ("A1.OUT+", "V1.SIG"),
        ("A1.OUT-", "V1.GND"),
        ("Q0.+", "V1.VIN+"),
        ("Q0.-", "V1.VIN-"),
        ("V1.OUT+", "E1.1"),
        ("V1.OUT-", "E1.2"),
    )
    through = solver(built(parts, *pairs, supply=dc())).solve(ON).paths["V1.OUT- V1.VIN-"]
    return through.volts / through.amps


def _short_a() -> float:
    wiring = built((part("S1", "switch"),), ("Q0.L", "S1.1"), ("S1.2", "Q0.N"))
    return solver(wiring).solve(ON).wires["wire 1"].amps


def _drive_volts() -> float:
    parts = (part("A1", "controller_ssr", voltage_v=230.0), part("V1", "ssr", current_a=25.0))
    return (
        solver(built(parts, ("Q0.L", "A1.L"), ("Q0.N", "A1.N"), ("A1.OUT+", "V1.3+"), ("A1.OUT-", "V1.4-")))
        .solve(ON)
        .loads["V1 input"]
        .volts
    )


def _pin_volts() -> float:
    parts = (part("A1", "microcontroller", voltage_v=5.0), part("V1", "ssr", current_a=25.0))
    return (
        solver(
            built(
                parts, ("Q0.+", "A1.5V"), ("Q0.-", "A1.GND"), ("A1.PWM3", "V1.3+"), ("A1.GND", "V1.4-"), supply=dc(5.0)
            )
        )
        .solve(ON)
        .loads["V1 input"]
        .volts
    )


def _rail_drop() -> float:
    """Volts that a board's own 5 V falls by under a quarter of an ampere."""
    parts = (part("A1", "microcontroller", voltage_v=5.0), load("H1", 1.2375, 4.95, "fan"))
    solved = solver(
        built(parts, ("Q0.+", "A1.RAW"), ("Q0.-", "A1.GND"), ("A1.5V", "H1.1"), ("H1.2", "A1.GND"), supply=dc(9.0))
    ).solve(ON)
    return 5.0 - solved.loads["H1"].volts


def _display_w(volts: float) -> float:
    return (
        solver(
            built((part("U1", "converter", voltage_v=volts),), ("Q0.+", "U1.VCC"), ("Q0.-", "U1.GND"), supply=dc(volts))
        )
        .solve(ON)
        .loads["U1"]
        .watts
    )


def _walls(weakest_c: float) -> FailureVerdict:
    bare = solver(generate(KILN, replace(SSR, limiter=False)))
    found = analyse(bare, Reaches(lambda watts: 20 + watts / 5, weakest_c))
    return next(o.verdict for o in found.outcomes if o.title == "V1 fails shorted")


def _half() -> bool:
    by = {o.title: o for o in analyse(solver(generate(KILN, SSR))).outcomes}
    return isclose(by["V1 conducts every other half-wave"].off_w, 0.5 * by["V1 fails shorted"].off_w, rel_tol=0.01)


def _favoured() -> bool:
    """A reading that a burnt-out element explains exactly, and that is 0.45 or 0.55 tolerances off what is right."""

    def first(tolerances: float) -> str:
        circuit = solver(sharing((1 + 0.06 * tolerances) ** 2))
        volts = circuit.solve(ON, Fault(opened=frozenset({"E2"}))).between("E1.1", "E1.2")
        return explain(circuit, (Measured("E1.1", "E1.2", volts, "output on"),))[0].subject

    return first(0.48) == "" and first(0.52) != ""


def _swaps_found() -> bool:
    """Wires swapped two wires away from what was measured are found, three away are not looked for."""
    parts = tuple(part(f"X{i}", "terminal_block") for i in range(1, 5))
    pairs = [
        ("Q0.L", "X1.1"),
        ("Q0.N", "X1.3"),
        ("X1.2", "X2.1"),
        ("X1.4", "X2.3"),
        ("X2.2", "X3.1"),
        ("X2.4", "X3.3"),
        ("X3.2", "X4.1"),
        ("X3.4", "X4.3"),
    ]
    titles = {s.title for s in explain(solver(built(parts, *pairs)), (Measured("X4.1", "X4.3", 1.0),))}
    return any("at X2" in t for t in titles) and not any("at X1" in t for t in titles)


def _coil_range(kind: str, least: float, most: float) -> bool:
    supply, ends = (
        (dc(24.0), ("Q0.+", "Q0.-")) if kind == "dc" else (part("Q0", "supply_1ph", voltage_v=230.0), ("Q0.L", "Q0.N"))
    )
    volts = supply.number("voltage_v")
    wiring = built((part("K1", "relay", coil_v=volts),), (ends[0], "K1.A1"), ("K1.A2", ends[1]), supply=supply)
    found = place("coil of K1", wiring).ohms
    return isclose(found.least or 0, least, rel_tol=0.02) and isclose(found.most or 0, most, rel_tol=0.02)


def _module_ohms():
    """Of 60 W at 24 V, its wires off."""
    return Dead(solver(built((part("E1", "turning_module", power_w=60.0, voltage_v=24.0),)))).ohms("E1.+", "E1.-")


def _ohms(one, name: str):
    return Dead(solver(straight(one))).ohms(f"{name}.1", f"{name}.2")


def _wires_taken(count: int) -> bool:
    """Whether a list of so many wires is refused for their number."""
    try:
        listing.from_plain(plain(200, count))
    except Refused as refused:
        return not any("parts and" in p.reason for p in refused.problems)
    return True


def _paste_refused(length: int) -> str:
    try:
        pasted.pasted(generate(KILN, SSR), "\n" * length, Practice.IEC)
    except Refused as refused:
        return refused.problems[0].accepted
    return ""


def _new_wire() -> Connection:
    from rellux.core.wiring.defaults import usual_wire

    return usual_wire((), (), "A.1", "B.1")


def _new_rating() -> float:
    from rellux.core.wiring.defaults import usual_ratings

    return float(usual_ratings("controller_ssr", 24.0)["voltage_v"])


def _default_length() -> bool:
    from rellux.core.wiring import model

    return model.USUAL_M == 1.5
