"""A board that prints, over a pseudo-terminal: whole lines only, in their order, and what is wrong said in words."""

import os
import time

import pytest

from rellux.core.logs.lines import learn
from rellux.devices.modbus_link import LinkDown
from rellux.devices.text_link import TextAddress, TextLink

from .board import Board

HOW = learn([f"T={20 + i}.5 SP=65" for i in range(5)]).format


def heard(link, count, seconds=10.0):
    found, until = [], time.monotonic() + seconds
    while len(found) < count and time.monotonic() < until:
        if values := link.read():
            found.append(values)
    return found


def test_every_line_is_heard_once_in_its_order():
    board = Board(lambda n: f"T={n}.5 SP=65\r\n", 0.005)
    try:
        with TextLink(TextAddress(board.device), HOW, 0.005) as link:
            found = heard(link, 200)
        readings = [v["reading_c"] for v in found]
        assert readings == [readings[0] + k for k in range(200)]
        clocks = [v["clock_s"] for v in found]
        assert clocks == sorted(clocks) and len(set(clocks)) == 200
    finally:
        board.unplug()


def test_half_a_line_at_the_start_and_noise_between_are_not_read():
    """The port is opened in the middle of "T=163.2 SP=65": what comes of it is no 63.2 and no 3.2."""
    noise = {5: "boot\n", 6: "T=1\xff\x00 SP=65\n", 7: "T=4", 9: "x" * 9000 + "\n"}
    board = Board(lambda n: noise.get(n, "T=163.2 SP=65\n"))
    try:
        board.say(b"3.2 SP=65\n")
        with TextLink(TextAddress(board.device), HOW, 0.02) as link:
            assert {v["reading_c"] for v in heard(link, 40)} == {163.2}
    finally:
        board.unplug()


def test_silence_another_speed_and_an_unplugged_port_are_told_apart():
    clock = iter(range(1000)).__next__
    board = Board(lambda n: "", 1.0)
    try:
        with (
            TextLink(TextAddress(board.device), HOW, 1.0, clock) as link,
            pytest.raises(LinkDown, match="nothing has come"),
        ):
            heard(link, 1)
        board.line, board.every_s = (lambda n: "\xf8\x80\n" * 3), 0.01
        with TextLink(TextAddress(board.device), HOW, 1.0, clock) as link:
            with pytest.raises(LinkDown, match="is of another form than was learnt"):
                heard(link, 1)
            board.unplug()
            with pytest.raises(LinkDown, match="is gone"):
                heard(link, 1)
    finally:
        board.stopping.set()
    with pytest.raises(LinkDown, match="there is no port"), TextLink(TextAddress("/dev/nowhere"), HOW, 1.0):
        pass
    with pytest.raises(LinkDown), TextLink(TextAddress(os.devnull), HOW, 1.0):
        pass


def test_nothing_is_ever_sent():
    board = Board(lambda n: "T=20.5 SP=65\n")
    try:
        with TextLink(TextAddress(board.device), HOW, 0.02) as link:
            heard(link, 3)
            for send in (lambda: link.write("setpoint_c", 60.0), lambda: link.switch_off(1.0)):
                with pytest.raises(LinkDown, match="only listens"):
                    send()
        os.set_blocking(board.ours, False)
        with pytest.raises(BlockingIOError):
            os.read(board.ours, 100)
    finally:
        board.unplug()
