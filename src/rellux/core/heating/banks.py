"""Elements in banks on every usual supply: voltage, current and power of each, with faults, by phasors.

Every supply is a set of terminals at known potentials; every element joins two nodes. Nodes without a source of their own
(a floating star point, the middle of a series string, a lost phase) are solved by nodal analysis, ``Y v = i``, with complex
phasors (all purely resistive here, so power is |V|²/R). A node that nothing holds is reported as undefined, never as 0 V.
"""

from cmath import phase, rect
from dataclasses import dataclass
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


VOLTAGES = {
    BankSupply.SINGLE: (100.0, 120.0, 230.0, 240.0),
    BankSupply.SPLIT: (240.0,),
    BankSupply.THREE_PHASE: (208.0, 380.0, 400.0, 415.0, 480.0),
    BankSupply.DC: (5.0, 12.0, 24.0, 48.0),
}
THREE_PHASE_BANKS = (Bank.STAR, Bank.STAR_NEUTRAL, Bank.DELTA, Bank.OPEN_DELTA)


@dataclass(frozen=True)
class Load:
    """``count`` equal elements of nameplate ``power_w`` and ``voltage_v`` joined as ``bank`` on ``network`` at
    ``supply_v``. Faults: ``lost`` supply terminals (``L1``…``N``), ``failed`` elements (numbers from 1) that are open.
    Three-phase banks spread their elements over the phases, so the count is a multiple of three (open delta: two)."""

    network: BankSupply
    supply_v: float
    bank: Bank
    count: int
    power_w: float
    voltage_v: float
    lost: tuple[str, ...] = ()
    failed: tuple[int, ...] = ()


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
    resistance = load.voltage_v**2 / load.power_w
    held = _solve_nodes(potentials, joined, resistance, load.failed)
    elements = tuple(_element(load, i, a, b, resistance, held) for i, (a, b) in enumerate(joined, 1))
    lines = _lines(load, joined, resistance, held)
    total = Figure(
        "power of the bank",
        sum(e.power.value for e in elements),
        Kind.POWER,
        formula="Σ V²/R",
        inputs=tuple(
            Input(f"element {e.number}", e.power.value, Kind.POWER, f"P{e.number}", "solved") for e in elements[:9]
        ),
        reason=f"Nameplate: {quantity(load.count * load.power_w, 'W')} together.",
        source=SOURCE,
    )
    return Solved(elements, lines, total, tuple(worst_first(_findings(load, elements, lines))))


def _check(load: Load) -> None:
    problems = []
    if load.supply_v not in VOLTAGES[load.network]:
        usual = ", ".join(f"{v:g}" for v in VOLTAGES[load.network])
        problems.append(
            Problem("supply_v", f"{quantity(load.supply_v, 'V')} is not usual for this supply", f"{usual} V")
        )
    three = load.bank in THREE_PHASE_BANKS
    if three and load.network is not BankSupply.THREE_PHASE:
        problems.append(Problem("bank", f"{load.bank.value} needs three phases", "series or parallel"))
    if load.bank is Bank.OPEN_DELTA and load.count % 2:
        problems.append(Problem("count", "an open delta has two legs: an even number of elements", "2, 4, 6 …"))
    elif three and load.bank is not Bank.OPEN_DELTA and load.count % 3:
        problems.append(
            Problem("count", f"{load.count} elements cannot be spread evenly over three phases", "3, 6, 9 …")
        )
    if not 1 <= load.count <= MOST_ELEMENTS:
        problems.append(Problem("count", f"{load.count} elements", "1…24"))
    if not 1 <= load.power_w <= MOST_W:
        problems.append(
            Problem("power_w", f"{quantity(load.power_w, 'W')} an element looks like a slip of unit", "1…50 000 W")
        )
    if not 1 <= load.voltage_v <= MOST_V:
        problems.append(Problem("voltage_v", f"{quantity(load.voltage_v, 'V')} is not an element's rating", "1…1000 V"))
    names = terminals(load)
    for name in load.lost:
        if name not in names:
            problems.append(Problem("lost", f"this supply has no {name}", ", ".join(names)))
    for number in load.failed:
        if not 1 <= number <= load.count:
            problems.append(Problem("failed", f"there is no element {number}", f"1…{load.count}"))
    refuse_all(problems)


def terminals(load: Load) -> dict[str, complex]:
    """Potentials of the supply's terminals against its neutral or minus."""
    v = load.supply_v
    if load.network is BankSupply.THREE_PHASE:
        phases = {f"L{i + 1}": rect(v / sqrt(3.0), -2.0 * pi * i / 3.0) for i in range(3)}
        return {**phases, "N": 0j} if load.bank is Bank.STAR_NEUTRAL else phases
    if load.network is BankSupply.SPLIT:
        return {"L1": complex(v / 2.0), "L2": complex(-v / 2.0)}
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


def _solve_nodes(
    potentials: dict[str, complex], joined: list[tuple[str, str]], resistance: float, failed: tuple[int, ...]
) -> dict[str, complex]:
    """Potential of every node that something holds."""
    conducting = [pair for i, pair in enumerate(joined, 1) if i not in failed]
    reached = set(potentials)
    while True:
        more = {n for pair in conducting for n in pair if reached & set(pair)} - reached
        if not more:
            break
        reached |= more
    unknown = sorted(reached - set(potentials))
    if not unknown:
        return dict(potentials)
    index = {n: i for i, n in enumerate(unknown)}
    admittance = np.zeros((len(unknown), len(unknown)), dtype=complex)
    injected = np.zeros(len(unknown), dtype=complex)
    for a, b in conducting:
        for node, other in ((a, b), (b, a)):
            if node not in index:
                continue
            admittance[index[node], index[node]] += 1.0 / resistance
            if other in index:
                admittance[index[node], index[other]] -= 1.0 / resistance
            else:
                injected[index[node]] += potentials[other] / resistance
    solved = np.linalg.solve(admittance, injected)
    return {**potentials, **{n: complex(solved[i]) for n, i in index.items()}}


def _element(load: Load, number: int, a: str, b: str, resistance: float, held: dict[str, complex]) -> Element:
    is_open, undefined = number in load.failed, a not in held or b not in held
    across = 0j if undefined else held[a] - held[b]
    through = 0j if is_open or undefined else across / resistance
    rating = (
        Input("nameplate power", load.power_w, Kind.POWER, "P", "nameplate"),
        Input("nameplate voltage", load.voltage_v, Kind.VOLTAGE, "V_r", "nameplate"),
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
    watts = abs(through) ** 2 * resistance
    power = Figure(
        f"power of element {number}", watts, Kind.POWER, formula="I² R", inputs=rating, reason=where, source=SOURCE
    )
    share = watts / load.power_w
    return Element(number, a, b, voltage, current, power, share, share > OVER, is_open, undefined)


def _lines(load: Load, joined: list[tuple[str, str]], resistance: float, held: dict[str, complex]) -> tuple[Line, ...]:
    currents = {name: 0j for name in terminals(load)}
    for i, (a, b) in enumerate(joined, 1):
        if i in load.failed or a not in held or b not in held:
            continue
        through = (held[a] - held[b]) / resistance
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
        wrong_bank = load.bank is Bank.DELTA and load.supply_v / sqrt(3.0) <= SUPPLY_HIGH * load.voltage_v
        found.append(
            Finding(
                "bank.overload",
                Severity.DANGER,
                title=f"{who} gives {quantity(hottest.share, '', '.2f')} times its power",
                reason=f"It gets {quantity(hottest.voltage.value, 'V', '.0f')} and is "
                f"made for {quantity(load.voltage_v, 'V')}: it burns out.",
                fix="These elements belong in star."
                if wrong_bank
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
                    f"the {quantity(load.voltage_v, 'V')} it is made for."
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
    neutral = next((line for line in lines if line.name == "N" and load.bank is Bank.STAR_NEUTRAL), None)
    if neutral and neutral.current_a > CARRIES_A:
        found.append(
            Finding(
                "bank.neutral",
                Severity.ADVICE,
                title=f"The neutral carries {quantity(neutral.current_a, 'A', '.1f')}",
                reason="The phases are not loaded alike, so their currents do not cancel.",
                fix="Find the open element or the lost phase; size the neutral like a phase.",
            )
        )
    if load.bank is Bank.STAR and (load.failed or load.lost):
        found.append(
            Finding(
                "bank.star-floats",
                Severity.FAULT,
                title="The star point has moved",
                reason="Without a neutral the remaining elements share the line voltage between them.",
                fix="Mend the bank before the next run; the heat is no longer even.",
            )
        )
    return found
