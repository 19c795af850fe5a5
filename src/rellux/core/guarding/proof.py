"""The proof that each guard acts: up past every value and down again, with what to dial, and what each contact must do at each step.

The machine itself says what is expected, so the sheet and the alarms cannot differ.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..control.alarms.alarm import ACTING, Alarm, Seen
from ..control.alarms.settings import AlarmKind, AlarmSettings
from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..messages import temperature
from ..sensing.resistance import resistance
from ..sensing.sensors import NOMINAL_OHM, NTC, describe, is_thermocouple, sensor_range
from ..sensing.thermocouples import emf
from ..units import Kind
from .acting import NOT_WIRED, Acting
from .ladder import Situation, sensor_error
from .plan import LimiterReset, Plan

SIDE_C = 1.0
"""Dialled so far beyond what error and step allow, °C (our choice): nearer, a good one may already act."""


MAXIMUM = "the controller’s maximum"
"""As it is called on the sheet; how it comes on again differs from firmware to firmware, so only the way up is proved."""
UNSEEN_PER_H = 2e-6
"""Of a thermostat or relay, how often it comes to not acting without anybody seeing it, 1/h (order of magnitude, from memory)."""


class Source(StrEnum):
    """What the value is made with."""

    DECADE = "decade"
    MILLIVOLTS = "millivolts"
    HEAT = "heat"


@dataclass(frozen=True)
class ProofStep:
    """One step: what is dialled (ohms, mV or, by heat, °C), what it stands for, and whether the guard must have acted. Nothing is dialled
    where a lead is taken off. ``shows``: what is then seen in the circuit, where it is wired."""

    guard: str
    celsius: float | None
    dial: Figure | None
    acts: bool
    says: str
    shows: str


@dataclass(frozen=True)
class ProofSheet:
    """All steps, in their order. ``why_heat``: why something must be proved by real heat; empty where it need not. ``unseen``: how likely
    the limiter does not act when it is needed, for it failed since its last proof; ``None`` without a limiter."""

    steps: tuple[ProofStep, ...]
    source: Source
    why_heat: str
    unseen: Figure | None


@dataclass(frozen=True)
class Observed:
    """What was seen at a step: ``acted`` or not, or why it was left out."""

    acted: bool | None
    remark: str = ""


@dataclass(frozen=True)
class ProofVerdict:
    """``passed`` only where every step was seen as expected."""

    passed: bool
    says: str
    failed: tuple[int, ...]
    left_out: tuple[int, ...]


def proof_sheet(
    situation: Situation, terminals_c: float, by_heat: bool = False, acting: Acting = NOT_WIRED
) -> ProofSheet:
    """Steps for every absolute alarm, the controller’s own maximum and the limiter. ``terminals_c`` is the temperature at the input's
    terminals now, as a thermometer laid on them says (a millivolt source on copper leads must leave out what the cold junction adds).
    ``acting``: what the circuit does."""
    steps: list[ProofStep] = []
    for planned in situation.plan.alarms:
        if planned.alarm.kind in (AlarmKind.HIGH, AlarmKind.LOW):
            shows = acting.shown_by(planned, situation.plan)
            steps += _steps(planned.name, planned.alarm, situation.sensor, terminals_c, by_heat, shows)
    limiter = situation.plan.limiter
    if (maximum_c := situation.plan.maximum_c) is not None:
        own = AlarmSettings(AlarmKind.HIGH, maximum_c, 0.0)
        steps += _steps(MAXIMUM, own, situation.sensor, terminals_c, by_heat, acting.output)[:2]
    source = Source.HEAT if by_heat else source_of(situation.sensor)
    if limiter:
        alarm = AlarmSettings(
            AlarmKind.LOW if situation.rig.purpose.cools else AlarmKind.HIGH,
            limiter.trip_c,
            limiter.hysteresis_c,
            latching=limiter.reset is LimiterReset.MANUAL,
        )
        steps += _steps("independent limiter", alarm, limiter.sensor, terminals_c, by_heat, acting.limiter)
        if not by_heat:
            steps.append(
                ProofStep("independent limiter", None, None, limiter.trips_on_break,
                          "Take one lead of its own sensor off: it trips at once, without waiting. Put it back and reset it.",
                          acting.limiter if limiter.trips_on_break else "")
            )  # fmt: skip
    why = ""
    if source is Source.HEAT and not by_heat:
        why = "A thermistor’s curve is its own: warm the probe itself, beside a thermometer you trust."
    return ProofSheet(tuple(steps), source, why, unseen(situation.plan.prove_days) if limiter else None)


def unseen(prove_days: float) -> Figure:
    """How likely a guard proved every so many days has failed when it is needed, %: λT/2, the mean over the time between two proofs.

    >>> round(unseen(365).value, 2)
    0.88
    """
    hours = 24.0 * prove_days
    return Figure(
        "has failed unnoticed when needed", 50.0 * UNSEEN_PER_H * hours, Kind.PERCENT, formula="λT/2",
        inputs=(
            Input("failures nobody sees, an hour", UNSEEN_PER_H, Kind.COEFFICIENT, "λ", "order of magnitude, from memory"),
            Input("from proof to proof", 3600.0 * hours, Kind.TIME, "T", "plan"),
        ),
        reason="Half as often proved, twice as likely. A guard that acts often is seen to act; a limiter hardly ever does.",
        source="mean unavailability of a part that is tested now and then, IEC 61508-6, from memory",
    )  # fmt: skip


def source_of(sensor: str) -> Source:
    """What stands in for a sensor at its input."""
    if sensor in NOMINAL_OHM:
        return Source.DECADE
    return Source.MILLIVOLTS if is_thermocouple(sensor) else Source.HEAT


def _steps(
    guard: str, alarm: AlarmSettings, sensor: str, terminals_c: float, by_heat: bool, shows: str
) -> list[ProofStep]:
    """Below, above, back below the hysteresis, and (where it latches) after a reset."""
    error = sensor_error(sensor, alarm.value, guard).value + SIDE_C
    up = 1.0 if alarm.kind is AlarmKind.HIGH else -1.0
    low, high = sensor_range(sensor)
    back = "Back beyond its hysteresis" + (": it latches, so it must still be tripped." if alarm.latching else ".")
    places = [
        (alarm.value - up * error, "Not yet: it must not have acted.", False),
        (alarm.value + up * error, "Past it, both errors allowed for: it must have acted.", False),
        (alarm.value - up * (alarm.hysteresis + error), back, False),
    ]
    if alarm.latching:
        places.append((places[-1][0], "After the reset by hand.", True))
    machine = Alarm(alarm)
    machine.look(Seen(0.0, alarm.value - up * (alarm.hysteresis + 2 * error)))
    found = []
    for celsius, says, reset in places:
        machine.look(Seen(alarm.on_delay_s + alarm.off_delay_s + 1.0, celsius))
        machine.look(Seen(alarm.on_delay_s + alarm.off_delay_s + 1.0, celsius))
        if reset:
            machine.reset()
        acts = machine.state in ACTING
        wait = f" Wait {alarm.on_delay_s + alarm.off_delay_s:g} s." if alarm.on_delay_s + alarm.off_delay_s else ""
        dialled = dial(sensor, min(max(celsius, low), high), terminals_c, by_heat)
        found.append(ProofStep(guard, celsius, dialled, acts, says + wait, shows if acts else ""))
    return found


def dial(sensor: str, celsius: float, terminals_c: float, by_heat: bool = False) -> Figure:
    """What stands for a temperature at the input: ohms (IEC 60751), or millivolts less what the cold junction adds (IEC 60584-1).

    >>> round(dial("Pt100", 90.0, 23.0).value, 2), round(dial("Pt100", 115.0, 23.0).value, 2)
    (134.71, 144.18)
    """
    at = Input("temperature to stand for", celsius, Kind.TEMPERATURE, "T", "the plan")
    if by_heat or sensor == NTC:
        return Figure(
            "by heat", celsius, Kind.TEMPERATURE, inputs=(at,), reason="The probe itself, beside a trusted thermometer."
        )
    if sensor in NOMINAL_OHM:
        ohm = float(resistance(np.array([celsius]), NOMINAL_OHM[sensor])[0])
        return Figure("decade box", ohm, Kind.RESISTANCE, formula="R(T)", inputs=(at,), source="IEC 60751", symbol="R")
    junction = Input("terminals now", terminals_c, Kind.TEMPERATURE, "T_j", "measured")
    volts = float(emf(sensor, np.array([celsius]))[0]) - float(emf(sensor, np.array([terminals_c]))[0])
    return Figure(
        "millivolt source", volts, Kind.MILLIVOLTS, formula="E(T) − E(T_j)", inputs=(at, junction), source="IEC 60584-1", symbol="U",
        reason=f"{describe(sensor)}, the source joined with copper: the input adds the cold junction itself.",
    )  # fmt: skip


def judge(sheet: ProofSheet, observed: Sequence[Observed]) -> ProofVerdict:
    """Whether the proof was passed. Raises ``Refused`` where a step is neither seen nor left out with a reason."""
    problems = []
    if len(observed) != len(sheet.steps):
        problems.append(Problem("observed", f"{len(observed)} seen, {len(sheet.steps)} steps", "one for each step"))
    for i, seen in enumerate(observed):
        if seen.acted is None and not seen.remark.strip():
            problems.append(
                Problem(f"observed[{i}]", "neither seen nor left out with a reason", "acted, not acted, or why not")
            )
    refuse_all(problems)
    failed = tuple(
        i
        for i, (s, o) in enumerate(zip(sheet.steps, observed, strict=True))
        if o.acted is not None and o.acted != s.acts
    )
    left = tuple(i for i, o in enumerate(observed) if o.acted is None)
    if failed:
        step = sheet.steps[failed[0]]
        must = "act" if step.acts else "stay quiet"
        where = "with its sensor open" if step.celsius is None else f"at {temperature(step.celsius, '.1f')}"
        says = f"{step.guard} did not {must} {where}: nothing is run unattended before it does."
    elif left:
        says = f"{len(left)} of {len(sheet.steps)} steps were left out: not proved."
    elif not observed:
        says = "There is nothing to prove yet."
    else:
        says = "Every guard acted where it must, and nowhere else."
    return ProofVerdict(bool(observed) and not failed and not left, says, failed, left)


def provable(plan: Plan) -> bool:
    """Whether there is anything whose acting can be proved at its input."""
    return any(g is not None for g in (plan.limiter, plan.maximum_c)) or any(
        a.alarm.kind in (AlarmKind.HIGH, AlarmKind.LOW) for a in plan.alarms
    )
