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
    "TX": (Ability.BOOT,),
    "RX": (Ability.BOOT,),
    "D2": (Ability.INTERRUPT,),
    "D3": (Ability.INTERRUPT, Ability.PWM),
    "D4": (),
    "D5": (Ability.PWM,),
    "D6": (Ability.PWM,),
    "D7": (),
    "D9": (Ability.PWM,),
    "D10": (Ability.PWM, Ability.CLOCKED),
    "D11": (Ability.PWM, Ability.CLOCKED),
    "D12": (Ability.CLOCKED,),
    "D13": (Ability.CLOCKED, Ability.BLINKS),
    "A0": (Ability.ANALOGUE,),
    "A1": (Ability.ANALOGUE,),
    "A2": (Ability.ANALOGUE,),
    "SDA": (Ability.BUS,),
    "SCL": (Ability.BUS,),
}
"""``BOOT``: driven by the board itself while it starts; ``BLINKS``: flashes at start-up, with the board's own lamp on it."""

NEEDS: dict[str, Ability] = {"SDA": Ability.BUS, "SCL": Ability.BUS, "CLK": Ability.CLOCKED, "ZC": Ability.INTERRUPT}
"""What a part's terminal wants of the pin it is wired to."""

SUPPLY_PINS = ("VIN", "5V", "3V3", "GND", "AREF", "AGND")
