"""What is in which place of a rig now, and since when."""

from datetime import datetime

from django.utils.timezone import localtime

from rellux.core.equipment.equipment import FITTED, EquipmentRole
from rellux.core.equipment.stays import Stay as Stayed
from rellux.core.equipment.stays import places
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig

from .models import Equipment, Stay


def place_of(rig: Rig, role: EquipmentRole) -> Stay | None:
    """What is in a place of a rig now."""
    return (
        Stay.objects.filter(rig=rig, until__isnull=True, equipment__role=role.value).select_related("equipment").first()
    )


def where_it_is(row: Equipment) -> Stay | None:
    return row.stays.filter(until__isnull=True).select_related("rig").first()


def fitted_to(rig: Rig) -> dict[EquipmentRole, Stay]:
    rows = Stay.objects.filter(rig=rig, until__isnull=True).select_related("equipment")
    by_role = {EquipmentRole(s.equipment.role): s for s in rows}
    return {role: by_role[role] for role in FITTED if role in by_role}


def fitted_since(rig: Rig, role: EquipmentRole) -> datetime | None:
    """Since when the piece that is in a place now is there; None where none is known."""
    found = place_of(rig, role)
    return found.since if found else None


def places_in(rig: Rig) -> tuple[EquipmentRole, ...]:
    """What a rig has a place for, as its purpose and parts are now."""
    return places(purpose_of(rig).acts, rig.limiter)


def stay_of(row: Stay) -> Stayed:
    """A stay as the core takes it, its moments by the clock on the wall."""
    until = localtime(row.until) if row.until else None
    return Stayed(row.equipment.name, EquipmentRole(row.equipment.role), row.rig_name, localtime(row.since), until)


def sensors_of(rig: Rig) -> list[Stayed]:
    """The sensors a rig has had, as far as they are known."""
    rows = Stay.objects.filter(rig=rig, equipment__role=EquipmentRole.SENSOR.value).select_related("equipment")
    return [stay_of(s) for s in rows]
