"""What may not be in a neutral, and what must be in every live; judged by the solved circuit, not by where a wire leads."""

from collections.abc import Iterator

from ...findings import Finding, Severity
from ..circuit.branches import AC_SUPPLIES
from ..circuit.solution import Fault
from ..model import Closed, Part
from ..names import TerminalName, path_at
from ..switching import OFF, ON
from .case import Case

AT_NEUTRAL, LIVE_BEHIND = 0.1, 0.3
"""Shares of the voltage to neutral: up to the first a closed contact is in the neutral, from the second what is behind it is
live once it has opened (our choice: far apart)."""
LESS = 0.9
"""Share of its power below which a heater has lost a live (our choice)."""
CARRIES_A = 0.001
"""Amperes from which a contact carries something: less than any coil takes (our choice)."""


def _to_neutral(case: Case) -> float:
    """Volts of a live against the neutral; 0 where no supply has an earthed neutral."""
    found = [max((case.solved(OFF).to_earth(end) or 0.0) for end in s.ends) for s in case.wiring.of_kind(*AC_SUPPLIES)]
    return max(found, default=0.0)


def _paths(part: Part) -> Iterator[tuple[TerminalName, TerminalName]]:
    for path in part.type.paths:
        if path.closed not in (Closed.ALWAYS, Closed.LOAD):
            yield part.across(path)


def in_neutral(case: Case) -> list[Finding]:
    """A fuse, breaker or switch that opens the neutral alone leaves everything behind it live."""
    volts = _to_neutral(case)
    if volts <= 0 or not case.conduction.poles().get("N"):
        return []
    found = []
    for part in case.wiring.parts:
        if part.type.family == "supply" or not any(_opens_neutral(case, part, a, b, volts) for a, b in _paths(part)):
            continue
        fuse = part.type.family in ("breaker", "fuse")
        found.append(
            Finding(
                "wiring.neutral-fused" if fuse else "wiring.neutral-switched",
                Severity.DANGER,
                title=f"{part.name} is in the neutral",
                reason="When it opens, nothing runs and everything behind it is still live.",
                fix="Move it to the live conductor; leave the neutral unbroken, or break all poles together.",
                subjects=(part.name,),
                source="IEC 60364-4-43, NEC 240.22; from memory",
            )
        )
    return found


def _opens_neutral(case: Case, part: Part, a: TerminalName, b: TerminalName, volts: float) -> bool:
    """Whether a contact stands at neutral where it carries most, and has a live side once its part has opened."""
    at = path_at(a, b)
    carried = {s: case.solved(s).paths[at].amps for s in (ON, OFF) if at in case.solved(s).paths}
    switching = max(carried, key=lambda s: carried[s], default=ON)
    if carried.get(switching, 0.0) < CARRIES_A:
        return False
    closed = case.solved(switching)
    if max(closed.to_earth(a) or 0.0, closed.to_earth(b) or 0.0) > AT_NEUTRAL * volts:
        return False
    opened = case.solved(switching, Fault(opened=frozenset({part.name})))
    return max(map(opened.alternating_to_earth, (a, b))) > LIVE_BEHIND * volts  # a pole of DC has no neutral


def all_lives(case: Case) -> list[Finding]:
    """With several lives the limiter must take every one of them off the heater."""
    if len(case.conduction.live_poles()) < 2:
        return []
    limiters = {p.name for p in case.wiring.of_kind("limiter")}
    if not limiters:
        return []
    coils = case.dropped_by_limiter()
    left = case.reach_live(lambda part, closed, breaks: part.name in coils and closed is Closed.COIL)
    return [
        Finding(
            "wiring.all-lives",
            Severity.DANGER,
            title=f"Tripped, {heater.name} is still live",
            reason=f"The limiter leaves a live conductor on the {case.driven.noun}: what of it touches the case goes on working.",
            fix="A contactor with a pole for every live, its coil held by the limiter.",
            subjects=(heater.name, *sorted(limiters)),
            source="single-fault reasoning; IEC 60204-1, from memory",
        )
        for heater in case.heaters()
        if case.touches(heater, left)
    ]


def breakers_apart(case: Case) -> list[Finding]:
    """A load on two lives is opened in both at once: single-pole breakers of their own leave one of them on it."""
    if len(case.conduction.live_poles()) < 2:
        return []
    found = []
    for heater in case.heaters():
        apart = [
            guard.name
            for guard in case.wiring.of_kind("breaker")
            if len(list(_paths(guard))) == 1 and case.most_amps(guard) > CARRIES_A and _left_live(case, heater, guard)
        ]
        if len(apart) > 1:
            found.append(
                Finding(
                    "wiring.breakers-apart",
                    Severity.DANGER,
                    title=f"{', '.join(apart[:-1])} and {apart[-1]} open {heater.name} one live at a time",
                    reason=f"When one of them opens the {case.driven.noun} stops, and the other live is still on it.",
                    fix="One breaker with a pole for every live, or their handles tied together.",
                    subjects=(*apart, heater.name),
                    source="NEC 240.15(B), IEC 60364-4-43; from memory",
                )
            )
    return found


def _left_live(case: Case, heater: Part, guard: Part) -> bool:
    """Whether this breaker feeds the heater, and the heater is still live with it open."""
    ends = heater.ends
    before = case.solved(ON)
    after = case.solved(ON, Fault(opened=frozenset({guard.name})))
    watts = before.loads[heater.name].watts if heater.name in before.loads else 0.0
    left = after.loads[heater.name].watts if heater.name in after.loads else 0.0
    live = max((after.to_earth(end) or 0.0) for end in ends)
    return watts > 0 and left < LESS * watts and live > LIVE_BEHIND * case.context.supply_voltage_v / 2.0


def automatic_reset(case: Case) -> list[Finding]:
    """A cut-out that resets by itself is no last resort: it cycles until something gives."""
    if case.wiring.of_kind("limiter", "thermal_fuse", "cutout_manual"):
        return []
    return [
        Finding(
            "wiring.auto-reset",
            Severity.DANGER,
            title=f"{part.name} resets by itself",
            reason=f"As the last protection it lets the {case.driven.effect} come back again and again, with nobody there.",
            fix="A thermal fuse or a cut-out with manual reset behind it.",
            subjects=(part.name,),
            source="common practice; EN 60730-1, from memory",
        )
        for part in case.wiring.of_kind("cutout_auto")
    ]
