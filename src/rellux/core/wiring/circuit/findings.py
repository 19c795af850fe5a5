"""What solving the circuit finds that no look at the list alone can: shorts, chatter, and failures nothing covers."""

from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...units import Kind
from .faults import Reaches, Verdict, analyse
from .memory import memory
from .positions import named
from .solve import Circuit


def circuit_findings(circuit: Circuit, reaches: Reaches | None = None) -> list[Finding]:
    """Trips and chatter of every state; with a limiter fitted, single failures that still leave the heat on."""
    if not circuit.wiring.of_kind("supply") or not circuit.wiring.connections:
        return []
    found = [*_states(circuit), *_remembered(circuit)]
    if circuit.wiring.of_kind("limiter") and not any(f.severity is Severity.DANGER for f in found):
        found += _uncovered(circuit, reaches)
    return worst_first(found)


def _states(circuit: Circuit) -> list[Finding]:
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
                "Y v = i",
                (Input("its rating", rating, Kind.CURRENT, "I_n", "part"),),
                f"Solved {words}, before it opens.",
                "nodal analysis; 1500 A of prospective fault current assumed",
            )
            found.setdefault(
                ("trip", device),
                Finding(
                    "circuit.trips",
                    Severity.DANGER if amps > 10 * rating else Severity.FAULT,
                    f"{device} trips {words}",
                    f"{amps:.0f} A flow through its {rating:g} A: {'a short' if amps > 10 * rating else 'an overload'}.",
                    "Follow what it feeds; the wire that joins two poles is the one added last.",
                    (device,),
                    (current,),
                ),
            )
        if not solution.settled:
            who = sorted(solution.chatters)
            found.setdefault(
                ("chatter", ""),
                Finding(
                    "circuit.chatters",
                    Severity.FAULT,
                    f"{' and '.join(who)} chatter{'s' if len(who) == 1 else ''} {words}",
                    "A contact takes the supply of the coil that moves it away, again and again.",
                    "Feed the coil from ahead of its own contact.",
                    tuple(who),
                ),
            )
    return list(found.values())


def _leaks(device: str, amps: float, words: str) -> Finding:
    return Finding(
        "circuit.leaks",
        Severity.FAULT,
        f"{device} trips {words}",
        f"{amps * 1000:.0f} mA of what goes out through it does not come back through it.",
        "Take every neutral behind it back to it alone; look for a neutral joined to earth behind it.",
        (device,),
        source="IEC 61008; from memory",
    )


def _remembered(circuit: Circuit) -> list[Finding]:
    """Races, trips forgotten with the supply, and heat that comes back by itself."""
    known = memory(circuit)
    found = [
        Finding(
            "circuit.race",
            Severity.FAULT,
            f"{' and '.join(coils)} race {'' if len(coils) > 1 else 'another coil '}with: {position}",
            "Which contact is quicker decides what happens; the next one of the same kind may do otherwise.",
            "Interlock them with auxiliary contacts, or put a timer between them.",
            coils,
        )
        for position, coils in list(known.races.items())[:1]
    ]
    if known.forgets:
        found.append(
            Finding(
                "circuit.forgets",
                Severity.DANGER,
                f"{' and '.join(known.forgets)} forgets a trip when the supply fails",
                "After a power cut the latch is open again and the heat comes back, whatever had tripped it.",
                "Latch it the other way round: a contactor that a button starts and every trip lets go.",
                known.forgets,
                source="de-energise to trip; IEC 60204-1, from memory",
            )
        )
    if known.restarts:
        found.append(
            Finding(
                "circuit.restarts",
                Severity.ADVICE,
                f"{' and '.join(known.restarts)} heats again by itself after a power cut",
                "The supply comes back with nobody there, and the programme with it.",
                "A start button with a contactor that holds itself, or a controller set to stay off after power-up.",
                known.restarts,
                source="common practice; IEC 60204-1, from memory",
            )
        )
    return found


def _uncovered(circuit: Circuit, reaches: Reaches | None) -> list[Finding]:
    open_ = [o for o in analyse(circuit, reaches).outcomes if o.verdict is Verdict.UNCOVERED]
    if not open_:
        return []
    return [
        Finding(
            "circuit.uncovered",
            Severity.DANGER,
            f"{len(open_)} single failures get past the limiter",
            f"For one: {open_[0].title}. {open_[0].says}",
            "See “If something fails”: take what they share apart, so that the limiter has a sensor, a supply and a contactor "
            "of its own.",
            tuple(dict.fromkeys(o.subject for o in open_)),
            source="single-fault analysis of the solved circuit",
        )
    ]
