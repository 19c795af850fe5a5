"""What commands what: supplies of instruments, inputs that float or are driven twice, alarms, interlocks."""

from dataclasses import replace

from ...findings import Finding, Severity
from ..model import Closed, Part, Role
from ..switching import ON
from .case import Case
from .control import NO_HEAT

FED = (
    "controller_relay",
    "controller_ssr",
    "limiter",
    "converter",
    "display",
    "relay_module",
    "relay_module_low",
    "logger",
)
LOW, HIGH = 0.85, 1.15
"""An instrument runs within this share of its supply voltage (IEC 61131-2: −15/+20 %, from memory)."""


def _supply(part: Part) -> tuple[str, str] | None:
    """The two terminals its own load lies between."""
    return next(
        ((f"{part.name}.{p.a}", f"{part.name}.{p.b}") for p in part.type.paths if p.closed is Closed.LOAD), None
    )


def supplies(case: Case) -> list[Finding]:
    """Every instrument and board has its own supply, of the right voltage."""
    found = []
    on = case.solved(ON)
    for part in case.wiring.of_kind(*FED):
        ends = _supply(part)
        if ends is None or part.number("voltage_v") <= 0:
            continue
        rated = part.number("voltage_v")
        solved = on.loads.get(part.name)
        volts = solved.volts if solved else 0.0
        if volts < 0.05 * rated:
            if on.tripped:
                continue  # what opened says it
            found.append(
                Finding(
                    "wiring.unpowered",
                    Severity.FAULT,
                    f"{part.name} has no supply",
                    f"Between {ends[0]} and {ends[1]} there is no voltage.",
                    "Feed it from the control breaker, ahead of everything it commands.",
                    (part.name,),
                )
            )
        elif not LOW * rated <= volts <= HIGH * rated:
            found.append(
                Finding(
                    "wiring.supply-voltage",
                    Severity.DANGER if volts > HIGH * rated else Severity.FAULT,
                    f"{part.name} gets {volts:.3g} V and is made for {rated:g} V",
                    "It burns out."
                    if volts > HIGH * rated
                    else "It does not start, or resets when something switches.",
                    "The supply or rail it is made for.",
                    (part.name,),
                )
            )
    return found


def floating_inputs(case: Case) -> list[Finding]:
    """A control input with one end open is neither on nor off."""
    found = []
    for part in case.wiring.of_kind("ssr", "relay_module", "relay_module_low"):
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        ends = [f"{part.name}.{t}" for t in pair or ()]
        open_ends = [e for e in ends if not case.wires_at(e)]
        if len(open_ends) == 1:
            found.append(
                Finding(
                    "wiring.floating-input",
                    Severity.FAULT,
                    f"{open_ends[0]} is open",
                    "An input needs both its ends; with one it picks up whatever lies beside it.",
                    "Join it to the other end of what drives it.",
                    (part.name,),
                )
            )
    return found


def two_drivers(case: Case) -> list[Finding]:
    """Two outputs on one input fight each other."""
    found = []
    outputs = {
        f"{p.name}.{pair[0]}": p.name for p in case.wiring.of_kind("controller_ssr") if (pair := p.drive()) is not None
    }
    for part in case.wiring.of_kind("ssr", "relay_module", "relay_module_low"):
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        on_it = sorted({outputs[t] for t in case.joined(f"{part.name}.{pair[0]}") if t in outputs}) if pair else []
        if len(on_it) > 1:
            found.append(
                Finding(
                    "wiring.two-drivers",
                    Severity.FAULT,
                    f"{' and '.join(on_it)} both drive {part.name}",
                    "When they disagree one pushes its current into the other, and the heater obeys neither.",
                    "One output for one input.",
                    (part.name, *on_it),
                )
            )
    return found


def alarm(case: Case) -> list[Finding]:
    """An alarm contact that is wired but set to do nothing guards nothing."""
    return [
        Finding(
            "wiring.alarm-off",
            Severity.FAULT,
            f"{part.name}'s alarm contact is wired, and its alarm is off",
            "What hangs on the contact never moves.",
            "Set the alarm, or take its wires away.",
            (part.name,),
        )
        for part in case.wiring.of_kind("controller_relay", "controller_ssr")
        if part.ratings.get("alarm") == "off" and case.wires_at(f"{part.name}.AL1", f"{part.name}.AL2")
    ]


def fan_interlock(case: Case) -> list[Finding]:
    """A blown heater must go off when its air stops."""
    guards = case.wiring.of_kind("flow_switch")
    found = []
    for heater in case.heaters():
        if heater.ratings.get("blown") != "yes":
            continue
        stops = any(case.share(heater, replace(ON, operated=frozenset({g.name}))) <= NO_HEAT for g in guards)
        if not stops:
            found.append(
                Finding(
                    "wiring.fan-interlock",
                    Severity.DANGER,
                    f"{heater.name} heats without its air",
                    "When the fan stops, a blown heater burns out in seconds and lights what is near.",
                    "An air-flow switch in series with what holds the heater on, and a run-on for the fan.",
                    (heater.name, *(g.name for g in guards)),
                )
            )
    return found


def firing(case: Case) -> list[Finding]:
    """A zero-cross SSR cannot cut half-waves."""
    return [
        Finding(
            "wiring.phase-angle",
            Severity.FAULT,
            f"{ssr.name} turns on at zero only",
            "Asked for phase angle it gives whole half-waves or none.",
            "A random-fire SSR, or burst firing in the controller.",
            (ssr.name, driver.name),
        )
        for ssr in case.wiring.of_kind("ssr")
        if ssr.ratings.get("firing", "zero") == "zero" and ssr.type.kind in ("ssr", "ssr_3p")
        for driver in case.conduction.drivers(ssr)
        if driver.ratings.get("mode") == "phase"
    ]
