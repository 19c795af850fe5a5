"""Checks of the controller's own alarms: against Guarding's plan, against the set-point, and against what the rig can do in time."""

from collections.abc import Iterator
from math import log

from ..findings import Finding, Proposal, Severity
from ..messages import difference, quantity, temperature
from .dictionary.alarms import ABSOLUTE, ALARM_NUMBERS, RELATIVE
from .parameters import Sheet, spoken_value
from .proposals.alarms import alarm_values, planned_here
from .proposals.facts import RigFacts

MOVES_C = 1.0
"""What a reading must move to have moved, °C (our choice: ten digits of a usual display)."""


def check_alarms(sheet: Sheet, facts: RigFacts) -> list[Finding]:
    """Findings about the alarms the sheet has; those it does not name are not judged."""
    found: list[Finding] = []
    for n in ALARM_NUMBERS:
        if f"alarm_{n}_type" in sheet:
            found += [*_planned(sheet, facts, n), *_senseless(sheet, facts, n)]
    return [*found, *_loop_break(sheet, facts)]


def _planned(sheet: Sheet, facts: RigFacts, n: int) -> Iterator[Finding]:
    """Whether it is what Guarding plans, where there is a plan and the controller, as far as it is described, has such an alarm."""
    if facts.plan is None or (facts.paged is not None and f"alarm_{n}_type" not in facts.paged):
        return
    here = planned_here(facts.plan)
    if n > len(here):
        if sheet[f"alarm_{n}_type"] != "off":
            yield Finding(
                "setup.alarm-unplanned",
                Severity.ADVICE,
                title=f"Alarm {n} calls, and nobody planned it",
                reason="Guarding’s plan has no alarm for it: nobody knows what to do when it comes.",
                fix="Off, or plan it in Guarding with its response.",
                subjects=(f"alarm_{n}_type",),
                proposal=Proposal(f"setup.alarm_{n}_type", "off", label="Switch it off"),
            )
        return
    planned = here[n - 1]
    for name, value in alarm_values(n, planned).items():
        if name in sheet and sheet[name] != value:
            whole = name.endswith("_type")
            yield Finding(
                "setup.alarm-differs",
                Severity.FAULT if facts.paged is not None else Severity.ADVICE,
                title=f"Alarm {n} is not “{planned.name}” as Guarding plans it",
                reason=f"Planned is {spoken_value(name, value)}; the sheet says {spoken_value(name, sheet[name])}.",
                fix="As planned, or change the plan: its proofs were made with its values.",
                subjects=(name,),
                proposal=Proposal(f"setup.{name}", value, label="As planned"),
            )
            if whole:
                return


def _senseless(sheet: Sheet, facts: RigFacts, n: int) -> Iterator[Finding]:
    kind, name = str(sheet[f"alarm_{n}_type"]), f"alarm_{n}"
    setpoint = float(sheet["setpoint_c"])
    if kind in ABSOLUTE:
        at = float(sheet.get(f"{name}_at_c", setpoint))
        if f"{name}_at_c" in sheet and (at <= setpoint if kind == "high" else at >= setpoint):
            yield Finding(
                "setup.alarm-always",
                Severity.FAULT,
                title=f"Alarm {n} calls in ordinary work",
                reason=f"It comes at {temperature(at)}, and {temperature(setpoint)} is held.",
                fix="Beyond what is held, by more than it wanders.",
                subjects=(f"{name}_at_c", "setpoint_c"),
            )
    if kind in RELATIVE:
        away, back = float(sheet.get(f"{name}_away_c", 0.0)), float(sheet.get(f"{name}_hysteresis_c", 0.0))
        if kind != "inside_band" and back >= away:
            yield Finding(
                "setup.alarm-never-clears",
                Severity.FAULT,
                title=f"Alarm {n} never clears",
                reason=f"It comes {difference(away)} from the set-point and waits for {difference(back)} back: it calls on.",
                fix=f"Less than {difference(away)}.",
                subjects=(f"{name}_hysteresis_c", f"{name}_away_c"),
            )
    early = kind in ("low", "below_setpoint", "outside_band") and facts.purpose.heats
    if early and sheet.get(f"{name}_standby", "none") == "none":
        yield Finding(
            "setup.alarm-on-the-way",
            Severity.ADVICE,
            title=f"Alarm {n} calls all the way up",
            reason="From cold it is below its value until it is warm: whoever hears it each morning no longer listens.",
            fix="Hold it until it was first in range.",
            subjects=(f"{name}_standby",),
            proposal=Proposal(f"setup.{name}_standby", "first", label="Hold it the first time"),
            source="common practice, no source",
        )


def _loop_break(sheet: Sheet, facts: RigFacts) -> Iterator[Finding]:
    seconds, process = float(sheet.get("loop_break_s", 0.0)), facts.process
    if not seconds or process is None:
        return
    moved = process.dead_time_s
    if process.full_power_rise_c > MOVES_C:
        moved -= process.lag_s * log(1.0 - MOVES_C / process.full_power_rise_c)
    if seconds > moved:
        return
    yield Finding(
        "setup.loop-break-early",
        Severity.FAULT,
        title="Loop break calls before anything can move",
        reason=f"Full power moves the reading by {difference(MOVES_C)} after {quantity(moved, 's', '.3g')} by the identified process.",
        fix=f"At least twice that, {quantity(2.0 * moved, 's', '.3g')}.",
        subjects=("loop_break_s",),
        proposal=Proposal("setup.loop_break_s", float(round(2.0 * moved)), label="Twice that"),
        source="step response of a lag with dead time",
    )
