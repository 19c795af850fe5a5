"""Supply: disconnection when something touches earth, means of disconnection, plugs, what trips by being energised."""

from ...explain import Figure, Input
from ...findings import Finding, Severity
from ...heating.protection import FUSE_AT_ONCE
from ...heating.short_circuit import AT_ONCE
from ...messages import quantity
from ...units import Kind
from ..circuit.earthing import Earthing, earthing_of
from ..circuit.solution import Fault
from ..model import Closed, Part
from ..names import Family, TerminalName
from ..switching import ON
from .case import Case
from .earth import earths
from .power import SAME
from .protective import hurting_heaters, is_extra_low

HEATS = 0.2
"""Share of its power from which a heater is one that an earth fault is looked for at (our choice)."""
DISCONNECTS: tuple[Family, ...] = ("breaker", "plug", "isolator", "switch", "rcd")


def automatic_disconnection(case: Case) -> list[Finding]:
    """A live that touches the case must open a breaker at once, or an earth-leakage breaker."""
    if is_extra_low(case):
        return []
    bonded = case.conduction.reach(earths(case))
    metal = next((p.at("PE") for p in case.wiring.of_kind("enclosure") if p.at("PE") in bonded), None)
    heaters = [h for h in hurting_heaters(case) if case.share(h, ON) >= HEATS]
    if metal is None or not heaters:
        return []
    if any(earthing_of(s) is Earthing.IT for s in case.wiring.of_kind("supply_1ph", "supply_split", "supply_3ph")):
        return []  # the first fault of an IT system opens nothing, by design
    share, best, amps, heater = min(((*_opens_at_once(case, h, metal), h) for h in heaters), key=lambda found: found[0])
    if share >= 1.0:
        return []
    needed = case.wiring.part(best).number("current_a") * at_once(case.wiring.part(best)) if best else 0.0
    return [
        Finding(
            "wiring.disconnection",
            Severity.DANGER,
            title=f"A live on the case opens nothing at once ({quantity(amps, 'A', '.0f')})",
            reason=f"{best or 'A breaker'} needs {quantity(needed, 'A', '.0f')} to open "
            "in a fraction of a second; until then the metal is live.",
            fix="A shorter or thicker way to earth, a smaller or quicker breaker, or an earth-leakage breaker ahead.",
            subjects=tuple(filter(None, (best, heater.name))),
            figures=(
                Figure(
                    "current on an earth fault",
                    amps,
                    Kind.CURRENT,
                    formula="I = U₀ / Zs",
                    inputs=(Input("needed", needed, Kind.CURRENT, "k I_n", "breaker curve"),),
                    reason=f"Solved with the live end of the {case.driven.noun} on the case.",
                    source="IEC 60364-4-41; from memory",
                ),
            ),
            source="IEC 60364-4-41: Zs ≤ U₀/(5, 10, 20 I_n); from memory",
        )
    ]


def _opens_at_once(case: Case, heater: Part, metal: TerminalName) -> tuple[float, str, float]:
    """With a heater's live end on the metal: how much more flows than opens a breaker at once, which breaker, and A."""
    touching = Fault(joined=((heater.ends[0], metal),))
    guards = case.wiring.of_kind("breaker", "fuse")
    slow = (
        frozenset(g.name for g in guards) if case.context.fault_a else frozenset[str]()
    )  # they may not be the first to open
    if any(p.type.family == "rcd" for p in _opened(case, touching | Fault(stuck=slow))):
        return float("inf"), "", 0.0
    found = case.circuit.solve(ON, touching, trips=False)
    best, share, amps = "", 0.0, 0.0
    for guard in guards:
        through = found.contacts.get(guard.name)
        flows = min(through.amps, case.context.fault_a or through.amps) if through else 0.0
        if flows / (guard.number("current_a", 1e9) * at_once(guard)) > share:
            share = flows / (guard.number("current_a", 1e9) * at_once(guard))
            best, amps = guard.name, flows
    return share, best, amps


def at_once(guard: Part) -> float:
    """How many times its rating surely opens this breaker or fuse at once."""
    return AT_ONCE.get(str(guard.ratings.get("curve", "B")), 5.0) if guard.type.family == "breaker" else FUSE_AT_ONCE


def _opened(case: Case, fault: Fault) -> list[Part]:
    return [case.wiring.part(name) for name in case.circuit.solve(ON, fault, case.solved(ON).on).tripped]


def means_of_disconnection(case: Case) -> list[Finding]:
    """Every live must be able to be taken off for work: a semiconductor is no disconnection."""
    if is_extra_low(case):
        return []
    left = case.reach_live(lambda p, closed, breaks: p.type.family in DISCONNECTS)
    return [
        Finding(
            "wiring.means",
            Severity.FAULT,
            title=f"Nothing disconnects {heater.name} for work",
            reason="A fuse, a contactor or an SSR does not: it leaks, welds, or comes back by itself.",
            fix="A lockable switch-disconnector, or a plug that can be pulled.",
            subjects=(heater.name,),
            source="IEC 60204-1, NEC 430.102; from memory",
        )
        for heater in hurting_heaters(case)
        if case.touches(heater, left)
    ]


def plug_load(case: Case) -> list[Finding]:
    """A plug or inlet carries no more than is printed on it."""
    found = []
    for plug in case.wiring.of_kind("plug"):
        amps, rating = case.most_amps(plug), plug.number("current_a", 16.0)
        if amps > rating * SAME:
            found.append(
                Finding(
                    "wiring.plug-load",
                    Severity.FAULT,
                    title=f"{plug.name} carries {quantity(amps, 'A', '.1f')} of its {quantity(rating, 'A')}",
                    reason="For hours it overheats at its pins, and so does the socket.",
                    fix="A larger plug and inlet, or fixed wiring by a licensed person.",
                    subjects=(plug.name,),
                )
            )
    return found


def reversible_plug(case: Case) -> list[Finding]:
    """With a plug that fits both ways round, whatever opens one pole only may open the wrong one."""
    plugs = [p for p in case.wiring.of_kind("plug") if p.ratings.get("reversible") == "yes"]
    if not plugs or len(case.conduction.live_poles()) > 1:
        return []
    ways = [way for p in case.wiring.parts for way in p.ways(*(Closed if p in plugs else [Closed.ALWAYS]))]
    neutral = case.conduction.reach(case.conduction.poles().get("N", []), ways)
    return [
        Finding(
            "wiring.plug-reversible",
            Severity.FAULT,
            title=f"The other way round {heater.name} stays live",
            reason=f"{plugs[0].name} fits both ways: half of the times every fuse and switch stands in the neutral.",
            fix="Two-pole breaker and two-pole contactor, or a plug that fits one way only.",
            subjects=(plugs[0].name, heater.name),
        )
        for heater in case.heaters()
        if case.touches(heater, neutral)
    ]


def energise_to_trip(case: Case) -> list[Finding]:
    """A limiter that must close a contact to stop the heat is defeated by a broken wire. Allowed, but said."""
    wired = case.wiring.wired
    return [
        Finding(
            "wiring.energise-to-trip",
            Severity.ADVICE,
            title=f"{part.name} has to energise something to stop the {case.driven.effect}",
            reason="A broken wire or a lost supply defeats it, and nobody notices.",
            fix="Hold a contactor with its OK contact, so that everything that fails lets go.",
            subjects=(part.name,),
            source="de-energise to trip; common practice, no source",
        )
        for part in case.wiring.of_kind("limiter")
        if part.at("TRIP") in wired and part.at("OK") not in wired
    ]


def emergency_stop(case: Case) -> list[Finding]:
    """An emergency stop opens; one that has to close fails with its wire."""
    return [
        Finding(
            "wiring.estop-no",
            Severity.DANGER,
            title=f"{part.name} has to close to stop",
            reason="With a wire off it does nothing, and that is found out when it is needed.",
            fix="A contact that opens, in series with the contactor's coil.",
            subjects=(part.name,),
            source="IEC 60204-1, ISO 13850; from memory",
        )
        for part in case.wiring.of_kind("estop_no")
    ]


def thermal_fuse(case: Case) -> list[Finding]:
    """What the list cannot see of a thermal fuse."""
    return [
        Finding(
            "wiring.thermal-fuse",
            Severity.ADVICE,
            title=f"{part.name} must touch what it guards",
            reason="It opens at its own temperature, not at the load's; on heater fins its body can short them.",
            fix="Clamp it on with an insulating sleeve, crimp it: solder melts it.",
            subjects=(part.name,),
            source="common practice, no source",
        )
        for part in case.wiring.of_kind("thermal_fuse")
    ]
