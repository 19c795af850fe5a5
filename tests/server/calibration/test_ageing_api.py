"""What ages a sensor, through the API: the hours it was hot in recorded runs, a jump, and what sensors like it did."""

from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from rellux.core.runs.series import Series
from rellux.server.calibration.models import Calibration
from rellux.server.rigs.models import Rig
from rellux.server.runs import store
from rellux.server.runs.models import Run
from tests.server.conftest import CABINET, PARTS


def compared(api, slug, off_c, ago, at_c=60.0):
    """One comparison, left as found, so many days ago."""
    pairs = [{"display_c": at_c + off_c + w, "reference_c": at_c} for w in (-0.05, 0.0, 0.05)]
    body = {
        "revision": Rig.objects.get(slug=slug).revision,
        "offset": {"pairs": pairs, "reference_u_c": 0.05, "at_c": at_c},
        "reference": "T-09",
        "enter": False,
    }
    api.ok("POST", f"rigs/{slug}/calibration", body)
    newest = Calibration.objects.order_by("-pk").first()
    Calibration.objects.filter(pk=newest.pk).update(at=timezone.now() - timedelta(days=ago))


def hot(slug, ago, hours, celsius=60.0, source="live"):
    run = Run.objects.create(
        rig=Rig.objects.get(slug=slug),
        name="hot",
        source=source,
        status="finished",
        started_at=timezone.now() - timedelta(days=ago),
    )
    t = np.arange(0.0, hours * 3600.0 + 1.0, 60.0)
    store.append(run, Series(t, t * 0 + celsius, t * 0 + celsius, t * 0, t * 0))


def test_the_hours_it_was_hot_explain_its_drift(api, rig, revision):
    """Every ten hours cost 0.1 °C, and they are unevenly spread over the calendar."""
    total = 0.0
    for ago, hours in ((200, 0), (160, 30), (120, 2), (80, 40), (10, 3)):
        if hours:
            hot(rig, ago + 5, hours)
        total += hours
        compared(api, rig, 0.01 * total, ago)
    hot(rig, 100, 20, source="simulated")  # never happened
    hot(rig, 6, 9)
    path = f"rigs/{rig}/calibration"
    use = api.ok("GET", path)["by_use"]
    assert use["per_hours"]["value"] == pytest.approx(1.0, rel=0.02) and use["seen"] and use["better"]
    # from 10 hours before 85 days ago to 9 hours since the newest: 40 + 3 + 9 h in 90 days
    assert use["hot_c"] == pytest.approx(21 + 0.8 * 39) and "{0.58 h} a day" in use["says"]
    plan = {"revision": revision(), "interval": "record", "hot_c": 61.0}
    none = api.ok("PUT", f"{path}/plan", plan)
    assert none["by_use"] is None and none["plan"]["hot_c"] == 61.0, "it was never hotter than its work"
    refused = api.refused("PUT", f"{path}/plan", {**plan, "revision": revision(), "hot_c": 20.0})
    assert refused["field"] == "hot_c"


def test_a_jump_is_told_with_its_days(api, rig):
    for ago, off in ((300, 0.02), (240, 0.0), (180, 0.03), (120, 1.21), (60, 1.2), (10, 1.22)):
        compared(api, rig, off, ago)
    view = api.ok("GET", f"rigs/{rig}/calibration")
    before, after = (timezone.localdate() - timedelta(days=d) for d in (180, 120))
    assert f"Between {before:%-d %B %Y} and {after:%-d %B %Y} it jumped by {{+1.2 Δ°C}}" in view["jumped"]
    assert view["drift"]["counted"] == 3 and len(view["record"]) == 6


@pytest.mark.long
def test_sensors_alike_are_asked_where_its_own_record_is_too_short(api, rig, revision):
    others = []
    for k, slope in enumerate((0.03, 0.036, 0.027, 0.033)):
        other = api.ok("POST", "rigs", {**CABINET, "name": f"Cabinet {k}"})["slug"]
        api.ok("PUT", f"rigs/{other}/parts", {**PARTS, "revision": 1})
        for ago in (200, 100, 20):
            compared(api, other, slope * (200 - ago), ago)
        others.append(other)
    compared(api, rig, 0.1, 1)
    path = f"rigs/{rig}/calibration"
    view = api.ok("GET", path)
    found = view["alike"]
    assert found["sensors"] == 4 and found["per_year"]["value"] == pytest.approx(0.0315 * 365.25, rel=0.03)
    assert (found["within"], found["looked"]) == (2, 8), "the two slower ones, over eighty days"
    assert view["after"]["days"] == 30 and view["after"]["school"] == "practice", "which is sooner than they let expect"
    tighter = {"revision": revision(), "interval": "record", "allowed_c": 1.0}
    view = api.ok("PUT", f"{path}/plan", tighter)
    assert view["alike"]["within"] == 0 and view["after"]["school"] == "record" and 7 <= view["after"]["days"] < 30
    Rig.objects.filter(slug=others[0]).update(working_c=500)
    compared(api, others[0], 0.0, 3, at_c=500.0)  # another heat: not alike there
    assert api.ok("GET", path)["alike"]["sensors"] == 4
    compared(api, rig, 0.1, 2), compared(api, rig, 0.1, 3)
    assert api.ok("GET", path)["alike"] is None, "its own record is enough"
