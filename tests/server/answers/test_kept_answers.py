"""What a browser may keep, and what a read costs the database however many rigs there are."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from rellux.server.rigs import revised
from tests.server.conftest import CABINET

KEPT = ["faults", "solved", "memory", "meter", "schedule", "usual"]


@pytest.mark.parametrize("what", KEPT)
def test_an_unchanged_rig_is_not_computed_or_sent_again(api, rig, revision, what):
    url = f"/api/v1/rigs/{rig}/wiring/{what}"
    first = api.client.get(url)
    tag = first.headers["ETag"]
    again = api.client.get(url, headers={"if-none-match": tag})
    assert (first.status_code, again.status_code, again.content) == (200, 304, b"")
    assert "no-cache" in first.headers["Cache-Control"]  # kept, and asked about each time
    api.ok("POST", f"rigs/{rig}/wiring", {"revision": revision()})
    changed = api.client.get(url, headers={"if-none-match": tag})
    assert changed.status_code == 200 and changed.headers["ETag"] != tag


def test_the_answer_of_another_version_is_not_taken(api, rig, monkeypatch):
    url = f"/api/v1/rigs/{rig}/wiring/memory"
    tag = api.client.get(url).headers["ETag"]
    monkeypatch.setattr(revised, "code_version", lambda: "another")
    assert api.client.get(url, headers={"if-none-match": tag}).status_code == 200


def queries(api, path: str) -> int:
    api.ok("GET", path)
    with CaptureQueriesContext(
        connection,
    ) as seen:
        api.ok("GET", path)
    return len(seen)


def test_the_workshop_asks_as_often_for_twenty_rigs_as_for_two(api, rig):
    counts = []
    for total in (2, 20):
        while len(api.ok("GET", "rigs")) < total:
            name = f"Cabinet {len(api.ok('GET', 'rigs'))}"
            api.ok("POST", "rigs", {**CABINET, "name": name})
        counts.append(queries(api, "rigs"))
    assert counts[0] == counts[1] <= 8
