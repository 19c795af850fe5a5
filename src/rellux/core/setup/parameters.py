"""Parameter sheets: which parameters a rig has, what their values may be, and the settings they make.

A sheet is a mapping from the names of the dictionary to values in the core's units (°C, s, %).
"""

from collections.abc import Container, Iterable
from dataclasses import replace

from ..calibration.corrections import MOST_POINTS, Correction, CorrectionPoint, check_correction
from ..calibration.schools import OffsetSchool, converted
from ..control.pid import PID
from ..control.settings import (
    FULL_OUTPUT,
    AntiWindup,
    ControllerSettings,
    CoolingBand,
    HysteresisSchool,
    InnerLoop,
    Mode,
)
from ..errors import Problem, Refused, refuse, refuse_all
from ..messages import of_kind, span_of
from ..purpose.cooler import Cooler
from ..purpose.purpose import Effect, Purpose
from ..units import Kind
from .dictionary import BY_NAME, PARAMETERS
from .dictionary.alarms import ALARM_NUMBERS, RELATIVE
from .dictionary.control import PID as UNDER_PID
from .dictionary.control import THRESHOLDS
from .dictionary.inner import INNER_LOOP, INNER_NAMES, LOOPS, TWO
from .dictionary.output import COMPRESSOR, COOLER, COOLING, FAN, FIRE, OUTPUTS
from .dictionary.parameter import Parameter, Value

Sheet = dict[str, Value]

WATCHED = ("Input", *(f"Alarm {n}" for n in ALARM_NUMBERS), "Retransmission", "Link", "Front")
"""The groups of parameters that a rig has which only watches."""
FOLLOWS = (*RELATIVE, "every", "control", "setpoint", "output")
"""Choices that only mean something where a set-point is followed."""
FUNCTION_NAMES = tuple(f"output_{n}" for n in OUTPUTS)
HEATS_ONLY = (
    "ramp_c_per_min",
    "soft_start_s",
    "output_low",
    "output_curve",
    "programme",
    "loop_break_s",
    "heater_break_a",
)
"""What no compressor has, which is switched on and off."""


def parameters_for(purpose: Purpose) -> tuple[Parameter, ...]:
    """The parameters of a rig that heats, cools, or only watches."""
    if not purpose.acts:
        return tuple(p for p in PARAMETERS if p.group in WATCHED or p.name in FUNCTION_NAMES)
    burns = purpose.fire is not None
    none = {
        COMPRESSOR: not purpose.has_compressor,
        FIRE: not burns,
        FAN: purpose.cools,
        COOLER: purpose.cooler is None,
        INNER_LOOP: purpose.heater_sensor is None,
    }
    return tuple(
        p
        for p in PARAMETERS
        if not none.get(p.group)
        and not (purpose.cools and (UNDER_PID in p.applies or p.name in HEATS_ONLY))
        and not (burns and p.name == "heater_break_a")
    )


def choices_for(parameter: Parameter, purpose: Purpose, value: Value | None) -> tuple[tuple[str, str], ...]:
    """The choices (value, words) that a rig may want of a parameter, with the one it has: one that only watches has nothing to follow, one
    without a cooler beside its heater none to switch."""
    lost = (*(FOLLOWS if not purpose.acts else ()), *((COOLING,) if purpose.cooler is None else ()))
    return tuple(c for c in parameter.choices if c[0] not in lost or c[0] == value)


def check_has(names: Iterable[str], purpose: Purpose) -> None:
    """Raise ``Refused`` for parameters that a rig of this purpose does not have."""
    known = [p.name for p in parameters_for(purpose)]
    why = {
        Effect.HEATS: "this rig has no compressor: it has no such setting",
        Effect.COOLS: "a compressor is switched on and off: it has no such setting",
        Effect.WATCHES: "this rig only watches: it has no such setting",
    }[purpose.effect]
    if purpose.heats and purpose.cooler is None and any(BY_NAME[n].group == COOLER for n in names if n in BY_NAME):
        why = "this rig has no cooler beside its heater: it has no such setting"
    if (
        purpose.cooler
        and not purpose.cooler.rests
        and any(BY_NAME[n].group == COMPRESSOR for n in names if n in BY_NAME)
    ):
        why = "what cools beside its heater is no compressor: it has no such setting"
    if purpose.heats and purpose.heater_sensor is None and set(INNER_NAMES) & set(names):
        why = "this rig has no second sensor at its heater: it has no such setting"
    why = (
        "only a fire is kept alight"
        if purpose.heats and purpose.fire is None and {"alive_after_s", "alive_s"} & set(names)
        else why
    )
    refuse_all(Problem(name, why, ", ".join(known)) for name in names if name in BY_NAME and name not in known)


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


LEAST_REACH = 1.0
"""Between its low and its high limit an output has so much at least, %: limits that cross are one value that it always gives."""
TUNING_PARAMETERS = (
    "mode",
    "hysteresis_c",
    "proportional_band_c",
    "integral_time_s",
    "derivative_time_s",
    *INNER_NAMES,
)
"""What a tuning writes."""


def same_tuning(then: Sheet, now: Sheet) -> bool:
    """Whether two sheets hold the same tuning, as far as the older one tells."""
    return all(then.get(name, now.get(name)) == now.get(name) for name in TUNING_PARAMETERS)


CORRECTS = (
    "gain_correction",
    "correction",
    *(f"point_{n}_{what}_c" for n in range(1, MOST_POINTS + 1) for what in ("at", "add")),
)
"""What corrects the reading beside the offset."""


def correction_of(sheet: Sheet) -> Correction:
    """What a sheet's offset, gain and points add to the reading; points that cannot be (:func:`check_points`) are left out."""
    school = OffsetSchool(str(sheet.get("offset_school", OffsetSchool.ADDED_TO_READING.value)))
    offset = converted(float(sheet.get("offset_c", 0.0)), school, OffsetSchool.ADDED_TO_READING)
    it = Correction(offset, float(sheet.get("gain_correction", 1.0)), _points(sheet))
    try:
        check_correction(it)
    except Refused:
        return replace(it, points=())
    return it


def check_points(sheet: Sheet) -> None:
    """Raise ``Refused`` where fewer than two points of a sheet rise, or they would show a hotter reading as a cooler one."""
    if sheet.get("correction") == "points" and len(_points(sheet)) < 2:
        raise refuse("point_2_at_c", "the second is not above the first", "the coolest first, each once")
    check_correction(Correction(gain=float(sheet.get("gain_correction", 1.0)), points=_points(sheet)))


def _points(sheet: Sheet) -> tuple[CorrectionPoint, ...]:
    """Up to where their temperatures rise no more: what comes after is not in use."""
    found: list[CorrectionPoint] = []
    for n in range(1, MOST_POINTS + 1) if sheet.get("correction") == "points" else ():
        at, add = (sheet.get(f"point_{n}_{what}_c") for what in ("at", "add"))
        if at is None or add is None or (found and float(at) <= found[-1].at_c):
            break
        found.append(CorrectionPoint(float(at), float(add)))
    return tuple(found)


def is_corrected(sheet: Sheet) -> bool:
    """Whether more than an offset corrects the reading."""
    it = correction_of(sheet)
    return it.gain != 1.0 or bool(it.points)


def half_corrected(sheet: Sheet, has: Container[str]) -> str:
    """Why an offset must not be entered where a sheet corrects by more than that and only parameters that it ``has`` can be set; empty
    where it may."""
    it = correction_of(sheet)
    if it.gain != 1.0 and "gain_correction" not in has:
        return f"it belongs to a gain of {it.gain:g}, which cannot be set here: alone it is wrong"
    if any(f"point_{n}_{what}_c" not in has for n in range(1, len(_least(it)) + 1) for what in ("at", "add")):
        return "it belongs to a correction by points, which cannot be set here: alone it is wrong"
    return ""


def _least(it: Correction) -> tuple[CorrectionPoint, ...]:
    """The points without those at the end that only go on with the last one's number."""
    points = it.points
    while len(points) > 1 and points[-1].add_c == points[-2].add_c:
        points = points[:-1]
    return points


def corrected_sheet(it: Correction, before: Sheet) -> Sheet:
    """What such a correction is in a sheet that held another one before. Points that it does not have take the last one's number, a degree
    further on each: a table is never left half old."""
    found: Sheet = {
        "offset_c": it.offset_c,
        "gain_correction": it.gain,
        "correction": "points" if it.points else "offset",
    }
    if not it.points:
        return found | {n: 0.0 for n in before if n.startswith("point_") and n.endswith("_add_c")}
    last = it.points[-1]
    for n in range(1, MOST_POINTS + 1):
        p = it.points[n - 1] if n <= len(it.points) else CorrectionPoint(last.at_c + n - len(it.points), last.add_c)
        found |= {f"point_{n}_at_c": p.at_c, f"point_{n}_add_c": p.add_c}
    return found


def added_at(sheet: Sheet, shown_c: float) -> float:
    """What is added to the reading where this is shown, °C."""
    return correction_of(sheet).added(shown_c)


def settings_from(sheet: Sheet, purpose: Purpose | None = None) -> ControllerSettings:
    """Controller settings from a complete sheet. Whether it cools, or is a fire, or has a cooler beside its heater is the rig's affair, not
    the sheet's: the checks insist on the action. Without a purpose it is a heater."""
    cools, heats = (purpose.cools, purpose.heats) if purpose else (False, True)
    burns = purpose is not None and purpose.fire is not None
    integral = float(sheet["integral_time_s"])
    between = sheet["hysteresis_school"] == THRESHOLDS and {"switch_on_c", "switch_off_c"} <= set(sheet)
    setpoint = float(sheet["switch_off_c"] if between else sheet["setpoint_c"])
    mode = Mode(str(sheet["mode"]))
    return ControllerSettings(
        setpoint_c=setpoint,
        mode=mode,
        hysteresis_c=abs(setpoint - float(sheet["switch_on_c"])) if between else float(sheet["hysteresis_c"]),
        hysteresis_school=HysteresisSchool(str(sheet["hysteresis_school"]))
        if sheet["hysteresis_school"] != THRESHOLDS
        else HysteresisSchool.ONE_SIDED,
        pid=PID(
            100.0 / float(sheet["proportional_band_c"]),
            integral if integral > 0 else float("inf"),
            float(sheet["derivative_time_s"]),
            float(sheet.get("setpoint_weight", 1.0)),
        ),
        period_s=float(sheet["period_s"]),
        output_low=min(float(sheet.get("output_low", 0.0)), float(sheet["output_high"]) - LEAST_REACH)
        if heats
        else 0.0,
        output_high=float(sheet["output_high"]),
        offset_c=added_at(sheet, setpoint),
        cools=cools,
        anti_windup=AntiWindup(str(sheet.get("anti_windup", AntiWindup.STOPS.value))),
        integrates_within_c=float(sheet.get("integrates_within_c", 0.0)),
        rest_s=float(sheet.get("minimum_off_s", 0.0)) if cools else 0.0,
        run_s=float(sheet.get("minimum_on_s", 0.0)) if cools else 0.0,
        alive_after_s=float(sheet.get("alive_after_s", 0.0)) if burns else 0.0,
        alive_s=float(sheet.get("alive_s", 0.0)) if burns else 0.0,
        ramp_c_per_s=float(sheet.get("ramp_c_per_min", 0.0)) / 60.0 if heats else 0.0,
        soft_start_s=float(sheet.get("soft_start_s", 0.0)) if heats else 0.0,
        cooling=_cooling(sheet, purpose.cooler) if purpose and purpose.cooler else None,
        inner=inner_of(sheet) if purpose and purpose.heater_sensor else None,
    )


LEAST_ASKED_C = 1.0
"""Between what is asked of a heater at no and at full output lies so much at least, °C: ends that cross ask for one value."""


def inner_of(sheet: Sheet) -> InnerLoop | None:
    """The loop at the heater; nothing where there is one loop, or a sheet of before there were two does not say. Ends that cross are the
    lower one's value."""
    if sheet.get(LOOPS) != TWO or not set(INNER_NAMES) <= set(sheet):
        return None
    band, integral, low, high = (float(sheet[n]) for n in INNER_NAMES if n != LOOPS)
    return InnerLoop(FULL_OUTPUT / band, integral, low, max(high, low + LEAST_ASKED_C))


def _cooling(sheet: Sheet, cooler: Cooler) -> CoolingBand | None:
    """When its cooler is on; a sheet of before it had one does not say."""
    if not {"cool_above_c", "cool_hysteresis_c"} <= set(sheet):
        return None
    rest_s, run_s = (float(sheet.get(n, 0.0)) if cooler.rests else 0.0 for n in ("minimum_off_s", "minimum_on_s"))
    return CoolingBand(float(sheet["cool_above_c"]), float(sheet["cool_hysteresis_c"]), rest_s, run_s)
