"""Choosing a sensor: what each kind stands, in which atmosphere, how far off it may be, how fast its sheath follows.

Ranges of protected wire by diameter: ASTM E230 table 6, of mineral-insulated probes: ASTM E608, both from memory. Atmospheres:
ASTM MNL 12 and makers' guidance, from memory. Sheaths, responses and prices: common practice, no source.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import exp, log

import numpy as np

from ..heating.wire import awg_diameter_mm
from ..messages import temperature
from .sensors import NOMINAL_OHM, sensor_range, tolerance
from .thermocouples import TYPES
from .tolerances import classes_of, permitted

CLASSED = (*TYPES, *NOMINAL_OHM)
IMMERSED_DIAMETERS = 10.0
"""How deep a probe goes into what it measures, in diameters of its sheath (common practice, no source)."""
SAME = 1.02
"""Wire and sheath are sold to a few hundredths."""


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


class Build(StrEnum):
    """How a thermocouple is made."""

    PROBE = "probe"
    WIRES = "wires"


class Junction(StrEnum):
    """How the junction sits in its sheath."""

    UNGROUNDED = "ungrounded"
    GROUNDED = "grounded"
    EXPOSED = "exposed"


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


NOBLE = ("R", "S", "B")
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
PROBE_LIMITS_C: dict[str, dict[float, float]] = {
    "K": {0.5: 700, 1.0: 700, 1.5: 920, 3.0: 1070, 4.5: 1150, 6.0: 1150},
    "N": {0.5: 700, 1.0: 700, 1.5: 920, 3.0: 1070, 4.5: 1150, 6.0: 1150},
    "J": {0.5: 260, 1.0: 260, 1.5: 440, 3.0: 520, 4.5: 620, 6.0: 720},
    "E": {0.5: 300, 1.0: 300, 1.5: 510, 3.0: 650, 4.5: 730, 6.0: 820},
    "T": {0.5: 260, 1.0: 260, 1.5: 260, 3.0: 315, 4.5: 350, 6.0: 370},
}
"""Hottest continuous use in °C of a mineral-insulated probe by its sheath in mm: ASTM E608 table 1, from memory."""
WIRE_LIMITS_C: dict[str, dict[int, float]] = {
    "K": {8: 1260, 14: 1090, 20: 980, 24: 870, 28: 870, 30: 760},
    "N": {8: 1260, 14: 1090, 20: 980, 24: 870, 28: 870, 30: 760},
    "J": {8: 760, 14: 590, 20: 480, 24: 370, 28: 370, 30: 320},
    "E": {8: 870, 14: 650, 20: 540, 24: 430, 28: 430, 30: 370},
    "T": {14: 370, 20: 260, 24: 200, 28: 200, 30: 150},
}
"""Hottest continuous use in °C of protected wires by AWG: ASTM E230 table 6, from memory."""
JUNCTION_FACTOR = {Junction.UNGROUNDED: 1.0, Junction.GROUNDED: 0.6, Junction.EXPOSED: 0.1}
"""Response in a liquid or clamped, against an ungrounded junction (typical of data sheets, from memory)."""
BEAD = 0.36
"""An exposed junction is about so thick against its sheath: two conductors of 0.18 of it (IEC 61515: 0.15 and more)."""
CLASS_ORDER = ("IEC class 2", "IEC class 3", "IEC class 1", "class B", "class A", "class AA")
"""Classes as sold in IEC countries, the usual ones first."""
STEEL_J_M3_K = 7900.0 * 490.0
FILM = {Medium.STILL_AIR: 15.0, Medium.MOVED_AIR: 100.0}
"""W/m²K of a thin rod in air."""
_WATER_MM, _WATER_S = (1.5, 3.0, 6.0), (0.2, 0.5, 2.0)


def response_s(diameter_mm: float, medium: Medium, junction: Junction = Junction.UNGROUNDED) -> float:
    """63 % response in s of a metal-sheathed probe: ``ρ c d / 4h`` in air; in stirred water between typical values. A grounded
    junction gains nothing in air, where the film decides."""
    exposed = junction is Junction.EXPOSED
    if medium in FILM:
        return STEEL_J_M3_K * diameter_mm * (BEAD if exposed else 1.0) / 1000.0 / (4.0 * FILM[medium])
    in_water = exp(float(np.interp(log(diameter_mm), np.log(_WATER_MM), np.log(_WATER_S))))
    beyond = max(diameter_mm / _WATER_MM[-1], 1.0) ** 2 if diameter_mm > _WATER_MM[-1] else 1.0
    return in_water * beyond * (3.0 if medium is Medium.CLAMPED else 1.0) * JUNCTION_FACTOR[junction]


def class_for(key: str, celsius: float, allowed_c: float) -> tuple[str, float] | None:
    """The usual class whose permitted error at ``celsius`` stays within ``allowed_c``, and that error in ± °C; where none does,
    the finest that covers the temperature; None where none covers it."""
    if key not in CLASSED:
        low, high = sensor_range(key)
        off = tolerance(key, celsius) if low <= celsius <= high else None
        return None if off is None else ("1 % bead", off)
    offered = [
        (name, off)
        for name in CLASS_ORDER
        if name in classes_of(key) and (off := permitted(key, name, celsius)) is not None
    ]
    return next((o for o in offered if o[1] <= allowed_c), min(offered, key=lambda o: o[1], default=None))


def thickness_limit(key: str, build: Build, diameter_mm: float) -> float | None:
    """Hottest continuous use in °C at this thickness of sheath, or of wire; None where thickness is not what limits it."""
    table: Mapping[float, float]
    if build is Build.PROBE:
        table = PROBE_LIMITS_C.get(key, {})
    else:
        table = {awg_diameter_mm(gauge): limit for gauge, limit in WIRE_LIMITS_C.get(key, {}).items()}
    if not table:
        return None
    thinner = [mm for mm in table if mm <= diameter_mm * SAME]
    return table[max(thinner)] if thinner else min(table.values())


def sheath_for(celsius: float) -> str | None:
    """The usual sheath that stands ``celsius``."""
    return next((name for name, limit in SHEATHS if celsius <= limit), None)


def sheath_of(key: str, celsius: float) -> str | None:
    """The sheath for this sensor: platinum wires live in ceramic whatever the temperature, metal vapours poison them."""
    return SHEATHS[-1][0] if key in NOBLE and celsius <= SHEATHS[-1][1] else sheath_for(celsius)


def faults(
    sensor: Sensor, lowest_c: float, highest_c: float, atmosphere: Atmosphere, build: Build, diameter_mm: float
) -> list[str]:
    """Why this sensor would not do; empty when it would."""
    found = []
    thin = thickness_limit(sensor.key, build, diameter_mm)
    if highest_c > sensor.limit_c:
        found.append(f"ends at {temperature(sensor.limit_c)}")
    elif thin is not None and highest_c > thin:
        what = "sheath" if build is Build.PROBE else "wire"
        found.append(f"so thin a {what} stands {temperature(thin, '.0f')} for long")
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
