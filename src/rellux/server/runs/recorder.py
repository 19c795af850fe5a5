"""The recorder: one thread a device polls it, keeps its state and records; that of the controller sends writes too."""

import time

from django.db import transaction
from django.utils import timezone

from rellux.server.links.models import Instrument, Link

from .buffer import Writer
from .follower import Follower, fingerprint
from .instrument_recorder import InstrumentRecorder
from .link_recorder import LinkRecorder
from .noticed import Noticed

ALIVE_S = 1.0
FOLLOWED: dict[type[Link] | type[Instrument], type[LinkRecorder] | type[InstrumentRecorder]] = {
    Link: LinkRecorder,
    Instrument: InstrumentRecorder,
}
Key = tuple[type[Link] | type[Instrument], int]


class Recorder:
    """One thread for every device in the database, started and stopped as they come and go."""

    def __init__(self) -> None:
        self._threads: dict[Key, Follower] = {}
        self._said_at = -ALIVE_S
        self._noticed = Noticed()
        self._writer: Writer | None = None

    def follow(self) -> None:
        """Make the threads match the devices. Dead threads are started again."""
        if self._writer is None or not self._writer.is_alive():
            self._writer = Writer()
            self._writer.start()
        with transaction.atomic():
            there: dict[Key, Link | Instrument] = {
                (kind, device.pk): device
                for kind in FOLLOWED
                for device in kind.objects.filter(rig__archived_at__isnull=True)
            }
        for key, thread in list(self._threads.items()):
            device = there.get(key)
            if device is None or fingerprint(device) != thread.fingerprint or not thread.is_alive():
                thread.stopping.set()
                thread.join(timeout=5)
                del self._threads[key]
        for key, device in there.items():
            if key not in self._threads:
                self._threads[key] = FOLLOWED[key[0]](device, self._noticed)
                self._threads[key].start()
        if time.monotonic() - self._said_at >= ALIVE_S:
            for kind in FOLLOWED:
                kind.objects.filter(pk__in=[pk for of, pk in self._threads if of is kind]).update(
                    recorder_at=timezone.now()
                )
            self._said_at = time.monotonic()

    def stop(self) -> None:
        """Stop every thread; each flushes what it holds."""
        for thread in self._threads.values():
            thread.stopping.set()
        for thread in self._threads.values():
            thread.join(timeout=8)
        if self._writer is not None:
            self._writer.stopping.set()
            self._writer.join(timeout=8)
