"""The programme of a rig, run by its recorder: set-points are written as the executor says, and everything it does is written down.

It is stopped by whatever ends the heating: a press of safe-off, also one that never reached the database (its mark is looked at before
every write), the controller saying that it is off, a link that points elsewhere.
"""

import logging
import time
from datetime import timedelta

from django.utils import timezone

from rellux.core.control.alarms.settings import AlarmKind
from rellux.core.control.liveness import stale_after_s
from rellux.core.control.programme.executor import GOING, Executor, Limits, Standing
from rellux.core.control.programme.marks import ENDED_S, MarkKind
from rellux.core.control.programme.programme import Rows
from rellux.core.control.steps import is_held
from rellux.core.errors import Refused
from rellux.core.profiles.profile import AfterCut, Profile, rows_of, segment_at
from rellux.core.spine import Station
from rellux.devices.modbus_link import LinkDown
from rellux.devices.register_map import SafeOff
from rellux.server.links.commands import pressed_since, queue_safe_off
from rellux.server.links.maps import map_of
from rellux.server.links.models import Link
from rellux.server.profiles.models import ProfileVersion, Programme
from rellux.server.profiles.stored import profile_from
from rellux.server.rigs.change import note

from .buffer import ONE_WRITER, number
from .follower import Device, Values
from .noticed import Noticed

log = logging.getLogger("rellux.recorder")

FOLLOWED_S = 0.5
"""How often it is looked whether there is a programme, and what somebody wants of it, s."""
SAFE_OFF_S = 4.0
RESTING = ("output", "switch")
WAITS, KEEPS_UP = "the programme waits for its load", "the programme no longer waits for its load"


def limits_of(told: Programme, profile: Profile, highest_c: float) -> Limits:
    """What a run of it is bounded by."""
    power = profile.after_power
    return Limits(
        told.step_c,
        told.least_s,
        highest_c,
        power.resume_c,
        power.ramp_back_c,
        power.longest_s,
        power.beyond is AfterCut.ABORT,
    )


def _tells(sequence: SafeOff) -> bool:
    """Whether a controller that is off can be told from one that rests: an output of nothing alone is either."""
    return any(name not in RESTING for name, _ in sequence.off_when)


class Runner:
    """The programme of one rig, as its recorder runs it."""

    def __init__(self, link: Link, noticed: Noticed | None = None) -> None:
        self._link, self._noticed = link, noticed or Noticed()
        self._told: Programme | None = None
        self._executor: Executor | None = None
        self._profile: Profile | None = None
        self._rows: Rows | None = None
        self._followed, self._looked = -FOLLOWED_S, time.monotonic()
        self._at = -1
        self._down_since: float | None = None
        self._is_off = self._held_back = False
        self.flags: frozenset[AlarmKind] = frozenset()

    def look(self, values: Values, device: Device) -> list[tuple[MarkKind, str]]:
        """A poll was answered. Returns what is to be marked in the run. ``flags`` are what alarms are to see of the programme now."""
        self._follow()
        if self._executor is None or self._told is None:
            return []
        now, before = time.monotonic(), self._looked
        step, self._looked = (now - before) * self._link.speed, now
        reading = float("nan") if number(values, "sensor_fault") > 0 else number(values, "reading_c")
        if self._down_since is None and now - before > stale_after_s(self._link.poll_s):
            self._down_since = before  # it stood still itself: frozen, or kept waiting by the database
        if self._down_since is not None:
            self._executor.came_back((now - self._down_since) * self._link.speed, reading)
            self._down_since, step = None, 0.0
        self._must_end(values, device)
        wanted = self._executor.look(step, reading, number(values, "setpoint_c"))
        if wanted is not None and not pressed_since(self._link, self._told.begun_at):
            self._write(wanted, device)
        return self._after()

    @property
    def begun_with(self) -> list[tuple[MarkKind, str]]:
        """What is to be marked in a run that is opened now, so that it tells of what began before."""
        return [(MarkKind.HELD_BACK, WAITS)] if self._held_back and self._executor is not None else []

    @property
    def written_c(self) -> float | None:
        """The set-point it wrote last, while it runs."""
        going = self._executor is not None and self._executor.standing in (Standing.RUNNING, Standing.BACK)
        return self._executor.written_c if going and self._executor else None

    def silent(self) -> None:
        """The controller does not answer: its clock stands."""
        if self._executor is not None and self._down_since is None:
            self._down_since = time.monotonic()

    def _must_end(self, values: Values, device: Device) -> None:
        """What ends it whatever the programme says."""
        assert self._executor is not None and self._told is not None
        sequence = device.map.safe_off
        says_off = sequence is not None and _tells(sequence) and sequence.is_off(values)
        self._is_off = says_off or pressed_since(self._link, self._told.begun_at)
        if self._is_off:
            self._executor.abort("the heat was switched off")

    def _write(self, wanted: float, device: Device) -> None:
        """One set-point. What was not confirmed is not repeated here: the executor looks at the next polls first."""
        assert self._executor is not None and self._told is not None
        try:
            read_back = device.write("setpoint_c", wanted)
            self._executor.sent(wanted, is_held(wanted, read_back, self._told.step_c))
        except (LinkDown, Refused) as lost:
            log.warning("a set-point of the programme of rig %s was not confirmed: %s", self._link.rig_id, lost)
            self._executor.sent(wanted, False)

    def _follow(self) -> None:
        """Take up a programme that was begun, or go on with one after this process began; do what somebody asked."""
        if time.monotonic() - self._followed < FOLLOWED_S:
            return
        self._followed = time.monotonic()
        newest = None
        if self._noticed.has_programme(self._link.rig_id):  # the newest not by time: clocks are set back
            newest = Programme.objects.filter(rig_id=self._link.rig_id).order_by("-pk").first()
        if newest is None or newest.standing not in GOING:
            self._told = self._executor = None
            self.flags = frozenset({AlarmKind.PROGRAMME_END} if self._ended_lately(newest) else ())
            return
        if self._told is None or newest.pk != self._told.pk:
            self._take(newest)
        if newest.ask and self._executor is not None:
            self._do(Programme.Ask(newest.ask))
            Programme.objects.filter(pk=newest.pk).update(ask="")

    def _ended_lately(self, last: Programme | None) -> bool:
        if last is None or last.standing != Standing.ENDED:
            return False
        return (timezone.now() - last.beat_at).total_seconds() * self._link.speed <= ENDED_S

    def _take(self, newest: Programme) -> None:
        self._told, self._looked, self._at, self._down_since = newest, time.monotonic(), -1, None
        if newest.generation != self._link.generation:
            self._end(newest, "the link points to another controller now")
            return
        try:
            version = ProfileVersion.objects.get(rig_id=newest.rig_id, key=newest.key, number=newest.number)
            self._profile = profile_from(version.profile)
        except (Refused, ProfileVersion.DoesNotExist) as error:
            self._end(newest, f"its profile cannot be read: {error}")
            return
        self._rows = rows_of(self._profile)
        limits = limits_of(newest, self._profile, self._link.rig.highest_c)
        self._executor = Executor(self._rows, limits, newest.start_c, newest.state or None)
        self._held_back = self._executor.held_back
        absent = (timezone.now() - newest.beat_at).total_seconds()
        if newest.state:
            self._down_since = time.monotonic() - absent

    def _end(self, told: Programme, why: str) -> None:
        """One that cannot go on: nothing is written any more, and it is said."""
        Programme.objects.filter(pk=told.pk).update(standing=Standing.ABORTED.value)
        self._told = self._executor = None
        note(told.rig, None, Station.PROFILES, "Programme ended", why=why, who=told.who)

    def _do(self, ask: Programme.Ask) -> None:
        assert self._executor is not None
        match ask:
            case Programme.Ask.PAUSE:
                self._executor.pause("somebody paused it")
            case Programme.Ask.GO_ON:
                self._executor.go_on()
            case Programme.Ask.SKIP:
                self._executor.skip()
            case Programme.Ask.ABORT:
                self._executor.abort("somebody ended it")

    def _after(self) -> list[tuple[MarkKind, str]]:
        """Write down where it is; what is to be marked in the run."""
        assert self._executor is not None and self._told is not None and self._profile is not None
        executor, told = self._executor, self._told
        marks: list[tuple[MarkKind, str]] = []
        row = executor.programme.segment
        if row != self._at and executor.standing in GOING:
            self._at = row
            segment = self._profile.segments[segment_at(self._profile, row)]
            says = "".join(f": {word}" for word in (segment.says, ", ".join(segment.events)) if word)
            marks.append((MarkKind.PROGRAMME, f"segment {segment_at(self._profile, row) + 1} begins{says}"))
        if executor.held_back is not self._held_back:
            self._held_back = executor.held_back
            marks.append((MarkKind.HELD_BACK, WAITS) if self._held_back else (MarkKind.WENT_ON, KEEPS_UP))
        if executor.standing.value != told.standing:
            kind = MarkKind.ENDED if executor.standing is Standing.ENDED else MarkKind.PROGRAMME
            marks.append(
                (kind, f"programme {executor.standing.value}" + (f": {executor.said}" if executor.said else ""))
            )
        self.flags = frozenset({AlarmKind.HOLDBACK} if self._held_back else ())
        told.standing, told.state, told.beat_at = executor.standing.value, executor.told, timezone.now()
        with ONE_WRITER:
            told.save(update_fields=["standing", "state", "beat_at"])
        if executor.standing not in GOING:
            self._over(told, executor)
        return marks

    def _over(self, told: Programme, executor: Executor) -> None:
        ended = executor.standing is Standing.ENDED
        why = f"{executor.said}; {executor.writes} set-points written".lstrip("; ")
        note(
            told.rig,
            None,
            Station.PROFILES,
            "Programme ended" if ended else "Programme broken off",
            why=why,
            who=told.who,
        )
        if executor.switches_off and not self._is_off:  # an order of somebody else is not overtaken
            sequence = map_of(self._link).safe_off
            if sequence:
                queue_safe_off(self._link, None, dict(sequence.writes), timedelta(seconds=SAFE_OFF_S))
        self._told = self._executor = None
