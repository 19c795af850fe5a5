"""What a stand-in pretends to be: a rig of this kind and power, with a controller set as the sheet says."""

import socket
from collections.abc import Collection

from django.db.models import F

from rellux.core.plant.rig_models import network_of, rests_c
from rellux.core.setup.parameters import settings_from
from rellux.devices.stand_in import StandInConfig
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.setup.domain import working_values
from rellux.server.zones.places import joints_among

from .maps import map_of
from .models import Instrument, Link

LINK_TIMER_S = 60.0
"""Of a stand-in whose map has a link timer."""


def config_of(link: Link) -> StandInConfig:
    """From the rig's purpose and its newest sheet. A stand-in starts with its output off; one of a rig that only
    watches is at the usual temperature of what is round it."""
    rig = link.rig
    purpose = purpose_of(rig)
    pretended = map_of(link)
    return StandInConfig(
        network_of(kind_of(rig), purpose, link.vigour),
        settings_from({**working_values(rig), "mode": "off"}, purpose),
        rests_c(kind_of(rig), purpose) if purpose.acts else purpose.working_c,
        link.speed,
        link.start_c,
        pretended,
        purpose.supply_voltage_v,
        LINK_TIMER_S if "link_timer_s" in pretended.by_name else 0.0,
    )


def beside_of(rigs: Collection[int]) -> dict[int, tuple[tuple[float, int], ...]]:
    """By rig, the zones beside it among these that are simulated, and what joins them, W/K."""
    found: dict[int, tuple[tuple[float, int], ...]] = {}
    for a, b, g in joints_among(rigs):
        found[a] = (*found.get(a, ()), (g, b))
        found[b] = (*found.get(b, ()), (g, a))
    return found


def move_elsewhere(device: Link | Instrument) -> None:
    """Another program has taken the stand-in's port: it gets another one, unless somebody has just pointed the link elsewhere."""
    type(device).objects.filter(pk=device.pk, generation=device.generation, stand_in=True).update(
        port=free_port(), generation=F("generation") + 1
    )


def free_port() -> int:
    """A port on loopback nobody uses at the moment."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])
