"""Rigs removed, brought back and doubled; and one that cannot be read beside those that can."""

import json

import pytest
from django.utils import timezone

from rellux.server.demo.workshop import load_demo
from rellux.server.rigs.keeping import removed_folder
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import forget
from rellux.server.runs.models import Run

from .test_transfer import contents, export

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
    assert api("GET", f"rigs/{SLUG}")[0] == 404 and len(api.ok("GET", "rigs")) == 3
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


@pytest.mark.parametrize("damage", BREAKS, ids=str)
def test_a_rig_that_cannot_be_read_never_hides_the_others(api, revision, damage):
    Rig.objects.filter(slug=SLUG).update(**damage)
    forget()
    strips = {s["slug"]: s for s in api.ok("GET", "rigs")}
    assert len(strips) == 4 and strips[SLUG]["unreadable"]
    assert all(not s["unreadable"] for slug, s in strips.items() if slug != SLUG)
    assert contents(export(api, SLUG))["rig.json"]
    removed = api.ok("DELETE", f"rigs/{SLUG}?revision={revision()}")
    assert removed["copy"] and len(api.ok("GET", "rigs")) == 3
    assert api("POST", "rigs/bring-back", {"copy": removed["copy"]})[0] == 400  # as broken as it was, and said so
