"""Checks of a parameter sheet against the rig: what is dangerous, what will not work, what could be better."""

from ..calibration.schools import SAYS, OffsetSchool, converted
from ..control.onoff import FOPDT, cycle, predicted_swing
from ..errors import Refused
from ..explain import Figure, Input
from ..findings import Finding, Proposal, Severity, worst_first
from ..heating.switches import relay_life
from ..sensing.sensors import describe, sensor_range, tolerance
from ..units import Kind, spoken_difference
from .parameters import Sheet, settings_from
from .proposals import RigFacts, headroom


def check_sheet(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Findings about a complete sheet, worst first."""
    found: list[Finding] = []
    for check in (_input_type, _limits, _action, _failure_output, _period, _offset_school, _offset, _swing, _headroom):
        found.extend(check(sheet, facts))
    return worst_first(found)


def _number(sheet: Sheet, name: str) -> float:
    return float(sheet[name])


def _input_type(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    if sheet["input_type"] == facts.sensor:
        return []
    return [
        Finding(
            "setup.input-type",
            Severity.DANGER,
            "Input set for another sensor",
            f"The controller expects a {describe(str(sheet['input_type']))}, the rig has a {describe(facts.sensor)}: "
            "the display shows plausible but wrong numbers.",
            f"Set the input to {describe(facts.sensor)}.",
            ("input_type",),
            proposal=Proposal("setup.input_type", facts.sensor, f"Set it to {facts.sensor}"),
        )
    ]


def _limits(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    found = []
    high, low, setpoint = (_number(sheet, n) for n in ("setpoint_high_c", "setpoint_low_c", "setpoint_c"))
    p = facts.purpose
    safe = round(p.highest_c - headroom(p), 1)
    sensor_high = sensor_range(facts.sensor)[1]
    if high >= p.highest_c:
        found.append(
            Finding(
                "setup.limit-above-highest",
                Severity.DANGER,
                "Set-point limit above what is allowed",
                f"Somebody could ask for {high:g} °C, but {p.highest_c:g} °C is the most: {p.highest_reason}.",
                f"Lower the limit to {safe:g} °C.",
                ("setpoint_high_c",),
                proposal=Proposal("setup.setpoint_high_c", safe, f"Lower it to {safe:g} °C"),
            )
        )
    if high > sensor_high:
        found.append(
            Finding(
                "setup.limit-above-sensor",
                Severity.FAULT,
                "Set-point limit beyond the sensor",
                f"A {describe(facts.sensor)} ends at {sensor_high:g} °C.",
                "Lower the limit into the sensor's range.",
                ("setpoint_high_c",),
            )
        )
    if not low <= setpoint <= high:
        found.append(
            Finding(
                "setup.setpoint-outside-limits",
                Severity.FAULT,
                "Set-point outside its own limits",
                f"{setpoint:g} °C is outside {low:g}…{high:g} °C: the controller will refuse or clip it.",
                f"A set-point of {low:g}…{high:g} °C, or another limit.",
                ("setpoint_c", "setpoint_high_c", "setpoint_low_c"),
            )
        )
    return found


def _headroom(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """The limit sits on the working temperature: ordinary adjustment is blocked, often a unit slip."""
    gap = _number(sheet, "setpoint_high_c") - facts.purpose.working_c
    if not 0 <= gap < 1.0:
        return []
    safe = round(facts.purpose.highest_c - headroom(facts.purpose), 1)
    return [
        Finding(
            "setup.limit-on-setpoint",
            Severity.ADVICE,
            "Set-point limit sits on the working temperature",
            f"There is {spoken_difference(gap)} between them: no room to tune or to correct an offset.",
            f"Raise the limit to {safe:g} °C, which is still clear of {facts.purpose.highest_c:g} °C.",
            ("setpoint_high_c",),
            proposal=Proposal("setup.setpoint_high_c", safe, f"Raise it to {safe:g} °C"),
        )
    ]


def _action(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    if sheet["action"] == "heating":
        return []
    return [
        Finding(
            "setup.action",
            Severity.DANGER,
            "Action set to cooling on a heater",
            "From cold it never heats; above the set-point it runs away at full power.",
            "Set the action to heating (reverse).",
            ("action",),
            proposal=Proposal("setup.action", "heating", "Set it to heating"),
        )
    ]


def _failure_output(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    value = _number(sheet, "sensor_failure_output")
    if value == 0:
        return []
    return [
        Finding(
            "setup.failure-output",
            Severity.DANGER,
            "Heat stays on when the sensor is lost",
            f"With a broken sensor the output goes to {value:g} % and nothing in the controller watches it.",
            "Set it to 0 %.",
            ("sensor_failure_output",),
            proposal=Proposal("setup.sensor_failure_output", 0.0, "Set it to 0 %"),
        )
    ]


def _period(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    period = _number(sheet, "period_s")
    if sheet["mode"] != "pid":
        return []
    if facts.actuator in ("relay", "contactor") and period < 10:
        life = relay_life(period)
        return [
            Finding(
                "setup.period-relay",
                Severity.FAULT,
                "Control period wears the relay out",
                f"At {period:g} s its contacts last about {life.value / 3600:.0f} h of cycling.",
                "Use 20 s.",
                ("period_s",),
                (life,),
                Proposal("setup.period_s", 20.0, "Set it to 20 s"),
                "common practice, no source",
            )
        ]
    ripple = _ripple(period, facts.process, facts)
    if facts.actuator == "ssr" and period > 5:
        return [
            Finding(
                "setup.period-ssr",
                Severity.ADVICE,
                "Control period longer than an SSR needs",
                f"{period:g} s suits a mechanical relay; with an SSR it only adds ripple.",
                "Use 2 s.",
                ("period_s",),
                ripple,
                Proposal("setup.period_s", 2.0, "Set it to 2 s"),
                "common practice, no source",
            )
        ]
    return []


def _ripple(period: float, process: FOPDT | None, facts: RigFacts) -> tuple[Figure, ...]:
    if process is None:
        return ()
    duty = min((facts.purpose.working_c - facts.purpose.ambient_c) / process.full_power_rise_c, 1.0)
    return (
        Figure(
            "ripple from the control period",
            process.full_power_rise_c * duty * (1 - duty) * period / process.lag_s,
            Kind.DIFFERENCE,
            "ΔT₊ d (1 − d) T_c / τ",
            (
                Input("full-power rise", process.full_power_rise_c, Kind.DIFFERENCE, "ΔT₊", "identified"),
                Input("duty", duty, Kind.RATIO, "d", "computed"),
                Input("control period", period, Kind.TIME, "T_c", "set-up"),
                Input("lag", process.lag_s, Kind.TIME, "τ", "identified"),
            ),
            "Peak to peak; a second lag makes it smaller.",
            "first-order response to a square wave, first term",
        ),
    )


def _swing(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """On/off whose swing, as the identified process predicts it, leaves the window."""
    p = facts.purpose
    if sheet["mode"] != "on_off" or facts.process is None:
        return []
    settings = settings_from(sheet)
    try:
        found = cycle(
            facts.process,
            settings.setpoint_c + settings.switch_off_offset - p.ambient_c,
            settings.setpoint_c + settings.switch_on_offset - p.ambient_c,
        )
    except Refused:
        return []
    peak, trough = p.ambient_c + found.peak, p.ambient_c + found.trough
    if peak <= p.highest_c and (p.lowest_c is None or trough >= p.lowest_c):
        return []
    return [
        Finding(
            "setup.swing",
            Severity.ADVICE,
            "On/off swings out of the window",
            f"It would go through {trough:.1f}…{peak:.1f} °C. A second lag makes the real swing smaller, so look at a run.",
            "Use PID as proposed in Tuning, or a smaller hysteresis.",
            ("mode", "hysteresis_c"),
            predicted_swing(facts.process, settings, p.ambient_c),
        )
    ]


def _offset_school(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    school, real = OffsetSchool(str(sheet["offset_school"])), facts.controller_school
    if real is None or school is real:
        return []
    offset = _number(sheet, "offset_c")
    return [
        Finding(
            "setup.offset-school",
            Severity.DANGER if offset else Severity.FAULT,
            "Offset of the other kind",
            f"The sheet's offset of {spoken_difference(offset, '+.1f')} is {SAYS[school]}, the linked controller's {SAYS[real]}. "
            "The same number corrects the other way there: the error doubles.",
            f"Convert it to {spoken_difference(converted(offset, school, real), '+.1f')}, {SAYS[real]}.",
            ("offset_school", "offset_c"),
            proposal=Proposal("setup.offset_school", real.value, "Convert it"),
        )
    ]


def _offset(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    offset = _number(sheet, "offset_c")
    if offset and facts.calibrated_sensor not in ("", facts.sensor):
        return [
            Finding(
                "setup.offset-inherited",
                Severity.FAULT,
                "Offset inherited from another sensor",
                f"{spoken_difference(offset, '+.1f')} was found with a {describe(facts.calibrated_sensor)}; now a "
                f"{describe(facts.sensor)} is fitted.",
                "Set it to zero first, then calibrate the new sensor.",
                ("offset_c",),
                proposal=Proposal("setup.offset_c", 0.0, "Set it to zero"),
                source="common practice, no source",
            )
        ]
    allowed = tolerance(facts.sensor, facts.purpose.working_c)
    if allowed is None or abs(offset) <= allowed:
        return []
    return [
        Finding(
            "setup.offset-large",
            Severity.FAULT,
            "Offset larger than the sensor explains",
            f"{spoken_difference(offset, '+.1f')} is in it, but a new {describe(facts.sensor)} is within "
            f"±{spoken_difference(allowed)} at "
            f"{facts.purpose.working_c:g} °C. It may be left over from another sensor, or hide a wrong input type.",
            "Set it to zero and calibrate again.",
            ("offset_c",),
            proposal=Proposal("setup.offset_c", 0.0, "Set it to zero"),
            source="IEC 60584-1 class 2, IEC 60751 class B",
        )
    ]
