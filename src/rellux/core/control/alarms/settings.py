"""What an alarm watches and how it behaves: its settings, the words for them, and what cannot be."""

from dataclasses import dataclass
from enum import StrEnum

from ...errors import Problem, refuse_all
from ...messages import quantity, span
from ...units import Kind
from . import kernel


class AlarmKind(StrEnum):
    """What is watched."""

    HIGH = "high"
    LOW = "low"
    ABOVE_SETPOINT = "above_setpoint"
    BELOW_SETPOINT = "below_setpoint"
    OUTSIDE_BAND = "outside_band"
    INSIDE_BAND = "inside_band"
    RISING = "rising"
    FALLING = "falling"
    LOOP_BREAK = "loop_break"
    MINIMUM_HEAT = "minimum_heat"
    HEATER_BREAK = "heater_break"
    CURRENT_WHILE_OFF = "current_while_off"
    RISING_WHILE_OFF = "rising_while_off"
    SENSOR_BREAK = "sensor_break"
    DISAGREE = "disagree"
    PROGRAMME_END = "programme_end"
    HOLDBACK = "holdback"


class Standby(StrEnum):
    """Whether it is held until it was first in range, and held again when the set-point is changed."""

    NONE = "none"
    FIRST = "first"
    EVERY = "every"


class Action(StrEnum):
    """What an alarm does."""

    BEACON = "beacon"
    BUZZER = "buzzer"
    OUTPUT_OFF = "output_off"
    CONTACTOR = "contactor"


@dataclass(frozen=True)
class KindWords:
    """How a kind is spoken of. ``quantity`` is that of its value (``None``: it has none); ``window`` what its time means, ``move`` what it
    must move by; empty where the kind has none; ``needs``: what is looked at. ``low``/``high``: sense values are between."""

    label: str
    means: str
    quantity: Kind | None = Kind.DIFFERENCE
    low: float = 0.0
    high: float = 500.0
    window: str = ""
    move: str = ""
    hysteresis: bool = True
    needs: tuple[str, ...] = ("reading_c",)


_AGAINST_SETPOINT = ("reading_c", "setpoint_c")
_WITH_OUTPUT = ("reading_c", "output")
_WITH_CURRENT = ("output", "current_a")
KINDS: dict[AlarmKind, KindWords] = {
    AlarmKind.HIGH: KindWords("Too hot", "reading at or above the value", Kind.TEMPERATURE, -200.0, 1900.0),
    AlarmKind.LOW: KindWords("Too cold", "reading at or below the value", Kind.TEMPERATURE, -200.0, 1900.0),
    AlarmKind.ABOVE_SETPOINT: KindWords(
        "Above set-point", "reading above the set-point by the value", needs=_AGAINST_SETPOINT
    ),
    AlarmKind.BELOW_SETPOINT: KindWords(
        "Below set-point", "reading below the set-point by the value", needs=_AGAINST_SETPOINT
    ),
    AlarmKind.OUTSIDE_BAND: KindWords(
        "Outside a band", "reading further from the set-point than the value", needs=_AGAINST_SETPOINT
    ),
    AlarmKind.INSIDE_BAND: KindWords(
        "Inside a band", "reading nearer to the set-point than the value", needs=_AGAINST_SETPOINT
    ),
    AlarmKind.RISING: KindWords(
        "Rising too fast", "rise over the time", Kind.RATE, 0.0, 1000.0, "over the last", "", False
    ),
    AlarmKind.FALLING: KindWords(
        "Falling too fast", "fall over the time", Kind.RATE, 0.0, 1000.0, "over the last", "", False
    ),
    AlarmKind.LOOP_BREAK: KindWords(
        "Loop break",
        "output full for this long without the reading moving",
        Kind.TIME,
        1.0,
        86_400.0,
        "",
        "moves",
        False,
        _WITH_OUTPUT,
    ),
    AlarmKind.MINIMUM_HEAT: KindWords(
        "Heats too slowly",
        "output full for this long, and it rose less",
        Kind.TIME,
        1.0,
        86_400.0,
        "",
        "must rise",
        False,
        _WITH_OUTPUT,
    ),
    AlarmKind.HEATER_BREAK: KindWords(
        "Heater broken",
        "current below the value while it is on",
        Kind.CURRENT,
        0.0,
        1000.0,
        "while on for",
        needs=_WITH_CURRENT,
    ),
    AlarmKind.CURRENT_WHILE_OFF: KindWords(
        "Current while off",
        "current at or above the value while it is off",
        Kind.CURRENT,
        0.0,
        1000.0,
        "while off for",
        needs=_WITH_CURRENT,
    ),
    AlarmKind.RISING_WHILE_OFF: KindWords(
        "Rising while off",
        "rise by the value with the output off",
        Kind.DIFFERENCE,
        0.0,
        500.0,
        "while off for",
        "",
        False,
        _WITH_OUTPUT,
    ),
    AlarmKind.SENSOR_BREAK: KindWords("Sensor broken", "no reading", None, hysteresis=False),
    AlarmKind.DISAGREE: KindWords(
        "Two sensors disagree", "further apart than the value", needs=("reading_c", "second_c")
    ),
    AlarmKind.PROGRAMME_END: KindWords(
        "Programme ended", "just after its end", None, hysteresis=False, needs=("programme_end",)
    ),
    AlarmKind.HOLDBACK: KindWords(
        "Waiting for the load", "while the programme holds back", None, hysteresis=False, needs=("holdback",)
    ),
}

_CODE = {
    **{kind: getattr(kernel, kind.name) for kind in AlarmKind if hasattr(kernel, kind.name)},
    AlarmKind.MINIMUM_HEAT: kernel.LOOP_BREAK,
    AlarmKind.PROGRAMME_END: kernel.EVENT,
    AlarmKind.HOLDBACK: kernel.EVENT,
}
_STANDBY = {Standby.NONE: kernel.NO_STANDBY, Standby.FIRST: kernel.FIRST_TIME, Standby.EVERY: kernel.EVERY_SETPOINT}
LONGEST_DELAY_S = 3600.0
"""Longest delay: what an hour hides nobody needs an alarm for (our choice)."""
LONGEST_GAP_S = 600.0
"""Longest without a reading that is not yet a broken sensor (our choice)."""
FLAG_ON = 0.5


@dataclass(frozen=True)
class AlarmSettings:
    """One alarm. ``value`` in the unit of its kind (°C, °C apart, °C/min, s, A); ``hysteresis`` in the same, on the side of the normal;
    ``window_s`` and ``move_c`` as its kind says; ``gap_s``: without a reading for longer is a broken sensor. ``de_energise``: its relay
    drops out to alarm, so that a lost supply alarms too. ``keeps_latch``: a latch outlasts a power cut."""

    kind: AlarmKind
    value: float = 0.0
    hysteresis: float = 1.0
    on_delay_s: float = 0.0
    off_delay_s: float = 0.0
    latching: bool = False
    standby: Standby = Standby.NONE
    window_s: float = 0.0
    move_c: float = 0.0
    gap_s: float = 5.0
    de_energise: bool = True
    keeps_latch: bool = True

    def row(self) -> list[float]:
        """For the compiled machine."""
        words = KINDS[self.kind]
        return [
            float(_CODE[self.kind]),
            self.value if words.quantity else FLAG_ON,
            self.hysteresis if words.hysteresis else 0.0,
            self.on_delay_s,
            self.off_delay_s,
            float(self.latching),
            float(_STANDBY[self.standby]),
            self.window_s,
            self.move_c,
            self.gap_s,
        ]


def alarm_problems(alarm: AlarmSettings, at: str = "") -> list[Problem]:
    """Every value that cannot be, field by field; ``at`` stands before the names."""
    words = KINDS[alarm.kind]
    unit = words.quantity
    found = []

    def unless(ok: bool, field: str, reason: str, accepted: str) -> None:
        if not ok:
            found.append(Problem(f"{at}{field}", reason, accepted))

    if unit:
        ends = f"{words.low:g}…{words.high:g}"
        unless(
            words.low <= alarm.value <= words.high, "value", f"{words.label.lower()} at {alarm.value:g} cannot be", ends
        )
    if words.hysteresis:
        most = words.high if unit is not Kind.TEMPERATURE else KINDS[AlarmKind.OUTSIDE_BAND].high
        unless(0 <= alarm.hysteresis <= most, "hysteresis", f"{alarm.hysteresis:g} cannot be", f"0…{most:g}")
        if unit is Kind.DIFFERENCE and alarm.kind is not AlarmKind.INSIDE_BAND:
            unless(
                alarm.hysteresis < alarm.value or alarm.value == 0,
                "hysteresis",
                "as large as the value: it would never clear",
                f"below {alarm.value:g}",
            )
    for name in ("on_delay_s", "off_delay_s"):
        delay = getattr(alarm, name)
        unless(0 <= delay <= LONGEST_DELAY_S, name, f"{quantity(delay, 's')} hides it", span(0, LONGEST_DELAY_S, "s"))
    unless(
        0 <= alarm.gap_s <= LONGEST_GAP_S, "gap_s", "so long without a reading is a fault", span(0, LONGEST_GAP_S, "s")
    )
    if words.window:
        unless(
            0 < alarm.window_s <= KINDS[AlarmKind.LOOP_BREAK].high,
            "window_s",
            f"say for how long it looks: {words.window}",
            span(0.1, KINDS[AlarmKind.LOOP_BREAK].high, "s"),
        )
    if words.move:
        unless(alarm.move_c > 0, "move_c", f"say by how much it {words.move}", "more than {0 Δ°C}")
    return found


def check_alarm(alarm: AlarmSettings) -> None:
    """Raises ``Refused`` naming every value that cannot be."""
    refuse_all(alarm_problems(alarm))
