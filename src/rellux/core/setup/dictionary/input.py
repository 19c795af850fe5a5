"""What the controller reads, and how it shows it."""

from collections.abc import Iterator

from ...calibration.corrections import MOST_POINTS
from ...calibration.schools import SAYS, OffsetSchool
from ...sensing.sensors import NAMES
from ...units import Kind
from .parameter import ANYTHING, Applies, Parameter

BY_POINTS = Applies("correction", ("points",))


def _points() -> Iterator[Parameter]:
    """Where each point of a correction lies, and what is added there."""
    for n in range(1, MOST_POINTS + 1):
        yield Parameter(
            f"point_{n}_at_c",
            f"Correction point {n} at",
            "The reading without any correction there; the coolest point first.",
            "Input",
            Kind.TEMPERATURE,
            -273,
            2500,
            applies=(BY_POINTS,),
            without=ANYTHING,
        )
        yield Parameter(
            f"point_{n}_add_c",
            f"Correction point {n} adds",
            "Added there; straight in between.",
            "Input",
            Kind.DIFFERENCE,
            -50,
            50,
            applies=(BY_POINTS,),
            without=0.0,
        )


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
        "correction",
        "Reading corrected",
        "By the offset (and the gain) everywhere, or by points that have a number of their own.",
        "Input",
        choices=(("offset", "By the offset"), ("points", "By points as well")),
        without="offset",
    ),
    *_points(),
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
