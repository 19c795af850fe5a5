"""Voltage, current and power of every element of a bank, with faults, by phasors.

Every supply is a set of terminals at known potentials; every element joins two nodes. Nodes without a source of their own
(a floating star point, the middle of a series string, a lost phase) are solved by nodal analysis, ``Y v = i``, with complex
phasors (all purely resistive here, so power is |V|²/R). A node that nothing holds is reported as undefined, never as 0 V.
"""

from cmath import phase
from itertools import pairwise
from math import degrees

import numpy as np

from ..errors import Problem, refuse_all
from ..explain import Figure, Input
from ..findings import worst_first
from ..messages import quantity
from ..units import Kind
from .bank_verdicts import findings
from .banks import (
    MOST_ELEMENTS,
    MOST_V,
    MOST_W,
    OVER,
    THREE_PHASE_BANKS,
    Bank,
    BankSupply,
    Element,
    Line,
    Load,
    Nameplate,
    Solved,
    terminals,
)

NOTHING_A = 1e-9
"""No current for a computer, A."""
SOURCE = "nodal analysis with phasors; constant-resistance elements"


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
    return Solved(elements, lines, total, tuple(worst_first(findings(load, elements, lines))))


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
                Problem("power_w", f"{quantity(n.power_w, 'W')} an element looks like a slip of unit", "1…200 000 W")
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
