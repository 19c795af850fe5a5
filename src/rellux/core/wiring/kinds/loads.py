"""What takes power: heaters and what tells or moves."""

from dataclasses import replace
from typing import Literal

from ...heating.elements import ELEMENT_KINDS
from ...units import Kind
from ..model import Closed, PartType, Path, Rating, Role
from ..names import Family
from .shapes import left, volts, watts

_ELEMENT = Rating("element", "Element", None, "wire", tuple(ELEMENT_KINDS))
_BLOWN = Rating("blown", "A fan or pump must carry its heat away", None, "no", ("no", "yes"))


_START = Rating("start_times", "Draws at start, times its current", Kind.RATIO, 5.0)
_OVERLOAD = Rating("overload", "Overload protection", None, "built in", ("built in", "none"))


def _load(kind: str, title: str, power: float, *ratings: Rating, of: Family | Literal[""] = "") -> PartType:
    return PartType(
        kind,
        title,
        (left("1", Role.POWER), left("2", Role.POWER)),
        (Path("1", "2", Closed.LOAD),),
        of=of,
        ratings=(watts(power), volts(230), *ratings),
    )


TURNS = "turning_module"
"""The kind of a thermo-electric module that heats, and cools with its current turned round."""
BESIDE = "chiller"
"""The kind of a compressor beside a heater."""
MOVES = ("fan", "solenoid", "motor", "pump", BESIDE, "cooling_module")
"""Kinds of load that take heat away, or move air or water: what a cooler beside a heater is, in the list."""
LOADS = (
    _load("heater", "Heater", 1000, _ELEMENT, _BLOWN),
    *(
        PartType(
            kind,
            title,
            tuple(left(n, Role.POWER) for n in ("1", "2", "3")),
            (Path("1", "2", Closed.LOAD), Path("2", "3", Closed.LOAD), Path("3", "1", Closed.LOAD)),
            of="heater",
            ratings=(watts(4500), volts(400), _BLOWN),
        )
        for kind, title in (("heater_3ph", "Heaters, three in star"), ("heater_3ph_delta", "Heaters, three in delta"))
    ),
    PartType(
        "compressor",
        "Compressor of a cooler",
        (left("1", Role.POWER), left("2", Role.POWER)),
        (Path("1", "2", Closed.LOAD),),
        of="heater",
        ratings=(watts(120), volts(230), _START),
    ),
    PartType(
        "fire_fan",
        "Fan of a fire",
        (left("1", Role.POWER), left("2", Role.POWER)),
        (Path("1", "2", Closed.LOAD),),
        of="heater",
        ratings=(watts(40), volts(230), replace(_START, usual=3.0)),
    ),
    _load("lamp", "Indicator lamp", 1),
    _load("fan", "Fan or blower", 20),
    _load("solenoid", "Solenoid valve", 12),
    _load("motor", "Motor", 250, _OVERLOAD),
    _load("pump", "Pump", 45, _OVERLOAD, of="motor"),
    _load(BESIDE, "Compressor beside a heater", 150, _OVERLOAD, _START, of="motor"),
    PartType(
        "cooling_module",
        "Thermo-electric module",
        (left("+", Role.POWER), left("-", Role.POWER)),
        (Path("+", "-", Closed.LOAD),),
        ratings=(watts(60), volts(24)),
    ),
    PartType(
        TURNS,
        "Thermo-electric module, turned round to cool",
        (left("+", Role.POWER), left("-", Role.POWER)),
        (Path("+", "-", Closed.LOAD),),
        of="heater",
        ratings=(watts(60), volts(24)),
    ),
    _load("buzzer", "Buzzer", 1),
    _load("beacon", "Beacon", 5),
    PartType(
        "snubber", "Suppressor (RC or diode)", (left("1", Role.CONTACT), left("2", Role.CONTACT)), ratings=(volts(250),)
    ),
)
