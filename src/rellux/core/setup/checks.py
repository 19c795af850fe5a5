"""Checks of a parameter sheet against the rig: what is dangerous, what will not work, what could be better."""

from ..errors import Refused
from ..explain import Figure, Input
from ..findings import Finding, Proposal, Severity, worst_first
from ..heating.switches import relay_life
from ..messages import difference, quantity, span, temperature
from ..process.cycles import pulse_ripple
from ..process.models import FOPDT
from ..process.on_off import steady, swing_figures, switching_of
from ..sensing.sensors import describe, sensor_range
from ..units import Kind
from .alarm_checks import check_alarms
from .cooler_checks import check_cooler
from .correction_checks import check_offset, check_school
from .input_checks import check_input
from .loop_checks import check_loop, holding_duty, thresholds
from .parameters import CONTINUOUS, LEAST_PERIOD_S, Sheet, settings_from
from .proposals import PERIODS, cold_headroom, headroom
from .proposals.cooler import REST_S
from .proposals.facts import RigFacts
from .start_checks import check_starts

LEAST_REST_S = 180.0
"""Shorter, a compressor is started against uneven pressures, s (makers say three to five minutes, from memory)."""
RELAY_PERIOD_S, SSR_PERIOD_S = 10.0, 5.0
"""Shorter a relay wears out; longer an SSR only adds ripple, s (common practice, no source)."""


_EVERY = (check_input, check_starts, check_alarms)


def check_sheet(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Findings about a complete sheet, worst first."""
    found: list[Finding] = []
    if facts.purpose.cools:
        cooled = (_input_type, _cold_limits, _action, _failure_output, _rest, _thresholds, check_school, check_offset)
        return worst_first([f for check in (*cooled, *_EVERY) for f in check(sheet, facts)])
    if not facts.purpose.heats:
        watched = (_input_type, check_school, check_offset, check_input, check_alarms)
        return worst_first([f for check in watched for f in check(sheet, facts)])
    for check in (
        _input_type,
        _limits,
        _action,
        _failure_output,
        _period,
        check_school,
        check_offset,
        _swing,
        _headroom,
        _alive,
        check_cooler,
        *((_rest,) if facts.purpose.has_compressor else ()),
        *_EVERY,
    ):
        found.extend(check(sheet, facts))
    found.extend(check_loop(sheet, facts))
    return worst_first(found)


def _thresholds(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    found = thresholds(sheet, facts)
    return [found] if found else []


def _alive(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Whether a fire goes out while it waits, and whether what keeps it alight heats too much."""
    fire, full = facts.purpose.fire, facts.full_rise_c
    if fire is None or full is None:
        return []
    after, breath = float(sheet.get("alive_after_s", 0.0)), float(sheet.get("alive_s", 0.0))
    if after <= 0 or breath <= 0:
        return [
            Finding(
                "setup.goes-out",
                Severity.ADVICE,
                title="Nothing keeps the fire alight while it waits",
                reason="Above its set-point the fan stands for as long as it takes; embers without air are out in half an hour or so.",
                fix="A breath of the fan now and then, if the controller can; else somebody looks after it.",
                subjects=("alive_after_s", "alive_s"),
            )
        ]
    share = fire.idle + (1.0 - fire.idle) * breath / (after + breath)
    rests, p = facts.purpose.ambient_c + full * share, facts.purpose
    if rests < p.working_c:
        return []
    return [
        Finding(
            "setup.alive-heats",
            Severity.DANGER if rests >= p.highest_c else Severity.FAULT,
            title=f"Kept alight so, it settles at {temperature(rests, '.0f')} by itself",
            reason=f"A breath of {quantity(breath, 's')} every {quantity(after, 's')} and what glows on are "
            f"{quantity(share * 100, '%', '.0f')} of its heat, and no set-point takes that away. "
            f"Highest allowed is {temperature(p.highest_c)}.",
            fix="Shorter breaths, further apart, and a door that closes.",
            subjects=("alive_after_s", "alive_s"),
            source="as such a rig is taken to be; Tuning finds out",
        )
    ]


def _number(sheet: Sheet, name: str) -> float:
    return float(sheet[name])


def _input_type(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    if sheet["input_type"] == facts.sensor:
        return []
    return [
        Finding(
            "setup.input-type",
            Severity.DANGER,
            title="Input set for another sensor",
            reason=f"The controller expects a {describe(str(sheet['input_type']))}, the rig has a {describe(facts.sensor)}: "
            "the display shows plausible but wrong numbers.",
            fix=f"Set the input to {describe(facts.sensor)}.",
            subjects=("input_type",),
            proposal=Proposal("setup.input_type", facts.sensor, label=f"Set it to {facts.sensor}"),
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
                title="Set-point limit above what is allowed",
                reason=(
                    f"Somebody could ask for {temperature(high)}, but "
                    f"{temperature(p.highest_c)} is the most: {p.highest_reason}."
                ),
                fix=f"Lower the limit to {temperature(safe)}.",
                subjects=("setpoint_high_c",),
                proposal=Proposal("setup.setpoint_high_c", safe, label=f"Lower it to {temperature(safe)}"),
            )
        )
    if high > sensor_high:
        found.append(
            Finding(
                "setup.limit-above-sensor",
                Severity.FAULT,
                title="Set-point limit beyond the sensor",
                reason=f"A {describe(facts.sensor)} ends at {temperature(sensor_high)}.",
                fix="Lower the limit into the sensor's range.",
                subjects=("setpoint_high_c",),
            )
        )
    return [*found, *_between(low, setpoint, high)]


def _between(low: float, setpoint: float, high: float) -> list[Finding]:
    """A set-point that its own limits do not allow."""
    if low <= setpoint <= high:
        return []
    return [
        Finding(
            "setup.setpoint-outside-limits",
            Severity.FAULT,
            title="Set-point outside its own limits",
            reason=f"{temperature(setpoint)} is outside {span(low, high, '°C')}: the controller will refuse or clip it.",
            fix=f"A set-point of {span(low, high, '°C')}, or another limit.",
            subjects=("setpoint_c", "setpoint_high_c", "setpoint_low_c"),
        )
    ]


def _cold_limits(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """What may be asked for below: the mirror of a heater's upper limit."""
    found = []
    high, low, setpoint = (_number(sheet, n) for n in ("setpoint_high_c", "setpoint_low_c", "setpoint_c"))
    p = facts.purpose
    lowest = p.lowest_c if p.lowest_c is not None else low - 1.0
    safe = round(lowest + cold_headroom(p), 1)
    if low <= lowest:
        found.append(
            Finding(
                "setup.limit-below-lowest",
                Severity.DANGER,
                title="Set-point limit below what is allowed",
                reason=f"Somebody could ask for {temperature(low)}, but {temperature(lowest)} is the least: {p.lowest_reason}.",
                fix=f"Raise the limit to {temperature(safe)}.",
                subjects=("setpoint_low_c",),
                proposal=Proposal("setup.setpoint_low_c", safe, label=f"Raise it to {temperature(safe)}"),
            )
        )
    return [*found, *_between(low, setpoint, high)]


def _rest(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """A compressor that is started again too soon."""
    rest = _number(sheet, "minimum_off_s")
    if rest >= LEAST_REST_S:
        return []
    return [
        Finding(
            "setup.rest",
            Severity.FAULT,
            title=f"The compressor may start again after {quantity(rest, 's')}",
            reason="Its pressures are not even yet: it stalls against them, draws its starting current and trips or burns.",
            fix=f"At least {quantity(LEAST_REST_S, 's')}, or what its maker says.",
            subjects=("minimum_off_s",),
            proposal=Proposal("setup.minimum_off_s", REST_S, label=f"Let it rest {quantity(REST_S, 's')}"),
            source="typical, from memory",
        )
    ]


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
            title="Set-point limit sits on the working temperature",
            reason=f"There is {difference(gap, '.1f')} between them: no room to tune or to correct an offset.",
            fix=f"Raise the limit to {temperature(safe)}, which is still clear of {temperature(facts.purpose.highest_c)}.",
            subjects=("setpoint_high_c",),
            proposal=Proposal("setup.setpoint_high_c", safe, label=f"Raise it to {temperature(safe)}"),
        )
    ]


def _action(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    if sheet["action"] == ("cooling" if facts.purpose.cools else "heating"):
        return []
    if facts.purpose.cools:
        return [
            Finding(
                "setup.action",
                Severity.DANGER,
                title="Action set to heating on a cooler",
                reason="Warm it never cools; below the set-point it runs without end and freezes what is in it.",
                fix="Set the action to cooling (direct).",
                subjects=("action",),
                proposal=Proposal("setup.action", "cooling", label="Set it to cooling"),
            )
        ]
    return [
        Finding(
            "setup.action",
            Severity.DANGER,
            title="Action set to cooling where it heats",
            reason="From cold it never heats; above the set-point it runs away at full power.",
            fix="Set the action to heating (reverse).",
            subjects=("action",),
            proposal=Proposal("setup.action", "heating", label="Set it to heating"),
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
            title=f"{'Cooling' if facts.purpose.cools else 'Heat'} stays on when the sensor is lost",
            reason=f"With a broken sensor the output goes to {quantity(value, '%')} and nothing in the controller watches it.",
            fix="Set it to 0 %.",
            subjects=("sensor_failure_output",),
            proposal=Proposal("setup.sensor_failure_output", 0.0, label="Set it to 0 %"),
        )
    ]


def _period(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    period = _number(sheet, "period_s")
    if sheet["mode"] != "pid":
        return []
    if (period < LEAST_PERIOD_S) != (facts.actuator == CONTINUOUS):
        return [_continuous(period, facts)]
    if facts.actuator in ("relay", "contactor") and period < RELAY_PERIOD_S:
        life = relay_life(period)
        return [
            Finding(
                "setup.period-relay",
                Severity.FAULT,
                title="Control period wears the relay out",
                reason=(
                    f"At {quantity(period, 's')} its contacts last about "
                    f"{quantity(life.value / 3600, 'h', '.0f')} of cycling."
                ),
                fix="Use 20 s.",
                subjects=("period_s",),
                figures=(life,),
                proposal=Proposal("setup.period_s", 20.0, label="Set it to 20 s"),
                source="common practice, no source",
            )
        ]
    ripple = _ripple(period, facts.process, facts)
    if facts.actuator == "ssr" and period > SSR_PERIOD_S:
        return [
            Finding(
                "setup.period-ssr",
                Severity.ADVICE,
                title="Control period longer than an SSR needs",
                reason=f"{quantity(period, 's')} suits a mechanical relay; with an SSR it only adds ripple.",
                fix="Use 2 s.",
                subjects=("period_s",),
                figures=ripple,
                proposal=Proposal("setup.period_s", 2.0, label="Set it to 2 s"),
                source="common practice, no source",
            )
        ]
    return []


def _continuous(period: float, facts: RigFacts) -> Finding:
    usual = PERIODS[facts.actuator]
    if facts.actuator == CONTINUOUS:
        title, reason = (
            "A period is set where the output is continuous",
            "In pulses it asks the unit for all or nothing, and it flickers.",
        )
    else:
        title, reason = (
            "The output is continuous, and what it drives can only be on or off",
            "Half of it is then nothing, or chatters: a share needs a period, or a unit that takes shares.",
        )
    says = quantity(usual, "s")
    return Finding(
        "setup.continuous",
        Severity.FAULT,
        title=title,
        reason=f"{quantity(period, 's')} is set. {reason}",
        fix=f"Use {says}.",
        subjects=("period_s",),
        proposal=Proposal("setup.period_s", usual, label=f"Set it to {says}"),
        source="common practice, no source",
    )


def _ripple(period: float, process: FOPDT | None, facts: RigFacts) -> tuple[Figure, ...]:
    if process is None:
        return ()
    duty = holding_duty(process, facts.purpose)
    return (
        Figure(
            "ripple from the control period",
            pulse_ripple(process, duty, period),
            Kind.DIFFERENCE,
            formula="ΔT₊ (1 − e^(−d T_c/τ))(1 − e^(−(1−d) T_c/τ)) / (1 − e^(−T_c/τ))",
            inputs=(
                Input("full-power rise", process.full_power_rise_c, Kind.DIFFERENCE, "ΔT₊", "identified"),
                Input("duty", duty, Kind.RATIO, "d", "computed"),
                Input("control period", period, Kind.TIME, "T_c", "set-up"),
                Input("lag", process.lag_s, Kind.TIME, "τ", "identified"),
            ),
            reason="Peak to peak; a second lag makes it smaller.",
            source="exact first-order response to a square wave",
        ),
    )


def _swing(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """On/off whose swing, as the identified process predicts it, leaves the window."""
    p = facts.purpose
    if sheet["mode"] != "on_off" or facts.process is None or float(sheet.get("output_low", 0.0)) > 0.0:
        return []  # what never switches off swings otherwise: that it does not is said
    process, by = (
        facts.model or facts.process,
        switching_of(settings_from(sheet, p), p.ambient_c),
    )
    try:
        found = steady(process, by)
    except Refused:
        return []
    peak, trough = p.ambient_c + found.peak, p.ambient_c + found.trough
    if peak <= p.highest_c and (p.lowest_c is None or trough >= p.lowest_c):
        return []
    return [
        Finding(
            "setup.swing",
            Severity.ADVICE,
            title="On/off swings out of the window",
            reason=f"It would go through {span(trough, peak, '°C', '.1f')}.",
            fix="Use PID as proposed in Tuning, or a smaller hysteresis.",
            subjects=("mode", "hysteresis_c"),
            figures=swing_figures(process, by, found),
        )
    ]
