"""Checks of the loop's own numbers: display unit, band, derivative, hysteresis, control period and power against the process."""

from math import pi

from ..control.settings import AntiWindup
from ..findings import Finding, Proposal, Severity
from ..messages import difference, percent, quantity, temperature
from ..process.cycles import pulse_ripple
from ..process.models import FOPDT
from ..purpose.purpose import Purpose
from .dictionary import BY_NAME
from .dictionary.control import THRESHOLDS
from .inner_checks import MOST_JUMP, check_asked, check_inner, check_left_over, in_two_loops
from .parameters import Sheet, settings_from
from .proposals import PERIODS, propose
from .proposals.facts import RigFacts
from .proposals.inner import DIGIT_C

MOST_DERIVATIVE = 0.25
"""Derivative over integral time beyond which two of the loop's zeros turn complex and no series form exists (Åström & Hägglund)."""
TRANSISTOR_S = 1.0
"""Control period above which a transistor is used as a relay, s (common practice, no source)."""
LEAST_OUTPUT = 10.0
"""Output limit below which a rig of unknown process hardly warms, % (our choice)."""
RIPPLE_SHARE = 0.5
"""Share of the window that the control period's own ripple may take (our choice)."""


def check_loop(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Findings about the sheet's loop; those that need a process are silent until one is identified."""
    found = [
        _display_unit(sheet, facts),
        _output_limit(sheet, facts),
        check_left_over(sheet, facts),
        *check_asked(sheet, facts),
    ]
    if sheet["mode"] == "pid":
        both = in_two_loops(sheet, facts)
        found += [
            None if both else _band(sheet),
            None if both else _unstable(sheet, facts),
            *check_inner(sheet, facts),
            _derivative(sheet),
            _out_of_reach(sheet, facts),
            _winds_up(sheet),
            _anti_windup(sheet, facts),
            _transistor(sheet, facts),
            _period(sheet, facts),
        ]
    elif sheet["mode"] == "on_off":
        found += [_hysteresis(sheet, facts), thresholds(sheet, facts), _hysteresis_school(sheet, facts)]
    return [f for f in found if f]


def holding_duty(process: FOPDT, p: Purpose) -> float:
    """Share of full power that holds the working temperature, by the identified process; 1 where all of it does not."""
    return min((p.working_c - p.ambient_c) / process.full_power_rise_c, 1.0)


def window_c(p: Purpose) -> float:
    """How far the reading may wander in all, °C: the window, or twice the way to what must not be passed."""
    return p.highest_c - p.lowest_c if p.lowest_c is not None else 2.0 * (p.highest_c - p.working_c)


def _proposed(name: str, facts: RigFacts, told: str) -> Proposal:
    value = next(p.value for p in propose(facts) if p.name == name)
    return Proposal(f"setup.{name}", value, label=told)


def _display_unit(sheet: Sheet, facts: RigFacts) -> Finding | None:
    if sheet["display_unit"] == "C":
        return None
    return Finding(
        "setup.display-unit",
        Severity.ADVICE,
        title="The controller counts in °F",
        reason="Every temperature is typed there in °F, and every difference (offset, hysteresis, band) is 1.8 times as large. "
        "Read this page in °F while you type (key U).",
        fix="Type the numbers as this page shows them in °F, or set the controller to °C first.",
        subjects=("display_unit",),
        proposal=Proposal("setup.display_unit", "C", label="It is set to °C"),
    )


def _band(sheet: Sheet) -> Finding | None:
    band = float(sheet["proportional_band_c"])
    if DIGIT_C / band <= MOST_JUMP + 1e-9:
        return None
    return Finding(
        "setup.band-narrow",
        Severity.FAULT,
        title=f"One digit of the display moves the output by {percent(min(DIGIT_C / band, 1.0))}",
        reason=f"A band of {difference(band)} is as good as on/off, with the wear of PID.",
        fix=f"At least {difference(DIGIT_C / MOST_JUMP)}, or on/off control.",
        subjects=("proportional_band_c",),
        proposal=Proposal(
            "setup.proportional_band_c", DIGIT_C / MOST_JUMP, label=f"Widen it to {difference(DIGIT_C / MOST_JUMP)}"
        ),
    )


def _unstable(sheet: Sheet, facts: RigFacts) -> Finding | None:
    """The gain at which a lag with dead time swings by itself: ω L + arctan(ω τ) = π, and at least π/2 · τ/(K L)."""
    if facts.process is None or facts.process.dead_time_s <= 0:
        return None
    p, band = facts.process, float(sheet["proportional_band_c"])
    delay = p.dead_time_s + float(sheet["period_s"]) / 2.0
    least = 100.0 * p.gain / (pi / 2.0 * p.lag_s / delay + 1.0)
    if band >= least:
        return None
    return Finding(
        "setup.band-unstable",
        Severity.DANGER,
        title="With this band the loop swings by itself",
        reason=f"The identified process has {quantity(p.dead_time_s, 's', '.3g')} of dead time and half a control period more: below "
        f"{difference(least, '.2g')} the swing grows until full power and none.",
        fix=f"At least {difference(2.0 * least, '.2g')}, half the gain at which it swings; Tuning proposes settings.",
        subjects=("proportional_band_c",),
        proposal=Proposal(
            "setup.proportional_band_c", round(2.0 * least, 1), label=f"Widen it to {difference(2.0 * least, '.1f')}"
        ),
        source="ultimate gain of a lag with dead time, Åström & Hägglund",
    )


def _derivative(sheet: Sheet) -> Finding | None:
    integral, derivative = float(sheet["integral_time_s"]), float(sheet["derivative_time_s"])
    if not integral or derivative <= MOST_DERIVATIVE * integral:
        return None
    most = MOST_DERIVATIVE * integral
    return Finding(
        "setup.derivative",
        Severity.FAULT,
        title="Derivative time over a quarter of the integral time",
        reason=f"{quantity(derivative, 's')} beside {quantity(integral, 's')}: the loop answers noise more than errors, and a controller "
        "that works in series cannot be set so.",
        fix=f"At most {quantity(most, 's', '.3g')}, or none.",
        subjects=("derivative_time_s", "integral_time_s"),
        proposal=Proposal("setup.derivative_time_s", round(most, 1), label=f"Lower it to {quantity(most, 's', '.3g')}"),
        source="Åström & Hägglund, PID Controllers, 1995",
    )


def thresholds(sheet: Sheet, facts: RigFacts) -> Finding | None:
    """Start and stop in the wrong order, or a stop that is not the set-point, of a controller that asks for the two."""
    if (
        sheet["mode"] != "on_off"
        or sheet["hysteresis_school"] != THRESHOLDS
        or not {"switch_on_c", "switch_off_c"} <= set(sheet)
    ):
        return None
    on, off, setpoint = (float(sheet[n]) for n in ("switch_on_c", "switch_off_c", "setpoint_c"))
    if on <= off if facts.purpose.cools else on >= off:
        other = "above" if facts.purpose.cools else "below"
        return Finding(
            "setup.start-stop",
            Severity.DANGER,
            title="Start and stop are in the wrong order",
            reason=f"It starts at {temperature(on)} and stops at {temperature(off)}: what it does between is not said anywhere, and "
            "it may not stop at all.",
            fix=f"Start {other} stop, by the hysteresis.",
            subjects=("switch_on_c", "switch_off_c"),
            proposal=_proposed("switch_on_c", facts, "Start before it"),
            source="common practice, no source",
        )
    if off == setpoint:
        return None
    return Finding(
        "setup.stop-setpoint",
        Severity.FAULT,
        title="It does not stop at the set-point",
        reason=f"It stops at {temperature(off)}; everything here reckons with {temperature(setpoint)}.",
        fix="The same temperature in both.",
        subjects=("switch_off_c", "setpoint_c"),
        proposal=Proposal("setup.setpoint_c", off, label=f"The set-point is {temperature(off)}"),
    )


def _hysteresis_school(sheet: Sheet, facts: RigFacts) -> Finding | None:
    return _made_otherwise(
        "hysteresis_school",
        sheet,
        facts.controller_hysteresis,
        "setup.hysteresis-school",
        "The hysteresis lies elsewhere on this controller",
        "it switches off at another temperature than is reckoned with here",
    )


def _anti_windup(sheet: Sheet, facts: RigFacts) -> Finding | None:
    return _made_otherwise(
        "anti_windup",
        sheet,
        facts.controller_windup,
        "setup.anti-windup",
        "At full output its integral does otherwise",
        "a heat-up overshoots otherwise than is reckoned with here",
    )


def _made_otherwise(name: str, sheet: Sheet, made: str, rule: str, title: str, so: str) -> Finding | None:
    """A sheet that says otherwise than the controller's description how it is made."""
    says = str(sheet.get(name, made))
    if not made or made == says:
        return None
    words = {value: told.lower() for value, told in BY_NAME[name].choices}
    return Finding(
        rule,
        Severity.FAULT,
        title=title,
        reason=f"The sheet says {words[says]}, the controller’s description {words[made]}: {so}.",
        fix="As the controller is made.",
        subjects=(name,),
        proposal=Proposal(f"setup.{name}", made, label="As it is made"),
    )


def _hysteresis(sheet: Sheet, facts: RigFacts) -> Finding | None:
    hysteresis, room = settings_from(sheet).hysteresis_c, window_c(facts.purpose)
    if hysteresis <= room:
        return None
    return Finding(
        "setup.hysteresis",
        Severity.FAULT,
        title="The hysteresis alone leaves the window",
        reason=f"It waits for {difference(hysteresis)} and there are {difference(room)} in all, before any overshoot.",
        fix="A few tenths to two degrees: the swing comes from the dead time anyway.",
        subjects=("hysteresis_c",),
        proposal=_proposed("hysteresis_c", facts, "Take the one proposed"),
    )


def _out_of_reach(sheet: Sheet, facts: RigFacts) -> Finding | None:
    """By proportional action alone the reading stands below the set-point by the holding output times the band; farther than the integral
    acts, it stays there."""
    within, band = float(sheet.get("integrates_within_c", 0.0)), float(sheet["proportional_band_c"])
    if facts.process is None or not within or not float(sheet["integral_time_s"]):
        return None
    droop = holding_duty(facts.process, facts.purpose) * band
    if within >= droop:
        return None
    return Finding(
        "setup.integral-out-of-reach",
        Severity.FAULT,
        title=f"It would stand {difference(droop, '.2g')} short of the set-point",
        reason=f"So much of the band it takes to hold the temperature, and the integral acts only within {difference(within, '.2g')}: it "
        "never begins.",
        fix=f"At least the band, {difference(band, '.2g')}.",
        subjects=("integrates_within_c", "proportional_band_c"),
        proposal=Proposal("setup.integrates_within_c", band, label=f"Widen it to {difference(band, '.2g')}"),
    )


def _winds_up(sheet: Sheet) -> Finding | None:
    if sheet.get("anti_windup") != AntiWindup.LIMITS or not float(sheet["integral_time_s"]):
        return None
    if float(sheet.get("integrates_within_c", 0.0)):
        return None
    band = float(sheet["proportional_band_c"])
    return Finding(
        "setup.winds-up",
        Severity.ADVICE,
        title="A heat-up at full output winds its integral up",
        reason="On a long way up the integral alone comes to ask for full output: it overshoots until that is undone. See Tuning.",
        fix=f"Let it integrate only within the band, {difference(band, '.2g')}, where it can be set; else a ramp that it can follow.",
        subjects=("anti_windup", "integrates_within_c"),
        proposal=Proposal("setup.integrates_within_c", band, label="Integrate only within the band"),
        source="Åström & Hägglund, PID Controllers, 2nd ed., section 3.5",
    )


def _transistor(sheet: Sheet, facts: RigFacts) -> Finding | None:
    period = float(sheet["period_s"])
    if facts.actuator != "mosfet" or period <= TRANSISTOR_S:
        return None
    return Finding(
        "setup.period-transistor",
        Severity.FAULT,
        title="A transistor switched like a relay",
        reason=f"At {quantity(period, 's')} the plate follows every pulse; a transistor has no contacts to spare.",
        fix=f"{quantity(PERIODS['mosfet'], 's')} (10 Hz) or faster.",
        subjects=("period_s",),
        proposal=Proposal("setup.period_s", PERIODS["mosfet"], label=f"Set it to {quantity(PERIODS['mosfet'], 's')}"),
        source="common practice, no source",
    )


def _period(sheet: Sheet, facts: RigFacts) -> Finding | None:
    if facts.process is None:
        return None
    p, period, room = facts.process, float(sheet["period_s"]), window_c(facts.purpose)
    ripple = pulse_ripple(p, holding_duty(p, facts.purpose), period)
    if ripple <= RIPPLE_SHARE * room:
        return None
    return Finding(
        "setup.period-process",
        Severity.FAULT,
        title=f"The control period alone swings it by {difference(ripple, '.2g')}",
        reason=f"The process has a lag of {quantity(p.lag_s, 's', '.3g')}, and {difference(room)} are allowed in all.",
        fix="A shorter period with a switch that stands it (SSR), less power, or more mass.",
        subjects=("period_s",),
        source="exact first-order response to a square wave",
    )


def _output_limit(sheet: Sheet, facts: RigFacts) -> Finding | None:
    limit = float(sheet["output_high"])
    needed = LEAST_OUTPUT if facts.process is None else 100.0 * holding_duty(facts.process, facts.purpose)
    if limit >= needed:
        return None
    told = (
        "hardly any heat"
        if facts.process is None
        else f"{temperature(facts.purpose.working_c)} takes {quantity(needed, '%', '.0f')} by the identified process"
    )
    return Finding(
        "setup.output-limit",
        Severity.FAULT,
        title=f"Limited to {quantity(limit, '%')} it does not get there",
        reason=f"{told[0].upper()}{told[1:]}.",
        fix="Raise the limit, or take it as it is and lower the set-point.",
        subjects=("output_high",),
        proposal=_proposed("output_high", facts, "Take the limit off"),
    )
