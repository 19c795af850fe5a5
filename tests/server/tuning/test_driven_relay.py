"""A relay test over the link: made on a simulated controller through the API and the recorder; and with whoever looks after it killed in
every phase, a controller that loses what is written, and people who press keys and safe-off in between."""

import time
from datetime import timedelta

import numpy as np
import pytest
from django.db import OperationalError
from django.utils import timezone

from rellux.core.control.settings import ControllerSettings, Mode
from rellux.core.errors import refuse
from rellux.core.plant.rig_models import network_for
from rellux.core.plant.simulation import Simulation
from rellux.core.runs.series import Series
from rellux.core.tuning.relay.driven import DrivenTest
from rellux.core.tuning.relay.experiment import RelayKind, RelayTest
from rellux.devices.modbus_link import LinkDown
from rellux.devices.register_map import STAND_IN
from rellux.server.demo.register_maps import KILN
from rellux.server.links import commands
from rellux.server.links.maps import keep as keep_map
from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Entry, Rig
from rellux.server.runs import driven_relay as runner_module
from rellux.server.runs import store
from rellux.server.runs.driven_relay import RelayRunner, plain_test
from rellux.server.runs.models import Event, Run
from rellux.server.runs.recorder import Recorder
from rellux.server.tuning.models import DrivenRelayTest
from tests.server.bench import Bench
from tests.server.kept_rows import KeptRows
from tests.server.rigs.test_transfer import bring_in, export, with_rig

WINDOW = "window-of-the-test"
NAMES = ("setpoint_c", "hysteresis_c", "mode")


def identify(api, slug):
    """The process of the simulated rig, from a heat-up and cycles of it."""
    rig = Rig.objects.get(slug=slug)
    purpose = purpose_of(rig)
    plant = network_for(kind_of(rig), purpose, 300)
    record = Simulation(plant, ControllerSettings(55.0, Mode.ON_OFF, 2.0, period_s=0.0), purpose.ambient_c).advance(
        14_400.0, 8
    )
    run = Run.objects.create(rig=rig, name="cycles", source="csv", status="finished", started_at=timezone.now())
    store.append(
        run,
        Series(record.time_s, record.setpoint_c, np.round(record.reading_c, 1), record.output, record.switch),
    )
    api.ok("POST", f"rigs/{slug}/tuning/identify", {"run": run.pk})


KNOWN = KeptRows()


@pytest.fixture
def known(transactional_db, api, rig, revision):
    """A rig whose process is known."""

    def made():
        api.ok("PUT", f"rigs/{rig}/setup", {"revision": revision(), "values": {"setpoint_low_c": 40.0}})
        identify(api, rig)

    KNOWN(made)


@pytest.fixture
def swung(known, api, rig):
    """That rig, on a controller of its own."""
    bench = Bench(Rig.objects.get(slug=rig), speed=120.0)
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    yield bench
    bench.recorder.stop()
    bench.switch_off()


def told(api, rig, wanted=None):
    view = api.ok("GET", f"rigs/{rig}/tuning/relay/test")
    return view if wanted is None else view["now"] and view["now"]["standing"] in wanted and view["now"]


def held(bench):
    state = LinkState.objects.get(link=bench.link)
    return {name: state.values[name] for name in NAMES}


def begin(api, rig, **more):
    api.ok("POST", f"rigs/{rig}/link/arm", {"armed": True, "window": WINDOW})
    return api("POST", f"rigs/{rig}/tuning/relay/test", {"window": WINDOW, "stays": True, **more})


def test_it_is_made_and_the_controller_has_its_old_numbers_again(api, rig, swung):
    before = held(swung)
    assert told(api, rig)["left_alone"] == "", "it is foretold at a set-point only"
    view = api.ok("GET", f"rigs/{rig}/tuning/relay/test?setpoint_c=55")
    assert view["cannot"] == [] and "goes on switching by itself" in view["left_alone"] and view["now"] is None
    path = f"rigs/{rig}/tuning/relay/test"
    assert api.refused("POST", path, {"window": WINDOW})["field"] == "stays"
    assert api.refused("POST", path, {"window": WINDOW, "stays": True})["field"] == "armed"
    assert not DrivenRelayTest.objects.exists() and not Run.objects.filter(name="Relay test").exists()
    assert api.refused("POST", path, {"window": WINDOW, "stays": True, "setpoint_c": 67.5})["field"] == "setpoint_c"
    status, answer = begin(api, rig)
    assert status == 201 and answer["now"]["standing"] == "swinging", answer
    assert held(swung)["mode"] == "on_off"
    write = {"values": {"setpoint_c": 30.0}, "window": WINDOW}
    swung.recorder.follow()  # foretelling took its time
    assert "relay test" in api.refused("POST", f"rigs/{rig}/link/write", write)["reason"]
    assert "relay test" in api.refused("PUT", f"rigs/{rig}/link", {"stand_in": True})["reason"]
    assert begin(api, rig)[0] == 400, "one at a time"
    now = swung.until(lambda: told(api, rig, ("done", "broken")), 180)
    assert now["standing"] == "done", now["says"]
    swung.until(lambda: held(swung) == before, 10)
    swung.until(lambda: Run.objects.get(pk=now["run"]).status == "finished", 10)
    run = Run.objects.get(pk=now["run"])
    series = store.read(run)
    assert np.nanmax(series.reading_c) < now["highest_c"] < 68.0
    shown = api.ok("GET", f"rigs/{rig}/tuning/relay/test?setpoint_c=55")["now"]
    assert [f["symbol"] for f in shown["figures"]][:1] == ["K_u"] and now["end_s"] > now["start_s"]
    assert Event.objects.filter(run=run, kind="relay_test").count() >= 2
    titles = [e.title for e in Entry.objects.all()]
    assert "Relay test made" in titles and "Changed at the controller’s own keys" not in titles


@pytest.mark.parametrize("late", [False, True])
def test_a_recorder_that_is_killed_in_the_middle_leaves_a_controller_that_holds_the_test(
    api, rig, swung, late, monkeypatch
):
    """Nobody looks: the controller goes on by itself, below the ladder. The next recorder gives it its old numbers."""
    before = held(swung)
    status, answer = begin(api, rig)
    assert status == 201, answer
    if late:
        swung.until(lambda: float(LinkState.objects.get(link=swung.link).values["reading_c"]) > 50.0, 60)
    swung.recorder.stop()
    DrivenRelayTest.objects.update(beat_at=timezone.now() - timedelta(seconds=60))
    hottest = max(swung.stand_in_reading() for _ in range(40))
    assert hottest < DrivenRelayTest.objects.get().driven["highest_c"]
    swung.recorder = Recorder()
    now = swung.until(lambda: told(api, rig, ("broken",)), 60)
    assert "nobody looked" in now["says"]
    swung.until(lambda: held(swung) == before, 10)


def test_safe_off_has_the_last_word(api, rig, swung):
    status, answer = begin(api, rig)
    assert status == 201, answer
    assert api.ok("POST", f"rigs/{rig}/link/safe-off")["confirmed"]
    now = swung.until(lambda: told(api, rig, ("broken",)), 30)
    assert now["heat_is_off"] and "switched off" in now["says"]
    for _ in range(20):
        swung.recorder.follow()
        time.sleep(0.05)
        assert swung.stand_in.shown()["mode"] == "off", "as the controller itself holds it"


HOLDS = {"setpoint_c": 50.0, "hysteresis_c": 1.0, "mode": "on_off"}
BEFORE = {"setpoint_c": 60.0, "hysteresis_c": 3.0, "mode": "pid"}
DRIVEN = DrivenTest(RelayTest(RelayKind.OWN, 50.0, 1.0, 0.0, 100.0), HOLDS, 62.0, 120.0, 7200.0)


class Controller:
    """Takes what is written, unless told otherwise."""

    map = STAND_IN

    def __init__(self, **holds):
        self.holds = {**HOLDS, "reading_c": 45.0, "output": 100.0, "switch": 1.0, "sensor_fault": 0.0, **holds}
        self.written, self.lost, self.switched_off, self.stuck = [], 0, 0, False

    def switch_off(self, within_s):
        self.switched_off += 1
        if self.stuck:
            raise LinkDown("no answer")
        self.holds |= {"mode": "off", "output": 0.0, "switch": 0.0}

    def write(self, name, value):
        self.written.append((name, value))
        if self.lost:
            self.lost -= 1
            raise (LinkDown("no answer") if self.lost % 2 else refuse(name, "exception 3", ""))
        self.holds[name] = value
        return value


@pytest.fixture
def desk(api, rig, monkeypatch, settings, tmp_path):
    """The recorder's part alone, a second a look."""
    monkeypatch.setattr(runner_module, "FOLLOWED_S", -1.0)
    monkeypatch.setattr("rellux.server.runs.noticed.AROUND_S", -1.0)
    settings.DATA = tmp_path
    owner = Rig.objects.get(slug=rig)
    link = Link.objects.create(rig=owner, stand_in=True, port=1502, speed=1.0)

    class Desk:
        clock, controller, runner = 0.0, Controller(), None

        def begun(self, standing="swinging", **more):
            now = timezone.now()
            DrivenRelayTest.objects.create(
                rig=owner, generation=link.generation, who="x", standing=standing, driven=plain_test(DRIVEN), before=BEFORE,
                **{"begun_at": now, "beat_at": now, **more},
            )  # fmt: skip
            self.runner = RelayRunner(link)
            return self

        def look(self, times=1, **shows):
            self.controller.holds |= shows
            for _ in range(times):
                self.clock += 1.0
                monkeypatch.setattr(runner_module.time, "monotonic", lambda: self.clock)
                self.runner.look(dict(self.controller.holds), self.controller)
            return self

        @property
        def row(self):
            return DrivenRelayTest.objects.get()

        def holds(self):
            return {name: self.controller.holds[name] for name in NAMES}

    desk = Desk()
    desk.link = link
    return desk


def test_a_start_that_was_left_half_done_is_taken_back(desk):
    """Whoever started it was killed before anything, and after one of three numbers was written."""
    for holds in (BEFORE, {**BEFORE, "setpoint_c": 50.0}, {**HOLDS, "mode": "pid"}):
        DrivenRelayTest.objects.all().delete()
        desk.controller = Controller(**holds)
        desk.begun("starting").look(3)
        assert desk.row.standing == "starting" and not desk.controller.written
        DrivenRelayTest.objects.update(beat_at=timezone.now() - timedelta(seconds=21))
        desk.look(8)
        assert desk.row.standing == "broken" and "never begun" in desk.row.said and desk.holds() == BEFORE


def test_a_recorder_that_starts_again_breaks_it_off_wherever_it_was(desk):
    long_ago = timezone.now() - timedelta(seconds=60)
    ahead = timezone.now() + timedelta(hours=1)  # its clock was set back since
    half = {**HOLDS, "hysteresis_c": 3.0}
    for standing, holds, beat in (
        ("swinging", HOLDS, long_ago),
        ("swinging", HOLDS, ahead),
        ("returning", half, long_ago),
    ):
        DrivenRelayTest.objects.all().delete()
        desk.controller = Controller(**holds)
        desk.begun(standing, beat_at=beat).look(8)
        assert desk.row.standing == "broken" and desk.holds() == BEFORE
    DrivenRelayTest.objects.all().delete()
    desk.controller = Controller()
    desk.begun().look(3)
    desk.runner = RelayRunner(desk.link)  # at once: it goes on from here
    assert desk.look(3).row.standing == "swinging"


def test_the_heat_goes_off_and_stays_off_where_the_reading_cannot_be_believed(desk):
    desk.begun().look(15, sensor_fault=1.0)
    assert desk.row.standing == "broken" and desk.row.is_off and "sensor" in desk.row.said
    assert desk.holds() == {**HOLDS, "hysteresis_c": 3.0, "mode": "off"}, "nothing is written that may heat"
    assert Entry.objects.filter(title="Relay test broken off", why__contains="the heat is off").exists()


def test_a_recorder_killed_before_it_ordered_the_heat_off_leaves_the_order_to_the_next(desk):
    """It had written down that the heat must go off, and no more."""
    desk.begun("returning", is_off=True, said="the sensor says nothing").look(8)
    assert desk.row.standing == "broken" and desk.controller.holds["mode"] == "off"


def test_heat_that_does_not_go_off_is_ordered_off_again(desk):
    desk.controller.stuck = True
    desk.begun().look(30, reading_c=63.0)
    assert desk.controller.switched_off >= 3 and desk.row.standing == "returning"
    assert not desk.controller.written, "first the heat, then the numbers"
    desk.controller.stuck = False
    assert desk.look(8).row.standing == "broken" and desk.controller.holds["mode"] == "off"


def test_the_heat_goes_off_also_where_the_disk_takes_nothing(desk, monkeypatch):
    desk.begun().look(2)

    def full(*args, **more):
        raise OperationalError("database or disk is full")

    with monkeypatch.context() as disk:
        disk.setattr(DrivenRelayTest, "save", full)
        with pytest.raises(OperationalError):
            desk.look(1, reading_c=63.0)
        assert desk.controller.holds["mode"] == "off"
    desk.look(8)
    assert desk.row.standing == "broken" and desk.controller.holds["mode"] == "off"


def test_somebody_at_the_keys_is_not_overruled(desk):
    desk.begun().look(8, mode="off", output=0.0, switch=0.0)
    assert desk.row.standing == "broken" and not desk.controller.written and "left alone" in desk.row.said
    DrivenRelayTest.objects.all().delete()
    desk.controller = Controller(mode="off", output=0.0, switch=0.0)  # while nobody looked
    desk.begun(beat_at=timezone.now() - timedelta(hours=2)).look(8)
    assert desk.row.standing == "broken" and not desk.controller.written and desk.controller.holds["mode"] == "off"


def test_a_safe_off_that_never_reached_the_database_ends_it(desk):
    desk.begun().look(2)
    commands.overrule(desk.link)
    desk.look(6, mode="off", output=0.0, switch=0.0)
    assert desk.row.is_off and desk.row.standing == "broken" and "switched off" in desk.row.said
    assert not {n for n, _ in desk.controller.written} & {"mode", "setpoint_c"}


def test_a_safe_off_that_is_not_confirmed_is_not_called_off(desk):
    """It was pressed, and the controller says that it heats."""
    desk.begun().look(2)
    commands.overrule(desk.link)
    desk.look(4)
    assert desk.row.standing == "returning", "it has time to say so"
    desk.look(6)
    assert desk.row.standing == "broken" and not desk.row.is_off and "does not say that it is off" in desk.row.said
    assert not Entry.objects.filter(why__contains="; the heat is off").exists()


def test_a_safe_off_that_is_seen_before_it_is_known_is_nobody_elses_change(desk):
    """The controller shows it a moment before the database and the mark are looked at."""
    desk.begun().look(2)
    desk.runner._follow = lambda: None
    desk.look(5, mode="off", output=0.0, switch=0.0)
    commands.overrule(desk.link)
    desk.look(3)
    assert desk.row.standing == "broken" and desk.row.is_off and "switched off" in desk.row.said


def test_safe_off_pressed_while_the_old_mode_is_on_its_way_comes_last(desk):
    desk.begun(ask_end=True)
    write = desk.controller.write

    def pressed_meanwhile(name, value):
        if name == "mode":
            commands.overrule(desk.link)
        return write(name, value)

    desk.controller.write = pressed_meanwhile
    desk.look(8)
    assert desk.controller.holds["mode"] == "off" and desk.row.standing == "broken"


def test_a_link_that_was_silent_breaks_it_off(desk):
    desk.begun().look(3)
    desk.clock += 30.0
    desk.look(6)
    assert desk.row.standing == "broken" and "nothing was heard" in desk.row.said and desk.holds() == BEFORE


def test_numbers_that_are_lost_on_the_way_back_are_written_again(desk):
    desk.controller.lost = 5
    desk.begun(ask_end=True).look(60)
    assert desk.row.standing == "broken" and desk.holds() == BEFORE and "by hand" in desk.row.said
    DrivenRelayTest.objects.all().delete()
    desk.controller = Controller()
    desk.controller.lost = 10_000
    desk.begun(ask_end=True).look(90)
    assert desk.row.standing == "broken" and "did not take back hysteresis_c, setpoint_c, mode" in desk.row.said
    assert len(desk.controller.written) == 12, "and not for ever"


def test_another_controller_gets_nothing(desk):
    desk.begun()
    Link.objects.update(generation=desk.link.generation + 1)
    desk.link.refresh_from_db()
    desk.look(5)
    assert desk.row.standing == "broken" and not desk.controller.written


def test_it_goes_along_in_the_rigs_file_and_one_under_way_is_broken_off_there(api, rig):
    owner, now = Rig.objects.get(slug=rig), timezone.now()
    run = Run.objects.create(rig=owner, name="Relay test", source="live", status="finished", started_at=now)
    swing = {"top_c": 52.0, "bottom_c": 49.0, "highest_c": 53.0, "period_s": 300.0, "duty": 0.4, "takes_s": 1200.0}
    kept = {
        "rig": owner,
        "generation": 3,
        "who": "Technician",
        "begun_at": now,
        "beat_at": now,
        "before": BEFORE,
        "driven": plain_test(DRIVEN),
    }
    DrivenRelayTest.objects.create(
        **kept, run=run, standing="done", said="two cycles are alike", swing=swing, end_s=1200.0
    )
    file = export(api, rig)
    status, answer = bring_in(api, file)
    assert status == 201, answer
    slug = answer["slug"]
    back = told(api, slug)["now"]
    assert (back["standing"], back["who"], back["says"]) == ("done", "Technician", "two cycles are alike")
    assert Run.objects.get(pk=back["run"]).rig.slug == slug
    status, answer = bring_in(api, with_rig(file, lambda r: r["relay_tests"][0].update(standing="swinging")))
    assert status == 201 and told(api, answer["slug"])["now"]["standing"] == "broken", "nobody looks after it here"
    for spoil in (
        {"standing": "melting"},
        {"driven": {}},
        {"driven": {**plain_test(DRIVEN), "holds": 7}},
        {"swing": {"top_c": "hot"}},
    ):
        status, answer = bring_in(api, with_rig(file, lambda r, spoil=spoil: r["relay_tests"][0].update(spoil)))
        assert status == 400 and answer["problems"][0]["reason"], spoil
    old = with_rig(file, lambda r: r.pop("relay_tests"))
    assert told(api, bring_in(api, old)[1]["slug"])["now"] is None, "files of before it was kept"


@pytest.fixture
def own(known, api, rig):
    """The same on a controller that can be told to tune itself."""
    bench = Bench(Rig.objects.get(slug=rig), speed=120.0, speaks=keep_map(KILN).key)
    bench.until(lambda: api.ok("GET", f"rigs/{rig}")["live"]["status"] == "online")
    yield bench
    bench.recorder.stop()
    bench.switch_off()


def everything(bench):
    return dict(LinkState.objects.get(link=bench.link).values)


PID = ("proportional_band_c", "integral_time_s", "derivative_time_s")


@pytest.mark.long
def test_a_controller_tunes_itself_and_is_watched(api, rig, own):
    before = everything(own)
    view = api.ok("GET", f"rigs/{rig}/tuning/relay/test?setpoint_c=55")
    assert view["tunes_itself"] and view["own_cannot"] == [] and "tunes on by itself" in view["own_left_alone"]
    assert any("no on/off mode, hysteresis" in c for c in view["cannot"]), "this one takes no hysteresis"
    status, answer = begin(api, rig, tunes_itself=True, setpoint_c=55)
    assert status == 201 and answer["now"]["tunes_itself"], answer
    assert everything(own)["auto_tune"] == "on"
    write = {"values": {"setpoint_c": 30.0}, "window": WINDOW}
    own.recorder.follow()  # foretelling took its time
    assert "relay test" in api.refused("POST", f"rigs/{rig}/link/write", write)["reason"]
    now = own.until(lambda: told(api, rig, ("done", "broken")), 180)
    assert now["standing"] == "done" and "it found" in now["says"], now["says"]
    own.until(lambda: all(everything(own)[n] == before[n] for n in ("setpoint_c", "mode")), 10)
    after = everything(own)
    assert all(after[n] != before[n] for n in PID)
    assert np.nanmax(store.read(Run.objects.get(pk=now["run"])).reading_c) < now["highest_c"]
    titles = [e.title for e in Entry.objects.all()]
    assert "Auto-tune made" in titles and "Auto-tune begun" in titles
    assert "Changed at the controller’s own keys" not in titles
    found = {d["name"]: d["controller"] for d in api.ok("GET", f"rigs/{rig}/link")["differences"]}
    assert {n: found.get(n) for n in PID} == {n: after[n] for n in PID}, "to be taken over as found"
    assert told(api, bring_in(api, export(api, rig))[1]["slug"])["now"]["says"] == now["says"]


def test_one_that_tunes_itself_is_left_by_everybody_and_ends_below_the_ladder(api, rig, own):
    before = everything(own)
    status, answer = begin(api, rig, tunes_itself=True, setpoint_c=55)
    assert status == 201, answer
    own.until(lambda: float(everything(own)["reading_c"]) > 50.0, 60)
    own.recorder.stop()
    DrivenRelayTest.objects.update(beat_at=timezone.now() - timedelta(seconds=60))
    hottest = max(own.stand_in_reading() for _ in range(60))
    assert hottest < DrivenRelayTest.objects.get().driven["highest_c"]
    own.recorder = Recorder()
    now = own.until(lambda: told(api, rig, ("broken",)), 60)
    assert "nobody looked" in now["says"]
    names = (*PID, "setpoint_c", "mode", "auto_tune")
    own.until(lambda: (held := everything(own)) and all(held[n] == before[n] for n in names), 30)


def test_safe_off_ends_an_auto_tune_too(api, rig, own):
    assert begin(api, rig, tunes_itself=True, setpoint_c=55)[0] == 201
    assert api.ok("POST", f"rigs/{rig}/link/safe-off")["confirmed"]
    now = own.until(lambda: told(api, rig, ("broken",)), 30)
    assert now["heat_is_off"] and "switched off" in now["says"]
    shown = own.stand_in.shown()
    assert (shown["mode"], shown["auto_tune"]) == ("off", "off")


def test_one_that_takes_no_auto_tune_is_not_offered_it(api, rig, swung):
    registers = [r for r in KILN["registers"] if r["name"] != "auto_tune"]
    other = keep_map({**KILN, "registers": registers, "safe_off": {**KILN["safe_off"], "writes": [["mode", "off"]]}})
    Link.objects.update(register_map=other.key)
    view = api.ok("GET", f"rigs/{rig}/tuning/relay/test?setpoint_c=55")
    assert not view["tunes_itself"] and view["own_cannot"] == [] and view["own_left_alone"] == ""
    status, answer = begin(api, rig, tunes_itself=True, setpoint_c=55)
    assert status == 400 and "takes no auto-tune" in answer["problems"][0]["reason"]
    assert not DrivenRelayTest.objects.exists()
