"""Its settings are reached as the supply comes on with two keys held, and behind a code; a value is kept by leaving it alone."""

from ..description import Description, Editing, Gesture, Group, Keeps, Page, Press, Shown, Way
from .making import DEGREES, DIFFERENCE, at, choice, hold, number, resets, tap

_OPEN = at("COd", 27)
BASALT = Description(
    "Basalt: settings at power-up, behind a code",
    ("●", "⇧", "⇩"),
    (
        Group(
            "work",
            "Work",
            (
                Page("t", "", "Reading"),
                number(
                    "WArM", "Set-point", "setpoint_c", 0, 999, 40, counted=DEGREES, low_from="bASE", high_from="LId"
                ),
                number("StEP", "Hysteresis", "hysteresis_c", 1, 99, 10, decimals=1, counted=DIFFERENCE),
            ),
            tap("●"),
        ),
        Group(
            "fit",
            "At power-up",
            (
                Page("COd", "COd", "Code", high=99, forgets=True),
                Page(
                    "EyE",
                    "EyE",
                    "Sensor",
                    ("input_type",),
                    choice("", "", "x", ("PtA", "Pt100"), ("PtB", "Pt1000"), ("nIc", "K"), ("Irn", "J")).choices,
                    shown_when=_OPEN,
                    effects=resets("LId", "bASE"),
                ),
                choice("dEG", "Degrees", "display_unit", ("C", "C"), ("F", "F"), when=_OPEN),
                number("LId", "Upper stop", "setpoint_high_c", 0, 999, 300, counted=DEGREES, when=_OPEN),
                number("bASE", "Lower stop", "setpoint_low_c", 0, 999, 0, counted=DEGREES, when=_OPEN),
                number("ShOV", "Offset", "offset_c", -99, 99, 0, decimals=1, counted=DIFFERENCE, when=_OPEN),
                choice("driV", "Acts", "action", ("Hot", "heating"), ("Cld", "cooling"), when=_OPEN),
                choice("bRN", "Control", "mode", ("tOg", "on_off"), ("OFF", "off"), when=_OPEN),
                number("nAP", "Least time off, min", "minimum_off_s", 0, 30, 3, scale=60.0, when=_OPEN),
            ),
            tap("●"),
            leave=hold("●", 3.0),
            outputs_stop=True,
        ),
    ),
    (Way(Gesture(Press.POWER, "⇧+⇩"), "work", "fit"),),
    Editing("⇧", "⇩", per_second=10, kept_by=(Keeps.PAUSE, Keeps.NEXT), pause_s=3.0),
    digits=3,
    timeout_s=30.0,
    lamps=(Shown("drop lit", "It cools."), Shown("drop blinking", "It waits until the compressor may start.")),
    errors=(
        Shown("bAd", "No sensor.", "Look at its plug."),
        Shown("Er7", "The values in it are not to be trusted.", "Set every page again."),
    ),
    note="Invented, to learn on. Its code is 27. Without the code only the set-point and the hysteresis can be changed.",
)
