"""What speaks against a bank as it was solved: elements too hot or too weak, a neutral that carries or is lost."""

from math import sqrt

from ..findings import Finding, Severity
from ..messages import percent, quantity
from .banks import WEAK, WITH_NEUTRAL, Bank, Element, Line, Load

CARRIES_A = 0.01
"""A neutral that carries something for a person, A (our choice)."""
SUPPLY_HIGH = 1.1
"""Mains may be a tenth above nominal (IEC 60038)."""


def findings(load: Load, elements: tuple[Element, ...], lines: tuple[Line, ...]) -> list[Finding]:
    """Everything to say of it."""
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
