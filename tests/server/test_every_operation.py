"""Every operation of the API with whatever its own schema allows and what it does not: answered as the schema says, never with an
internal error, and nothing of a refused change stays.

Stateful where it matters: a generated change carries the rig's present revision half of the time and names rigs, runs, wires and
parts that exist, so that it gets past the first check and the workshop wanders as it would in use.
"""

import json
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
import schemathesis
import yaml
from django.core.signals import request_finished, request_started
from django.core.wsgi import get_wsgi_application
from django.db import close_old_connections
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from rellux.server.equipment.models import Equipment
from rellux.server.links import safe_off, write_views
from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.models import Rig
from rellux.server.runs.models import Run
from tests.examples import cases
from tests.server.links.test_links_api import HELD, WINDOW

from .conftest import CABINET, PARTS, Api, wired

DOCUMENT = yaml.safe_load((Path(__file__).resolve().parents[2] / "docs/openapi.yaml").read_text())
EXAMPLES = cases(1)
TOKEN = "x" * 32
THERE = {"name": "E1", "key": "warm", "form": "json", "piece": "wire"}
WIRE = {
    "a": "A1.AL1",
    "b": "F1.1",
    "area_mm2": 1.0,
    "colour": "black",
    "length_m": 1.0,
    "insulation": "pvc",
    "route": "",
}
OFFSET = {
    "pairs": [{"display_c": 61.0, "reference_c": 60.0}],
    "limit_c": 20.0,
    "setpoint_c": 60.0,
    "reference_u_c": 0.1,
}
OWN = {"kind": "lamp", "title": "Lamp with numbers", "numbers": {"X1": "11", "X2": "12"}}
PIECE = {"name": "S-01", "role": "sensor", "probe": {"sensor": "K", "leads": 2}}
GOOD = {
    ("POST", "/equipment"): {**PIECE, "name": "S-02"},
    ("PUT", "/equipment/{key}"): {**PIECE, "revision": 1},
    ("POST", "/equipment/{key}/fit"): {"rig": "", "revision": 1, "rig_revision": 1, "why": "tried"},
    ("POST", "/equipment/{key}/take-out"): {"revision": 1, "why": "tried"},
    ("POST", "/equipment/{key}/remarks"): {"revision": 1, "text": "hums"},
    ("POST", "/equipment/{key}/scrap"): {"revision": 1, "scrapped": False, "why": "pitted"},
    ("POST", "/rigs"): CABINET,
    ("PUT", "/rigs/{slug}/purpose"): CABINET,
    ("PUT", "/rigs/{slug}/parts"): PARTS,
    ("POST", "/rigs/{slug}/parts/try"): PARTS,
    ("POST", "/rigs/{slug}/calibration/preview"): OFFSET,
    ("POST", "/rigs/{slug}/calibration"): {"offset": OFFSET, "reference": "ice bath", "enter": True},
    ("POST", "/rigs/{slug}/wiring/wires"): WIRE,
    ("PUT", "/rigs/{slug}/wiring/wires/{number}"): WIRE,
    ("POST", "/rigs/{slug}/wiring/parts"): {"kind": "lamp", "name": "H9"},
    ("POST", "/rigs/{slug}/wiring/paste"): {"text": "A1.AL1, F1.1, 1, black"},
    ("POST", "/rigs/{slug}/wiring/meter"): {
        "measured": [{"a": "A1.L", "b": "A1.N", "value": 230.0, "state": "output on"}]
    },
    ("POST", "/rigs/{slug}/wiring/position"): {"operated": [], "output_on": True},
    ("PUT", "/rigs/{slug}/wiring/parts/{name}/ratings"): {"ratings": {"power_w": 250.0}},
    ("PUT", "/rigs/{slug}/link"): {"stand_in": True, "poll_s": 0.5, "speed": 10.0},
    ("POST", "/rigs/{slug}/link/arm"): {"armed": True, "window": WINDOW},
    ("POST", "/rigs/{slug}/link/write"): {"values": {"setpoint_c": 59.0}, "window": WINDOW},
    ("PUT", "/rigs/{slug}/setup"): {"values": {"hysteresis_c": 2.0}, "kind": "as_left", "why": ""},
    ("POST", "/rigs/{slug}/accept"): {"target": "setup.hysteresis_c", "value": 1.5},
    ("POST", "/questions/{key}"): {"values": {"heat_w": 20.0}},
    ("PUT", "/rigs/{slug}/questions/{key}"): {"values": {"heat_w": 20.0}},
    ("POST", "/library"): OWN,
    ("PUT", "/library/{key}"): OWN,
    ("POST", "/rigs/{slug}/runs"): {"name": "Heat-up"},
    ("POST", "/rigs/{slug}/runs/{number}/notes"): {"text": "door open"},
}
"""Bodies that are taken, so that one strange field at a time gets past all the others."""


def application():
    """Django, with its schema beside it."""
    django = get_wsgi_application()

    def serve(environ: dict[str, Any], start: Any) -> Any:
        if environ["PATH_INFO"] == "/openapi.json":
            start("200 OK", [("Content-Type", "application/json")])
            return [json.dumps(DOCUMENT).encode()]
        return django(environ, start)

    return serve


SCHEMA = schemathesis.openapi.from_wsgi("/openapi.json", application())
SCHEMA.config.phases.coverage.enabled = (
    False  # methods and headers that do not exist, over and over: the hostile files do that
)


@pytest.fixture
def workshop(db, monkeypatch):
    """A wired and linked rig with a run; nobody is waited for."""
    monkeypatch.setattr(write_views, "ANSWER_S", 0.0)
    monkeypatch.setattr(write_views, "SENDING_S", 0.0)
    monkeypatch.setattr(safe_off, "RECORDER_S", 0.0)
    monkeypatch.setattr(safe_off, "CONFIRM_S", 0.0)
    return Workshop()


@contextmanager
def on_one_connection():
    """Requests would close the connection the test is rolled back on."""
    for signal in (request_started, request_finished):
        signal.disconnect(close_old_connections)
    try:
        yield
    finally:
        for signal in (request_started, request_finished):
            signal.connect(close_old_connections)


class Workshop:
    """What exists, made again when it was taken away."""

    def __init__(self) -> None:
        self.api, self.turn = Api(), 0

    def rig(self) -> Rig:
        found = Rig.objects.filter(sensor__gt="").first()
        if found is None:
            found = Rig.objects.get(slug=wired(self.api, CABINET, PARTS))
        if not found.runs.exists():
            Run.objects.create(rig=found, name="r", source="csv", status="finished", started_at=timezone.now())
        link, _ = Link.objects.get_or_create(rig=found, defaults={"stand_in": True, "port": 1502})
        LinkState.objects.update_or_create(
            link=link, defaults={"at": timezone.now(), "online": True, "values": HELD, "generation": link.generation}
        )
        return found

    def aim(self, case: Any) -> None:
        """Every other call at what exists, on the rig's present revision; half of those otherwise good, but for one field."""
        self.turn += 1
        rig = self.rig()
        if self.turn % 2:
            return
        run, wire = rig.runs.first(), rig.wires.first()
        of_wire = "wires" in case.path or "built" in case.path
        there = {**THERE, "slug": rig.slug, "number": wire.number if of_wire and wire else run.pk}
        piece = Equipment.objects.last() or Equipment.objects.create(**PIECE)
        if "equipment" in case.path:
            there["key"] = piece.pk
        case.path_parameters.update({name: there[name] for name in case.path_parameters if name in there})
        good = GOOD.get((case.method, case.path.removeprefix("/api/v1")))
        if good is not None and isinstance(case.body, dict) and self.turn % 4:
            spoilt = [None, *sorted(good)][self.turn // 4 % (len(good) + 1)]
            case.body = good | ({spoilt: case.body[spoilt]} if spoilt in case.body else {})
            if "revision" in self.asked(case):
                case.body["revision"] = rig.revision
        for holder in (case.body, case.query):
            if isinstance(holder, dict) and "revision" in holder:
                holder["revision"] = piece.revision if "equipment" in case.path else rig.revision
            if isinstance(holder, dict) and "rig_revision" in holder:
                holder |= {"rig_revision": rig.revision, "rig": rig.slug}
        if isinstance(case.body, dict) and "window" in case.body:
            case.body["window"] = WINDOW

    def asked(self, case: Any) -> dict[str, Any]:
        """The properties of the body an operation takes."""
        body = DOCUMENT["paths"][case.path][case.method.lower()]["requestBody"]["content"]["application/json"]["schema"]
        return DOCUMENT["components"]["schemas"][body["$ref"].rsplit("/", 1)[1]]["properties"]


OPERATIONS = [found.ok() for found in SCHEMA.get_all_operations()]


@pytest.mark.parametrize("operation", OPERATIONS, ids=lambda operation: operation.label)
def test_it_answers_as_its_schema_says(operation, workshop):
    """Named by its operation: tests of one name are taken for one where workers share them out."""

    @settings(
        max_examples=EXAMPLES, derandomize=True, phases=[Phase.explicit, Phase.generate], deadline=None,
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(operation.as_strategy())
    def answers(case):
        workshop.aim(case)
        revisions = dict(Rig.objects.values_list("pk", "revision"))
        lines = {r.pk: r.entries.count() for r in Rig.objects.all()}
        with on_one_connection():
            response = case.call(headers={"X-CSRFToken": TOKEN}, cookies={"csrftoken": TOKEN})
        case.validate_response(
            response, checks=[not_a_server_error, status_code_conformance, response_schema_conformance]
        )
        if 400 <= response.status_code < 500 and "link" not in case.path:
            assert dict(Rig.objects.values_list("pk", "revision")) == revisions
            assert {r.pk: r.entries.count() for r in Rig.objects.all()} == lines
        if response.status_code == 400:
            assert response.json()["problems"][0]["reason"]

    answers()


def test_there_is_a_test_for_every_operation():
    methods = ("get", "post", "put", "delete", "patch")
    assert (
        len({o.label for o in OPERATIONS})
        == sum(m in methods for path in DOCUMENT["paths"].values() for m in path)
        > 90
    )
