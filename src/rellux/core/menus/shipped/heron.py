"""Three levels, by how long one key is held; digit by digit. The second level stops the outputs; a new input resets what hangs on it."""

from dataclasses import replace

from ..description import AfterLast, Description, Editing, Group, Keeps, Page, PageChoice, Shown, SideEffect, Way
from .making import DEGREES, DIFFERENCE, at, choice, converts, hold, number, resets, tap, terminals

SENDS = "board that sends a current"
_UNIT = converts("A1", "A2", "A3", "B4", "B5", "C2", "C3", "D2", "D3")
_ALL = resets("A1", "A2", "B4", "B5", "B6", "C1", "C2", "C3", "C4", "C5", "C6", "D1", "D2", "D3")
HERON = Description(
    "Heron: levels by how long a key is held",
    ("◆", "◀", "△", "▽"),
    (
        Group(
            "home",
            "Home",
            (
                Page("H0", "", "Reading"),
                number("A1", "Set-point", "setpoint_c", -200, 1800, 25, counted=DEGREES, low_from="B5", high_from="B4"),
            ),
            tap("◆"),
        ),
        Group(
            "daily",
            "Level one",
            (
                number("A2", "Offset", "offset_c", -99, 99, 0, decimals=1, counted=DIFFERENCE),
                number(
                    "A3", "Hysteresis", "hysteresis_c", 1, 999, 20, decimals=1, counted=DIFFERENCE, when=at("C1", 0)
                ),
                number("A4", "Most output, %", "output_high", 0, 100, 100),
            ),
            tap("◆"),
            leave=hold("◆", 2.0),
        ),
        Group(
            "fitting",
            "Level two",
            (
                choice(
                    "B1",
                    "Sensor",
                    "input_type",
                    ("r.1", "Pt100"),
                    ("r.2", "Pt1000"),
                    ("c.1", "K"),
                    ("c.2", "J"),
                    ("c.3", "N"),
                    ("c.4", "S"),
                    ("c.5", "R"),
                    ("c.6", "B"),
                    effects=resets("B4", "B5", "A2"),
                ),
                choice("B2", "Degrees", "display_unit", ("d.1", "C"), ("d.2", "F"), ("d.3", "K"), effects=_UNIT),
                choice("B3", "Sense of the output", "action", ("o.1", "heating"), ("o.2", "cooling")),
                number("B4", "Upper stop", "setpoint_high_c", -200, 1800, 600, counted=DEGREES),
                number("B5", "Lower stop", "setpoint_low_c", -200, 1800, 0, counted=DEGREES),
                number("B6", "Output when blind, %", "sensor_failure_output", 0, 100, 0),
                Page(
                    "B7",
                    "B7",
                    "Back to delivered values",
                    (),
                    (PageChoice("no"), PageChoice("yES", "everything is as delivered", guarded=True)),
                    effects=tuple(SideEffect(e.page, e.kind, e.counts, (1,)) for e in _ALL),
                ),
            ),
            tap("◆"),
            leave=hold("◆", 2.0),
            outputs_stop=True,
        ),
        Group(
            "regulating",
            "Level three",
            (
                Page(
                    "C1",
                    "C1",
                    "Kind of control",
                    ("mode",),
                    (
                        PageChoice("u.1", "", ("on_off",)),
                        PageChoice("u.2", "", ("pid",)),
                        PageChoice("u.3", "tunes itself", guarded=True),
                        PageChoice("u.4", "", ("off",)),
                    ),
                ),
                number(
                    "C2", "Band", "proportional_band_c", 1, 9999, 150, decimals=1, counted=DIFFERENCE, when=at("C1", 1)
                ),
                number(
                    "C3",
                    "Band inside which it integrates",
                    "integrates_within_c",
                    0,
                    999,
                    0,
                    decimals=1,
                    counted=DIFFERENCE,
                    when=at("C1", 1),
                ),
                number("C4", "Integral, min", "integral_time_s", 0, 999, 40, decimals=1, scale=60.0, when=at("C1", 1)),
                number("C5", "Derivative, s", "derivative_time_s", 0, 999, 30, when=at("C1", 1)),
                number("C6", "Period, s", "period_s", 1, 999, 200, decimals=1),
            ),
            tap("◆"),
            after_last=AfterLast.FIRST,
            leave=hold("◆", 2.0),
        ),
        Group(
            "sending",
            "Level four",
            tuple(
                replace(page, option=SENDS)
                for page in (
                    choice(
                        "D1",
                        "What it sends",
                        "retransmission",
                        ("no", "off"),
                        ("PU", "reading"),
                        ("SU", "setpoint"),
                        ("oU", "output"),
                    ),
                    number(
                        "D2",
                        "Sent as the least",
                        "retransmission_low_c",
                        -200,
                        1800,
                        0,
                        counted=DEGREES,
                        when=at("D1", 1, 2),
                    ),
                    number(
                        "D3",
                        "Sent as the most",
                        "retransmission_high_c",
                        -200,
                        1800,
                        600,
                        counted=DEGREES,
                        when=at("D1", 1, 2),
                    ),
                )
            ),
            tap("◆"),
            leave=hold("◆", 2.0),
        ),
    ),
    (
        Way(hold("◆", 3.0), "home", "daily"),
        Way(hold("◆", 6.0), "home", "fitting"),
        Way(hold("◆", 9.0), "home", "regulating"),
        Way(hold("◆", 12.0), "home", "sending"),
    ),
    Editing("△", "", opens=tap("◀"), shift="◀", kept_by=(Keeps.STORE,), store=tap("◆")),
    timeout_s=120.0,
    lamps=(
        Shown("1 lit", "The output is on."),
        Shown("1 slow", "Outputs are stopped: somebody is on level two."),
        Shown("2 lit", "The first alarm calls."),
    ),
    errors=(
        Shown("-UU-", "The sensor’s line is open.", "Supply off, then measure the probe."),
        Shown("-nn-", "The sensor’s line is shorted or reversed.", "Supply off, then look at + and −."),
        Shown("E.33", "Its memory could not be read.", "Write down what you can and go back to the maker’s values."),
    ),
    note="Invented, to learn on. Digit by digit from the right; each kept with ◆. On level two the outputs stand still.",
    offset_school="added_to_reading",
    hysteresis_school="one_sided",
    options=(SENDS,),
    terminals=(
        *terminals("1=IN+ 2=IN- 3=IN3 5=AL1 6=AL2 7=NC 8=COM 9=NO 11=L 12=N"),
        *terminals("13=IN2+ 14=IN2-", "controller_cascade"),
    ),
)
