"""``manage web``: the web server on this machine's loopback address."""

import threading
from argparse import ArgumentParser
from importlib import import_module

import uvicorn
from django.core.management.base import BaseCommand

from rellux.server.processes import end_with_launcher
from rellux.server.urls import API


class Command(BaseCommand):
    help = "Serve the interface and the API."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--port", type=int, default=8420)

    def handle(self, *args: object, port: int = 8420, **options: object) -> None:
        end_with_launcher()
        threading.Thread(target=import_module, args=(API,), daemon=True).start()  # the page's first question follows it
        uvicorn.run(
            "rellux.server.asgi:application",
            host="127.0.0.1",
            port=port,
            log_level="warning",
            server_header=False,
            timeout_graceful_shutdown=2,
        )
