"""Control: output off means heater off, output on means heater on."""

from ...findings import Finding, Severity
from ..circuit.branches import Sort
from ..circuit.judge import HOT
from ..model import Closed
from ..switching import ON
from .case import Case

PHASE_MISSING = (0.2, 0.8)
"""Shares of its power a three-phase heater gives when it lacks a phase (half, in star without neutral)."""


def no_nc(case: Case) -> list[Finding]:
    """Output off must mean heater off, and output on must mean heater on, wherever switches, selectors and the alarm stand."""
    found = []
    for heater in case.heaters():
        uncalled = next((words for words, solved in case.off if case.gives(heater, solved) > HOT), None)
        heats = any(case.gives(heater, solved) > HOT for _, solved in case.everywhere)
        if uncalled is not None:
            without_nc = case.reach_live(lambda p, closed, breaks: closed in RESTING)
            normally_closed = not case.touches(heater, without_nc) or case.share(heater, ON) <= HOT
            found.append(
                Finding(
                    "wiring.no-nc",
                    Severity.DANGER,
                    title=f"{heater.name} {case.driven.does} while the output is off"
                    + (f", with {uncalled}" if uncalled else ""),
                    reason=f"It hangs on a normally-closed contact: the {case.driven.effect} is on when the controller says stop, and "
                    "stays on when the controller loses power."
                    if normally_closed
                    else "It has a way to both poles that passes no switch the controller commands.",
                    fix="Use the NO contact."
                    if normally_closed
                    else f"Take the {case.driven.noun} through the actuator.",
                    subjects=(heater.name,),
                )
            )
        elif not heats and not any(solved.tripped for _, solved in case.everywhere):
            found.append(
                Finding(
                    "wiring.never-heats",
                    Severity.FAULT,
                    title=f"{heater.name} never {case.driven.does}",
                    reason="With the output on and the limiter in order it still lacks one pole of the supply.",
                    fix=f"Follow the path from breaker to {case.driven.noun}: a wire or a coil connection is missing.",
                    subjects=(heater.name,),
                )
            )
    return found


RESTING = (Closed.NOT_COIL, Closed.NOT_OUTPUT, Closed.NOT_DRIVEN)


def phases(case: Case) -> list[Finding]:
    """With the output on, no phase of a heater may be missing."""
    low, high = PHASE_MISSING
    return [
        Finding(
            "wiring.lost-phase",
            Severity.FAULT,
            title=f"{heater.name} lacks a phase",
            reason="It runs unevenly and with half the power; what hangs on the missing phase is still live "
            "through the others.",
            fix=f"Follow each live conductor from breaker to {case.driven.noun}.",
            subjects=(heater.name,),
        )
        for heater in case.heaters()
        if sum(b.name == heater.name and b.sort is Sort.LOAD for b in case.circuit.branches) > 1
        and low < case.share(heater, ON) < high
    ]
