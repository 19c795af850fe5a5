"""What a rig’s steps are made from, read so that each step knows what it hangs on."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum

from ..control.settings import ControllerSettings
from ..errors import refuse
from ..explain import Figure
from ..guarding.family import HeatedRig
from ..guarding.ladder import Situation
from ..messages import temperature
from ..purpose.purpose import COLDEST_ROOM_C, HOTTEST_ROOM_C, Purpose
from ..setup.dictionary.parameter import Value
from ..setup.parameters import Sheet
from ..wiring.circuit.dead import Dead
from ..wiring.circuit.solve import CircuitSolver
from ..wiring.model import Connection, ConnectionList, Part
from ..wiring.names import TerminalName, part_of
from .scope import Edge, between, edges_of, feeding, reached

EXPECTED = "what is expected"
"""A number among the facts."""


class Fitted(StrEnum):
    """What may have been exchanged for one just like it."""

    SENSOR = "sensor"
    CONTROLLER = "controller"
    LIMITER = "limiter"


@dataclass(frozen=True)
class ProvingFacts:
    """All that a rig’s steps are made from. ``room_c``: where probe, input and rig are now. ``fitted``: since when a piece is there.
    ``box``: how warm its box was found to get, where that was asked. ``rig``: what it does with its heat. ``situation``: with the plan in
    force, ``None`` before there is one."""

    purpose: Purpose
    sensor: str
    wiring: ConnectionList
    circuit: CircuitSolver
    sheet: Sheet
    settings: ControllerSettings
    rig: HeatedRig
    situation: Situation | None = None
    room_c: float = 21.0
    fitted: dict[Fitted, str] = field(default_factory=dict)
    box: Figure | None = None

    @property
    def the_plug(self) -> str:
        """What must be out for the rig to be dead: of several supplies, each."""
        supplies = self.wiring.fed_by
        return "the plug" if len(supplies) < 2 else f"every plug ({' and '.join(supplies)})"

    @property
    def power_off(self) -> str:
        """What is off in a power cut."""
        supplies = self.wiring.fed_by
        return "main switch off" if len(supplies) < 2 else f"all supplies ({' and '.join(supplies)}) off"

    @property
    def plug_out(self) -> str:
        """The same as the beginning of a sentence."""
        return "Plug out" if self.the_plug == "the plug" else f"{self.the_plug[0].upper()}{self.the_plug[1:]} out"


LEAST_WAY_C = 2.0
"""A rig that has no further to go from the room to its work cannot be proved by going there, °C (our choice); where its purpose has a
room nearer still, that one is taken."""


def check_room(celsius: float, purpose: Purpose) -> None:
    """Raise ``Refused`` for a temperature that no room has, and for one out of which this rig has nothing to do."""
    if not COLDEST_ROOM_C <= celsius <= HOTTEST_ROOM_C:
        raise refuse("room_c", "no room is that cold or hot", f"{{{COLDEST_ROOM_C:g}…{HOTTEST_ROOM_C:g} °C}}")
    sign = 1.0 if purpose.heats else -1.0
    least = min(LEAST_WAY_C, abs(purpose.working_c - purpose.ambient_c))
    if purpose.acts and sign * (purpose.working_c - celsius) < least:
        raise refuse(
            "room_c",
            f"it works at {temperature(purpose.working_c)}: out of such a room there is nothing to be seen of it",
            f"{'below' if purpose.heats else 'above'} {temperature(purpose.working_c - sign * least)}",
        )


class Citing:
    """Reads facts for one step, and remembers which."""

    def __init__(self, facts: ProvingFacts) -> None:
        self.facts, self.cites = facts, dict[str, str]()

    def setting(self, name: str) -> Value:
        """A value of the sheet; 0 where it has none."""
        value = self.facts.sheet.get(name, 0.0)
        self.cites[f"setting {name}"] = f"{value:g}" if isinstance(value, float | int) else value
        return value

    def number(self, name: str) -> float:
        """A number of the sheet."""
        return float(self.setting(name))

    def purpose(self, name: str) -> float:
        """A number of the purpose."""
        value = getattr(self.facts.purpose, name)
        self.cites[f"purpose {name}"] = str(value)
        return float(value or 0.0)

    def plan(self, name: str, value: object) -> None:
        """Something of the plan in force."""
        self.cites[f"plan {name}"] = str(value)

    def fitted(self, *roles: Fitted) -> None:
        """Pieces that may be exchanged for one just alike."""
        for role in roles:
            if role in self.facts.fitted:
                self.cites[f"fitted {role.value}"] = self.facts.fitted[role]

    def sensor(self) -> str:
        """The control sensor, and that it is the same piece still."""
        self.fitted(Fitted.SENSOR)
        self.cites["sensor"] = self.facts.sensor
        return self.facts.sensor

    def part(self, name: str) -> Part:
        """A part with all its ratings."""
        part = self.facts.wiring.part(name)
        ratings = ", ".join(
            f"{k} {v:g}" if isinstance(v, float | int) else f"{k} {v}" for k, v in sorted(part.ratings.items())
        )
        self.cites[f"part {name}"] = f"{part.type.kind}: {ratings}"
        return part

    def wire(self, wire: Connection) -> Connection:
        """A wire with where it leads; its number is only a label."""
        a, b = sorted((wire.a, wire.b))
        self.cites[f"wire {a}–{b}"] = f"{wire.area_mm2:g} mm², {wire.length_m:g} m, {wire.insulation or 'plain'}"
        return wire

    def names(self, names: Iterable[str]) -> None:
        """Wires (``wire 7``) and parts, as branches of the circuit are named."""
        wires: dict[str, Connection] = {w.name: w for w in self.facts.wiring.connections}
        for name in names:
            if name in wires:
                self.wire(wires[name])
            elif (part := part_of(name)) in self.facts.wiring.by_name:
                self.part(part)

    def between(self, edges: list[Edge], a: TerminalName, b: TerminalName) -> None:
        """All that lies between two terminals; all that hangs on either, where nothing does: any of it could join them."""
        found = between(edges, a, b)
        if not found:
            near = reached(edges, a) | reached(edges, b)
            found = frozenset(name for name, x, _ in edges if x in near)
        self.names(found)

    def resting(self, a: TerminalName, b: TerminalName, moved: str = "") -> None:
        """All that lies between two terminals with everything unplugged and a part ``moved``."""
        dead, circuit = Dead(self.facts.circuit), self.facts.circuit
        self.between(edges_of(b for b in circuit.branches if dead.rests(b, moved=moved)), a, b)

    def live(self, *ends: TerminalName) -> None:
        """All that brings volts to these terminals, in any position."""
        self.names(feeding(self.facts.circuit, ends))

    def seen(self, words: str) -> str:
        """What must be seen, where it is the whole circuit’s word: a bridge anywhere may change it."""
        self.cites["what must be seen"] = words
        return words

    def expects(self, number: float) -> float:
        """What is expected of the whole circuit, as a number that is compared with a tolerance."""
        self.cites[EXPECTED] = f"{number:.5g}"
        return number

    def loads(self) -> None:
        """All that brings power to what the rig drives, and whatever ends it."""
        for part in self.facts.wiring.parts:
            if part.heats:
                self.part(part.name)
                self.live(*part.ends)

    def whole_list(self) -> None:
        """Every wire and part."""
        for wire in self.facts.wiring.connections:
            self.wire(wire)
        for part in self.facts.wiring.parts:
            self.part(part.name)
