"""One knob: turned it goes through lists of words, pressed it opens what is there and keeps it."""

from ..description import AfterLast, Description, Editing, Group, Keeps, Page, Shown, Way
from .making import DEGREES, DIFFERENCE, at, choice, hold, number, tap

_R, _L, _P = tap("turn right"), tap("turn left"), tap("press the knob")
_OUT = hold("press the knob", 2.0)


def _list(key: str, title: str, *pages: Page) -> Group:
    return Group(key, title, pages, _R, _L, AfterLast.FIRST, _OUT, "menu")


OSIER = Description(
    "Osier: one knob, lists of words",
    ("turn right", "turn left", "press the knob"),
    (
        Group("screen", "Screen", (Page("main", "", "Reading"),), _R),
        Group(
            "menu",
            "Menu",
            (
                Page("m1", "Target", "Target"),
                Page("m2", "Probe", "Probe"),
                Page("m3", "Burner", "Burner"),
                Page("m4", "Bounds", "Bounds"),
            ),
            _R,
            _L,
            AfterLast.FIRST,
            _OUT,
        ),
        _list(
            "target",
            "Target",
            number("Target temp", "Set-point", "setpoint_c", 0, 5000, 200, decimals=1, counted=DEGREES),
            number(
                "Wobble",
                "Hysteresis",
                "hysteresis_c",
                1,
                200,
                10,
                decimals=1,
                counted=DIFFERENCE,
                when=at("Style", 0),
            ),
        ),
        _list(
            "probe",
            "Probe",
            choice(
                "Probe kind",
                "Sensor",
                "input_type",
                ("platinum 100", "Pt100"),
                ("platinum 1000", "Pt1000"),
                ("thermocouple K", "K"),
                ("thermocouple T", "T"),
                ("bead", "NTC"),
            ),
            choice("Show in", "Degrees", "display_unit", ("Celsius", "C"), ("Fahrenheit", "F")),
            number("Nudge", "Offset", "offset_c", -100, 100, 0, decimals=1, counted=DIFFERENCE),
            number("Cool mark", "First point at", "point_1_at_c", -50, 600, 0, counted=DEGREES),
            number("Cool nudge", "First point adds", "point_1_add_c", -100, 100, 0, decimals=1, counted=DIFFERENCE),
            number("Hot mark", "Second point at", "point_2_at_c", -50, 600, 100, counted=DEGREES),
            number("Hot nudge", "Second point adds", "point_2_add_c", -100, 100, 0, decimals=1, counted=DIFFERENCE),
        ),
        _list(
            "burner",
            "Burner",
            choice("Style", "Control", "mode", ("snap", "on_off"), ("glide", "pid"), ("none", "off")),
            choice("Direction", "Acts", "action", ("warms", "heating"), ("chills", "cooling")),
            number(
                "Width",
                "Proportional band",
                "proportional_band_c",
                1,
                3000,
                80,
                decimals=1,
                counted=DIFFERENCE,
                when=at("Style", 1),
            ),
            number("Memory", "Integral, s", "integral_time_s", 0, 9000, 200, when=at("Style", 1)),
            number("Foresight", "Derivative, s", "derivative_time_s", 0, 2000, 40, when=at("Style", 1)),
            number("Rhythm", "Period, s", "period_s", 1, 600, 20, decimals=1, when=at("Style", 1)),
            number("Most", "Most output, %", "output_high", 1, 100, 100),
            number("When blind", "Output when blind, %", "sensor_failure_output", 0, 100, 0),
            choice("Left alone", "Second target", "second_setpoint", ("ignore it", "off"), ("go to rest", "idle")),
            number(
                "Rest at",
                "Second target is",
                "second_setpoint_c",
                0,
                5000,
                400,
                decimals=1,
                counted=DEGREES,
                when=at("Left alone", 1),
            ),
            number("Rest after", "Left alone for, min", "idle_s", 1, 240, 30, scale=60.0, when=at("Left alone", 1)),
        ),
        _list(
            "bounds",
            "Bounds",
            number("Not above", "Highest set-point", "setpoint_high_c", 0, 5000, 1500, decimals=1, counted=DEGREES),
            number("Not below", "Lowest set-point", "setpoint_low_c", 0, 5000, 0, decimals=1, counted=DEGREES),
        ),
    ),
    (
        Way(_P, "screen", "menu"),
        Way(_P, "menu", "target", "m1"),
        Way(_P, "menu", "probe", "m2"),
        Way(_P, "menu", "burner", "m3"),
        Way(_P, "menu", "bounds", "m4"),
    ),
    Editing("turn right", "turn left", opens=_P, kept_by=(Keeps.STORE,), store=_P, round=False),
    digits=16,
    lamps=(Shown("edge glows", "It heats."),),
    errors=(
        Shown("probe?", "No reading.", "Look at the plug."),
        Shown("too long", "It heats and nothing gets warmer.", "Is the probe where it belongs?"),
    ),
    note="Invented, to learn on.",
)
