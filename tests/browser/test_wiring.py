"""The wiring station as people use it: failures, meter, edits, usual circuits, a rig of sixty parts."""

import json

import pytest
from benchmarks.large_rig import large_rig

from rellux.core.wiring.listing import to_plain

from .accessibility import violations

pytestmark = pytest.mark.browser


def test_what_a_fault_does_and_what_a_meter_says_of_it(demo, browser):
    page = browser.open(demo.address, "/rigs/pitch-plate/wiring")
    page.press("If something fails")
    page.see("leave the heat on with nothing that stops it")
    page.press("V1 fails shorted")
    page.see("heater on")
    page.open(demo.address, "/rigs/blank-annealer/wiring")
    page.press("If something fails")
    page.see("No single failure of")
    page.press("What a meter shows")
    page.fill("E1.1 to E1.2 shows", "OL")
    page.see("It fits this: E1 burns out.")
    page.fill("E1.1 to E1.2 shows", "16.5")
    page.fill("With", "F1 open")
    page.fill("F1.1 to F1.2 shows", "0.1")
    page.see("It fits this: F1 does not open when it should.")
    page.fill("F1.1 to F1.2 shows", "OL")
    page.see("All as it should be.")
    page.press("Live: output off")
    page.fill("E1.1 to E1.2 shows", "225")  # the element is whole, so something keeps it on
    page.see("It fits this: A1 keeps its output on.")
    page.fill("E1.1 to E1.2 shows", "100")
    page.see("Nothing here explains it")
    page.press("Wires to cut")
    page.see("Together")
    assert violations(page) == []
    assert page.complaints() == []


def test_a_list_is_edited_by_keyboard_lived_with_and_ticked_off(demo, browser):
    page = browser.open(demo.address, "/rigs/pitch-plate/wiring")
    page.see("would give 80 mA to H1")
    page.fill("From", "A1.PWM3")
    page.fill("To", "A1.PWM3")
    page.press("Add the wire")
    page.see("would run from A1.PWM3 to itself")
    page.fill("To", "H9.1")
    page.press("Add the wire")
    page.see("there is no part 'H9'")
    page.fill("Kind of one more part", "Indicator lamp")
    page.press("Add it")
    page.see("H2")
    page.press("H2")
    page.fill("Rated power", "0")
    page.press("Rate it so")
    page.see("is no rating")
    page.press("Take back: H2 added")
    page.see("Do again: H2 added")
    page.press("E1 heats again by itself")
    page.fill("Live with “E1 heats again by itself after a power cut”, because", "yes")
    page.press("Accept it")
    page.see("it stands on the sheet")
    page.fill("Live with “E1 heats again by itself after a power cut”, because", "the lap is never left alone")
    page.press("Accept it")
    page.see("ACCEPTED")
    page.press("At the rig")
    page.see("0 of ")
    page.driver.find_elements("css selector", ".ticks input")[0].click()
    page.see("1 of ")
    page.press("What is on when")
    page.see("supply back, output on")
    assert violations(page) == []
    assert page.complaints() == []


def test_a_rig_starts_from_another_usual_circuit(demo, browser):
    page = browser.open(demo.address, "/rigs/bake-out-shell/wiring")
    page.press("Lay out: … started by a button")
    page.see("S1")
    page.gone("heats again by itself")
    page.fill("Lit", "S0 pressed, output on")
    page.see("heater off")
    page.press("Power")
    drawn = "//*[name()='text'][.='B1']"
    page.until(lambda: not page.driver.find_elements("xpath", drawn), what="the probes to leave the picture")
    page.press("Whole")
    page.press("Take back: Wiring laid out")
    page.see("heats again by itself")
    assert page.complaints() == []


OVERLAPS = """
return [...document.querySelectorAll('.diagram svg')].map(svg => {
  const boxes = [...svg.querySelectorAll('.part > rect, .flag > rect')].map(r => r.getBBox());
  return boxes.filter((a, i) => boxes.some((b, k) => k > i && a.x < b.x + b.width && b.x < a.x + a.width
    && a.y < b.y + b.height && b.y < a.y + a.height)).length;
})
"""


@pytest.mark.long
def test_a_rig_of_sixty_parts_is_drawn_circuit_by_circuit(demo, browser, tmp_path):
    """Brought in as a file: nothing drawn over something else, neutrals as flags, a press leads back to wire and part."""
    rig = large_rig()
    file = tmp_path / "oven.json"
    file.write_text(json.dumps({"format": "rellux-wiring", "version": 1, **to_plain(rig)}))
    page = browser.open(demo.address, "/rigs/bake-out-shell/wiring")
    page.see("List from a file")
    page.attach("List from a file", str(file))
    page.until(lambda: page.driver.execute_script(OVERLAPS) == [0, 0, 0], 30, "three drawings with nothing overlapping")
    page.press("Full window")
    page.press("Control")
    page.until(lambda: page.driver.execute_script(OVERLAPS) == [0], what="the control circuit alone")
    flag = page.driver.find_element("css selector", ".flag")
    numbers = flag.text.split()[:-1]
    page.driver.execute_script("arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", flag)
    page.see(f"Wire {numbers[0]}\n")
    assert not page.driver.find_elements("css selector", ".drawings.wide")
    page.press("Take back: Connection list imported")
    page.see("B3 and B1 are exchanged")
    assert violations(page) == []
    assert page.complaints() == []
