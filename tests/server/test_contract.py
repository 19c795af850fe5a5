"""Answers against docs/openapi.yaml: the interface's types are made from it, so the server must keep to it."""

import json
import re
from pathlib import Path

import jsonschema
import pytest
import yaml
from django.utils import timezone

from rellux.server.links.models import Link, LinkState
from rellux.server.rigs.models import Rig
from tests.server.workshop import load_demo

ROOT = Path(__file__).resolve().parents[2]
DOCUMENT = yaml.safe_load((ROOT / "docs/openapi.yaml").read_text())


def as_json_schema(node):
    """OpenAPI 3.0 as JSON schema: ``nullable`` becomes a type of its own, references stay inside the document."""
    if isinstance(node, list):
        return [as_json_schema(n) for n in node]
    if not isinstance(node, dict):
        return node
    found = {k: as_json_schema(v) for k, v in node.items() if k not in ("nullable", "format", "properties")}
    if "properties" in node:  # one of them may be called "format"
        found["properties"] = {k: as_json_schema(v) for k, v in node["properties"].items()}
    if node.get("nullable"):
        return {"anyOf": [found, {"type": "null"}]}
    if "properties" in node and "additionalProperties" not in node:
        found["additionalProperties"] = False
    return found


SCHEMAS = as_json_schema(DOCUMENT["components"]["schemas"])


def schema_of(method, path, status):
    operation = DOCUMENT["paths"][path][method]
    content = operation["responses"][str(status)]["content"]["application/json"]["schema"]
    return {**as_json_schema(content), "components": {"schemas": SCHEMAS}}


READS = [
    "/api/v1/rigs",
    "/api/v1/rigs/{slug}",
    "/api/v1/rigs/{slug}/parts",
    "/api/v1/rigs/{slug}/wiring",
    "/api/v1/rigs/{slug}/setup",
    "/api/v1/rigs/{slug}/tuning",
    "/api/v1/rigs/{slug}/runs",
    "/api/v1/rigs/{slug}/runs/{number}",
    "/api/v1/rigs/{slug}/runs/{number}/window",
    "/api/v1/rigs/{slug}/runs/{number}/metrics",
    "/api/v1/rigs/{slug}/link",
    "/api/v1/rigs/{slug}/calibration",
    "/api/v1/rigs/{slug}/book",
]


@pytest.fixture
def demo(api):
    load_demo()
    for link in Link.objects.all():
        values = {
            "reading_c": 59.9,
            "setpoint_c": 60.0,
            "output": 40.0,
            "switch": 1.0,
            "mode": "on_off",
            "hysteresis_c": 1.0,
        }
        LinkState.objects.create(link=link, at=timezone.now(), online=True, values=values)
    return api


@pytest.mark.parametrize("slug", ["cement-cabinet", "blank-annealer"])
@pytest.mark.parametrize("path", READS)
def test_every_read_keeps_to_the_schema(demo, slug, path):
    number = Rig.objects.get(slug=slug).runs.first().pk
    answer = demo.ok("GET", path.removeprefix("/api/v1/").format(slug=slug, number=number))
    jsonschema.validate(answer, schema_of("get", path, 200))


def test_refusals_keep_to_the_schema(demo):
    status, answer = demo("POST", "rigs", {"name": ""})
    jsonschema.validate(answer, schema_of("post", "/api/v1/rigs", status))


def test_the_calibration_preview_keeps_to_the_schema(demo):
    path = "/api/v1/rigs/{slug}/calibration/preview"
    answer = demo.ok(
        "POST", "rigs/cement-cabinet/calibration/preview", {"pairs": [{"display_c": 61, "reference_c": 60}]}
    )
    jsonschema.validate(answer, schema_of("post", path, 200))


def test_the_live_link_shows_what_differs_from_the_sheet(demo):
    link = demo.ok("GET", "rigs/cement-cabinet/link")
    assert [(d["name"], d["controller"], d["sheet"]) for d in link["differences"]] == [("hysteresis_c", 1.0, 2.0)]


def template_of(method, path):
    """The path of the document that an address is of; one that is written out before one with a place for a key."""
    fits = (p for p in DOCUMENT["paths"] if re.fullmatch(re.sub(r"{\w+}", "[^/]+", p), path))
    return min((p for p in fits if method in DOCUMENT["paths"][p]), key=lambda p: p.count("{"))


def test_what_the_interface_is_tested_with_is_what_the_server_says():
    """Renewed by tools/answers.py."""
    recorded = json.loads((ROOT / "web/src/testing/answers.json").read_text())
    assert len(recorded) > 40
    for row in recorded:
        method, address = row["request"].split(" ")
        path = address.partition("?")[0]
        jsonschema.validate(row["answer"], schema_of(method.lower(), template_of(method.lower(), path), 200))


def figures_in(answer):
    """Every figure anywhere in an answer."""
    if isinstance(answer, list):
        for item in answer:
            yield from figures_in(item)
    elif isinstance(answer, dict):
        if {"formula", "inputs", "kind", "value"} <= answer.keys():
            yield answer
        for item in answer.values():
            yield from figures_in(item)


@pytest.mark.parametrize("path", READS)
def test_every_figure_explains_itself(demo, path):
    """A reason in words, and either a formula with its inputs or the inputs it was read from."""
    number = Rig.objects.get(slug="cement-cabinet").runs.first().pk
    answer = demo.ok("GET", path.removeprefix("/api/v1/").format(slug="cement-cabinet", number=number))
    for figure in figures_in(answer):
        assert figure["reason"] or figure["source"], figure
        assert figure["formula"] or figure["inputs"], figure
