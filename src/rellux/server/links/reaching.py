"""The way to a link's controller, for the recorder and for whoever must speak to it without one."""

import hashlib

from django.conf import settings

from rellux.core.logs.lines import LineFormat, LineKind
from rellux.devices.modbus_link import Address, ModbusLink, SerialAddress
from rellux.devices.text_link import TextAddress, TextLink

from .maps import map_of
from .models import Link


def stand_in_name() -> str:
    """What the stand-ins of this data folder call themselves: no other program, and none of another folder, says the same. (The
    server's library keeps one name a process.)"""
    return f"stand-in {hashlib.sha256(settings.SECRET_KEY.encode()).hexdigest()[:12]}"


def address_of(link: Link) -> Address | SerialAddress | TextAddress:
    """Where the link's controller is."""
    if link.way == Link.Way.TEXT:
        return TextAddress(link.device, link.baud)
    if link.way == Link.Way.SERIAL:
        return SerialAddress(link.device, link.baud, link.parity, link.stop_bits, link.unit_id)
    return Address(link.host, link.port, link.unit_id, link.way == Link.Way.RTU_TCP)


def line_format_of(link: Link) -> LineFormat:
    """How the lines of a link that is listened to are read."""
    kept = link.line_format
    return LineFormat(**{**kept, "kind": LineKind(kept["kind"]), "keys": tuple(kept["keys"])})


def connect(link: Link, timeout_s: float = 1.0) -> ModbusLink | TextLink:
    """A link not yet opened. Opening it fails where a stand-in is expected and something else answers."""
    address = address_of(link)
    if isinstance(address, TextAddress):
        return TextLink(address, line_format_of(link), link.poll_s)
    return ModbusLink(address, map_of(link), timeout_s, stand_in_name() if link.stand_in else None)
