"""What goes into solving a circuit beside its list, a fault, and what comes out of it."""

from dataclasses import dataclass

from ..names import TerminalName


@dataclass(frozen=True)
class Fault:
    """A change to the circuit.

    ``opened``: what never conducts: parts and wires by name, single paths by :attr:`~.branches.Branch.at`; ``closed``: parts
    whose making contacts are welded, so that their resting contacts never close; ``gone``: sources that give nothing;
    ``joined``: nodes bridged; ``tapped``: a load's name, a fraction of its length, and the node it touches there.
    ``calling`` and ``quiet``: controllers that call for heat, or never do, whatever they should; ``blind`` and ``tripped``:
    limiters that never trip, or have tripped, whatever the temperature; ``stuck``: protective devices that never open.
    """

    opened: frozenset[str] = frozenset()
    closed: frozenset[str] = frozenset()
    gone: frozenset[str] = frozenset()
    joined: tuple[tuple[TerminalName, TerminalName], ...] = ()
    tapped: tuple[tuple[str, float, TerminalName], ...] = ()
    calling: frozenset[str] = frozenset()
    quiet: frozenset[str] = frozenset()
    blind: frozenset[str] = frozenset()
    tripped: frozenset[str] = frozenset()
    stuck: frozenset[str] = frozenset()

    def __or__(self, other: "Fault") -> "Fault":
        if self == SOUND or other == SOUND:
            return other if self == SOUND else self
        return Fault(
            self.opened | other.opened,
            self.closed | other.closed,
            self.gone | other.gone,
            (*self.joined, *other.joined),
            (*self.tapped, *other.tapped),
            self.calling | other.calling,
            self.quiet | other.quiet,
            self.blind | other.blind,
            self.tripped | other.tripped,
            self.stuck | other.stuck,
        )

    @property
    def commands(self) -> bool:
        """Whether it changes what controllers or limiters ask for."""
        return bool(self.calling or self.quiet or self.blind or self.tripped)


SOUND = Fault()


@dataclass(frozen=True)
class Through:
    """One branch solved: V across (rms), A through, W in it."""

    volts: float
    amps: float
    watts: float


@dataclass(frozen=True)
class Solution:
    """A position solved. ``loads``, ``wires`` and ``contacts`` by name, ``paths``: contacts by
    :func:`~.branches.path_at`; ``turned``: modules that cool, and so are among no loads, as they heat nothing; ``ac`` and ``dc``: each
    terminal against earth; ``tripped``: protective devices that opened,
    with the current in A that did it; ``undefined``: terminals no source reaches; ``chatters``: parts that never come to rest;
    ``time_s``: when the last contact moved; ``islands``: which of the undefined terminals hang together."""

    on: frozenset[str]
    loads: dict[str, Through]
    turned: dict[str, Through]
    wires: dict[str, Through]
    contacts: dict[str, Through]
    paths: dict[str, Through]
    ac: dict[TerminalName, complex]
    dc: dict[TerminalName, float]
    tripped: dict[str, float]
    undefined: frozenset[TerminalName]
    chatters: frozenset[str]
    time_s: float
    islands: dict[TerminalName, int]

    @property
    def settled(self) -> bool:
        return not self.chatters

    def between(self, a: TerminalName, b: TerminalName) -> float | None:
        """Volts a meter shows between two terminals (AC and DC combined as rms), or None where undefined."""
        if {a, b} & self.undefined and self.islands.get(a) != self.islands.get(b):
            return None
        ac = abs(self.ac.get(a, 0j) - self.ac.get(b, 0j))
        dc = abs(self.dc.get(a, 0.0) - self.dc.get(b, 0.0))
        return float((ac * ac + dc * dc) ** 0.5)

    def direct(self, plus: TerminalName, minus: TerminalName) -> float:
        """Direct volts of one terminal against another, with their sign; 0 where undefined."""
        if {plus, minus} & self.undefined and self.islands.get(plus) != self.islands.get(minus):
            return 0.0
        return self.dc.get(plus, 0.0) - self.dc.get(minus, 0.0)

    def alternating(self, a: TerminalName, b: TerminalName) -> float:
        """Alternating volts (rms) between two terminals; 0 where undefined."""
        apart = {a, b} & self.undefined and self.islands.get(a) != self.islands.get(b)
        return 0.0 if apart else float(abs(self.ac.get(a, 0j) - self.ac.get(b, 0j)))

    def alternating_to_earth(self, terminal: TerminalName) -> float:
        """Alternating volts (rms) against earth; 0 where undefined."""
        return 0.0 if terminal in self.undefined else float(abs(self.ac.get(terminal, 0j)))

    def to_earth(self, terminal: TerminalName) -> float | None:
        """Volts against earth, or None where undefined."""
        if terminal in self.undefined:
            return None
        return float((abs(self.ac.get(terminal, 0j)) ** 2 + self.dc.get(terminal, 0.0) ** 2) ** 0.5)


@dataclass(frozen=True)
class Heat:
    """What every heater gives in W, and the protective devices that opened, with the current in A that did it."""

    watts: dict[str, float]
    tripped: dict[str, float]

    @property
    def total_w(self) -> float:
        return sum(self.watts.values())
