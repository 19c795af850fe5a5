"""What solving the circuit finds that no look at the list alone can: shorts, chatter, and failures nothing covers."""

from ...explain import Figure, Input
from ...findings import Finding, Severity, worst_first
from ...units import Kind
from .faults import OFF, ON, TRIPPED, Verdict, analyse
from .solve import Circuit

STATE_WORDS = {OFF: "with the output off", ON: "with the output on", TRIPPED: "with the limiter tripped"}


def circuit_findings(circuit: Circuit) -> list[Finding]:
    """Trips and chatter of every state; with a limiter fitted, single failures that still leave the heat on."""
    if not circuit.wiring.of_kind("supply") or not circuit.wiring.connections:
        return []
    found = [*_states(circuit)]
    if circuit.wiring.of_kind("limiter") and not found:
        found += _uncovered(circuit)
    return worst_first(found)


def _states(circuit: Circuit) -> list[Finding]:
    found: dict[tuple[str, str], Finding] = {}
    for state, words in STATE_WORDS.items():
        solution = circuit.solve(state)
        for device, amps in solution.tripped.items():
            rating = circuit.wiring.part(device).number("current_a")
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
            found.setdefault(
                ("chatter", ""),
                Finding(
                    "circuit.chatters",
                    Severity.FAULT,
                    f"A relay chatters {words}",
                    "Its own contact takes its coil's supply away, again and again.",
                    "Feed the coil from ahead of its own contact.",
                ),
            )
    return list(found.values())


def _uncovered(circuit: Circuit) -> list[Finding]:
    open_ = [o for o in analyse(circuit).outcomes if o.verdict is Verdict.UNCOVERED]
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
