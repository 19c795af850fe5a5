"""What solving the circuit finds that no look at the list alone can: shorts, chatter, and failures nothing covers."""

from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...messages import quantity
from ...units import Kind
from ..model import Circuit, Role
from ..names import split, wire_number
from ..switching import Switching
from .branches import PROSPECTIVE_A
from .faults import Analysis, FailureVerdict, analyse
from .judge import LAST_RESORTS
from .memory import memory
from .positions import named
from .solve import CircuitSolver

SHORT_TIMES = 10.0
"""From this many times its rating a device sees a short, below an overload (our choice: the reach of a C curve)."""
SAME_PATH = 0.8
"""Share of the highest current that a wire carries which is on the path of a short (our choice)."""


def circuit_findings(circuit: CircuitSolver, analysis: Analysis | None = None) -> list[Finding]:
    """Trips and chatter of every state; with something independent fitted, single failures that still leave the heat on.
    ``analysis``: of the same circuit, where somebody has it already."""
    if not circuit.wiring.of_kind("supply") or not circuit.wiring.connections:
        return []
    found = [*_states(circuit), *_remembered(circuit)]
    if circuit.wiring.of_kind("limiter", *LAST_RESORTS):
        found += _uncovered(analysis or analyse(circuit))
    return worst_first(found)


def _states(circuit: CircuitSolver) -> list[Finding]:
    found: dict[tuple[str, str], Finding] = {}
    for name, state in named(circuit.wiring).items():
        words = f"with: {name}"
        solution = circuit.solve(state)
        for device, amps in solution.tripped.items():
            part = circuit.wiring.part(device)
            if part.type.family == "rcd":
                found.setdefault(("leak", device), _leaks(device, amps, words))
                continue
            rating = part.number("current_a")
            current = Figure(
                f"current in {device}",
                amps,
                Kind.CURRENT,
                formula="Y v = i",
                inputs=(Input("its rating", rating, Kind.CURRENT, "I_n", "part"),),
                reason=f"Solved {words}, before it opens.",
                source="nodal analysis; 1500 A of prospective fault current assumed",
            )
            found.setdefault(
                ("trip", device),
                Finding(
                    "circuit.trips",
                    Severity.DANGER if amps > SHORT_TIMES * rating else Severity.FAULT,
                    title=f"{device} trips {words}",
                    reason=f"{quantity(amps, 'A', '.0f')} flow through its {quantity(rating, 'A')}: "
                    f"{'a short' if amps > SHORT_TIMES * rating else 'an overload'}.",
                    fix=f"Follow its path: {', '.join(_path(circuit, state)) or f'the {circuit.wiring.driven.noun} itself'}.",
                    subjects=(device, *_path(circuit, state)),
                    figures=(current,),
                ),
            )
        if not solution.settled:
            who = sorted(solution.chatters)
            found.setdefault(
                ("chatter", ""),
                Finding(
                    "circuit.chatters",
                    Severity.FAULT,
                    title=f"{' and '.join(who)} chatter{'s' if len(who) == 1 else ''} {words}",
                    reason="A contact takes the supply of the coil that moves it away, again and again.",
                    fix="Feed the coil from ahead of its own contact.",
                    subjects=tuple(who),
                ),
            )
    return [*found.values(), *_shorted(circuit), *_floating(circuit)]


SHORT_SHARE = 0.3
"""Share of the prospective current from which a wire carries a short."""


def _path(circuit: CircuitSolver, state: Switching) -> tuple[str, ...]:
    """The wires a short or overload flows through, as they are before anything opens."""
    wires = circuit.solve(state, trips=False).wires
    most = max((t.amps for t in wires.values()), default=0.0)
    return tuple(sorted((n for n, t in wires.items() if t.amps > SAME_PATH * most), key=lambda n: wire_number(n) or 0))


def _shorted(circuit: CircuitSolver) -> list[Finding]:
    """A source shorted ahead of every breaker: nothing opens, the wire glows."""
    least = SHORT_SHARE * min(
        (p.number("fault_a", PROSPECTIVE_A) for p in circuit.wiring.of_kind("supply")), default=1e9
    )
    for name, state in named(circuit.wiring).items():
        carried = {n: t.amps for n, t in circuit.solve(state).wires.items() if t.amps > least}
        if carried:
            return [
                Finding(
                    "circuit.short",
                    Severity.DANGER,
                    title=f"{quantity(max(carried.values()), 'A', '.0f')} through {next(iter(carried))}, and nothing opens",
                    reason=f"With {name} a source is shorted ahead of every breaker and fuse: the wire itself is the fuse.",
                    fix="Take out the wire that joins two poles.",
                    subjects=tuple(carried),
                )
            ]
    return []


SIGNALS = (Role.SENSOR, Role.SENSOR_PLUS, Role.SENSOR_MINUS)
"""Terminals that carry a signal: what holds them is inside the parts."""


def _floating(circuit: CircuitSolver) -> list[Finding]:
    """Parts of power and control circuits that nothing holds, in any position: what a meter shows there means nothing."""
    signals = {end for p in circuit.wiring.parts for end in p.acting_as(*SIGNALS)}
    wired = {
        end
        for w in circuit.wiring.connections
        if w.circuit in (Circuit.POWER, Circuit.CONTROL) and not {w.a, w.b} & signals
        for end in (w.a, w.b)
    }
    for state in named(circuit.wiring).values():
        wired &= circuit.solve(state).undefined
    parts = tuple(sorted({split(end)[0] for end in wired}))
    if not parts:
        return []
    return [
        Finding(
            "circuit.floating",
            Severity.ADVICE,
            title=f"Nothing holds {', '.join(parts)}",
            reason="Wires lead there, and none of them leads on to a source or to earth in any position: a meter shows anything.",
            fix="Join it to what should feed it, or take the wires out. Until then treat it as live.",
            subjects=parts,
        )
    ]


def _leaks(device: str, amps: float, words: str) -> Finding:
    return Finding(
        "circuit.leaks",
        Severity.FAULT,
        title=f"{device} trips {words}",
        reason=f"{quantity(amps * 1000, 'mA', '.0f')} of what goes out through it does not come back through it.",
        fix="Take every neutral behind it back to it alone; look for a neutral joined to earth behind it.",
        subjects=(device,),
        source="IEC 61008; from memory",
    )


def _remembered(circuit: CircuitSolver) -> list[Finding]:
    """Races, trips forgotten with the supply, and heat that comes back by itself."""
    known = memory(circuit)
    found = [
        Finding(
            "circuit.race",
            Severity.FAULT,
            title=f"{' and '.join(coils)} race {'' if len(coils) > 1 else 'another coil '}with: {position}",
            reason="Which contact is quicker decides what happens; the next one of the same kind may do otherwise.",
            fix="Interlock them with auxiliary contacts, or put a timer between them.",
            subjects=coils,
        )
        for position, coils in list(known.races.items())[:1]
    ]
    if known.forgets:
        found.append(
            Finding(
                "circuit.forgets",
                Severity.DANGER,
                title=f"{' and '.join(known.forgets)} forgets a trip when the supply fails",
                reason=f"After a power cut the latch is open again and the {circuit.wiring.driven.effect} is back, whatever had tripped.",
                fix="Latch it the other way round: a contactor that a button starts and every trip lets go.",
                subjects=known.forgets,
                source="de-energise to trip; IEC 60204-1, from memory",
            )
        )
    if known.restarts:
        found.append(
            Finding(
                "circuit.restarts",
                Severity.ADVICE,
                title=f"{' and '.join(known.restarts)} {circuit.wiring.driven.does} again by itself after a power cut",
                reason="The supply comes back with nobody there, and the programme with it.",
                fix="A start button with a contactor that holds itself, or a controller set to stay off after power-up.",
                subjects=known.restarts,
                source="common practice; IEC 60204-1, from memory",
            )
        )
    return found


def _uncovered(analysis: Analysis) -> list[Finding]:
    open_ = [o for o in analysis.outcomes if o.verdict is FailureVerdict.UNCOVERED]
    if not open_:
        return []
    return [
        Finding(
            "circuit.uncovered",
            Severity.DANGER,
            title=f"{len(open_)} single failures get past what is independent",
            reason=f"For one: {open_[0].title}. {open_[0].says}",
            fix="See “If something fails”: take what they share apart, so that the limiter has a sensor, a supply and a contactor "
            "of its own.",
            subjects=tuple(dict.fromkeys(o.subject for o in open_)),
            source="single-fault analysis of the solved circuit",
        )
    ]
