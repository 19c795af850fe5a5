"""Banks of elements on every usual supply: what they are, and the terminals that feed them."""

from cmath import rect
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from math import pi, sqrt

from ..explain import Figure
from ..findings import Finding

MOST_ELEMENTS, MOST_W, MOST_V = 24, 200_000.0, 1000.0
"""Elements in a bank, and the largest rating of one (our choice: beyond what is wired here)."""


class BankSupply(StrEnum):
    """Supplies by their shape. The voltage given is line to line for three-phase and for split-phase."""

    SINGLE = "single"
    SPLIT = "split"
    THREE_PHASE = "three_phase"
    DC = "dc"


class Bank(StrEnum):
    """How the elements are joined."""

    PARALLEL = "parallel"
    SERIES = "series"
    STAR = "star"
    STAR_NEUTRAL = "star_neutral"
    DELTA = "delta"
    OPEN_DELTA = "open_delta"
    HALVES = "halves"


VOLTAGES = {
    BankSupply.SINGLE: (100.0, 120.0, 230.0, 240.0),
    BankSupply.SPLIT: (240.0,),
    BankSupply.THREE_PHASE: (208.0, 380.0, 400.0, 415.0, 480.0),
    BankSupply.DC: (5.0, 12.0, 24.0, 48.0),
}
WITH_NEUTRAL = (Bank.STAR_NEUTRAL, Bank.HALVES)
THREE_PHASE_BANKS = (Bank.STAR, Bank.STAR_NEUTRAL, Bank.DELTA, Bank.OPEN_DELTA)


@dataclass(frozen=True)
class Nameplate:
    """What is on an element: W at V."""

    power_w: float
    voltage_v: float

    @property
    def ohm(self) -> float:
        """Its resistance, hot and cold the same."""
        return self.voltage_v**2 / self.power_w


@dataclass(frozen=True)
class Load:
    """``count`` elements of nameplate ``power_w`` and ``voltage_v``, but for the ``others`` by their numbers from 1, joined as
    ``bank`` on ``network`` at ``supply_v``. Faults: ``lost`` supply terminals (``L1``…``N``), ``failed`` elements (numbers from 1)
    that are open. Three-phase banks spread their elements over the phases, so the count is a multiple of three (open delta: two);
    halves hang by turns from either line of a split phase to its neutral."""

    network: BankSupply
    supply_v: float
    bank: Bank
    count: int
    power_w: float
    voltage_v: float
    lost: tuple[str, ...] = ()
    failed: tuple[int, ...] = ()
    others: Mapping[int, Nameplate] = field(default_factory=dict)

    @property
    def nameplates(self) -> tuple[Nameplate, ...]:
        """Of every element, in order."""
        usual = Nameplate(self.power_w, self.voltage_v)
        return tuple(self.others.get(i, usual) for i in range(1, self.count + 1))


OVER, WEAK = 1.21, 0.81
"""Shares of its power at 10 % more and less than its voltage."""


@dataclass(frozen=True)
class Element:
    """One element: between which nodes, and what it gets, as ``share`` of its nameplate, ``over`` what it stands or not.
    ``undefined``: nothing holds one of its nodes."""

    number: int
    a: str
    b: str
    voltage: Figure
    current: Figure
    power: Figure
    share: float
    over: bool
    open: bool
    undefined: bool


@dataclass(frozen=True)
class Line:
    """Current in one supply conductor, A, with its phase angle in degrees."""

    name: str
    current_a: float
    angle: float


@dataclass(frozen=True)
class Solved:
    """Every element, every supply conductor, the whole power, and what is wrong with it."""

    elements: tuple[Element, ...]
    lines: tuple[Line, ...]
    total: Figure
    findings: tuple[Finding, ...]


def terminals(load: Load) -> dict[str, complex]:
    """Potentials of the supply's terminals against its neutral or minus."""
    v = load.supply_v
    if load.network is BankSupply.THREE_PHASE:
        phases = {f"L{i + 1}": rect(v / sqrt(3.0), -2.0 * pi * i / 3.0) for i in range(3)}
        return {**phases, "N": 0j} if load.bank is Bank.STAR_NEUTRAL else phases
    if load.network is BankSupply.SPLIT:
        lines = {"L1": complex(v / 2.0), "L2": complex(-v / 2.0)}
        return {**lines, "N": 0j} if load.bank is Bank.HALVES else lines
    if load.network is BankSupply.DC:
        return {"+": complex(v), "−": 0j}
    return {"L": complex(v), "N": 0j}
