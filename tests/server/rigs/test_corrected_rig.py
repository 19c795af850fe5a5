"""A simulated instrument that is wrong by a gain and an offset, compared, corrected through the API and looked at again: its truth is known
here, and only here."""

from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from rellux.core.calibration.corrections import CorrectionPoint
from rellux.core.setup.parameters import correction_of
from rellux.server.calibration.models import Calibration
from rellux.server.equipment.models import Equipment
from rellux.server.menus.models import RigController
from rellux.server.rigs.models import Rig
from tests.examples import some

DIGIT = 0.1


class Instrument:
    """Shows gain × true + offset, with what is in its sheet, scattered and rounded."""

    def __init__(self, seed: int) -> None:
        self.random = np.random.default_rng(seed)
        self.gain, self.offset = 1.0 + self.random.normal(0, 0.008), self.random.normal(0, 0.6)
        self.sheet: dict[str, float | str] = {}

    def raw(self, true: float) -> float:
        return self.gain * true + self.offset

    def shows(self, true: float) -> float:
        shown = correction_of(self.sheet).shown(self.raw(true) + self.random.normal(0, 0.05))
        return round(shown / DIGIT) * DIGIT


def record(api, rig, revision, it, true, enter=False, pairs=4):
    taken = [{"display_c": it.shows(true), "reference_c": true} for _ in range(pairs)]
    body = {"pairs": taken, "reference_u_c": 0.05, "at_c": true, "limit_c": 20.0}
    path = f"rigs/{rig}/calibration"
    api.ok("POST", path, {"revision": revision(), "enter": enter, "reference": "T-09", "offset": body})
    return api.ok("POST", f"{path}/preview", body)


def sheet_of(api, rig):
    return {row["name"]: row["value"] for row in api.ok("GET", f"rigs/{rig}/setup")["parameters"]}


@pytest.mark.parametrize("seed", some([1, 2, 3], 1))
@pytest.mark.parametrize("way", ["gain", "points"])
def test_after_it_the_display_is_right_at_every_temperature_between(api, rig, revision, seed, way):
    it, path = Instrument(seed), f"rigs/{rig}/calibration/several"
    for true in (20.0, 80.0, 150.0):
        record(api, rig, revision, it, true)
    asked = {"correcting": way, "levels": [], "points": 2}
    found = api.ok("POST", f"{path}/preview", asked)
    anyway = "the simulated instrument is as it is" if found["needs_reason"] else ""
    api.ok("POST", path, {"revision": revision(), "several": asked, "anyway": anyway})
    it.sheet = sheet_of(api, rig)
    made = tuple(CorrectionPoint(**p) for p in found["correction"]["points"])
    assert correction_of(it.sheet).points[: len(made)] == made and len(made) == (2 if way == "points" else 0)
    worst = max(abs(correction_of(it.sheet).shown(it.raw(t)) - t) for t in np.linspace(20.0, 150.0, 27))
    assert worst < 0.25
    half = found["at_working"]["high"] - found["at_working"]["value"]
    left = correction_of(it.sheet).shown(it.raw(60.0)) - 60.0
    assert abs(left - found["at_working"]["value"]) <= 1.5 * half
    # compared again it needs nothing, and its record still holds the instrument's own error
    checked = record(api, rig, revision, it, 60.0)
    assert checked["verdict"] == "leave" and abs(checked["error"]["value"]) <= 0.25
    own = api.ok("GET", f"rigs/{rig}/calibration")["record"][-1]["error_c"]
    assert own == pytest.approx(it.raw(60.0) - 60.0, abs=0.25)


def test_one_offset_after_a_gain_takes_away_what_moved_since(api, rig, revision):
    """The sensor moves by half a degree; the offset is changed, the gain stays."""
    it, path = Instrument(4), f"rigs/{rig}/calibration"
    for true in (20.0, 150.0):
        record(api, rig, revision, it, true)
    asked = {"correcting": "gain", "levels": []}
    reason = "a simulated one"
    api.ok("POST", f"{path}/several", {"revision": revision(), "several": asked, "anyway": reason})
    it.sheet = sheet_of(api, rig)
    gain = it.sheet["gain_correction"]
    it.offset += 0.5
    record(api, rig, revision, it, 60.0, enter=True)
    it.sheet = sheet_of(api, rig)
    assert it.sheet["gain_correction"] == gain
    assert correction_of(it.sheet).shown(it.raw(60.0)) == pytest.approx(60.0, abs=0.15)


def test_a_certificate_counts_where_it_is_compared(api, rig):
    """Its error is 0.1 °C at 20 °C and 0.9 °C at 150 °C; in between it lies between."""
    points = [{"at_c": at, "number_c": number, "expanded_c": 0.1} for at, number in ((20.0, 0.1), (150.0, 0.9))]
    body = {
        "name": "T-11",
        "role": "reference",
        "certificates": [{"dated": str(timezone.localdate()), "says": "error", "points": points}],
    }
    number = api.ok("POST", "equipment", body)["row"]["id"]
    added = [
        api.ok("POST", f"rigs/{rig}/calibration/reference", {"instrument": number, "at_c": at})["certified"]["added_c"]
        for at in (20.0, 85.0, 150.0)
    ]
    assert added == pytest.approx([-0.1, -0.5, -0.9])
    assert api.refused("POST", f"rigs/{rig}/calibration/reference", {"instrument": number, "at_c": 900.0})["field"]
    assert Equipment.objects.get(pk=number).certificates


def test_another_controller_makes_it_due(api, rig, revision):
    record(api, rig, revision, Instrument(5), 60.0)
    row, later = Rig.objects.get(slug=rig), timezone.now() + timedelta(minutes=1)
    fitted = RigController.objects.create(rig=row, at=later, key="larch", description={}, fresh=False)
    assert "another one" not in api.ok("GET", f"rigs/{rig}/calibration")["after"]["why"]
    RigController.objects.filter(pk=fitted.pk).update(fresh=True)
    assert "its input was never compared" in api.ok("GET", f"rigs/{rig}/calibration")["after"]["why"]
    assert Calibration.objects.count() == 1
