"""What of the chosen parts the mains do not suit: their frequency, and what the controls would be fed with."""

from collections.abc import Iterator
from dataclasses import replace

from ..findings import Finding, Severity
from ..messages import quantity, span
from ..purpose.purpose import Purpose, Supply
from ..wiring.choice import Actuator, Choice, Output
from .own_mains import own_mains_findings

MADE_FOR_HZ = (45.0, 65.0)
"""What coils, zero-crossing switches and transformers are made for, Hz (data sheets say 47…63; a margin)."""
MODULES_V = 264.0
"""Most that supply modules for all usual mains stand, V (typical of data sheets, from memory)."""
CONTROLS_V = 253.0
"""Most that controllers, limiters and coils for 240 V stand, V (5 % above; typical of data sheets)."""


def mains_findings(purpose: Purpose, choice: Choice) -> list[Finding]:
    """Parts of this choice that do not work as they are made on these mains."""
    if purpose.supply is Supply.DC:
        return list(_controls(purpose))
    return [
        *_frequency(purpose, choice),
        *_controls(purpose),
        *_module(purpose),
        *_phase_angle(choice),
        *own_mains_findings(purpose, choice),
    ]


def _frequency(purpose: Purpose, choice: Choice) -> Iterator[Finding]:
    low, high = MADE_FOR_HZ
    if low <= purpose.frequency_hz <= high:
        return
    slow, controls = purpose.frequency_hz < low, purpose.controls
    coil = "draws more than it stands and burns" if slow else "may not pull in"
    coils = controls is None and (
        choice.actuator is Actuator.CONTACTOR or (choice.actuator is Actuator.RELAY and choice.output is Output.RELAY)
    )
    limits = controls is None and choice.limiter
    supply = "the supply module" if controls else "the controller's own supply"
    affected = [
        *([f"the coil of its {choice.actuator.value} {coil}"] if coils else []),
        *([f"the coil of the limiter's contactor {coil}"] if limits else []),
        *(["a zero-crossing SSR may not turn off in time"] if choice.actuator is Actuator.SSR else []),
        *(
            ["a phase-angle unit may not find the zero it counts from"]
            if choice.actuator is Actuator.PHASE_ANGLE
            else []
        ),
        *(
            []
            if controls and controls.apart
            else [f"{supply} may run hot" if slow else f"{supply} leaks more to earth"]
        ),
    ]
    if not affected:
        return
    yield Finding(
        "parts.frequency",
        Severity.DANGER if limits else Severity.FAULT,
        title=f"Its parts are not made for {quantity(purpose.frequency_hz, 'Hz')}",
        reason=f"They are made for {span(low, high, 'Hz')}: {'; '.join(affected)}.",
        fix="Feed the controls from DC or from mains of their own, with DC coils; ask the maker of every part that carries the load.",
        subjects=("Power relay", "Contactor", "Solid state relay", "Phase-angle unit"),
        source="typical of data sheets, from memory",
    )


def _phase_angle(choice: Choice) -> Iterator[Finding]:
    if choice.actuator is not Actuator.PHASE_ANGLE:
        return
    yield Finding(
        "parts.phase-angle",
        Severity.ADVICE,
        title="Phase angle disturbs what hangs on the same supply",
        reason="It cuts into every half-wave: it hums, is heard in radios and sensor wires, loads the neutral with harmonics, and a public "
        "network limits that (EN 61000-3-2 and -3-12, from memory). Heavy heaters do as well with an SSR.",
        fix="Its maker's filter before it, sensor wires apart and screened, and fast fuses of the kind its sheet names.",
        subjects=("Phase-angle unit",),
        source="common practice, no source",
    )


def _module(purpose: Purpose) -> Iterator[Finding]:
    volts = replace(purpose, controls=None).control_voltage_v
    if purpose.controls is None or purpose.controls.apart or volts <= MODULES_V:
        return
    yield Finding(
        "parts.module-voltage",
        Severity.FAULT,
        title=f"The module that feeds the controls stands at {quantity(volts, 'V')}",
        reason=f"Most supply modules are made for up to {quantity(MODULES_V, 'V')}.",
        fix="One whose sheet names these mains, between a live and the neutral as it is wired here.",
        subjects=("Supply module",),
        source="typical of data sheets, from memory",
    )


def _controls(purpose: Purpose) -> Iterator[Finding]:
    if purpose.control_voltage_v <= CONTROLS_V:
        return
    yield Finding(
        "parts.control-voltage",
        Severity.FAULT,
        title=f"Controller and coils would be fed with {quantity(purpose.control_voltage_v, 'V')}",
        reason=f"They are made for {quantity(240.0, 'V')} at most: more breaks them down, at once or on a warm day.",
        fix="A supply module for these mains, or mains of their own for the controls: say so under Purpose.",
        subjects=("Controller",),
        source="typical of data sheets, from memory",
    )
