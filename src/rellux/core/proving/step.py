"""What one step of proving is: what to do, what must be seen or measured, and what it hangs on."""

from dataclasses import dataclass, field
from enum import StrEnum

from ..explain import Figure
from ..units import Kind
from ..wiring.names import TerminalName
from ..wiring.switching import Switching


class Take(StrEnum):
    """What of a step's value can be had without a meter: the reading of the link now; the first time in a run that it has risen so far, or
    has reached a temperature; the hottest of a stretch."""

    READING = "reading"
    RISEN = "risen"
    REACHED = "reached"
    PEAK = "peak"


class MeterSetting(StrEnum):
    """What an ordinary meter, or a tester, is set to."""

    CONTINUITY = "continuity"
    OHMS = "ohms"
    INSULATION = "insulation"
    VOLTS_AC = "volts_ac"
    VOLTS_DC = "volts_dc"
    CLAMP = "clamp"
    THERMOMETER = "thermometer"
    RCD_TESTER = "rcd_tester"
    CLOCK = "clock"


@dataclass(frozen=True)
class Measure:
    """A number that must lie from ``low`` to ``high`` (``None``: any on that side). ``figure``: what is expected and how it is found.
    ``divided``: it is a quotient, volts by amperes. ``by``: how far it must have risen, or what it must have reached, where it is
    taken of a run; ``falls``: it goes down instead, and what is hottest is coldest."""

    figure: Figure
    low: float | None
    high: float | None
    divided: bool = False
    take: Take | None = None
    by: float = 0.0
    falls: bool = False

    @property
    def kind(self) -> Kind:
        return self.figure.kind


@dataclass(frozen=True)
class ProvingStep:
    """One step. ``does``: what to do, in a sentence; ``must``: what must be seen then; ``isolated``: what must be off or apart for it;
    ``caution``: what is dangerous about just this. ``cites``: every fact it hangs on, with its value as words. ``constant``: why its words
    are the same for every rig. ``between``: the two terminals that are measured, with a part ``moved`` or nothing, or
    live in a position; ``elsewhere``: the station where it is done."""

    key: str
    stage: int
    title: str
    does: str
    must: str
    measure: Measure | None = None
    meter: MeterSetting | None = None
    isolated: str = ""
    caution: str = ""
    cites: dict[str, str] = field(default_factory=dict)
    constant: str = ""
    between: tuple[TerminalName, TerminalName] | None = None
    moved: str = ""
    switching: Switching | None = None
    elsewhere: str = ""
