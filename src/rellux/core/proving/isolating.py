"""How the load is kept dead while the controller works: by one of the rig's own switches where one does just that, else by a lead taken
off."""

from dataclasses import replace

from ..wiring.circuit.positions import operable, verb
from ..wiring.switching import ON, Switching
from .facts import Citing, ProvingFacts

CONTROLLERS = ("controller_ssr", "controller_relay", "controller_analogue")
SWITCHES = ("breaker", "fuse", "isolator", "switch", "plug", "rcd")


def isolator(facts: ProvingFacts) -> str:
    """The part that takes the power from every load, and from no controller; empty where there is none."""
    circuit, wiring = facts.circuit, facts.wiring
    loads = {p.name for p in wiring.parts if p.heats}
    controllers = {p.name for p in wiring.of_kind(*CONTROLLERS)}
    for part in operable(wiring):
        if part.type.family in SWITCHES:
            on = circuit.solve(replace(ON, operated=frozenset({part.name})), start=circuit.running(ON)).on
            if not loads & on and controllers <= on:
                return part.name
    return ""


def isolated(facts: ProvingFacts, cite: Citing) -> str:
    """What must be done so that the load stays dead, as a sentence."""
    words = _words(facts, cite)
    cite.cites["kept dead by"] = words
    return words


def _words(facts: ProvingFacts, cite: Citing) -> str:
    found = isolator(facts)
    noun = facts.wiring.driven.noun
    if found:
        part = cite.part(found)
        return f"The {noun} dead: {found} {verb(part)}, locked or kept in sight."
    loads = ", ".join(p.name for p in facts.wiring.parts if p.heats)
    for part in facts.wiring.parts:
        if part.heats:
            cite.part(part.name)
    return (
        f"The {noun} dead: both leads of {loads} off and insulated, with the plug out while you do it." if loads else ""
    )


def calling(facts: ProvingFacts) -> Switching:
    """The output on, with the load dead where a switch does that."""
    found = isolator(facts)
    return replace(ON, operated=frozenset({found})) if found else ON
