"""The controller of a rig, followed: its state is kept, the open run is recorded, and writes are sent.

Started again, it goes on with a run that was being recorded: the controller's own clock keeps the times right, and the pause is marked
as a gap.
"""

import logging
import time
from collections import Counter
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import OperationalError
from django.utils import timezone

from rellux.core.control.counted import between
from rellux.core.control.keys import Keys
from rellux.core.control.liveness import is_stall
from rellux.core.messages import quantity, shortened
from rellux.core.setup.dictionary import BY_NAME
from rellux.core.setup.parameters import spoken_value
from rellux.core.spine import Station
from rellux.devices.file_link import FileLink
from rellux.devices.modbus_link import ModbusLink
from rellux.server.links import aside
from rellux.server.links.channels import channels_of
from rellux.server.links.commands import claim, end_begun, next_waiting, switched_off
from rellux.server.links.models import Link, LinkState
from rellux.server.links.sending import send
from rellux.server.rigs.change import note

from . import run_clock, store
from .buffer import ONE_WRITER, Beside, Buffer, number
from .driven_relay import RelayRunner
from .follower import LATE_S, STATE_S, Device, Follower, Values
from .models import Event, Run
from .noticed import Noticed
from .programme import Runner
from .watching import Watch

log = logging.getLogger("rellux.recorder")

KEYS_S = 60.0
"""How long after a safe-off a change may be its own, s: it may have gone past the recorder (our choice)."""
LATE = 1.6
"""Times the usual interval from which a poll is late (our choice)."""
SOONER, LATER = 0.5, 0.125
"""How much of the way the usual interval follows one that was shorter, or longer: the first may have been late itself (our choice)."""


@dataclass
class Between:
    """What the output did between two polls of which the second came late, where the controller counts its own on-time."""

    last: tuple[float, float, float] = (np.nan, np.nan, np.nan)
    usual_s: float = np.inf

    def missed(self, at_s: float, on_s: float, output: float) -> tuple[float, float] | None:
        """For a late poll: a moment since the one before, and the output in % from then on; None where it came in time or nothing
        is counted."""
        look, step = (at_s, on_s, output), at_s - self.last[0]
        first = not np.isfinite(self.usual_s)
        late = first or step > LATE * self.usual_s
        found = between(self.last, look) if late else None
        if step > 0 and (first or not late):
            self.usual_s = (
                step if first else self.usual_s + (step - self.usual_s) * (SOONER if step < self.usual_s else LATER)
            )
        self.last = look
        return found


class LinkRecorder(Follower):
    """Polls the controller of a rig, keeps its state, records the open run and sends writes."""

    def __init__(self, link: Link, noticed: Noticed | None = None) -> None:
        super().__init__(link)
        self.link, self._noticed = link, noticed or Noticed()
        self._buffer: Buffer | None = None
        self._beside = Beside("controller", lambda: channels_of(Link.objects.get(pk=link.pk)), link.poll_s)
        self._held = False
        self._stated = 0.0
        self._between = Between()
        self._keys: Keys | None = None
        self._before: Values = {}
        self._marked_s, self._recorded = -1.0, time.monotonic()
        self._watch = Watch(link.rig_id, link.speed, self._noticed)
        self._runner = Runner(link, self._noticed)
        self._tester = RelayRunner(link, self._noticed)

    def begin(self) -> None:
        with self.despite_the_disk():
            end_begun(self.link)
            state = LinkState.objects.filter(link=self.link, generation=self.link.generation).first()
            self._before = state.values if state else {}
            self._watch.go_on(state.alarms if state else [])

    def run(self) -> None:
        try:
            super().run()
        finally:
            run_clock.end(self.link.rig_id)
            aside.say(self.link.pk, None)

    def end(self) -> None:
        if self._buffer:
            self._buffer.flush()
            with self.despite_the_disk():
                self._beside.end()
            if self._buffer.rows:
                log.error("%s samples could not be written to disk before the end", len(self._buffer.rows))

    def connected(self, device: Device) -> None:
        if isinstance(device, FileLink):
            with self.despite_the_disk():
                self._catch_up(device)

    def _catch_up(self, log_file: FileLink) -> None:
        """What a log holds of the open run that was written while nobody followed it: into the run, at its own times. It is not live,
        and no alarm is judged by it."""
        run = self._noticed.run_of(self.link.rig_id)
        if run is None or run.clock_start_s is None:
            return
        restarted = self._buffer is None
        if self._buffer is None:
            self._buffer, self._marked_s = Buffer(run, last_s=_newest_s(run)), -1.0
        last_s, rows = self._buffer.last_s, 0
        for values in log_file.missed(run.clock_start_s + last_s):
            if self.stopping.is_set():
                break
            self._recorded = -np.inf  # however long the log was silent, it was not its clock that jumped
            self._record(values)
            rows += 1
        if restarted or rows:
            why = "the recorder was started again" if restarted else "it could be read again"
            if not rows:
                self._marked_s = last_s  # the next row finds it said
            self._mark(run, max(last_s, 0.0), "caught_up" if rows else "gap", f"{why}{_caught_up(rows)}")

    def heard(self, values: Values, device: Device) -> None:
        now = time.monotonic()
        with self.despite_the_disk():
            self._watch.look(values, self._runner.flags)
        if now - self._stated >= STATE_S and self._tell(values, device.remark, waits=now - self._stated >= LATE_S):
            self._stated = now
        with self.despite_the_disk():
            self._look_for_run(values)
        self._take_orders(device)
        with self.despite_the_disk():
            self._run_programme(values, device)
        with self.despite_the_disk():
            self._look_at_test(values, device)
        self._count_writes(device)
        with self.despite_the_disk():
            self._look_at_keys(values, device)
        with self.despite_the_disk():
            self._record(values)

    def meanwhile(self, device: Device) -> None:
        self._take_orders(device)
        self._count_writes(device)
        self._flush_when_due()

    def _count_writes(self, device: Device) -> None:
        """What was written goes into the life of the memory it is kept in."""
        if isinstance(device, ModbusLink) and device.written:
            self.link.writes = dict(Counter(self.link.writes) + device.written)
            with self.despite_the_disk(), ONE_WRITER:
                Link.objects.filter(pk=self.link.pk).update(writes=self.link.writes)
            device.written.clear()

    def _take_orders(self, controller: Device) -> None:
        with self.despite_the_disk():
            if self._noticed.has_orders(self.link.pk):
                self._send_commands(controller)

    def _tell(self, values: Values, remark: str, waits: bool) -> bool:
        """The newest poll, into the database or beside it. Whether it was told."""
        held = self._buffer is not None and self._buffer.held_since is not None
        try:
            if not self.say(True, remark, values, waits):
                return False
        except OperationalError:
            held = True
        if not held:
            aside.say(self.link.pk, None)
            if self._held:
                with self.despite_the_disk():
                    end_begun(self.link)  # what was being sent when the disk was full
            self._held = False
            return True
        self._held = True
        kept, left_s = (len(self._buffer.rows), self._buffer.left_s()) if self._buffer else (0, 0.0)
        aside.say(self.link.pk, aside.Said(timezone.now().isoformat(), values, kept, left_s))
        return True

    def besides(self) -> dict[str, Any]:
        return {"alarms": self._watch.told(), "feel": self._watch.feel}

    def down(self, message: str, first: bool) -> None:
        self._watch.silent()
        self._runner.silent()
        aside.say(self.link.pk, None)
        if self._buffer:
            self._buffer.flush()
            self._beside.gap()
            if first and self._buffer.last_s >= 0:
                self._mark(self._buffer.run, self._buffer.last_s, "gap", f"no answer: {message}")
                self._marked_s = self._buffer.last_s

    def _mark(self, run: Run, time_s: float, kind: str, text: str) -> None:
        Event.objects.create(run=run, time_s=time_s, kind=kind, text=shortened(text, 200))

    def _look_for_run(self, values: Values) -> None:
        """Follow the database: a run opened or closed by somebody."""
        open_run = self._noticed.run_of(self.link.rig_id)
        if self._buffer and (open_run is None or open_run.pk != self._buffer.run.pk):
            self._buffer.flush()
            if self._buffer.rows:
                return  # not on disk yet
            self._beside.end()
            run_clock.end(self.link.rig_id)
            store.merge(self._buffer.run)
            self._buffer = None
        if open_run is None or self._buffer is not None:
            return
        if open_run.clock_start_s is None:
            open_run.clock_start_s = self._clock(values)
            open_run.save(update_fields=["clock_start_s"])
            self._buffer, self._marked_s = Buffer(open_run), -1.0
            for kind, text in self._runner.begun_with:
                self._mark(open_run, 0.0, kind.value, text)
            return
        last = _newest_s(open_run)
        if self._clock(values) - open_run.clock_start_s < last:
            self._interrupt(open_run, last, "the controller started again: its clock went back")
            return
        self._buffer, self._marked_s = Buffer(open_run, last_s=last), last
        self._mark(open_run, max(last, 0.0), "gap", "the recorder was started again")

    def _interrupt(self, run: Run, at_s: float, reason: str) -> None:
        run_clock.end(self.link.rig_id)
        self._beside.end()
        Run.objects.filter(pk=run.pk).update(status=Run.Status.INTERRUPTED)
        self._noticed.forget()
        self._mark(run, at_s, "gap", reason)

    def _run_programme(self, values: Values, device: Device) -> None:
        """The programme's next set-point, where one runs; what it did is marked in the run."""
        for kind, text in self._runner.look(values, device):
            if self._buffer:
                self._mark(self._buffer.run, max(self._buffer.last_s, 0.0), kind.value, text)
        if self._keys and (written := self._runner.written_c) is not None:
            self._keys.written({"setpoint_c": written})

    def _look_at_test(self, values: Values, device: Device) -> None:
        """A relay test is ended as it must be, and the controller gets its old numbers back."""
        for text in self._tester.look(values, device):
            if self._buffer:
                self._mark(self._buffer.run, max(self._buffer.last_s, 0.0), "relay_test", text)
        if self._keys and self._tester.written:
            self._keys.written(self._tester.written)

    def _look_at_keys(self, values: Values, device: Device) -> None:
        """Somebody may stand at the controller and change its settings there; or did, while nobody followed it."""
        if self._keys is None:
            registers = (r for r in device.map.registers if r.writable and r.name in BY_NAME)
            self._keys = Keys({r.name: r.step for r in registers})
            self._keys.written({n: v for n, v in self._before.items() if v is not None})
        for change in self._keys.look(values, time.monotonic()):
            if switched_off(self.link, KEYS_S):
                continue  # from here, past the recorder
            was, now = (spoken_value(change.name, v) for v in (change.before, change.after))
            note(
                self.link.rig,
                None,
                Station.RUNS,
                "Changed at the controller’s own keys",
                before={change.name: change.before},
                after={change.name: change.after},
                who="the controller",
            )
            if self._buffer:
                self._mark(self._buffer.run, max(self._buffer.last_s, 0.0), "keys", f"at its keys: {now}, before {was}")

    def _stalled(self, run: Run, last_s: float, at_s: float) -> None:
        """Nothing was heard for longer than is ordinary, or the controller's clock jumped: it is marked, once."""
        waited_s, self._recorded = time.monotonic() - self._recorded, time.monotonic()
        passed_s = (at_s - last_s) / self.link.speed
        if last_s < 0 or last_s <= self._marked_s or not is_stall(passed_s, self.link.poll_s):
            return
        jumped = is_stall(passed_s - waited_s, self.link.poll_s)
        what = "its clock jumped ahead by" if jumped else "nothing heard for"
        self._mark(run, last_s, "gap", f"{what} {quantity(passed_s - waited_s if jumped else passed_s, 's', '.1f')}")

    def _clock(self, values: Values) -> float:
        """The controller's own clock, or this machine's, which goes on when the recorder is started again."""
        clock = values.get("clock_s")
        return time.monotonic() if clock is None else float(clock)

    def _record(self, values: Values) -> None:
        buffer = self._buffer
        if buffer is None or buffer.run.clock_start_s is None:
            return
        at = round(self._clock(values) - buffer.run.clock_start_s, 4)
        if at < buffer.last_s:
            buffer.flush()
            self._interrupt(buffer.run, buffer.last_s, "the controller started again: its clock went back")
            self._buffer = None
            return
        if at > buffer.last_s:
            self._stalled(buffer.run, buffer.last_s, at)
            broken = number(values, "sensor_fault") > 0
            reading = np.nan if broken else number(values, "reading_c")
            known = (number(values, name) for name in ("setpoint_c", "output", "switch"))
            setpoint, output, switch = known
            if missed := self._between.missed(at, number(values, "on_time_s"), output):
                buffer.add((missed[0], setpoint, np.nan, missed[1], np.nan))
            buffer.add((at, setpoint, reading, output, switch))
            run_clock.look(self.link.rig_id, buffer.run, at, self.link.speed)
            self._beside.add(buffer.run, at, values)
        self._flush_when_due()

    def _flush_when_due(self) -> None:
        if self._buffer:
            self._buffer.flush_when_due()

    def _send_commands(self, controller: Device) -> None:
        """Send what waits and is still wanted, safe-off first; a link lost in between leaves the rest unsent, and says so."""
        while command := next_waiting(self.link):
            if not claim(command):
                continue
            send(command, controller)
            if self._keys:
                self._keys.written(command.read_back)
            if self._buffer and command.read_back:
                told = ", ".join(spoken_value(n, v) for n, v in command.read_back.items())
                self._mark(self._buffer.run, max(self._buffer.last_s, 0.0), "write", told)


def _newest_s(run: Run) -> float:
    """The time of the newest sample on disk; before the beginning where there is none."""
    newest = run.chunks.order_by("-sequence").values_list("last_s", flat=True).first()
    return -1.0 if newest is None else float(newest)


def _caught_up(rows: int) -> str:
    return f": {rows} rows that its log held meanwhile were taken from there" if rows else ""
