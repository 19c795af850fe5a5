"""Whether a controller may be told to tune itself: it swings above its set-point to do so, by how much follows from the process."""

from collections.abc import Container

from ..errors import refuse
from ..messages import temperature
from ..process.cycles import cycle
from .dictionary.inner import LOOPS, TWO
from .dictionary.parameter import Value
from .parameters import Sheet
from .proposals.facts import RigFacts

AUTO_TUNE = "auto_tune"
TITLE = "Auto-tune"
WORDS = (("off", "Stop"), ("on", "Start"))
KNOWN = "supported"
"""The verdict an identified process needs to be believed here."""
SWITCHING_C = 1.0
"""Hysteresis that a controller may put round its set-point meanwhile, °C (our choice: it does not say)."""


def unended(writes: Container[tuple[str, Value]]) -> str:
    """Why a safe-off of these ``writes`` will not do for a controller that can be told to tune itself; empty where it will."""
    ended = (AUTO_TUNE, "off") in writes
    return "" if ended else "while it tunes itself its output rests half of the time: that is ended, too"


def check_auto_tune(value: Value, beside: Sheet, facts: RigFacts) -> None:
    """Raises ``Refused`` for a start whose swing would pass the highest allowed temperature, or of which nobody can say. ``beside``: what
    the controller holds; it swings round its set-point. To stop is never refused.

    One lag with dead time overstates the swing of a rig with a second lag, so it errs to the safe side.
    """
    if value == "off":
        return
    if value != "on":
        raise refuse(AUTO_TUNE, f"{value!r} is not one of the choices", ", ".join(k for k, _ in WORDS))
    if not facts.purpose.heats:
        raise refuse(AUTO_TUNE, "a compressor is not switched as a test of the loop asks for", "on/off, with its rests")
    if facts.process is None or facts.process_verdict != KNOWN:
        raise refuse(
            AUTO_TUNE,
            "it swings above its set-point, and how far is not known for this rig yet",
            "a process that Tuning calls supported, from a recorded run",
        )
    if facts.purpose.heater_sensor is not None and beside.get(LOOPS) == TWO:
        raise refuse(
            AUTO_TUNE,
            "its test is that of one loop, and what it finds would be taken for the outer of two",
            "one loop first, or both from Tuning",
        )
    setpoint, ambient, highest = float(beside["setpoint_c"]), facts.purpose.ambient_c, facts.purpose.highest_c
    swing = cycle(facts.process, setpoint + SWITCHING_C - ambient, setpoint - ambient)
    peak = swing.peak + ambient
    if peak >= highest:
        raise refuse(
            AUTO_TUNE,
            f"it would swing to {temperature(peak, '.1f')}, and {temperature(highest)} is the most: {facts.purpose.highest_reason}",
            f"a set-point lower by {{{peak - highest + SWITCHING_C:.0f} Δ°C}} or more",
        )
