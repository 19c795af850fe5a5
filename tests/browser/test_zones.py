"""Zones of one chamber: joined with a slip, looked at as they come up from cold, known at each rig, and parted again."""

import pytest
from selenium.webdriver.support.ui import Select

pytestmark = pytest.mark.browser


def choose(page, label, words):
    page.until(lambda: Select(page.field(label)).select_by_visible_text(words) or True, what=f"{words} at {label}")


def test_rigs_are_joined_foretold_and_parted(demo, browser):
    page = browser.open(demo.address, "/")
    page.press("Zones of a chamber")
    page.see("Which rigs are zones of one chamber?")
    page.fill("Name of the chamber", "Two plates")
    choose(page, "Zone 1", "Pitch plate")
    choose(page, "Zone 2", "Pitch plate")
    page.press("Join them")
    page.see("one rig is there twice")
    page.driver.refresh()  # what was typed is still there
    choose(page, "Zone 2", "Cement cabinet")
    page.fill("With one of these two heated alone, the other comes to", "95")
    page.press("Join them")
    page.see("so far no neighbour comes along")
    page.fill("With one of these two heated alone, the other comes to", "10")
    page.fill("The supply of all of them gives (if one feeds all)", "310")
    page.press("Join them")
    page.see("How do they come up from cold?")
    page.see("The supply does not carry all of them at once")
    page.see("begins after")
    page.press("All at once")
    page.gone("begins after")
    page.press("The supply does not carry all of them at once")
    page.see("Together they draw")
    page.press("Pitch plate")
    page.see("One zone of Two plates")
    page.press("Two plates")
    page.press("Change the zones, or part them")
    page.fill("With one of these two heated alone, the other comes to", "20")
    page.press("Save the zones")
    page.see("20 %")
    page.press("Change the zones, or part them")
    page.until(
        lambda: page.field("With one of these two heated alone, the other comes to").get_attribute("value") == "20",
        what="what was saved",
    )
    page.press("Part them: every rig by itself")
    page.see("Which rigs are zones of one chamber?")
    page.gone("Two plates")
    assert not page.complaints()
