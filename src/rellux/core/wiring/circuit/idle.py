"""Guards that do not guard: with nothing broken they stop nothing, or only through what the controller works as well."""

from dataclasses import dataclass, replace

from ..names import Family
from ..switching import OFF, ON, Switching
from .branches import is_coil
from .failures import GUARDS
from .judge import HOT
from .solution import SOUND, Fault
from .solve import CircuitSolver
from .standings import Reached, Standings

SWITCHED: tuple[Family, ...] = ("ssr", "controller_relay", "relay_module", "relay_module_low")


@dataclass(frozen=True)
class IdleGuard:
    """A guard that leaves ``heaters`` on in the standing said by ``words``. ``through``: what alone it works through, empty
    where it stops nothing at all."""

    guard: str
    heaters: tuple[str, ...]
    through: str
    words: str


def commanded(circuit: CircuitSolver) -> tuple[str, ...]:
    """Parts that follow the controller's output: SSRs, relay modules, its own relay, and coils that drop when it goes off."""
    on, off = circuit.running(ON), circuit.running(OFF)
    return tuple(
        p.name for p in circuit.wiring.parts if p.type.family in SWITCHED or (is_coil(p) and p.name in on - off)
    )


def idle_guards(circuit: CircuitSolver, reached: Reached, every: Standings) -> tuple[IdleGuard, ...]:
    """Each guard once, in the worst way it can stand. An emergency stop must stop every heater, any other guard one of them;
    and what it stops it must keep off, the output being off, when something that the controller commands sticks."""
    wiring = circuit.wiring
    least = {h.name: HOT * h.number("power_w", 1000.0) for h in wiring.of_kind("heater")}
    stuck = [(name, Fault(closed=frozenset({name}))) for name in commanded(circuit)]
    found: dict[str, IdleGuard] = {}

    def hot(position: Switching, running: frozenset[str], fault: Fault = SOUND) -> set[str]:
        return {n for n, w in circuit.heat(position, fault, running).watts.items() if w > least[n]}

    for standing in every.all:
        running, on = reached.running(standing), standing.of(ON)
        sound = hot(on, running)
        for part in wiring.of_kind(*GUARDS):
            if part.name in standing.operated or not sound:
                continue
            position = replace(on, operated=on.operated | {part.name})
            left = hot(position, running)
            must = sound if part.type.kind == "estop" or not sound - left else sound - left
            known = found.get(part.name)
            if must & left and (known is None or known.through):
                found[part.name] = IdleGuard(part.name, tuple(sorted(must & left)), "", standing.words)
            for through, fault in stuck if known is None and not must & left else ():
                if still := hot(replace(position, output_on=False), running, fault) & must:
                    found.setdefault(part.name, IdleGuard(part.name, tuple(sorted(still)), through, standing.words))
    return tuple(found.values())
