"""A relay test over a link, or a controller that tunes itself, as the rig's recorder looks after it: it is ended as the core says, and the
controller gets its old numbers back. A recorder that starts again, and a link that is there again, find a test that nobody looked after:
it is broken off.
"""

import logging
import time
from dataclasses import asdict
from math import inf
from typing import Any

from django.utils import timezone

from rellux.core.control.liveness import stale_after_s
from rellux.core.control.steps import is_held
from rellux.core.errors import Refused
from rellux.core.messages import shortened, spoken_time
from rellux.core.setup.dictionary.control import PID_NAMES
from rellux.core.setup.dictionary.parameter import Value
from rellux.core.spine import Station
from rellux.core.tuning.relay.driven import (
    HEATS,
    UNDER_WAY,
    DrivenTest,
    Ended,
    Ending,
    TestStanding,
    Watch,
    heats,
    result_says,
    to_return,
)
from rellux.core.tuning.relay.experiment import RelayKind, RelayTest
from rellux.devices.modbus_link import LinkDown
from rellux.server.links.commands import pressed_since
from rellux.server.links.maps import map_of
from rellux.server.links.models import Command, Link
from rellux.server.links.sending import SWITCHING_OFF_S
from rellux.server.rigs.change import note
from rellux.server.tuning.models import DrivenRelayTest

from .buffer import ONE_WRITER, number
from .follower import Device, Values
from .models import Run
from .noticed import Noticed

log = logging.getLogger("rellux.recorder")

FOLLOWED_S = 0.5
"""How often it is looked whether there is a test, and what somebody wants of it, s."""
BEGUN_WITHIN_S = 20.0
"""A test that is still not begun after so long was left by whoever started it, s."""
RETRY_S, MOST_FAILURES = 5.0, 12
"""How long after a number was not taken it is written again, s, and how often."""
ORDERED_AGAIN_S = 5.0
"""Heat that is not off after so long is ordered off again, s."""
SEEN_OFF_S = 5.0
"""So long after somebody pressed safe-off the controller may take to say that it is off, s."""
LEFT = "nobody looked after it for a while"
SWITCHED_OFF = "the heat was switched off"
FOUND = "found"
"""Where what a controller found by itself is kept, in place of a swing."""

Marks = list[str]


def plain_test(driven: DrivenTest) -> dict[str, Any]:
    """As it is kept."""
    return {**asdict(driven), "holds": dict(driven.holds)}


def test_from(plain: dict[str, Any]) -> DrivenTest:
    """As it was kept."""
    test = RelayTest(**{**plain["test"], "kind": RelayKind(plain["test"]["kind"])})
    return DrivenTest(**{**plain, "test": test})


class RelayRunner:
    """The relay test of one rig, as its recorder looks after it."""

    def __init__(self, link: Link, noticed: Noticed | None = None) -> None:
        self._link, self._noticed = link, noticed or Noticed()
        self._row: DrivenRelayTest | None = None
        self._watch: Watch | None = None
        self._driven: DrivenTest | None = None
        self._followed, self._looked, self._beat = -FOLLOWED_S, time.monotonic(), 0.0
        self._waits_until, self._failures, self._ordered, self._pressed_at = 0.0, 0, -ORDERED_AGAIN_S, inf
        self.written: dict[str, Value] = {}

    def look(self, values: Values, device: Device) -> Marks:
        """A poll was answered. Returns what is to be marked in the run; ``written`` is what was written to the controller now."""
        self.written = {}
        now, before = time.monotonic(), self._looked
        self._looked = now
        self._follow()
        row = self._row
        if row is None:
            return []
        steps = {r.name: r.step for r in device.map.registers}
        marks: Marks = []
        if row.standing == TestStanding.SWINGING:
            marks = self._swing(row, values, now - before, device, steps)
        if self._row is not None and row.standing == TestStanding.RETURNING:
            marks += self._return(row, values, device, steps)
        return marks

    def _follow(self) -> None:
        """Take up a test that was begun; what nobody looked after is broken off."""
        if time.monotonic() - self._followed < FOLLOWED_S:
            return
        self._followed = time.monotonic()
        newest = None
        if self._noticed.has_relay_test(self._link.rig_id):
            newest = DrivenRelayTest.objects.filter(rig_id=self._link.rig_id).order_by("-pk").first()
        if newest is None or TestStanding(newest.standing) not in UNDER_WAY:
            self._row = self._watch = None
            return
        if self._row is None or self._row.pk != newest.pk:
            self._driven, self._watch, self._failures = test_from(newest.driven), None, 0
            self._waits_until, self._pressed_at = 0.0, inf
        self._row = newest
        if newest.generation != self._link.generation:
            self._over(
                newest, "the link points to another controller now: the other one was left as it was", done=False
            )
        elif self._pressed(newest) and not newest.is_off:
            newest.is_off = True
            self._go_back(newest, newest.said or SWITCHED_OFF)
        elif newest.standing == TestStanding.STARTING and self._is_older(newest, BEGUN_WITHIN_S):
            self._go_back(newest, "it was never begun: whoever started it was stopped")
        elif newest.ask_end and newest.standing == TestStanding.SWINGING:
            self._go_back(newest, "ended by hand")

    @property
    def _noun(self) -> str:
        """What is watched, in words."""
        return "auto-tune" if self._driven and self._driven.tunes_itself else "relay test"

    def _pressed(self, row: DrivenRelayTest) -> bool:
        """Whether somebody pressed safe-off since it began, also where the database could not be told."""
        orders = Command.objects.filter(link=self._link, safe_off=True, by__isnull=False, created_at__gte=row.begun_at)
        return pressed_since(self._link, row.begun_at) or orders.exists()

    def _is_older(self, row: DrivenRelayTest, seconds: float) -> bool:
        """Also where this machine's clock was set back meanwhile: then nobody knows."""
        age = (timezone.now() - row.beat_at).total_seconds()
        return bool(age > seconds or age < -seconds)

    def _swing(
        self, row: DrivenRelayTest, values: Values, passed_s: float, device: Device, steps: dict[str, float]
    ) -> Marks:
        """One look at it while it swings."""
        stale = stale_after_s(self._link.poll_s)
        if self._watch is None:
            assert self._driven is not None
            if self._is_older(row, stale):
                self._go_back(row, LEFT)
                return []
            self._watch, passed_s = Watch(self._driven, steps, row.before), 0.0
        elif passed_s > stale:
            self._go_back(row, f"nothing was heard for {spoken_time(passed_s)}")
            return []
        reading = float("nan") if number(values, "sensor_fault") > 0 else number(values, "reading_c")
        ended = self._watch.look(
            passed_s * self._link.speed, reading, heats(number(values, "switch"), number(values, "output")), values
        )
        if ended is not None:
            return self._ended(row, ended, values, device)
        if time.monotonic() - self._beat >= 1.0:
            self._beat, row.beat_at = time.monotonic(), timezone.now()
            self._save(row, "beat_at")
        return []

    def _ended(self, row: DrivenRelayTest, ended: Ended, values: Values, device: Device) -> Marks:
        said = ended.said + (f": {result_says(ended.swing)}" if ended.swing else "")
        if ended.how is Ending.THEIRS and self._pressed(row):
            row.is_off = True
            self._go_back(row, SWITCHED_OFF)
            return []
        if ended.how is Ending.THEIRS:
            self._over(row, said, done=False)
            return [f"{self._noun} broken off: {said}"]
        row.swing = asdict(ended.swing) if ended.swing else {}
        if ended.how is Ending.FOUND:
            row.swing = {FOUND: {n: v for n in PID_NAMES if (v := values.get(n)) is not None}}
            self.written |= row.swing[FOUND]  # by the controller, not at its keys
        if ended.how is Ending.OFF:
            self._switch_off(device)  # at once, whatever the disk takes
            row.is_off = True
        self._go_back(row, said)
        return [f"{self._noun} {'over' if row.swing else 'broken off'}: {said}"]

    def _go_back(self, row: DrivenRelayTest, said: str) -> None:
        row.standing, row.said, row.beat_at = TestStanding.RETURNING.value, shortened(said, 300), timezone.now()
        row.end_s = self._length_s(row)
        self._save(row, "standing", "said", "beat_at", "is_off", "swing", "end_s")

    def _length_s(self, row: DrivenRelayTest) -> float | None:
        if row.run is None:
            return None
        row.run.refresh_from_db(fields=["length_s"])
        return row.run.length_s

    def _return(self, row: DrivenRelayTest, values: Values, device: Device, steps: dict[str, float]) -> Marks:
        """One of the old numbers, or its end once the controller holds all of them."""
        if self._pressed(row) and not row.is_off:
            row.is_off = True
            self._save(row, "is_off")
        if row.is_off and not self._stays_off(row, values, device):
            return []
        assert self._driven is not None
        is_off = row.is_off and self._says_off(values)
        doubt = "" if is_off or not row.is_off else "; the controller does not say that it is off: look at it"
        back = to_return(self._driven, row.before, values, steps, row.is_off, FOUND in row.swing)
        if back.theirs:
            names = ", ".join(back.theirs)
            said = f"{row.said}; somebody changed {names} meanwhile: it is left as it is{doubt}"
            self._over(row, said, done=False, is_off=is_off)
            return [f"{names} was changed meanwhile: left as it is"]
        if not back.missing:
            ended_off = row.is_off
            self._over(row, row.said + doubt, done=bool(row.swing), is_off=is_off)
            if ended_off:
                return [
                    "the heat is off"
                    if is_off
                    else "safe-off was pressed, and the controller does not say that it is off"
                ]
            kept = "set-point" if FOUND in row.swing else "numbers"
            return [f"the controller has its old {kept} again"]
        if time.monotonic() < self._waits_until:
            return []
        name, value = back.missing[0]
        try:
            read_back = device.write(name, value)
            self.written[name] = read_back
            taken = is_held(value, read_back, steps.get(name, 1.0))
        except (LinkDown, Refused) as lost:
            log.warning("%s of rig %s was not written back: %s", name, self._link.rig_id, lost)
            taken = False
        if name in HEATS and self._pressed(row):
            self._switch_off(device)  # nobody can say which of the two came last
        if taken:
            self._failures = 0
            return []
        self._failures, self._waits_until = self._failures + 1, time.monotonic() + RETRY_S
        if self._failures < MOST_FAILURES:
            return []
        names = ", ".join(n for n, _ in back.missing)
        said = f"{row.said}; the controller did not take back {names}: write the sheet to it{doubt}"
        self._over(row, said, done=False, is_off=is_off)
        return [f"not taken back: {names}"]

    def _stays_off(self, row: DrivenRelayTest, values: Values, device: Device) -> bool:
        """Whether the heat is off, as the controller says itself; it is switched off until it does. What somebody pressed is theirs to see
        through, once the controller had time to say so."""
        if self._says_off(values):
            return True
        if self._pressed(row):
            self._pressed_at = min(self._pressed_at, time.monotonic())
            return time.monotonic() >= self._pressed_at + SEEN_OFF_S
        if time.monotonic() >= self._ordered + ORDERED_AGAIN_S:
            self._switch_off(device)
        return False

    def _says_off(self, values: Values) -> bool:
        sequence = map_of(self._link).safe_off
        return sequence is not None and sequence.is_off(values)

    def _switch_off(self, device: Device) -> None:
        self._ordered = time.monotonic()
        try:
            device.switch_off(SWITCHING_OFF_S)
        except (LinkDown, Refused) as lost:
            log.warning("the heat of rig %s was not switched off after a relay test: %s", self._link.rig_id, lost)

    def _over(self, row: DrivenRelayTest, said: str, *, done: bool, is_off: bool = False) -> None:
        """``is_off``: the controller says so itself."""
        row.standing = (TestStanding.DONE if done else TestStanding.BROKEN_OFF).value
        row.said, row.beat_at = shortened(said, 300), timezone.now()
        row.end_s = row.end_s if row.end_s is not None else self._length_s(row)
        row.is_off = is_off
        self._save(row, "standing", "said", "beat_at", "is_off", "end_s")
        if row.opened:
            Run.objects.filter(pk=row.run_id, status=Run.Status.RECORDING).update(status=Run.Status.FINISHED)
        title = f"{self._noun.capitalize()} {'made' if done else 'broken off'}"
        why = row.said + ("; the heat is off" if row.is_off else "")
        note(row.rig, None, Station.TUNING, title, why=shortened(why, 400), who=row.who)
        self._row = self._watch = None

    def _save(self, row: DrivenRelayTest, *names: str) -> None:
        with ONE_WRITER:
            row.save(update_fields=names)
