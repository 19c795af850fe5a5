"""What wires are covered with, and how hot that may get (data sheets, from memory)."""

from .model import Circuit, Connection

INSULATIONS: dict[str, tuple[str, float]] = {
    "pvc": ("PVC, 70 °C", 70.0),
    "pvc_90": ("heat-resistant PVC, 90 °C", 90.0),
    "silicone": ("silicone, 180 °C", 180.0),
    "ptfe": ("PTFE, 250 °C", 250.0),
    "glass": ("glass braid, 400 °C", 400.0),
    "thermocouple": ("thermocouple or extension wire", 400.0),
    "copper_pair": ("plain copper pair, PVC", 70.0),
}
"""Words and highest temperature in °C by key."""

ADVISED = {
    Circuit.POWER: "heat-resistant, 90 °C or more",
    Circuit.CONTROL: "300/500 V, 70 °C",
    Circuit.SENSOR: "as the sensor's own",
    Circuit.EARTH: "300/500 V, 70 °C",
}


def insulation_words(wire: Connection) -> str:
    """What the wire is covered with, or what its circuit needs where nobody said."""
    return INSULATIONS[wire.insulation][0] if wire.insulation else ADVISED[wire.circuit]
