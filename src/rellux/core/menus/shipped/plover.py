"""One flat list of numbers, opened by a switch on the board; every step is kept at once."""

from ..description import AfterLast, Description, Editing, Gesture, Group, Keeps, Page, Press, Shown, Way
from .making import DEGREES, DIFFERENCE, choice, hold, number, resets, tap

PLOVER = Description(
    "Plover: a numbered list, opened on the board",
    ("→", "↑", "↓"),
    (
        Group(
            "run",
            "Running",
            (
                Page("00", "", "Reading"),
                number("01", "Set-point", "setpoint_c", -40, 400, 20, counted=DEGREES, low_from="08", high_from="07"),
            ),
            tap("→"),
        ),
        Group(
            "list",
            "The list",
            (
                choice(
                    "02",
                    "Sensor",
                    "input_type",
                    ("1", "Pt100"),
                    ("2", "K"),
                    ("3", "J"),
                    ("4", "T"),
                    effects=resets("07", "08", "06"),
                ),
                choice("03", "Degrees", "display_unit", ("0", "C"), ("1", "F")),
                choice("04", "Control", "mode", ("0", "off"), ("1", "on_off"), ("2", "pid")),
                choice("05", "Acts", "action", ("0", "heating"), ("1", "cooling")),
                number("06", "Offset", "offset_c", -90, 90, 0, decimals=1, counted=DIFFERENCE),
                number("07", "Highest set-point", "setpoint_high_c", -40, 400, 250, counted=DEGREES),
                number("08", "Lowest set-point", "setpoint_low_c", -40, 400, 0, counted=DEGREES),
                number("09", "Hysteresis", "hysteresis_c", 1, 90, 10, decimals=1, counted=DIFFERENCE),
                number("10", "Band", "proportional_band_c", 1, 990, 50, decimals=1, counted=DIFFERENCE),
                number("11", "Integral, 10 s", "integral_time_s", 0, 360, 24, scale=10.0),
                number("12", "Derivative, s", "derivative_time_s", 0, 250, 0),
                number("13", "Period, s", "period_s", 1, 99, 15),
                number("14", "Most output, %", "output_high", 1, 100, 100),
                number("15", "Output when blind, %", "sensor_failure_output", 0, 100, 0),
                number("16", "Least time off, 10 s", "minimum_off_s", 0, 99, 18, scale=10.0),
                number("17", "Least time on, s", "minimum_on_s", 0, 250, 60),
            ),
            tap("→"),
            None,
            AfterLast.FIRST,
            hold("→", 3.0),
            outputs_stop=True,
        ),
    ),
    (Way(Gesture(Press.SWITCH, "W2"), "run", "list"),),
    Editing("↑", "↓", per_second=5, kept_by=(Keeps.STEP,)),
    digits=3,
    lamps=(Shown("green", "Output on."), Shown("green and red", "The list is open: outputs stand still.")),
    errors=(
        Shown("91", "Sensor open.", ""),
        Shown("92", "Sensor shorted.", ""),
        Shown("93", "Too cold to be true.", ""),
    ),
    note="Invented, to learn on. The number stands beside the value. Set W2 back when done.",
)
