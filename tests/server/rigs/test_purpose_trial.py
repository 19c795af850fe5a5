"""What hangs on a purpose is told before it is saved: exactly what is found afterwards, and nothing of the trial stays."""

import json

import pytest
from django.apps import apps
from django.core.serializers import serialize

from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import findings_of
from rellux.server.rigs.proof import forget
from tests.examples import some
from tests.server.workshop import load_demo

FIRE = {"fire_w": 9000.0, "idle_percent": 4.0, "dies_s": 240.0}
CHANGES = (
    {"heater_power_w": 9000.0},
    {"heater_power_w": 300.0, "heater_voltage_v": 120.0},
    {"highest_c": 570.0, "highest_reason": "the carrier sags"},
    {"working_c": 480.0, "lowest_c": 470.0},
    {"supply_voltage_v": 110.0, "frequency_hz": 60.0},
    {"supply": "three_phase", "supply_voltage_v": 400.0, "heater_voltage_v": 400.0},
    {"effect": "watches", "heater_power_w": 0.0, "heater_voltage_v": 0.0, "lowest_c": None},
    {"kind": "oven", "working_c": 440.0, "lowest_c": None, "fire": FIRE, "heater_power_w": 60.0},
    {"ambient_c": 22.0},
)


def everything() -> str:
    ours = [m for m in apps.get_models() if m._meta.app_label not in ("contenttypes", "auth")]
    rows = [serialize("json", m._default_manager.order_by("pk")) for m in ours]
    return json.dumps(rows)


def asked(api, slug, change):
    view = api.ok("GET", f"rigs/{slug}")
    return {"name": view["name"], "kind": view["kind"], **view["purpose"], **change, "revision": view["revision"]}


def found(slug):
    rows = findings_of(Rig.objects.get(slug=slug))
    return {(s.value, f.rule, f.subjects): f.severity for s, of in rows.items() for f in of}


@pytest.mark.parametrize("change", some(CHANGES, 3), ids=lambda c: " ".join(c)[:40])
def test_what_is_told_is_what_is_found_once_it_is_saved(api, change):
    load_demo()
    forget()  # other tests change the same rig to the same revision
    slug = "blank-annealer"
    body, before, rows = asked(api, slug, change), found(slug), everything()
    told = api.ok("POST", f"rigs/{slug}/purpose/try", body)
    assert everything() == rows
    assert found(slug) == before
    choice = api.ok("GET", f"rigs/{slug}")["choice"]
    view = api.ok("PUT", f"rigs/{slug}/purpose", body)
    after = found(slug)
    order = ["danger", "fault", "advice"]
    graver = {k for k, s in after.items() if k not in before or order.index(s) < order.index(before[k])}
    beside = ("purpose.other-process", "profiles.outgrown")
    key = lambda h: (h["station"], h["finding"]["rule"], tuple(h["finding"]["subjects"]))  # noqa: E731
    assert {key(h) for h in told["new"] if h["finding"]["rule"] not in beside} == graver
    assert {key(h) for h in told["settled"]} == {k for k in before if k not in after and k[0] not in told["gone"]}
    stations = {s["station"] for s in view["spine"]}
    assert set(told["gone"]).isdisjoint(stations)
    assert {p["name"] for p in told["parts"]} == {n for n, v in view["choice"].items() if choice[n] != v}


def rules(api, slug, change):
    told = api.ok("POST", f"rigs/{slug}/purpose/try", asked(api, slug, change))
    return {h["finding"]["rule"] for h in told["new"]}


def test_profiles_that_no_longer_fit_and_a_process_of_another_heat_are_told(api):
    load_demo()
    assert "profiles.outgrown" not in rules(api, "blank-annealer", {"highest_c": 585.0})
    assert "profiles.outgrown" in rules(
        api, "blank-annealer", {"highest_c": 555.0, "working_c": 540.0, "lowest_c": 530.0}
    )
    assert "purpose.other-process" in rules(api, "cement-cabinet", {"heater_power_w": 320.0})
    assert "purpose.other-process" not in rules(api, "cement-cabinet", {"heater_power_w": 303.0})


def test_what_cannot_be_is_refused_in_the_trial_too(api):
    load_demo()
    body = asked(api, "blank-annealer", {"working_c": 700.0})
    assert api.refused("POST", "rigs/blank-annealer/purpose/try", body)["field"] == "highest_c"
