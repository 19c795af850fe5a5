"""Small things that become large: coils without suppressors, crowded terminals, sensor wires beside mains, one-way joints."""

from collections import Counter

from ...findings import Finding, Severity
from ..model import CONTACTS, Role
from ..names import Family, split
from .case import Case

MOST_AT_A_TERMINAL = 2
"""Conductors a usual screw terminal takes (common practice, no source); supply terminals and rails take more."""
ROOMY: tuple[Family, ...] = ("supply", "terminal_block", "earth_bar", "enclosure")


def suppressor(case: Case) -> list[Finding]:
    """A coil switched by a contact needs something across it, or its kick wears the contact and upsets electronics."""
    snubbed = [case.conduction.reach(s.ends) for s in case.wiring.of_kind("snubber")]
    return [
        Finding(
            "wiring.suppressor",
            Severity.ADVICE,
            title=f"{coil.name}'s coil has no suppressor",
            reason="When it drops out its coil throws hundreds of volts back: contacts wear and microcontrollers reset.",
            fix=f"An RC suppressor (AC) or diode (DC) across {coil.name}.A1 and A2, at the coil.",
            subjects=(coil.name,),
            source="common practice, no source",
        )
        for coil in case.wiring.of_kind("contactor")
        if coil.ratings.get("suppressor") != "fitted"
        and not any(coil.at("A1") in reached and coil.at("A2") in reached for reached in snubbed)
    ]


def crowded(case: Case) -> list[Finding]:
    """More conductors under one screw than it holds."""
    ends = Counter(end for w in case.wiring.connections for end in (w.a, w.b))
    parts = {p.name: p for p in case.wiring.parts}
    return [
        Finding(
            "wiring.crowded",
            Severity.ADVICE,
            title=f"{count} wires at {end}",
            reason=f"A screw terminal holds {MOST_AT_A_TERMINAL}; the third works loose and burns.",
            fix="A terminal block or a rail between them.",
            subjects=(split(end)[0],),
            source="common practice, no source",
        )
        for end, count in sorted(ends.items())
        if count > MOST_AT_A_TERMINAL and parts[split(end)[0]].type.family not in ROOMY
    ]


def dead_ends(case: Case) -> list[Finding]:
    """A wire to a part that leads nowhere from there."""
    wired = case.wiring.wired
    found = []
    for part in case.wiring.parts:
        used = [end for end in part.ends if end in wired]
        if len(used) == 1 and part.ways(*CONTACTS) and part.type.family not in ROOMY:
            found.append(
                Finding(
                    "wiring.dead-end",
                    Severity.ADVICE,
                    title=f"Nothing goes on from {part.name}",
                    reason=f"Only {used[0]} is wired: a wire that ends here does nothing, and its free end is live.",
                    fix="Wire its other end, or take it out.",
                    subjects=(part.name,),
                )
            )
    return found


def unconnected(case: Case) -> list[Finding]:
    """A coil, supply or drive input with only one of its two ends wired does nothing."""
    wired = case.wiring.wired
    found = []
    for part in case.wiring.parts:
        for role in (Role.COIL, Role.SUPPLY_IN):
            ends = part.acting_as(role)
            open_ends = [e for e in ends if e not in wired]
            if len(ends) == 2 and len(open_ends) == 1:
                found.append(
                    Finding(
                        "wiring.unconnected",
                        Severity.FAULT,
                        title=f"{open_ends[0]} is not connected",
                        reason="Its other end is: a coil or supply needs both.",
                        fix="Add the missing wire.",
                        subjects=(part.name,),
                    )
                )
    return found
