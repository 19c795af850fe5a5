"""A controller's menus as a user goes through them: chosen, rehearsed with a wrong key, walked to its end, looked up, described anew."""

import pytest
from PIL import Image

pytestmark = pytest.mark.browser

MANUAL = """[Cold start]
Zin  Sensor type: tK=thermocouple K, P=Pt100 default P
Zun  Unit: 0=°C, 1=°F
[Daily]
LUP  Upper limit of the set value  0…400 default 300
Zof  PV bias  -19.9…19.9 default 0.0
Zhy  Hysteresis  0.1…20.0 default 1.0
Zmd  Control type: oo=on/off, Pd=PID
"""


def shows(page):
    return page.driver.find_element("css selector", ".front .seven.upper").get_attribute("aria-label")


@pytest.mark.long
def test_a_walk_is_rehearsed_done_and_kept_and_a_display_is_looked_up(demo, browser):
    page = browser.open(demo.address, "/rigs/pitch-plate/setup?look=keys")
    page.see("Osier: one knob")
    page.press("Another controller")
    page.fill("Controller", "Larch: rooms in a row, forward only")
    page.fill("Why (goes into the book)", "the knob broke off")
    page.press("It is this one")
    page.see("Larch: rooms in a row")
    page.press("Values")
    page.see("The controller was exchanged after this sheet")
    page.fill("Offset", "-0.7")
    page.press("Keys")
    page.see("pages change")
    page.press("Hold, wait, power")
    page.press("hold M 3 s")
    page.until(lambda: shows(page) == "rEAd", what="the first room")
    page.press("Press ▲")
    page.until(lambda: shows(page) == "wirE", what="its first page")
    page.press("Press ▲")
    page.press("Wait 60 s")
    page.see("What was changed on wirE was not kept")
    boxes = page.driver.find_elements("css selector", ".steps input")
    boxes[0].click()
    page.until(lambda: page.driver.find_elements("css selector", ".steps li.done"), what="the first step done")
    page.until(lambda: not page.driver.find_elements("css selector", ".steps input:disabled"), what="that it is kept")
    page.driver.find_elements("css selector", ".steps input")[len(boxes) - 1].click()
    page.see("it holds what it can of it: nothing to press")
    page.press("Values")
    page.see("walked through Larch")
    page.gone("The controller was exchanged after this sheet")
    page.press("Where am I?")
    page.fill("The display shows", "wIrE")
    page.driver.find_element("css selector", ".lookup button").click()
    page.see("Reading room, page 1 of 4")
    page.fill("The display shows", "n0PE")
    page.driver.find_element("css selector", ".lookup button").click()
    page.see("No sensor, or its wire is broken")
    page.press("Book")
    page.see("the knob broke off")
    assert page.complaints() == []


def test_constants_are_filled_copied_read_back_and_come_into_the_sheet(demo, browser):
    page = browser.open(demo.address, "/rigs/pitch-plate/setup?look=text")
    page.see("The block, with places in braces")
    page.fill("Output at full power", "1023")
    page.fill("The line it prints when tuned", "tuned: {kp} {ki} {kd}")
    page.press("Keep it as this rig’s")
    page.see("Read it back")
    page.fill("Paste the source, or a part of it", "// const float SET_POINT = 1;\nconst float  SET_POINT=71.5 ;")
    page.press("Read it")
    page.see("Not in it:")
    page.press("Into the sheet")
    page.see("Save as left (1 changed)")
    assert page.complaints() == []


def test_a_page_of_a_manual_is_described_in_few_actions_and_tried(demo, browser):
    """Ten actions; sixty are allowed."""
    page = browser.open(demo.address, "/controllers")
    page.see("How is the controller operated?")
    page.see("say what it is called")
    page.fill("Controller", "From the grey manual")
    page.fill("Keys, as they are marked", "P, U, D")
    page.fill("Paste the list of its pages", MANUAL)
    page.press("Make pages of it")
    page.see("Cold start")
    page.gone("say what it is called")
    page.press("Hold, wait, power")
    page.press("hold P 4 s")
    page.until(lambda: shows(page) == "LUP", what="the second group")
    page.press("Keep it")
    page.see("From the grey manual")
    page.open(demo.address, "/controllers")
    page.see("From the grey manual")
    page.press("From the grey manual")
    page.see("Save the changes")
    assert page.complaints() == []


@pytest.mark.long
def test_its_manual_is_photographed_an_option_left_out_and_a_value_typed_as_it_shows_it(demo, browser, tmp_path):
    photo = tmp_path / "page.png"
    Image.new("RGB", (300, 400), "white").save(photo)
    page = browser.open(demo.address, "/controllers")
    page.press("Heron")
    page.press("Keep it as a new one")
    page.fill("Place, as its pages name it", "page 12")
    page.field("Photo of the manual").send_keys(str(photo))
    page.see("Remove this photo", 120)
    page.fill("Controller", "Heron as ours")
    page.press("More of A2")
    page.fill("Place of A2 in the manual", "page 12")
    page.press("More of B4")
    page.fill("What B4 is there with", "board that sends a current")
    page.press("Save the changes")
    page.until(lambda: page._pressable("Heron as ours"), what="its new name in the library")
    page.open(demo.address, "/rigs/bake-out-shell/setup?look=keys")
    page.press("Another controller", 90)
    page.fill("Controller", "Heron as ours")
    page.see("it has the board that sends a current")
    page.press("It is this one")
    stop = ".routes [aria-label^='A2:'] circle"
    page.until(lambda: page.driver.find_elements("css selector", stop)[0].click() is None, what="its map")
    page.see("In the manual: page 12")
    assert not page.driver.find_elements("css selector", ".routes [aria-label^='B4']"), "this one has no such board"
    page.press("Values")
    page.press("As Heron as ours shows it")
    page.fill("A2 Offset", "-1.5\n")
    page.see("Save as left (1 changed)")
    assert page.field("Offset").get_attribute("value") == "-1.5"
    page.fill("A2 Offset", "far\n")
    page.see("A2 cannot show")


@pytest.mark.long
def test_what_it_found_as_it_tuned_itself_is_read_off_page_by_page(demo, browser):
    page = browser.open(demo.address, "/rigs/bake-out-shell/setup?look=keys")
    page.press("What no walk presses", 180)
    page.press("It has finished: read what it found")
    page.see("Nothing is kept until all are read")
    for field, shows in (("C1 Kind of control", "u.2"), ("C2 Band", "9.6"), ("C4 Integral, min", "2,55x")):
        page.fill(field, shows)
    assert not page._pressable("Keep as found"), "one page is not read yet"
    page.fill("C5 Derivative, s", "51")
    page.press("Keep as found")
    page.see("C4 cannot show")
    page.fill("C4 Integral, min", "3.5")
    page.press("Keep as found")
    page.gone("Nothing is kept until all are read")
    page.press("Values")
    page.see("found as it tuned itself, read off C1 C2 C4 C5")
    assert page.field("Integral time").get_attribute("value") in ("210", "210.0", "3.5")
