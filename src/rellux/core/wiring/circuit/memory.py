"""What a circuit remembers: contacts that hold themselves, races between them, a supply that goes and comes back."""

from dataclasses import dataclass, replace

from ..switching import ON, Switching
from .branches import is_coil
from .positions import named, operable, uses_alarm
from .solve import CircuitSolver


@dataclass(frozen=True)
class Memory:
    """``holds``: coils that stay as they were in a position where nothing commands them (self-holding). ``races``: positions
    whose outcome depends on which coil is quicker, with the coils that differ. ``restarts``: heaters that heat again by
    themselves when the supply comes back. ``forgets``: coils that held a trip and let it go when the supply failed."""

    holds: tuple[str, ...]
    races: dict[str, tuple[str, ...]]
    restarts: tuple[str, ...]
    forgets: tuple[str, ...]


def memory(circuit: CircuitSolver) -> Memory:
    """Solve every position from nothing, from everything on, and with each coil slow in turn."""
    wiring = circuit.wiring
    coils = [p.name for p in wiring.parts if is_coil(p)]
    everything = frozenset(p.name for p in wiring.parts)
    positions = named(wiring)
    held = {
        coil
        for switching in positions.values()
        for coil in circuit.settled(switching) ^ circuit.settled(switching, everything)
        if coil in coils
    }
    return Memory(tuple(sorted(held)), _races(circuit, coils, positions), _restarts(circuit), _forgets(circuit, coils))


def _races(circuit: CircuitSolver, coils: list[str], positions: dict[str, Switching]) -> dict[str, tuple[str, ...]]:
    if len(coils) < 2:
        return {}
    found = {}
    slowed = [CircuitSolver(circuit.wiring, circuit.supply_v, frozenset({c})) for c in coils]
    for name, switching in positions.items():
        usual = circuit.settled(switching)
        differing = {c for other in slowed for c in other.settled(switching) ^ usual if c in coils}
        if differing:
            found[name] = tuple(sorted(differing))
    return found


def _restarts(circuit: CircuitSolver) -> tuple[str, ...]:
    """Heaters on again after the supply came back, nobody having pressed anything."""
    running = circuit.running(ON)
    back = circuit.settled(ON, circuit.settled(replace(ON, power=False), running))
    return tuple(h.name for h in circuit.wiring.of_kind("heater") if h.name in running and h.name in back)


def _forgets(circuit: CircuitSolver, coils: list[str]) -> tuple[str, ...]:
    """Coils that keep a heater off after a passing alarm or opened guard, until the supply is switched off and on."""
    passing = [
        replace(ON, operated=frozenset({p.name})) for p in operable(circuit.wiring) if p.type.kind != "pushbutton"
    ]
    if circuit.wiring.of_kind("limiter"):
        passing.append(replace(ON, limit_tripped=True))
    if uses_alarm(circuit.wiring):
        passing.append(replace(ON, alarm_on=True))
    heaters = {h.name for h in circuit.wiring.of_kind("heater")}
    start, found = circuit.running(ON), set()
    for event in passing:
        after = circuit.settled(ON, circuit.settled(event, start))
        again = circuit.settled(ON, circuit.settled(replace(ON, power=False), after))
        if heaters & start and not heaters & after and heaters & again:
            found |= {c for c in coils if (c in after) != (c in again)}
    return tuple(sorted(found))
