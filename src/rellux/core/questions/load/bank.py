"""What does each element of a bank get?"""

from dataclasses import dataclass, replace
from typing import Any

from ...errors import refuse
from ...heating.banks import VOLTAGES, Bank, BankSupply, Load, Solved, solve, terminals
from ...messages import quantity
from ...purpose.purpose import Supply
from ...units import Kind
from ..answer import Answer, BankDrawing, Known, Question, Topic
from ..form import choice, number

NETWORK_WORDS = {
    BankSupply.SINGLE: "Single-phase",
    BankSupply.SPLIT: "Split-phase",
    BankSupply.THREE_PHASE: "Three-phase",
    BankSupply.DC: "DC",
}
SUPPLIES = {
    f"{network.value} {volts:g}": f"{NETWORK_WORDS[network]} {quantity(volts, 'V')}"
    for network in VOLTAGES
    for volts in VOLTAGES[network]
}
JOINED = {
    Bank.PARALLEL: "Parallel",
    Bank.SERIES: "In series",
    Bank.STAR: "Star",
    Bank.STAR_NEUTRAL: "Star with neutral",
    Bank.DELTA: "Delta",
    Bank.OPEN_DELTA: "Open delta",
}
NOTHING, ELEMENT = "nothing", "element"
FAULTS = {
    NOTHING: "nothing is wrong",
    **{n: f"{n} is lost" for n in ("L", "L1", "L2", "L3", "N")},
    ELEMENT: "element 1 has failed open",
}


@dataclass(frozen=True)
class BankInput:
    """Equal elements by their nameplate, how they are joined, and a fault to look at."""

    supply: str = choice("Supply", SUPPLIES, "three_phase 400")
    bank: Bank = choice("Joined as", JOINED, Bank.STAR)
    count: float = number("Elements", Kind.COUNT, 1, 24, 3)
    power_w: float = number("Each, nameplate", Kind.POWER, 1, 50_000, 1500)
    voltage_v: float = number("made for", Kind.VOLTAGE, 1, 1000, 230)
    fault: str = choice("What if", FAULTS, NOTHING)


def _bank(g: BankInput) -> Answer:
    network, volts = g.supply.split(" ")
    if g.count != int(g.count):
        raise refuse("count", "there are no parts of elements", "a whole number")
    load = Load(BankSupply(network), float(volts), g.bank, int(g.count), g.power_w, g.voltage_v)
    solved = _solve(load, g.fault)
    power = solved.total.value
    return Answer(
        f"Together {quantity(power / 1000, 'kW', '.3g')} of "
        f"{quantity(g.count * g.power_w / 1000, 'kW', '.3g')} on the nameplates."
        if g.count * g.power_w >= 1000
        else f"Together {quantity(power, 'W', '.3g')} of {quantity(g.count * g.power_w, 'W', '.3g')} on the nameplates.",
        (solved.total,),
        solved.findings,
        bank=BankDrawing(solved, () if g.fault in (NOTHING, ELEMENT) else (g.fault,)),
    )


def _solve(load: Load, fault: str) -> Solved:
    if fault == ELEMENT:
        return solve(replace(load, failed=(1,)))
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
    if p.supply_voltage_v not in VOLTAGES[network]:
        return {}
    three = network is BankSupply.THREE_PHASE
    to_neutral = p.heater_voltage_v / 3**0.5
    return {
        "supply": f"{network.value} {p.supply_voltage_v:g}",
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
        "Star puts the line voltage over √3 on each element, delta the whole of it: three 220 V elements belong in star"
        " on 380 V.",
        "A balanced star needs no neutral. With one, a failed element leaves the others alone; without it they share the"
        " line voltage.",
        "For elements of constant resistance; not lamps, PTC or disilicide.",
    ),
    "A lost phase is not off: what hangs on it is live through the elements. Isolate all poles and prove dead.",
    ("heater",),
)
