"""The way to a link's controller, for the recorder and for whoever must speak to it without one."""

import hashlib

from django.conf import settings

from rellux.devices.modbus_link import Address, ModbusLink, SerialAddress

from .maps import map_of
from .models import Link


def stand_in_name() -> str:
    """What the stand-ins of this data folder call themselves: no other program, and none of another folder, says the same. (The
    server's library keeps one name a process.)"""
    return f"stand-in {hashlib.sha256(settings.SECRET_KEY.encode()).hexdigest()[:12]}"


def address_of(link: Link) -> Address | SerialAddress:
    """Where the link's controller is."""
    if link.way == Link.Way.SERIAL:
        return SerialAddress(link.device, link.baud, link.parity, link.stop_bits, link.unit_id)
    return Address(link.host, link.port, link.unit_id, link.way == Link.Way.RTU_TCP)


def connect(link: Link, timeout_s: float = 1.0) -> ModbusLink:
    """A link not yet opened. Opening it fails where a stand-in is expected and something else answers."""
    return ModbusLink(address_of(link), map_of(link), timeout_s, stand_in_name() if link.stand_in else None)
