"""Zones of a chamber through the API: joining rigs, what each sees of the others, how they heat up, and taking them apart."""

import time
from dataclasses import replace

import pytest
from django.utils import timezone

from rellux.core.errors import Refused
from rellux.core.guarding.family import family
from rellux.core.guarding.plan import Plan
from rellux.core.tuning.trials import Trial, happens
from rellux.devices.stand_in import StandIn
from rellux.server.guarding.domain import situation_of
from rellux.server.links.models import Link
from rellux.server.links.stand_ins import beside_of, config_of
from rellux.server.proving.domain import facts_for
from rellux.server.rigs.domain import purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import findings_of, forget
from rellux.server.sheets.handover import _purpose, use_of
from rellux.server.tuning.comparing import situation_of as tried_on
from rellux.server.tuning.domain import among
from rellux.server.tuning.models import Identification
from rellux.server.zones.places import joints_among
from tests.server.conftest import CABINET, PARTS, wired

FURNACE = {**CABINET, "kind": "muffle", "working_c": 900, "highest_c": 1000, "lowest_c": None, "heater_power_w": 1400}
FRONT = {**FURNACE, "name": "Front"}
BACK = {**FURNACE, "name": "Back", "working_c": 850, "highest_c": 960, "heater_power_w": 1200}
MIDDLE = {**FURNACE, "name": "Middle"}
TUBE = {"name": "Tube", "zones": ["front", "back"], "along_percent": [30.0], "supply_w": 2000.0}


@pytest.fixture
def tube(api):
    """Two wired rigs, joined; the chamber's address."""
    for purpose in (FRONT, BACK):
        wired(api, purpose, {**PARTS, "output": "ssr_drive", "actuator": "ssr"})
    return f"chambers/{api.ok('POST', 'chambers', TUBE)['id']}"


def book(api, slug):
    return api.ok("GET", f"rigs/{slug}/book")


def test_joined_they_are_told_what_they_do_together(api, tube):
    found = api.ok("GET", tube)
    assert [z["slug"] for z in found["zones"]] == ["front", "back"] and found["draws_w"] == 2600
    assert [f["rule"] for f in found["findings"]] == ["zones.supply"]
    assert all(40 < z["holds"]["value"] < 65 and 200 < z["kept_c"] < 300 for z in found["zones"])
    assert "supply does not carry" in found["headline"] and set(found["order"]) == {"front", "back"}
    listed = api.ok("GET", "chambers")
    assert (
        listed["chambers"] == [{"id": found["id"], "name": "Tube", "revision": 1, "zones": ["Front", "Back"]}]
        and not listed["free"]
    )


def test_every_zone_is_guarded_and_tuned_among_the_others_and_proved_by_itself(api, tube):
    rig = Rig.objects.get(slug="front")
    situation = situation_of(rig, Plan())
    assert 200 < situation.rig.rests_c < 300
    assert facts_for(rig, 21.0).rig.rests_c == 21.0
    purpose = api.ok("GET", "rigs/front")
    assert "zones.supply" in [f["rule"] for f in purpose["purpose_findings"]]


def test_whoever_is_handed_a_zone_is_told_of_the_others(api, tube):
    rig = Rig.objects.get(slug="front")
    assert ("Zone of", "Tube, beside Back: they keep it warm while they are on") in list(_purpose(rig, purpose_of(rig)))
    assert use_of(rig)


def test_they_heat_up_together_or_in_turns(api, tube):
    together, turns = (api.ok("GET", f"{tube}/heat-up?turns={t}") for t in ("false", "true"))
    assert together["most_w"] == 2600 and together["holds_s"] < turns["holds_s"]
    begins = sorted(z["begins_s"] for z in turns["zones"])
    assert begins[0] == 0 and begins[1] > 600
    assert len(together["time_s"]) == len(together["zones"][0]["reading_c"]) > 100


def test_what_one_becomes_is_known_at_the_others(api, tube):
    before = Rig.objects.get(slug="back").revision
    kept = situation_of(Rig.objects.get(slug="back"), Plan()).rig.rests_c
    given = {**FRONT, "working_c": 700, "revision": api.ok("GET", "rigs/front")["revision"]}
    api.ok("PUT", "rigs/front/purpose", given)
    back = Rig.objects.get(slug="back")
    assert back.revision > before and situation_of(back, Plan()).rig.rests_c < kept - 20
    api.ok("PUT", tube, {**TUBE, "along_percent": [75.0], "revision": 1})
    given = {**given, "working_c": 500, "revision": api.ok("GET", "rigs/front")["revision"]}
    problem = api.refused("PUT", "rigs/front/purpose", given)
    assert problem["field"] == "zones[0]" and "would keep" in problem["reason"]
    assert Rig.objects.get(slug="front").working_c == 700


def test_a_change_and_the_parting_are_in_the_book_of_every_zone(api, tube):
    wired(api, MIDDLE, PARTS)
    found = api.ok("PUT", tube, {**TUBE, "zones": ["front", "middle"], "revision": 1})
    assert [z["slug"] for z in found["zones"]] == ["front", "middle"] and found["revision"] == 2
    for slug in ("front", "middle", "back"):
        assert book(api, slug)[0]["title"] == "Zones of Tube changed"
    assert api("PUT", tube, {**TUBE, "revision": 1})[0] == 409
    assert api.refused("DELETE", tube)["field"] == "revision"
    api.ok("DELETE", f"{tube}?revision=2")
    assert book(api, "front")[0]["title"] == "No zone of Tube any longer"
    assert situation_of(Rig.objects.get(slug="front"), Plan()).rig.rests_c == 21.0
    assert api("GET", tube)[0] == 404


BAD = [
    ({"zones": ["front"]}, "zones"),
    ({"zones": ["front", "front"]}, "zones"),
    ({"zones": ["front", "nowhere"]}, "zones[1]"),
    ({"zones": ["front", "cold"]}, "zones[1]"),
    ({"along_percent": []}, "along_percent"),
    ({"along_percent": [95.0]}, "along_percent[0]"),
    ({"supply_w": -5.0}, "supply_w"),
    ({"name": "  "}, "name"),
]


@pytest.mark.parametrize(("changed", "field"), BAD)
def test_what_is_no_chamber_is_refused_and_nothing_is_kept(api, db, changed, field):
    for purpose in (FRONT, BACK):
        wired(api, purpose, PARTS)
    cold = {"kind": "cold", "effect": "cools", "working_c": 4, "lowest_c": -2, "highest_c": 10, "name": "Cold"}
    api.ok("POST", "rigs", {**CABINET, **cold})
    assert api.refused("POST", "chambers", {**TUBE, **changed})["field"] == field
    assert api.ok("GET", "chambers")["chambers"] == []


def test_a_zone_is_of_one_chamber_and_stays_while_it_is(api, tube):
    wired(api, MIDDLE, PARTS)
    other = {**TUBE, "name": "Other", "zones": ["middle", "front"]}
    assert api.refused("POST", "chambers", other)["field"] == "zones[1]"
    assert api.refused("POST", "chambers", {**other, "name": "Tube"})["field"] == "name"
    revision = api.ok("GET", "rigs/front")["revision"]
    assert "zone of Tube" in api.refused("DELETE", f"rigs/front?revision={revision}")["reason"]
    archive = {"revision": revision, "archived": True}
    assert "zone of Tube" in api.refused("PUT", "rigs/front/archive", archive)["reason"]


def test_a_zone_that_cannot_be_read_hides_no_other_and_goes_with_its_chamber(api, tube):
    Rig.objects.filter(slug="back").update(supply="steam")
    forget()
    strips = {s["slug"]: s for s in api.ok("GET", "rigs")}
    assert strips["back"]["unreadable"] and not strips["front"]["unreadable"]
    assert [f["rule"] for f in api.ok("GET", "rigs/front")["purpose_findings"]] == ["zones.not-reckoned"]
    assert situation_of(Rig.objects.get(slug="front"), Plan()).rig.rests_c == 21.0
    assert "cannot be read" in api.refused("GET", tube)["reason"]
    assert not list(joints_among({r.pk for r in Rig.objects.all()}))
    front = {**FRONT, "working_c": 880, "revision": api.ok("GET", "rigs/front")["revision"]}
    api.ok("PUT", "rigs/front/purpose", front)
    api.ok("DELETE", f"rigs/back?revision={Rig.objects.get(slug='back').revision}")
    assert api.ok("GET", "chambers")["chambers"] == [] and not api.ok("GET", "rigs/front")["zone_of"]


def test_a_zone_that_was_repaired_is_one_still_where_it_can_be(api, tube):
    api.ok("POST", "rigs/back/repair")
    assert api.ok("GET", "rigs/back")["zone_of"]["name"] == "Tube"
    Rig.objects.filter(slug="back").update(supply="steam")
    forget()
    api.ok("POST", "rigs/back/repair")
    zone_of = api.ok("GET", "rigs/back")["zone_of"]
    assert zone_of is None or api.ok("GET", tube)["zones"]


def found(slug, among):
    """As Tuning keeps it."""
    ends = (("K", 9.0), ("τ", 1800.0), ("L", 30.0), ("100 K/τ", 30.0))
    figures = [{"symbol": s, "value": v, "low": 0.95 * v, "high": 1.05 * v} for s, v in ends]
    return Identification.objects.create(
        rig=Rig.objects.get(slug=slug),
        at=timezone.now(),
        start_s=0.0,
        end_s=9000.0,
        gain=9.0,
        lag_s=1800.0,
        dead_time_s=30.0,
        verdict="supported",
        result={"figures": figures, "among": among},
    )


def test_a_process_is_of_it_by_itself_or_among_others_and_reckoned_with_as_that(api, tube):
    """The gain that guards reckon with: as found where it was found so, more by itself, less among others."""

    def full_rise(slug):
        return float(family(situation_of(Rig.objects.get(slug=slug), Plan()).rig).likely.equilibrium_rise()[1])

    found("front", 0.25)
    assert full_rise("front") == pytest.approx(900.0)
    alone = found("back", 0.0)
    share = situation_of(alone.rig, Plan()).rig.purpose.neighbours.share
    assert full_rise("back") == pytest.approx(900.0 * (1.0 - share))
    api.ok("DELETE", f"{tube}?revision=1")
    assert full_rise("front") == pytest.approx(900.0 / 0.75) and full_rise("back") == pytest.approx(900.0)
    said = {slug: [f["rule"] for f in api.ok("GET", f"rigs/{slug}")["purpose_findings"]] for slug in ("front", "back")}
    assert "zones.found-among" in said["front"] and "zones.found-among" not in said["back"]


def test_candidates_are_tried_on_what_a_zone_is_among_the_others(api, tube):
    """Found by itself it is less hot among them; its set-point is held from where they keep it. Found among them it is as it was found."""
    alone, beside = found("back", 0.0), found("front", 0.25)
    share = situation_of(alone.rig, Plan()).rig.purpose.neighbours.share
    own, other = (tried_on(row.rig, row) for row in (alone, beside))
    assert own.process.gain == pytest.approx(9.0 * (1.0 - share)) and own.process.lag_s == pytest.approx(
        1800 * (1 - share)
    )
    assert all(p.gain <= 9.0 * 1.06 * (1.0 - share) for p in own.possible)
    assert other.process.gain == 9.0 and own.beside == share
    assert "other zones get warmer" in happens(own.stage, Trial.NEIGHBOUR)
    hand = {"numbers": {"proportional_band_c": 20.0, "integral_time_s": 600.0}, "trial": "neighbour"}
    told = api.ok("POST", "rigs/back/tuning/try", hand)
    assert told["neighbour"][0]["value"] > 0 and told["down"] == [] and told["course"]["figures"] == told["neighbour"]
    keys = ["on_off"]
    assert api.ok("POST", "rigs/back/tuning/trials", {"trial": "neighbour", "candidates": keys})["candidates"]
    api.ok("DELETE", f"{tube}?revision=1")
    refused = api.refused("POST", "rigs/back/tuning/trials", {"trial": "neighbour", "candidates": keys})
    assert refused["field"] == "trial" and tried_on(alone.rig, alone).process.gain == 9.0
    assert tried_on(beside.rig, beside).process.gain == pytest.approx(9.0 / 0.75)


def test_a_chamber_that_is_parted_while_it_is_read_is_none_of_anything(api, tube, monkeypatch):
    """Its zones are gone between the row and them: asked back, and no rig stands among others; never a failure."""
    monkeypatch.setattr("rellux.server.zones.views.zones_in", lambda row: [])
    monkeypatch.setattr("rellux.server.zones.places.zones_in", lambda row: [])
    monkeypatch.setattr("rellux.server.zones.domain.zones_in", lambda row: [])
    for path in (tube, f"{tube}/heat-up"):
        assert api.refused("GET", path)["field"] == "zones"
    assert api.ok("GET", "rigs/front")["slug"] == "front" and api.ok("GET", "rigs/front/guarding")
    assert not list(joints_among({r.pk for r in Rig.objects.all()}))


def test_what_is_none_only_once_it_is_joined_is_refused_as_a_whole(api, tube):
    """Found by itself it loses hardly anything: among others, these keep it warm. Before it is one of them that is not seen."""
    api.ok("DELETE", f"{tube}?revision=1")
    row = found("back", 0.0)
    row.result["figures"][0] |= {"value": 9000.0, "low": 8900.0, "high": 9100.0}
    row.save()
    assert "would keep" in api.refused("POST", "chambers", TUBE)["reason"]
    assert api.ok("GET", "chambers")["chambers"] == []


def test_zones_that_can_no_longer_be_ones_are_not_reckoned_with_and_can_be_parted(api, tube):
    """What was found of one says that it loses so little that the other would keep it warm by itself."""
    row = found("back", 0.0)
    row.result["figures"][0] |= {"value": 9000.0, "low": 8900.0, "high": 9100.0}
    row.save()
    forget()
    assert situation_of(row.rig, Plan()).rig.rests_c == 21.0
    assert "zones.not-reckoned" in [f["rule"] for f in api.ok("GET", "rigs/back")["purpose_findings"]]
    assert "would keep" in api.refused("GET", tube)["reason"]
    assert "would keep" in api.refused("GET", f"{tube}/heat-up")["reason"]
    api.ok("DELETE", f"{tube}?revision=1")


def test_a_file_whose_process_says_nonsense_of_its_neighbours_is_refused(api, tube):
    for nonsense in (1.0, -0.1, True, "much", None):
        row = found("front", nonsense)
        with pytest.raises(Refused):
            among(row)


def test_simulated_zones_warm_one_another(api, tube, monkeypatch):
    """The back one is off, and is kept warm by the front one as the equations of both say."""
    rigs = [Rig.objects.get(slug=s) for s in ("front", "back")]
    links = [Link(rig=r, stand_in=True, speed=1.0, unit_id=1) for r in rigs]
    ovens = {r.pk: StandIn(config_of(link)) for r, link in zip(rigs, links, strict=True)}
    joined = beside_of(ovens.keys())
    assert {len(v) for v in joined.values()} == {1}
    for pk, oven in ovens.items():
        oven.lie_beside(tuple((g, ovens[other]) for g, other in joined[pk]))
    front, back = ovens.values()
    front.take("output", 60.0)
    now = time.monotonic()
    for _ in range(200):
        now += 60.0
        monkeypatch.setattr(time, "monotonic", lambda now=now: now)
        front.catch_up(), back.catch_up()
    warm = [o.chamber_c - 21.0 for o in (front, back)]
    network = config_of(links[1]).network
    g = joined[rigs[1].pk][0][0]
    loss = network.heater_power_w / float(network.equilibrium_rise()[1])
    assert warm[0] > 500 and warm[1] == pytest.approx(warm[0] * g / (g + loss), rel=0.05)
    for oven in ovens.values():
        oven.lie_beside(())
    assert replace(config_of(links[0]), speed=2.0).network == config_of(links[0]).network


def findings_at(slug):
    rows = findings_of(Rig.objects.get(slug=slug))
    return {(s.value, f.rule, f.subjects): f.severity for s, of in rows.items() for f in of}


@pytest.mark.parametrize(
    "change", [{"working_c": 800, "lowest_c": None}, {"heater_power_w": 300.0}, {"highest_c": 990}, {"name": "Fore"}]
)
def test_what_a_change_means_for_the_other_zones_is_told_before_it_is_saved_and_nothing_of_it_stays(api, tube, change):
    view = api.ok("GET", "rigs/front")
    body = {"name": view["name"], "kind": view["kind"], **view["purpose"], **change, "revision": view["revision"]}
    before, revision = findings_at("back"), Rig.objects.get(slug="back").revision
    told = api.ok("POST", "rigs/front/purpose/try", body)["neighbours"]
    assert [(n["slug"], n["name"]) for n in told] == [("back", "Back")]
    assert Rig.objects.get(slug="back").revision == revision and findings_at("back") == before
    api.ok("PUT", "rigs/front/purpose", body)
    forget()
    after = findings_at("back")
    order = ["danger", "fault", "advice"]
    key = lambda h: (h["station"], h["finding"]["rule"], tuple(h["finding"]["subjects"]))  # noqa: E731
    graver = {k for k, s in after.items() if k not in before or order.index(s) < order.index(before[k])}
    assert {key(h) for h in told[0]["new"]} == graver and {
        key(h) for h in told[0]["settled"]
    } == before.keys() - after.keys()
