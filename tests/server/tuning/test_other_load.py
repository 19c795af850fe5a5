"""A purpose that outgrows the chosen parts: they follow, or the change is refused whole; no rig is left that cannot be read."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from rellux.core.purpose.purpose import PROPOSED_V
from rellux.core.wiring.choice import DRIVES
from rellux.server.rigs.proof import forget
from tests.examples import cases
from tests.server.conftest import CABINET, PARTS

CHOICES = [(o.value, a.value) for o, driven in DRIVES.items() for a in driven]


def changed(api, slug, **change):
    view = api.ok("GET", f"rigs/{slug}")
    body = {"name": view["name"], "kind": view["kind"], **view["purpose"], **change, "revision": view["revision"]}
    return api("PUT", f"rigs/{slug}/purpose", body)


def opened(api, slug) -> None:
    """Every station of the rig can be opened."""
    for place in ("", "/parts", "/wiring", "/setup", "/guarding"):
        assert api.ok("GET", f"rigs/{slug}{place}"), place
    assert not any(r["unreadable"] for r in api.ok("GET", "rigs"))


def test_a_heater_too_large_for_its_relay_gets_a_contactor_and_says_so(api, rig):
    view = api.ok("GET", f"rigs/{rig}")
    body = {
        "name": view["name"],
        "kind": view["kind"],
        **view["purpose"],
        "heater_power_w": 9000,
        "revision": view["revision"],
    }
    told = api.ok("POST", f"rigs/{rig}/purpose/try", body)
    assert told["parts"] == [{"name": "actuator", "before": "relay", "after": "contactor"}]
    assert api.ok("PUT", f"rigs/{rig}/purpose", body)["choice"]["actuator"] == "contactor"
    opened(api, rig)


def test_a_load_that_nothing_here_switches_is_refused_and_nothing_of_it_stays(api, rig):
    before = api.ok("GET", f"rigs/{rig}")
    status, told = changed(api, rig, supply="dc", supply_voltage_v=24, heater_voltage_v=24, heater_power_w=150_000)
    assert status == 400 and told["problems"][0]["field"] == "actuator"
    assert api.ok("GET", f"rigs/{rig}") == before
    opened(api, rig)


def test_a_sensor_that_ends_too_low_is_told_and_parts_can_still_be_chosen(api, rig):
    assert changed(api, rig, kind="muffle", working_c=1390, highest_c=1500, lowest_c=None)[0] == 200
    opened(api, rig)
    offered = api.ok("GET", f"rigs/{rig}/parts")["choice"]
    assert offered["sensor"] != PARTS["sensor"] and api.ok("GET", f"rigs/{rig}")["choice"]["sensor"] == PARTS["sensor"]
    assert api.ok("GET", f"rigs/{rig}")["next"]["station"] == "parts"


@settings(max_examples=cases(4), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.sampled_from(CHOICES), st.sampled_from(list(PROPOSED_V)), st.sampled_from(list(PROPOSED_V)), st.floats(10.0, 200_000.0),
    st.sampled_from(["heats", "watches"]),
)  # fmt: skip
def test_no_change_of_supply_and_power_leaves_a_rig_that_cannot_be_opened(api, parts, first, then, watts, effect):
    forget()
    body = {
        **CABINET,
        "supply": first.value,
        "supply_voltage_v": PROPOSED_V[first],
        "heater_voltage_v": PROPOSED_V[first],
    }
    slug = api.ok("POST", "rigs", {**body, "heater_power_w": 60})["slug"]
    output, actuator = parts
    chosen = {**PARTS, "output": output, "actuator": actuator, "limiter": False, "revision": 1}
    if api("PUT", f"rigs/{slug}/parts", chosen)[0] == 200:
        load = (
            {"heater_power_w": watts, "heater_voltage_v": PROPOSED_V[then]}
            if effect == "heats"
            else {"heater_power_w": 0, "heater_voltage_v": 0}
        )
        changed(api, slug, supply=then.value, supply_voltage_v=PROPOSED_V[then], effect=effect, **load)
        opened(api, slug)
    api.ok("DELETE", f"rigs/{slug}?revision={api.ok('GET', f'rigs/{slug}')['revision']}")
