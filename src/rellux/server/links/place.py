"""Where a device is and how it is spoken to: the same for the controller of a rig and for every other device."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from math import ceil, isinf
from typing import Any

from rellux.core.errors import Problem, refuse, refuse_all
from rellux.core.logs.lines import LineFormat
from rellux.core.logs.lines import check as check_lines
from rellux.core.logs.mapping import Mapping
from rellux.core.messages import quantity
from rellux.devices.file_link import check_mapping, sample_of
from rellux.devices.modbus_link import LinkDown, is_host
from rellux.devices.mqtt_link import is_topic, trusting
from rellux.devices.poll_plan import poll_time_s, shortest_interval_s
from rellux.devices.register_map import STAND_IN, RegisterMap
from rellux.devices.serial_ports import PARITIES, port_problems
from rellux.devices.text_link import TEXT
from rellux.server.api.shapes import as_json

from .maps import map_by_key, map_of
from .models import Instrument, Link
from .stand_ins import free_port

Reached = Link | Instrument
WIRED = (Link.Way.SERIAL.value, Link.Way.TEXT.value)
"""Ways over a serial port of this machine."""
LISTENED = (Link.Way.TEXT.value, Link.Way.FILE.value, Link.Way.MQTT.value)
"""Ways by which readings come by themselves, in no registers."""
SIMULATED = (Link.Way.TCP.value, *WIRED)
NOBODY = (("username", ""), ("password", ""), ("encrypted", False), ("authority", ""))
LONGEST_USER, LONGEST_PASSWORD, LONGEST_PATH = 100, 200, 200
SIMULATED_PORT = re.compile(r"[a-z][a-z0-9-]{0,29}")


@dataclass(frozen=True)
class PlaceInput:
    """``port`` may be left out for a stand-in: Rellux finds a free one. ``register_map``: how the device is spoken to; a stand-in
    speaks any of them, to rehearse. ``device``: the serial port, the path of a log that is being written, or the topic at a broker.
    ``line_format``: how a board that is listened to writes, ``mapping`` how a log is written, ``poll_s`` then how often. ``username`` to
    ``authority`` as in :class:`~rellux.devices.mqtt_link.MqttAddress`; without a ``password`` the one that is kept stays, as long as
    broker and user do."""

    stand_in: bool
    host: str = "127.0.0.1"
    port: int | None = None
    unit_id: int = 1
    poll_s: float = 0.25
    register_map: str = STAND_IN.key
    way: str = Link.Way.TCP.value
    device: str = ""
    baud: int = 9600
    parity: str = "N"
    stop_bits: int = 1
    line_format: LineFormat | None = None
    mapping: Mapping | None = None
    username: str = ""
    password: str | None = None
    encrypted: bool = False
    authority: str = ""


def others_than(old: Reached | None, **of: Any) -> Iterator[Reached]:
    """Every other device that is so."""
    for kind in (Link, Instrument):
        found = kind.objects.filter(**of).select_related("rig")
        yield from found.exclude(pk=old.pk) if isinstance(old, kind) else found


def shortest_of(way: str, device: str, baud: int, register_map: RegisterMap, old: Reached | None) -> float:
    """Shortest honest interval between polls, s, beside the other devices on its bus; 0 where no serial bus slows it down."""
    if way != Link.Way.SERIAL:
        return 0.0
    others = others_than(old, way=Link.Way.SERIAL, device=device)
    busy = sum(poll_time_s(map_of(other).asked, baud) / other.poll_s for other in others)
    return shortest_interval_s(register_map.asked, baud, busy)


def checked_place(given: PlaceInput, old: Reached | None) -> dict[str, Any]:
    """The place as a device keeps it. Raises ``Refused`` for one that cannot be, alone or beside the other devices there."""
    _check_fields(given)
    place = _place(given, old)
    _check_bus(place, old)
    _check_pace(given, old)
    return place


def _check_fields(given: PlaceInput) -> None:
    problems = []
    if given.way not in Link.Way.values or (given.stand_in and given.way not in SIMULATED):
        problems.append(Problem("way", f"{given.way!r} is no way to it", ", ".join(Link.Way.values)))
    wired = given.way in WIRED
    if wired:
        problems += _serial(given)
    if wired and given.stand_in and not SIMULATED_PORT.fullmatch(given.device.strip()):
        problems.append(Problem("device", "a simulated port needs a name", "1…30 small letters, digits and hyphens"))
    if given.way == Link.Way.TEXT and given.line_format is None:
        problems.append(Problem("line_format", "how its lines are read is not known", "listen to it first"))
    if (given.way in LISTENED) != (given.register_map == TEXT.key):
        reason = "what is listened to has none, and no other can be without"
        problems.append(Problem("register_map", reason, "a map that fits the way"))
    if given.way == Link.Way.MQTT and not is_topic(given.device.strip()):
        problems.append(Problem("device", "which topic?", "its levels without wildcards, such as rellux/kiln"))
    if given.way == Link.Way.MQTT:
        problems += _broker(given)
    if given.way == Link.Way.FILE and given.mapping is None:
        problems.append(Problem("mapping", "how the log is written is not known", "look at it first"))
    if given.port is None and not given.stand_in and not wired and given.way != Link.Way.FILE:
        problems.append(Problem("port", "say where the controller listens", "1…65535, usually 502"))
    if given.port is not None and not 1 <= given.port <= 65535:
        problems.append(Problem("port", f"{given.port} is not a port", "1…65535"))
    if not 0.05 <= given.poll_s <= 60:
        problems.append(Problem("poll_s", f"{quantity(given.poll_s, 's')} between polls", "{0.05…60 s}"))
    if not 1 <= given.unit_id <= 247:
        problems.append(Problem("unit_id", f"{given.unit_id} is not a unit address", "1…247"))
    if not is_host(given.host):
        problems.append(Problem("host", "say where the controller is", "a name or address"))
    refuse_all(problems)
    if given.way == Link.Way.TEXT and given.line_format:
        check_lines(given.line_format)
    if given.way == Link.Way.FILE and given.mapping:
        check_mapping(sample_of(given.device), given.mapping)


def _broker(given: PlaceInput) -> list[Problem]:
    found = [
        Problem(name, "is too long, or holds what no broker takes", f"up to {most} characters")
        for name, most in (("username", LONGEST_USER), ("password", LONGEST_PASSWORD), ("authority", LONGEST_PATH))
        if len(text := getattr(given, name) or "") > most or "\0" in text
    ]
    if given.password and not given.username.strip():
        found.append(Problem("username", "a password without a user", "the user it is of"))
    if not found and given.encrypted:
        try:
            trusting(given.authority.strip())
        except LinkDown as down:
            found.append(Problem("authority", str(down), "a certificate in PEM form, or nothing"))
    return found


def _check_pace(given: PlaceInput, old: Reached | None) -> None:
    least = shortest_of(given.way, given.device.strip(), given.baud, map_by_key(given.register_map), old)
    if isinf(least):
        raise refuse("poll_s", "the other devices keep this bus busy all the time", "longer intervals for them first")
    if given.poll_s < least:
        reason = f"{quantity(given.poll_s, 's')} is faster than this bus can answer by this map"
        raise refuse("poll_s", reason, f"{quantity(ceil(100 * least) / 100, 's')} and more")


def _serial(given: PlaceInput) -> list[Problem]:
    found = port_problems(given.device, given.baud)
    if given.parity not in PARITIES:
        known = ", ".join(f"{k} ({v})" for k, v in PARITIES.items())
        found.append(Problem("parity", f"{given.parity!r} is no parity", known))
    if given.stop_bits not in (1, 2):
        found.append(Problem("stop_bits", f"{given.stop_bits} stop bits", "1 or 2"))
    return found


def _place(given: PlaceInput, old: Reached | None) -> dict[str, Any]:
    """What does not belong to its way is left empty."""
    wired = given.way in WIRED
    return {
        "stand_in": given.stand_in,
        "host": "127.0.0.1" if given.stand_in else given.host.strip(),
        "port": _port(given, old),
        "unit_id": given.unit_id,
        "register_map": given.register_map,
        "way": given.way,
        "device": given.device.strip() if wired or given.way in LISTENED else "",
        "baud": given.baud,
        "parity": given.parity,
        "stop_bits": given.stop_bits,
        "line_format": as_json(given.line_format) if given.way == Link.Way.TEXT else {},
        "mapping": as_json(given.mapping) if given.way == Link.Way.FILE else {},
        **(_let_in(given, old) if given.way == Link.Way.MQTT else dict(NOBODY)),
    }


def _let_in(given: PlaceInput, old: Reached | None) -> dict[str, Any]:
    """User and password go to the broker that they were given for, and by no way less safe: a kept password is forgotten where
    another broker is named, another user, or encryption is given up."""
    found = {
        "username": given.username.strip(),
        "encrypted": given.encrypted,
        "authority": given.authority.strip() if given.encrypted else "",
    }
    same = old is not None and (old.way, old.host, old.port, old.username) == (
        given.way,
        given.host.strip(),
        given.port,
        found["username"],
    )
    kept = old.password if old is not None and same and (given.encrypted or not old.encrypted) else ""
    return {**found, "password": kept if given.password is None else given.password}


def _port(given: PlaceInput, old: Reached | None) -> int:
    """The port asked for; a stand-in keeps its own or gets a free one, a serial link has none."""
    if given.port or given.way in (*WIRED, Link.Way.FILE):
        return given.port or 0
    return old.port if old and old.stand_in and given.stand_in and old.port else free_port()


def _check_bus(place: dict[str, Any], old: Reached | None) -> None:
    """Devices on one bus speak at one speed, each by an address of its own; a simulated port is one device's."""
    if place["stand_in"] and place["way"] == Link.Way.TCP:
        for _ in others_than(old, stand_in=True, way=Link.Way.TCP, port=place["port"]):
            raise refuse("port", f"{place['port']} is another simulated device's", "a port of its own, or none")
    if place["way"] not in WIRED:
        return
    for other in others_than(old, way__in=WIRED, device=place["device"]):
        named = other.name if isinstance(other, Instrument) else other.rig.name
        if Link.Way.TEXT in (place["way"], other.way):
            raise refuse("device", f"{named} is linked by this port", "a port of its own")
        if other.unit_id == place["unit_id"]:
            raise refuse("unit_id", f"{named} has unit {other.unit_id} on this port", "a unit address of its own")
        if other.stand_in != place["stand_in"]:
            raise refuse("device", f"{named} on this port is simulated, or this one is", "a port of its own")
        if (other.baud, other.parity, other.stop_bits) != (place["baud"], place["parity"], place["stop_bits"]):
            spoken = f"{other.baud} baud, parity {PARITIES[other.parity]}, {other.stop_bits} stop"
            raise refuse("baud", f"{named} speaks {spoken} on this port", "the same for every device on a bus")
