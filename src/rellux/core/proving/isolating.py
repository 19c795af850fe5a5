"""How the load is kept dead while the controller works: by one of the rig's own switches where one does just that, else by a lead taken
off."""

from dataclasses import replace

from ..wiring.circuit.positions import operable, position, verb
from ..wiring.names import Family
from ..wiring.switching import ON, Switching
from .facts import Citing, ProvingFacts

CONTROLLERS: tuple[Family, ...] = ("controller_ssr", "controller_relay", "controller_analogue")
SWITCHES: tuple[Family, ...] = ("breaker", "fuse", "isolator", "switch", "plug", "rcd")


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
        still = " Its terminals may still be live: it gets no power, no more." if _still_live(facts) else ""
        return f"No power to the {noun}: {found} {verb(part)}, locked or kept in sight.{still}"
    loads = ", ".join(p.name for p in facts.wiring.parts if p.heats)
    for part in facts.wiring.parts:
        if part.heats:
            cite.part(part.name)
    return (
        f"No power to the {noun}: both leads of {loads} off and insulated, with {facts.the_plug} out while you do it."
        if loads
        else ""
    )


def _still_live(facts: ProvingFacts) -> bool:
    """Whether a load has volts against earth, or a DC supply’s minus, although no power reaches it."""
    on, circuit = calling(facts), facts.circuit
    held = position(circuit, "", on, circuit.running(on))
    return any(end in held.live for p in facts.wiring.parts if p.heats for end in p.ends)


def calling(facts: ProvingFacts) -> Switching:
    """The output on, with the load dead where a switch does that."""
    found = isolator(facts)
    return replace(ON, operated=frozenset({found})) if found else ON
