"""A board that takes commands as lines: sent by template, confirmed by what it prints or answers, switched off, and never believed
without its own word."""

import threading
from dataclasses import replace

import pytest

from rellux.core.errors import Refused
from rellux.core.logs.lines import LineFormat, LineKind, values_of
from rellux.devices.cable import Cable
from rellux.devices.modbus_link import LinkDown
from rellux.devices.stand_in_board import Board, printed
from rellux.devices.text_commands import TextCommand, TextCommands, TextStep, check, text_map
from rellux.devices.text_link import TextAddress, TextLink

ROLES = {"reading": "T", "setpoint": "SP", "output": "OUT"}
HOW = LineFormat(LineKind.NAMED, ("T", "SP", "OUT"), ROLES)
SETPOINT = TextCommand("setpoint_c", "SP {value}", low=20.0, high=80.0)
MODE = TextCommand("mode", "RUN {value}", "RUN?", "RUN={value}", words={"off": "0", "pid": "2"})
GAIN = TextCommand("proportional_band_c", "PB {value}", "PB?", "PB = {value} K", decimals=2)
OFF = (TextStep("mode", "off"),)
ALL = TextCommands((SETPOINT, MODE, GAIN), OFF)
TUNE = TextCommand("auto_tune", "TUNE {value}", "TUNE?", "TUNE={value}", words={"off": "0", "on": "1"})
TUNES_ITSELF = TextCommands((*ALL.rows, TUNE), (TextStep("auto_tune", "off"), *OFF))


class Oven:
    """What a board holds; ``deaf``: it takes nothing, ``stuck``: its output stays on, ``resting``: it is 0 for now."""

    def __init__(self):
        self.values = {"reading_c": 40.0, "setpoint_c": 60.0, "mode": "pid", "proportional_band_c": 12.0}
        self.deaf = self.stuck = self.resting = False

    def read(self):
        on = self.stuck or self.values["mode"] != "off"
        return {**self.values, "output": 35.0 if on and not self.resting else 0.0}

    def take(self, name, value):
        if not self.deaf:
            self.values[name] = value


@pytest.fixture
def oven():
    oven, cable = Oven(), Cable(115_200)
    board = Board(cable.there, HOW, 0.05, oven.read, oven.take, TUNES_ITSELF)
    oven.link = lambda commands=ALL: TextLink(TextAddress(cable.here), HOW, 0.05, commands=commands)
    oven.cable, oven.told = cable, bytearray()
    cable.overhear = lambda data, up: None if up else oven.told.extend(data)
    yield oven
    board.stop()
    cable.close()


def test_commands_are_sent_by_template_and_confirmed_by_the_board(oven):
    with oven.link() as link:
        assert link.write("setpoint_c", 71.25) == pytest.approx(71.2)  # one decimal is sent, and held
        assert link.write("mode", "off") == "off" and link.write("mode", "pid") == "pid"
        assert link.write("proportional_band_c", 7.125) == pytest.approx(7.12)
        assert link.snapshot() == pytest.approx({
            "reading_c": 40.0, "setpoint_c": 71.2, "output": 35.0, "mode": "pid", "proportional_band_c": 7.12,
            "clock_s": link.snapshot()["clock_s"],
        }, abs=2.0)  # fmt: skip
        off = link.switch_off(2.0)
        assert (off["mode"], off["output"]) == ("off", 0.0) and oven.values["mode"] == "off"
    assert b"SP 71.2\nRUN 0\nRUN?\n" in bytes(oven.told) and b"PB 7.12\n" in bytes(oven.told)


@pytest.mark.parametrize("unit", ["C", "F", "K"])
def test_a_board_is_told_and_believed_in_the_unit_it_prints(unit):
    """By hand: 70 °C is 158 °F or 343.15 K, a band of 5 K is 9 °F. Printed with one decimal, the band with two."""
    how, oven, cable = replace(HOW, unit=unit), Oven(), Cable(115_200)
    board, told = Board(cable.there, how, 0.05, oven.read, oven.take, ALL), bytearray()
    cable.overhear = lambda data, up: None if up else told.extend(data)
    try:
        with TextLink(TextAddress(cable.here), how, 0.05, commands=ALL) as link:
            assert link.write("setpoint_c", 70.0) == pytest.approx(70.0, abs=0.06) == oven.values["setpoint_c"]
            assert link.write("proportional_band_c", 5.0) == pytest.approx(5.0, abs=0.006)
            with pytest.raises(Refused, match="beyond"):
                link.write("setpoint_c", 80.1)  # 176.2 °F
            assert link.switch_off(2.0)["mode"] == "off"
    finally:
        board.stop()
        cable.close()
    said = {"C": (b"SP 70.0\n", b"PB 5.00\n"), "F": (b"SP 158.0\n", b"PB 9.00\n"), "K": (b"SP 343.1\n", b"PB 5.00\n")}
    assert all(line in bytes(told) for line in said[unit])


def test_what_is_asked_for_comes_with_the_readings(oven):
    with oven.link() as link:
        seen = {}
        for _ in range(200):
            seen.update(link.read() or {})
            if {"mode", "proportional_band_c"} <= set(seen):
                break
        assert seen["mode"] == "pid" and seen["proportional_band_c"] == 12.0


def test_a_board_that_does_not_do_it_is_never_said_to_have_done_it(oven):
    oven.deaf = True
    with oven.link() as link:
        assert link.write("setpoint_c", 75.0) == 60.0 and link.write("mode", "off") == "pid"
        with pytest.raises(LinkDown, match="it still holds mode pid"):
            link.switch_off(0.6)
        oven.resting = True  # above its set-point it prints 0, and would heat again
        with pytest.raises(LinkDown, match="it still holds mode pid"):
            link.switch_off(0.6)
        oven.resting = False
        oven.deaf, oven.stuck = False, True  # it says "off", and heats
        with pytest.raises(LinkDown, match="it still prints output 35"):
            link.switch_off(0.6)
        oven.cable.overhear = lambda data, up: None
    with oven.link(TextCommands((TextCommand("offset_c", "OF {value}", "OF?", "OF={value}"), MODE), OFF)) as link:
        with pytest.raises(LinkDown, match="does not answer 'OF\\?'"):
            link.write("offset_c", 1.0)
        with pytest.raises(LinkDown, match="only listens"):
            link.write("setpoint_c", 50.0)


def test_a_board_switched_off_by_its_set_point_is_off_only_once_it_prints_that_too(oven):
    cold = TextCommands((TextCommand("setpoint_c", "SP {value}"),), (TextStep("setpoint_c", 20.0),))
    oven.resting = oven.deaf = True
    with oven.link(cold) as link, pytest.raises(LinkDown, match=r"it still prints output 0\.0, setpoint_c 60"):
        link.switch_off(0.6)


def test_nothing_beyond_its_limits_or_words_is_sent(oven):
    with oven.link() as link:
        for name, value in (("setpoint_c", 80.1), ("setpoint_c", 19.9), ("mode", "on_off")):
            with pytest.raises(Refused):
                link.write(name, value)
        assert link.write("setpoint_c", 80.0) == 80.0
    assert b"80.1" not in oven.told and b"19.9" not in oven.told


def test_a_reading_that_comes_while_waiting_is_not_lost(oven):
    with oven.link() as link:
        count, stop = [0], threading.Event()
        before = link.read()
        while before is None:
            before = link.read()
        for _ in range(5):
            link.write("proportional_band_c", 9.0)
        clocks = []
        while len(clocks) < 5:
            if (values := link.read()) is not None:
                clocks.append(values["clock_s"])
        stop.set()
        assert clocks == sorted(clocks) and clocks[0] > before["clock_s"] and not count[0]


@pytest.mark.parametrize(
    ("rows", "off", "field"),
    [
        ((TextCommand("setpoint_c", "SP"), MODE), OFF, "commands.rows[0].send"),
        ((TextCommand("setpoint_c", "SP {value} {value}"), MODE), OFF, "commands.rows[0].send"),
        ((TextCommand("setpoint_c", "SP {value}\nRUN 2"), MODE), OFF, "commands.rows[0].send"),
        ((TextCommand("warp", "W {value}"), MODE), OFF, "commands.rows[0].name"),
        ((MODE, MODE), OFF, "commands.rows[1].name"),
        ((TextCommand("offset_c", "OF {value}"), MODE), OFF, "commands.rows[0].ask"),
        ((TextCommand("offset_c", "OF {value}", "OF?"), MODE), OFF, "commands.rows[0].answer"),
        ((TextCommand("mode", "RUN {value}", "RUN?", "RUN={value}"),), OFF, "commands.rows[0].words"),
        ((TextCommand("mode", "R {value}", "R?", "R={value}", words={"off": "0", "pid": "0"}),), OFF, "commands.rows[0].words"),
        ((TextCommand("setpoint_c", "SP {value}", low=80.0, high=20.0), MODE), OFF, "commands.rows[0].high"),
        ((SETPOINT,), (), "commands.safe_off"),
        ((SETPOINT,), OFF, "commands.safe_off"),
        ((SETPOINT,), (TextStep("setpoint_c", 500.0),), "commands.safe_off"),
        ((MODE,), (TextStep("mode", "on_off"),), "commands.safe_off"),
    ],
)  # fmt: skip
def test_commands_that_cannot_be_are_refused(rows, off, field):
    with pytest.raises(Refused) as told:
        check(HOW, TextCommands(rows, off))
    assert told.value.problems[0].field == field
    check(HOW, ALL)


def test_a_board_that_prints_neither_output_nor_switch_takes_nothing():
    """Nothing would say that it is off."""
    blind = LineFormat(LineKind.NAMED, ("T", "SP"), {"reading": "T", "setpoint": "SP"})
    with pytest.raises(Refused, match="neither its output nor its switch"):
        check(blind, ALL)
    assert text_map(HOW, None).safe_off is None and text_map(HOW, ALL).safe_off.off_when == (("output", 0.0),)


@pytest.mark.parametrize("kind", list(LineKind))
def test_a_simulated_board_prints_what_is_read_back(kind):
    keys = ("1", "2", "3") if kind is LineKind.POSITION else ("T", "SP", "OUT")
    how = LineFormat(
        kind, keys, dict(zip(ROLES, keys, strict=True)), "F", "byte", ";", "," if kind is LineKind.POSITION else "."
    )
    back = values_of(printed(how, {"reading_c": 41.25, "setpoint_c": -7.0, "output": 20.0}), how)
    assert back == pytest.approx({"reading_c": 41.25, "setpoint_c": -7.0, "output": 20.0}, abs=0.06)


def test_a_board_that_tunes_itself_is_stopped_by_whatever_ends_the_heating(oven):
    with pytest.raises(Refused, match="output rests half of the time"):
        check(HOW, TextCommands((SETPOINT, MODE, TUNE), OFF))
    with pytest.raises(Refused, match="the board does not print it"):
        check(HOW, TextCommands((SETPOINT, MODE, replace(TUNE, ask="", answer="")), OFF))
    check(HOW, TUNES_ITSELF)
    oven.values["auto_tune"] = "off"
    with oven.link(TUNES_ITSELF) as link:
        assert link.write("auto_tune", "on") == "on" and link.snapshot()["auto_tune"] == "on"
        oven.values["proportional_band_c"] = 9.5  # what it found
        assert link.snapshot()["proportional_band_c"] == 9.5
        assert link.switch_off(2.0)["auto_tune"] == "off" and oven.values["mode"] == "off"
