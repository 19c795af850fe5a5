"""Several supplies in one rig: what joins them, what comes back by another's neutral, what one that is off leaves live."""

from collections.abc import Iterator
from itertools import combinations

from ...findings import Finding, Severity
from ..circuit.branches import AC_SUPPLIES
from ..circuit.positions import LIT_V
from ..circuit.solution import Fault
from ..graph import RETURNS
from ..model import Closed, Part
from ..names import TerminalName
from ..switching import ON
from .case import Case
from .protective import CONTROLLERS, stays_low
from .supply import DISCONNECTS

SOURCE = "IEC 60204-1, 5.3; IEC 60364-5-53; from memory"


def _poles(supply: Part, returns: bool) -> list[TerminalName]:
    """Its lives, or its neutral or minus."""
    names = [t.name for t in supply.type.terminals if t.name != "PE"]
    return [supply.at(name) for name in names if (name in RETURNS) is returns]


def _wired(case: Case) -> list[Part]:
    """Supplies from which something is fed."""
    return [case.wiring.part(name) for name in case.wiring.fed_by]


def fed_twice(case: Case) -> list[Finding]:
    """Lives of two supplies that wires, fuses and breakers join: each goes on feeding what the other one has let go."""
    through = case.contacts(
        lambda part, closed, breaks: closed not in (Closed.ALWAYS, Closed.HAND) or _changes_over(part)
    )
    return [
        Finding(
            "wiring.fed-twice",
            Severity.DANGER,
            title=f"{one.name} and {other.name} are joined",
            reason="Switched off at one, the rig is still fed by the other, and so is the plug that was pulled. Where they are not the "
            "same phase it is a short circuit.",
            fix="Every live from one supply only; a change-over switch where either is to feed it.",
            subjects=(one.name, other.name),
            source=SOURCE,
        )
        for one, other in _joined(case, _wired(case), False, through)
    ]


def _joined(
    case: Case, supplies: list[Part], returns: bool, through: list[tuple[TerminalName, TerminalName]]
) -> Iterator[tuple[Part, Part]]:
    """Pairs of supplies whose lives, or returns, wires and these contacts join."""
    for one, other in combinations(supplies, 2):
        if case.conduction.reach(_poles(one, returns), through) & set(_poles(other, returns)):
            yield one, other


def neutrals_joined(case: Case) -> list[Finding]:
    """Neutrals of two supplies joined in the rig: each takes a part of what the other one fed."""
    mains = [s for s in _wired(case) if s.type.kind in AC_SUPPLIES]
    return [
        Finding(
            "wiring.neutrals-joined",
            Severity.FAULT,
            title=f"The neutrals of {one.name} and {other.name} are joined",
            reason="What one feeds comes back in part by the other: an earth-leakage breaker ahead of either trips, and with one off its "
            "neutral is live from behind.",
            fix="Each neutral for itself, from its supply to what that one feeds.",
            subjects=(one.name, other.name),
            source=SOURCE,
        )
        for one, other in _joined(case, mains, True, case.contacts())
    ]


def _changes_over(part: Part) -> bool:
    return any(x.closed is Closed.NOT_HAND for x in part.type.paths)


def other_return(case: Case) -> list[Finding]:
    """A load fed by one supply whose current comes back by another one’s neutral or minus."""
    supplies = case.wiring.of_kind("supply")
    if len(supplies) < 2:
        return []
    contacts = case.contacts()
    fed = {s.name: case.conduction.reach(_poles(s, returns=False), contacts) for s in supplies}
    back = {s.name: case.conduction.reach(_poles(s, returns=True), contacts) for s in supplies}
    return [
        Finding(
            "wiring.other-return",
            Severity.DANGER,
            title=f"{name} is fed by {source} and comes back by {other}",
            reason=f"An earth-leakage breaker ahead of either trips; and with {other} off its {_back(case, other)} is live from behind, "
            "where nobody looks for it.",
            fix=f"Its return to {source}.",
            subjects=(name, source, other),
            source=SOURCE,
        )
        for name, source, other in _strays(case, fed, back)
    ]


def _back(case: Case, supply: str) -> str:
    return "minus" if case.wiring.part(supply).type.kind == "supply_dc" else "neutral"


def _strays(
    case: Case, fed: dict[str, frozenset[TerminalName]], back: dict[str, frozenset[TerminalName]]
) -> Iterator[tuple[str, str, str]]:
    """Loads whose feed and return are of different supplies, with the names of both, once each."""
    for part in case.wiring.parts:
        for way in part.ways(Closed.LOAD):
            for a, b in (way, way[::-1]):
                sources = [s for s, reached in fed.items() if a in reached]
                returns = [s for s, reached in back.items() if b in reached]
                strays = [s for s in sources if s not in returns]
                if strays and returns:
                    yield part.name, strays[0], returns[0]
                    break
            else:
                continue
            break


def several_supplies(case: Case) -> list[Finding]:
    """What one of several supplies, switched off, leaves live; unless one switch takes all of them off."""
    supplies = _wired(case)
    if len(supplies) < 2 or any(_takes_all_off(case, p) for p in case.wiring.parts if p.type.family in DISCONNECTS):
        return []
    hurts = [s.name for s in supplies if not stays_low(s, case.context.supply_voltage_v)]
    harm = f" {' and '.join(hurts)} can hurt." if hurts else ""
    winds_up = (
        f" With only the {case.driven.noun}’s off its controller goes on calling, and it comes back at full power."
        if _called_by_another(case)
        else ""
    )
    return [
        Finding(
            "wiring.several-supplies",
            Severity.ADVICE,
            title=f"{' and '.join(s.name for s in supplies)}: with one off the other is still there",
            reason=f"Whoever has pulled one plug takes the box for dead.{harm}{winds_up}",
            fix="A label at both, and on the cover; better one switch that takes all of them off. Before work: each off, and measured.",
            subjects=tuple(s.name for s in supplies),
            source=SOURCE,
        )
    ]


def _called_by_another(case: Case) -> bool:
    """Whether no controller is fed by a supply that feeds a heater."""
    of: dict[str, set[str]] = {"heater": set(), "controller": set()}
    for supply in _wired(case):
        reached = case.conduction.reach(_poles(supply, returns=False), case.contacts())
        for sort, parts in (("heater", case.heaters()), ("controller", case.wiring.of_kind(*CONTROLLERS))):
            if any(case.touches(p, reached) for p in parts):
                of[sort].add(supply.name)
    return bool(of["heater"] and of["controller"]) and not of["heater"] & of["controller"]


def _takes_all_off(case: Case, switch: Part) -> bool:
    """Whether with this part open nothing behind it is live, from whichever supply."""
    opened = case.solved(ON, Fault(opened=frozenset({switch.name})))
    behind = (p for p in case.wiring.parts if p.type.family != "supply" and p is not switch)
    return all((opened.to_earth(end) or 0.0) < LIT_V for p in behind for end in p.ends)
