"""What is to be said of a purpose that is possible: materials that do not stand what is allowed, a temperature unusual for the kind, a
heater that is a connection of its own."""

from collections.abc import Iterator

from ..findings import Finding, Severity, worst_first
from ..messages import quantity, temperature
from .cooler import CooledBy
from .heater import heater_current, heater_power
from .kinds import kind_findings
from .purpose import LARGE_W, Purpose, RigKind


def purpose_findings(purpose: Purpose, kind: RigKind) -> list[Finding]:
    """Every material whose own limit lies below the highest allowed, or even below the working temperature; and what is
    unusual for the kind of rig or for a workshop."""
    found = [
        *kind_findings(kind, purpose),
        *_large(purpose),
        *_condenses(kind, purpose),
        *_boils(purpose),
        *_module(purpose),
    ]
    for material in purpose.materials:
        if material.limit_c >= purpose.highest_c:
            continue
        at_work = material.limit_c < purpose.working_c
        allowed = purpose.working_c if at_work else purpose.highest_c
        found.append(
            Finding(
                "purpose.material",
                Severity.DANGER if at_work else Severity.FAULT,
                title=f"{material.name} stands {temperature(material.limit_c)}",
                reason=(
                    f"The rig {'works at' if at_work else 'may get as hot as'} "
                    f"{temperature(allowed)}: what is weakest decides."
                ),
                fix="Another material, or place it where it stays cooler and say so."
                if at_work
                else f"Bring the highest allowed temperature down to {temperature(material.limit_c)}, or use another material.",
                subjects=(material.name,),
            )
        )
    return worst_first(found)


CONDENSES_C = 60.0
"""Water colder than this lets flue gas condense on the boiler, °C (55 to 60, from memory)."""


def _condenses(kind: RigKind, purpose: Purpose) -> Iterator[Finding]:
    """A boiler over a fire that is kept so cool that its flue gas turns to water."""
    if purpose.fire is None or kind is not RigKind.BOILER or purpose.working_c >= CONDENSES_C:
        return
    yield Finding(
        "purpose.condenses",
        Severity.ADVICE,
        title=f"Below {temperature(CONDENSES_C)} flue gas condenses on a boiler",
        reason="What drips in the flue is sour: it eats the boiler and tars the chimney.",
        fix=f"Keep the boiler at {temperature(CONDENSES_C)} or more and mix the water down behind it.",
        subjects=("working_c",),
        source="55 to {60 °C}, from memory",
    )


BOILS_C = 100.0
"""Water in a closed coil turns to steam, °C (at sea level)."""


def _boils(purpose: Purpose) -> Iterator[Finding]:
    """Water led through what is hotter than its boiling point."""
    cooler = purpose.cooler
    if cooler is None or cooler.cooled_by is not CooledBy.VALVE or purpose.highest_c < BOILS_C:
        return
    yield Finding(
        "purpose.steam",
        Severity.DANGER if purpose.working_c >= BOILS_C else Severity.FAULT,
        title="Water in the coil turns to steam",
        reason=f"It may get as hot as {temperature(purpose.highest_c)}. What stands in a shut coil boils, and a closed one bursts; water "
        "let into a hot one flashes.",
        fix="An outlet that nothing can shut, the valve in the inlet, hands and cables out of its way; above that heat air, or a coil "
        "somebody licensed has designed.",
        subjects=("cooler",),
        source="common practice, no source; local codes on pressure equipment go first",
    )


MODULE_STANDS_C = 80.0
"""What ordinary thermo-electric modules are made for, °C (special ones 150 to 200; from memory)."""


def _module(purpose: Purpose) -> Iterator[Finding]:
    """A thermo-electric module on what gets hotter than its solder is made for."""
    cooler = purpose.cooler
    by_module = cooler is not None and cooler.cooled_by in (CooledBy.MODULE, CooledBy.TURNED)
    if not by_module or purpose.highest_c <= MODULE_STANDS_C:
        return
    yield Finding(
        "purpose.module-hot",
        Severity.FAULT if purpose.working_c > MODULE_STANDS_C else Severity.ADVICE,
        title=f"An ordinary module stands {temperature(MODULE_STANDS_C)}",
        reason=f"It sits on what may get as hot as {temperature(purpose.highest_c)}, and while it heats its own face is hotter still: the "
        "solder between its pieces gives way.",
        fix=f"A module made for it, by its sheet; or no more than {temperature(MODULE_STANDS_C)} allowed.",
        subjects=("cooler",),
        source="80, special ones 150 to {200 °C}, from memory",
    )


def _large(purpose: Purpose) -> Iterator[Finding]:
    """A heater that is more than a workshop's own affair."""
    if not purpose.acts:
        return
    power = heater_power(purpose)  # a fire is no load of the supply: its fan is
    if power.value < LARGE_W:
        return
    yield Finding(
        "purpose.large",
        Severity.ADVICE,
        title=f"{quantity(power.value / 1000.0, 'kW', '.3g')} is a connection of its own",
        reason="Network operator, fuses ahead of the rig, short-circuit current and the heat of switchgear have to be designed: the "
        "sizes here are a starting point, each for one circuit.",
        fix="Have it designed and tested by a licensed person; consider several circuits, so that one failure is not all the heat.",
        subjects=("heater_power_w",),
        figures=(power, heater_current(purpose)),
        source="common practice, no source",
    )
