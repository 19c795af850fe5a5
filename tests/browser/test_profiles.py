"""Profiles as a user goes through them: from a kind of work, a corner moved by keyboard, what the rig cannot follow, the fastest it can,
a value that cannot be, versions, a controller's table, a pasted one, a judged run, and a programme that is started and ended."""

import pytest
from selenium.webdriver import Keys

pytestmark = pytest.mark.browser


def corner(page, segment):
    return page.driver.find_element("css selector", f"[role=slider][aria-label='End of segment {segment}']")


def test_a_profile_is_drawn_mended_kept_and_entered_in_a_controller(demo, browser):
    page = browser.open(demo.address, "/rigs/blank-annealer/profiles?profile=new")
    page.see("It takes", 180)
    page.press("From a kind of work")
    page.fill("Kind of work", "Glass annealing")
    page.fill("Half its thickness", "20")
    page.press("Draw this profile")
    page.see("4 ramp at a rate")
    page.until(lambda: corner(page, 1).get_attribute("aria-valuetext").startswith("560.0 °C"), what="the first corner")
    for key in (Keys.ARROW_DOWN, Keys.ARROW_DOWN):
        corner(page, 1).send_keys(key)
    page.until(lambda: corner(page, 1).get_attribute("aria-valuetext").startswith("558.0 °C"), what="the corner moved")
    page.press("Undo")
    page.until(lambda: corner(page, 1).get_attribute("aria-valuetext").startswith("559.0 °C"), what="one step back")

    page.fill("To", "660")
    page.see("the rig must never pass 600 °C")
    page.fill("To", "560")
    page.gone("the rig must never pass")
    page.fill("At (°C/min)", "40")
    page.see("Segment 1: it is flat out and gets behind", 180)
    page.press("The fastest it can follow")
    page.gone("Segment 1: it is flat out", 180)
    assert float(page.field("At (°C/min)").get_attribute("value")) < 40
    page.press("°/h")
    page.see("°C/h")

    page.fill("Name", "Blank 40 mm thick")
    page.fill("Why (goes into the book)", "the new mirror")
    page.press("Save it")
    page.see("version 1")
    page.fill("Say to the operator", "close the vents")
    page.press("Save as the next version")
    page.see("version 2")
    page.press("In a controller")
    page.fill("Segments it has", "4")
    page.see("rows more than it has")
    page.press("Keep this for the rig")
    page.gone("Keep this for the rig")
    page.press("A file for own firmware")
    page.until(lambda: "S560.0" in page.field("The file").get_attribute("value"), what="the file of points")
    page.see("what the operator is told")
    page.fill("How your firmware writes it", "[point] {at_s} {temp_c}")
    page.see("{temp_c} is no value")
    page.press("Back to what is kept")
    page.fill("Read a file of your firmware", "T0 S20.0\nT3600 S300\nT4200 S300\nEND")
    page.press("Draw what it says")
    page.see("to 300.0 °C")
    page.press("Back to what is saved")
    page.see("4 ramp at a rate")
    page.press("Files")
    pasted = "temperature (°C)\trate (°C/h)\thold (min)\n120\t60\t60\n540\t150\t90\n"
    box = page.driver.find_element("id", "pasted")
    page.driver.execute_script("arguments[0].focus()", box)
    box.send_keys(pasted.replace("\t", ";"))
    page.press("Draw it")
    page.see("to 540.0 °C")
    page.press("Back to what is saved")
    page.see("5 end")
    page.press("Remove")
    page.see("is out of the library")
    undo = "//div[contains(@class,'MuiSnackbar')]//button"
    page.until(lambda: page.driver.find_elements("xpath", undo)[0].click() is None, what="the way back")
    page.see("version 2")


def test_a_run_is_judged_limit_by_limit(demo, browser):
    page = browser.open(demo.address, "/rigs/board-plate/profiles?look=run")
    page.see("1 of 10 limits failed", 180)
    page.see("joint above liquidus, hottest")
    page.open(demo.address, "/rigs/blank-annealer/profiles?profile=blank-200-mm&look=run")
    page.see("Look at the supply voltage", 180)
    page.fill("Lay over one another at", "300")
    page.see("It passed 300", 180)


@pytest.mark.long
def test_a_programme_is_started_held_and_ended(demo, browser):
    page = browser.open(demo.address, "/rigs/blank-annealer/profiles?profile=blank-20-mm-thick&look=go")
    page.see("The controller is off: set it to control first.", 180)
    page.see("Stopped in segment 1, the last set-point is up to 560 °C.")
    assert not page.driver.find_element("xpath", "//button[starts-with(., 'Start ')]").is_enabled()
    page.press("Runs")
    page.press("Arm writing")
    page.press("Heat…")
    page.press("Write it")
    page.until(lambda: not page._pressable("Heat…"), 30, "the controller in control")
    page.until(lambda: not page.driver.find_elements("css selector", ".MuiDialog-root"), what="the question to close")
    page.press("Profiles")
    page.press("Run it")
    page.see("I have read", 180)
    page.driver.find_element("xpath", "//label[contains(., 'I have read')]//input").click()
    page.driver.find_element("xpath", "//label[contains(., 'Nobody stays')]//input").click()
    page.see("The limiter was not proved to act.")
    page.driver.find_element("xpath", "//label[contains(., 'Nobody stays')]//input").click()
    page.press("Start Blank", 180)
    page.see("segment 1 of 5, running", 180)
    page.press("Hold here")
    page.see("paused (somebody paused it)", 180)
    page.press("Go on")
    page.see("segment 1 of 5, running", 180)
    page.press("Heat off")
    page.see("Heat is off", 180)
    page.press("Close")
    page.see("was broken off: the heat was switched off", 180)
