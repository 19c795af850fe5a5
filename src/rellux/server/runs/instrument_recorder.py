"""Another device of a rig, followed: its state is kept, and its channels are recorded beside the open run. It is only ever read."""

import time

from rellux.server.links.channels import channels_of
from rellux.server.links.models import Instrument

from . import run_clock
from .buffer import Beside
from .follower import LATE_S, STATE_S, Device, Follower, Values
from .noticed import Noticed


class InstrumentRecorder(Follower):
    """Polls one instrument."""

    def __init__(self, instrument: Instrument, noticed: Noticed | None = None) -> None:
        """``noticed``: what is asked of the recorder; the run of an instrument is its controller's."""
        super().__init__(instrument)
        self._rig = instrument.rig_id
        self._beside = Beside(
            instrument.name, lambda: channels_of(Instrument.objects.get(pk=instrument.pk)), instrument.poll_s
        )
        self._stated = 0.0

    def heard(self, values: Values, device: Device) -> None:
        now = time.monotonic()
        if now - self._stated >= STATE_S:
            with self.despite_the_disk():
                said = self.say(True, device.remark, values, waits=now - self._stated >= LATE_S)
                self._stated = now if said else self._stated
        with self.despite_the_disk():
            if found := run_clock.now(self._rig):
                self._beside.add(*found, values)
            else:
                self._beside.end()

    def meanwhile(self, device: Device) -> None:
        with self.despite_the_disk():
            self._beside.flush_when_due()

    def down(self, message: str, first: bool) -> None:
        self._beside.gap()

    def end(self) -> None:
        with self.despite_the_disk():
            self._beside.end()
