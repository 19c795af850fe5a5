"""What the values of a device are: as somebody has said, or else as their names say."""

from rellux.core.logs.lines import VALUES
from rellux.core.runs.channels import Channel, guess, of_rig

from .maps import line_format_of, map_of
from .models import Instrument, Link


def values_of(device: Link | Instrument) -> tuple[str, ...]:
    """The live values a device shows: of a board those it prints, of a log those it holds, of a sender those it has sent."""
    if device.way == Link.Way.TEXT:
        return tuple(VALUES[role] for role in line_format_of(device).roles)
    if device.way == Link.Way.FILE:
        return tuple(VALUES[role] for role in device.mapping["columns"] if role in VALUES)
    if device.way == Link.Way.MQTT:
        state = getattr(device, "state", None)
        return tuple(name for name in VALUES.values() if state is not None and name in state.values)
    return tuple(r.name for r in map_of(device).registers)


def channels_of(device: Link | Instrument) -> tuple[Channel, ...]:
    """The channels a device has, whether recorded or not."""
    there = of_rig(values_of(device), bool(device.rig.cooler), bool(device.rig.heater_sensor))
    said = {c.source: c for c in (Channel(**kept) for kept in device.channels) if c.source in there}
    return tuple(said.get(c.source, c) for c in guess(there, isinstance(device, Link)))
