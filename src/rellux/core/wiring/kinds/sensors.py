"""What feels the temperature, and what its wires pass."""

from ...units import Kind
from ..model import Closed, PartType, Path, Rating, Role
from .shapes import left, pole_pairs, pole_terminals

_SENSOR = tuple("BEJKNRST")
_PLACE = Rating("place", "Its tip is at the", None, "chamber", ("chamber", "load", "heater"))


def _two_wire(kind: str, title: str, sensor: str) -> PartType:
    return PartType(
        kind,
        title,
        (left("A", Role.SENSOR_PLUS), left("B", Role.SENSOR_MINUS)),
        ratings=(Rating("sensor", "Sensor", None, sensor, (sensor,)), _PLACE),
    )


SENSORS = (
    PartType(
        "thermocouple",
        "Thermocouple",
        (left("+", Role.SENSOR_PLUS), left("-", Role.SENSOR_MINUS)),
        ratings=(
            Rating("sensor", "Type", None, "K", _SENSOR),
            Rating("junction", "Junction", None, "insulated", ("insulated", "grounded")),
            _PLACE,
        ),
    ),
    PartType(
        "pt100",
        "Pt100, 3-wire",
        (left("A", Role.SENSOR_PLUS), left("B", Role.SENSOR_MINUS), left("B2", Role.SENSOR)),
        ratings=(Rating("sensor", "Sensor", None, "Pt100", ("Pt100",)), _PLACE),
    ),
    _two_wire("pt1000", "Pt1000, 2-wire", "Pt1000"),
    _two_wire("thermistor", "Thermistor", "NTC"),
    PartType(
        "resistor",
        "Series resistor",
        (left("1", Role.SENSOR), left("2", Role.SENSOR)),
        ratings=(Rating("ohm", "Resistance", Kind.RESISTANCE, 10_000.0),),
    ),
    PartType(
        "slip_ring",
        "Slip rings",
        pole_terminals(2, Role.SENSOR),
        tuple(Path(a, b, Closed.ALWAYS) for a, b in pole_pairs(2)),
    ),
)
