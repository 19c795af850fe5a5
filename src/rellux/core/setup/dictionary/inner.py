"""The loop at the heater's own sensor, and what the rig's own loop asks of it."""

from ...units import Kind
from .control import PID
from .parameter import ANYTHING, Applies, Parameter

LOOPS = "loops"
INNER_LOOP = "Inner loop"
"""The group of a rig with a second sensor at its heater."""
TWO, ONE = "two", "one"
_BOTH = (PID, Applies(LOOPS, (TWO,)))
INNER = (
    Parameter(
        LOOPS,
        "Loops",
        "Whether the loop round the rig’s sensor gives the output, or asks a loop at the heater.",
        INNER_LOOP,
        choices=((TWO, "Two, one asks the other"), (ONE, "One")),
        applies=(PID,),
        without=ONE,
    ),
    Parameter(
        "inner_band_c",
        "Inner proportional band",
        "How far the heater is below what is asked when its output is full.",
        INNER_LOOP,
        Kind.DIFFERENCE,
        0.1,
        2000,
        applies=_BOTH,
        without=ANYTHING,
    ),
    Parameter(
        "inner_integral_s",
        "Inner integral time",
        "How long the inner loop takes to remove a standing error. 0: none.",
        INNER_LOOP,
        Kind.TIME,
        0,
        36_000,
        applies=_BOTH,
        without=ANYTHING,
    ),
    Parameter(
        "inner_low_c",
        "Asked of the heater at 0 %",
        "Where the outer loop gives nothing.",
        INNER_LOOP,
        Kind.TEMPERATURE,
        -200,
        1800,
        applies=_BOTH,
        without=ANYTHING,
    ),
    Parameter(
        "inner_high_c",
        "Asked of the heater at 100 %",
        "The most the heater is ever asked to be.",
        INNER_LOOP,
        Kind.TEMPERATURE,
        -200,
        1800,
        applies=_BOTH,
        without=ANYTHING,
    ),
)
INNER_NAMES = tuple(p.name for p in INNER)
