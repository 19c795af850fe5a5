"""Thermo-electric modules: which way their current goes, and what turns it round."""

from dataclasses import replace

from ...findings import Finding, Severity
from ..circuit.judge import HOT
from ..circuit.positions import has_cooling_contact
from ..kinds.loads import TURNS
from ..switching import OFF, ON
from .case import Case
from .command import REVERSED_V


def cooling_modules(case: Case) -> list[Finding]:
    """A thermo-electric module turned round heats what it should cool, and on alternating current it does nothing but heat."""
    found = []
    for module in case.wiring.of_kind("cooling_module"):
        ends = module.at("+"), module.at("-")
        works = [s for _, s in case.everywhere if module.name in s.loads]
        if any(s.direct(*ends) < -REVERSED_V for s in works):
            found.append(_wrong_way(module.name, HEATS, "Its plus and minus are exchanged", "Its red wire on plus."))
        elif any(s.alternating(*ends) > REVERSED_V for s in works):
            found.append(_alternating(module.name))
    return found


def turned_modules(case: Case) -> list[Finding]:
    """A module that heats, and cools turned round, does either when it is called to."""
    if not has_cooling_contact(case.wiring):
        return []
    heats, cools, rests = case.solved(ON), case.solved(replace(ON, alarm_on=True)), case.solved(OFF)
    found = []
    for module in case.wiring.of_kind(TURNS):
        name, ends = module.name, (module.at("+"), module.at("-"))
        if any(s.alternating(*ends) > REVERSED_V for s in (heats, cools)):
            found.append(_alternating(name))
        elif name in rests.turned:
            found.append(
                _wrong_way(name, "cools while nothing is called", "At rest it lies with its minus on plus", ONE_EACH)
            )
        elif name in heats.turned:
            found.append(_wrong_way(name, COOLS, "Called to heat it lies with its minus on plus", ONE_EACH))
        elif case.gives(module, cools) > HOT:
            found.append(_wrong_way(name, HEATS, "Called to cool it lies with its plus on plus", ONE_EACH))
        elif case.gives(module, heats) > HOT and name not in cools.turned:
            found.append(
                Finding(
                    "wiring.module-stays",
                    Severity.FAULT,
                    title=f"Nothing turns {name} round",
                    reason="Called to cool, it gets no current the other way: too hot, the controller waits for the room to cool it.",
                    fix=ONE_EACH,
                    subjects=(name,),
                    source="common practice, no source",
                )
            )
    return found


HEATS, COOLS = "heats where it should cool", "cools where it should heat"
ONE_EACH = (
    "Each end on the middle of a relay of its own, with minus on both resting contacts and plus on the others: heat pulls in the relay "
    "at its plus, the cooler’s output the one at its minus."
)


def _wrong_way(name: str, does: str, because: str, fix: str) -> Finding:
    return Finding(
        "wiring.module-heats",
        Severity.DANGER,
        title=f"{name} {does}",
        reason=f"{because}: the further off it is, the longer it goes on, and the controller lets it.",
        fix=fix,
        subjects=(name,),
        source="first principles",
    )


def _alternating(name: str) -> Finding:
    return Finding(
        "wiring.module-heats",
        Severity.DANGER,
        title=f"{name} {HEATS}",
        reason="It is on alternating current: half of the time it pumps the other way, and all of its own heat stays.",
        fix="A supply module between the mains and it.",
        subjects=(name,),
        source="first principles",
    )
