"""A three-phase oven of three zones in 60 parts: what the speed of checking and drawing is measured on.

Every zone has its breaker, limiter contactor, SSR, star element, controller, limiter, two sensors, lamps, fan and terminals; all
of them hang on one isolator, one start circuit with emergency stop and door, and one logger.
"""

from rellux.core.purpose.purpose import Purpose, Supply
from rellux.core.wiring.library import PART_TYPES
from rellux.core.wiring.model import Circuit, Connection, ConnectionList, Part

PURPOSE = Purpose(150, 180, "seals", Supply.THREE_PHASE, 400, 13_500, 400)
LIVES = ("brown", "black", "grey")
MAINS = {"voltage_v": 230.0}


class _Rig:
    def __init__(self) -> None:
        self.parts: list[Part] = []
        self.wires: list[Connection] = []

    def part(self, name: str, kind: str, **ratings: float | str) -> None:
        self.parts.append(Part(name, PART_TYPES[kind], ratings))

    def wire(self, a: str, b: str, circuit: Circuit, area: float, colour: str) -> None:
        self.wires.append(Connection(len(self.wires) + 1, a, b, circuit, area, colour))

    def three(self, a: str, b: str, area: float = 2.5) -> None:
        """Three lives from one part to the next; ``a`` and ``b`` with the names of their terminals behind the dot."""
        (first, ones), (second, twos) = (x.split(".") for x in (a, b))
        for one, two, colour in zip(ones.split(","), twos.split(","), LIVES, strict=True):
            self.wire(f"{first}.{one}", f"{second}.{two}", Circuit.POWER, area, colour)

    def control(self, *pairs: tuple[str, str], colour: str = "brown") -> None:
        for a, b in pairs:
            self.wire(a, b, Circuit.CONTROL, 1.0, colour)

    def sensor(self, probe: str, instrument: str) -> None:
        self.wire(f"{probe}.+", f"{instrument}.IN+", Circuit.SENSOR, 0.5, "green")
        self.wire(f"{probe}.-", f"{instrument}.IN-", Circuit.SENSOR, 0.5, "white")

    def earth(self, a: str, b: str) -> None:
        self.wire(a, b, Circuit.EARTH, 6.0, "green-yellow")


def large_rig() -> ConnectionList:
    """All 60 parts and their wires."""
    rig = _Rig()
    _common(rig)
    for zone in (1, 2, 3):
        _zone(rig, zone)
    return ConnectionList(tuple(rig.parts), tuple(rig.wires))


def _common(rig: _Rig) -> None:
    rig.part("Q0", "supply_3ph", voltage_v=400.0)
    rig.part("S0", "isolator", current_a=40.0)
    rig.part("F0", "breaker_3p", current_a=32.0)
    rig.part("F4", "breaker", current_a=6.0)
    rig.part("S1", "estop", current_a=6.0)
    rig.part("S2", "door_switch", current_a=6.0)
    rig.part("S3", "pushbutton", current_a=6.0)
    rig.part("K9", "relay", current_a=16.0, coil_v=230.0)
    rig.part("K8", "timer", current_a=8.0, coil_v=230.0, delay_s=60.0)
    rig.part("X0", "earth_bar")
    rig.part("X1", "enclosure")
    rig.part("X8", "terminal_block")
    rig.part("A9", "logger", **MAINS)
    rig.part("B9", "thermocouple", sensor="K")
    rig.part("P1", "panel_meter", **MAINS)
    for name, kind in (
        ("H7", "lamp"),
        ("H8", "lamp"),
        ("H9", "beacon"),
        ("M9", "fan"),
        ("P2", "buzzer"),
        ("H6", "lamp"),
    ):
        rig.part(name, kind, power_w=5.0, **MAINS)
    rig.three("Q0.L1,L2,L3", "S0.1,3,5", 6.0)
    rig.three("S0.2,4,6", "F0.1,3,5", 6.0)
    rig.wire("F0.2", "F4.1", Circuit.POWER, 6.0, "brown")
    rig.control(("F4.2", "H7.1"), ("H7.1", "P1.L"), ("P1.L", "A9.L"), ("A9.L", "S1.1"))
    rig.control(("S1.2", "S2.1"), ("S2.1", "H6.1"), ("S2.2", "S3.1"), ("S3.1", "K9.COM"), ("S3.2", "K9.A1"))
    rig.control(("K9.NO", "K9.A1"), ("K9.NO", "H8.1"), ("H8.1", "K8.A1"), ("K8.A1", "X8.1"))
    rig.control(("K8.COM", "S1.1"), ("K8.NO", "M9.1"), ("X8.2", "X8.3"), ("H9.1", "P2.1"))
    neutral = ("H7.2", "P1.N", "A9.N", "H6.2", "K9.A2", "H8.2", "K8.A2", "M9.2", "H9.2", "P2.2", "X8.5")
    rig.control(*zip(("Q0.N", *neutral), neutral, strict=False), colour="blue")
    rig.control(("X8.6", "X8.7"), colour="blue")
    rig.sensor("B9", "A9")
    rig.earth("Q0.PE", "X0.1")
    rig.earth("X0.2", "X1.PE")


def _zone(rig: _Rig, n: int) -> None:
    live, neutral, out = f"X8.{'234'[n - 1]}", f"X8.{'678'[n - 1]}", f"X{n + 1}"
    rig.part(f"F{n}", "breaker_3p", current_a=16.0)
    rig.part(f"K{n}", "contactor_3p", current_a=20.0, coil_v=230.0, suppressor="fitted")
    rig.part(f"V{n}", "ssr_3p", current_a=25.0, load_type="ac")
    rig.part(out, "terminal_block")
    rig.part(f"E{n}", "heater_3ph", power_w=4500.0, voltage_v=400.0)
    rig.part(f"A{n}", "controller_ssr", **MAINS)
    rig.part(f"A{n + 3}", "limiter", **MAINS)
    rig.part(f"B{n}", "thermocouple", sensor="K")
    rig.part(f"B{n + 3}", "thermocouple", sensor="K")
    rig.part(f"H{n}", "lamp", power_w=2.0, **MAINS)
    rig.part(f"H{n + 9}", "lamp", power_w=2.0, **MAINS)
    rig.part(f"M{n}", "fan", power_w=10.0, **MAINS)
    rig.part(f"S{n + 3}", "thermal_fuse", current_a=10.0, opens_c=200.0)
    rig.three("F0.2,4,6" if n == 1 else f"F{n - 1}.1,3,5", f"F{n}.1,3,5", 6.0)
    rig.three(f"F{n}.2,4,6", f"K{n}.1,3,5")
    rig.three(f"K{n}.2,4,6", f"V{n}.1,3,5")
    rig.three(f"V{n}.2,4,6", f"{out}.1,3,5")
    rig.three(f"{out}.2,4,6", f"E{n}.1,2,3")
    rig.control(
        (live, f"A{n}.L"), (f"A{n}.L", f"A{n + 3}.L"), (f"A{n + 3}.L", f"M{n}.1"), (f"A{n + 3}.L", f"A{n + 3}.COM")
    )
    rig.control((f"A{n + 3}.OK", f"S{n + 3}.1"), (f"S{n + 3}.2", f"K{n}.A1"), (f"A{n + 3}.TRIP", f"H{n}.1"))
    rig.control((f"A{n + 3}.COM", f"A{n}.AL1"), (f"A{n}.AL2", f"H{n + 9}.1"))
    ends = (f"A{n}.N", f"A{n + 3}.N", f"M{n}.2", f"K{n}.A2", f"H{n}.2", f"H{n + 9}.2")
    rig.control(*zip((neutral, *ends), ends, strict=False), colour="blue")
    rig.control((f"A{n}.OUT+", f"V{n}.A1+"), colour="red")
    rig.control((f"A{n}.OUT-", f"V{n}.A2-"), colour="black")
    rig.sensor(f"B{n}", f"A{n}")
    rig.sensor(f"B{n + 3}", f"A{n + 3}")
