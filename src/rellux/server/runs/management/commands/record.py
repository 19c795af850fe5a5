"""``manage record``: poll every link and record open runs until stopped."""

import gc
import logging

from django.core.management.base import BaseCommand
from django.db import OperationalError

from rellux.server.links import aside
from rellux.server.processes import Stopping
from rellux.server.runs.recorder import Recorder

log = logging.getLogger("rellux.recorder")


class Command(BaseCommand):
    help = "Poll the controllers and record."
    requires_system_checks = ()  # they would load the whole web interface

    def handle(self, *args: object, **options: object) -> None:
        stopping, recorder = Stopping(), Recorder()
        gc.freeze()  # what is loaded stays: looking through it again and again would keep the devices waiting
        aside.prepare()
        try:
            while not stopping.asked:
                try:
                    recorder.follow()
                except OperationalError:
                    log.warning("the database takes nothing; trying again")
                stopping.wait(1.0)
        finally:
            recorder.stop()
