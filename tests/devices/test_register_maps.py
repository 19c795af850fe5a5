"""Register maps: codings both ways, files, poll plans, stand-ins for any map over a real socket, and finding out."""

import random
import struct
import time
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rellux.core.errors import Refused
from rellux.devices.finding import Typed, guess, moving, scan
from rellux.devices.map_file import parse, plain
from rellux.devices.modbus_link import Address, LinkDown, ModbusLink
from rellux.devices.poll_plan import Block, blocks_of, read_s, shortest_interval_s, silence_s
from rellux.devices.register_map import STAND_IN
from rellux.devices.registers import ORDERS, Coding, Register, RegisterTable, place_of
from tests.devices.test_modbus import Served

FLOATS = {
    "title": "Float oven controller",
    "gap": 2,
    "link_loss": "Output off after 30 s without a read.",
    "registers": [
        {"name": "reading_c", "address": "30101", "coding": "float32", "order": "CDAB"},
        {"name": "output", "address": "30105", "coding": "uint16", "scale": 100},
        {"name": "switch", "address": "10003"},
        {"name": "sensor_fault", "address": "30110", "coding": "bit", "bit": 3},
        {"name": "alarm_1", "address": "30110", "coding": "bit", "bit": 0},
        {
            "name": "setpoint_c",
            "address": "40201",
            "coding": "int32",
            "order": "DCBA",
            "scale": 1000,
            "writable": True,
            "high": 300,
        },
        {"name": "mode", "address": "40210", "choices": ["off", "on_off", "pid"], "codes": [0, 4, 9], "writable": True},
    ],
    "safe_off": {"writes": [["mode", "off"]], "off_when": [["mode", "off"]]},
}
FAHRENHEIT = {
    "title": "Old panel controller, whole degrees Fahrenheit",
    "registers": [
        {"name": "reading_c", "address": 0, "unit": "F", "no_value": [32767, -32768]},
        {"name": "setpoint_c", "address": 1, "unit": "F", "writable": True},
        {"name": "hysteresis_c", "address": 2, "unit": "F", "writable": True},
        {"name": "mode", "address": 3, "choices": ["off", "on_off", "pid"], "writable": True},
        {"name": "output", "address": 4},
    ],
    "safe_off": {"writes": [["mode", "off"]], "off_when": [["mode", "off"], ["output", 0]]},
}
POINT = {
    "title": "Controller that says where its point is",
    "registers": [
        {"name": "reading_c", "address": 1000, "decimals_from": "decimals"},
        {"name": "decimals", "address": 1004},
        {"name": "setpoint_c", "address": 1001, "decimals_from": "decimals", "writable": True},
        {"name": "mode", "address": 1003, "choices": ["off", "on_off", "pid"], "writable": True},
    ],
    "safe_off": {"writes": [["mode", "off"]], "off_when": [["mode", "off"]]},
}


# ABCD of 3.14159274 is 40 49 0F DB (IEEE 754); the four orders as makers' manuals name them
@pytest.mark.parametrize(
    ("order", "words"),
    [("ABCD", [0x4049, 0x0FDB]), ("CDAB", [0x0FDB, 0x4049]), ("BADC", [0x4940, 0xDB0F]), ("DCBA", [0xDB0F, 0x4940])],
)
def test_the_four_orders_of_a_32_bit_value(order, words):
    register = Register("reading_c", 0, coding=Coding.FLOAT32, order=order)
    assert register.decode(words) == pytest.approx(3.14159274) and register.encode(3.14159274) == words


@given(
    st.sampled_from(list(Coding)),
    st.sampled_from(ORDERS),
    st.sampled_from([1.0, 10.0, 100.0]),
    st.sampled_from("CF"),
    st.data(),
)
def test_a_value_survives_its_registers(coding, order, scale, unit, data):
    low, high = {
        Coding.INT16: (-3e2, 3e2), Coding.UINT16: (0, 6e2), Coding.INT32: (-2e6, 2e6), Coding.UINT32: (0, 4e6),
        Coding.FLOAT32: (-1e4, 1e4), Coding.BIT: (0, 1),
    }[coding]  # fmt: skip
    if coding is Coding.BIT:
        register, value = Register("switch", 0, coding=coding), float(data.draw(st.integers(0, 1)))
    else:
        register = Register("offset_c", 0, scale, coding=coding, order=order, unit=unit)
        value = data.draw(st.floats(low, high)) / 1.8
    assert register.decode(register.encode(value)) == pytest.approx(value, abs=0.51 / scale + 1e-3)


def test_fahrenheit_differences_have_no_32_and_codes_can_mean_nothing():
    shown, band = (Register(n, 0, unit="F", no_value=(32767,)) for n in ("reading_c", "hysteresis_c"))
    assert shown.decode([212]) == 100.0 and band.decode([18]) == 10.0
    assert shown.encode(100.0) == [212] and band.encode(10.0) == [18]
    assert shown.decode([0x7FFF]) is None
    assert (
        Register("reading_c", 0, coding=Coding.FLOAT32).decode(
            list(struct.unpack(">HH", struct.pack(">f", float("nan"))))
        )
        is None
    )
    for coding, code in (
        (Coding.INT16, 65_535),
        (Coding.UINT16, -1),
        (Coding.INT32, -1),
    ):  # the same word, however it is written
        nobody = Register("reading_c", 0, coding=coding, no_value=(code,))
        assert nobody.decode([0xFFFF] * nobody.words) is None and nobody.nothing == [0xFFFF] * nobody.words
    steps = [
        Register("setpoint_c", 0, 10.0),
        Register("setpoint_c", 0, decimals_from="decimals"),
        Register("setpoint_c", 0, -1.0),
    ]
    assert [r.step for r in steps] == [0.1, 0.1, 1.0]
    with pytest.raises(Refused, match="beyond what this controller takes"):
        Register("setpoint_c", 0, high=300.0).encode(301.0)


# Modbus application protocol V1.1b3, 4.4: register 40001 is addressed as 0
@pytest.mark.parametrize(
    ("notation", "place"),
    [
        ("40001", (RegisterTable.HOLDING, 0)),
        ("30256", (RegisterTable.INPUT, 255)),
        ("00001", (RegisterTable.COIL, 0)),
        ("465536", (RegisterTable.HOLDING, 65535)),
    ],
)
def test_both_notations_of_an_address(notation, place):
    assert place_of(notation) == place
    assert Register("reading_c", place[1], table=place[0]).notation == notation


@pytest.mark.parametrize("file", [FLOATS, FAHRENHEIT, POINT, plain(STAND_IN)])
def test_a_map_comes_back_from_its_file(file):
    found = parse(file, "tried")
    assert parse(plain(found), "tried") == found


def test_bad_files_name_row_field_and_what_is_accepted():
    bad = {
        "title": "",
        "surprise": 1,
        "gap": 500,
        "registers": [
            {"name": "reading_c", "address": "50001"},
            {"name": "nonsense", "address": -1},
            {"name": "output", "address": 7, "coding": "float64"},
            {"name": "setpoint_c", "address": 9, "table": "input", "writable": True},
            {"name": "switch", "address": 9, "scale": 0},
            {"name": "mode", "address": 11, "choices": ["off", "on"], "codes": [1]},
            {"name": "air_c", "address": 12, "decimals_from": "decimals"},
            {"name": "load_c", "address": 12},
        ],
    }
    with pytest.raises(Refused) as refused:
        parse(bad, "bad")
    fields = {p.field for p in refused.value.problems}
    assert fields >= {
        "title", "surprise", "gap", "registers[0].address", "registers[1].name", "registers[1].address", "registers[2].coding",
        "registers[3].writable", "registers[4].scale", "registers[5].codes", "registers[6].decimals_from", "registers[7].address",
    }  # fmt: skip
    with pytest.raises(Refused, match="needs one"):
        parse({"title": "x", "registers": [{"name": "reading_c", "address": 0, "writable": True}]}, "x")


@given(st.lists(st.integers(0, 400), min_size=1, max_size=60, unique=True), st.integers(0, 20))
def test_blocks_hold_every_register_within_the_gap_and_the_protocol(addresses, gap):
    blocks = blocks_of([Register("reading_c", a) for a in addresses], gap)
    held = {a for b in blocks for a in range(b.start, b.start + b.count)}
    assert set(addresses) <= held and all(b.count <= 125 for b in blocks)
    for b in blocks:
        inside = sorted(a for a in addresses if b.start <= a < b.start + b.count)
        assert inside[0] == b.start and inside[-1] == b.start + b.count - 1
        assert all(after - before - 1 <= gap for before, after in pairwise(inside))


def test_a_serial_bus_has_a_shortest_interval():
    # Modbus over serial line V1.02: 3.5 characters of 11 bits at 9600 baud are 4.01 ms, 1.75 ms above 19 200
    assert silence_s(9600) == pytest.approx(0.00401, abs=1e-5) and silence_s(38_400) == 0.00175
    ten = Block(RegisterTable.HOLDING, 0, 10)
    assert read_s(ten, 9600, 0.0) - 2 * silence_s(9600) == pytest.approx(0.038, abs=0.0005)  # handbook: 38 ms
    once = shortest_interval_s([ten, ten], 9600)
    assert once == pytest.approx(1.25 * 2 * read_s(ten, 9600))
    assert shortest_interval_s([ten, ten], 9600, busy=0.75) == pytest.approx(4 * once)
    assert shortest_interval_s([ten], 9600, busy=1.0) == np.inf


@pytest.fixture(params=[FLOATS, FAHRENHEIT, POINT], ids=["floats", "fahrenheit", "point"])
def served(request):
    served = Served(100, parse(request.param, "tried"))
    yield served
    served.stop()


def test_a_stand_in_speaks_any_map(served):
    """The real driver over a real socket: reads, writes with read-back, and the safe-off of that map."""
    with served.link() as link:
        assert link.read()["reading_c"] == pytest.approx(21.0, abs=0.6)
        assert link.write("setpoint_c", 80.0) == pytest.approx(80.0, abs=0.3)
        assert link.write("mode", "on_off") == "on_off"
        time.sleep(0.3)
        values = link.read()
        assert values["mode"] == "on_off" and values["setpoint_c"] == pytest.approx(80.0, abs=0.3)
        if served.map.title.startswith("Float"):
            with pytest.raises(Refused, match="takes"):
                link.write("setpoint_c", 400.0)
            assert values["switch"] == 1.0 and values["sensor_fault"] == 0.0
        assert link.switch_off(2.0)["mode"] == "off"


def test_a_scan_finds_what_is_there_and_writes_nothing(served):
    tables = {r.table for r in served.map.registers} - {RegisterTable.COIL, RegisterTable.DISCRETE}
    with served.link() as link:
        for table in tables:
            there = {r.address + i for r in served.map.registers if r.table is table for i in range(r.words)}
            start = max(0, min(there) - 20)
            found = scan(link.words_of, table, start, 60, pause=lambda _s: None)
            assert there <= set(found) and min(found) >= min(there)
        assert link.read()["mode"] == "off"


def hidden(rng):
    """A register somewhere among others that hold noise, and what a display shows of it."""
    coding = rng.choice([Coding.INT16, Coding.INT16, Coding.UINT16, Coding.FLOAT32, Coding.FLOAT32, Coding.INT32])
    decimals = 0 if coding is Coding.FLOAT32 else rng.choice([0, 1, 1, 2])
    order = rng.choice(ORDERS) if coding in (Coding.FLOAT32, Coding.INT32) else "ABCD"
    register = Register("reading_c", rng.randrange(2, 58), 10.0**decimals, coding=coding, order=order)
    noise = {a: rng.choice([0, 1, rng.randrange(3000), rng.randrange(65536)]) for a in range(64)}

    def snapshot(celsius):
        words = {a: w if rng.random() < 0.7 else (w + rng.randrange(1, 9)) % 65536 for a, w in noise.items()}
        shown = round(celsius, min(decimals, 1) if coding is not Coding.FLOAT32 else 1)
        words.update({register.address + i: w for i, w in enumerate(register.encode(celsius))})
        return Typed(f"{shown:.{0 if decimals == 0 and coding is not Coding.FLOAT32 else 1}f}", words)

    return register, snapshot


@pytest.mark.parametrize("seed", range(20))
def test_a_hidden_register_is_found_from_three_typed_values_or_it_is_said_to_be_unsure(seed):
    """The judge knows the map: what is called sure must be it, and the truth is always among what fits."""
    rng = random.Random(seed)
    register, snapshot = hidden(rng)
    typed = [snapshot(c) for c in (rng.uniform(20, 60), rng.uniform(80, 160), rng.uniform(170, 320))]
    found = guess(typed)
    way = (register.address, register.order, register.scale, register.words)
    ways = {(c.address, c.order, c.scale, c.words) for c in found.candidates}
    assert way in ways
    assert found.sure == (ways == {way})
    assert len(guess(typed[:1]).candidates) >= len(found.candidates)


def test_most_hidden_registers_are_found():
    sure = 0
    for seed in range(20):
        rng = random.Random(seed)
        _, snapshot = hidden(rng)
        sure += guess([snapshot(c) for c in (rng.uniform(20, 60), rng.uniform(80, 160), rng.uniform(170, 320))]).sure
    assert sure >= 16


def test_a_word_of_zeros_beside_it_leaves_its_length_open():
    typed = [Typed(f"{v / 10:.1f}", {2: v, 3: 0, 4: 17}) for v in (205, 611, 902)]
    found = guess(typed)
    assert found.one_place and not found.sure and {c.words for c in found.candidates} == {1, 2}
    assert guess([Typed("20.5", {2: 205, 3: 5})]).sure and not guess([Typed("5", {2: 5, 7: 5, 9: 5})]).one_place


def test_what_moves_and_what_does_not():
    assert moving([{1: 5, 2: 7}, {1: 6, 2: 7}, {1: 6, 2: 7, 3: 1}]) == {1}
    assert guess([]).candidates == () and not guess([]).sure


def test_a_link_that_is_lost_while_scanning_is_told():
    def read(block):
        raise LinkDown("no answer from 127.0.0.1:1, unit 1")

    with pytest.raises(LinkDown):
        scan(read, RegisterTable.HOLDING, 0, 10, pause=lambda _s: None)


def test_another_map_than_the_devices_is_refused_not_misread():
    served = Served(100, parse(POINT, "tried"))
    try:
        with (
            ModbusLink(Address("127.0.0.1", served.port), STAND_IN, timeout_s=0.5) as link,
            pytest.raises(LinkDown, match="refused to read"),
        ):
            link.read()
    finally:
        served.stop()
