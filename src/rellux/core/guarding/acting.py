"""What is seen in the circuit when a guard acts: which loads go off and which lamps come on, from the solved circuit."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..control.alarms.settings import AlarmKind
from ..wiring.circuit.positions import CALLING, RESTING, TRIPPED, WORKING, Position
from ..wiring.model import ConnectionList, Part
from .plan import Plan, PlannedAlarm
from .wired import MEANT, Wired

ON_AS = {"lamp": "lights", "beacon": "lights", "buzzer": "sounds", "contactor": "pulls in", "relay": "pulls in"}
OFF_AS = {"lamp": "goes out", "beacon": "goes out", "buzzer": "falls silent", "contactor": "drops out", "relay": "drops out",
          "heater": "goes dead"}  # fmt: skip
"""What somebody sees or hears of a part, by its family."""
NOTHING = "As it is wired nothing changes: see Wiring."


@dataclass(frozen=True)
class Acting:
    """What changes, with the output on, when the limiter trips, when the wired alarm contact acts and when the controller ends its output;
    empty where there is no such thing.
    ``alarms``: kinds of alarm that the contact may be set to. That it closes while it calls is the wiring’s word."""

    limiter: str = ""
    alarm: str = ""
    alarms: tuple[AlarmKind, ...] = ()
    output: str = ""

    def shown_by(self, planned: PlannedAlarm, plan: Plan) -> str:
        """What this alarm of the plan does in the circuit; empty where the one contact may as well be another’s."""
        on_it = [a for a in plan.alarms if a.alarm.kind in self.alarms]
        return self.alarm if on_it == [planned] else ""


NOT_WIRED = Acting()


def acting_in(wiring: ConnectionList, positions: Iterable[Position], wired: Wired) -> Acting:
    """From the circuit solved in its positions."""
    energised = {p.name: p.energised for p in positions}
    before, parts = energised.get(WORKING), {p.name: p for p in wiring.parts}

    def changed(name: str) -> str:
        after = energised.get(name)
        return "" if before is None or after is None else changes(parts, before, after)

    return Acting(changed(TRIPPED), changed(CALLING), MEANT.get(wired.alarm, ()), changed(RESTING))


def changes(parts: dict[str, Part], before: frozenset[str], after: frozenset[str]) -> str:
    """What goes off and what comes on, in words."""
    gone = [_said(parts[n], OFF_AS, "goes off") for n in sorted(before - after) if n in parts]
    come = [_said(parts[n], ON_AS, "comes on") for n in sorted(after - before) if n in parts]
    return f"With the output on: {', '.join([*gone, *come])}." if gone or come else NOTHING


def _said(part: Part, words: dict[str, str], otherwise: str) -> str:
    return f"{part.name} ({part.type.title.lower()}) {words.get(part.type.family, otherwise)}"
