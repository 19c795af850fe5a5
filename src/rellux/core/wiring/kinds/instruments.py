"""What measures, decides and shows."""

from ...sensing.sensors import NAMES
from ..model import Closed, PartType, Path, Rating, Role
from ..pins import ABILITIES, NO_PIN, OUTPUT_PINS
from .shapes import CHANGEOVER, amps, left, right, volts

_FEED = (left("L", Role.SUPPLY_IN), left("N", Role.SUPPLY_IN))
_INPUT = (right("IN+", Role.SENSOR_PLUS), right("IN-", Role.SENSOR_MINUS), right("IN3", Role.SENSOR))
_ON = Path("L", "N", Closed.LOAD)
_ALARM = (right("AL1", Role.CONTACT), right("AL2", Role.CONTACT))
_ALARM_CONTACT = Path("AL1", "AL2", Closed.ALARM)
_OWN_CONTACT = (Path("COM", "NO", Closed.OUTPUT), Path("COM", "NC", Closed.NOT_OUTPUT))
_PILOT = amps(3, "Own contact", "contact_a")
_SUPPLY = volts(230, "Supply")
_ISOLATED = Rating("input", "Sensor input", None, "isolated", ("isolated", "common"))
_LOGIC_SUPPLY = volts(5, "Supply")

COOLS = "cooling"
"""What an alarm contact is set to that a cooler beside the heater hangs on."""
_SECOND = (right("IN2+", Role.SENSOR_PLUS), right("IN2-", Role.SENSOR_MINUS))
_ALARM_SET = Rating("alarm", "Its alarm is", None, "high", ("high", "low", "deviation", COOLS, "off", "not fitted"))
_ALARM_REST = Rating("alarm_rest", "Its alarm contact without power", None, "closed", ("closed", "open"))
_SET_FOR = Rating("sensor", "Set for", None, "K", NAMES)
_DRIVE = (right("OUT+", Role.DRIVE_PLUS), right("OUT-", Role.DRIVE_MINUS))
_DRIVE_RATINGS = (
    volts(12, "Drive", "drive_v"),
    amps(0.03, "Drive, most", "drive_a"),
    Rating("mode", "Output is", None, "burst", ("burst", "phase")),
)
_LINEAR = Rating("mode", "Output is", None, "4–20 mA", ("4–20 mA", "0–10 V"))
_RELAY_RATINGS = (_SUPPLY, _PILOT, _ISOLATED, _ALARM_SET, _ALARM_REST)
_SSR_RATINGS = (_SUPPLY, *_DRIVE_RATINGS, _ISOLATED, _ALARM_SET, _ALARM_REST)
_LINEAR_RATINGS = (
    _SUPPLY,
    volts(10, "Output, most", "drive_v"),
    amps(0.02, "Output, most", "drive_a"),
    _LINEAR,
    _ISOLATED,
    _ALARM_SET,
    _ALARM_REST,
)

INSTRUMENTS = (
    PartType(
        "controller_relay",
        "Controller, relay output",
        (*_FEED, *CHANGEOVER, *_ALARM, *_INPUT),
        (*_OWN_CONTACT, _ALARM_CONTACT, _ON),
        ratings=_RELAY_RATINGS,
    ),
    PartType(
        "controller_ssr",
        "Controller, SSR drive",
        (*_FEED, *_DRIVE, *_ALARM, *_INPUT),
        (_ALARM_CONTACT, _ON),
        ratings=_SSR_RATINGS,
    ),
    PartType(
        "controller_linear",
        "Controller, linear output",
        (*_FEED, *_DRIVE, *_ALARM, *_INPUT),
        (_ALARM_CONTACT, _ON),
        of="controller_ssr",
        ratings=_LINEAR_RATINGS,
    ),
    PartType(
        "controller_cascade",
        "Controller, two sensors, relay",
        (*_FEED, *CHANGEOVER, *_ALARM, *_INPUT, *_SECOND),
        (*_OWN_CONTACT, _ALARM_CONTACT, _ON),
        of="controller_relay",
        ratings=_RELAY_RATINGS,
    ),
    PartType(
        "controller_cascade_ssr",
        "Controller, two sensors, SSR drive",
        (*_FEED, *_DRIVE, *_ALARM, *_INPUT, *_SECOND),
        (_ALARM_CONTACT, _ON),
        of="controller_ssr",
        ratings=_SSR_RATINGS,
    ),
    PartType(
        "controller_cascade_linear",
        "Controller, two sensors, linear output",
        (*_FEED, *_DRIVE, *_ALARM, *_INPUT, *_SECOND),
        (_ALARM_CONTACT, _ON),
        of="controller_ssr",
        ratings=_LINEAR_RATINGS,
    ),
    PartType(
        "controller_analogue",
        "Controller, 4–20 mA output",
        (*_FEED, right("mA+", Role.SENSOR), right("mA-", Role.SENSOR), *_INPUT),
        (_ON,),
        ratings=(_SUPPLY,),
    ),
    PartType(
        "limiter",
        "Independent limiter",
        (
            *_FEED,
            right("COM", Role.CONTACT),
            right("OK", Role.CONTACT),
            right("TRIP", Role.CONTACT),
            *_INPUT,
        ),
        (Path("COM", "OK", Closed.LIMIT_OK), Path("COM", "TRIP", Closed.LIMIT_TRIPPED), _ON),
        ratings=(_SUPPLY, _PILOT, _SET_FOR),
    ),
    PartType(
        "microcontroller",
        "Microcontroller board",
        (
            left("RAW", Role.POWER),
            left("5V", Role.SUPPLY_IN),
            left("GND", Role.DRIVE_MINUS),
            right("PWM3", Role.DRIVE_PLUS),
            right("AN1", Role.SENSOR_PLUS),
            right("REF", Role.SENSOR),
            right("AGND", Role.SENSOR_MINUS),
            *(right(pin, Role.SENSOR) for pin in ABILITIES if pin not in ("PWM3", "AN1")),
        ),
        (Path("5V", "GND", Closed.LOAD),),
        of="controller_ssr",
        ratings=(
            _LOGIC_SUPPLY,
            volts(5, "Pin voltage", "pin_v"),
            amps(0.02, "Pin current", "pin_a"),
            volts(7, "Raw input, least", "least_v"),
            volts(12, "Raw input, most", "most_v"),
            Rating("output_pin", "Heater output on", None, "PWM3", OUTPUT_PINS),
            Rating("active", "Its output works", None, "high", ("high", "low")),
            Rating("cooling_pin", "Cooler on", None, NO_PIN, (NO_PIN, *OUTPUT_PINS)),
        ),
    ),
    PartType(
        "converter",
        "Sensor converter board",
        (
            left("VCC", Role.SUPPLY_IN),
            left("GND", Role.SUPPLY_IN),
            *(left(pin, Role.SENSOR) for pin in ("CS", "DO", "CLK")),
            *_INPUT,
        ),
        (Path("VCC", "GND", Closed.LOAD),),
        ratings=(_LOGIC_SUPPLY, Rating("input", "Sensor input", None, "common", ("isolated", "common"))),
    ),
    PartType(
        "display",
        "Display, two-wire bus",
        (
            left("VCC", Role.SUPPLY_IN),
            left("GND", Role.SUPPLY_IN),
            left("SDA", Role.SENSOR),
            left("SCL", Role.SENSOR),
        ),
        (Path("VCC", "GND", Closed.LOAD),),
        ratings=(_LOGIC_SUPPLY,),
    ),
    PartType(
        "encoder",
        "Rotary encoder",
        tuple(left(pin, Role.SENSOR) for pin in ("A", "B", "SW", "GND")),
    ),
    PartType(
        "zero_cross",
        "Zero-cross detector",
        (
            left("L", Role.SUPPLY_IN),
            left("N", Role.SUPPLY_IN),
            right("VCC", Role.SENSOR),
            right("GND", Role.SENSOR),
            right("ZC", Role.SENSOR),
        ),
        (_ON,),
        ratings=(_SUPPLY,),
    ),
    PartType(
        "logger",
        "Data logger with contacts",
        (*_FEED, *CHANGEOVER, *_INPUT),
        (_ON, Path("COM", "NC", Closed.ALWAYS)),
        ratings=(_SUPPLY, _PILOT),
    ),
    PartType("panel_meter", "Panel volt or ampere meter", _FEED, (_ON,), ratings=(_SUPPLY,)),
    PartType(
        "current_transformer",
        "Current transformer",
        (right("S1", Role.SENSOR), right("S2", Role.SENSOR)),
        ratings=(
            amps(30, "Primary current"),
            Rating("ratio", "Turns ratio", None, "1000:1", ("500:1", "1000:1", "2000:1")),
        ),
    ),
)
