"""The relay test over the link, as somebody at the bench makes it."""

import json
import time
import urllib.request

import pytest


@pytest.mark.long
def test_a_relay_test_is_made_over_the_link_and_survives_whoever_is_killed(demo, browser):
    """Recorder and web server killed outright while it swings: the old numbers come back, and the reading stays below what was foretold."""
    at = f"{demo.address}/api/v1/rigs/cement-cabinet"

    def now():
        with urllib.request.urlopen(f"{at}/tuning/relay/test", timeout=20) as answer:
            return json.load(answer)["now"]

    def holds():
        with urllib.request.urlopen(f"{at}/link", timeout=20) as answer:
            return [(d["name"], d["controller"]) for d in json.load(answer)["differences"]]

    page = browser.open(demo.address, "/rigs/cement-cabinet/tuning")
    page.press("If the controller tunes itself", 180)
    page.see("Let Rellux make it over the link", 180)
    page.see("goes on switching by itself", 60)
    page.press("Arm writing for 10 minutes", 60)
    before = holds()
    page.driver.find_element("xpath", "//label[contains(., 'I stay with it')]//input").click()
    page.press("Make the test", 60)
    page.see("heat goes off at", 60)
    page.until(lambda: now()["standing"] == "swinging", 60, "that it swings")
    assert holds() != before
    demo.kill("manage record")
    time.sleep(1.0)
    demo.kill("web")

    def standing():
        try:
            return now()["standing"]
        except OSError:  # nobody answers yet
            return ""

    if page.until(standing, 60, "somebody there again") == "swinging":
        page.press("End it, old numbers back", 60)
    page.see("The last one was broken off", 60)
    page.until(lambda: holds() == before, 60, "the old numbers")
    assert now()["standing"] == "broken" and not now()["heat_is_off"]
