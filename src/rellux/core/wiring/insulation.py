"""What wires are covered with, and how hot that may get (data sheets, from memory)."""

from .model import Circuit, Connection

INSULATIONS: dict[str, tuple[str, float]] = {
    "pvc": ("PVC, {70 °C}", 70.0),
    "pvc_90": ("heat-resistant PVC, {90 °C}", 90.0),
    "silicone": ("silicone, {180 °C}", 180.0),
    "ptfe": ("PTFE, {250 °C}", 250.0),
    "glass": ("glass braid, {400 °C}", 400.0),
    "thermocouple": ("thermocouple or extension wire", 400.0),
    "copper_pair": ("plain copper pair, PVC", 70.0),
}
"""Words and highest temperature in °C by key."""

HOT_C = 100.0
"""From this working temperature a heater's terminals are too hot for plain insulation (common practice, no source)."""
MARGIN_C = 30.0
"""How far above the working temperature a covering at the heater should stand (our choice)."""


def covering_at(working_c: float) -> str:
    """What to cover wires at a heater with: the first that stands its temperature; nothing special where it is not hot."""
    if working_c < HOT_C:
        return ""
    return next((key for key in ("silicone", "ptfe") if INSULATIONS[key][1] >= working_c + MARGIN_C), "glass")


ADVISED = {
    Circuit.POWER: "heat-resistant, {90 °C} or more",
    Circuit.CONTROL: "300/500 V, {70 °C}",
    Circuit.SENSOR: "as the sensor's own",
    Circuit.EARTH: "300/500 V, {70 °C}",
}


def insulation_words(wire: Connection) -> str:
    """What the wire is covered with, or what its circuit needs where nobody said."""
    return INSULATIONS[wire.insulation][0] if wire.insulation else ADVISED[wire.circuit]
