"""The alarms of a rig's plan, judged by the recorder over what its controller says: a courtesy, which protects nothing."""

import time
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Any

from django.utils import timezone

from rellux.core.control.alarms.alarm import ACTING, Alarm, AlarmState, Seen
from rellux.core.control.alarms.habits import FLOOD_S
from rellux.core.control.alarms.settings import AlarmKind
from rellux.core.errors import Refused
from rellux.core.guarding.feel import Feel, Light
from rellux.core.guarding.plan import PlannedAlarm
from rellux.devices.registers import Value
from rellux.server.guarding.models import AlarmAsk
from rellux.server.guarding.stored import read_plan

from .buffer import number
from .noticed import Noticed

MOST_CAME = 50
FOLLOWED_S = 1.0
"""How often it is looked whether the plan was changed or somebody asked for something, s."""
Values = dict[str, Value | None]


@dataclass
class Watched:
    """One alarm, since when it stands where it does, and until when somebody does not want to hear of it."""

    planned: PlannedAlarm
    alarm: Alarm
    since: datetime = field(default_factory=timezone.now)
    shelved_until: datetime | None = None
    shelved_by: str = ""
    came: list[datetime] = field(default_factory=list)
    out_by: str = ""

    def moved(self, before: AlarmState) -> None:
        """It stands elsewhere than ``before``; when it came is remembered for a while."""
        self.since = timezone.now()
        if self.alarm.state is AlarmState.ACTIVE and before not in ACTING:
            recent = self.since - timedelta(seconds=FLOOD_S)
            self.came = [*(c for c in self.came if c > recent), self.since][-MOST_CAME:]

    def told(self) -> dict[str, Any]:
        return {
            "name": self.planned.name,
            "state": self.alarm.state.value,
            "since": self.since.isoformat(),
            "response": self.planned.response,
            "shelved_until": self.shelved_until.isoformat() if self.shelved_until else None,
            "shelved_by": self.shelved_by,
            "came": [c.isoformat() for c in self.came],
            "out_by": self.out_by,
        }


class Watch:
    """The alarms of one rig. Delays run on the controller's own clock, which a simulated one has ``speed`` times as fast."""

    def __init__(self, rig_id: int, speed: float, noticed: Noticed | None = None) -> None:
        self._rig_id, self._speed, self._noticed = rig_id, speed, noticed or Noticed()
        self._plan: int | None = None
        self._watched: list[Watched] = []
        self._before: dict[str, dict[str, Any]] = {}
        self._followed, self._looked = -FOLLOWED_S, time.monotonic()
        self._clock_s: float | None = None
        self._setpoint: float | None = None
        self._light: Light | None = None
        self._feel: Feel | None = None
        self._flags: frozenset[AlarmKind] = frozenset()

    def go_on(self, told: list[dict[str, Any]]) -> None:
        """From where another recorder left it: a latch outlasts its end."""
        self._before = {a["name"]: a for a in told}

    def told(self) -> list[dict[str, Any]]:
        """All of them, for the database."""
        return [w.told() for w in self._watched]

    @property
    def feel(self) -> str:
        """What the status light says, empty where there is none."""
        return self._feel.value if self._feel else ""

    def look(self, values: Values, flags: frozenset[AlarmKind] = frozenset()) -> None:
        """What the controller says now, and what its programme does: ``flags``."""
        self._follow()
        clock = values.get("clock_s")
        at = float(clock) if clock is not None else time.monotonic() * self._speed
        step = max(at - self._clock_s, 0.0) if self._clock_s is not None else 0.0
        self._clock_s, self._looked = at, time.monotonic()
        broken = number(values, "sensor_fault") > 0
        reading = float("nan") if broken else number(values, "reading_c")
        self._feel = self._light.look(step, reading, number(values, "output")) if self._light else None
        self._flags = flags
        setpoint = number(values, "setpoint_c")
        moved = self._setpoint is not None and setpoint != self._setpoint
        self._setpoint = setpoint
        self._move(
            Seen(
                step,
                reading,
                setpoint,
                number(values, "output"),
                number(values, "second_c"),
                number(values, "load_a"),
                setpoint_moved=moved,
            )
        )

    def silent(self) -> None:
        """It does not answer: what it is at nobody knows. Before it ever did nothing is judged: that it does not answer is said already."""
        if self._clock_s is None:
            return
        passed = (time.monotonic() - self._looked) * self._speed
        self._looked = time.monotonic()
        self._clock_s += passed
        self._feel = self._light.blind() if self._light else None
        self._move(Seen(passed))

    def _move(self, seen: Seen) -> None:
        for w in self._watched:
            before = w.alarm.state
            if w.alarm.look(replace(seen, flag=w.planned.alarm.kind in self._flags)) is not before:
                w.moved(before)

    def _follow(self) -> None:
        if time.monotonic() - self._followed < FOLLOWED_S:
            return
        self._followed = time.monotonic()
        newest = self._noticed.plan_of(self._rig_id)
        if newest != self._plan:
            self._take(newest)
        for ask in AlarmAsk.objects.filter(rig_id=self._rig_id) if self._noticed.has_asked(self._rig_id) else ():
            self._do(ask)
            ask.delete()

    def _take(self, newest: int | None) -> None:
        """Another plan: an alarm of the same name that is set alike goes on from where it stood."""
        stood = {w.planned.name: w for w in self._watched}
        plan = read_plan(newest)
        self._plan = newest
        if plan.light is None or self._light is None or self._light.settings != plan.light:
            self._light = Light(plan.light) if plan.light else None
        self._watched = []
        for planned in plan.alarms:
            same = stood.get(planned.name)
            if same and same.planned.alarm == planned.alarm:
                self._watched.append(
                    Watched(
                        planned, same.alarm, same.since, same.shelved_until, same.shelved_by, same.came, same.out_by
                    )
                )
                continue
            watched = Watched(planned, Alarm(planned.alarm))
            if (told := self._before.get(planned.name)) and not stood:
                watched.alarm.resume(AlarmState(told["state"]))
                watched.since = datetime.fromisoformat(told["since"])
                watched.shelved_by = told["shelved_by"]
                until = told["shelved_until"]
                watched.shelved_until = datetime.fromisoformat(until) if until else None
                watched.out_by = told.get("out_by", "")
                watched.came = [datetime.fromisoformat(c) for c in told.get("came", ())]
            self._watched.append(watched)

    def _do(self, ask: AlarmAsk) -> None:
        watched = next((w for w in self._watched if w.planned.name == ask.name), None)
        if watched is None:
            return
        before = watched.alarm.state
        match AlarmAsk.What(ask.what):
            case AlarmAsk.What.ACKNOWLEDGE:
                watched.alarm.acknowledge()
            case AlarmAsk.What.RESET:
                with suppress(Refused):  # its condition came back in between
                    watched.alarm.reset()
            case AlarmAsk.What.SHELVE:
                watched.shelved_until, watched.shelved_by = ask.at + timedelta(minutes=ask.minutes), ask.who
            case AlarmAsk.What.UNSHELVE:
                watched.shelved_until, watched.shelved_by = None, ""
            case AlarmAsk.What.TAKE_OUT:
                watched.out_by = ask.who
                watched.alarm.take_out()
            case AlarmAsk.What.PUT_BACK:
                watched.out_by = ""
                watched.alarm.put_back()
        if watched.alarm.state is not before:
            watched.moved(before)
