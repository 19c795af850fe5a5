"""Groups behind one another, forward only; a value is kept by going on. Set the unit first: everything keeps its digits."""

from ..description import AfterLast, Description, Editing, Group, Keeps, Page, PageChoice, Shown, Way
from .making import DEGREES, DIFFERENCE, at, choice, hold, number, resets, tap, terminals


def _room(key: str, title: str, *pages: Page) -> Group:
    return Group(key, title, pages, tap("M"), after_last=AfterLast.LEAVES, leave=hold("M", 2.0), leaves_to="rooms")


LARCH = Description(
    "Larch: rooms in a row, forward only",
    ("M", "▲", "▼"),
    (
        Group(
            "front",
            "Front",
            (
                Page("now", "", "Reading"),
                number(
                    "hold", "Set-point", "setpoint_c", -50, 1200, 20, counted=DEGREES, low_from="bot", high_from="top"
                ),
            ),
            tap("M"),
        ),
        Group(
            "rooms",
            "Rooms",
            (
                Page("rEAd", "rEAd", "Reading room"),
                Page("HEAt", "HEAt", "Heating room"),
                Page("PULL", "PULL", "Regulating room"),
                Page("bELL", "bELL", "Alarm room"),
            ),
            tap("M"),
            leave=hold("M", 2.0),
        ),
        _room(
            "reading",
            "Reading room",
            choice(
                "wirE",
                "Input",
                "input_type",
                ("P1", "Pt100"),
                ("t-K", "K"),
                ("t-J", "J"),
                ("t-N", "N"),
                ("t-t", "T"),
                ("t-S", "S"),
                effects=resets("top", "bot", "tilt"),
            ),
            choice("scAL", "Unit of the display", "display_unit", ("cEn", "C"), ("FAr", "F")),
            number("tilt", "Offset", "offset_c", -199, 199, 0, decimals=1, counted=DIFFERENCE),
            number("calm", "Filter, s", "filter_s", 0, 60, 2),
        ),
        _room(
            "heating",
            "Heating room",
            number("top", "Highest set-point", "setpoint_high_c", -50, 1200, 400, counted=DEGREES, low_from="bot"),
            number("bot", "Lowest set-point", "setpoint_low_c", -50, 1200, 0, counted=DEGREES, high_from="top"),
            choice("wAy", "Output acts", "action", ("UP", "heating"), ("dn", "cooling")),
            number("LOAd", "Most output, %", "output_high", 1, 100, 100),
            number("LOSt", "Output without a sensor, %", "sensor_failure_output", 0, 100, 0),
        ),
        _room(
            "regulating",
            "Regulating room",
            choice("HOw", "Regulates by", "mode", ("FLIP", "on_off"), ("SHAP", "pid"), ("rESt", "off")),
            number("GAP", "Hysteresis", "hysteresis_c", 1, 500, 10, decimals=1, counted=DIFFERENCE, when=at("HOw", 0)),
            number(
                "bELt",
                "Proportional band",
                "proportional_band_c",
                1,
                9999,
                100,
                decimals=1,
                counted=DIFFERENCE,
                when=at("HOw", 1),
            ),
            number("SUn", "Integral time, s", "integral_time_s", 0, 9999, 240, when=at("HOw", 1)),
            number("LEAd", "Derivative time, s", "derivative_time_s", 0, 2000, 60, when=at("HOw", 1)),
            number("bEAt", "Control period, s", "period_s", 1, 120, 20, when=at("HOw", 1)),
            Page(
                "FInd",
                "FInd",
                "Finds its numbers",
                choices=(PageChoice("nO"), PageChoice("GO", "tunes itself", guarded=True)),
                shown_when=at("HOw", 1),
            ),
        ),
        _room(
            "alarm",
            "Alarm room",
            choice(
                "rIng",
                "Calls when",
                "alarm_1_type",
                ("nO", "off"),
                ("HOt", "high"),
                ("cLd", "low"),
                ("FAr", "outside_band"),
            ),
            number("rAt", "Calls at", "alarm_1_at_c", -50, 1200, 0, counted=DEGREES, when=at("rIng", 1, 2)),
            number("rAW", "Calls away by", "alarm_1_away_c", 0, 300, 5, counted=DIFFERENCE, when=at("rIng", 3)),
            number(
                "rbAc", "Clears after", "alarm_1_hysteresis_c", 0, 99, 1, counted=DIFFERENCE, when=at("rIng", 1, 2, 3)
            ),
            number("rPAU", "Waits, s", "alarm_1_delay_s", 0, 250, 0, when=at("rIng", 1, 2, 3)),
        ),
    ),
    (
        Way(hold("M", 3.0), "front", "rooms"),
        Way(tap("▲"), "rooms", "reading", "rEAd"),
        Way(tap("▲"), "rooms", "heating", "HEAt"),
        Way(tap("▲"), "rooms", "regulating", "PULL"),
        Way(tap("▲"), "rooms", "alarm", "bELL"),
    ),
    Editing("▲", "▼", per_second=8, kept_by=(Keeps.NEXT, Keeps.LEAVE)),
    timeout_s=60.0,
    lamps=(
        Shown("flame lit", "The output is on."),
        Shown("flame blinking", "The output waits for its least time off."),
        Shown(
            "dot blinking",
            "The reading is outside the limits.",
            "Look at what is hot or cold before you change a limit.",
        ),
    ),
    errors=(
        Shown("noPE", "No sensor, or its wire is broken.", "Supply off. Look at both terminals and the probe’s head."),
        Shown("OUEr", "Above what the input can show.", "Is the right input chosen under wirE?"),
    ),
    note="Invented, to learn on. A value is kept as you go on to the next page.",
    hysteresis_school="one_sided",
    terminals=terminals("A1=L A2=N B1=COM B2=NO B3=NC C1=AL1 C2=AL2 D1=IN+ D2=IN- D3=IN3", "controller_relay"),
)
