"""Keyboard, units, themes, accessibility and the content-security policy on every station; finding out an unknown controller."""

import json
import urllib.request

import pytest
from selenium.webdriver import Keys

from rellux.core.purpose.cautions import CAUTIONS
from rellux.core.purpose.purpose import RigKind
from tests.examples import some
from tests.server.rigs.test_cooling import HEAT

from .accessibility import violations

pytestmark = pytest.mark.browser

STATIONS = {
    "purpose": "What must it hold",
    "parts": "Is every part",
    "wiring": "Which terminal goes to which",
    "setup": "What should the controller",
    "guarding": "What stops it, and in which order",
    "tuning": "How will it get to",
    "profiles": "It takes",
    "runs": "What does it do?",
    "runs/import": "Import a log",
    "calibration": "Can the display be trusted?",
    "book": "What was done",
}


DANGERS = [c.lead for c in CAUTIONS if RigKind.CABINET in c.kinds]
"""Of the cement cabinet: each at the one station where it is met."""


def test_every_station_meets_wcag_and_the_policy_by_day_and_night(demo, browser):
    page = browser.open(demo.address)
    page.see("Cement cabinet")
    problems, told = {}, []
    stations = {"": "What needs attention", **{f"rigs/cement-cabinet/{s}": w for s, w in STATIONS.items()}}
    looks = {
        "rigs/blank-annealer/guarding?look=stuck": "opens the contactor after",
        "rigs/cement-cabinet/guarding?look=alarms": "Too hot",
        "rigs/blank-annealer/profiles?look=kind": "Draw this profile",
        "rigs/blank-annealer/profiles?look=controller": "off the profile",
        "rigs/board-plate/profiles?look=run": "limits failed",
        "new": "What must",
        "questions/mistake": "likeliest mistake",
        "questions/bank": "Together",
        "questions/colours": "positive",
        "questions/feed": "Join the source",
        "questions/capability": "600 °C in",
        "questions/panel": "cut-outs",
        "questions/wire": "behind a",
        "rigs/blank-annealer/parts/along": "Everything along",
        "library": "Which number",
        "equipment?piece=1": "Fitted to",
        "maps": "Where does the controller",
    }
    for path, words in [*stations.items(), *some(looks.items(), 1)]:
        page.open(demo.address, f"/{path}")
        page.see(words)
        page.gone("Fetching")
        found = violations(page)
        page.driver.find_element("css selector", "[aria-label='Night shift']").click()
        found += violations(page, ["color-contrast"], "rule")  # only colours differ
        page.driver.find_element("css selector", "[aria-label='Day']").click()
        if path.startswith("rigs/cement-cabinet/") and "?" not in path:
            told += [lead for lead in DANGERS if lead in page.text]
        if found:
            problems[path] = found
    assert problems == {}
    assert sorted(told) == sorted(DANGERS)
    assert page.complaints() == []


WITHOUT_CHOICES = """
const page = document.querySelector('#root, body').cloneNode(true)
page.querySelectorAll('select, datalist, script, style').forEach((e) => e.remove())
return page.textContent
"""
"""What is said on a page, without everything that could be chosen there."""


def test_a_cooled_rig_has_no_word_of_heat_on_any_of_its_pages(demo, browser):
    words = {
        "purpose": "Coldest allowed",
        "parts": "Compressor",
        "setup": "Least time off",
        "runs": "Cooling off",
        "guarding?look=stuck": "The low limiter opens",
        "guarding?look=devices": "Independent limiter",
        "guarding?look=ladder": "independent low limiter",
    }
    wrong = []
    for station, seen in words.items():
        page = browser.open(demo.address, f"/rigs/detector-cold-box/{station}")
        page.see(seen, 60)
        page.gone("Fetching")
        told = page.driver.execute_script(WITHOUT_CHOICES)
        wrong += [(station, told[max(m.start() - 40, 0) : m.end() + 40]) for m in HEAT.finditer(told)]
    assert wrong == []
    assert page.complaints() == []


def test_stations_units_and_commands_by_keyboard(demo, browser):
    page = browser.open(demo.address, "/rigs/cement-cabinet/purpose")
    page.see("What must it hold")
    page.keys("7")
    page.see("How will it get to 60 °C?")
    page.keys("u")
    page.see("How will it get to 140 °F?")
    page.keys("u")
    page.keys("?")
    page.see("Change between day and night shift")
    page.keys(Keys.ESCAPE)
    page.gone("Change between day and night shift")
    page.keys("n")
    page.until(lambda: page.driver.execute_script("return document.documentElement.dataset.theme") == "night")
    page.keys(Keys.CONTROL, "k")
    page.field("Command").send_keys("annealer", Keys.ENTER)
    page.until(lambda: "/rigs/blank-annealer" in page.driver.current_url, what="the other rig")


def test_a_wrong_connection_is_recognised_from_two_readings(demo, browser):
    page = browser.open(demo.address, "/rigs/blank-annealer/parts")
    page.press("Sensor: ")
    page.press("What would a wrong connection show?")
    page.see("likeliest mistake")
    page.fill("Sensor", "Type K thermocouple")
    for i, (shown, true) in enumerate((("765.1", "800"), ("466", "500")), 1):
        page.press("One more row")
        page.fill(f"Display showed ({i})", shown)
        page.fill(f"when it was ({i})", true)
    page.see("Copper instead of extension wire explains it.")
    page.press("Extension crossed over")
    page.see("Warm the head: about −2")


def test_sensor_questions_without_a_rig(demo, browser):
    page = browser.open(demo.address, "/questions/colours")
    page.fill("One leg is", "green")
    page.fill("the other", "white")
    page.see("Green is positive in every standard that fits.")
    page.press("How wrong can the reading be?")
    page.see("19 times in 20")
    page.press("sensor: ")
    page.see("As delivered; a used one drifts beyond it.")
    page.press("What does this thermistor read?")
    page.see("in series one count is at most")
    page.fill("Resistance (4)", "40000")
    page.see("does not fall")
    page.press("What must I feed in")
    page.see("Join the source with copper")
    page.fill("every", "0.01")
    page.see("slip of unit?")
    assert page.complaints() == []


def test_a_bank_in_the_wrong_connection_is_told(demo, browser):
    page = browser.open(demo.address)
    page.press("Bench questions")
    page.press("What does each element of a bank get?")
    page.see("Together 4.54 kW of 4.5 kW on the nameplates.")
    page.fill("Joined as", "Delta")
    page.see("Every element gives 3.02 times its power")
    page.fill("Elements", "4")
    page.see("4 elements cannot be spread evenly over three phases")
    page.fill("Elements", "3")
    page.fill("Joined as", "Star")
    page.fill("What if", "L3 is lost")
    page.press("The star point has moved")
    page.see("share the line voltage")
    assert page.complaints() == []


def test_a_question_is_asked_wrongly_then_rightly_and_kept_in_a_rig(demo, browser):
    page = browser.open(demo.address)
    page.press("Bench questions")
    page.press("How hot is the outside")
    page.see("Outside 47 °C; it loses 677 W.")
    page.fill("Inside", "6000")
    page.see("cannot be right; a slip of unit?")
    page.fill("Inside", "900")
    page.press("The outside gets")
    page.see("hot to the touch")
    page.press("steady loss: ")
    page.see("What the heater must give only to hold this temperature.")
    page.press("One more row")
    page.fill("Thickness (3)", "60")
    page.fill("Keep it in a rig", "Bake-out shell")
    page.see("Kept in this rig")
    assert page.complaints() == []
    page.open(demo.address, "/rigs/pitch-plate/parts")
    page.press("Heater: ")
    page.press("What does this element measure and draw?")
    page.fill("Supply", "48")
    page.see("The element gives 4.00 times its nameplate")
    page.press("Keep in this rig")
    page.see("Kept in this rig")
    page.press("Back to the parts")
    page.see("440 W, 9.2 A")
    page.press("What does this element measure and draw?")
    page.press("Keep no longer")
    page.gone("Kept in this rig")
    assert page.complaints() == []


@pytest.mark.long
def test_a_part_of_ones_own_shows_its_numbers_in_a_rig(demo, browser):
    page = browser.open(demo.address)
    page.press("Parts library")
    page.fill("Kind", "Controller, relay output")
    page.fill("Number at COM", "13")
    page.fill("Number at NO", "13")
    page.fill("Your name for it", "Grey controller")
    page.press("Save to the library")
    page.see("one number has one role")
    page.fill("Number at NO", "14")
    page.press("Save to the library")
    page.see("COM→13, NO→14")
    page.open(demo.address, "/rigs/cement-cabinet/wiring")
    page.fill("A1 is", "Grey controller")
    page.see("COM→13, NO→14")
    page.until(
        lambda: page.driver.find_elements("xpath", "//*[name()='text'][.='14']"), what="the number on the diagram"
    )
    assert page.complaints() == []


def test_a_probe_is_entered_fitted_and_moved_with_its_record(demo, browser):
    page = browser.open(demo.address)
    page.press("Equipment")
    page.see("Where is what")
    page.press("Enter a piece")
    page.press("Enter it")
    page.see("it needs a name")
    page.fill("Name, as on its label", "s-05")
    page.press("Enter it")
    page.see("there is s-05 already")
    page.fill("Name, as on its label", "S-20")
    page.fill("Sensor", "type N thermocouple")
    page.fill("Sheath, diameter", "6")
    page.fill("Length that goes in", "40")
    page.press("Enter it")
    page.see("On the shelf.")
    page.press("Fit it to…")
    page.fill("Rig", "Blank annealer")
    page.fill("Why", "spare, the old one is being compared")
    page.press("Fit S-20 to Blank annealer")
    page.see("In Blank annealer since")
    page.press("S-02")
    page.see("On the shelf.")

    page.open(demo.address, "/rigs/blank-annealer/parts")
    page.see("S-20 is too short for its thickness")
    page.fill("Another sensor", "S-02, on the shelf")
    page.press("Fit S-02")
    page.gone("S-20 is too short")
    page.press("Book")
    page.see("S-02 fitted")
    page.see("spare, the old one is being compared")
    assert page.complaints() == []


def test_what_hangs_on_a_purpose_is_shown_before_it_is_saved(demo, browser):
    page = browser.open(demo.address, "/rigs/board-plate/purpose")
    page.fill("Heater power, nameplate", "900")
    page.press("Save the purpose")
    page.see("What hangs on it")
    page.see("Wiring")
    assert "Saved." not in page.text
    page.fill("Heater power, nameplate", "910")
    page.press("Save the purpose")  # what is shown is of what was typed before
    page.press("Save it so")
    page.see("Saved.")
    page.press("Book")
    page.see("Purpose changed")
    assert page.complaints() == []


@pytest.mark.long
def test_a_boiler_over_a_fire_is_described_and_wired(empty, browser):
    page = browser.open(empty.address, "/new")
    page.fill("Name", "Wash boiler")
    page.fill("Kind of rig", "Boiler")
    page.press("A fire with a fan, or a burner")
    page.fill("Working temperature", "75")
    page.fill("Highest allowed", "92")
    page.fill("Above it", "it boils over")
    page.fill("Its fan takes, nameplate", "40")
    page.press("Create the rig")
    page.see("give a number")
    page.fill("Heat of the fire, fan full on", "12000")
    page.fill("Left of it with the fan standing", "60")
    page.press("Create the rig")
    page.see("no control holds")
    page.fill("Left of it with the fan standing", "5")
    page.press("Create the rig")
    page.see("From plug to fan")
    page.fill("Sensor", "Pt100, three wires")
    page.press("Relay contact")
    page.press("Use these parts")
    page.see("These parts are chosen")
    page.press("Wiring")
    page.press("Lay out: The chosen parts")
    page.see("Fan of a fire")
    page.press("Set-up")
    page.see("Longest time off")
    page.press("Save as found")
    page.see("The values suit this rig.")
    page.press("Guarding")
    page.see("A fan that stops does not put a fire out.")
    page.see("peak after it trips")
    assert page.complaints() == []


@pytest.mark.long
def test_a_bath_that_water_cools_too_is_described_wired_and_guarded(empty, browser):
    page = browser.open(empty.address, "/new")
    page.fill("Name", "Warm bath")
    page.fill("Kind of rig", "Tank or bath")
    page.fill("Cooled by", "A compressor cools it")
    page.fill("Heat it takes out", "400")
    page.fill("What cools it draws", "12")
    page.see("Refrigerant burns or suffocates.")
    page.fill("Takes out nothing any more at", "4")
    page.fill("Working temperature", "32")
    page.fill("Highest allowed", "45")
    page.fill("Above it", "the pitch gives way")
    page.fill("Heater power, nameplate", "500")
    page.press("Create the rig")
    page.see("a cooler that never stops gets there")
    page.fill("Cooled by", "Water cools it")
    page.gone("Refrigerant burns or suffocates.")
    page.fill("Water that comes in", "40")
    page.press("Create the rig")
    page.see("it cools nothing that is held at 32")
    page.fill("Water that comes in", "14")
    page.press("Create the rig")
    page.fill("Sensor", "Pt100, three wires")
    page.press("Use these parts")
    page.see("These parts are chosen")
    page.press("Wiring")
    page.see("the cooler on a relay that opens the heater’s command")
    page.press("Lay out: The chosen parts")
    page.see("Solenoid valve")
    page.press("Set-up")
    page.see("Cools from above the set-point")
    page.press("Save as found")
    page.see("The values suit this rig.")
    page.press("Guarding")
    page.see("the cooler comes on")
    assert page.complaints() == []


@pytest.mark.long
def test_a_block_on_a_module_that_is_turned_round_is_described_wired_and_proved(empty, browser):
    page = browser.open(empty.address, "/new")
    page.fill("Name", "Sensor block")
    page.fill("Kind of rig", "Hot plate")
    page.fill("Cooled by", "The module that heats it, turned round")
    page.gone("What cools it draws")
    page.fill("Heat it takes out", "60")
    page.fill("Takes out nothing any more at", "-10")
    page.fill("Working temperature", "30")
    page.fill("Highest allowed", "45")
    page.fill("Above it", "the sensor drifts")
    page.fill("Coldest allowed", "20")
    page.fill("Below it", "it dews")
    page.fill("Heater power, nameplate", "96")
    page.press("Create the rig")
    page.see("a thermo-electric module runs on direct current")
    page.fill("Supply", "DC")
    page.fill("Supply voltage", "24 V")
    page.fill("Heater voltage, nameplate", "24")
    page.press("Create the rig")
    page.see("From plug to heater")
    page.fill("Sensor", "Pt100, three wires")
    page.press("SSR drive")
    page.see("turned round by two contacts that change over")
    page.press("Relay contact")
    page.press("Power relay")
    page.press("Use these parts")
    page.see("These parts are chosen")
    page.press("Wiring")
    page.press("Lay out: The chosen parts")
    page.see("Thermo-electric mo")
    page.fill("Lit", "cooler called, output on")
    page.see("heater off, E1 cools")
    page.press("Set-up")
    page.see("Cools from above the set-point")
    page.press("Save as found")
    page.see("The values suit this rig.")
    page.open(empty.address, "/rigs/sensor-block/proving?step=turned+E1")
    page.see("Minus what it had while it heated")
    assert page.complaints() == []


def test_an_address_that_is_nothing_and_a_rig_that_is_not_there(demo, browser):
    browser.open(demo.address, "/nowhere/at/all").see("There is nothing at this address")
    browser.open(demo.address, "/rigs/nobody/purpose").see("There is no such thing here")


def of_cabinet(demo, path=""):
    return json.load(urllib.request.urlopen(f"{demo.address}/api/v1/rigs/cement-cabinet{path}"))


@pytest.mark.long
def test_an_unknown_controller_is_found_out_and_kept(demo, browser):
    page = browser.open(demo.address, "/maps")
    page.see("Kiln controller, grey")
    page.fill("Address of the controller", "127.0.0.1")
    page.fill("Port", str(of_cabinet(demo, "/link")["port"]))
    page.fill("Registers", "20")
    page.press("What answers?")
    page.see("40003", 180)
    page.see("moves")  # its clock
    page.until(lambda: of_cabinet(demo)["live"]["reading_c"] is not None, 20, "a live reading")
    shown = f"{of_cabinet(demo)['live']['reading_c']:.1f}"
    for times in (1, 2, 3):  # its clock may happen to look like it once
        page.fill("The display shows", shown)
        page.press("Read and compare")
        page.see(f"Typed so far: {', '.join([shown] * times)}.", 180)
        if "Only one place fits" in page.text:
            break
    page.see("Only one place fits, 40003")  # the output beside it is 0: 16 or 32 bits
    page.see("16 bits ±, 10 counts per unit")
    page.press("This is the reading")
    page.fill("Name of the controller", "Found on the cabinet")
    page.see("2 = 40003")
    page.see("One read a poll")
    assert violations(page) == []
    page.press("Save the map")
    page.see("no rig speaks by it")
    page.see("Found on the cabinet")
    page.open(demo.address, "/rigs/cement-cabinet/runs")
    page.press("Simulated, 20")
    page.until(lambda: "Found on the cabinet" in page.field("It speaks by").text, what="the list of maps")
    page.fill("It speaks by", "Found on the cabinet")
    page.open(demo.address, "/maps")
    page.press("Found on the cabinet")
    page.press("Remove")
    page.gone("Found on the cabinet")
    assert page.complaints() == []
