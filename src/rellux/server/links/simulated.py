"""What is simulated: an oven behind every simulated controller, instruments at it, and the ports they are reached by.

A place is a TCP port with one device, a serial bus with one or several, or a serial port with a board that prints.
"""

import logging
from collections.abc import Awaitable, Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from asgiref.sync import sync_to_async
from django.conf import settings

from rellux.core.errors import Refused
from rellux.devices.cable import Cable
from rellux.devices.registers import Value
from rellux.devices.stand_in import StandIn, StandInInstrument, serve, serve_bus
from rellux.devices.stand_in_board import Board
from rellux.devices.text_commands import commands_from
from rellux.server.guarding.stored import newest_plans, read_plan

from .maps import line_format_of, map_of
from .models import Instrument, Link
from .place import Reached
from .reaching import port_of, stand_in_name
from .stand_ins import beside_of, config_of, move_elsewhere

log = logging.getLogger("rellux.stand_ins")

Place = tuple[str, str]


@dataclass(frozen=True)
class Running:
    """What serves a place: as what, and how it is ended."""

    devices: tuple[object, ...]
    end: Callable[[], Awaitable[None]]


def clear_ports() -> None:
    """Take away the ports of a former process; what they point to may be somebody else's by now."""
    folder = Path(settings.DATA) / "ports"
    folder.mkdir(exist_ok=True)
    for port in folder.iterdir():
        port.unlink(missing_ok=True)


def wanted() -> tuple[list[Reached], dict[int, int]]:
    """Every simulated device, controllers first, and the plans that guard rigs."""
    found: list[Reached] = []
    for kind in (Link, Instrument):
        found += kind.objects.filter(stand_in=True, rig__archived_at__isnull=True).select_related("rig")
    return found, newest_plans()


class Simulated:
    """The ovens and places there are now."""

    def __init__(self) -> None:
        self._ovens: dict[int, tuple[tuple[object, ...], StandIn]] = {}
        self._plans: dict[int, tuple[StandIn, int | None]] = {}
        self._running: dict[Place, Running] = {}
        self._beside: dict[int, tuple[StandIn, tuple[tuple[float, StandIn], ...]]] = {}

    async def follow(self, devices: list[Reached], plans: Mapping[int, int]) -> None:
        """Start, change and end whatever is not as the devices, and the plans of their rigs, say."""
        links = {d.rig_id: d for d in devices if isinstance(d, Link)}
        there = [d for d in devices if d.rig_id in links]
        for rig, link in links.items():
            await self._oven(rig, link, plans.get(rig))
        for rig in [r for r in self._ovens if r not in links]:
            del self._ovens[rig]
            self._plans.pop(rig, None)
        await self._join()
        places: dict[Place, list[Reached]] = {}
        for device in there:
            places.setdefault(_place(device), []).append(device)
        for place in [p for p, running in self._running.items() if running.devices != self._as(places.get(p, []))]:
            await self._running.pop(place).end()
        for place, at in places.items():
            if place not in self._running:
                await self._start(place, at)

    async def stop(self) -> None:
        for running in self._running.values():
            await running.end()

    async def _join(self) -> None:
        """Zones of a chamber warm one another."""
        joined = await sync_to_async(beside_of)(self._ovens.keys())
        beside = {
            rig: (oven, tuple((g, self._ovens[other][1]) for g, other in joined.get(rig, ())))
            for rig, (_, oven) in self._ovens.items()
        }
        for rig, (oven, others) in beside.items():
            if self._beside.get(rig, (oven, ())) != (oven, others):
                oven.lie_beside(others)
        self._beside = beside

    async def _oven(self, rig: int, link: Link, plan: int | None) -> None:
        """The rig's oven: kept while its controller is the same, so that an instrument added does not cool it down."""
        as_what = link.pk, link.unit_id, link.register_map, link.way, link.device, link.port, repr(link.text_commands)
        if rig not in self._ovens or self._ovens[rig][0] != as_what:
            self._ovens[rig] = as_what, StandIn(await sync_to_async(config_of)(link), link.unit_id)
        oven = self._ovens[rig][1]
        oven.set_speed(link.speed)
        if self._plans.get(rig) != (oven, plan):
            self._plans[rig] = oven, plan
            oven.guard((await sync_to_async(read_plan)(plan)).alarms)

    def _as(self, devices: list[Reached]) -> tuple[object, ...]:
        """What makes a place another one."""
        return tuple(
            (
                type(d),
                d.pk,
                d.unit_id,
                d.register_map,
                d.baud,
                d.poll_s,
                repr(d.line_format),
                id(self._ovens[d.rig_id][1]),
            )
            for d in devices
        )

    async def _start(self, place: Place, devices: list[Reached]) -> None:
        way, first = place[0], devices[0]
        try:
            if way == Link.Way.TCP:
                end = (await serve(await self._made(first), first.port, stand_in_name())).shutdown
            elif way == Link.Way.SERIAL:
                end = await self._bus(devices)
            else:
                end = await self._board(first)
        except (OSError, RuntimeError) as error:
            log.warning("%s of %s cannot be opened: %s", place, first.rig_id, error)
            if way == Link.Way.TCP:
                await sync_to_async(move_elsewhere)(first)
            return
        self._running[place] = Running(self._as(devices), end)

    async def _made(self, device: Reached) -> StandIn | StandInInstrument:
        oven = self._ovens[device.rig_id][1]
        if isinstance(device, Link):
            return oven
        return StandInInstrument(oven.shown, await sync_to_async(map_of)(device), device.unit_id)

    async def _bus(self, devices: list[Reached]) -> Callable[[], Awaitable[None]]:
        cable = _laid(devices[0])
        server = await serve_bus([await self._made(d) for d in devices], cable.there, devices[0].baud, stand_in_name())

        async def end() -> None:
            await server.shutdown()
            _taken_up(devices[0], cable)

        return end

    async def _board(self, device: Reached) -> Callable[[], Awaitable[None]]:
        cable, oven = _laid(device), self._ovens[device.rig_id][1]
        commands = commands_from(device.text_commands) if isinstance(device, Link) else None

        def take(name: str, value: Value) -> None:
            with suppress(Refused, ValueError, KeyError):
                oven.take(name, value)

        def read() -> Mapping[str, Value]:
            shown = oven.shown()
            return shown if isinstance(device, Link) else {**shown, "reading_c": shown["second_c"]}

        board = Board(cable.there, line_format_of(device), device.poll_s, read, take, commands)

        async def end() -> None:
            board.stop()
            _taken_up(device, cable)

        return end


def _place(device: Reached) -> Place:
    return device.way, str(device.port) if device.way == Link.Way.TCP else device.device


def _laid(device: Reached) -> Cable:
    """A cable to a simulated device, its computer's end under the name of the device's port."""
    cable, port = Cable(device.baud), Path(port_of(device))
    port.parent.mkdir(exist_ok=True)
    port.unlink(missing_ok=True)
    port.symlink_to(cable.here)
    return cable


def _taken_up(device: Reached, cable: Cable) -> None:
    Path(port_of(device)).unlink(missing_ok=True)
    cable.close()
