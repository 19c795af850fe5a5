"""A kiln's log through the API: it is told as the furnace it is, and a profile is foretold by that, up to where it was recorded."""

import numpy as np
import pytest
from django.utils import timezone

from rellux.core.plant.rig_models import network_of
from rellux.core.runs.series import Series
from rellux.server.demo.workshop import KILN_RADIATES
from rellux.server.rigs.domain import kind_of, purpose_of
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from rellux.server.tuning.models import Identification
from tests.core.tuning.kilns import kilns
from tests.core.tuning.kilns import run as simulated
from tests.server.conftest import CABINET, PARTS, wired
from tests.server.workshop import load_demo

MADE = kilns(1, 8)
KILN = {
    **CABINET,
    "name": "Glaze kiln",
    "kind": "kiln",
    "working_c": 800,
    "lowest_c": 780,
    "highest_c": 1300,
    "heater_power_w": float(np.round(MADE.full_w[0])),
}
AFTER = [{"kind": "soak", "time_s": 1800.0}, {"kind": "end", "end": "off"}]


@pytest.fixture
def kiln(api) -> str:
    return wired(api, KILN, {**PARTS, "actuator": "contactor"})


def recorded(slug: str) -> int:
    t, y, u = simulated(MADE, 9, 7.0, 790.0, inner=8)
    run = Run.objects.create(
        rig=Rig.objects.get(slug=slug), name="bisque", source="csv", status="finished", started_at=timezone.now()
    )
    column = np.full(len(t), np.nan)
    store.append(run, Series(t, column, np.round(y[:, 0], 1), u[:, 0], column))
    return run.pk


def test_a_kiln_is_told_as_a_furnace_and_its_profiles_are_foretold_by_it(api, kiln):
    found = api.ok("POST", f"rigs/{kiln}/tuning/identify", {"run": recorded(kiln)})["identified"]
    assert "A furnace of element, chamber, lining and load" in found["verdict_reason"]
    assert {"u_h", "Q"} <= {f["symbol"] for f in found["figures"]}
    furnace = found["furnace"]
    assert 770 < furnace["up_to_c"] < 830 and furnace["climbs"][-1]["celsius"] <= furnace["up_to_c"]
    assert furnace["at_c"] == min(KILN["working_c"], furnace["up_to_c"])
    near = min(furnace["climbs"], key=lambda c: abs(c["celsius"] - 690.0))

    def foretold(rate: float, to_c: float = 700.0):
        climbs = {"kind": "ramp_rate", "target_c": to_c, "rate_c_per_min": round(rate, 2)}
        profile = {"segments": [climbs, *AFTER], "loops": [], "start": "value", "start_c": 21.0}
        return api.ok("POST", f"rigs/{kiln}/profiles-forecast", {"profile": profile, "begins_c": 21.0})

    follows, behind = foretold(0.7 * near["low"]), foretold(1.3 * near["high"])
    assert "furnace as it was learnt" in follows["model"]
    assert follows["marks"] == [] and [m["sure"] for m in behind["marks"]] == [True]
    hotter = foretold(0.7 * near["low"], 1200.0)
    assert "furnace" not in hotter["model"]
    row = Identification.objects.get(rig__slug=kiln)
    kept = row.result["furnace"]
    for changed in (
        {"likely": {**kept["likely"], "capacities": [-1.0] * 5}},
        {"slow": {**kept["slow"], "dead_time_s": 1e11}},
        {"fast": {**kept["fast"], "heater_power_w": 1e11}},
        {"likely": {**kept["likely"], "sensor_node": "middle"}},
        {"climbs": []},
        {"at_c": None},
    ):
        row.result["furnace"] = {**kept, **changed}
        row.save()
        assert api.refused("GET", f"rigs/{kiln}/tuning")["field"].startswith("furnace")


def test_the_annealer_shows_that_a_per_cent_does_less_when_it_is_hot(api):
    """Its steps by hand at two temperatures tell what the plant they were made on has there: by the steady balance of its heat."""
    load_demo()
    rig = Rig.objects.get(slug="blank-annealer")
    over = api.ok("GET", "rigs/blank-annealer/tuning")["over_temperature"]
    assert over["differs"] and "the gain falls" in over["says"]
    assert len(over["points"]) == 2 and over["points"][0]["celsius"] < 350.0 < over["points"][1]["celsius"]
    plant = network_of(kind_of(rig), purpose_of(rig))
    _, door, outside = plant.to_ambient
    through = 1.0 / (1.0 / plant.links[1][2] + 1.0 / outside)  # chamber to lining to room
    for point in over["points"]:
        radiates = 4.0 * KILN_RADIATES * (point["celsius"] + 273.15) ** 3
        low, _, high = point["gain"]
        assert low < plant.heater_power_w / 100.0 / (door + through + radiates) < high
