"""Finding out where an unknown controller keeps its reading, and keeping that as a map."""

import json
import urllib.request

import pytest

from tests.browser.accessibility import violations

pytestmark = pytest.mark.browser


def of_cabinet(demo, path=""):
    return json.load(urllib.request.urlopen(f"{demo.address}/api/v1/rigs/cement-cabinet{path}"))


def test_an_unknown_controller_is_found_out_and_kept(demo, browser):
    page = browser.open(demo.address, "/maps")
    page.see("Kiln controller, grey")
    page.fill("Host", "127.0.0.1")
    page.fill("Port", str(of_cabinet(demo, "/link")["port"]))
    page.fill("Registers", "20")
    page.press("What answers?")
    page.see("40003", 20)
    page.see("moves")  # its clock
    page.until(lambda: of_cabinet(demo)["live"]["reading_c"] is not None, 20, "a live reading")
    shown = f"{of_cabinet(demo)['live']['reading_c']:.1f}"
    for times in (1, 2, 3):  # its clock may happen to look like it once
        page.fill("The display shows", shown)
        page.press("Read and compare")
        page.see(f"Typed so far: {', '.join([shown] * times)}.", 20)
        if "Only one place fits" in page.text:
            break
    page.see("Only one place fits, 40003")  # the output beside it is 0: 16 or 32 bits
    page.see("16 bits ±, 10 counts per unit")
    page.press("This is the reading")
    page.fill("Controller", "Found on the cabinet")
    page.see("2 = 40003")
    page.see("One read a poll")
    assert violations(page) == []
    page.press("Save the map")
    page.see("no rig speaks by it")
    page.see("Found on the cabinet")
    page.open(demo.address, "/rigs/cement-cabinet/runs")
    page.press("Simulated, 20")
    page.fill("It speaks by", "Found on the cabinet")
    page.open(demo.address, "/maps")
    page.press("Found on the cabinet")
    page.press("Remove")
    page.gone("Found on the cabinet")
    assert page.complaints() == []
