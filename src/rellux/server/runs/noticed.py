"""What somebody has asked of the recorder: runs to be recorded, and orders to be sent. Looked up for all devices at once, since each
of many threads asking for itself would keep the database busy with nothing."""

import threading
import time

from rellux.server.links.commands import State
from rellux.server.links.models import Command

from .models import Run

LOOK_S = 0.2


class Noticed:
    """As of the last look, at most ``LOOK_S`` ago."""

    def __init__(self) -> None:
        self._lock, self._looked = threading.Lock(), -LOOK_S
        self._runs: dict[int, Run] = {}
        self._orders: frozenset[int] = frozenset()

    def run_of(self, rig: int) -> Run | None:
        """The run to be recorded of a rig."""
        self._look()
        return self._runs.get(rig)

    def has_orders(self, link: int) -> bool:
        """Whether anything waits to be sent over a link."""
        self._look()
        return link in self._orders

    def forget(self) -> None:
        """Something was changed here: the next question is answered anew."""
        self._looked = -LOOK_S

    def _look(self) -> None:
        with self._lock:
            if time.monotonic() - self._looked < LOOK_S:
                return
            wanted = Run.objects.filter(status=Run.Status.RECORDING, source=Run.Source.LIVE).order_by(
                "started_at", "pk"
            )
            self._runs = {run.rig_id: run for run in wanted}  # of several the newest
            self._orders = frozenset(Command.objects.filter(state=State.QUEUED).values_list("link_id", flat=True))
            self._looked = time.monotonic()
