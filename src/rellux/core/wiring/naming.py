"""Names of parts: a letter for what it is, and the next free number."""

from .library import PART_TYPES

LETTERS = {
    **dict.fromkeys(("supply", "isolator"), "Q"),
    **dict.fromkeys(("breaker", "fuse", "rcd", "thermal_fuse", "cutout_manual", "cutout_auto"), "F"),
    **dict.fromkeys(("contactor", "relay", "relay_module", "relay_module_low", "timer"), "K"),
    **dict.fromkeys(("ssr",), "V"),
    **dict.fromkeys(("controller_ssr", "controller_relay", "controller_analogue", "limiter", "logger"), "A"),
    **dict.fromkeys(("thermocouple", "pt100", "pt1000", "thermistor", "flow_switch"), "B"),
    **dict.fromkeys(("switch", "selector", "estop", "estop_no", "pushbutton", "door_switch"), "S"),
    **dict.fromkeys(("lamp", "beacon", "buzzer"), "H"),
    **dict.fromkeys(("heater",), "E"),
    **dict.fromkeys(("fan", "solenoid"), "M"),
    **dict.fromkeys(("regulator", "power_module"), "G"),
    **dict.fromkeys(("resistor",), "R"),
    **dict.fromkeys(("converter", "display", "encoder", "zero_cross"), "U"),
}
"""First letters of names by family, as drawings usually have them; everything else is an X."""


def free_name(kind: str, taken: set[str]) -> str:
    """The next free name for a part of this kind."""
    letter = LETTERS.get(PART_TYPES[kind].family, "X")
    return next(f"{letter}{i}" for i in range(1, len(taken) + 2) if f"{letter}{i}" not in taken)
