"""What somebody has asked of the recorder: runs to be recorded, orders to be sent, what goes on at which rig. Looked up for all devices at
once, since each of many threads asking for itself would keep the database busy with nothing."""

import threading
import time
from datetime import timedelta
from typing import Any

from django.db.models import Q, QuerySet
from django.utils import timezone

from rellux.core.control.programme.executor import GOING
from rellux.core.tuning.relay.driven import UNDER_WAY
from rellux.server.guarding.models import AlarmAsk
from rellux.server.guarding.stored import newest_plans
from rellux.server.links.commands import State
from rellux.server.links.models import Command
from rellux.server.profiles.models import Programme
from rellux.server.tuning.models import DrivenRelayTest

from .models import Run

LOOK_S = 0.2
"""How often it is looked for orders, s: switching off is one."""
AROUND_S = 0.5
"""How often it is looked which rigs have a run to be recorded, a plan, a programme or a relay test to be followed, s."""
LATELY = timedelta(hours=1)
"""A programme that ended longer ago than this concerns nobody: longer than any alarm tells of its end."""


class Noticed:
    """As of the last look, at most ``LOOK_S`` ago, or ``AROUND_S``."""

    def __init__(self) -> None:
        self._lock, self._looked = threading.Lock(), -LOOK_S
        self._runs: dict[int, Run] = {}
        self._orders: frozenset[int] = frozenset()
        self._looked_around = -AROUND_S
        self._plans: dict[int, int] = {}
        self._asked: frozenset[int] = frozenset()
        self._programmes: frozenset[int] = frozenset()
        self._tests: frozenset[int] = frozenset()

    def plan_of(self, rig: int) -> int | None:
        """Which plan guards a rig, ``None`` before there is one."""
        self._look_around()
        return self._plans.get(rig)

    def has_asked(self, rig: int) -> bool:
        """Whether somebody wants something of an alarm of it."""
        self._look_around()
        return rig in self._asked

    def has_programme(self, rig: int) -> bool:
        """Whether one may be going, or ended lately."""
        self._look_around()
        return rig in self._programmes

    def has_relay_test(self, rig: int) -> bool:
        self._look_around()
        return rig in self._tests

    def run_of(self, rig: int) -> Run | None:
        """The run to be recorded of a rig."""
        self._look_around()
        return self._runs.get(rig)

    def has_orders(self, link: int) -> bool:
        """Whether anything waits to be sent over a link."""
        self._look()
        return link in self._orders

    def forget(self) -> None:
        """Something was changed here: the next question is answered anew."""
        self._looked, self._looked_around = -LOOK_S, -AROUND_S

    def _look_around(self) -> None:
        with self._lock:
            if time.monotonic() - self._looked_around < AROUND_S:
                return
            wanted = Run.objects.filter(status=Run.Status.RECORDING, source=Run.Source.LIVE).order_by(
                "started_at", "pk"
            )
            self._runs = {run.rig_id: run for run in wanted}  # of several the newest
            going = Q(standing__in=[s.value for s in GOING]) | Q(beat_at__gte=timezone.now() - LATELY)
            self._plans = newest_plans()
            self._asked = _rigs(AlarmAsk.objects.all())
            self._programmes = _rigs(Programme.objects.filter(going))
            self._tests = _rigs(DrivenRelayTest.objects.filter(standing__in=[s.value for s in UNDER_WAY]))
            self._looked_around = time.monotonic()

    def _look(self) -> None:
        with self._lock:
            if time.monotonic() - self._looked < LOOK_S:
                return
            self._orders = frozenset(Command.objects.filter(state=State.QUEUED).values_list("link_id", flat=True))
            self._looked = time.monotonic()


def _rigs(rows: QuerySet[Any]) -> frozenset[int]:
    return frozenset(rows.order_by().values_list("rig_id", flat=True))
