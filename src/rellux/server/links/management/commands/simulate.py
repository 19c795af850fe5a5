"""``manage simulate``: serve a stand-in controller on Modbus TCP for every link that asks for one."""

import asyncio
import logging

from asgiref.sync import sync_to_async
from django.core.management.base import BaseCommand
from django.db import OperationalError
from pymodbus.server import ModbusTcpServer

from rellux.devices.stand_in import StandIn, serve
from rellux.server.links.models import Link
from rellux.server.links.reaching import stand_in_name
from rellux.server.links.stand_ins import config_of, move_elsewhere
from rellux.server.processes import Stopping

log = logging.getLogger("rellux.stand_ins")


class Command(BaseCommand):
    help = "Serve the simulated controllers."
    requires_system_checks = ()  # they would load the whole web interface

    def handle(self, *args: object, **options: object) -> None:
        asyncio.run(_serve_until(Stopping()))


async def _serve_until(stopping: Stopping) -> None:
    running: dict[int, tuple[Link, StandIn, ModbusTcpServer]] = {}
    while not stopping.asked:
        try:
            wanted = await sync_to_async(_wanted)()
        except OperationalError:
            log.exception("the database did not answer; trying again")
            wanted = {key: link for key, (link, _, _) in running.items()}
        for key in [k for k, (link, _, _) in running.items() if k not in wanted or place(wanted[k]) != place(link)]:
            await running.pop(key)[2].shutdown()
        for key, link in wanted.items():
            if key not in running:
                stand_in = StandIn(await sync_to_async(config_of)(link), link.unit_id)
                try:
                    running[key] = link, stand_in, await serve(stand_in, link.port, stand_in_name())
                except (OSError, RuntimeError) as error:
                    log.warning("port %s of %s cannot be opened: %s", link.port, link.rig_id, error)
                    await sync_to_async(move_elsewhere)(link)
            elif link.speed != running[key][0].speed:
                running[key][1].set_speed(link.speed)
                running[key] = link, *running[key][1:]
        await asyncio.sleep(0.3)
    for _, _, server in running.values():
        await server.shutdown()


def place(link: Link) -> tuple[int, int, str]:
    return link.port, link.unit_id, link.register_map


def _wanted() -> dict[int, Link]:
    return {link.pk: link for link in Link.objects.filter(stand_in=True, rig__archived_at__isnull=True)}
