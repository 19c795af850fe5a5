"""The positions of a circuit worth looking at, by name, each solved: what is energised, at what power, what the lamps show."""

from dataclasses import dataclass, replace

from ..kinds.instruments import COOLS
from ..model import Closed, ConnectionList, Part
from ..names import TerminalName, is_inner, is_input, split
from ..switching import OFF, ON, Switching
from .solution import Solution
from .solve import CircuitSolver

WORKING, RESTING, TRIPPED, CALLING = "output on", "output off", "limit tripped, output on", "alarm, output on"
"""Names of the positions by which others look one up."""
COOLING = "cooler called, output on"
"""The same of a list whose alarm contact a cooler hangs on."""
LIVE_SHARE = 0.1
"""Share of the control voltage from which a terminal counts as live."""
LIT_V, LOW_V = 3.0, 24.0
"""Volts from which a terminal is live where the control voltage is below the second (our choice)."""


@dataclass(frozen=True)
class Position:
    """A position by name, solved. ``live``: terminals with a voltage against earth worth fearing; ``idle``: at earth's."""

    name: str
    switching: Switching
    solution: Solution
    live: frozenset[TerminalName]
    idle: frozenset[TerminalName]

    @property
    def energised(self) -> frozenset[str]:
        """Names of the parts whose load is on."""
        return frozenset(n for n in self.solution.on if not is_input(n))

    def heats(self, heater: str, least_w: float) -> bool:
        """Whether a heater gets more than ``least_w``."""
        return heater in self.solution.loads and self.solution.loads[heater].watts > least_w


def operable(wiring: ConnectionList) -> list[Part]:
    """Parts somebody operates: switches, buttons, selectors, cut-outs, breakers and plugs."""
    return [p for p in wiring.parts if any(x.closed in (Closed.HAND, Closed.NOT_HAND) for x in p.type.paths)]


def named(wiring: ConnectionList) -> dict[str, Switching]:
    """Every position that matters: the output, a tripped limiter, an alarm, each part operated, the supply lost."""
    found = {RESTING: OFF, WORKING: ON}
    if wiring.of_kind("limiter"):
        found["limit tripped, output off"] = Switching(limit_tripped=True)
        found[TRIPPED] = Switching(output_on=True, limit_tripped=True)
    if uses_alarm(wiring):
        found[COOLING if has_cooling_contact(wiring) else CALLING] = replace(ON, alarm_on=True)
    for part in operable(wiring):
        found[f"{part.name} {verb(part)}, output on"] = replace(ON, operated=frozenset({part.name}))
    return found


def has_cooling_contact(wiring: ConnectionList) -> bool:
    """Whether the alarm contact of a controller is set to cool, or a pin of a board."""
    return any(cools_by(p) for p in wiring.of_kind("controller_relay", "controller_ssr"))


def cools_by(controller: Part) -> tuple[TerminalName, ...]:
    """The terminals by which a controller calls a cooler; none where it calls none."""
    if controller.cooling_pin:
        return (controller.at(controller.cooling_pin),)
    return (controller.at("AL1"), controller.at("AL2")) if controller.ratings.get("alarm") == COOLS else ()


def uses_alarm(wiring: ConnectionList) -> bool:
    """Whether a wire hangs on a controller's alarm contact, or on the pin of a board that calls a cooler."""
    ends = {split(end)[1] for end in wiring.wired}
    return bool({"AL1", "AL2"} & ends) or pin_calls(wiring)


def pin_calls(wiring: ConnectionList) -> bool:
    """Whether a wire hangs on the pin of a board that calls a cooler."""
    return any(p.at(p.cooling_pin) in wiring.wired for p in wiring.parts if p.cooling_pin)


def verb(part: Part) -> str:
    """What it is called when a part is in its other position."""
    if part.type.family in ("breaker", "fuse", "rcd", "thermal_fuse", "cutout_manual", "cutout_auto"):
        return "open"
    if part.type.kind == "plug":
        return "pulled"
    return {"selector": "in II", "pushbutton": "pressed", "estop": "pressed", "estop_no": "pressed"}.get(
        part.type.kind, "off" if part.type.kind != "door_switch" else "door open"
    )


def position(circuit: CircuitSolver, name: str, switching: Switching, start: frozenset[str] = frozenset()) -> Position:
    """One position solved. A DC rig's live terminals are those away from its own minus."""
    solution = circuit.solve(switching, start=start)
    least = max(LIVE_SHARE * circuit.supply_v, LIT_V if circuit.supply_v < LOW_V else 0.0)
    minus = next((p.at("-") for p in circuit.wiring.of_kind("supply_dc")), None)
    live: set[TerminalName] = set()
    idle: set[TerminalName] = set()
    for terminal in solution.ac:
        if terminal in solution.undefined or is_inner(terminal):
            continue
        volts = solution.between(terminal, minus) if minus else solution.to_earth(terminal)
        (live if volts is not None and volts > least else idle).add(terminal)
    return Position(name, switching, solution, frozenset(live), frozenset(idle))


def table(circuit: CircuitSolver) -> list[Position]:
    """All positions of :func:`named`, started where there is a start button; then the supply back after it was lost."""
    found = []
    for name, switching in named(circuit.wiring).items():
        started = circuit.begun(replace(switching, operated=frozenset()))
        found.append(position(circuit, name, switching, started))
    lost = circuit.settled(replace(ON, power=False), circuit.running(ON))
    return [*found, position(circuit, "supply back, output on", ON, lost)]
