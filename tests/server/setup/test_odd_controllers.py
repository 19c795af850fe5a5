"""Controllers that do not keep still: a clock that jumps, decimals changed while they are being read, an answer that stays away.
Nothing false is recorded, and what happened is said."""

import numpy as np
import pytest
from pymodbus.server import ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from rellux.devices.map_file import parse
from rellux.devices.modbus_link import Address, LinkDown, ModbusLink
from rellux.server.links.stand_ins import free_port
from rellux.server.runs import store
from rellux.server.runs.models import Run
from tests.devices.test_serial import serving

POINT = parse(
    {"title": "Point", "registers": [
        {"name": "decimals", "address": 0},
        {"name": "reading_c", "address": 40, "decimals_from": "decimals"},
        {"name": "second_c", "address": 41, "decimals_from": "decimals"},
    ]},
    "point",
)  # fmt: skip


@pytest.fixture
def started(api, rig, bench):
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    bench.until(lambda: Run.objects.get(pk=run).samples > 20)
    return run


def gaps(api, rig, run):
    return [e["text"] for e in api.ok("GET", f"rigs/{rig}/runs/{run}")["events"] if e["kind"] == "gap"]


@pytest.mark.django_db(transaction=True)
def test_a_clock_that_goes_back_ends_the_run_and_another_can_begin(api, rig, bench, started):
    bench.switch_off()
    bench.switch_on()  # as after a power cut: it counts from nothing
    bench.until(lambda: Run.objects.get(pk=started).status == "interrupted")
    assert any("its clock went back" in text for text in gaps(api, rig, started))
    times = store.read(Run.objects.get(pk=started)).time_s
    assert (np.diff(times) > 0).all()
    again = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    bench.until(lambda: Run.objects.get(pk=again).samples > 10)


@pytest.mark.django_db(transaction=True)
def test_a_clock_that_jumps_ahead_is_a_gap_that_says_so(api, rig, bench, started):
    bench.stand_in.skip(3600.0 * bench.speed)
    told = bench.until(lambda: [g for g in gaps(api, rig, started) if "its clock jumped ahead by" in g and "3600" in g])
    assert len(told) == 1  # on a busy machine a poll may be late besides
    bench.until(
        lambda: np.diff(store.read(Run.objects.get(pk=started)).time_s).max() > 3000 * bench.speed
    )  # nothing is filled in


@pytest.mark.django_db(transaction=True)
def test_an_answer_that_stays_away_is_one_gap(api, rig, bench, started):
    bench.switch_off()
    bench.until(lambda: any("no answer" in g for g in gaps(api, rig, started)))
    bench.recorder.stop()
    assert sum("no answer" in g for g in gaps(api, rig, started)) == 1


@pytest.mark.parametrize("changes", [1, 2, 99])
def test_decimals_changed_while_they_are_read_make_no_other_number(changes):
    """412.5 ° shown with one decimal or none: whoever turns it at the keys does so between two of our questions."""
    left, decimals = [changes], [1]

    async def turned(_code, start, address, _count, registers, _new):
        if address == 0:  # the point is asked for
            registers[0 - start] = decimals[0]
            if left[0]:
                left[0] -= 1
                decimals[0] = 1 - decimals[0]
        for at in (40, 41):
            registers[at - start] = round(412.5 * 10 ** decimals[0])

    port = free_port()
    device = SimDevice(1, simdata=[SimData(0, count=42, values=0, datatype=DataType.REGISTERS)], action=turned)
    stop = serving(lambda: ModbusTcpServer(device, address=("127.0.0.1", port)))
    try:
        with ModbusLink(Address("127.0.0.1", port), POINT, timeout_s=1.0) as link:
            for _ in range(6):
                try:
                    values = link.read()
                except LinkDown as down:
                    assert changes == 99 and "changes its decimals" in str(down)
                    continue
                assert values["reading_c"] == values["second_c"] == pytest.approx(412.5, abs=0.51)
    finally:
        stop()
