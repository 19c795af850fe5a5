"""``manage load_demo``: the demo workshop into an empty database."""

from django.core.management.base import BaseCommand

from rellux.server.demo.workshop import load_demo


class Command(BaseCommand):
    help = "Load the demo workshop into an empty database."

    def handle(self, *args: object, **options: object) -> None:
        rigs = load_demo()
        self.stdout.write(f"{len(rigs)} demo rigs loaded" if rigs else "there are rigs already; nothing was changed")
