"""The bank calculator through the API."""

import jsonschema

from tests.server.test_contract import figures_in, schema_of

BANK = {"network": "three_phase", "supply_v": 400, "bank": "delta", "count": 3, "power_w": 1500, "voltage_v": 230}


def test_a_bank_keeps_to_the_schema_and_explains_its_figures(api):
    found = api.ok("POST", "heating/bank", BANK)
    jsonschema.validate(found, schema_of("post", "/api/v1/heating/bank", 200))
    assert found["findings"][0]["rule"] == "bank.overload"
    assert all(f["formula"] and f["inputs"] for f in figures_in(found))


def test_faults_and_bad_input(api):
    lost = api.ok("POST", "heating/bank", {**BANK, "bank": "star", "lost": ["L3"]})
    assert [line["name"] for line in lost["lines"]] == ["L1", "L2"]
    assert api.refused("POST", "heating/bank", {**BANK, "count": 4})["field"] == "count"
    assert api.refused("POST", "heating/bank", {**BANK, "bank": "triangle"})["field"] == "bank"
