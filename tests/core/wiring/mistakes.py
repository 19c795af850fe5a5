"""Mistakes people make, each as a change to any list: what it is, which finding must name it, and where it cannot be made.

A change returns the changed list, or the reason in words why this list cannot have the mistake.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Connection, ConnectionList, Part
from tests.oracle.circuits import added, part

Changed = ConnectionList | str


@dataclass(frozen=True)
class Mistake:
    """``rule``: the finding that names it."""

    title: str
    rule: str
    make: Callable[[ConnectionList], Changed]


def has(wiring: ConnectionList, *names: str) -> bool:
    known = {p.name for p in wiring.parts}
    return set(names) <= known


def kind(wiring: ConnectionList, name: str) -> str:
    return next((p.type.kind for p in wiring.parts if p.name == name), "")


def rated(wiring: ConnectionList, name: str, **ratings: float | str) -> ConnectionList:
    parts = tuple(replace(p, ratings={**p.ratings, **ratings}) if p.name == name else p for p in wiring.parts)
    return ConnectionList(parts, wiring.connections)


def other(wiring: ConnectionList, name: str, kind: str, **ratings: float | str) -> ConnectionList:
    """A part taken for another kind; wires at terminals it does not have go."""
    new = Part(name, PART_TYPES[kind], ratings)
    known = {f"{name}.{t.name}" for t in new.type.terminals}
    kept = tuple(w for w in wiring.connections if all(e.partition(".")[0] != name or e in known for e in (w.a, w.b)))
    return ConnectionList(tuple(new if p.name == name else p for p in wiring.parts), kept)


def without(wiring: ConnectionList, *ends: str) -> ConnectionList:
    """The list without the wires at these terminals."""
    return ConnectionList(wiring.parts, tuple(w for w in wiring.connections if not {w.a, w.b} & set(ends)))


def gone(wiring: ConnectionList, *names: str) -> ConnectionList:
    """The list without these parts and their wires."""
    kept = tuple(w for w in wiring.connections if not {w.a.partition(".")[0], w.b.partition(".")[0]} & set(names))
    return ConnectionList(tuple(p for p in wiring.parts if p.name not in names), kept)


def at(wiring: ConnectionList, terminal: str) -> Connection:
    return next(w for w in wiring.connections if terminal in (w.a, w.b))


def into(wiring: ConnectionList, terminal: str, new: Part, first: str = "1", second: str = "2") -> ConnectionList:
    """A part cut into the first wire at a terminal, its second end at that terminal."""
    wire = at(wiring, terminal)
    far = wire.b if wire.a == terminal else wire.a
    kept = ConnectionList(wiring.parts, tuple(w for w in wiring.connections if w is not wire))
    start = max(w.number for w in wiring.connections) + 1
    ends = ((far, f"{new.name}.{first}"), (f"{new.name}.{second}", terminal))
    wires = tuple(replace(wire, number=start + i, a=a, b=b) for i, (a, b) in enumerate(ends))
    return ConnectionList((*kept.parts, new), (*kept.connections, *wires))


def moved(wiring: ConnectionList, old: str, new: str, only: str = "") -> ConnectionList:
    """Wires at one terminal taken to another; ``only``: those that come from here."""

    def take(w: Connection) -> Connection:
        if only and only not in (w.a, w.b):
            return w
        return replace(w, a=new if w.a == old else w.a, b=new if w.b == old else w.b)

    return ConnectionList(wiring.parts, tuple(map(take, wiring.connections)))


def wires(wiring: ConnectionList, end: str, **values: object) -> ConnectionList:
    """The wires at a terminal with other values."""
    changed = tuple(replace(w, **values) if end in (w.a, w.b) else w for w in wiring.connections)
    return ConnectionList(wiring.parts, changed)


def swapped(wiring: ConnectionList, one: str, two: str) -> ConnectionList:
    """The wires at two terminals exchanged."""
    ends = {one: two, two: one}
    changed = tuple(replace(w, a=ends.get(w.a, w.a), b=ends.get(w.b, w.b)) for w in wiring.connections)
    return ConnectionList(wiring.parts, changed)


NO_LIMITER, NO_MAINS, NO_AC = "it has no limiter", "its supply is extra-low voltage", "its supply is DC"
NO_HEATER, NO_SSR, NO_TC = "it has no heater", "it has no SSR", "its sensor is no thermocouple"
NO_BOARD, ONE_LIVE, NO_RELAY = "it has no board", "it has one live", "its output is no relay contact"
NEUTRAL_ENDS = ("Q0.N", "Q0.-")


def _dc(w: ConnectionList) -> bool:
    return kind(w, "Q0") == "supply_dc"


def _one_live(w: ConnectionList) -> bool:
    return kind(w, "Q0") == "supply_1ph"


def _neutral_end(w: ConnectionList) -> str:
    """The heater's end on the neutral, where it has one."""
    return "E1.2" if has(w, "E1") and _one_live(w) else ""


def needs(
    condition: Callable[[ConnectionList], bool], reason: str, make: Callable[[ConnectionList], Changed]
) -> Callable:
    return lambda w: make(w) if condition(w) else reason


def heated(make):
    return needs(lambda w: has(w, "E1"), NO_HEATER, make)


def mains(make):
    return heated(needs(lambda w: not _dc(w), NO_MAINS, make))


def limited(make):
    return needs(lambda w: has(w, "A2"), NO_LIMITER, make)


def one_live(make):
    return needs(lambda w: bool(_neutral_end(w)), "its heater has no end on a neutral", make)


def lives(make):
    return needs(lambda w: kind(w, "Q0") in ("supply_split", "supply_3ph") and has(w, "E1"), ONE_LIVE, make)


def ssr(make):
    return needs(lambda w: kind(w, "V1") in ("ssr", "ssr_3p"), NO_SSR, make)


def relay(make):
    return needs(
        lambda w: kind(w, "A1").startswith("controller_relay") or kind(w, "A1") == "controller_cascade", NO_RELAY, make
    )


def couple(make):
    return needs(lambda w: kind(w, "B1") == "thermocouple", NO_TC, make)


def board(make):
    return needs(lambda w: kind(w, "A1") == "microcontroller", NO_BOARD, make)


def _feed(w: ConnectionList) -> str:
    """A terminal of the instrument's or board's feed."""
    return "A1.5V" if kind(w, "A1") == "microcontroller" else "A1.L"


def _drive_end(w: ConnectionList) -> str:
    return {"ssr": "V1.3+", "ssr_3p": "V1.A1+", "mosfet": "V1.SIG"}.get(kind(w, "V1"), "")


def _no_breaker(w: ConnectionList) -> Changed:
    """Every pole of F1 bridged by wire: its terminals joined through."""
    poles = [t.name for t in w.part("F1").type.terminals]
    pairs = zip(poles[::2], poles[1::2], strict=True)
    kept = gone(w, "F1")
    ahead = {t: at(w, f"F1.{t}") for t in poles if any(f"F1.{t}" in (x.a, x.b) for x in w.connections)}
    ends = []
    for a, b in pairs:
        if a in ahead and b in ahead:
            near, far = (next(e for e in (ahead[t].a, ahead[t].b) if not e.startswith("F1.")) for t in (a, b))
            ends.append((near, far))
    return added(kept, *ends)


def _rcd_for_breaker(w: ConnectionList) -> Changed:
    if kind(w, "F1") not in ("breaker", "breaker_2p"):
        return "a leakage breaker of three poles is not in the library"
    if kind(w, "F1") == "breaker_2p":
        return other(w, "F1", "rcd", current_a=40.0)
    rcd = other(w, "F1", "rcd", current_a=40.0)
    return added(moved(rcd, "Q0.N", "F1.4", "E1.2"), ("Q0.N", "F1.3"))


def _pe_return(w: ConnectionList) -> Changed:
    return moved(w, "Q0.N", "Q0.PE", "E1.2")


def _limiter_in_drive(w: ConnectionList) -> Changed:
    """The limiter's contact in the actuator's command, its contactor bridged away."""
    if not _drive_end(w):
        return "its actuator has no drive"
    past = gone(w, "K0")
    poles = [t for t in w.part("K0").type.terminals if t.name.isdigit()]
    ends = []
    for a, b in zip(poles[::2], poles[1::2], strict=True):
        into_, out = (at(w, f"K0.{t.name}") for t in (a, b))
        near, far = (next(e for e in (x.a, x.b) if not e.startswith("K0.")) for x in (into_, out))
        ends.append((near, far))
    past = without(added(past, *ends), "A2.COM", "A2.OK")
    wire = at(past, _drive_end(w))
    source = next(e for e in (wire.a, wire.b) if e != _drive_end(w))
    kept = ConnectionList(past.parts, tuple(x for x in past.connections if x is not wire))
    return added(kept, (source, "A2.COM"), ("A2.OK", _drive_end(w)))


def _selector_past(w: ConnectionList) -> Changed:
    ends = ("K0.1", "K0.2")
    more = [("K0.3", "K0.4"), ("K0.5", "K0.6")]
    parts = [part("S4", "selector")]
    pairs = [(ends[0], "S4.3"), ("S4.4", ends[1])]
    for i, (a, b) in enumerate(more, 5):
        if w.part("K0").type.terminal(a.partition(".")[2]):
            parts.append(part(f"S{i}", "selector"))
            pairs += [(a, f"S{i}.3"), (f"S{i}.4", b)]
    return added(w, *pairs, parts=tuple(parts))


def _alarm_across(w: ConnectionList) -> Changed:
    if not w.part("A1").type.terminal("AL1"):
        return "its controller has no alarm contact"
    return added(without(w, "A1.AL1", "A1.AL2"), ("A2.COM", "A1.AL1"), ("A1.AL2", "A2.OK"))


def _stop_in_feed(w: ConnectionList) -> Changed:
    """An emergency stop that only the controller is fed through; the limiter and its contactor are fed past it."""
    if kind(w, "A1") == "microcontroller":
        return into(w, "A1.5V", part("S9", "estop"))
    apart = moved(w, "A1.L", "F2.2", "A2.L") if has(w, "A2") else w
    apart = moved(apart, "A1.L", "F2.2", "A1.COM")
    return into(apart, "A1.L", part("S9", "estop"))


def _stop_in_drive(w: ConnectionList) -> Changed:
    end = _drive_end(w) or ("K1.IN" if kind(w, "K1") == "relay_module" else "K1.A1" if has(w, "K1") else "")
    return into(w, end, part("S9", "estop")) if end else "its heater is switched by the controller's own relay"


def _stop_on_beacon(w: ConnectionList) -> Changed:
    back = "Q0.-" if _dc(w) else "Q0.N"
    lamp = part(
        "H9", "beacon", power_w=5.0, voltage_v=w.part("Q0").number("voltage_v") if _one_live(w) or _dc(w) else 230.0
    )
    return added(w, ("F2.2", "S9.1"), ("S9.2", "H9.1"), ("H9.2", back), parts=(part("S9", "estop"), lamp))


def _direct(w: ConnectionList) -> Changed:
    """The heater's live through the controller's own relay."""
    if kind(w, "K1") != "relay":
        return "its switch is no single relay"
    if w.part("E1").number("power_w") < 3.0 * w.part("E1").number("voltage_v"):
        return "its heater is a load for a controller's own relay"
    past = without(w, "A1.COM", "A1.NO")
    return moved(moved(past, "K1.COM", "A1.COM"), "K1.NO", "A1.NO")


def _nc(w: ConnectionList) -> Changed:
    if kind(w, "K1") in ("relay", "relay_module"):
        return moved(w, "K1.NO", "K1.NC")
    if kind(w, "A1").startswith("controller_relay") or kind(w, "A1") == "controller_cascade":
        return moved(w, "A1.NO", "A1.NC")
    return "it switches with a semiconductor"


def _single_breakers(w: ConnectionList) -> Changed:
    """A breaker of its own for each live in the place of the one with all poles."""
    count = len(w.part("F1").type.terminals) // 2
    rating = w.part("F1").number("current_a")
    past = w
    names = [f"F1{chr(97 + i)}" for i in range(count)]
    parts = tuple(part(n, "breaker", current_a=rating, curve="B") for n in names)
    past = ConnectionList((*past.parts, *parts), past.connections)
    for i, n in enumerate(names):
        past = moved(moved(past, f"F1.{2 * i + 1}", f"{n}.1"), f"F1.{2 * i + 2}", f"{n}.2")
    return gone(past, "F1")


def _one_pole(w: ConnectionList) -> Changed:
    """The limiter's contactor with its last pole bridged past: one live is never switched."""
    poles = [t.name for t in w.part("K0").type.terminals if t.name.isdigit()]
    into_, out = (at(w, f"K0.{t}") for t in poles[-2:])
    near, far = (next(e for e in (x.a, x.b) if not e.startswith("K0.")) for x in (into_, out))
    return added(without(w, *(f"K0.{t}" for t in poles[-2:])), (near, far))


def _plugged(w: ConnectionList, **ratings: float | str) -> Changed:
    turned = {"Q0.L": "P9.2", "Q0.N": "P9.4"}
    ahead = tuple(replace(x, a=turned.get(x.a, x.a), b=turned.get(x.b, x.b)) for x in w.connections)
    start = max(x.number for x in w.connections) + 1
    feed = Connection(start, "Q0.L", "P9.1", area_mm2=2.5), Connection(start + 1, "Q0.N", "P9.3", area_mm2=2.5)
    return ConnectionList((*w.parts, part("P9", "plug", **ratings)), (*ahead, *feed))


def _single_pole_parts(w: ConnectionList) -> bool:
    return kind(w, "F1") in ("breaker", "fuse")


def _parallel(w: ConnectionList) -> Changed:
    """A second switch of the same kind beside the first, driven by the same command."""
    name = "V1" if has(w, "V1") else "K1" if has(w, "K1") else ""
    if not name:
        return "its heater is switched by the controller's own relay"
    twin = Part("X9", w.part(name).type, dict(w.part(name).ratings))
    ends = {e for x in w.connections for e in (x.a, x.b) if e.partition(".")[0] == name}
    return added(w, *((e, f"X9.{e.partition('.')[2]}") for e in sorted(ends)), parts=(twin,))


def _many_inputs(w: ConnectionList) -> Changed:
    if kind(w, "A1") == "microcontroller":
        return "its SSR hangs on a pin"
    plus = _drive_end(w)
    minus = {"V1.3+": "V1.4-", "V1.A1+": "V1.A2-"}[plus]
    parts = tuple(part(f"X{i}", "ssr", current_a=25.0) for i in (6, 7, 8, 9))
    pairs = [(plus, f"{p.name}.3+") for p in parts] + [(minus, f"{p.name}.4-") for p in parts]
    return added(w, *pairs, parts=parts)


def _flyback(w: ConnectionList) -> Changed:
    if kind(w, "V1") != "mosfet":
        return "it has no transistor"
    return added(
        w, ("V1.OUT+", "M9.1"), ("V1.OUT-", "M9.2"), parts=(part("M9", "solenoid", power_w=8.0, voltage_v=24.0),)
    )


def _motor(w: ConnectionList, **ratings: float | str) -> Changed:
    volts = w.part("Q0").number("voltage_v")
    ends = {"supply_1ph": ("F1.2", "Q0.N"), "supply_dc": ("F1.2", "Q0.-")}.get(kind(w, "Q0"), ("F1.2", "F1.4"))
    motor = part("M9", "motor", power_w=600.0, voltage_v=volts, **ratings)
    return added(w, (ends[0], "M9.1"), ("M9.2", ends[1]), parts=(motor,))


def _phase_lost(w: ConnectionList) -> Changed:
    return without(w, "E1.3") if kind(w, "Q0") == "supply_3ph" else "it is not three-phase"


def _sensor_third(w: ConnectionList) -> Changed:
    if kind(w, "B1") != "pt100" or kind(w, "A1") == "microcontroller":
        return "its sensor has no third wire"
    return moved(w, "A1.IN3", "A1.IN+")


def _legs_exchanged(w: ConnectionList) -> Changed:
    if kind(w, "B1") != "pt100" or kind(w, "A1") == "microcontroller":
        return "its sensor has no third wire"
    return swapped(w, "A1.IN+", "A1.IN-")


def _tc_input(w: ConnectionList) -> str:
    return "U1" if has(w, "U1") else "A1"


def _fan_in_drive(w: ConnectionList) -> Changed:
    blown = rated(w, "E1", blown="yes") if kind(w, "E1") == "heater" else "its heater is no blown one"
    if isinstance(blown, str):
        return blown
    end = _drive_end(w) or ("K1.IN" if kind(w, "K1") == "relay_module" else "K1.A1" if has(w, "K1") else "")
    return (
        into(blown, end, part("B9", "flow_switch")) if end else "its heater is switched by the controller's own relay"
    )


def _two_converters(w: ConnectionList) -> Changed:
    if not has(w, "U1"):
        return "it has no converter"
    parts = (part("U9", "converter", voltage_v=5.0), part("B9", "thermocouple", sensor="K", junction="grounded"))
    more = added(
        w, ("U1.VCC", "U9.VCC"), ("U1.GND", "U9.GND"), ("A1.IO1", "U9.CS"), ("B9.+", "U9.IN+"), ("B9.-", "U9.IN-"),
        parts=parts,
    )  # fmt: skip
    return rated(more, "B1", junction="grounded")


def _fuse(w: ConnectionList) -> Changed:
    if _dc(w):
        return rated(w, "F1", voltage_v=12.0)
    if kind(w, "F1") != "breaker":
        return "a fuse of several poles is not in the library"
    return other(w, "F1", "fuse", current_a=w.part("F1").number("current_a"), voltage_v=125.0)


def _block(w: ConnectionList) -> Changed:
    return into(w, "E1.1", part("X9", "terminal_block", current_a=1.0))


def _regulator_reversed(w: ConnectionList) -> Changed:
    return swapped(w, "G1.VIN+", "G1.VIN-") if kind(w, "G1") == "regulator" else "it has no regulator"


def _board_reversed(w: ConnectionList) -> Changed:
    return swapped(w, "A1.5V", "A1.GND")


def _mosfet_reversed(w: ConnectionList) -> Changed:
    return swapped(w, "V1.VIN+", "V1.VIN-") if kind(w, "V1") == "mosfet" else "it has no transistor"


def _wrong_ssr(w: ConnectionList) -> Changed:
    return rated(w, "V1", load_type="ac" if _dc(w) else "dc")


def _coil(w: ConnectionList) -> Changed:
    name = (
        "K0"
        if has(w, "K0")
        else "K1"
        if kind(w, "K1") in ("relay", "contactor", "contactor_2p", "contactor_3p")
        else ""
    )
    return rated(w, name, coil_v=w.part(name).number("coil_v") / 2) if name else "it has no coil"


def _starved_coil(w: ConnectionList) -> Changed:
    name = (
        "K0"
        if has(w, "K0")
        else "K1"
        if kind(w, "K1") in ("relay", "contactor", "contactor_2p", "contactor_3p")
        else ""
    )
    return rated(w, name, coil_v=w.part(name).number("coil_v") * 2) if name else "it has no coil"


def _on_relay(w: ConnectionList) -> Changed:
    """The SSR's input straight on a relay output's contact."""
    past = other(w, "A1", "controller_relay", contact_a=3.0, voltage_v=w.part("A1").number("voltage_v"))
    plus = _drive_end(w)
    minus = {"V1.3+": "V1.4-", "V1.A1+": "V1.A2-"}[plus]
    return added(past, ("A1.NO", plus), ("A1.COM", minus))


def _limiter_past(w: ConnectionList, a: str, b: str) -> ConnectionList:
    return added(w, (a, b))


MISTAKES = (
    Mistake("metal not earthed", "wiring.earth", mains(lambda w: without(w, "X1.PE"))),
    Mistake("no metal in the list", "wiring.no-enclosure", mains(lambda w: gone(w, "X1"))),
    Mistake("a fuse in the earth", "wiring.earth-broken", mains(lambda w: into(w, "X1.PE", part("F9", "fuse")))),
    Mistake("a switch in the earth", "wiring.earth-broken", mains(lambda w: into(w, "X1.PE", part("S9", "switch")))),
    Mistake("the earth thinner than its live", "wiring.earth-size", mains(lambda w: wires(w, "X1.PE", area_mm2=0.5))),
    Mistake("the earth as a return", "wiring.earth-carries", one_live(_pe_return)),
    Mistake("green-yellow on a live", "wiring.earth-colour", mains(lambda w: wires(w, "F1.2", colour="green-yellow"))),
    Mistake("neutral and earth joined", "wiring.neutral-earth", mains(lambda w: added(w, ("Q0.N", "X1.PE")))),
    Mistake(
        "a fuse in the neutral",
        "wiring.neutral-fused",
        one_live(lambda w: into(w, "E1.2", part("F9", "fuse", current_a=20.0))),
    ),
    Mistake(
        "a breaker in the neutral",
        "wiring.neutral-fused",
        one_live(lambda w: into(w, "E1.2", part("F9", "breaker", current_a=20.0))),
    ),
    Mistake(
        "a switch in the neutral",
        "wiring.neutral-switched",
        one_live(lambda w: into(w, "E1.2", part("S9", "switch", current_a=20.0))),
    ),
    Mistake("an SSR in the neutral", "wiring.neutral-switched", ssr(one_live(lambda w: _ssr_in_neutral(w)))),
    Mistake(
        "a thermal fuse in the neutral",
        "wiring.neutral-switched",
        one_live(lambda w: into(w, "E1.2", part("F9", "thermal_fuse", current_a=20.0))),
    ),
    Mistake(
        "an emergency stop in the neutral",
        "wiring.neutral-switched",
        one_live(lambda w: into(w, "E1.2", part("S9", "estop", current_a=20.0))),
    ),
    Mistake(
        "a fuse in the control's neutral",
        "wiring.neutral-fused",
        mains(needs(lambda w: has(w, "K0"), "no coil on the neutral", lambda w: into(w, "K0.A2", part("F9", "fuse")))),
    ),
    Mistake("no breaker", "wiring.overcurrent", mains(_no_breaker)),
    Mistake("a leakage breaker for a breaker", "wiring.overcurrent", mains(_rcd_for_breaker)),
    Mistake(
        "the control circuit without its fuse",
        "wiring.overcurrent",
        mains(lambda w: added(gone(w, "F2"), (at(w, "F2.1").a, at(w, "F2.2").b))),
    ),
    Mistake("a wire thinner than its breaker", "wiring.wire-breaker", heated(lambda w: wires(w, "E1.1", area_mm2=0.5))),
    Mistake(
        "a breaker smaller than its load",
        "wiring.breaker-load",
        heated(
            lambda w: rated(
                w,
                "F1",
                current_a=w.part("E1").number("power_w")
                / w.part("E1").number("voltage_v")
                / (1.7 if kind(w, "E1") == "heater_3ph" else 1.0)
                * 0.8,
            )
        ),
    ),
    Mistake("a fuse below its voltage", "wiring.voltage-rating", heated(_fuse)),
    Mistake("a terminal below its current", "wiring.contact-overload", heated(_block)),
    Mistake("two lives, two single breakers", "wiring.breakers-apart", lives(_single_breakers)),
    Mistake("the limiter leaves a live", "wiring.all-lives", lives(limited(_one_pole))),
    Mistake("no limiter", "wiring.limiter", heated(limited(lambda w: _unlimited(w)))),
    Mistake("the limiter jumpered", "wiring.limiter-place", heated(limited(lambda w: added(w, ("A2.COM", "A2.OK"))))),
    Mistake(
        "the limiter's contactor bridged", "wiring.limiter-place", heated(limited(lambda w: _bridged_contactor(w)))
    ),
    Mistake("the limiter in the drive only", "wiring.limiter-place", heated(limited(_limiter_in_drive))),
    Mistake("a selector past the limiter", "wiring.limiter-place", heated(limited(_selector_past))),
    Mistake("an alarm contact across the limiter", "wiring.limiter-place", heated(limited(_alarm_across))),
    Mistake("the limiter without a sensor", "wiring.no-sensor", limited(lambda w: without(w, "A2.IN+", "A2.IN-"))),
    Mistake("one leg at the limiter", "wiring.sensor-leg", limited(lambda w: without(w, "A2.IN-"))),
    Mistake("the limiter's input jumpered", "wiring.sensor-bridged", limited(lambda w: added(w, ("A2.IN+", "A2.IN-")))),
    Mistake(
        "both legs on one terminal",
        "wiring.sensor-bridged",
        couple(lambda w: moved(w, f"{_tc_input(w)}.IN-", f"{_tc_input(w)}.IN+")),
    ),
    Mistake("the limiter set for another type", "wiring.limiter-type", limited(lambda w: rated(w, "A2", sensor="S"))),
    Mistake(
        "the controller without a sensor",
        "wiring.no-sensor",
        needs(
            lambda w: kind(w, "A1") != "microcontroller" or has(w, "U1"),
            "a thermistor hangs on its pin",
            lambda w: gone(w, "B1"),
        ),
    ),
    Mistake(
        "one sensor for both",
        "wiring.limiter-sensor",
        limited(lambda w: added(without(w, "A2.IN+", "A2.IN-"), *_share(w))),
    ),
    Mistake(
        "a thermocouple reversed",
        "wiring.tc-polarity",
        couple(lambda w: swapped(w, f"{_tc_input(w)}.IN+", f"{_tc_input(w)}.IN-")),
    ),
    Mistake("extension in copper", "wiring.copper", couple(lambda w: wires(w, "B1.+", insulation="copper_pair"))),
    Mistake(
        "colours the wrong way",
        "wiring.tc-colours",
        couple(lambda w: wires(wires(w, "B1.+", colour=at(w, "B1.-").colour), "B1.-", colour=at(w, "B1.+").colour)),
    ),
    Mistake("a Pt100's legs exchanged", "wiring.rtd-order", _legs_exchanged),
    Mistake("a Pt100's third wire misplaced", "wiring.rtd-order", _sensor_third),
    Mistake("two grounded junctions", "wiring.tc-grounded", _two_converters),
    Mistake("an emergency stop on the beacon", "wiring.guard", heated(_stop_on_beacon)),
    Mistake("an emergency stop in the feed", "wiring.guard", heated(_stop_in_feed)),
    Mistake("an emergency stop in the drive", "wiring.guard", heated(_stop_in_drive)),
    Mistake(
        "an emergency stop jumpered",
        "wiring.guard",
        heated(lambda w: added(into(w, "F1.1", part("S9", "estop", current_a=63.0)), ("S9.1", "S9.2"))),
    ),
    Mistake(
        "an emergency stop that closes",
        "wiring.estop-no",
        heated(limited(lambda w: into(w, "K0.A1", part("S9", "estop_no")))),
    ),
    Mistake("air flow guarded in the drive", "wiring.fan-interlock", heated(_fan_in_drive)),
    Mistake(
        "a heater for half the voltage",
        "wiring.load-voltage",
        heated(
            lambda w: rated(
                w, "E1", voltage_v=w.part("E1").number("voltage_v") / 2, power_w=w.part("E1").number("power_w") / 4
            )
        ),
    ),
    Mistake("a coil for half the voltage", "wiring.load-voltage", heated(_coil)),
    Mistake("a coil for twice the voltage", "wiring.load-voltage", heated(_starved_coil)),
    Mistake(
        "an instrument for half the voltage",
        "wiring.supply-voltage",
        lambda w: rated(w, "A1", voltage_v=w.part("A1").number("voltage_v") / 2),
    ),
    Mistake(
        "a controller without supply",
        "wiring.unpowered",
        lambda w: without(w, "A1.GND" if kind(w, "A1") == "microcontroller" else "A1.N"),
    ),
    Mistake("an SSR of the wrong kind", "wiring.ssr-load", ssr(heated(_wrong_ssr))),
    Mistake(
        "an SSR's drive reversed",
        "wiring.ssr-drive",
        ssr(lambda w: swapped(w, _drive_end(w), {"V1.3+": "V1.4-", "V1.A1+": "V1.A2-"}[_drive_end(w)])),
    ),
    Mistake("an SSR on a bare contact", "wiring.ssr-drive", ssr(_on_relay)),
    Mistake("one end of a drive open", "wiring.floating-input", ssr(lambda w: without(w, _drive_end(w)))),
    Mistake("too many inputs on a drive", "wiring.drive-budget", ssr(_many_inputs)),
    Mistake("an SSR without its heat sink", "wiring.ssr-sink", ssr(lambda w: rated(w, "V1", sink="none"))),
    Mistake("an SSR too small", "wiring.ssr-overload", ssr(lambda w: rated(w, "V1", current_a=6.0))),
    Mistake(
        "a transistor too small",
        "wiring.ssr-overload",
        lambda w: rated(w, "V1", current_a=2.0) if kind(w, "V1") == "mosfet" else "it has no transistor",
    ),
    Mistake("two switches side by side", "wiring.parallel-contacts", heated(_parallel)),
    Mistake("the heater on the controller's relay", "wiring.relay-overload", relay(heated(_direct))),
    Mistake("the resting contact", "wiring.no-nc", heated(_nc)),
    Mistake(
        "a contactor too small", "wiring.contact-overload", heated(limited(lambda w: rated(w, "K0", current_a=1.0)))
    ),
    Mistake("a phase missing", "wiring.lost-phase", _phase_lost),
    Mistake("a plug too small", "wiring.plug-load", one_live(lambda w: _plugged(w, current_a=1.0))),
    Mistake(
        "a plug that fits both ways",
        "wiring.plug-reversible",
        one_live(lambda w: _plugged(w, current_a=16.0, reversible="yes")),
    ),
    Mistake(
        "no means of disconnection",
        "wiring.means",
        mains(
            needs(
                _single_pole_parts,
                "its breaker has all poles",
                lambda w: other(w, "F1", "fuse", current_a=w.part("F1").number("current_a"), voltage_v=500.0),
            )
        ),
    ),
    Mistake(
        "an earth rod and no leakage breaker", "wiring.disconnection", mains(lambda w: rated(w, "Q0", earthing="tt"))
    ),
    Mistake("energise to trip", "wiring.energise-to-trip", limited(heated(lambda w: moved(w, "A2.OK", "A2.TRIP")))),
    Mistake(
        "a cut-out that resets as the last resort",
        "wiring.auto-reset",
        heated(
            needs(
                lambda w: not has(w, "A2"),
                "it has a limiter",
                lambda w: into(w, "E1.1", part("F9", "cutout_auto", current_a=20.0)),
            )
        ),
    ),
    Mistake("a motor without protection", "wiring.motor-overload", heated(lambda w: _motor(w, overload="none"))),
    Mistake("a transistor reversed", "wiring.ssr-polarity", _mosfet_reversed),
    Mistake("a regulator reversed", "wiring.reversed", _regulator_reversed),
    Mistake("a board reversed", "wiring.reversed", board(_board_reversed)),
    Mistake("a coil on a transistor without its diode", "wiring.flyback", _flyback),
    Mistake(
        "plain covering on a hot terminal",
        "wiring.insulation",
        heated(
            needs(
                lambda w: any(x.insulation for x in w.connections),
                "it does not get hot",
                lambda w: wires(w, "E1.1", insulation="pvc"),
            )
        ),
    ),
    Mistake(
        "covering on a hot terminal unsaid",
        "wiring.insulation-unsaid",
        heated(
            needs(
                lambda w: any(x.insulation for x in w.connections),
                "it does not get hot",
                lambda w: wires(w, "E1.1", insulation=""),
            )
        ),
    ),
    Mistake(
        "an alarm wired and off",
        "wiring.alarm-off",
        needs(
            lambda w: w.part("A1").type.terminal("AL1") is not None,
            "its controller has no alarm",
            lambda w: rated(added(w, ("F2.2", "A1.AL1")), "A1", alarm="off"),
        ),
    ),
    Mistake(
        "a coil without suppressor", "wiring.suppressor", heated(limited(lambda w: rated(w, "K0", suppressor="none")))
    ),
    Mistake(
        "sensor beside heater wires",
        "wiring.bundle",
        heated(
            lambda w: wires(
                wires(w, "E1.1", route="duct 1"), "B1.A" if kind(w, "B1") != "thermocouple" else "B1.+", route="duct 1"
            )
        ),
    ),
    Mistake("a coil with one end open", "wiring.unconnected", limited(heated(lambda w: without(w, "K0.A2")))),
)


def _ssr_in_neutral(w: ConnectionList) -> Changed:
    """The SSR moved from the live to the neutral side of the element."""
    ahead = next(e for x in w.connections for e in (x.a, x.b) if "V1.1" in (x.a, x.b) and e != "V1.1")
    past = without(w, "V1.1", "V1.2")
    past = moved(past, "E1.2", "V1.1", "Q0.N")
    return added(past, (ahead, "E1.1"), ("E1.2", "V1.2"))


def _unlimited(w: ConnectionList) -> Changed:
    """The limiter and its contactor taken out, the power wired through."""
    poles = [t.name for t in w.part("K0").type.terminals if t.name.isdigit()]
    ends = []
    for a, b in zip(poles[::2], poles[1::2], strict=True):
        near, far = (
            next(e for e in (x.a, x.b) if not e.startswith("K0.")) for x in (at(w, f"K0.{a}"), at(w, f"K0.{b}"))
        )
        ends.append((near, far))
    fed = [x for x in w.connections if "A2.L" in (x.a, x.b) or "A2.COM" in (x.a, x.b)]
    source = next((e for x in fed for e in (x.a, x.b) if not e.startswith("A2.")), "")
    behind = [
        e
        for x in w.connections
        for e in (x.a, x.b)
        if x.a.startswith("A2.COM") and e == x.b and not e.startswith("A2.")
    ]
    past = gone(w, "A2", "B2", "K0", "K9", "S0", "S1")
    return added(past, *ends, *((source, e) for e in behind if e.partition(".")[0] in {p.name for p in past.parts}))


def _bridged_contactor(w: ConnectionList) -> Changed:
    poles = [t.name for t in w.part("K0").type.terminals if t.name.isdigit()]
    return added(w, *((f"K0.{a}", f"K0.{b}") for a, b in zip(poles[::2], poles[1::2], strict=True)))


def _share(w: ConnectionList) -> tuple[tuple[str, str], ...]:
    first, second = ("+", "-") if kind(w, "B1") == "thermocouple" else ("A", "B")
    return ((f"B1.{first}", "A2.IN+"), (f"B1.{second}", "A2.IN-"))
