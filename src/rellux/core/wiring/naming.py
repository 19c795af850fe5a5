"""Names of parts: what may be one, a letter for what it is, and the next free number."""

import re
import unicodedata
from collections.abc import Iterable
from typing import Any

from ..errors import refuse
from .library import PART_TYPES

LONGEST_NAME = 20
NAME_RULE = f"a letter, then up to {LONGEST_NAME - 1} letters, figures, - or _"
"""The one rule for names of parts, in words."""
_NAME = re.compile(rf"[^\W\d_][\w-]{{0,{LONGEST_NAME - 1}}}")


def check_name(name: Any, taken: Iterable[str] = ()) -> str:
    """A part's name. Raises ``Refused`` for what :data:`NAME_RULE` excludes, and for a name that differs from one ``taken``
    only by capitals or accents: on labels and in files they would be one."""
    text = unicodedata.normalize("NFC", name.strip()) if isinstance(name, str) else ""
    if not _NAME.fullmatch(text):
        raise refuse("name", f"{str(name)[:40]!r} is no name for a part", NAME_RULE)
    alike = next((other for other in taken if folded(other) == folded(text)), None)
    if alike is not None:
        raise refuse(
            "name", f"there is a part {alike} already", "a name that differs by more than capitals and accents"
        )
    return text


def folded(name: str) -> str:
    """A name without capitals and accents: what two parts must not have in common."""
    apart = unicodedata.normalize("NFKD", name.casefold())
    return "".join(c for c in apart if not unicodedata.combining(c))


LETTERS = {
    **dict.fromkeys(("supply", "isolator"), "Q"),
    **dict.fromkeys(("breaker", "fuse", "rcd", "thermal_fuse", "cutout_manual", "cutout_auto"), "F"),
    **dict.fromkeys(("contactor", "relay", "relay_module", "relay_module_low", "timer"), "K"),
    **dict.fromkeys(("ssr",), "V"),
    **dict.fromkeys(("controller_ssr", "controller_relay", "controller_analogue", "limiter", "logger"), "A"),
    **dict.fromkeys(("thermocouple", "pt100", "pt1000", "thermistor", "flow_switch", "level_switch"), "B"),
    **dict.fromkeys(("switch", "selector", "estop", "estop_no", "pushbutton", "door_switch"), "S"),
    **dict.fromkeys(("lamp", "beacon", "buzzer"), "H"),
    **dict.fromkeys(("heater", "cooling_module"), "E"),
    **dict.fromkeys(("fan", "solenoid", "motor", "compressor", "fire_fan"), "M"),
    **dict.fromkeys(("regulator", "power_module"), "G"),
    **dict.fromkeys(("resistor",), "R"),
    **dict.fromkeys(("converter", "display", "encoder", "zero_cross"), "U"),
}
"""First letters of names by family, as drawings usually have them; everything else is an X."""


def free_name(kind: str, taken: set[str]) -> str:
    """The next free name for a part of this kind."""
    letter = LETTERS.get(kind) or LETTERS.get(PART_TYPES[kind].family, "X")
    return next(f"{letter}{i}" for i in range(1, len(taken) + 2) if f"{letter}{i}" not in taken)
