"""An import says how far it is, can be stopped at any moment without leaving anything, and brings every channel of the log along."""

import io
from pathlib import Path

import numpy as np
import pandas
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from rellux.server.runs import store
from rellux.server.runs.models import RememberedMapping, Run, Upload
from rellux.server.runs.uploads import Progress

HEAD = "time_s,oven temp,set temp,out %,limiter temp,part temp,heater (A),door,part temp 2\n"


def log(rows):
    t = np.arange(rows) * 0.5
    lines = (
        f"{a},{20 + a % 50:.1f},65,{a % 100:.0f},{21 + a % 50:.1f},{19 + a % 40:.1f},{a % 3:.2f},{int(a) % 2},5"
        for a in t
    )
    return (HEAD + "\n".join(lines) + "\n").encode()


@pytest.fixture
def uploaded(api):
    def send(rows):
        sent = api.client.post("/api/v1/uploads", {"file": SimpleUploadedFile("oven.csv", log(rows))})
        assert sent.status_code == 201, sent.content
        return sent.json()

    return send


def mapping_of(answer):
    guess = answer["guess"]
    kept = ("delimiter", "decimal", "header", "time_format", "unit", "skip", "units_row", "output_scale")
    return {
        **{k: guess[k] for k in kept},
        "columns": {c["role"]: i for i, c in enumerate(guess["columns"]) if c["role"]},
    }


def bring(api, rig, answer, **changed):
    return api(
        "POST", f"rigs/{rig}/runs/import", {"upload": answer["id"], "mapping": {**mapping_of(answer), **changed}}
    )


def test_every_channel_of_a_log_comes_along(api, rig, uploaded):
    answer = uploaded(200)
    status, run = bring(api, rig, answer)
    assert status == 201, run
    (track,) = run["tracks"]
    assert {c["role"]: (c["name"], c["kind"]) for c in track["channels"]} == {
        "limiter": ("limiter temp", "temperature"), "load": ("part temp", "temperature"), "current": ("heater (A)", "current"),
        "door": ("door", ""),
    }  # fmt: skip
    held = Run.objects.get(pk=run["id"])
    back = store.read(held.tracks.get())
    given = pandas.read_csv(io.BytesIO(log(200)))
    for channel, column in zip(track["channels"], back.values, strict=True):
        assert np.allclose(column, given[channel["name"]], atol=1e-5), channel
    assert np.array_equal(back.time_s, store.read(held).time_s)


def test_it_says_how_far_it_is(api, rig, uploaded, monkeypatch):
    told = []
    tell = Progress.tell
    monkeypatch.setattr(Progress, "tell", lambda self, share: told.append(share) or tell(self, share))
    answer = uploaded(70_000)
    path = Path(Upload.objects.get(pk=answer["id"]).path)
    status, run = bring(api, rig, answer)
    assert status == 201 and run["samples"] == 70_000
    assert told == sorted(told) and told[-1] == 1.0 and len(told) > 4
    assert not path.exists() and not path.with_suffix(".share").exists()


@pytest.mark.parametrize("at", [0.05, 0.3, 0.55, 0.7, 1.0])
def test_stopped_at_any_moment_nothing_is_kept(api, rig, uploaded, monkeypatch, at):
    answer = uploaded(70_000)
    path = Path(Upload.objects.get(pk=answer["id"]).path)
    tell = Progress.tell

    def press(self, share):
        if share >= at and path.exists():
            assert api("DELETE", f"uploads/{answer['id']}/import")[0] == 204
        tell(self, share)

    monkeypatch.setattr(Progress, "tell", press)
    status, told = bring(api, rig, answer)
    assert status == 400 and "it was stopped: nothing was brought in" in told["problems"][0]["reason"]
    assert not Run.objects.exists() and not RememberedMapping.objects.exists()
    assert not path.exists() and not path.with_suffix(".share").exists()
    assert (
        "gone"
        in api.refused("POST", f"rigs/{rig}/runs/import", {"upload": answer["id"], "mapping": mapping_of(answer)})[
            "reason"
        ]
    )


def test_a_share_can_be_asked_for_at_any_time(api, uploaded):
    answer = uploaded(30)
    asked = f"uploads/{answer['id']}/import"
    assert api.ok("GET", asked) == {"share": 0.0}
    beside = Path(Upload.objects.get(pk=answer["id"]).path).with_suffix(".share")
    for written, share in (("0.5", 0.5), ("", 0.0), ("0.", 0.0), ("x", 0.0)):  # caught while being written
        beside.write_text(written)
        assert api.ok("GET", asked) == {"share": share}
    assert api("GET", "uploads/999/import")[0] == 404


def test_a_column_that_is_a_role_twice_or_garbled_is_asked_back(api, rig, uploaded):
    answer = uploaded(60)
    columns = mapping_of(answer)["columns"]
    assert bring(api, rig, answer, columns={**columns, "zone_1": columns["load"]})[0] == 400
    status, told = bring(api, rig, answer, columns={**columns, "door": columns["limiter"]})
    assert status == 400 and told["problems"][0]["field"] in ("columns", "columns.door")
    del columns["limiter"]
    status, told = bring(api, rig, answer, columns={**columns, "door": 4})
    assert status == 400 and told["problems"][0]["field"] == "columns.door" and not Run.objects.exists()


@pytest.mark.parametrize("rows", [20, 3000, 9000])
@pytest.mark.parametrize("ends", ["\n", "\r\n"])
def test_the_beginning_is_understood_as_all_of_it_will_be_and_nothing_of_it_is_kept(api, uploaded, rows, ends):
    """However it is cut: at the 65,536th byte a line, or a degree sign, may be half."""
    whole = log(rows).replace(b"oven temp", b"oven \xc2\xb0C" * (1 + rows % 7)).replace(b"\n", ends.encode())
    cut = SimpleUploadedFile("oven.csv", whole[:65_536])
    seen = api.client.post("/api/v1/uploads/beginning", {"file": cut}).json()
    assert not Upload.objects.exists()
    sent = api.client.post("/api/v1/uploads", {"file": SimpleUploadedFile("oven.csv", whole)}).json()
    assert seen["guess"] == sent["guess"]
    assert [c["role"] for c in seen["guess"]["columns"]][:2] == ["time", "reading"]


def test_of_the_beginning_too_a_wrong_correction_is_refused_and_a_packed_file_waits_for_its_rest(api):
    def look(content, asked=""):
        return api.client.post(f"/api/v1/uploads/beginning{asked}", {"file": SimpleUploadedFile("oven.csv", content)})

    assert look(log(50), "?delimiter=tabs").json()["problems"][0]["field"] == "delimiter"
    assert look(log(50), "?skip=-3").status_code == 400
    assert look(log(50), "?skip=4").json()["guess"]["skip"] == 4
    for begins in (b"PK\x03\x04", b"PAR1", b'{"t": 1'):
        assert look(begins + b"\x00" * 60_000).json() == {"guess": None, "remembered": None}
    assert api.client.post("/api/v1/uploads/beginning", {}).json()["problems"][0]["field"] == "file"
