"""Listening to a board that prints its readings, to learn how it writes them."""

import time
from dataclasses import dataclass

import numpy as np
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from rellux.core.errors import refuse, refuse_all
from rellux.core.logs.guess import Guess, guess
from rellux.core.logs.lines import Learnt, learn
from rellux.core.logs.mapping import DECIMALS, DELIMITERS
from rellux.devices.file_link import sample_of
from rellux.devices.modbus_link import LinkDown
from rellux.devices.serial_ports import port_problems
from rellux.devices.text_link import LineReader, TextAddress
from rellux.server.api.endpoint import endpoint
from rellux.server.api.shapes import read, reply

from .place import WIRED, others_than

LISTEN_S, ENOUGH = 8.0, 12
"""How long is listened for at most, s, and after how many lines no longer."""
SHOWN = 12


@dataclass(frozen=True)
class ListenInput:
    device: str
    baud: int = 115_200


@dataclass(frozen=True)
class Heard:
    """What came, the newest lines as they are, how they seem to be written, and how often they come."""

    lines: list[str]
    learnt: Learnt
    interval_s: float


class Listen(APIView):
    @endpoint("listenToBoard", Heard, ListenInput)
    def post(self, request: Request) -> Response:
        """Listen for some seconds. Nothing is sent; opening the port may reset the board all the same."""
        given = read(request, ListenInput)
        refuse_all(port_problems(given.device, given.baud))
        device = given.device.strip()
        for user in others_than(None, way__in=WIRED, device=device):
            raise refuse(
                "device", f"{user.rig.name} is linked by this port, and Rellux has it open", "remove that link first"
            )
        try:
            came = _listened(TextAddress(device, given.baud))
        except LinkDown as down:
            raise refuse("device", str(down), "a port that is there and free") from down
        if not came:
            raise refuse("device", "nothing has come", "a board that prints by itself, at this speed")
        lines = [line for _, line in came]
        times = np.array([at for at, _ in came])
        interval = float(np.median(np.diff(times))) if len(times) > 2 else 1.0
        return reply(Heard(lines[-SHOWN:], learn(lines), min(max(round(interval, 2), 0.05), 60.0)))


@dataclass(frozen=True)
class LogInput:
    """The path of a log on this machine; how it is written, where that has been corrected by hand."""

    path: str
    delimiter: str = ""
    decimal: str = ""
    skip: int | None = None


class LookAtLog(APIView):
    @endpoint("lookAtLog", Guess, LogInput)
    def post(self, request: Request) -> Response:
        """How a log that another program is writing seems to be written. It is only read."""
        given = read(request, LogInput)
        for name, choices in (("delimiter", DELIMITERS), ("decimal", DECIMALS)):
            if getattr(given, name) and getattr(given, name) not in choices:
                raise refuse(name, f"{getattr(given, name)!r} is unknown", ", ".join(choices.values()))
        return reply(guess(sample_of(given.path), given.delimiter, given.decimal, given.skip))


def _listened(address: TextAddress) -> list[tuple[float, str]]:
    """Lines with the moments at which they came, s."""
    came: list[tuple[float, str]] = []
    until = time.monotonic() + LISTEN_S
    with LineReader(address) as reader:
        while time.monotonic() < until and len(came) < ENOUGH:
            lines = reader.lines()
            came += [(time.monotonic(), line) for line in lines]
    return came
