"""Something must carry the heat away: a bath with its pump, from an empty database to what is proved of its flow switch."""

import pytest

from tests.server.conftest import CABINET, PARTS, wired

BATH = {
    **CABINET, "name": "Slurry bath", "kind": "tank", "working_c": 32, "highest_c": 40, "highest_reason": "the lap gives way",
    "lowest_c": 28, "heater_power_w": 500,
}  # fmt: skip


@pytest.fixture
def bath(api):
    slug = wired(api, BATH, {**PARTS, "sensor": "Pt100"})
    lay_out(api, slug, "pump")
    return slug


def lay_out(api, slug, circuit):
    body = {"circuit": circuit, "revision": api.ok("GET", f"rigs/{slug}")["revision"]}
    return api.ok("POST", f"rigs/{slug}/wiring", body)


def rules(api, slug):
    return {f["rule"]: f["title"] for f in api.ok("GET", f"rigs/{slug}/wiring")["findings"]}


def test_its_pump_runs_with_the_controls_and_its_flow_switch_drops_the_heat(api, bath):
    wiring = api.ok("GET", f"rigs/{bath}/wiring")
    assert {p["kind"] for p in wiring["parts"]} >= {"pump", "flow_switch"} and rules(api, bath).keys() <= {
        "circuit.restarts"
    }
    plan = {"plan": api.ok("GET", f"rigs/{bath}/guarding")["proposed"], "revision": wiring["revision"]}
    api.ok("PUT", f"rigs/{bath}/guarding", plan)
    stages = api.ok("GET", f"rigs/{bath}/proving")["stages"]
    stop = next(s for stage in stages for s in stage["steps"] if s["key"] == "stop B3")
    assert "stop what flows past B3" in str(stop)


def test_a_flow_switch_in_what_the_controller_switches_is_told_and_comes_next(api, bath):
    wiring = api.ok("GET", f"rigs/{bath}/wiring")
    at = {(w["a"], w["b"]): w for w in wiring["wires"]}
    for found, a, b in (("A2.OK", "A2.OK", "K0.A1"), ("A1.NO", "A1.NO", "B3.1"), ("B3.2", "B3.2", "K1.A1")):
        wire = next(w for (first, _), w in at.items() if first == found)
        body = {"a": a, "b": b, "revision": api.ok("GET", f"rigs/{bath}")["revision"]}
        api.ok("PUT", f"rigs/{bath}/wiring/wires/{wire['number']}", body)
    assert rules(api, bath)["wiring.fan-interlock"] == "E1 heats without its flow"
    assert rules(api, bath)["wiring.guard"] == "B3 stops E1 only through K1"
    assert api.ok("GET", f"rigs/{bath}")["next"]["rule"] == "wiring.fan-interlock"


def test_what_moves_is_offered_as_the_kind_of_rig_has_it(api, bath):
    def offered(slug):
        return {o["key"]: o["refused"] for o in api.ok("GET", f"rigs/{slug}/wiring/usual")}

    assert "fan" not in offered(bath) and offered(bath)["pump"] == ""
    oven = wired(
        api,
        {**CABINET, "name": "Oven", "kind": "oven", "working_c": 180, "highest_c": 220},
        {**PARTS, "limiter": False},
    )
    assert "pump" not in offered(oven) and "there is no limiter" in offered(oven)["fan"]
