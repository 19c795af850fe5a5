"""From rows to the core's own types."""

from django.utils.text import slugify

from rellux.core.errors import refuse
from rellux.core.heating.conductor_tables import Practice
from rellux.core.purpose.controls import Controls, ControlsFedBy
from rellux.core.purpose.cooler import CooledBy, Cooler
from rellux.core.purpose.heater_sensor import HeaterSensor
from rellux.core.purpose.own_mains import MadeBy, OwnMains
from rellux.core.purpose.purpose import Effect, Fire, Limited, Purpose, RigKind, Supply
from rellux.core.wiring.choice import Actuator, Choice, Output

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
    "frequency_hz",
    "effect",
    "heater_power_w",
    "heater_voltage_v",
    "materials",
    "fire",
    "cooler",
    "controls",
    "own_mains",
    "heater_sensor",
)
PARTS_FIELDS = ("sensor", "output", "actuator", "limiter", "practice", "plug_a")


def purpose_of(rig: Rig) -> Purpose:
    values = {name: getattr(rig, name) for name in PURPOSE_FIELDS}
    materials = tuple(Limited(**m) for m in rig.materials)
    values["fire"] = Fire(**rig.fire) if rig.fire else None
    values["cooler"] = Cooler(**{**rig.cooler, "cooled_by": CooledBy(rig.cooler["cooled_by"])}) if rig.cooler else None
    values["controls"] = (
        Controls(**{**rig.controls, "fed_by": ControlsFedBy(rig.controls["fed_by"])}) if rig.controls else None
    )
    values["own_mains"] = (
        OwnMains(**{**rig.own_mains, "made_by": MadeBy(rig.own_mains["made_by"])}) if rig.own_mains else None
    )
    values["heater_sensor"] = HeaterSensor(**rig.heater_sensor) if rig.heater_sensor else None
    return Purpose(**{**values, "supply": Supply(rig.supply), "effect": Effect(rig.effect), "materials": materials})


def kind_of(rig: Rig) -> RigKind:
    return RigKind(rig.kind)


def choice_of(rig: Rig) -> Choice | None:
    """The chosen parts, or None before they are chosen."""
    if not rig.sensor:
        return None
    return Choice(
        rig.sensor, Output(rig.output), Actuator(rig.actuator), rig.limiter, Practice(rig.practice), rig.plug_a
    )


def check_name(name: str) -> None:
    """Raise ``Refused`` for a name a rig cannot be called or addressed by."""
    if not 1 <= len(name.strip()) <= 60 or not slugify(name):
        raise refuse("name", "a rig needs a name with letters or digits in it", "1…60 characters")
