"""Whatever is sent to the wiring endpoints is taken or refused, never an internal error; and what is refused changes nothing."""

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from rellux.core.wiring.library import PART_TYPES
from tests.examples import cases

ODD = st.sampled_from(
    [None, True, "", " ", "1", "1.5", "٣", "²", "x" * 5000, "A1.L", "E1*", "A/B", "K|1", "a.b.c", "..", "\x00", "😀",
     0, -1, 1.5, 2.0, 10**12, 10**400, 1e308, -1e308, float("nan"), float("inf"), [], [1], {}, {"a": 1}]
)  # fmt: skip
TERMINALS = st.sampled_from(["Q0.L", "Q0.N", "F1.2", "A1.L", "E1.1", "X1.PE", "Z9.1", "E1", ".", "E1.1.1"])
PLAUSIBLE = {
    "kind": st.sampled_from([*PART_TYPES, "warp"]),
    "name": st.sampled_from(["", "H7", "k0", "Ö1", "E1*", "A/B"]),
    "ratings": st.dictionaries(st.sampled_from(["power_w", "sensor", "load_type", "nonsense"]), ODD, max_size=3),
    "a": TERMINALS,
    "b": TERMINALS,
    "number": st.integers(-3, 12000),
    "area_mm2": st.floats(-1, 100),
    "colour": st.sampled_from(["red", "", "beige"]),
    "length_m": st.floats(-1, 1000),
    "insulation": st.sampled_from(["pvc", "wool"]),
    "route": st.text(max_size=60),
    "built": st.booleans(),
    "circuit": st.sampled_from(["parts", "start", "loop"]),
    "operated": st.lists(st.sampled_from(["F1", "E1", "S9"]), max_size=3),
    "output_on": st.booleans(),
    "measured": st.lists(
        st.fixed_dictionaries({"a": TERMINALS, "b": TERMINALS}, optional={"value": ODD, "state": ODD}), max_size=3
    ),
    "text": st.one_of(
        st.text(max_size=300),
        st.sampled_from(["from,to\n" + "q" * 200_000, "a,b;c\n", '"', "Q0.L,F1.1,²", "1,2,3\n" * 900]),
    ),
    "reason": st.text(max_size=30),
    "rule": st.just("circuit.restarts"),
    "subjects": st.lists(st.text(max_size=5), max_size=2),
    "terminal": TERMINALS,
    "power": st.booleans(),
    "own": ODD,
}
CALLS = [
    ("POST", "", ("circuit",)),
    ("POST", "/parts", ("kind", "name", "ratings")),
    ("PUT", "/parts/E1", ("own",)),
    ("PUT", "/parts/E1/ratings", ("ratings",)),
    ("PUT", "/parts/Z9/ratings", ("ratings",)),
    ("POST", "/wires", ("a", "b", "number", "area_mm2", "colour", "length_m", "insulation", "route")),
    ("PUT", "/wires/3", ("a", "b", "area_mm2", "colour", "length_m", "insulation", "route")),
    ("PUT", "/built/3", ("built",)),
    ("POST", "/paste", ("text",)),
    ("POST", "/import", ("text",)),
    ("POST", "/position", ("operated", "output_on", "power")),
    ("POST", "/meter", ("measured",)),
    ("POST", "/accepted", ("rule", "subjects", "reason")),
]
CALM = {"suppress_health_check": [HealthCheck.function_scoped_fixture], "deadline": None}


@pytest.mark.parametrize(("method", "path", "names"), CALLS, ids=[f"{m} {p or '/'}" for m, p, _ in CALLS])
@settings(max_examples=cases(3), **CALM)
@given(data=st.data())
def test_nothing_sent_is_an_internal_error(api, rig, method, path, names, data):
    revision = api.ok("GET", f"rigs/{rig}")["revision"]
    body = {name: data.draw(st.one_of(PLAUSIBLE[name], ODD), label=name) for name in names if data.draw(st.booleans())}
    before = api.ok("GET", f"rigs/{rig}/wiring")
    status, answer = api(method, f"rigs/{rig}/wiring{path}", {**body, "revision": revision})
    assert status in (200, 201, 204, 400, 404, 409, 413), answer
    if status >= 400:
        assert api.ok("GET", f"rigs/{rig}/wiring") == before
        assert status != 400 or answer["problems"]
    else:
        assert api.ok("GET", f"rigs/{rig}/wiring/faults")["summary"]


ROWS = st.fixed_dictionaries(
    {},
    optional={
        "name": st.one_of(PLAUSIBLE["name"], ODD),
        "kind": st.one_of(PLAUSIBLE["kind"], ODD),
        "ratings": st.one_of(PLAUSIBLE["ratings"], ODD),
        "title": ODD,
        "numbers": ODD,
    },
)
WIRES = st.fixed_dictionaries(
    {},
    optional={
        **{
            name: st.one_of(PLAUSIBLE[name], ODD)
            for name in ("number", "a", "b", "area_mm2", "colour", "length_m", "insulation", "route")
        },
        "circuit": ODD,
    },
)


@settings(max_examples=cases(30), **CALM)
@given(
    parts=st.one_of(st.lists(st.one_of(ROWS, ODD), max_size=4), ODD),
    wires=st.one_of(st.lists(st.one_of(WIRES, ODD), max_size=4), ODD),
)
def test_no_list_file_is_an_internal_error(api, rig, parts, wires):
    revision = api.ok("GET", f"rigs/{rig}")["revision"]
    text = json.dumps({"format": "rellux-wiring", "version": 1, "parts": parts, "wires": wires})
    status, answer = api("POST", f"rigs/{rig}/wiring/import", {"revision": revision, "text": text})
    assert status in (200, 400), answer
    if status == 200:
        for what in ("solved", "faults", "meter", "schedule", "memory"):
            assert api("GET", f"rigs/{rig}/wiring/{what}")[0] in (200, 400)


@pytest.mark.parametrize(
    "path",
    ["wires/99999999999999999999", "wires/%C2%B2", "parts/%00", "parts/A%2FB", "built/-1", "meter?pairs=%00>%00"],
)
def test_odd_addresses_are_refused(api, rig, path):
    for method in ("GET", "PUT", "DELETE"):
        assert api(method, f"rigs/{rig}/wiring/{path}", {"revision": 1})[0] < 500


def test_a_part_of_a_name_of_before_can_be_removed(api, rig, revision):
    """A list from before the rule may hold A/B or K|1: it is shown, measured, and can be taken out."""
    from rellux.server.rigs.models import Rig
    from rellux.server.wiring.models import FittedPart

    found = Rig.objects.get(slug=rig)
    for name in ("A/B", "K|1", "E1*"):
        FittedPart.objects.create(rig=found, name=name, kind="lamp", ratings={"power_w": 1.0, "voltage_v": 230.0})
    for name in ("A/B", "K%7C1", "E1*"):
        assert api("DELETE", f"rigs/{rig}/wiring/parts/{name}?revision={revision()}")[0] == 200
    assert not {"A/B", "K|1", "E1*"} & {p["name"] for p in api.ok("GET", f"rigs/{rig}/wiring")["parts"]}


@pytest.mark.parametrize("name", ["k0", "K0", "E1*", "A/B", "K|1", "9K", "", "A B", "x" * 21])
def test_one_rule_for_names(api, rig, revision, name):
    status, answer = api("POST", f"rigs/{rig}/wiring/parts", {"revision": revision(), "kind": "lamp", "name": name})
    if name == "":
        assert status == 200  # the next free one
    else:
        assert status == 400 and answer["problems"][0]["field"] == "name"


def test_accents_tell_names_apart_only_by_their_letters(api, rig, revision):
    for name, taken in (("Ö1", True), ("Ä9", True), ("O1", False), ("a9", False), ("Ä1", False)):
        status, _ = api("POST", f"rigs/{rig}/wiring/parts", {"revision": revision(), "kind": "lamp", "name": name})
        assert (status == 200) is taken, name
