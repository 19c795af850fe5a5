"""Where power comes from, and the rails it is turned into."""

from ..model import Closed, PartType, Path, Rating, Role
from .shapes import amps, left, pole_pairs, pole_terminals, right, volts

LIVES = tuple(right(name, Role.LIVE) for name in ("L1", "L2", "L3"))
RETURN = (right("N", Role.NEUTRAL), right("PE", Role.EARTH))
_IN = (left("VIN+", Role.SUPPLY_IN), left("VIN-", Role.SUPPLY_IN))
_OUT = (right("OUT+", Role.SUPPLY_IN), right("OUT-", Role.SUPPLY_IN))

_FAULT = amps(1500, "Prospective fault current", "fault_a")
_EARTHED = (Rating("earthing", "Earthing", None, "tn", ("tn", "tt", "it")), _FAULT)
_EARTHED_3 = (Rating("earthing", "Earthing", None, "tn", ("tn", "tt", "it", "corner", "high_leg")), _FAULT)

SUPPLIES = (
    PartType("supply_1ph", "Supply", (right("L", Role.LIVE), *RETURN), of="supply", ratings=(volts(230), *_EARTHED)),
    PartType(
        "supply_split", "Supply, split-phase", (*LIVES[:2], *RETURN), of="supply", ratings=(volts(240), *_EARTHED)
    ),
    PartType("supply_3ph", "Supply, three-phase", (*LIVES, *RETURN), of="supply", ratings=(volts(400), *_EARTHED_3)),
    PartType(
        "supply_dc",
        "DC supply",
        (right("+", Role.DC_PLUS), right("-", Role.DC_MINUS)),
        of="supply",
        ratings=(volts(24), amps(6)),
    ),
    PartType(
        "plug",
        "Plug and cord",
        pole_terminals(2, Role.POWER),
        tuple(Path(a, b, Closed.HAND) for a, b in pole_pairs(2)),
        ratings=(amps(16), volts(230), Rating("reversible", "Fits both ways round", None, "no", ("no", "yes"))),
    ),
    PartType(
        "power_module",
        "Supply module, mains to DC",
        (left("L", Role.SUPPLY_IN), left("N", Role.SUPPLY_IN), *_OUT),
        (Path("L", "N", Closed.LOAD),),
        ratings=(volts(230), volts(24, "Output voltage", "output_v"), amps(1.5, "Output current", "output_a")),
    ),
    PartType(
        "regulator",
        "Regulator",
        (*_IN, *_OUT),
        (Path("VIN+", "VIN-", Closed.LOAD), Path("VIN+", "OUT+", Closed.COIL), Path("VIN-", "OUT-", Closed.ALWAYS)),
        ratings=(
            volts(24),
            volts(5, "Output voltage", "output_v"),
            amps(1, "Output current", "output_a"),
            volts(7, "Input, least", "least_v"),
        ),
    ),
)
