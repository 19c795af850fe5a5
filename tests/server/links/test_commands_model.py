"""Write orders under any order of events: two recorders, an impatient user, disarming, time passing, crashes at any moment.

The judge is the wire: a log of what went out and when, which knows nothing of states.
"""

import random
from collections import Counter
from datetime import datetime, timedelta

import pytest
from django.utils import timezone

from rellux.devices.modbus_link import LinkDown
from rellux.server.accounts.models import User
from rellux.server.links.commands import (
    begin,
    claim,
    confirm,
    end_begun,
    finish,
    lapse,
    queue,
    queue_safe_off,
    take_back,
)  # fmt: skip
from rellux.server.links.models import Command, Link
from rellux.server.rigs.models import Rig
from tests.examples import cases

NAMES = ("mode", "setpoint_c", "hysteresis_c", "offset_c")
STATE = Command.State
SILENT = {STATE.EXPIRED, STATE.CANCELLED, STATE.REFUSED}
"""States of which a user is told that nothing was written."""


class Bench:
    """Everything that can happen to the write orders of one link, a step at a time, on a clock of its own."""

    def __init__(self, link: Link, by: User, chance: random.Random, monkeypatch: pytest.MonkeyPatch) -> None:
        self.link, self.by, self.chance = link, by, chance
        self.now = timezone.now()
        self.wire: list[tuple[int, str, datetime]] = []
        self.disarmed_at: list[datetime] = []
        self.recorders: list = [None, None]
        self.claimed_at: dict[int, datetime] = {}
        monkeypatch.setattr(timezone, "now", lambda: self.now)

    def recorder(self):
        """One pass over what waits; it may be left for ever at every ``yield``."""
        for command in list(Command.objects.filter(link=self.link, state=STATE.QUEUED).order_by("pk")):
            yield
            if not claim(command):
                continue
            self.claimed_at[command.pk] = self.now
            try:
                for name, value in command.values.items():
                    yield
                    if not begin(command, name):
                        break
                    yield
                    if self.chance.random() < 0.1:
                        raise LinkDown("no answer")
                    self.wire.append((command.pk, name, self.now))
                    yield
                    confirm(command, name, value)
                else:
                    yield
                    finish(command)
            except LinkDown as lost:
                yield
                finish(command, str(lost))

    def step(self) -> None:
        event = self.chance.choice(
            ("queue", "run", "run", "run", "run", "wait", "crash", "second", "disarm", "arm", "take back")
        )
        getattr(self, event.replace(" ", "_"))()

    def queue(self) -> None:
        names = self.chance.sample(NAMES, self.chance.randint(1, 4))
        queue(self.link, self.by, dict.fromkeys(names, 1.0), {}, timedelta(seconds=self.chance.choice((1, 8, 30))))

    def run(self) -> None:
        which = self.chance.randrange(2)
        self.recorders[which] = self.recorders[which] or self.recorder()
        if next(self.recorders[which], "over") == "over":
            self.recorders[which] = None

    def wait(self) -> None:
        self.now += timedelta(seconds=self.chance.choice((0.1, 2, 10)))

    def crash(self) -> None:
        """Every recorder dies as it stands; a new one starts."""
        self.recorders = [None, None]
        end_begun(self.link)

    def second(self) -> None:
        """Another recorder starts while those before it still run."""
        end_begun(self.link)

    def disarm(self) -> None:
        lapse(self.link)
        self.disarmed_at.append(self.now)

    def arm(self) -> None:
        Link.objects.filter(pk=self.link.pk).update(armed_until=self.now + timedelta(seconds=60))

    def take_back(self) -> None:
        """The user's deadline: what is taken back in time is told as not written."""
        for command in Command.objects.filter(link=self.link, expires_at__lte=self.now):
            take_back(command, STATE.EXPIRED)


@pytest.fixture
def link(api, rig):
    return Link.objects.create(rig=Rig.objects.get(slug=rig), stand_in=True, port=1502)


@pytest.mark.parametrize("seed", range(cases(3)))
def test_what_is_denied_never_went_out_and_what_went_out_is_in_the_book(link, seed, monkeypatch):
    by = User.objects.first() or User.objects.create(title="Technician")
    bench = Bench(link, by, random.Random(seed), monkeypatch)
    bench.arm()
    for _ in range(250):
        bench.step()
        silent = set(Command.objects.filter(state__in=SILENT).values_list("pk", flat=True))
        assert not silent & {pk for pk, _, _ in bench.wire}
    bench.crash()

    went_out = Counter((pk, name) for pk, name, _ in bench.wire)
    assert max(went_out.values(), default=1) == 1  # nothing is sent twice
    states = dict(Command.objects.values_list("pk", "state"))
    assert set(states.values()) <= {*SILENT, STATE.QUEUED, STATE.DONE, STATE.PART}
    for pk, command in Command.objects.in_bulk().items():
        if pk in bench.claimed_at:
            assert bench.claimed_at[pk] < command.expires_at
        if states[pk] == STATE.DONE:
            assert {n for p, n in went_out if p == pk} == set(command.values)
    book = Counter(n for e in link.rig.entries.filter(title__startswith="Written") for n in e.after)
    assert not Counter(name for _, name in went_out) - book


def test_nothing_that_waited_is_sent_after_disarming(link, monkeypatch):
    """Disarmed between queueing and claiming, and armed again at once: the old order stays cancelled."""
    bench = Bench(link, User.objects.first() or User.objects.create(title="Technician"), random.Random(1), monkeypatch)
    bench.arm()
    bench.queue()
    old = Command.objects.get()
    bench.disarm()
    bench.arm()
    for _ in range(20):
        bench.run()
    old.refresh_from_db()
    assert old.state == STATE.CANCELLED and not bench.wire


@pytest.mark.parametrize(("wait_s", "goes_out"), [(59.0, True), (60.5, False)])
def test_arming_lapses_by_itself_for_what_waits(link, monkeypatch, wait_s, goes_out):
    bench = Bench(link, User.objects.first() or User.objects.create(title="Technician"), random.Random(4), monkeypatch)
    bench.arm()
    queue(link, bench.by, {"mode": "off"}, {}, timedelta(seconds=90))
    bench.now += timedelta(seconds=wait_s)
    monkeypatch.setattr(bench.chance, "random", lambda: 1.0)
    monkeypatch.setattr(bench.chance, "randrange", lambda n: 0)
    for _ in range(10):
        bench.run()
    assert bool(bench.wire) == goes_out


def test_disarming_never_takes_a_safe_off_back(link):
    """Neither does a second press, or a programme that ends at the same moment: somebody waits for the first to be confirmed."""
    by = User.objects.first() or User.objects.create(title="Technician")
    first = queue_safe_off(link, by, {"mode": "off"}, timedelta(seconds=3))
    lapse(link)
    second = queue_safe_off(link, None, {"mode": "off"}, timedelta(seconds=3))
    assert {c.state for c in Command.objects.filter(pk__in=(first.pk, second.pk))} == {STATE.QUEUED}
