"""What every kind of part is electrically, written down anew for the oracle: contacts by what closes them, loads, actors.

Nothing here is taken from ``rellux.core.wiring.circuit`` or from the kinds' own paths: only a list's parts, their ratings and
their wires are read. Values are those of docs/netlist.md and of the field (typical, from memory).
"""

from dataclasses import dataclass

CONTACT_OHM, SWITCH_OHM = 0.002, 0.05
COIL_W, INSTRUMENT_W, BOARD_W = 3.0, 4.0, 0.3
INPUT_OHM, LOW_INPUT_OHM = 1200.0, 100_000.0
SINGLE = (("1", "2"),)
POLES = {
    "breaker": 1, "breaker_2p": 2, "breaker_3p": 3, "fuse": 1, "rcd": 2, "rcd_4p": 4, "switch": 1, "isolator": 3,
    "estop": 1, "door_switch": 1, "flow_switch": 1, "level_switch": 1, "thermal_fuse": 1, "cutout_manual": 1, "cutout_auto": 1, "plug": 2,
    "motor_breaker": 3,
}  # fmt: skip
"""Kinds closed in normal work, by their poles: 1-2, 3-4, …"""
ENCLOSED = {"terminal_block": 4, "slip_ring": 2}
COILED = {"contactor": 1, "contactor_2p": 2, "contactor_3p": 3}
CONTROLLERS = ("controller_relay", "controller_cascade", "controller_ssr", "controller_cascade_ssr", "microcontroller")


@dataclass(frozen=True)
class Contact:
    """Conducts while ``when`` says so: ``hand``, ``pressed``, ``coil``, ``rest``, ``call``, ``uncall``, ``alarm``, ``ok``,
    ``trip``, ``driven``, ``undriven``, ``always``."""

    part: str
    a: str
    b: str
    when: str
    ohm: float = CONTACT_OHM


@dataclass(frozen=True)
class Load:
    """A resistance. ``on_v``/``off_v``: from where it comes on and goes off; ``direct``: only with direct current this way."""

    part: str
    role: str
    a: str
    b: str
    ohm: float
    on_v: float
    off_v: float
    direct: bool = False


@dataclass(frozen=True)
class Source:
    """``when``: ``mains``, ``rail`` (its part is powered), ``call``, ``uncall``, ``cool``, ``uncool``."""

    part: str
    name: str
    a: str
    b: str
    volts: complex
    ohm: float
    dc: bool
    when: str


def poles(count: int) -> tuple[tuple[str, str], ...]:
    return tuple((str(2 * i + 1), str(2 * i + 2)) for i in range(count))


def contacts(kind: str, name: str) -> list[Contact]:
    def of(*paths: tuple[str, str, str], ohm: float = CONTACT_OHM) -> list[Contact]:
        return [Contact(name, f"{name}.{a}", f"{name}.{b}", when, ohm) for a, b, when in paths]

    if kind in POLES:
        return of(*((a, b, "hand") for a, b in poles(POLES[kind])))
    if kind in ENCLOSED:
        return of(*((a, b, "always") for a, b in poles(ENCLOSED[kind])))
    if kind in COILED:
        return of(*((a, b, "coil") for a, b in poles(COILED[kind])))
    changeover = {"relay": ("coil", "rest"), "timer": ("coil", "rest")}
    if kind in changeover:
        return of(("COM", "NO", "coil"), ("COM", "NC", "rest"))
    if kind in ("relay_module", "relay_module_low"):
        return of(("COM", "NO", "driven"), ("COM", "NC", "undriven"))
    if kind in ("pushbutton", "estop_no"):
        return of(("1", "2", "pressed"))
    if kind == "selector":
        return of(("1", "2", "hand"), ("3", "4", "pressed"))
    if kind in ("ssr", "triac"):
        return of(("1", "2", "driven"), ohm=SWITCH_OHM)
    if kind == "ssr_3p":
        return of(*((a, b, "driven") for a, b in poles(3)), ohm=SWITCH_OHM)
    if kind == "mosfet":
        return [*of(("VIN+", "OUT+", "always")), *of(("OUT-", "VIN-", "driven"), ohm=SWITCH_OHM)]
    alarm = of(("AL1", "AL2", "alarm"))
    if kind in ("controller_relay", "controller_cascade"):
        return [*of(("COM", "NO", "call"), ("COM", "NC", "uncall")), *alarm]
    if kind in ("controller_ssr", "controller_cascade_ssr"):
        return alarm
    if kind == "limiter":
        return of(("COM", "OK", "ok"), ("COM", "TRIP", "trip"))
    if kind == "logger":
        return of(("COM", "NC", "always"))
    if kind == "earth_bar":
        return of(*(("1", str(n), "always") for n in range(2, 7)))
    if kind == "regulator":
        return of(("VIN-", "OUT-", "always"))
    return []


def loads(kind: str, name: str, ratings: dict, supply_v: float, wired: set[str]) -> list[Load]:
    volts = float(ratings.get("voltage_v", supply_v))
    watts = float(ratings.get("power_w", 0.0))

    def load(role: str, a: str, b: str, ohm: float, on: float, off: float, direct: bool = False) -> Load:
        return Load(name, role, f"{name}.{a}", f"{name}.{b}", ohm, on, off, direct)

    if kind == "heater":
        return [load("heat", "1", "2", volts**2 / (watts or INSTRUMENT_W), 1e9, 1e9)]
    if kind == "turning_module":
        return [load("heat", "+", "-", volts**2 / (watts or INSTRUMENT_W), 1e9, 1e9, True)]
    if kind == "heater_3ph":
        ohm = volts**2 / (watts or 1000.0)
        return [Load(name, "heat", f"{name}.{n}", f"{name}!star", ohm, 1e9, 1e9) for n in "123"]
    if kind == "heater_3ph_delta":
        ohm = 3 * volts**2 / (watts or 1000.0)
        return [load("heat", a, b, ohm, 1e9, 1e9) for a, b in (("1", "2"), ("2", "3"), ("3", "1"))]
    if kind in (*COILED, "relay", "timer"):
        coil = float(ratings.get("coil_v", supply_v))
        return [load("coil", "A1", "A2", coil**2 / COIL_W, 0.85 * coil, 0.20 * coil)]
    if kind == "microcontroller":
        plus = "RAW" if f"{name}.RAW" in wired else "5V"
        return [load("power", plus, "GND", volts**2 / BOARD_W, 0.8 * volts, 0.8 * volts, True)]
    if kind in ("relay_module", "relay_module_low", "converter", "display"):
        found = [load("power", "VCC", "GND", volts**2 / (watts or BOARD_W), 0.8 * volts, 0.8 * volts, True)]
        if kind.startswith("relay_module"):
            ohm = LOW_INPUT_OHM if kind.endswith("low") else INPUT_OHM
            found.append(load("input", "IN", "GND", ohm, 3.0, 3.0, True))
        return found
    inputs = {"ssr": ("3+", "4-"), "ssr_3p": ("A1+", "A2-"), "mosfet": ("SIG", "GND"), "triac": ("IN", "GND")}
    if kind in inputs:
        return [load("input", *inputs[kind], INPUT_OHM, 3.0, 3.0, True)]
    if kind in ("lamp", "beacon", "buzzer", "fan", "solenoid", "motor", "pump"):
        return [load("other", "1", "2", volts**2 / (watts or INSTRUMENT_W), 1e9, 1e9)]
    if kind == "resistor":
        return [load("other", "1", "2", float(ratings.get("ohm", 10_000.0)), 1e9, 1e9)]
    if kind in ("limiter", "logger", "controller_analogue", "zero_cross", "panel_meter", "power_module") or (
        kind in CONTROLLERS
    ):
        return [load("power", "L", "N", volts**2 / INSTRUMENT_W, 0.8 * volts, 0.8 * volts)]
    if kind == "regulator":
        return [load("power", "VIN+", "VIN-", volts**2 / INSTRUMENT_W, 0.8 * volts, 0.8 * volts, True)]
    return []


def sources(kind: str, name: str, ratings: dict, wired: set[str]) -> list[Source]:
    volts = float(ratings.get("voltage_v", 230.0))
    fault_a = float(ratings.get("fault_a", 1500.0))
    middle = f"{name}!middle"
    turn = complex(-0.5, -(3**0.5) / 2)
    lives = {
        "supply_1ph": {"L": volts},
        "supply_split": {"L1": volts / 2, "L2": -volts / 2},
        "supply_3ph": {f"L{i + 1}": volts / 3**0.5 * turn**i for i in range(3)},
    }.get(kind)
    if lives:
        return [
            Source(name, f"{name} {live}", f"{name}.{live}", middle, complex(v), abs(v) / fault_a, False, "mains")
            for live, v in lives.items()
        ]
    if kind == "supply_dc":
        ohm = 0.02 * volts / float(ratings.get("current_a", 6.0))
        return [Source(name, name, f"{name}.+", f"{name}.-", volts, ohm, True, "mains")]
    if kind in ("regulator", "power_module"):
        out = float(ratings.get("output_v", 5.0))
        ohm = 0.02 * out / float(ratings.get("output_a", 1.0))
        return [Source(name, name, f"{name}.OUT+", f"{name}.OUT-", out, ohm, True, "rail")]
    if kind == "microcontroller":
        pin, volts_high = f"{name}.{ratings.get('output_pin', 'PWM3')}", float(ratings.get("pin_v", 5.0))
        high, low = ("uncall", "call") if ratings.get("active") == "low" else ("call", "uncall")
        rail = [Source(name, f"{name} rail", f"{name}.5V", f"{name}.GND", 5.0, 0.2, True, "rail")]
        cool = str(ratings.get("cooling_pin", "none"))
        cooler = [] if cool == "none" else [
            Source(name, f"{name} cool", f"{name}.{cool}", f"{name}.GND", volts_high, 100.0, True, "cool"),
            Source(name, f"{name} uncool", f"{name}.{cool}", f"{name}.GND", 0.0, 100.0, True, "uncool"),
        ]  # fmt: skip
        return [
            *cooler,
            Source(name, f"{name} high", pin, f"{name}.GND", volts_high, 100.0, True, high),
            Source(name, f"{name} low", pin, f"{name}.GND", 0.0, 100.0, True, low),
            *(rail if f"{name}.RAW" in wired else []),
        ]
    if kind in ("controller_ssr", "controller_cascade_ssr"):
        drive = float(ratings.get("drive_v", 12.0))
        return [Source(name, f"{name} drive", f"{name}.OUT+", f"{name}.OUT-", drive, 150.0, True, "call")]
    return []
