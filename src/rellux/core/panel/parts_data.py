"""Generic panel parts: cut-out, body behind the panel, heat, price. No brands.

Cut-outs of instruments: IEC 61554 (DIN 43700) sizes, +0.6 to +1.0 mm. Buttons and lamps: IEC 60947-5-1 annex (22.5 mm,
16.2 mm). Inlets, fans and SSR hole spacing: common practice, measure the part at hand. Depth includes plugs and the bend of
the wires. Heat: while working. Prices: rough, in money of about one euro.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class PanelPart:
    """``cut`` (w, h) in mm, both equal to the diameter when ``round``; ``bezel`` (w, h) covers it; ``depth_mm`` behind the
    panel; ``holes`` at (x, y) from the centre with their diameter. ``hot``: works above touch temperature."""

    key: str
    name: str
    cut: tuple[float, float]
    bezel: tuple[float, float]
    depth_mm: float
    heat_w: float
    price: float
    round: bool = False
    holes: tuple[tuple[float, float, float], ...] = ()
    corner_mm: float = 0.0
    inside: bool = False


PANEL_PARTS = {
    p.key: p
    for p in (
        PanelPart("controller_48", "Controller 48 × 48", (45.6, 45.6), (48, 48), 115, 5, 45, corner_mm=1.0),
        PanelPart("controller_96_48", "Controller 96 × 48, upright", (45.6, 92.8), (48, 96), 105, 5, 60, corner_mm=1.0),
        PanelPart("controller_96", "Controller 96 × 96", (92.8, 92.8), (96, 96), 105, 6, 70, corner_mm=1.0),
        PanelPart("meter", "Panel meter 48 × 29", (46, 27), (48, 29), 40, 0.5, 12, corner_mm=1.0),
        PanelPart("switch_22", "Selector, button or lamp 22 mm", (22.5, 22.5), (30, 40), 70, 0.5, 8, round=True),
        PanelPart("estop", "Emergency stop 22 mm", (22.5, 22.5), (60, 60), 70, 0, 18, round=True),
        PanelPart("lamp_16", "Lamp or button 16 mm", (16.2, 16.2), (18, 18), 40, 0.4, 4, round=True),
        PanelPart("beeper", "Buzzer 28 mm", (28.2, 28.2), (32, 32), 45, 0.3, 5, round=True),
        PanelPart(
            "inlet",
            "Appliance inlet, 10 A",
            (27.4, 20.2),
            (50, 25),
            40,
            0.5,
            4,
            holes=((-20, 0, 3.5), (20, 0, 3.5)),
            corner_mm=3.0,
        ),
        PanelPart("gland_16", "Cable gland M16", (16.3, 16.3), (24, 24), 60, 0, 2, round=True),
        PanelPart("gland_20", "Cable gland M20", (20.3, 20.3), (29, 29), 70, 0, 2, round=True),
        PanelPart("plug_socket", "Thermocouple panel socket", (28.4, 14.2), (33, 20), 35, 0, 6, corner_mm=1.0),
        PanelPart(
            "fan_80",
            "Fan 80 mm with guard",
            (76, 76),
            (80, 80),
            35,
            2,
            10,
            round=True,
            holes=((-35.75, -35.75, 4.5), (35.75, -35.75, 4.5), (-35.75, 35.75, 4.5), (35.75, 35.75, 4.5)),
        ),
        PanelPart("ssr", "SSR on its heat sink (inside)", (0, 0), (60, 90), 110, 16, 28, inside=True),
        PanelPart("contactor", "Contactor 25 A (inside)", (0, 0), (45, 80), 90, 3, 25, inside=True),
        PanelPart("breaker", "Breaker, one module (inside)", (0, 0), (18, 85), 75, 1.5, 9, inside=True),
        PanelPart("supply_24", "Supply 24 V, 30 W (inside)", (0, 0), (55, 95), 60, 5, 22, inside=True),
        PanelPart("limiter", "Independent limiter 48 × 48", (45.6, 45.6), (48, 48), 115, 4, 60, corner_mm=1.0),
    )
}


@dataclass(frozen=True)
class LostProtection:
    """Something an appliance did by itself: what it prevented, and what takes over."""

    key: str
    name: str
    gave: str
    needs: str
    severe: bool


REMOVED = (
    LostProtection(
        "thermostat",
        "Thermostat",
        "held the temperature, and with its capillary also ended where its scale ends",
        "the controller holds; its highest set-point must be limited to what the appliance stands",
        False,
    ),
    LostProtection(
        "cutout",
        "Thermal cut-out or fuse",
        "cut the heat for good when everything else failed",
        "put it back where it was, or an independent limiter with its own sensor and contactor",
        True,
    ),
    LostProtection(
        "timer",
        "Timer",
        "ended heating when somebody forgot",
        "a programme that ends with the heater off, and a longest time in the limiter or a relay timer",
        True,
    ),
    LostProtection(
        "door",
        "Door switch",
        "cut elements that can be touched",
        "a door switch in the contactor's coil circuit, cutting all poles",
        True,
    ),
    LostProtection(
        "fan",
        "Fan or blower",
        "kept the element from glowing and spread the heat",
        "the fan on whenever the heater is warm, with run-on; heater interlocked with it",
        True,
    ),
    LostProtection(
        "level",
        "Level or flow switch",
        "cut the heater when dry",
        "a level or flow switch in the heater's safety chain",
        True,
    ),
    LostProtection(
        "tilt", "Tilt switch", "cut it when it fell over", "fix it to the bench, or a tilt switch in the chain", False
    ),
    LostProtection(
        "lid", "Interlocked lid", "kept hands out", "a guard that needs a tool, or a switch in the chain", False
    ),
    LostProtection("lamp", "Pilot lamp", "told that it heats", "a lamp on the switched side of the contactor", False),
)
