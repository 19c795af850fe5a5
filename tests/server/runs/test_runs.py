"""Runs: chunks and windows, recording over a real Modbus link, tuning, and what a kill leaves behind."""

import numpy as np
import pytest
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from rellux.core.control import keys
from rellux.core.runs.series import Series
from rellux.devices.modbus_link import Address, ModbusLink
from rellux.devices.register_map import STAND_IN
from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.link_recorder import Between
from rellux.server.runs.models import Run
from rellux.server.runs.recorder import Recorder


def new_run(rig_slug, **changed):
    defaults = {"name": "r", "source": "csv", "status": "finished", "started_at": timezone.now()}
    return Run.objects.create(rig=Rig.objects.get(slug=rig_slug), **{**defaults, **changed})


def series(n, seed=0):
    rng = np.random.default_rng(seed)
    t = np.cumsum(rng.uniform(0.5, 1.5, n))
    return Series(
        t,
        np.full(n, 60.0),
        20 + rng.uniform(0, 40, n),
        rng.uniform(0, 100, n),
        (rng.uniform(size=n) > 0.5).astype(float),
    )


def test_samples_come_back_as_they_went_in(rig):
    run, given_ = new_run(rig), series(70_000)
    store.append(run, given_)
    back = store.read(run)
    assert np.array_equal(back.time_s, given_.time_s)
    assert np.allclose(back.reading_c, given_.reading_c, atol=1e-5)
    assert run.chunks.count() == 2 and run.samples == 70_000


def test_merging_small_chunks_changes_nothing(rig):
    run, whole = new_run(rig), series(900)
    for i in range(0, 900, 90):
        store.append(run, Series(*(c[i : i + 90] for c in whole.columns)))
    before = store.read(run)
    store.merge(run)
    assert run.chunks.count() == 1
    assert all(np.array_equal(a, b) for a, b in zip(before.columns, store.read(run).columns, strict=True))


@pytest.mark.django_db(transaction=True)
@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.floats(0, 0.9), st.floats(0.02, 1), st.integers(20, 900))
def test_a_window_keeps_every_extreme(rig_run, share, width, points):
    run, whole = rig_run
    start = share * whole.time_s[-1]
    end = min(start + width * whole.time_s[-1], whole.time_s[-1])
    found = store.window(run, start, end, points)
    inside = whole.between(found["time_s"][0], end) if len(found["time_s"]) else whole.between(0, -1)
    assert len(found["time_s"]) <= points
    if len(inside) > store.BUCKET:
        assert found["reading_c_high"].max() >= inside.reading_c[: -store.BUCKET].max() - 1e-4
        assert found["reading_c_low"].min() <= inside.reading_c[: -store.BUCKET].min() + 1e-4


@pytest.fixture
def rig_run(transactional_db):
    rig = Rig.objects.create(
        slug="x",
        name="x",
        kind="oven",
        working_c=100,
        highest_c=120,
        highest_reason="x",
        supply="single_phase",
        supply_voltage_v=230,
        heater_power_w=500,
        heater_voltage_v=230,
        created_at=timezone.now(),
    )
    run, whole = new_run("x"), series(200_000, 5)
    assert run.rig == rig
    store.append(run, whole)
    return run, whole


@pytest.mark.django_db(transaction=True)
def test_the_whole_loop_over_modbus(api, rig, revision, bench):
    """Record a heat-up over the wire, find the process, accept a tuning, send it, and see the controller hold it."""
    api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"hysteresis_c": 2.0}})
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")

    def write(values):
        bench.recorder.follow()
        return api.ok("POST", f"rigs/{rig}/link/write", {"values": values, "window": "window-one"})

    on = {"values": {"mode": "on_off"}, "window": "window-one"}
    assert api.refused("POST", f"rigs/{rig}/link/write", on)["field"] == "armed"
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": "window-one"})
    beyond = api.refused("POST", f"rigs/{rig}/link/write", {"values": {"setpoint_c": 67.5}, "window": "window-one"})
    assert beyond["field"] == "setpoint_c" and "66 °C" in beyond["accepted"]

    run = api.ok("POST", f"rigs/{rig}/runs", {"name": "Heat-up"})["id"]
    assert "already" in api.refused("POST", f"rigs/{rig}/runs", {})["reason"]
    write({"setpoint_c": 60.0, "mode": "on_off"})
    bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["length_s"] > 2400, 60)
    api.ok("POST", f"rigs/{rig}/runs/{run}/stop", {})
    write({"mode": "off"})

    metrics = api.ok("GET", f"rigs/{rig}/runs/{run}/metrics")
    assert metrics["setpoint_c"] == 60.0
    names = {f["name"]: f["value"] for f in metrics["figures"]}
    assert names["overshoot"] > 1 and names["switchings"] >= 3

    tuned = api.ok("POST", f"rigs/{rig}/tuning/identify", {"run": run})
    # the stand-in's walls go on taking up heat after this run's end: 93.6 °C at full power is where it would come to at last
    assert tuned["identified"]["verdict"] in ("supported", "slope_only")
    gain = tuned["identified"]["figures"][0]
    near = gain["low"] < 0.94 and gain["high"] > 0.8 and gain["value"] == pytest.approx(0.936, rel=0.3)
    assert near, tuned["identified"]["verdict_reason"]
    api.ok("POST", f"rigs/{rig}/tuning/accept", {"revision": revision(), "candidate": "simc"})
    link = api.ok("GET", f"rigs/{rig}/link")
    names = {d["name"] for d in link["differences"]}
    assert "integral_time_s" in names  # the band may happen to be what the controller has already
    after = write({})
    assert after["differences"] == []
    book = [e["title"] for e in api.ok("GET", f"rigs/{rig}/book")]
    assert book[:2] == ["Written to the controller", "Tuning accepted: SIMC, calm"]


@pytest.mark.django_db(transaction=True)
def test_a_dropped_link_marks_the_gap_and_goes_on(api, rig, bench):
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > 20)
    bench.switch_off()
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "offline")
    problem = api.ok("GET", f"rigs/{rig}")["live"]["message"]
    assert str(bench.port) in problem
    kept = api.ok("GET", f"rigs/{rig}/runs/{run}")
    assert kept["samples"] > 20 and kept["events"][0]["kind"] == "gap"
    bench.switch_on()  # its clock starts again at zero: the run is closed, not bent
    bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["status"] == "interrupted", 30)
    assert api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] >= kept["samples"]


@pytest.mark.django_db(transaction=True)
def test_a_restarted_recorder_continues_the_run(api, rig, bench):
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > 20)
    bench.recorder.stop()
    kept = api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"]
    bench.recorder = Recorder()
    bench.until(lambda: api.ok("GET", f"rigs/{rig}/runs/{run}")["samples"] > kept + 20)
    events = api.ok("GET", f"rigs/{rig}/runs/{run}")["events"]
    assert any("started again" in e["text"] for e in events)
    times = store.read(Run.objects.get(pk=run)).time_s
    assert np.all(np.diff(times) > 0)


def test_no_link_and_no_run_are_told(api, rig):
    assert api("GET", f"rigs/{rig}/link")[0] == 404
    assert api.refused("POST", f"rigs/{rig}/runs", {})["field"] == "link"
    assert "port" in api.refused("PUT", f"rigs/{rig}/link", {"stand_in": False, "host": "10.0.0.9"})["field"]


def test_an_unreachable_controller_is_told_with_its_address(api, rig):
    link = Link.objects.create(rig=Rig.objects.get(slug=rig), port=9, host="127.0.0.1")
    LinkState.objects.create(
        link=link, at=timezone.now(), online=False, message="nothing answers at 127.0.0.1:9, unit 1"
    )
    assert "127.0.0.1:9" in api.ok("GET", f"rigs/{rig}")["live"]["message"]


def test_a_removed_run_comes_back(api, rig):
    run = new_run(rig)
    store.append(run, series(100))
    api.ok("DELETE", f"rigs/{rig}/runs/{run.pk}")
    assert api.ok("GET", f"rigs/{rig}/runs") == [] and api("GET", f"rigs/{rig}/runs/{run.pk}")[0] == 404
    api.ok("POST", f"rigs/{rig}/runs/{run.pk}/restore")
    assert len(api.ok("GET", f"rigs/{rig}/runs")) == 1


def test_a_run_without_output_cannot_be_identified_and_says_so(api, rig):
    run = new_run(rig)
    t, n = np.arange(0, 600.0), np.full(600, np.nan)
    store.append(run, Series(t, n, 21 + t / 20, n, n))
    assert "output" in api.refused("POST", f"rigs/{rig}/tuning/identify", {"run": run.pk})["reason"]
    assert api.ok("GET", f"rigs/{rig}/runs/{run.pk}/metrics")["missing"] == ["this run has no set-point column"]


def test_notes_and_bad_windows(api, rig):
    run = new_run(rig)
    store.append(run, series(100))
    noted = api.ok("POST", f"rigs/{rig}/runs/{run.pk}/notes", {"text": "door opened", "time_s": 12})
    assert noted["events"][0]["text"] == "door opened"
    assert api.refused("POST", f"rigs/{rig}/runs/{run.pk}/notes", {"text": " "})["field"] == "text"
    assert api.refused("GET", f"rigs/{rig}/runs/{run.pk}/window?from=soon")["field"] == "from"


def test_late_polls_are_told_what_the_output_did_meanwhile():
    """Polls every 2 s, one 10 s late, in which the controller counted 4 s of heat: it went off 4 s after the one before. The first may
    have been late, nobody knows."""
    seen = Between()
    looks = ((0.0, 0.0, 0.0), (2.0, 0.5, 100.0), (4.0, 2.0, 100.0), (6.0, 4.0, 100.0))
    assert [seen.missed(*look) for look in looks] == [None, pytest.approx((1.5, 100.0)), None, None]
    assert seen.missed(16.0, 8.0, 0.0) == pytest.approx((10.0, 0.0))
    assert seen.missed(18.0, 8.0, 0.0) is None  # in time again
    at, mean = seen.missed(28.0, 12.0, 0.0)  # on and off again: nobody knows when
    assert 18.0 < at < 18.1 and mean == pytest.approx(40.0)
    assert seen.missed(50.0, 2.0, 0.0) is None  # it began to count anew: nothing is known
    late = Between()
    assert [late.missed(*look) for look in ((0.0, 0.0, 0.0), (60.0, 10.0, 100.0))] == [
        None,
        pytest.approx((50.0, 100.0)),
    ]
    for at in (62.0, 64.0, 66.0, 68.0, 70.0):
        assert late.missed(at, at - 50.0, 100.0) is None
    at, went = late.missed(80.0, 20.0, 0.0)  # by now it is known how often is looked
    assert went == 0.0 and 70.0 < at < 70.1  # a change at the look before comes right after it
    blind = Between()
    assert [blind.missed(at, np.nan, 100.0) for at in (0.0, 2.0, 4.0, 14.0)] == [None] * 4


@pytest.mark.django_db(transaction=True)
def test_somebody_at_the_controllers_keys_is_noticed_and_a_write_from_here_is_not(api, rig, bench, monkeypatch):
    monkeypatch.setattr(keys, "SETTLED_S", 0.4)
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    run = api.ok("POST", f"rigs/{rig}/runs", {})["id"]
    bench.until(lambda: Run.objects.get(pk=run).samples > 5)
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": "window-one"})
    api.ok("POST", f"rigs/{rig}/link/write", {"values": {"setpoint_c": 61.0}, "window": "window-one"})

    def said():
        return [(e["before"], e["after"]) for e in api.ok("GET", f"rigs/{rig}/book") if "own keys" in e["title"]]

    with ModbusLink(Address("127.0.0.1", bench.port), STAND_IN) as somebody:  # as if at its front panel
        somebody.write("setpoint_c", 63.5)
    bench.until(said)
    assert said() == [({"setpoint_c": 61.0}, {"setpoint_c": 63.5})]
    events = [e["text"] for e in api.ok("GET", f"rigs/{rig}/runs/{run}")["events"] if e["kind"] == "keys"]
    assert len(events) == 1 and "63.5" in events[0] and "61" in events[0]
    bench.recorder.stop()
    with ModbusLink(Address("127.0.0.1", bench.port), STAND_IN) as somebody:  # while nobody follows it
        somebody.write("hysteresis_c", 3.0)
    bench.recorder = Recorder()
    bench.until(lambda: len(said()) == 2)
    assert said()[0][1] == {"hysteresis_c": 3.0}
    api.ok("POST", f"rigs/{rig}/link/safe-off")
    bench.recorder.follow()
    assert len(said()) == 2
