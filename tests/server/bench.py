"""A controller on a real socket with the recorder polling it."""

import asyncio
import threading
import time

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.plant.rig_models import network_for
from rellux.devices.stand_in import StandIn, StandInConfig, serve
from rellux.server.links.maps import map_of
from rellux.server.links.models import Link
from rellux.server.links.reaching import stand_in_name
from rellux.server.links.stand_ins import free_port
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs.recorder import Recorder


class Bench:
    """A stand-in controller served in a thread of its own, with the recorder polling it."""

    def __init__(self, rig: Rig, speed: float = 100.0, speaks: str = "stand_in") -> None:
        self.rig, self.port, self.speed = rig, free_port(), speed
        self.loop: asyncio.AbstractEventLoop | None = None
        self.link = Link.objects.create(
            rig=rig, stand_in=True, port=self.port, poll_s=0.05, speed=speed, register_map=speaks
        )
        self.recorder = Recorder()
        self.switch_on()

    def switch_on(self) -> None:
        purpose = purpose_of(self.rig)
        config = StandInConfig(
            network_for(kind_of(self.rig), purpose, 300),
            ControllerSettings(60, Mode.OFF, 2.0),
            21.0,
            self.speed,
            None,
            map_of(self.link),
        )
        self.stand_in, ready = StandIn(config), threading.Event()

        def run() -> None:
            self.loop = asyncio.new_event_loop()
            self.server = self.loop.run_until_complete(serve(self.stand_in, self.port, stand_in_name()))
            ready.set()
            self.loop.run_forever()
            self.loop.run_until_complete(self.server.shutdown())

        self.thread = threading.Thread(target=run, daemon=True)
        self.thread.start()
        ready.wait(10)

    def switch_off(self) -> None:
        assert self.loop
        self.loop.call_soon_threadsafe(self.loop.stop)
        self.thread.join(10)

    def stand_in_reading(self) -> float:
        """What the load is at now, °C, whoever looks."""
        time.sleep(0.05)
        return float(self.stand_in.shown()["reading_c"])

    def until(self, condition, seconds=60.0):
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            self.recorder.follow()
            value = condition()
            if value:
                return value
            time.sleep(0.05)
        raise AssertionError("it never happened")
