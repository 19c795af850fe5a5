"""The front: what is lit, and what may be changed there."""

from ...units import Kind
from .parameter import ANYTHING, Applies, Parameter

FRONT = (
    Parameter(
        "display", "Display", "Whether it is lit.", "Front", choices=(("on", "On"), ("off", "Off")), without=ANYTHING
    ),
    Parameter(
        "brightness",
        "Brightness",
        "Of its most.",
        "Front",
        Kind.PERCENT,
        1,
        100,
        applies=(Applies("display", ("on",)),),
        without=ANYTHING,
    ),
    Parameter(
        "lock",
        "Lock",
        "What can be changed without a code.",
        "Front",
        choices=(("none", "Everything"), ("setpoint", "The set-point only"), ("all", "Nothing")),
        without=ANYTHING,
    ),
)
