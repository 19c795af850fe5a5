"""``manage prepare``: bring the database up to date before anything is started, and the demo workshop into an empty one."""

from argparse import ArgumentParser

from django.core.management import call_command
from django.core.management.base import BaseCommand

from rellux.server.rigs.models import Rig


class Command(BaseCommand):
    help = "Bring the database up to date."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--demo", action="store_true", help="load the demo workshop where there is no rig yet")

    def handle(self, *args: object, demo: bool = False, **options: object) -> None:
        call_command("migrate", verbosity=0, skip_checks=True)
        if demo and not Rig.objects.exists():
            from rellux.server.demo.workshop import load_demo  # half a second and more: only where there is one to make
            from rellux.server.rigs.overview import strips
            from rellux.server.rigs.proof import forget

            load_demo()
            forget()  # what was worked out of rigs that were half made
            strips()  # what its first page needs: worked out here, where somebody waits anyway, and kept
