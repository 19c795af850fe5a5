"""The sensor calculators through the API."""

import jsonschema

from tests.server.test_contract import schema_of

MISTAKES = {"sensor": "K", "low_c": 0, "high_c": 1000}


def test_curves_keep_to_the_schema_and_mark_what_is_out_of_range(api):
    found = api.ok("POST", "sensing/mistakes", MISTAKES)
    jsonschema.validate(found, schema_of("post", "/api/v1/sensing/mistakes", 200))
    reversed_ = next(m for m in found["mistakes"] if m["key"] == "reversed")
    assert reversed_["display_c"][-1] is None and reversed_["side"][-1] == -1
    assert found["explanations"] == []


def test_without_a_range_the_usual_one_is_drawn(api):
    true = api.ok("POST", "sensing/mistakes", {"sensor": "Pt100"})["true_c"]
    assert (true[0], true[-1]) == (0, 700)


def test_pairs_rank_the_mistakes(api):
    pairs = [{"display_c": 765.1, "true_c": 800}, {"display_c": 466, "true_c": 500}]
    found = api.ok("POST", "sensing/mistakes", {**MISTAKES, "pairs": pairs})
    assert found["explanations"][0]["key"] == "copper" and found["explanations"][0]["fits"]


def test_bad_input_is_refused_by_field(api):
    assert api.refused("POST", "sensing/mistakes", {**MISTAKES, "high_c": 5000})["field"] == "low_c"
    assert api.refused("POST", "sensing/mistakes", {**MISTAKES, "sensor": "Q"})["field"] == "sensor"
    far = {**MISTAKES, "pairs": [{"display_c": 20, "true_c": 9000}]}
    assert api.refused("POST", "sensing/mistakes", far)["field"] == "pairs[0]"
    assert api.refused("POST", "sensing/colours", {"first": "red", "second": "red"})["field"] == "second"
    feed = {"sensor": "K", "low_c": 0, "high_c": 100, "step_c": 0}
    assert api.refused("POST", "sensing/feed", feed)["field"] == "step_c"


def test_colours_and_feed_answer(api):
    assert api.ok("POST", "sensing/colours", {"first": "white", "second": "green"})["certain_positive"] == "green"
    feed = api.ok("POST", "sensing/feed", {"sensor": "Pt100", "low_c": 100, "high_c": 120, "step_c": 20})
    assert feed["unit"] == "Ω" and len(feed["rows"]) == 2


def test_reading_budget_shows_every_class_and_its_shares(api):
    found = api.ok("POST", "sensing/budget", {"sensor": "N", "celsius": 515, "joint_c": 40})
    jsonschema.validate(found, schema_of("post", "/api/v1/sensing/budget", 200))
    assert found["tolerance_class"] == "IEC class 2"
    assert {c["name"]: c["permitted_c"] for c in found["classes"]}["IEC class 3"] is None
    assert found["parts"][0]["inputs"] and sum(found["shares"]) > 0.999
    assert api.refused("POST", "sensing/budget", {"sensor": "N", "celsius": 5000})["field"] == "celsius"


def test_a_thermistor_is_characterised_with_its_divider(api):
    pairs = [{"ohms": r, "celsius": t} for r, t in ((32650, 0), (10000, 25), (2485, 60), (679, 100))]
    body = {"pairs": pairs, "low_c": 20, "high_c": 90}
    found = api.ok("POST", "sensing/thermistor", body)
    jsonschema.validate(found, schema_of("post", "/api/v1/sensing/thermistor", 200))
    assert found["series_ohm"] == found["best_series_ohm"] and found["worst_c"] < 0.1
    chosen = api.ok("POST", "sensing/thermistor", {**body, "series_ohm": 47000})
    assert max(chosen["degrees_per_count"]) > 2 * max(found["degrees_per_count"])
    assert api.refused("POST", "sensing/thermistor", {**body, "pairs": pairs[:2]})["field"] == "pairs"
    assert api.refused("POST", "sensing/thermistor", {**body, "bits": 99})["field"] == "bits"
    assert api.refused("POST", "sensing/thermistor", {**body, "high_c": 10})["field"] == "high_c"
