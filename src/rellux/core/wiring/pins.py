"""What each pin of a generic microcontroller board can do, beyond being switched on and off (typical, from memory)."""

from enum import StrEnum


class Ability(StrEnum):
    """Something a pin is able to do, or does by itself."""

    ANALOGUE = "analogue"
    PWM = "pwm"
    INTERRUPT = "interrupt"
    BUS = "bus"
    CLOCKED = "clocked"
    BOOT = "boot"
    BLINKS = "blinks"


ABILITIES: dict[str, tuple[Ability, ...]] = {
    "SER1": (Ability.BOOT,),
    "SER2": (Ability.BOOT,),
    "INT1": (Ability.INTERRUPT,),
    "INT2": (Ability.INTERRUPT, Ability.PWM),
    "IO1": (),
    "IO2": (),
    "PWM1": (Ability.PWM,),
    "PWM2": (Ability.PWM,),
    "PWM3": (Ability.PWM,),
    "CLK1": (Ability.PWM, Ability.CLOCKED),
    "CLK2": (Ability.PWM, Ability.CLOCKED),
    "CLK3": (Ability.CLOCKED,),
    "CLK4": (Ability.CLOCKED, Ability.BLINKS),
    "AN1": (Ability.ANALOGUE,),
    "AN2": (Ability.ANALOGUE,),
    "AN3": (Ability.ANALOGUE,),
    "BUS1": (Ability.BUS,),
    "BUS2": (Ability.BUS,),
}
"""Pins are named by what they can do; the numbers on a real board are those of the user's own part. ``BOOT``: driven by the
board itself while it starts; ``BLINKS``: flashes at start-up, with the board's own lamp on it."""

NEEDS: dict[str, Ability] = {"SDA": Ability.BUS, "SCL": Ability.BUS, "CLK": Ability.CLOCKED, "ZC": Ability.INTERRUPT}
"""What a part's terminal wants of the pin it is wired to."""

SUPPLY_PINS = ("RAW", "5V", "GND", "REF", "AGND")

OUTPUT_PINS = tuple(pin for pin, able in ABILITIES.items() if Ability.ANALOGUE not in able and Ability.BUS not in able)
"""Pins that can be switched on and off."""

NO_PIN = "none"
"""What a board has that uses none for this."""

PINS_OF = ("output_pin", "cooling_pin")
"""Ratings of a board that name one of its pins."""

FORMERLY = {
    **{"VIN": "RAW", "AREF": "REF", "TX": "SER1", "RX": "SER2", "D2": "INT1", "D3": "INT2", "D4": "IO1", "D7": "IO2"},
    **{"D5": "PWM1", "D6": "PWM2", "D9": "PWM3", "D10": "CLK1", "D11": "CLK2", "D12": "CLK3", "D13": "CLK4"},
    **{"A0": "AN1", "A1": "AN2", "A2": "AN3", "SDA": "BUS1", "SCL": "BUS2"},
}
"""What a board's terminals were called in lists of before."""
