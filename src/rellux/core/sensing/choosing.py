"""Choosing a sensor: what each kind stands, in which atmosphere, how far off it may be, how fast its sheath follows.

Ranges of protected wire by diameter: ASTM E230 table 6, from memory. Atmospheres: ASTM MNL 12 and makers' guidance, from
memory. Sheaths, responses and prices: common practice, no source.
"""

from dataclasses import dataclass
from enum import StrEnum
from math import exp, log

import numpy as np

from ..messages import temperature
from .sensors import sensor_range, tolerance


class Atmosphere(StrEnum):
    """What surrounds the probe."""

    AIR = "air"
    WET = "wet"
    REDUCING = "reducing"
    SULPHUR = "sulphur"
    VACUUM = "vacuum"


class Medium(StrEnum):
    """What brings the heat to it."""

    STILL_AIR = "still_air"
    MOVED_AIR = "moved_air"
    WATER = "water"
    CLAMPED = "clamped"


@dataclass(frozen=True)
class Sensor:
    """``limit_c``: protected, continuous, in usual thickness. ``bad``: atmospheres that spoil it, and why. ``price`` 1…4."""

    key: str
    name: str
    low_c: float
    limit_c: float
    price: int
    bad: dict[Atmosphere, str]
    good: str


_NO_NOBLE = "metal vapours poison platinum: only inside a gas-tight ceramic tube"
SENSORS = (
    Sensor(
        "N",
        "Type N thermocouple",
        -200,
        1200,
        2,
        {Atmosphere.REDUCING: "its sheath must be gas-tight"},
        "steadier than K for years above {300 °C}",
    ),
    Sensor(
        "K",
        "Type K thermocouple",
        -200,
        1100,
        1,
        {
            Atmosphere.REDUCING: "green rot: it reads ever lower",
            Atmosphere.SULPHUR: "sulphur embrittles it",
            Atmosphere.VACUUM: "chromium leaves the wire: it drifts",
        },
        "every instrument reads it",
    ),
    Sensor(
        "J",
        "Type J thermocouple",
        0,
        650,
        1,
        {Atmosphere.WET: "its iron leg rusts", Atmosphere.SULPHUR: "iron corrodes above {540 °C}"},
        "large signal, also in vacuum",
    ),
    Sensor("T", "Type T thermocouple", -200, 350, 1, {}, "accurate and unbothered by moisture at low temperature"),
    Sensor(
        "E",
        "Type E thermocouple",
        -200,
        800,
        2,
        {Atmosphere.REDUCING: "as type K", Atmosphere.SULPHUR: "as type K", Atmosphere.VACUUM: "as type K"},
        "the largest signal of all",
    ),
    Sensor(
        "S",
        "Type S thermocouple",
        0,
        1450,
        4,
        {a: _NO_NOBLE for a in (Atmosphere.REDUCING, Atmosphere.SULPHUR, Atmosphere.VACUUM)},
        "steady at kiln temperatures",
    ),
    Sensor(
        "R",
        "Type R thermocouple",
        0,
        1450,
        4,
        {a: _NO_NOBLE for a in (Atmosphere.REDUCING, Atmosphere.SULPHUR, Atmosphere.VACUUM)},
        "as S, slightly larger signal",
    ),
    Sensor(
        "B",
        "Type B thermocouple",
        0,
        1700,
        4,
        {a: _NO_NOBLE for a in (Atmosphere.REDUCING, Atmosphere.SULPHUR, Atmosphere.VACUUM)},
        "for the hottest kilns; blind near room temperature",
    ),
    Sensor("Pt100", "Pt100, three wires", -100, 450, 2, {}, "the most accurate below {400 °C}"),
    Sensor("Pt1000", "Pt1000, two wires", -50, 300, 2, {}, "as Pt100, and long leads hardly matter"),
    Sensor(
        "NTC",
        "Thermistor 10 kΩ",
        -40,
        120,
        1,
        {Atmosphere.WET: "moisture creeps in unless sealed"},
        "finest steps over a narrow span",
    ),
)
SHEATHS = (
    ("austenitic stainless steel", 870.0),
    ("25-20 chromium-nickel steel", 1100.0),
    ("nickel-chromium-iron alloy", 1150.0),
    ("alumina ceramic, brittle", 1600.0),
)
STEEL_J_M3_K = 7900.0 * 490.0
FILM = {Medium.STILL_AIR: 15.0, Medium.MOVED_AIR: 100.0}
"""W/m²K of a thin rod in air."""
_WATER_MM, _WATER_S = (1.5, 3.0, 6.0), (0.2, 0.5, 2.0)


def response_s(diameter_mm: float, medium: Medium) -> float:
    """63 % response in s of a metal-sheathed probe: ``ρ c d / 4h`` in air; in stirred water between typical values."""
    if medium in FILM:
        return STEEL_J_M3_K * diameter_mm / 1000.0 / (4.0 * FILM[medium])
    in_water = exp(float(np.interp(log(diameter_mm), np.log(_WATER_MM), np.log(_WATER_S))))
    beyond = max(diameter_mm / _WATER_MM[-1], 1.0) ** 2 if diameter_mm > _WATER_MM[-1] else 1.0
    return in_water * beyond * (3.0 if medium is Medium.CLAMPED else 1.0)


def error_c(key: str, celsius: float) -> float | None:
    """Permitted error of a new one at ``celsius`` in ± °C, where its class covers it."""
    low, high = sensor_range(key)
    return tolerance(key, celsius) if low <= celsius <= high else None


def sheath_for(celsius: float) -> str | None:
    """The usual sheath that stands ``celsius``."""
    return next((name for name, limit in SHEATHS if celsius <= limit), None)


def faults(sensor: Sensor, lowest_c: float, highest_c: float, atmosphere: Atmosphere) -> list[str]:
    """Why this sensor would not do; empty when it would."""
    found = []
    if highest_c > sensor.limit_c:
        found.append(f"ends at {temperature(sensor.limit_c)}")
    if lowest_c < sensor.low_c:
        found.append(f"starts at {temperature(sensor.low_c)}")
    if atmosphere in sensor.bad:
        found.append(sensor.bad[atmosphere])
    return found


ALONG = {
    "pvc": ("PVC wire", 70.0),
    "terminal": ("Plastic terminal block", 100.0),
    "shrink": ("Heat-shrink", 120.0),
    "silicone": ("Silicone wire", 180.0),
    "solder": ("Soft solder", 170.0),
    "plug": ("Plastic thermocouple plug", 200.0),
    "ptfe": ("PTFE wire", 250.0),
    "glass": ("Glass-braid wire", 400.0),
    "ceramic_plug": ("Ceramic plug or terminal", 600.0),
    "nickel": ("Nickel crimp, mica or glass", 450.0),
    "fibre": ("Ceramic-fibre braid", 1000.0),
    "wool": ("Mineral-insulated sheath, stainless", 870.0),
}
"""What lies along a sensor's way, and what each stands for long in °C; common practice, no source (soft solder: 183 °C melts)."""
