"""The recorder under load: many devices at once over real sockets, and a serial bus at the pace the poll plan calls honest. What is
counted is what stands on disk afterwards, against what should."""

import asyncio
import socket
import subprocess
import sys
import threading
import time
from contextlib import ExitStack

from benchmarks.devices import MAP, serve_rtu
from benchmarks.measure import ROOT, report
from django.utils import timezone

from rellux.devices.cable import Cable
from rellux.devices.map_file import parse
from rellux.devices.modbus_link import LinkDown, ModbusLink, SerialAddress
from rellux.devices.poll_plan import shortest_interval_s
from rellux.server.links.maps import keep
from rellux.server.links.models import Instrument, Link
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run

RIGS, SECONDS, SETTLE_S = 20, 20.0, 4.0
ENDING_S = 2.0
"""Of the end, where the recorder and the devices are being stopped one after the other, s: not counted."""
BAUD = 9600


def _rigs(count: int) -> list[Rig]:
    like = Rig.objects.values().first()
    return [
        Rig.objects.create(**{**like, "id": None, "slug": f"bench-{i}", "name": f"Bench {i}"}) for i in range(count)
    ]


def _free_ports(count: int) -> list[int]:
    """Ports that nobody listens at, all different: each is held until the last is found."""
    with ExitStack() as held:
        sockets = [held.enter_context(socket.socket()) for _ in range(count)]
        for one in sockets:
            one.bind(("127.0.0.1", 0))
        return [one.getsockname()[1] for one in sockets]


def _recorded(instruments: int, poll_s: float) -> float:
    """Samples on disk over those that should be, of the worst device, ``RIGS`` rigs with so many more devices each."""
    key, rigs, ports = keep(MAP).key, _rigs(RIGS), _free_ports(RIGS * (1 + instruments))
    left = iter(ports)
    for rig in rigs:
        place = {"rig": rig, "host": "127.0.0.1", "register_map": key, "poll_s": poll_s}
        Link.objects.create(**place, port=next(left))
        for k in range(instruments):
            Instrument.objects.create(**place, name=f"Device {k}", port=next(left))
    served = subprocess.Popen([sys.executable, "-m", "benchmarks.devices", *map(str, ports)], cwd=ROOT)
    time.sleep(3.0)
    recorder = subprocess.Popen([sys.executable, "-m", "rellux.server.manage", "record"], cwd=ROOT)
    try:
        time.sleep(SETTLE_S)
        runs = [
            Run.objects.create(rig=rig, name="load", source="live", status="recording", started_at=timezone.now())
            for rig in rigs
        ]
        time.sleep(SECONDS)
    finally:
        recorder.terminate()
        recorder.wait(60)
        served.terminate()
    shares = []
    for run in runs:
        run.refresh_from_db()
        held = [run, *run.tracks.all()]
        assert len(held) == 2 + instruments
        times = [t[t < SECONDS - ENDING_S] for t in (store.read(h).time_s for h in held)]
        # of whole intervals: a late poll is none lost
        shares += [(len(t) - 1) / round((t[-1] - t[0]) / poll_s) for t in times]
        assert all(h.length_s > 0.8 * SECONDS for h in held)
    for rig in rigs:
        rig.delete()
    return min(shares)


def many_devices() -> None:
    """None may be lost, of any device; two processors are shared with the devices themselves."""
    report(
        f"samples of a 16-register device at 10 Hz, {RIGS} at once, on disk",
        _recorded(0, 0.1),
        1.0,
        at_least=True,
        unit="of all",
    )
    report(
        f"samples of four devices at 2 Hz, {RIGS} rigs at once, on disk",
        _recorded(3, 0.5),
        1.0,
        at_least=True,
        unit="of all",
    )


def a_slow_bus() -> None:
    """RTU at 9,600 baud polled as fast as the poll plan says is honest: every poll answered, none late."""
    found = parse(MAP, "benchmark")
    pace = shortest_interval_s(found.blocks, BAUD)
    cable = Cable(BAUD)
    threading.Thread(target=lambda: asyncio.run(serve_rtu(cable.there, BAUD)), daemon=True).start()
    time.sleep(1.0)
    polls, answered, late = int(SECONDS / pace), 0, 0
    with ModbusLink(SerialAddress(cable.here, BAUD), found) as link:
        link.read()
        due = time.monotonic()
        for _ in range(polls):
            due += pace
            try:
                answered += link.read()["reading_c"] == 21.5
            except LinkDown:
                continue
            late += time.monotonic() > due
            time.sleep(max(0.0, due - time.monotonic()))
    report(
        f"polls answered at the honest pace of {pace * 1000:.0f} ms at {BAUD} baud",
        answered / polls,
        1.0,
        at_least=True,
        unit="of all",
    )
    report("of these, later than the next was due", late / polls, 0.01, unit="of all")
