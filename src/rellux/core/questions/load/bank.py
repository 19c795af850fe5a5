"""What does each element of a bank get?"""

from dataclasses import dataclass, replace
from typing import Any

from ...errors import Problem, refuse, refuse_all
from ...form import choice, number, rows
from ...heating.bank_solving import solve
from ...heating.banks import VOLTAGES, Bank, BankSupply, Load, Nameplate, Solved, terminals
from ...messages import quantity
from ...purpose.purpose import Supply
from ...units import Kind
from ..answer import Answer, BankDrawing, Known, Question, Topic

NETWORK_WORDS = {
    BankSupply.SINGLE: "Single-phase",
    BankSupply.SPLIT: "Split-phase",
    BankSupply.THREE_PHASE: "Three-phase",
    BankSupply.DC: "DC",
}
OTHER = "other"
SUPPLIES = {
    f"{network.value} {volts:g}": f"{NETWORK_WORDS[network]} {quantity(volts, 'V')}"
    for network in VOLTAGES
    for volts in VOLTAGES[network]
} | {f"{network.value} {OTHER}": f"{words}, another voltage" for network, words in NETWORK_WORDS.items()}
JOINED = {
    Bank.PARALLEL: "Parallel",
    Bank.SERIES: "In series",
    Bank.STAR: "Star",
    Bank.STAR_NEUTRAL: "Star with neutral",
    Bank.DELTA: "Delta",
    Bank.OPEN_DELTA: "Open delta",
    Bank.HALVES: "Halves, each line to the neutral",
}
NOTHING, ELEMENT = "nothing", "element"
FAULTS = {
    NOTHING: "nothing is wrong",
    **{n: f"{n} is lost" for n in ("L", "L1", "L2", "L3", "N")},
    ELEMENT: "an element has failed open",
}


@dataclass(frozen=True)
class OddElement:
    """One element that differs from the others."""

    place: float = number("Element", Kind.COUNT, 1, 24, 2)
    power_w: float = number("has", Kind.POWER, 1, 200_000, 1000)
    voltage_v: float = number("made for", Kind.VOLTAGE, 1, 1000, 230)


@dataclass(frozen=True)
class BankInput:
    """Elements by their nameplate, those that differ, how they are joined, and a fault to look at."""

    supply: str = choice("Supply", SUPPLIES, "three_phase 400")
    supply_v: float = number(
        "Its voltage",
        Kind.VOLTAGE,
        1,
        1000,
        400,
        hint="between the lines",
        when=("supply", tuple(s for s in SUPPLIES if s.endswith(OTHER))),
    )
    bank: Bank = choice("Joined as", JOINED, Bank.STAR)
    count: float = number("Elements", Kind.COUNT, 1, 24, 3)
    power_w: float = number("Each, nameplate", Kind.POWER, 1, 200_000, 1500)
    voltage_v: float = number("made for", Kind.VOLTAGE, 1, 1000, 230)
    fault: str = choice("What if", FAULTS, NOTHING)
    failed: float = number("Which element", Kind.COUNT, 1, 24, 1, when=("fault", (ELEMENT,)))
    odd: tuple[OddElement, ...] = rows("Elements that differ from the others", OddElement, (), 0, 24)


def _bank(g: BankInput) -> Answer:
    network, volts = g.supply.split(" ")
    _whole(g)
    load = Load(
        BankSupply(network),
        g.supply_v if volts == OTHER else float(volts),
        g.bank,
        int(g.count),
        g.power_w,
        g.voltage_v,
        others={int(o.place): Nameplate(o.power_w, o.voltage_v) for o in g.odd},
    )
    solved = _solve(load, g)
    plates = sum(n.power_w for n in load.nameplates)
    unit, by = ("kW", 1000.0) if plates >= 1000 else ("W", 1.0)
    return Answer(
        f"Together {quantity(solved.total.value / by, unit, '.3g')} of {quantity(plates / by, unit, '.3g')} on the nameplates.",
        (solved.total,),
        solved.findings,
        bank=BankDrawing(solved, () if g.fault in (NOTHING, ELEMENT) else (g.fault,)),
    )


def _whole(g: BankInput) -> None:
    """Elements are counted and numbered in wholes, and none is odd twice."""
    numbers = {"count": g.count, "failed": g.failed, **{f"odd[{i}].place": o.place for i, o in enumerate(g.odd)}}
    refuse_all(
        Problem(name, "there are no parts of elements", "a whole number")
        for name, value in numbers.items()
        if value != int(value)
    )
    seen = [o.place for o in g.odd]
    refuse_all(
        Problem(f"odd[{i}].place", f"element {n:g} is given twice", "each once")
        for i, n in enumerate(seen)
        if n in seen[:i]
    )


def _solve(load: Load, g: BankInput) -> Solved:
    fault = g.fault
    if fault == ELEMENT:
        return solve(replace(load, failed=(int(g.failed),)))
    if fault == NOTHING:
        return solve(load)
    if fault not in terminals(load):
        raise refuse("fault", f"this supply has no {fault}", ", ".join(terminals(load)))
    return solve(replace(load, lost=(fault,)))


def _of_rig(known: Known) -> dict[str, Any]:
    p = known.purpose
    network = {
        Supply.SINGLE_PHASE: BankSupply.SINGLE,
        Supply.SPLIT_PHASE: BankSupply.SPLIT,
        Supply.THREE_PHASE: BankSupply.THREE_PHASE,
        Supply.DC: BankSupply.DC,
    }[p.supply]
    known_v = p.supply_voltage_v in VOLTAGES[network]
    three = network is BankSupply.THREE_PHASE
    to_neutral = p.heater_voltage_v / 3**0.5
    return {
        **(
            {"supply": f"{network.value} {p.supply_voltage_v:g}"}
            if known_v
            else {"supply": f"{network.value} {OTHER}", "supply_v": p.supply_voltage_v}
        ),
        "bank": Bank.STAR if three else Bank.PARALLEL,
        "count": 3.0 if three else 1.0,
        "power_w": p.heater_power_w / (3 if three else 1),
        "voltage_v": round(to_neutral, 1) if three else p.heater_voltage_v,
    }


BANK = Question(
    "bank",
    "What does each element of a bank get?",
    Topic.LOAD,
    BankInput,
    _bank,
    _of_rig,
    (
        "Star puts the line voltage over √3 on each element, delta the whole of it.",
        "A balanced star needs no neutral. With one, a failed element leaves the others alone; without it they share the"
        " line voltage.",
        "For elements of constant resistance; not lamps, PTC or disilicide.",
    ),
    "A lost phase is not off: what hangs on it is live through the elements. Isolate all poles and prove dead.",
    ("heater",),
)
