"""The caution of each danger that comes with a kind of rig, at the one station where it is met.

Common practice; the local code, the sheet of the material and a licensed person overrule.
"""

from dataclasses import dataclass

from ..spine import Station
from .purpose import Purpose, RigKind

K = RigKind
ALL = tuple(RigKind)
FIRED = (K.KILN, K.MUFFLE)
SOLDERED = (K.REFLOW_OVEN, K.REFLOW_PLATE, K.TOOL)
WET = (K.TANK, K.BOILER)
TOUCHED = (K.PLATE, K.REFLOW_PLATE, K.PRESS, K.BED, K.BAR, K.TOOL)
BLOWN = (K.BLOWER, K.DUCT)


@dataclass(frozen=True)
class Caution:
    """What is dangerous in a few words, and what is done about it. ``watched``: also where the rig only watches;
    ``lit``: also wherever a fire makes the heat, ``pumped``: also wherever a compressor cools beside the heater, whatever the kind."""

    key: str
    station: Station
    lead: str
    says: str
    kinds: tuple[RigKind, ...]
    watched: bool = False
    lit: bool = False
    pumped: bool = False

    def applies(self, kind: RigKind, purpose: Purpose) -> bool:
        """Whether it is met on a rig of this kind and purpose."""
        met = kind in self.kinds or (self.lit and purpose.fire is not None) or (self.pumped and purpose.has_compressor)
        return met and (self.watched or purpose.acts)


CAUTIONS = (
    Caution("clearance", Station.PARTS, "Room round what gets hot.",
            "Nothing that burns above, beside or under it, a fire extinguisher within reach but not behind it.",
            tuple(k for k in ALL if k not in (K.COLD, K.BOILER))),
    Caution("fibres", Station.WIRING, "Fibre and brick dust stay in the lungs.",
            "Wet the lining before it is cut for leads, wear a fitting mask, wipe, never sweep. Fibre that was hot may hold silica.",
            FIRED),
    Caution("damp", Station.WIRING, "Elements that stood in the damp leak to earth.",
            "Dry them for hours at low heat behind an earth-leakage breaker before they get full power.",
            (*FIRED, K.OVEN, K.TANK, K.BAR)),
    Caution("first-firing", Station.PROFILES, "The first firing drives out water and binder.",
            "Empty, slowly, extracted or outdoors, and watched: a lining that is hurried cracks.", FIRED),
    Caution("solvent", Station.PURPOSE, "Solvent vapour in a hot closed box explodes.",
            "A cabinet that dries it needs forced air, proved before the heat may come on, and is licensed work.",
            (K.DRYING, K.CABINET)),
    Caution("resin", Station.RUNS, "Resins and glues give off vapours while they set.",
            "Lead the air outside; a thick pour can boil and smoke by itself.", (K.CABINET, K.PRESS)),
    Caution("flux", Station.RUNS, "Flux smoke harms the lungs.",
            "Take it away at the board, not over the face; lead stays on fingers: wash before eating.", SOLDERED),
    Caution("plastic", Station.RUNS, "Molten plastic and its fumes.",
            "Extract where it comes out; a blocked nozzle spits: face and hands away from it while it heats.", (K.BAR, K.BED)),
    Caution("wax", Station.RUNS, "Wax and oil catch fire without a flame.",
            "Keep the limiter well below the flash point on the sheet, a lid beside it, and never water on it.", (K.TANK,)),
    Caution("dry", Station.GUARDING, "Run dry, it burns.",
            "A level or flow switch stops the heat before the heater or its probe is out of the liquid.", WET, ),
    Caution("pressure", Station.PURPOSE, "A closed vessel bursts.",
            "Safety valve, feed and inspection are the code's, and licensed work. Nothing here replaces them.", (K.BOILER,)),
    Caution("air", Station.WIRING, "Without its air it burns out in seconds.",
            "The heat goes off when the air stops, whatever the controller says, and the fan runs on until it is cool.", BLOWN),
    Caution("touch", Station.GUARDING, "It stays hot after the light is off.",
            "A label where it is touched, and a lamp that follows the temperature rather than the output.", TOUCHED, ),
    Caution("pinch", Station.RUNS, "Press plates crush as well as burn.",
            "Closing is by two hands and has its own emergency stop: that is machine safety, not temperature control.", (K.PRESS,)),
    Caution("charge", Station.WIRING, "Power supplies keep their charge.",
            "After unplugging wait, then measure, before the output is touched.", (K.REFLOW_PLATE, K.TOOL, K.BED)),
    Caution("vacuum", Station.RUNS, "Glass under vacuum can implode.",
            "A guard round the bell while it is pumped down and hot; let it cool before air is let in.", (K.BELL,)),
    Caution("gas", Station.PURPOSE, "Flame and fumes.",
            "Gas, solid fuel and flue are licensed work. A carbon monoxide alarm hangs where people are.", (K.FIRE,), True, True),
    Caution("embers", Station.GUARDING, "A fan that stops does not put a fire out.",
            "A limiter only takes its air: what burns burns on. Door, damper and fuel must be within reach while it is hot.", (),
            lit=True),
    Caution("refrigerant", Station.PURPOSE, "Refrigerant burns or suffocates.",
            "Its circuit is opened by the licensed only; do not drill a wall before the pipes in it are known.", (K.COLD,), True,
            pumped=True),
    Caution("thaw", Station.RUNS, "Water runs where it is warmer again.",
            "It drips when the box thaws: no electronics below it, and none switched on that comes out of it wet.", (K.COLD,), True),
)  # fmt: skip
