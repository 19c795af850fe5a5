"""A second sensor at the heater: described, wired and set on an empty database; chosen and turned by hand on the demo's furnace."""

import pytest

pytestmark = pytest.mark.browser


@pytest.mark.long
def test_an_oven_with_two_loops_is_described_wired_and_set(empty, browser):
    page = browser.open(empty.address, "/new")
    page.fill("Name", "Bonding oven")
    page.fill("Kind of rig", "Oven")
    page.fill("Working temperature", "200")
    page.fill("Highest allowed", "260")
    page.fill("Above it", "the bond browns")
    page.press("Two: one at the heater")
    page.fill("The heater’s sensor may show at most", "215")
    page.fill("While it holds, that shows more by", "40")
    page.fill("Heater power, nameplate", "2000")
    page.press("Create the rig")
    page.see("something must be left to control with")
    page.fill("The heater’s sensor may show at most", "330")
    page.press("Create the rig")
    page.press("Use these parts")
    page.see("These parts are chosen")
    page.press("Wiring")
    page.press("Lay out: The chosen parts")
    page.see("Controller, two sensors")
    page.press("Set-up")
    page.see("Two, one asks the other")
    page.press("Save as found")
    page.see("The values suit this rig.")
    assert page.complaints() == []


def test_both_loops_are_chosen_and_turned_by_hand(demo, browser):
    page = browser.open(demo.address, "/rigs/spectro-furnace/tuning?candidate=two_loops&trial=mains")
    page.see("inner proportional band")
    page.see("heater gets to")
    page.press("Turn the numbers by hand")
    page.fill("Inner proportional band", "0.5")
    page.see("It swings by itself")
    page.fill("Inner proportional band", "60")
    page.gone("It swings by itself")
    page.press("Use these numbers")
    page.press("Book")
    page.see("Tuning accepted: By hand")
    assert page.complaints() == []
