"""The register maps a link can speak by: the stand-in's own, and those the workshop has described."""

from functools import lru_cache
from typing import Any
from uuid import uuid4

from django.db import transaction
from django.db.models import F

from rellux.core.errors import refuse
from rellux.core.logs.lines import LineFormat, LineKind
from rellux.core.runs.channels import READING
from rellux.core.setup.memory import Memory
from rellux.core.spine import Station
from rellux.devices.map_file import parse, plain
from rellux.devices.register_map import STAND_IN, RegisterMap
from rellux.devices.registers import Register
from rellux.devices.text_commands import commands_from, text_map
from rellux.devices.text_link import TEXT
from rellux.server.accounts.models import User
from rellux.server.rigs.change import note
from rellux.server.runs.models import Run

from .commands import lapse
from .models import Instrument, Link, RegisterMapFile

MOST_MAPS = 200
BUILT_IN = {m.key: m for m in (STAND_IN, TEXT)}


@lru_cache(maxsize=64)
def map_by_key(key: str) -> RegisterMap:
    """A map by its key. A stored one is never changed, only succeeded by another key. Raises ``Refused`` for one that is gone."""
    if key in BUILT_IN:
        return BUILT_IN[key]
    stored = RegisterMapFile.objects.filter(key=key).first()
    if stored is None:
        raise refuse("register_map", "this register map is gone", "another map")
    return parse(stored.data, key)


def map_of(device: Link | Instrument) -> RegisterMap:
    """How the device is spoken to, and what it takes."""
    if device.way == Link.Way.TEXT:
        commands = commands_from(device.text_commands) if isinstance(device, Link) else None
        return text_map(line_format_of(device), commands) if commands else TEXT
    return map_by_key(device.register_map)


def line_format_of(device: Link | Instrument) -> LineFormat:
    """How the lines of a device that is listened to are read."""
    kept = device.line_format
    return LineFormat(**{**kept, "kind": LineKind(kept["kind"]), "keys": tuple(kept["keys"])})


def memory_of(link: Link, register: Register) -> Memory:
    """What a register of its controller is kept in."""
    return Memory(register.stored, register.endurance, link.writes.get(register.name, 0))


def current() -> list[RegisterMapFile]:
    """Every stored map that none has succeeded, newest first."""
    return list(RegisterMapFile.objects.filter(successor=None).order_by("-created_at", "-pk"))


def keep(data: Any) -> RegisterMapFile:
    """Store a map after every check of its file."""
    if RegisterMapFile.objects.filter(successor=None).count() >= MOST_MAPS:
        raise refuse("map", "the workshop has many maps already", f"up to {MOST_MAPS}; remove one")
    key = f"map-{uuid4().hex[:12]}"
    found = parse(data, key)
    return RegisterMapFile.objects.create(key=key, title=found.title, data=plain(found))


@transaction.atomic
def succeed(old: RegisterMapFile, data: Any, by: User) -> RegisterMapFile:
    """Store a changed map as the successor of another: links that spoke by the old one speak by the new one, as with another
    controller. Refused while a run is recorded over one of them."""
    users = [d for kind in (Link, Instrument) for d in kind.objects.filter(register_map=old.key).select_related("rig")]
    if Run.objects.filter(rig__in={d.rig_id for d in users}, status=Run.Status.RECORDING).exists():
        raise refuse("map", "a run is being recorded by it", "stop the run first")
    new = keep(data)
    controls = [d.rig.name for d in users if isinstance(d, Link)]
    if controls and READING not in map_by_key(new.key).by_name:
        raise refuse(
            "registers", f"it is how {controls[0]}'s controller is spoken to, and it has no reading", "a reading"
        )
    old.successor = new
    old.save(update_fields=["successor"])
    for device in users:
        if isinstance(device, Link):
            lapse(device)
        note(device.rig, by, Station.RUNS, f"Register map changed: {new.title}")
        type(device).objects.filter(pk=device.pk).update(register_map=new.key, generation=F("generation") + 1)
    return new


def users_of(key: str) -> list[str]:
    """Rigs with a device that speaks by this map."""
    found = [
        d.rig.name for kind in (Link, Instrument) for d in kind.objects.filter(register_map=key).select_related("rig")
    ]
    return list(dict.fromkeys(found))


def remove(stored: RegisterMapFile) -> None:
    """Take a map out of the library; refused while a link speaks by it."""
    users = users_of(stored.key)
    if users:
        raise refuse("map", f"{', '.join(users)} speaks by it", "another map for its link first")
    line = [
        stored.pk
    ]  # its predecessors go with it: nobody speaks by them, and they would come back as if they were new
    while more := list(
        RegisterMapFile.objects.filter(successor__in=line).exclude(pk__in=line).values_list("pk", flat=True)
    ):
        line += more
    RegisterMapFile.objects.filter(pk__in=line).delete()
    map_by_key.cache_clear()
