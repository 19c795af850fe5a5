"""What commands what: supplies of instruments, inputs that float or are driven twice, alarms, interlocks."""

from dataclasses import replace

from ...findings import Finding, Severity
from ...messages import quantity, span
from ..circuit.branches import fed_raw
from ..circuit.judge import HOT
from ..circuit.loads import DIRECT
from ..circuit.positions import has_cooling_contact
from ..kinds.loads import MOVES
from ..model import Closed, Part, Role
from ..names import TerminalName, split
from ..switching import ON, Switching
from .case import Case

FED = (
    *("controller_relay", "controller_ssr", "controller_analogue", "limiter", "converter", "display", "logger"),
    *("relay_module", "relay_module_low", "zero_cross", "panel_meter", "power_module", "regulator"),
)
LOW, HIGH = 0.85, 1.15
"""An instrument runs within this share of its supply voltage (IEC 61131-2: −15/+20 %, from memory)."""
NONE_SHARE = 0.05
"""Share of its voltage below which an instrument has no supply (our choice)."""
REVERSED_V = 1.0
"""Volts the wrong way round, or alternating, from which a DC supply is wrong (our choice)."""


def _supply(case: Case, part: Part) -> tuple[TerminalName, TerminalName] | None:
    """The two terminals its own load lies between."""
    if fed_raw(part, case.wiring.wired):
        return part.at("RAW"), part.at("GND")
    return next(iter(part.ways(Closed.LOAD)), None)


def _range(part: Part, ends: tuple[TerminalName, TerminalName]) -> tuple[float, float]:
    """Least and most volts of a part's supply."""
    usual = {r.name: float(r.usual) for r in part.type.ratings if r.kind is not None}
    if split(ends[0])[1] == "RAW":
        return part.number("least_v", usual["least_v"]), part.number("most_v", usual["most_v"])
    rated = part.number("voltage_v", usual.get("voltage_v", 0.0))
    least = part.number("least_v", usual["least_v"]) if part.type.kind == "regulator" else LOW * rated
    return least, HIGH * rated


def supplies(case: Case) -> list[Finding]:
    """Every instrument and board has its own supply, of the right voltage, kind and way round."""
    found = []
    for part in case.wiring.of_kind(*FED):
        ends = _supply(case, part)
        if ends is None or _range(part, ends)[1] <= 0:
            continue
        least, most = _range(part, ends)
        volts = case.most_volts(part.name)
        if part.type.kind in DIRECT and (wrong := _wrong_way(case, part, ends)):
            found.append(wrong)
        elif volts < NONE_SHARE * most:
            if any(s.tripped for _, s in case.everywhere):
                continue  # what opened says it
            found.append(
                Finding(
                    "wiring.unpowered",
                    Severity.FAULT,
                    title=f"{part.name} has no supply",
                    reason=f"Between {ends[0]} and {ends[1]} there is no voltage.",
                    fix="Feed it from the control breaker, ahead of everything it commands.",
                    subjects=(part.name,),
                )
            )
        elif volts < least and (split(ends[0])[1] == "RAW" or part.type.kind == "regulator"):
            found.append(_starved(part.name if part.type.kind == "regulator" else ends[0], volts, least))
        elif not least <= volts <= most:
            found.append(
                Finding(
                    "wiring.supply-voltage",
                    Severity.DANGER if volts > most else Severity.FAULT,
                    title=f"{part.name} gets {quantity(volts, 'V', '.3g')} and is made for {_words(least, most, ends)}",
                    reason="It burns out." if volts > most else "It does not start, or resets when something switches.",
                    fix="The supply or rail it is made for.",
                    subjects=(part.name,),
                )
            )
    return found


def _words(least: float, most: float, ends: tuple[TerminalName, TerminalName]) -> str:
    return span(least, most, "V") if split(ends[0])[1] == "RAW" else quantity(most / HIGH, "V", ".3g")


def _starved(name: str, volts: float, least: float) -> Finding:
    return Finding(
        "wiring.vin-low",
        Severity.FAULT,
        title=f"{name} gets {quantity(volts, 'V', '.1f')} and needs {quantity(least, 'V')}",
        reason="A regulator's input must lie above what it gives; below, its output sags and the board resets.",
        fix="Feed 5 V to the 5 V pin, or a higher voltage to this one.",
        subjects=(split(name)[0],),
    )


def _wrong_way(case: Case, part: Part, ends: tuple[TerminalName, TerminalName]) -> Finding | None:
    """A board fed the wrong way round, or with alternating current."""
    reversed_ = any(s.direct(*ends) < -REVERSED_V for _, s in case.everywhere)
    if not reversed_ and not any(s.alternating(*ends) > REVERSED_V for _, s in case.everywhere):
        return None
    return Finding(
        "wiring.reversed",
        Severity.DANGER,
        title=f"{part.name}'s supply is the wrong way round"
        if reversed_
        else f"{part.name} is fed with alternating current",
        reason="It is made for direct current one way only: it is destroyed, and perhaps what it drives with it.",
        fix=f"Plus to {ends[0]}, minus to {ends[1]}.",
        subjects=(part.name,),
    )


def floating_inputs(case: Case) -> list[Finding]:
    """A control input with one end open is neither on nor off."""
    found = []
    for part in case.wiring.of_kind("ssr", "relay_module", "relay_module_low"):
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        ends = [part.at(t) for t in pair or ()]
        open_ends = [e for e in ends if not case.wires_at(e)]
        if len(open_ends) == 1:
            found.append(
                Finding(
                    "wiring.floating-input",
                    Severity.FAULT,
                    title=f"{open_ends[0]} is open",
                    reason="An input needs both its ends; with one it picks up whatever lies beside it.",
                    fix="Join it to the other end of what drives it.",
                    subjects=(part.name,),
                )
            )
    return found


def two_drivers(case: Case) -> list[Finding]:
    """Two outputs on one input fight each other."""
    found = []
    outputs = {p.at(pair[0]): p.name for p in case.wiring.of_kind("controller_ssr") if (pair := p.drive()) is not None}
    for part in case.wiring.of_kind("ssr", "relay_module", "relay_module_low"):
        pair = part.type.paired(Role.DRIVE_PLUS, Role.DRIVE_MINUS)
        on_it = sorted({outputs[t] for t in case.joined(part.at(pair[0])) if t in outputs}) if pair else []
        if len(on_it) > 1:
            found.append(
                Finding(
                    "wiring.two-drivers",
                    Severity.FAULT,
                    title=f"{' and '.join(on_it)} both drive {part.name}",
                    reason=f"When they disagree one pushes its current into the other, and the {case.driven.noun} obeys neither.",
                    fix="One output for one input.",
                    subjects=(part.name, *on_it),
                )
            )
    return found


def alarm(case: Case) -> list[Finding]:
    """An alarm contact that is wired but set to do nothing guards nothing."""
    return [
        Finding(
            "wiring.alarm-off",
            Severity.FAULT,
            title=f"{part.name}'s alarm contact is wired, and its alarm is off",
            reason="What hangs on the contact never moves.",
            fix="Set the alarm (or fit its option board), or take its wires away.",
            subjects=(part.name,),
        )
        for part in case.wiring.of_kind("controller_relay", "controller_ssr")
        if part.ratings.get("alarm") in ("off", "not fitted") and case.wires_at(part.at("AL1"), part.at("AL2"))
    ]


def cooler_interlock(case: Case) -> list[Finding]:
    """A cooler on the controller's alarm contact and the heater are never on together, even where the output calls."""
    if not has_cooling_contact(case.wiring):
        return []
    for standing in (s for s in case.standings.all if s.alarm_on and not s.momentary):
        calls, cools = (case.solved(s.of(ON)) for s in (replace(standing, alarm_on=False), standing))
        coolers = [p for p in case.wiring.parts if p.type.kind in MOVES and p.name in cools.on - calls.on]
        heaters = [p for p in case.heaters() if case.gives(p, cools) > HOT]
        if coolers and heaters:
            names = [*(p.name for p in heaters), *(p.name for p in coolers)]
            return [
                Finding(
                    "wiring.cooler-interlock",
                    Severity.DANGER,
                    title=f"Nothing keeps {' and '.join(names)} from being on together",
                    reason="A switch that sticks on one side is answered by the other: the reading looks right, and nobody sees that one "
                    "failed.",
                    fix="Feed the heater’s command through a contact of the cooler’s relay that opens when it pulls in.",
                    subjects=tuple(names),
                    source="common practice, no source",
                )
            ]
    return []


def flow_interlock(case: Case) -> list[Finding]:
    """A heater that a fan or pump must carry the heat away from goes off when nothing moves, whatever the controller's switch does."""
    found = []
    for heater in case.heaters():
        if heater.ratings.get("blown") != "yes":
            continue
        flows = case.wiring.of_kind("flow_switch")
        if any(case.let_past(case.moved(ON, g.name), heater) is None for g in flows):
            continue
        pumped = bool(case.wiring.of_kind("pump"))
        found.append(
            Finding(
                "wiring.fan-interlock",
                Severity.DANGER,
                title=f"{heater.name} heats without its {'flow' if pumped else 'air'}",
                reason="When the pump stops, what stands at the heater boils and burns on, and a sensor elsewhere feels nothing of it."
                if pumped
                else "When the fan stops, a blown heater burns out in seconds and lights what is near.",
                fix="A flow switch in series with what holds the heater on (not in the controller's drive)"
                + (": it opens too when the pump runs dry." if pumped else ", and a run-on for the fan."),
                subjects=(heater.name, *(g.name for g in flows)),
            )
        )
    return found


def flow_begins(case: Case) -> list[Finding]:
    """A flow switch stands open until something moves: what moves it must run before the switch has closed."""
    movers = case.wiring.of_kind("pump") or case.wiring.of_kind("fan")
    running = {p.name for p in movers if _moves(case, ON, p)}
    found = []
    for switch in case.wiring.of_kind("flow_switch") if running else []:
        still = case.moved(ON, switch.name)
        if any(_moves(case, still, p) for p in movers):
            continue
        waits = sorted(running)
        found.append(
            Finding(
                "wiring.flow-deadlock",
                Severity.FAULT,
                title=f"{' and '.join(waits)} {'wait' if len(waits) > 1 else 'waits'} for the flow that {switch.name} waits for",
                reason=f"At rest {switch.name} is open, and nothing that moves runs while it is: it never starts, or somebody bridges it.",
                fix="Feed it ahead of what the flow switch drops, from the control breaker.",
                subjects=(switch.name, *waits),
            )
        )
    return found


def _moves(case: Case, position: Switching, mover: Part) -> bool:
    """Whether a fan or pump runs in a position."""
    return case.gives(mover, case.solved(position)) > LOW**2


LINEAR = ("controller_linear", "controller_cascade_linear")
UNIT = "4–20 mA"
"""What a linear output gives, and a unit takes, where nothing else is said."""


def signals(case: Case) -> list[Finding]:
    """A phase-angle unit takes one signal, its driver gives one: another asks for a share nobody meant."""
    found = []
    for switch in case.wiring.of_kind("ssr"):
        takes = switch.ratings.get("input", UNIT) if switch.type.kind == "phase_unit" else "pulses"
        for driver in case.conduction.drivers(switch):
            gives = driver.ratings.get("mode", UNIT) if driver.type.kind in LINEAR else "pulses"
            if gives == takes:
                continue
            found.append(
                Finding(
                    "wiring.signal",
                    Severity.FAULT,
                    title=f"{driver.name} gives {gives}, and {switch.name} takes {takes}",
                    reason=f"What {switch.name} does with it is chance: nothing, full power, or a share nobody asked for.",
                    fix="Set both to the same signal, or take a controller with the output it needs.",
                    subjects=(switch.name, driver.name),
                )
            )
    return found


def firing(case: Case) -> list[Finding]:
    """A zero-cross SSR cannot cut half-waves."""
    return [
        Finding(
            "wiring.phase-angle",
            Severity.FAULT,
            title=f"{ssr.name} turns on at zero only",
            reason="Asked for phase angle it gives whole half-waves or none.",
            fix="A random-fire SSR, or burst firing in the controller.",
            subjects=(ssr.name, driver.name),
        )
        for ssr in case.wiring.of_kind("ssr")
        if ssr.ratings.get("firing", "zero") == "zero" and ssr.type.kind in ("ssr", "ssr_3p")
        for driver in case.conduction.drivers(ssr)
        if driver.ratings.get("mode") == "phase"
    ]
