"""Control: output off means heater off, output on means heater on."""

from ...findings import Finding, Severity
from ..model import Closed
from ..states import Switching, wholly_energised
from .case import Case


def no_nc(case: Case) -> list[Finding]:
    """Output off must mean heater off, and output on must mean heater on."""
    off = case.conduction.solve(Switching(False, False))
    on = case.conduction.solve(Switching(True, False))
    found = []
    for heater in case.heaters():
        if heater.name in off.loads:
            without_nc = case.reach_live(lambda p, closed, breaks: closed in (Closed.NOT_COIL, Closed.NOT_OUTPUT))
            normally_closed = not case.touches(heater, without_nc) or heater.name not in on.loads
            found.append(
                Finding(
                    "wiring.no-nc",
                    Severity.DANGER,
                    f"{heater.name} heats while the output is off",
                    "It hangs on a normally-closed contact: the heat comes on when the controller says stop, and stays "
                    "on when the controller loses power."
                    if normally_closed
                    else "It has a way to both poles that passes no switch the controller commands.",
                    "Use the NO contact." if normally_closed else "Take the heater through the actuator.",
                    (heater.name,),
                )
            )
        elif heater.name not in on.loads:
            found.append(
                Finding(
                    "wiring.never-heats",
                    Severity.FAULT,
                    f"{heater.name} never heats",
                    "With the output on and the limiter in order it still lacks one pole of the supply.",
                    "Follow the path from breaker to heater: a wire or a coil connection is missing.",
                    (heater.name,),
                )
            )
    return found


def phases(case: Case) -> list[Finding]:
    """With the output on, no phase of a heater may be missing."""
    on = case.conduction.solve(Switching(True, False))
    return [
        Finding(
            "wiring.lost-phase",
            Severity.FAULT,
            f"{heater.name} lacks a phase",
            "Only some of its elements heat, unevenly and at half the power; what hangs on the missing phase is still live "
            "through the others.",
            "Follow each live conductor from breaker to heater.",
            (heater.name,),
        )
        for heater in case.heaters()
        if heater.name in on.loads and not wholly_energised(heater, on.reached)
    ]
