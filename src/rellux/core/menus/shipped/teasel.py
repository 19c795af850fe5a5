"""The way in is dialled: the set-point beyond its scale, then a key held. Every value is opened, and kept, by one key."""

from ...control.languages import Language, Proportional, Times
from ...profiles.controller_table import ProgrammeForm, RampBy
from ..description import AfterLast, Description, Editing, Group, Keeps, Page, Shown, Way
from .making import DEGREES, DIFFERENCE, at, choice, converts, hold, number, resets, tap, terminals

TEASEL = Description(
    "Teasel: the way in is dialled",
    ("○", "⌃", "⌄"),
    (
        Group(
            "face",
            "Face",
            (Page("F", "", "Reading"), number("AIM", "Set-point", "setpoint_c", 0, 1400, 0, counted=DEGREES)),
            tap("⌃"),
        ),
        Group(
            "sense",
            "Sense (dial 1111)",
            (
                choice(
                    "FEEL",
                    "Sensor",
                    "input_type",
                    ("K", "K"),
                    ("n", "N"),
                    ("S", "S"),
                    ("r", "R"),
                    ("Pt", "Pt100"),
                    effects=resets("CEIL", "FLOr"),
                ),
                choice(
                    "GrAd",
                    "Degrees",
                    "display_unit",
                    ("°C", "C"),
                    ("°F", "F"),
                    effects=converts("CEIL", "FLOr", "ShIF"),
                ),
                number("ShIF", "Offset", "offset_c", -50, 50, 0, counted=DIFFERENCE),
                number("tILt", "Gain", "gain_correction", 900, 1100, 1000, decimals=3),
                number("CEIL", "Highest set-point", "setpoint_high_c", 0, 1400, 1300, counted=DEGREES),
                number("FLOr", "Lowest set-point", "setpoint_low_c", 0, 1400, 0, counted=DEGREES),
            ),
            tap("⌃"),
            tap("⌄"),
            AfterLast.FIRST,
            hold("○", 2.0),
        ),
        Group(
            "rule",
            "Rule (dial 1222)",
            (
                choice("HOLd", "Control", "mode", ("bAng", "on_off"), ("SOFt", "pid"), ("StOP", "off")),
                number("SLAc", "Hysteresis", "hysteresis_c", 1, 50, 2, counted=DIFFERENCE, when=at("HOLd", 0)),
                number("PUSH", "Gain, % a degree", "proportional_band_c", 1, 9999, 200, decimals=2, when=at("HOLd", 1)),
                number("EVEn", "Repeats a minute", "integral_time_s", 0, 9999, 50, decimals=2, when=at("HOLd", 1)),
                number("LOOK", "Derivative, min", "derivative_time_s", 0, 999, 50, decimals=2, when=at("HOLd", 1)),
                choice("dUEt", "Loops", "loops", ("OnE", "one"), ("tUO", "two"), when=at("HOLd", 1)),
                number("dEEP", "Inner band", "inner_band_c", 1, 999, 50, counted=DIFFERENCE, when=at("dUEt", 1)),
                number("PULL", "Inner integral, s", "inner_integral_s", 0, 9999, 60, when=at("dUEt", 1)),
                number("bOtt", "Heater at 0 %", "inner_low_c", 0, 1400, 20, counted=DEGREES, when=at("dUEt", 1)),
                number("rOOF", "Heater at 100 %", "inner_high_c", 0, 1400, 400, counted=DEGREES, when=at("dUEt", 1)),
                number("tICK", "Period, s", "period_s", 1, 60, 10),
                number("POUr", "Most output, %", "output_high", 5, 100, 100),
                number("dArK", "Output when blind, %", "sensor_failure_output", 0, 100, 0),
                choice("bAck", "When power comes back", "after_power", ("On", "go_on"), ("LOOk", "stand_by")),
                number("cLIb", "Ramp, degrees a minute", "ramp_c_per_min", 0, 99, 0, counted=DIFFERENCE),
                number("LInE", "Address", "link_address", 1, 99, 1),
                choice("PACE", "Speed", "link_baud", ("96", "9600"), ("192", "19200"), ("384", "38400")),
            ),
            tap("⌃"),
            tap("⌄"),
            AfterLast.FIRST,
            hold("○", 2.0),
        ),
    ),
    (
        Way(hold("○", 4.0), "face", "sense", "", at("AIM", 1111)),
        Way(hold("○", 4.0), "face", "rule", "", at("AIM", 1222)),
    ),
    Editing("⌃", "⌄", opens=tap("○"), per_second=20, kept_by=(Keeps.STORE,), store=tap("○")),
    timeout_s=180.0,
    lamps=(Shown("ring lit", "Full output."), Shown("ring breathing", "Part of the output.")),
    errors=(
        Shown("ooo", "Thermocouple open.", "Supply off, look at its screws."),
        Shown("HuH", "A value does not fit another.", "See CEIL and FLOr."),
    ),
    note="Invented, to learn on. While the set-point is dialled to 1111 it is a set-point: dial with the heater’s supply off.",
    programme=ProgrammeForm(segments=16, ramp_by=RampBy.RATE, rate_step=1.0),
    language=Language(proportional=Proportional.GAIN, times=Times.REPEATS),
    terminals=(
        *terminals("a=L b=N c=COM d=NO e=NC g=AL1 h=AL2 p=IN+ q=IN- r=IN3", "controller_relay"),
        *terminals("a=L b=N c=COM d=NO e=NC g=AL1 h=AL2 p=IN+ q=IN- s=IN2+ t=IN2-", "controller_cascade"),
        *terminals("a=L b=N k=OUT+ m=OUT- g=AL1 h=AL2 p=IN+ q=IN- r=IN3", "controller_ssr"),
    ),
)
