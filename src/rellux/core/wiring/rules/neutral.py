"""What may not be in a neutral or an earth, and what must be in every live."""

from ...findings import Finding, Severity
from ..model import Closed, Part
from .case import Case

SWITCHES = ("ssr", "relay", "contactor", "switch", "controller_relay", "limiter")


def _between(case: Case, part: Part, ends: frozenset[str], other: frozenset[str]) -> bool:
    """Whether a path of this part has one end in ``ends`` and leads away from it."""
    return any(
        (f"{part.name}.{p.a}" in ends) != (f"{part.name}.{p.b}" in ends)
        and not (f"{part.name}.{p.a}" in other or f"{part.name}.{p.b}" in other)
        for p in part.type.paths
        if p.closed is not Closed.LOAD
    )


def in_neutral(case: Case) -> list[Finding]:
    """A fuse, breaker or single-pole switch in the neutral leaves everything behind it live."""
    poles = case.conduction.poles()
    returns = frozenset(case.conduction.reach(poles.get("N", [])))
    if not returns:
        return []
    lives = case.reach_live()
    found = []
    for part in case.wiring.of_kind("breaker", "fuse", *SWITCHES):
        if part.type.kind.endswith(("_2p", "_3p")) or not _between(case, part, returns, lives):
            continue
        fuse = part.type.family in ("breaker", "fuse")
        found.append(
            Finding(
                "wiring.neutral-fused" if fuse else "wiring.neutral-switched",
                Severity.DANGER,
                f"{part.name} is in the neutral",
                "When it opens, nothing runs and everything behind it is still live.",
                "Move it to the live conductor; leave the neutral unbroken, or break all poles together.",
                (part.name,),
                source="IEC 60364-4-43, NEC 240.22; from memory",
            )
        )
    return found


def earth_broken(case: Case) -> list[Finding]:
    """Earth may pass no fuse, breaker or switch."""
    earths = [f"{s.name}.PE" for s in case.wiring.of_kind("supply") if s.type.terminal("PE")]
    bare = case.conduction.reach(earths)
    return [
        Finding(
            "wiring.earth-broken",
            Severity.DANGER,
            f"The earth goes through {part.name}",
            "When it opens the metal is no longer earthed, and nobody can see it.",
            "Earth by wire alone, from the supply to every metal part.",
            (part.name,),
            source="IEC 60364-5-54, NEC 250; from memory",
        )
        for part in case.wiring.of_kind("breaker", "fuse", *SWITCHES)
        if any(f"{part.name}.{t.name}" in bare for t in part.type.terminals)
    ]


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
            f"Tripped, {heater.name} is still live",
            "The limiter leaves a live conductor on the heater: an element that touches the case goes on heating.",
            "A contactor with a pole for every live, its coil held by the limiter.",
            (heater.name, *sorted(limiters)),
            source="single-fault reasoning; IEC 60204-1, from memory",
        )
        for heater in case.heaters()
        if case.touches(heater, left)
    ]


def automatic_reset(case: Case) -> list[Finding]:
    """A cut-out that resets by itself is no last resort: it cycles until something gives."""
    if case.wiring.of_kind("limiter", "thermal_fuse", "cutout_manual"):
        return []
    return [
        Finding(
            "wiring.auto-reset",
            Severity.DANGER,
            f"{part.name} resets by itself",
            "As the last protection it lets the heat come back again and again, with nobody there.",
            "A thermal fuse or a cut-out with manual reset behind it.",
            (part.name,),
            source="common practice; EN 60730-1, from memory",
        )
        for part in case.wiring.of_kind("cutout_auto")
    ]
