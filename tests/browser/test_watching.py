"""A thermometer with alarms and no heater, from an empty database: nowhere a word of what it does not have."""

import re

import pytest

pytestmark = pytest.mark.browser

FINE = ("Heats it", "Heated bed", "Heater", "Heaters, three in star", "Heaters, three in delta", "Independent limiter")
"""What may be chosen otherwise: the kind, the effect, and the parts there are."""
HEAT = re.compile(r"heat(?!-resistant)|overshoot|\bPID\b|full power|set-point|limiter|stuck", re.IGNORECASE)
PAGES = (
    "purpose",
    "parts",
    "wiring",
    "proving",
    "proving?step=stage+1",
    "proving?step=stage+3",
    "setup",
    "guarding",
    "guarding?look=alarms",
    "guarding?look=proof",
    "runs",
    "bench",
    "book",
)


@pytest.mark.long
def test_a_store_that_is_only_watched_from_nothing_to_a_recorded_run(empty, browser):
    page = browser.open(empty.address, "/new")
    page.see("What must it hold")
    page.fill("Name", "Cement store")
    page.press("Only watches it")
    page.gone("Heater power")
    page.fill("Usual temperature", "6")
    page.fill("Highest allowed", "5")
    page.fill("Above it", "the cement ages")
    page.fill("Lowest allowed (if any)", "2")
    page.press("Create the rig")
    page.see("or the rig calls all the time")
    page.fill("Highest allowed", "12")
    page.press("Create the rig")

    page.see("What does it read with?")
    page.fill("Sensor", "Pt100, three wires")
    page.press("Use these parts")
    page.see("These parts are chosen")
    page.press("Wiring")
    page.press("Lay out: … with an alarm beacon")
    page.see("Pt100")
    page.press("Set-up")
    page.press("Save as found")
    page.see("The values suit this rig.")
    page.press("Guarding")
    page.see("What calls, and when")
    page.see("Too cold")
    page.press("Put this plan in force")
    page.see("Nothing has been proved to act yet")
    page.press("Runs")
    page.fill("Times faster than real", "60")
    page.press("Start it")
    page.press("Record a run")
    page.press("Stop recording")

    found = []
    for at in PAGES:
        page.open(empty.address, f"/rigs/cement-store/{at}")
        page.until(lambda: len(page.text) > 100 and not re.search("Loading|Looking for|Fetching", page.text), what=at)
        found += [(at, line) for line in page.text.split("\n") if HEAT.search(line) and line not in FINE]
    assert not found, "\n".join(map(str, found))
    page.open(empty.address, "/rigs/cement-store/tuning").see("There is nothing to do here")
