"""``manage simulate``: stand-ins for every controller and instrument that asks for one, over the way it is said to be reached."""

import asyncio
import logging

from asgiref.sync import sync_to_async
from django.core.management.base import BaseCommand
from django.db import OperationalError

from rellux.server.links.simulated import Simulated, clear_ports, wanted
from rellux.server.processes import Stopping

LOOK_S = 0.5
"""How often it is looked what is to be simulated, s: a new one is there before anybody has turned to it (our choice)."""

log = logging.getLogger("rellux.stand_ins")


class Command(BaseCommand):
    help = "Serve the simulated controllers and instruments."
    requires_system_checks = ()  # they would load the whole web interface

    def handle(self, *args: object, **options: object) -> None:
        clear_ports()
        asyncio.run(_serve_until(Stopping()))


async def _serve_until(stopping: Stopping) -> None:
    simulated = Simulated()
    while not stopping.asked:
        try:
            await simulated.follow(*await sync_to_async(wanted)())
        except OperationalError:
            log.exception("the database did not answer; trying again")
        await asyncio.sleep(LOOK_S)
    await simulated.stop()
