"""What the controller reads, and how it shows it."""

from ...calibration.schools import SAYS, OffsetSchool
from ...sensing.sensors import NAMES
from ...units import Kind
from .parameter import ANYTHING, Parameter

SENSORS = tuple((name, name if name.startswith("Pt") else f"Type {name}") for name in NAMES)
INPUT = (
    Parameter("input_type", "Input type", "Which sensor the input expects.", "Input", choices=SENSORS),
    Parameter(
        "display_unit",
        "Display unit",
        "Set this first: many controllers keep the digits of every other value when it changes.",
        "Input",
        choices=(("C", "°C"), ("F", "°F"), ("K", "K")),
        without="C",
    ),
    Parameter(
        "display_decimals",
        "Decimal place",
        "Digits behind the point. Four digits with one of them behind it end at 999.9.",
        "Input",
        choices=(("0", "None"), ("1", "One"), ("2", "Two")),
        without=ANYTHING,
    ),
    Parameter(
        "scale_low_c",
        "Scale low",
        "Where the input’s scale begins; of a linear input, what the least signal means.",
        "Input",
        Kind.TEMPERATURE,
        -273,
        2500,
        without=ANYTHING,
    ),
    Parameter(
        "scale_high_c",
        "Scale high",
        "Where it ends. Above it the display over-ranges, and looks as if the sensor were dead.",
        "Input",
        Kind.TEMPERATURE,
        -273,
        2500,
        without=ANYTHING,
    ),
    Parameter(
        "offset_school",
        "Offset is",
        "How this controller is made: an offset of one kind corrects the wrong way in the other. Try 1 ° to find out.",
        "Input",
        choices=tuple((school.value, SAYS[school].capitalize()) for school in OffsetSchool),
        without=ANYTHING,
    ),
    Parameter("offset_c", "Offset", "In the sense of the line above.", "Input", Kind.DIFFERENCE, -50, 50, without=0.0),
    Parameter(
        "gain_correction",
        "Gain correction",
        "The reading is multiplied by it before the offset.",
        "Input",
        Kind.RATIO,
        0.5,
        2.0,
        without=1.0,
    ),
    Parameter(
        "filter_s",
        "Digital filter",
        "Each second of it is a second of lag in the loop and in every alarm. 0: none.",
        "Input",
        Kind.TIME,
        0,
        300,
        without=0.0,
    ),
)
