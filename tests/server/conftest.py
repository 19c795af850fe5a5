"""An API client that speaks JSON, and a rig made through the API."""

import json
from typing import Any

import pytest
from django.test import Client

from rellux.server.rigs.models import Rig
from tests.server.bench import Bench
from tests.server.kept_rows import KeptRows

CABINET = {
    "name": "Cement cabinet",
    "kind": "cabinet",
    "working_c": 60,
    "highest_c": 68,
    "highest_reason": "the cement clouds",
    "lowest_c": 57.5,
    "lowest_reason": "stays soft",
    "ambient_c": 21,
    "supply": "single_phase",
    "supply_voltage_v": 230,
    "heater_power_w": 300,
    "heater_voltage_v": 230,
}
WIRED: dict[str, KeptRows] = {}
PARTS = {"sensor": "N", "output": "relay", "actuator": "relay", "limiter": True, "practice": "iec"}


class Api:
    """Calls paths below /api/v1 and returns (status, body)."""

    def __init__(self) -> None:
        self.client = Client(raise_request_exception=False)

    def __call__(self, method: str, path: str, body: Any = None) -> tuple[int, Any]:
        data = None if body is None else json.dumps(body)
        response = self.client.generic(method, f"/api/v1/{path}", data or "", content_type="application/json")
        content = response.content if not response.streaming else b""
        return response.status_code, json.loads(content) if content.startswith((b"{", b"[")) else content

    def ok(self, method: str, path: str, body: Any = None) -> Any:
        status, answer = self(method, path, body)
        assert status < 300, answer
        return answer

    def refused(self, method: str, path: str, body: Any = None, status: int = 400) -> dict[str, str]:
        """The first problem of a refusal."""
        got, answer = self(method, path, body)
        assert got == status, (got, answer)
        return answer["problems"][0]


def wired(api: Api, purpose: dict[str, Any], parts: dict[str, Any]) -> str:
    """A rig of that purpose with those parts, wired, as a slug."""

    def made() -> str:
        slug: str = api.ok("POST", "rigs", purpose)["slug"]
        revision = api.ok("PUT", f"rigs/{slug}/parts", {**parts, "revision": 1})["revision"]
        api.ok("POST", f"rigs/{slug}/wiring", {"revision": revision})
        return slug

    return WIRED.setdefault(json.dumps([purpose, parts]), KeptRows())(made)


@pytest.fixture
def api(db) -> Api:
    return Api()


@pytest.fixture
def rig(api) -> str:
    """A described rig with parts, wired, as a slug."""
    return wired(api, CABINET, PARTS)


@pytest.fixture
def revision(api, rig):
    """The rig's present revision, asked when called."""
    return lambda: api.ok("GET", f"rigs/{rig}")["revision"]


@pytest.fixture
def bench(transactional_db, rig):
    bench = Bench(Rig.objects.get(slug=rig))
    yield bench
    bench.recorder.stop()
    bench.switch_off()
