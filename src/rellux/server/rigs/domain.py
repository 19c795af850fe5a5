"""From rows to the core's own types."""

from rellux.core.heating.protection_data import Practice
from rellux.core.purpose.purpose import Limited, Purpose, RigKind, Supply
from rellux.core.wiring.generate import Actuator, Choice, Output

from .models import Rig

PURPOSE_FIELDS = (
    "working_c",
    "lowest_c",
    "lowest_reason",
    "highest_c",
    "highest_reason",
    "ambient_c",
    "supply",
    "supply_voltage_v",
    "heater_power_w",
    "heater_voltage_v",
    "materials",
)
PARTS_FIELDS = ("sensor", "output", "actuator", "limiter", "practice", "plug_a")


def purpose_of(rig: Rig) -> Purpose:
    values = {name: getattr(rig, name) for name in PURPOSE_FIELDS}
    materials = tuple(Limited(**m) for m in rig.materials)
    return Purpose(**{**values, "supply": Supply(rig.supply), "materials": materials})


def kind_of(rig: Rig) -> RigKind:
    return RigKind(rig.kind)


def choice_of(rig: Rig) -> Choice | None:
    """The chosen parts, or None before they are chosen."""
    if not rig.sensor:
        return None
    return Choice(
        rig.sensor, Output(rig.output), Actuator(rig.actuator), rig.limiter, Practice(rig.practice), rig.plug_a
    )
