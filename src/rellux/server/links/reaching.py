"""The way to a link's controller, for the recorder and for whoever must speak to it without one."""

import hashlib

from django.conf import settings

from rellux.devices.modbus_link import Address, ModbusLink
from rellux.devices.register_map import REGISTER_MAPS

from .models import Link


def name_of(link: Link) -> str:
    """What this link's stand-in calls itself: no other program, and no stand-in of another folder or rig, says the same."""
    folder = hashlib.sha256(settings.SECRET_KEY.encode()).hexdigest()[:12]
    return f"stand-in {folder} {link.pk}"


def connect(link: Link, timeout_s: float = 1.0) -> ModbusLink:
    """A link not yet opened. Opening it fails where a stand-in is expected and something else answers."""
    address = Address(link.host, link.port, link.unit_id)
    return ModbusLink(address, REGISTER_MAPS[link.register_map], timeout_s, name_of(link) if link.stand_in else None)
