"""The neutral dictionary of controller parameters: standard names, meaning, kind, range and choices.

A parameter sheet is a mapping from these names to values in the core's units (°C, s, %).
"""

from collections.abc import Iterable
from dataclasses import dataclass

from ..calibration.schools import SAYS, OffsetSchool, converted
from ..control.pid import PID
from ..control.settings import ControllerSettings, HysteresisSchool, Mode
from ..errors import Problem, refuse, refuse_all
from ..messages import of_kind, span_of
from ..purpose.purpose import Effect, Purpose
from ..sensing.sensors import NAMES
from ..units import Kind

Value = float | str
Sheet = dict[str, Value]


@dataclass(frozen=True)
class Parameter:
    """One parameter; numbers have ``kind``, ``low`` and ``high``, choices have ``choices`` (value, words)."""

    name: str
    title: str
    meaning: str
    group: str
    kind: Kind | None = None
    low: float = 0.0
    high: float = 0.0
    choices: tuple[tuple[str, str], ...] = ()
    applies_in: tuple[Mode, ...] = ()


_SENSORS = tuple((name, name if name.startswith("Pt") else f"Type {name}") for name in NAMES)

PARAMETERS = (
    Parameter("input_type", "Input type", "Which sensor the input expects.", "Input", choices=_SENSORS),
    Parameter(
        "display_unit",
        "Display unit",
        "Set this first: many controllers keep the digits of every other value when it changes.",
        "Input",
        choices=(("C", "°C"), ("F", "°F")),
    ),
    Parameter(
        "offset_school",
        "Offset is",
        "How this controller is made: an offset of one kind corrects the wrong way in the other. Try 1 ° to find out.",
        "Input",
        choices=tuple((school.value, SAYS[school].capitalize()) for school in OffsetSchool),
    ),
    Parameter("offset_c", "Offset", "In the sense of the line above.", "Input", Kind.DIFFERENCE, -50, 50),
    Parameter("setpoint_c", "Set-point", "What it holds.", "Control", Kind.TEMPERATURE, -200, 1800),
    Parameter(
        "setpoint_high_c", "Set-point high limit", "Nobody can ask for more.", "Limits", Kind.TEMPERATURE, -200, 1800
    ),
    Parameter(
        "setpoint_low_c", "Set-point low limit", "Nobody can ask for less.", "Limits", Kind.TEMPERATURE, -200, 1800
    ),
    Parameter(
        "mode",
        "Control mode",
        "How the output is decided.",
        "Control",
        choices=(("on_off", "On/off"), ("pid", "PID"), ("off", "Off")),
    ),
    Parameter(
        "action",
        "Action",
        "Whether more output comes when it is too cold, or when it is too warm.",
        "Control",
        choices=(("heating", "Heating"), ("cooling", "Cooling")),
    ),
    Parameter(
        "hysteresis_c",
        "Hysteresis",
        "Between switching off and on.",
        "On/off",
        Kind.DIFFERENCE,
        0,
        50,
        (),
        (Mode.ON_OFF,),
    ),
    Parameter(
        "hysteresis_school",
        "Hysteresis lies",
        "Where it sits round the set-point.",
        "On/off",
        choices=(("one_sided", "Before it"), ("centred", "Half and half")),
        applies_in=(Mode.ON_OFF,),
    ),
    Parameter(
        "proportional_band_c",
        "Proportional band",
        "Over which the output goes from full to none.",
        "PID",
        Kind.DIFFERENCE,
        0.1,
        3000,
        (),
        (Mode.PID,),
    ),
    Parameter("integral_time_s", "Integral time", "0 switches it off.", "PID", Kind.TIME, 0, 36000, (), (Mode.PID,)),
    Parameter("derivative_time_s", "Derivative time", "0 switches it off.", "PID", Kind.TIME, 0, 9000, (), (Mode.PID,)),
    Parameter(
        "period_s",
        "Control period",
        "One on-and-off of the output. 0: it is continuous.",
        "Output",
        Kind.TIME,
        0,
        300,
        (),
        (Mode.PID,),
    ),
    Parameter("output_high", "Output high limit", "Most power it may use.", "Output", Kind.PERCENT, 1, 100),
    Parameter(
        "sensor_failure_output",
        "Output on sensor failure",
        "0 %: nothing while it is blind.",
        "Output",
        Kind.PERCENT,
        0,
        100,
    ),
    Parameter(
        "minimum_off_s",
        "Least time off",
        "A compressor rests until its pressures are even.",
        "Compressor",
        Kind.TIME,
        0,
        3600,
    ),
    Parameter("minimum_on_s", "Least time on", "Until its oil has come back.", "Compressor", Kind.TIME, 0, 3600),
    Parameter(
        "alive_after_s",
        "Longest time off",
        "Then the fan breathes once. 0: the fire may go out.",
        "Fire",
        Kind.TIME,
        0,
        86_400,
    ),
    Parameter("alive_s", "One breath", "So long the fan runs to keep it alight.", "Fire", Kind.TIME, 0, 1800),
)

WATCHED = "Input"
"""The group of parameters that a rig has which only watches."""


COMPRESSOR, FIRE = "Compressor", "Fire"
"""The groups of one that cools, and of one with a fire."""


def parameters_for(purpose: Purpose) -> tuple[Parameter, ...]:
    """The parameters of a rig that heats, cools, or only watches."""
    if not purpose.acts:
        return tuple(p for p in PARAMETERS if p.group == WATCHED)
    none = {COMPRESSOR: not purpose.cools, FIRE: purpose.fire is None}
    return tuple(p for p in PARAMETERS if not none.get(p.group) and not (purpose.cools and p.applies_in == (Mode.PID,)))


def check_has(names: Iterable[str], purpose: Purpose) -> None:
    """Raise ``Refused`` for parameters that a rig of this purpose does not have."""
    known = [p.name for p in parameters_for(purpose)]
    why = {
        Effect.HEATS: "this rig has no compressor: it has no such setting",
        Effect.COOLS: "a compressor is switched on and off: it has no such setting",
        Effect.WATCHES: "this rig only watches: it has no such setting",
    }[purpose.effect]
    why = (
        "only a fire is kept alight"
        if purpose.heats and purpose.fire is None and {"alive_after_s", "alive_s"} & set(names)
        else why
    )
    refuse_all(Problem(name, why, ", ".join(known)) for name in names if name in BY_NAME and name not in known)


BY_NAME = {p.name: p for p in PARAMETERS}


def spoken_value(name: str, value: Value) -> str:
    """A parameter with its value for a sentence: ``set-point 60 °C``, ``control mode on/off``."""
    parameter = BY_NAME.get(name)
    if parameter is None:
        return f"{name.replace('_', ' ')} {value}"
    title = parameter.title.lower()
    if isinstance(value, str):
        return f"{title} {dict(parameter.choices).get(value, value).lower()}"
    return f"{title} {of_kind(value, parameter.kind)}"


def check_values(values: Sheet) -> None:
    """Raise ``Refused`` for unknown names, wrong types, values out of range and unknown choices."""
    problems = []
    for name, value in values.items():
        parameter = BY_NAME.get(name)
        if parameter is None:
            problems.append(Problem(name, "is not a parameter of the sheet", ", ".join(BY_NAME)))
        elif parameter.choices:
            allowed = [c for c, _ in parameter.choices]
            if value not in allowed:
                problems.append(Problem(name, f"{value!r} is not one of the choices", ", ".join(allowed)))
        elif isinstance(value, str | bool) or not parameter.low <= value <= parameter.high:
            problems.append(
                Problem(name, f"{value!r} is out of range", span_of(parameter.low, parameter.high, parameter.kind))
            )
    refuse_all(problems)


CONTINUOUS, LEAST_PERIOD_S = "phase_angle", 0.1
"""The switch that takes shares of the power; the shortest period of any other, s (what controllers offer)."""


def check_period(values: Sheet, actuator: str) -> None:
    """Raise ``Refused`` for a period that only a continuous output has, where what it drives can only be on or off."""
    period = values.get("period_s")
    if isinstance(period, int | float) and period < LEAST_PERIOD_S and actuator != CONTINUOUS:
        raise refuse("period_s", "what it drives can only be on or off", span_of(LEAST_PERIOD_S, 300, Kind.TIME))


def settings_from(sheet: Sheet, effect: Effect = Effect.HEATS, burns: bool = False) -> ControllerSettings:
    """Controller settings from a complete sheet. Whether it cools, or is a fire, is the rig's affair, not the sheet's: the checks insist on
    the action."""
    integral = float(sheet["integral_time_s"])
    mode = Mode(str(sheet["mode"]))
    return ControllerSettings(
        setpoint_c=float(sheet["setpoint_c"]),
        mode=mode,
        hysteresis_c=float(sheet["hysteresis_c"]),
        hysteresis_school=HysteresisSchool(str(sheet["hysteresis_school"])),
        pid=PID(
            100.0 / float(sheet["proportional_band_c"]),
            integral if integral > 0 else float("inf"),
            float(sheet["derivative_time_s"]),
        ),
        period_s=float(sheet["period_s"]),
        output_high=float(sheet["output_high"]),
        offset_c=converted(
            float(sheet["offset_c"]), OffsetSchool(str(sheet["offset_school"])), OffsetSchool.ADDED_TO_READING
        ),
        cools=effect is Effect.COOLS,
        rest_s=float(sheet.get("minimum_off_s", 0.0)) if effect is Effect.COOLS else 0.0,
        run_s=float(sheet.get("minimum_on_s", 0.0)) if effect is Effect.COOLS else 0.0,
        alive_after_s=float(sheet.get("alive_after_s", 0.0)) if burns else 0.0,
        alive_s=float(sheet.get("alive_s", 0.0)) if burns else 0.0,
    )
