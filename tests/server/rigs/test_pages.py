"""The page itself, the files kept beside the database, and the book's upkeep."""

import stat
from datetime import timedelta
from pathlib import Path

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client
from django.utils import timezone

from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run, Upload


def test_every_address_of_the_interface_is_the_one_page(db):
    for path in ("/", "/rigs/anything/tuning", "/questions/mistake"):
        page = Client().get(path)
        assert page.status_code == 200 and b'id="root"' in page.content
        assert page["Cache-Control"] == "no-store" and "csrftoken" in page.cookies


def test_the_page_carries_this_responses_nonce_and_no_inline_code(db):
    page = Client().get("/")
    nonce = page["Content-Security-Policy"].split("'nonce-")[1].split("'")[0]
    html = page.content.decode()
    assert f'content="{nonce}"' in html and "__NONCE__" not in html
    assert "<style" not in html and all("src=" in part.split(">")[0] for part in html.split("<script")[1:])


def test_before_the_interface_is_built_the_page_says_how(db, settings, tmp_path):
    settings.WEB = tmp_path
    page = Client().get("/")
    assert page.status_code == 503 and b"./rellux demo" in page.content


def test_unknown_api_addresses_answer_in_json(db):
    answer = Client().get("/api/v1/nothing")
    assert answer.status_code == 404 and answer.json()["message"] == "There is no such thing here."


def test_the_secret_key_is_the_owners_alone():
    key = settings.LOGS.with_name(
        "secret-key"
    )  # made when the settings were read, before each worker got a folder of its own
    assert stat.S_IMODE(key.stat().st_mode) == 0o600 and len(key.read_text()) > 40


@pytest.mark.long
def test_the_demo_is_loaded_once_and_never_over_somebodys_rigs(db):
    call_command("prepare")
    assert not Rig.objects.exists()
    call_command("prepare", demo=True)
    Rig.objects.filter(slug="cement-cabinet").update(name="Mine now")
    call_command("prepare", demo=True)
    assert Rig.objects.count() == 10 and Rig.objects.filter(name="Mine now").exists()


def test_uploads_nobody_imported_go_after_a_day(api, rig):
    def upload():
        file = SimpleUploadedFile("log.csv", b"t,pv\n0,21\n1,22\n")
        return Upload.objects.get(pk=api.client.post("/api/v1/uploads", {"file": file}).json()["id"])

    old = upload()
    Upload.objects.update(created_at=timezone.now() - timedelta(days=2))
    new = upload()
    assert not Path(old.path).exists() and Path(new.path).exists()
    gone = {
        "upload": old.pk,
        "mapping": {
            "delimiter": ",",
            "decimal": ".",
            "header": True,
            "time_format": "seconds",
            "unit": "C",
            "columns": {"time": 0, "reading": 1},
        },
    }
    assert api("POST", f"rigs/{rig}/runs/import", gone)[0] == 404


def test_a_file_that_vanished_is_told(api, rig):
    file = SimpleUploadedFile("log.csv", b"t,pv\n0,21\n1,22\n")
    up = api.client.post("/api/v1/uploads", {"file": file}).json()
    Path(Upload.objects.get().path).unlink()
    columns = {"time": 0, "reading": 1}
    mapping = {
        "delimiter": ",",
        "decimal": ".",
        "header": True,
        "time_format": "seconds",
        "unit": "C",
        "columns": columns,
    }
    problem = api.refused("POST", f"rigs/{rig}/runs/import", {"upload": up["id"], "mapping": mapping})
    assert problem["accepted"] == "upload it again"


def test_a_request_without_a_file_says_what_is_missing(api):
    assert api.client.post("/api/v1/uploads", {}).json()["problems"][0]["field"] == "file"
    assert api.client.post("/api/v1/rigs/import", {}).json()["problems"][0]["field"] == "file"


def test_runs_are_renamed_but_not_to_nothing(api, rig):
    run = Run.objects.create(
        rig=Rig.objects.get(slug=rig), name="r", source="csv", status="finished", started_at=timezone.now()
    )
    assert api.ok("PUT", f"rigs/{rig}/runs/{run.pk}", {"name": " Morning "})["name"] == "Morning"
    assert api.refused("PUT", f"rigs/{rig}/runs/{run.pk}", {"name": " "})["field"] == "name"


def test_a_run_of_another_rig_is_not_found_here(api, rig):
    from tests.server.conftest import CABINET

    other = api.ok("POST", "rigs", CABINET)["slug"]
    run = Run.objects.create(
        rig=Rig.objects.get(slug=other), name="r", source="csv", status="finished", started_at=timezone.now()
    )
    assert api("GET", f"rigs/{rig}/runs/{run.pk}")[0] == 404
    assert api("POST", f"rigs/{rig}/tuning/identify", {"run": run.pk})[0] == 404
