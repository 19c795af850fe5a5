"""What the values of a device are: as somebody has said, or else as their names say."""

from rellux.core.logs.lines import VALUES
from rellux.core.runs.channels import Channel, guess

from .maps import line_format_of, map_of
from .models import Instrument, Link


def values_of(device: Link | Instrument) -> tuple[str, ...]:
    """The live values a device shows; of a board, those it prints."""
    if device.way == Link.Way.TEXT:
        return tuple(VALUES[role] for role in line_format_of(device).roles)
    return tuple(r.name for r in map_of(device).registers)


def channels_of(device: Link | Instrument) -> tuple[Channel, ...]:
    """The channels a device has, whether recorded or not."""
    there = values_of(device)
    said = {c.source: c for c in (Channel(**kept) for kept in device.channels) if c.source in there}
    return tuple(said.get(c.source, c) for c in guess(there, isinstance(device, Link)))
