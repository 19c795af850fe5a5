"""Rigs removed, brought back and doubled; and one that cannot be read beside those that can."""

import json

import pytest
from django.utils import timezone

from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.keeping import removed_folder
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import forget
from rellux.server.runs.models import Run
from rellux.server.setup.models import Sheet
from tests.examples import some
from tests.server.conftest import PARTS
from tests.server.rigs.test_hostile_files import all_pages
from tests.server.rigs.test_transfer import contents, export
from tests.server.workshop import load_demo

SLUG = "blank-annealer"


@pytest.fixture
def revision(api, settings, tmp_path):
    settings.DATA = tmp_path
    load_demo()
    return lambda: Rig.objects.get(slug=SLUG).revision


def body_of(api, slug):
    found = contents(export(api, slug))
    rig = json.loads(found.pop("rig.json"))
    rig["entries"] = rig["entries"][:-1]
    return rig, found


def test_a_removed_rig_comes_back_as_it_was(api, revision):
    rig, files = json.loads(contents(export(api, SLUG))["rig.json"]), contents(export(api, SLUG))
    removed = api.ok("DELETE", f"rigs/{SLUG}?revision={revision()}")
    assert api("GET", f"rigs/{SLUG}")[0] == 404 and len(api.ok("GET", "rigs")) == 9
    assert (removed_folder() / removed["copy"]).is_file()
    assert api.ok("POST", "rigs/bring-back", {"copy": removed["copy"]})["slug"] == SLUG
    again, files_again = body_of(api, SLUG)
    assert again == rig
    assert all(files_again[n] == files[n] for n in files if n.startswith("runs/"))


def test_a_rig_is_removed_only_as_it_was_seen_and_left_alone(api, revision):
    assert api("DELETE", f"rigs/{SLUG}?revision={revision() + 1}")[0] == 409
    assert api.refused("DELETE", f"rigs/{SLUG}")["field"] == "revision"
    assert api.refused("DELETE", f"rigs/{SLUG}?revision=²")["field"] == "revision"
    run = Run.objects.filter(rig__slug=SLUG).first() or Run(rig=Rig.objects.get(slug=SLUG), started_at=timezone.now())
    run.status, run.removed_at = Run.Status.RECORDING, None
    run.save()
    assert "recorded" in api.refused("DELETE", f"rigs/{SLUG}?revision={revision()}")["reason"]
    assert Rig.objects.filter(slug=SLUG).exists() and not list(removed_folder().glob("*"))


@pytest.mark.parametrize(
    "name", ["", "../rellux.sqlite3", "x.20260101T000000000000.rellux.zip", "a/b.rellux.zip", "\x00"]
)
def test_nothing_but_a_kept_copy_is_brought_back(api, revision, name):
    assert api("POST", "rigs/bring-back", {"copy": name})[0] == 400


def test_a_copy_of_a_rig_is_its_own(api, revision):
    twin = api.ok("POST", f"rigs/{SLUG}/double", {"name": "Second annealer"})
    assert twin["name"] == "Second annealer" and twin["slug"] == "second-annealer"
    first, second = body_of(api, SLUG)[0], body_of(api, "second-annealer")[0]
    assert first["wires"] == second["wires"] and first["sheets"] == second["sheets"]
    api.ok("DELETE", f"rigs/second-annealer?revision={twin['revision']}")
    assert Rig.objects.get(slug=SLUG).wires.exists()
    assert api.refused("POST", f"rigs/{SLUG}/double", {"name": "!"})["field"] == "name"


BREAKS = [{"kind": "spaceship"}, {"supply": "steam"}, {"materials": [{"what": 1}]}, {"sensor": "Q"}, {"materials": 7}]


@pytest.mark.parametrize("damage", some(BREAKS, 2), ids=str)
def test_a_rig_that_cannot_be_read_never_hides_the_others(api, revision, damage):
    Rig.objects.filter(slug=SLUG).update(**damage)
    forget()
    strips = {s["slug"]: s for s in api.ok("GET", "rigs")}
    assert len(strips) == 10 and strips[SLUG]["unreadable"]
    assert all(not s["unreadable"] for slug, s in strips.items() if slug != SLUG)
    assert contents(export(api, SLUG))["rig.json"]
    removed = api.ok("DELETE", f"rigs/{SLUG}?revision={revision()}")
    assert removed["copy"] and len(api.ok("GET", "rigs")) == 9
    assert api("POST", "rigs/bring-back", {"copy": removed["copy"]})[0] == 400  # as broken as it was, and said so


def damage_sheet(rig):
    sheet = rig.sheets.first()
    Sheet.objects.filter(pk=sheet.pk).update(values={**sheet.values, "mode": "fuzzy"})


def newest(rig):
    return rig.entries.filter(pk=rig.entries.first().pk)


PURPOSE = (lambda rig: Rig.objects.filter(pk=rig.pk).update(supply="steam"), "the purpose", "rig")
CHOICE = (lambda rig: Rig.objects.filter(pk=rig.pk).update(sensor="Q"), "the choice of parts", "rig")
ROWS = (
    (damage_sheet, "parameter sheets: ", "sheets"),
    (lambda rig: rig.calibrations.update(school="x"), "calibrations: ", "calibrations"),
    (lambda rig: newest(rig).update(station="moon"), "lines of the book: ", "entries"),
    (lambda rig: rig.wires.filter(number=3).update(area_mm2=-1.0), "wires: 3", "wires"),
    (lambda rig: rig.identifications.update(gain=-1.0), "identified processes: ", "identifications"),
    (lambda rig: rig.guard_plans.update(plan={"limiter": 7}), "plans of what guards it: ", "guard_plans"),
)


@pytest.mark.parametrize("damages", some([(PURPOSE,), (CHOICE,), ROWS], 1), ids=len)
def test_a_repair_leaves_out_what_cannot_be_read_and_nothing_else(api, revision, damages):
    slug = "cement-cabinet"
    rig = Rig.objects.get(slug=slug)
    Link.objects.get_or_create(rig=rig, defaults={"stand_in": True, "port": 1502})
    before = json.loads(contents(export(api, slug))["rig.json"])
    assert api.ok("GET", f"rigs/{slug}/repair")["left_out"] == []
    for spoil, _, _ in damages:
        spoil(rig)
    forget()
    would = api.ok("GET", f"rigs/{slug}/repair")["left_out"]
    assert all(any(said in words for words in would) for _, said, _ in damages)
    assert all(any(said in words for _, said, _ in damages) for words in would)
    assert Rig.objects.get(slug=slug).pk == rig.pk  # nothing was done by asking
    assert api.ok("POST", f"rigs/{slug}/repair")["left_out"] == would
    if damages != ROWS:  # what most pages read; the repair itself has read the others as every page does
        assert set(all_pages(api, slug).values()) <= ({200} if damages == (PURPOSE,) else {200, 400})
    assert Rig.objects.get(slug=slug).link.port and len(list(removed_folder().glob("*"))) == 1
    after = json.loads(contents(export(api, slug))["rig.json"])
    assert after["entries"][-1]["title"].startswith("Repaired")
    spoiled = {section for _, _, section in damages}
    for key, rows in before.items():
        if key not in {*spoiled, "entries"}:
            assert after[key] == rows, key
    gone = sum(
        r not in after[section] for section in spoiled if isinstance(before[section], list) for r in before[section]
    )
    assert damages != ROWS or gone == len(would)


def test_an_archived_rig_is_looked_at_and_not_changed(api, revision, settings):
    changes = [
        ("PUT", f"rigs/{SLUG}/setup", {"revision": 1, "values": {}}),
        ("POST", f"rigs/{SLUG}/runs", {}),
        ("PUT", f"rigs/{SLUG}/link", {"stand_in": True}),
        ("POST", f"rigs/{SLUG}/wiring/undo", {"revision": 1}),
        ("DELETE", f"rigs/{SLUG}?revision=1", None),
    ]
    view = api.ok("PUT", f"rigs/{SLUG}/archive", {"revision": revision(), "archived": True})
    assert view["archived"] and api.ok("GET", "rigs")[-1]["slug"] == SLUG
    assert set(all_pages(api, SLUG).values()) == {200}
    lines = Rig.objects.get(slug=SLUG).entries.count()
    for method, path, body in changes:
        assert "archived" in api.refused(method, path, body, status=409)["reason"]
    assert Rig.objects.get(slug=SLUG).entries.count() == lines
    assert api.ok("POST", f"rigs/{SLUG}/parts/try", {**PARTS, "sensor": "N"})  # worked out, nothing changed
    assert not api.ok("POST", f"rigs/{SLUG}/double", {"name": "Twin"})["archived"]
    assert api.refused("PUT", f"rigs/{SLUG}/archive", {"revision": 1, "archived": False}, status=409)
    api.ok("PUT", f"rigs/{SLUG}/archive", {"revision": view["revision"], "archived": False})
    api.ok("PUT", f"rigs/{SLUG}/setup", {"revision": revision(), "values": {}})


def test_a_rig_that_heats_or_is_recorded_is_not_archived(api, revision):
    rig = Rig.objects.get(slug=SLUG)
    link, _ = Link.objects.get_or_create(rig=rig, defaults={"stand_in": True, "port": 1502})
    state = {
        "at": timezone.now(),
        "online": True,
        "values": {"mode": "pid", "reading_c": 60.0},
        "generation": link.generation,
    }
    LinkState.objects.update_or_create(link=link, defaults=state)
    assert (
        "controller is on"
        in api.refused("PUT", f"rigs/{SLUG}/archive", {"revision": revision(), "archived": True})["reason"]
    )
    LinkState.objects.update(values={"mode": "off", "reading_c": 60.0})
    api.ok("PUT", f"rigs/{SLUG}/archive", {"revision": revision(), "archived": True})
