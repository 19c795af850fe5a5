"""What switches the load: contacts, coils and semiconductors."""

from ...units import Kind
from ..model import Closed, PartType, Path, Rating, Role
from .shapes import CHANGEOVER, amps, left, pole_pairs, pole_terminals, right, volts

_COIL = (left("A1", Role.COIL), right("A2", Role.COIL))
_COIL_V = volts(230, "Coil voltage", "coil_v")
_SUPPRESSOR = Rating("suppressor", "Suppressor at the coil", None, "none", ("none", "fitted"))
_LOAD_TYPE = Rating("load_type", "Switches", None, "ac", ("ac", "dc"))
_FIRING = Rating("firing", "Turns on", None, "zero", ("zero", "random"))
_SINK = Rating("sink", "Heat sink", None, "fitted", ("fitted", "none"))
_INPUT_V = volts(4, "Input, least", "input_least_v"), volts(32, "Input, most", "input_most_v")
_LOGIC = (left("VCC", Role.SUPPLY_IN), left("GND", Role.DRIVE_MINUS), left("IN", Role.DRIVE_PLUS))


def _contactor(poles: int) -> PartType:
    kind, title = ("contactor", "Contactor") if poles == 1 else (f"contactor_{poles}p", f"Contactor, {poles} poles")
    paths = (*(Path(a, b, Closed.COIL) for a, b in pole_pairs(poles)), Path("A1", "A2", Closed.LOAD))
    terminals = (*pole_terminals(poles, Role.CONTACT), *_COIL)
    return PartType(
        kind, title, terminals, paths, of="contactor", ratings=(amps(25, "AC-1 current"), _COIL_V, _SUPPRESSOR)
    )


SWITCHES = (
    *(_contactor(poles) for poles in (1, 2, 3)),
    PartType(
        "relay",
        "Power relay",
        (
            left("COM", Role.CONTACT),
            right("NO", Role.CONTACT),
            right("NC", Role.CONTACT),
            *_COIL,
        ),
        (Path("COM", "NO", Closed.COIL), Path("COM", "NC", Closed.NOT_COIL), Path("A1", "A2", Closed.LOAD)),
        ratings=(amps(16), _COIL_V),
    ),
    PartType(
        "relay_module",
        "Relay module, input active high",
        (*_LOGIC, *CHANGEOVER),
        (Path("VCC", "GND", Closed.LOAD), Path("COM", "NO", Closed.DRIVEN), Path("COM", "NC", Closed.NOT_DRIVEN)),
        ratings=(amps(10), volts(5)),
    ),
    PartType(
        "relay_module_low",
        "Relay module, input active low",
        (*_LOGIC, *CHANGEOVER),
        (Path("VCC", "GND", Closed.LOAD), Path("COM", "NO", Closed.DRIVEN), Path("COM", "NC", Closed.NOT_DRIVEN)),
        ratings=(amps(10), volts(5)),
    ),
    PartType(
        "ssr",
        "Solid state relay",
        (
            left("1", Role.CONTACT),
            right("2", Role.CONTACT),
            left("3+", Role.DRIVE_PLUS),
            left("4-", Role.DRIVE_MINUS),
        ),
        (Path("1", "2", Closed.DRIVEN),),
        ratings=(amps(25), _LOAD_TYPE, _FIRING, _SINK, *_INPUT_V),
    ),
    PartType(
        "ssr_3p",
        "Solid state relay, three legs",
        (*pole_terminals(3, Role.CONTACT), left("A1+", Role.DRIVE_PLUS), left("A2-", Role.DRIVE_MINUS)),
        tuple(Path(a, b, Closed.DRIVEN) for a, b in pole_pairs(3)),
        of="ssr",
        ratings=(amps(25), _LOAD_TYPE, _FIRING, _SINK, *_INPUT_V),
    ),
    PartType(
        "phase_unit",
        "Phase-angle unit",
        (
            left("1", Role.CONTACT),
            right("2", Role.CONTACT),
            left("3+", Role.DRIVE_PLUS),
            left("4-", Role.DRIVE_MINUS),
        ),
        (Path("1", "2", Closed.DRIVEN),),
        of="ssr",
        ratings=(
            amps(25),
            Rating("load_type", "Switches", None, "ac", ("ac",)),
            Rating("input", "Set for", None, "4–20 mA", ("4–20 mA", "0–10 V")),
            volts(1, "Input, least", "input_least_v"),
            volts(24, "Input, most", "input_most_v"),
        ),
    ),
    PartType(
        "mosfet",
        "MOSFET board",
        (
            left("VIN+", Role.POWER),
            left("VIN-", Role.POWER),
            left("SIG", Role.DRIVE_PLUS),
            left("GND", Role.DRIVE_MINUS),
            right("OUT+", Role.POWER),
            right("OUT-", Role.POWER),
        ),
        (Path("VIN+", "OUT+", Closed.ALWAYS), Path("OUT-", "VIN-", Closed.DRIVEN)),
        of="ssr",
        ratings=(amps(10), Rating("load_type", "Switches", None, "dc", ("dc",))),
    ),
    PartType(
        "triac",
        "Triac board",
        (
            left("1", Role.CONTACT),
            right("2", Role.CONTACT),
            left("IN", Role.DRIVE_PLUS),
            left("GND", Role.DRIVE_MINUS),
        ),
        (Path("1", "2", Closed.DRIVEN),),
        of="ssr",
        ratings=(amps(8), Rating("load_type", "Switches", None, "ac", ("ac",))),
    ),
    PartType(
        "timer",
        "Timer relay",
        (left("A1", Role.COIL), left("A2", Role.COIL), *CHANGEOVER),
        (Path("A1", "A2", Closed.LOAD), Path("COM", "NO", Closed.COIL), Path("COM", "NC", Closed.NOT_COIL)),
        ratings=(amps(8), _COIL_V, Rating("delay_s", "Delay", Kind.TIME, 10.0)),
    ),
)
