"""Elements in banks on every usual supply: voltage, current and power of each, with faults, by phasors.

Every supply is a set of terminals at known potentials; every element joins two nodes. Nodes without a source of their own
(a floating star point, the middle of a series string, a lost phase) are solved by nodal analysis, ``Y v = i``, with complex
phasors (all purely resistive here, so power is |V|²/R). A node that nothing holds is reported as undefined, never as 0 V.
"""

from cmath import phase, rect
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise
from math import degrees, pi, sqrt

import numpy as np

from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..findings import Finding, Severity, worst_first
from ..messages import percent, quantity
from ..units import Kind

MOST_ELEMENTS, MOST_W, MOST_V = 24, 50_000.0, 1000.0
"""Elements in a bank, and the largest rating of one (our choice: beyond what is wired here)."""
NOTHING_A, CARRIES_A = 1e-9, 0.01
"""No current for a computer; a neutral that carries something for a person, A (our choice)."""
SUPPLY_HIGH = 1.1
"""Mains may be a tenth above nominal (IEC 60038)."""

SOURCE = "nodal analysis with phasors; constant-resistance elements"


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


def solve(load: Load) -> Solved:
    """Voltages, currents and powers of the bank. Raises ``Refused`` for combinations that cannot be wired."""
    _check(load)
    potentials = {name: v for name, v in terminals(load).items() if name not in load.lost}
    joined = _joined(load)
    held = _solve_nodes(potentials, joined, load)
    elements = tuple(_element(load, i, a, b, held) for i, (a, b) in enumerate(joined, 1))
    lines = _lines(load, joined, held)
    total = Figure(
        "power of the bank",
        sum(e.power.value for e in elements),
        Kind.POWER,
        formula="Σ V²/R",
        inputs=tuple(
            Input(f"element {e.number}", e.power.value, Kind.POWER, f"P{e.number}", "solved") for e in elements[:9]
        ),
        reason=f"Nameplate: {quantity(sum(n.power_w for n in load.nameplates), 'W')} together.",
        source=SOURCE,
    )
    return Solved(elements, lines, total, tuple(worst_first(_findings(load, elements, lines))))


def _check(load: Load) -> None:
    problems = []
    if not 1 <= load.supply_v <= MOST_V:
        problems.append(Problem("supply_v", f"{quantity(load.supply_v, 'V')} is no supply", f"1…{MOST_V:g} V"))
    three = load.bank in THREE_PHASE_BANKS
    if three and load.network is not BankSupply.THREE_PHASE:
        problems.append(Problem("bank", f"{load.bank.value} needs three phases", "series or parallel"))
    if load.bank is Bank.HALVES and load.network is not BankSupply.SPLIT:
        problems.append(Problem("bank", "halves to a neutral need a split phase", "series or parallel"))
    if load.bank is Bank.OPEN_DELTA and load.count % 2:
        problems.append(Problem("count", "an open delta has two legs: an even number of elements", "2, 4, 6 …"))
    elif three and load.bank is not Bank.OPEN_DELTA and load.count % 3:
        problems.append(
            Problem("count", f"{load.count} elements cannot be spread evenly over three phases", "3, 6, 9 …")
        )
    if not 1 <= load.count <= MOST_ELEMENTS:
        problems.append(Problem("count", f"{load.count} elements", "1…24"))
    for n in (Nameplate(load.power_w, load.voltage_v), *load.others.values()):
        if not 1 <= n.power_w <= MOST_W:
            problems.append(
                Problem("power_w", f"{quantity(n.power_w, 'W')} an element looks like a slip of unit", "1…50 000 W")
            )
        if not 1 <= n.voltage_v <= MOST_V:
            problems.append(
                Problem("voltage_v", f"{quantity(n.voltage_v, 'V')} is not an element's rating", "1…1000 V")
            )
    names = terminals(load)
    for name in load.lost:
        if name not in names:
            problems.append(Problem("lost", f"this supply has no {name}", ", ".join(names)))
    for name, numbers in (("failed", load.failed), ("others", tuple(load.others))):
        for number in numbers:
            if not 1 <= number <= load.count:
                problems.append(Problem(name, f"there is no element {number}", f"1…{load.count}"))
    refuse_all(problems)


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


def _joined(load: Load) -> list[tuple[str, str]]:
    """The two nodes of every element, in order."""
    if load.bank in (Bank.STAR, Bank.STAR_NEUTRAL):
        point = "N" if load.bank is Bank.STAR_NEUTRAL else "star"
        return [(f"L{i % 3 + 1}", point) for i in range(load.count)]
    if load.bank is Bank.DELTA:
        return [(f"L{i % 3 + 1}", f"L{(i + 1) % 3 + 1}") for i in range(load.count)]
    if load.bank is Bank.OPEN_DELTA:
        return [(f"L{i % 2 + 1}", f"L{i % 2 + 2}") for i in range(load.count)]
    if load.bank is Bank.HALVES:
        return [(f"L{i % 2 + 1}", "N") for i in range(load.count)]
    first, last = {
        BankSupply.THREE_PHASE: ("L1", "L2"),
        BankSupply.SPLIT: ("L1", "L2"),
        BankSupply.DC: ("+", "−"),
        BankSupply.SINGLE: ("L", "N"),
    }[load.network]
    if load.bank is Bank.PARALLEL:
        return [(first, last)] * load.count
    nodes = [first, *(f"m{i}" for i in range(1, load.count)), last]
    return list(pairwise(nodes))


def _solve_nodes(potentials: dict[str, complex], joined: list[tuple[str, str]], load: Load) -> dict[str, complex]:
    """Potential of every node that something holds."""
    conducting = [
        (a, b, 1.0 / plate.ohm)
        for i, ((a, b), plate) in enumerate(zip(joined, load.nameplates, strict=True), 1)
        if i not in load.failed
    ]
    reached = set(potentials)
    while True:
        more = {n for a, b, _ in conducting for n in (a, b) if reached & {a, b}} - reached
        if not more:
            break
        reached |= more
    unknown = sorted(reached - set(potentials))
    if not unknown:
        return dict(potentials)
    index = {n: i for i, n in enumerate(unknown)}
    admittance = np.zeros((len(unknown), len(unknown)), dtype=complex)
    injected = np.zeros(len(unknown), dtype=complex)
    for a, b, siemens in conducting:
        for node, other in ((a, b), (b, a)):
            if node not in index:
                continue
            admittance[index[node], index[node]] += siemens
            if other in index:
                admittance[index[node], index[other]] -= siemens
            else:
                injected[index[node]] += potentials[other] * siemens
    solved = np.linalg.solve(admittance, injected)
    return {**potentials, **{n: complex(solved[i]) for n, i in index.items()}}


def _element(load: Load, number: int, a: str, b: str, held: dict[str, complex]) -> Element:
    plate = load.nameplates[number - 1]
    is_open, undefined = number in load.failed, a not in held or b not in held
    across = 0j if undefined else held[a] - held[b]
    through = 0j if is_open or undefined else across / plate.ohm
    rating = (
        Input("nameplate power", plate.power_w, Kind.POWER, "P", "nameplate"),
        Input("nameplate voltage", plate.voltage_v, Kind.VOLTAGE, "V_r", "nameplate"),
    )
    where = f"Between {a} and {b}." if not is_open else f"Between {a} and {b}; open, so no current flows."
    if undefined:
        where = f"Between {a} and {b}, one of which nothing holds: undefined, not safe to touch."
    voltage = Figure(
        f"voltage of element {number}",
        abs(across),
        Kind.VOLTAGE,
        formula="|v_a − v_b|",
        inputs=rating,
        reason=where,
        source=SOURCE,
    )
    current = Figure(
        f"current of element {number}",
        abs(through),
        Kind.CURRENT,
        formula="V / R, R = V_r²/P",
        inputs=rating,
        reason=where,
        source=SOURCE,
    )
    watts = abs(through) ** 2 * plate.ohm
    power = Figure(
        f"power of element {number}", watts, Kind.POWER, formula="I² R", inputs=rating, reason=where, source=SOURCE
    )
    share = watts / plate.power_w
    return Element(number, a, b, voltage, current, power, share, share > OVER, is_open, undefined)


def _lines(load: Load, joined: list[tuple[str, str]], held: dict[str, complex]) -> tuple[Line, ...]:
    currents = {name: 0j for name in terminals(load)}
    for i, (a, b) in enumerate(joined, 1):
        if i in load.failed or a not in held or b not in held:
            continue
        through = (held[a] - held[b]) / load.nameplates[i - 1].ohm
        if a in currents:
            currents[a] += through
        if b in currents:
            currents[b] -= through
    return tuple(
        Line(n, abs(c), degrees(phase(c)) if abs(c) > NOTHING_A else 0.0)
        for n, c in currents.items()
        if n not in load.lost
    )


def _findings(load: Load, elements: tuple[Element, ...], lines: tuple[Line, ...]) -> list[Finding]:
    found = []
    hottest = max(elements, key=lambda e: e.share)
    if hottest.over:
        who = "Every element" if all(e.over for e in elements) else f"Element {hottest.number}"
        made_for = load.nameplates[hottest.number - 1].voltage_v
        wrong_bank = load.bank is Bank.DELTA and load.supply_v / sqrt(3.0) <= SUPPLY_HIGH * made_for
        uneven = load.bank is Bank.SERIES and len(set(load.nameplates)) > 1
        found.append(
            Finding(
                "bank.overload",
                Severity.DANGER,
                title=f"{who} gives {quantity(hottest.share, '', '.2f')} times its power",
                reason=f"It gets {quantity(hottest.voltage.value, 'V', '.0f')} and is "
                f"made for {quantity(made_for, 'V')}: it burns out.",
                fix="These elements belong in star."
                if wrong_bank
                else "In series only equal elements share the voltage evenly: exchange the odd one, or join them in parallel."
                if uneven
                else "Use elements for this voltage, or more of them in series.",
                subjects=(f"element {hottest.number}",),
                figures=(hottest.power,),
            )
        )
    elif hottest.share < WEAK and not load.failed and not load.lost:
        found.append(
            Finding(
                "bank.weak",
                Severity.FAULT,
                title=f"Every element gives only {percent(hottest.share)} of its power",
                reason=(
                    f"It gets {quantity(hottest.voltage.value, 'V', '.0f')} of "
                    f"the {quantity(load.nameplates[hottest.number - 1].voltage_v, 'V')} it is made for."
                ),
                fix="Fewer in series, delta instead of star, or elements for this voltage.",
                subjects=(),
                figures=(hottest.power,),
            )
        )
    floating = [e.number for e in elements if e.undefined]
    if floating:
        found.append(
            Finding(
                "bank.undefined",
                Severity.DANGER,
                title="Part of the bank hangs on nothing",
                reason=(
                    f"Element {floating[0]} has an end that no source and no "
                    "other element holds; a meter there shows anything."
                ),
                fix="Treat it as live until proved dead.",
                subjects=tuple(f"element {n}" for n in floating),
            )
        )
    neutral = next((line for line in lines if line.name == "N" and load.bank in WITH_NEUTRAL), None)
    if neutral and neutral.current_a > CARRIES_A:
        found.append(
            Finding(
                "bank.neutral",
                Severity.ADVICE,
                title=f"The neutral carries {quantity(neutral.current_a, 'A', '.1f')}",
                reason="Its lines are not loaded alike, so their currents do not cancel.",
                fix="Find the open or odd element or the lost line; size the neutral like a line, and never fuse it alone.",
            )
        )
    if "N" in load.lost and load.bank in WITH_NEUTRAL and len(set(load.nameplates)) + len(load.failed) > 1:
        found.append(
            Finding(
                "bank.neutral-lost",
                Severity.DANGER,
                title="Without its neutral the bank shares the voltage by resistance",
                reason=f"The strongest gets {quantity(hottest.voltage.value, 'V', '.0f')}; what else hangs on this neutral gets it too.",
                fix="Main switch off. A neutral is switched and opened only together with its lines.",
                subjects=(f"element {hottest.number}",),
                figures=(hottest.voltage,),
            )
        )
    if load.bank is Bank.STAR and (load.failed or load.lost or len(set(load.nameplates)) > 1):
        found.append(
            Finding(
                "bank.star-floats",
                Severity.FAULT,
                title="The star point has moved",
                reason="Without a neutral the elements share the line voltage between them by their resistances.",
                fix="Equal elements, all of them whole, or a neutral; until then the heat is not even.",
            )
        )
    return found
