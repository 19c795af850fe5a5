"""The way to a device, for the recorder and for whoever must speak to it without one."""

import hashlib
from pathlib import Path

from django.conf import settings

from rellux.core.logs.mapping import Mapping
from rellux.devices.file_link import FileAddress, FileLink
from rellux.devices.modbus_link import Address, ModbusLink, SerialAddress
from rellux.devices.mqtt_link import MqttAddress, MqttLink
from rellux.devices.text_commands import commands_from
from rellux.devices.text_link import TextAddress, TextLink

from .maps import line_format_of, map_of
from .models import Instrument, Link


def stand_in_name() -> str:
    """What the stand-ins of this data folder call themselves: no other program, and none of another folder, says the same. (The
    server's library keeps one name a process.)"""
    return f"stand-in {hashlib.sha256(settings.SECRET_KEY.encode()).hexdigest()[:12]}"


AnyAddress = Address | SerialAddress | TextAddress | FileAddress | MqttAddress
AnyLink = ModbusLink | TextLink | FileLink | MqttLink


def address_of(link: Link | Instrument) -> AnyAddress:
    """Where the device is."""
    if link.way == Link.Way.TEXT:
        return TextAddress(port_of(link), link.baud)
    if link.way == Link.Way.FILE:
        return FileAddress(link.device)
    if link.way == Link.Way.MQTT:
        let_in = (link.username, link.password, link.encrypted, link.authority)
        return MqttAddress(link.host, link.port, link.device, *let_in)
    if link.way == Link.Way.SERIAL:
        return SerialAddress(port_of(link), link.baud, link.parity, link.stop_bits, link.unit_id)
    return Address(link.host, link.port, link.unit_id, link.way == Link.Way.RTU_TCP)


def port_of(device: Link | Instrument) -> str:
    """The serial port of a device; a simulated one is made in the data folder, by its name."""
    return str(Path(settings.DATA) / "ports" / device.device) if device.stand_in else device.device


def connect(link: Link | Instrument, timeout_s: float = 1.0) -> AnyLink:
    """A link not yet opened. Opening it fails where a stand-in is expected and something else answers."""
    address = address_of(link)
    if isinstance(address, TextAddress):
        commands = commands_from(link.text_commands) if isinstance(link, Link) else None
        return TextLink(address, line_format_of(link), link.poll_s, commands=commands)
    if isinstance(address, FileAddress):
        return FileLink(address, Mapping(**link.mapping), link.poll_s)
    if isinstance(address, MqttAddress):
        return MqttLink(address, link.poll_s)
    return ModbusLink(address, map_of(link), timeout_s, stand_in_name() if link.stand_in else None)
