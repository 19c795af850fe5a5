"""One rig, one file: out, into an empty database, and the same again; and files that are not what they should be."""

import io
import json
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.server.links.models import Instrument, Link
from rellux.server.rigs.models import Rig
from rellux.server.rigs.overview import findings_of
from tests.server.workshop import load_demo


def export(api, slug):
    return b"".join(api.client.get(f"/api/v1/rigs/{slug}/export").streaming_content)


def bring_in(api, data, name="rig.zip"):
    response = api.client.post("/api/v1/rigs/import", {"file": SimpleUploadedFile(name, data)})
    return response.status_code, response.json()


def contents(data):
    archive = zipfile.ZipFile(io.BytesIO(data))
    return {n: archive.read(n) for n in archive.namelist()}


def zipped(files):
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return buffer.getvalue()


@pytest.fixture
def demo(api):
    load_demo()
    return export(api, "cement-cabinet")


def test_export_and_import_give_the_same_rig(api, demo):
    Rig.objects.all().delete()
    status, answer = bring_in(api, demo)
    assert status == 201 and answer["slug"] == "cement-cabinet"
    before, after = contents(demo), contents(export(api, "cement-cabinet"))
    assert before.keys() == after.keys()
    assert all(before[n] == after[n] for n in before if n.startswith("runs/"))
    first, second = json.loads(before["rig.json"]), json.loads(after["rig.json"])
    imported = second["entries"].pop()
    assert imported["title"].startswith("Imported from")
    assert first == second
    assert api.ok("GET", "rigs/cement-cabinet/tuning")["identified"]["verdict"] in ("supported", "slope_only")


def test_a_password_leaves_with_no_file_and_stands_in_no_book(api, demo):
    link = {
        "stand_in": False,
        "way": "mqtt",
        "host": "broker",
        "port": 8883,
        "device": "oven/1",
        "register_map": "text",
    }
    known = {**link, "username": "bench", "password": "open sesame", "encrypted": True}
    api.ok("PUT", "rigs/cement-cabinet/link", known)
    api.ok("POST", "rigs/cement-cabinet/instruments", {**known, "name": "Second"})
    files = contents(export(api, "cement-cabinet"))
    assert not any(b"open sesame" in data for data in files.values())
    assert "open sesame" not in str(api.ok("GET", "rigs/cement-cabinet/book"))
    twin = api.ok("POST", "rigs/cement-cabinet/double", {"name": "Twin"})["slug"]
    assert not any(
        held.password for held in (*Link.objects.filter(rig__slug=twin), *Instrument.objects.filter(rig__slug=twin))
    )


def test_a_question_of_before_comes_in_under_its_name_of_today(api, demo):
    data = json.loads(contents(demo)["rig.json"])
    data["kept"].append({**data["kept"][0], "question": "firing", "values": {"way": "angle", "power_percent": 30.0}})
    Rig.objects.all().delete()
    assert bring_in(api, changed(demo, **{"rig.json": json.dumps(data)}))[0] == 201
    kept = {k["key"] for k in api.ok("GET", "rigs/cement-cabinet/questions")}
    assert "phase_angle" in kept


def changed(demo, **files):
    return zipped({**contents(demo), **files})


def with_rig(demo, change):
    rig = json.loads(contents(demo)["rig.json"])
    change(rig)
    return changed(demo, **{"rig.json": json.dumps(rig)})


BAD = [
    ("not a zip", lambda d: b"hello", "not a rig file"),
    (
        "a wrong version",
        lambda d: changed(d, **{"rellux.json": '{"format": "rellux-rig", "version": 99}'}),
        "version 99",
    ),
    ("another format", lambda d: changed(d, **{"rellux.json": '{"format": "other"}'}), "not a rig exported"),
    ("a path in a name", lambda d: changed(d, **{"../../etc/passwd": "x"}), "does not belong"),
    ("a missing part", lambda d: zipped({"rellux.json": contents(d)["rellux.json"]}), "rig.json is missing"),
    (
        "a run without its file",
        lambda d: zipped({k: v for k, v in contents(d).items() if k != "runs/2.csv"}),
        "missing or damaged",
    ),
    ("damaged rows", lambda d: changed(d, **{"runs/1.csv": "time_s,reading_c\n0,x\n"}), "missing or damaged"),
    ("a damaged rig", lambda d: with_rig(d, lambda r: r.pop("wires")), "damaged"),
    ("an impossible rig", lambda d: with_rig(d, lambda r: r["rig"].update(working_c=9000)), "no sensor"),
    ("an unknown part", lambda d: with_rig(d, lambda r: r["parts"][0].update(kind="reactor")), "no kind of part"),
    ("an impossible wire", lambda d: with_rig(d, lambda r: r["wires"][0].update(a="Z9.1")), "no part 'Z9'"),
]


@pytest.mark.parametrize(("what", "spoil", "says"), BAD, ids=[b[0] for b in BAD])
def test_a_bad_file_is_refused_and_leaves_nothing(api, demo, what, spoil, says):
    before = Rig.objects.count()
    status, answer = bring_in(api, spoil(demo))
    assert status == 400 and says in str(answer["problems"])
    assert Rig.objects.count() == before


def test_a_zip_bomb_is_refused(api):
    status, answer = bring_in(api, zipped({"rig.json": b"0" * 5_000_000}))
    assert status == 400 and "suspicious" in answer["problems"][0]["reason"]


def test_the_demo_shows_its_mistakes(api, demo):
    strips = {s["slug"]: s for s in api.ok("GET", "rigs")}
    assert len(strips) == 10 and all(s["findings"] for s in strips.values())
    found = {f.rule for rig in Rig.objects.all() for fs in findings_of(rig).values() for f in fs}
    believable = {
        "wiring.limiter",
        "wiring.probes-exchanged",
        "sink.hot",
        "along.hot",
        "wire.fitted",
        "box.hot",
        "mosfet.gate",
        "purpose.material",
        "setup.offset-inherited",
    }
    assert believable <= found
    rules = {f["rule"] for f in api.ok("GET", "rigs/blank-annealer/setup")["findings"]}
    assert "setup.offset-inherited" in rules
    run = next(r for r in api.ok("GET", "rigs/cement-cabinet/runs") if r["name"] == "Heat-up from cold, on/off")
    shown = api.ok("GET", f"rigs/cement-cabinet/runs/{run['id']}/metrics")
    ripple = next(f for f in shown["figures"] if "ripple" in f["name"])
    assert ripple["value"] > 4
    assert "on/off with {2 Δ°C}" in shown["controlled"] and shown["findings"] == []
