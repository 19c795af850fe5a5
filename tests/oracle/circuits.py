"""Circuits to judge: the usual ones, the demo rigs', and some that people add guards, alarms, selectors and rails to."""

from dataclasses import replace

from rellux.core.errors import Refused
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.choice import Actuator, Choice, Output
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part
from rellux.core.wiring.usual_circuits import Usual, usual

KILN = Purpose(515, 600, "slumps", Supply.SINGLE_PHASE, 230, 3200, 230)
CABINET = Purpose(60, 68, "clouds", Supply.SINGLE_PHASE, 230, 300, 230)
OVEN = Purpose(180, 220, "scorches", Supply.SINGLE_PHASE, 230, 1500, 230)
SHELL = Purpose(150, 180, "seals", Supply.THREE_PHASE, 400, 4500, 400)
DRYER = Purpose(90, 120, "scorches", Supply.SPLIT_PHASE, 240, 3600, 240)
PLATE = Purpose(65, 80, "oils", Supply.DC, 24, 110, 24)
SSR = Choice("N", Output.SSR_DRIVE, Actuator.SSR, True, Practice.IEC)
RELAY = Choice("Pt100", Output.RELAY, Actuator.RELAY, True, Practice.IEC)
CONTACTOR = Choice("K", Output.RELAY, Actuator.CONTACTOR, True, Practice.IEC)
MOSFET = Choice("NTC", Output.PIN, Actuator.MOSFET, False, Practice.IEC)
MODULE = Choice("K", Output.PIN, Actuator.RELAY, True, Practice.IEC)
RIGS = {
    "kiln": (KILN, SSR),
    "kiln bare": (KILN, replace(SSR, limiter=False)),
    "cabinet": (CABINET, replace(RELAY, limiter=False)),
    "cabinet relay": (CABINET, RELAY),
    "cabinet module": (CABINET, MODULE),
    "oven pin": (OVEN, replace(MODULE, actuator=Actuator.SSR)),
    "oven relay": (OVEN, replace(RELAY, sensor="K")),
    "shell": (SHELL, CONTACTOR),
    "shell ssr": (SHELL, replace(SSR, sensor="K")),
    "dryer": (DRYER, replace(SSR, sensor="K", practice=Practice.NEC)),
    "dryer contactor": (DRYER, replace(CONTACTOR, practice=Practice.NEC)),
    "plate": (PLATE, MOSFET),
    "plate limited": (PLATE, replace(MOSFET, limiter=True)),
}


def part(name: str, kind: str, **ratings: float | str) -> Part:
    return Part(name, PART_TYPES[kind], ratings)


def added(wiring: ConnectionList, *pairs: tuple[str, str], parts: tuple[Part, ...] = ()) -> ConnectionList:
    """The list with more parts and wires."""
    start = max((w.number for w in wiring.connections), default=0) + 1
    wires = tuple(Connection(start + i, a, b, Circuit.CONTROL, 1.5, "black") for i, (a, b) in enumerate(pairs))
    return ConnectionList((*wiring.parts, *parts), (*wiring.connections, *wires))


def through(wiring: ConnectionList, new: Part, first: str, second: str, into: str, out: str) -> ConnectionList:
    """A part cut into the wire between two terminals."""
    gone = next(w for w in wiring.connections if {w.a, w.b} == {first, second})
    kept = ConnectionList(wiring.parts, tuple(w for w in wiring.connections if w is not gone))
    return added(kept, (first, into), (out, second), parts=(new,))


def usual_circuits() -> dict[str, tuple[ConnectionList, float]]:
    """Every usual circuit that the rigs can have, with its control voltage."""
    found = {}
    for name, (purpose, choice) in RIGS.items():
        for key in (k for k in Usual if k is not Usual.FAN):  # a pump under another name
            try:
                found[f"{name}, {key.value}"] = usual(purpose, choice, key), purpose.control_voltage_v
            except Refused:
                continue
    return found


def dressed_circuits() -> dict[str, tuple[ConnectionList, float]]:
    """The kiln with what people add: stops, doors, thermal fuses, selectors, alarms, second elements."""
    kiln = usual(KILN, SSR, Usual.PARTS)
    start = usual(KILN, SSR, Usual.START)
    bare = usual(KILN, RIGS["kiln bare"][1], Usual.PARTS)
    coil = ("A2.OK", "K0.A1")
    second = part("E2", "heater", power_w=60.0, voltage_v=230.0)
    hand = added(kiln, ("F1.2", "S4.3"), ("S4.4", "K0.2"), parts=(part("S4", "selector"),))
    lists = {
        "stop in the coil": through(kiln, part("S9", "estop"), *coil, "S9.1", "S9.2"),
        "door in the drive": through(kiln, part("S9", "door_switch"), "A1.OUT+", "V1.3+", "S9.1", "S9.2"),
        "stop in the controller's feed": _feed_stop(kiln),
        "stop at the start button": through(start, part("S9", "estop"), "S1.2", "K9.A1", "S9.1", "S9.2"),
        "thermal fuse only": through(bare, part("F9", "thermal_fuse"), "V1.2", "E1.1", "F9.1", "F9.2"),
        "thermal fuse in the drive": through(bare, part("F9", "thermal_fuse"), "A1.OUT+", "V1.3+", "F9.1", "F9.2"),
        "selector past the limiter": hand,
        "alarm across the limiter": added(kiln, ("A2.COM", "A1.AL1"), ("A1.AL2", "A2.OK")),
        "alarm in the coil": _alarm_in_coil(kiln),
        "switch across the limiter": added(kiln, ("A2.COM", "S5.1"), ("S5.2", "A2.OK"), parts=(part("S5", "switch"),)),
        "small second element": added(kiln, ("K0.2", "E2.1"), ("E2.2", "Q0.N"), parts=(second,)),
        "second element past all": added(kiln, ("F1.2", "E2.1"), ("E2.2", "Q0.N"), parts=(second,)),
        "resting contact": _resting(kiln),
        "trip lets a relay in": added(
            kiln, ("A2.TRIP", "K7.A1"), ("K7.A2", "Q0.N"), ("K0.1", "K7.COM"), ("K7.NO", "K0.2"),
            parts=(part("K7", "relay", coil_v=230.0),),
        ),
    }  # fmt: skip
    return {f"kiln, {name}": (wiring, 230.0) for name, wiring in lists.items()}


def _feed_stop(kiln: ConnectionList) -> ConnectionList:
    """An emergency stop in the feed of the controller alone."""
    apart = ConnectionList(
        kiln.parts, tuple(replace(w, a="F2.2") if (w.a, w.b) == ("A1.L", "A2.L") else w for w in kiln.connections)
    )
    return through(apart, part("S9", "estop"), "F2.2", "A1.L", "S9.1", "S9.2")


def _alarm_in_coil(kiln: ConnectionList) -> ConnectionList:
    """The alarm's contact in series with the limiter's."""
    cut = ConnectionList(kiln.parts, tuple(w for w in kiln.connections if {w.a, w.b} != {"A2.OK", "K0.A1"}))
    return added(cut, ("A2.OK", "A1.AL1"), ("A1.AL2", "K0.A1"))


def _resting(kiln: ConnectionList) -> ConnectionList:
    """The contactor's coil through the resting contact of a relay that the alarm pulls in."""
    cut = ConnectionList(kiln.parts, tuple(w for w in kiln.connections if {w.a, w.b} != {"A2.OK", "K0.A1"}))
    relay = part("K7", "relay", coil_v=230.0)
    return added(
        cut,
        ("A2.OK", "K7.COM"),
        ("K7.NC", "K0.A1"),
        ("A1.L", "A1.AL1"),
        ("A1.AL2", "K7.A1"),
        ("K7.A2", "Q0.N"),
        parts=(relay,),
    )
