"""Guarding as a user goes through it: the ladder moved by keyboard, a value that cannot be, a proof, the plan over a run."""

import pytest
from selenium.webdriver import Keys

pytestmark = pytest.mark.browser


def limiter(page):
    return page.driver.find_element("css selector", "[role=slider][aria-label^='independent limiter']")


def test_the_ladder_is_moved_saved_proved_and_looked_at_over_a_run(demo, browser):
    page = browser.open(demo.address, "/rigs/blank-annealer/guarding")
    page.see("The limiter stops it too late for the highest allowed")
    assert page.until(lambda: limiter(page).get_attribute("aria-valuetext") == "590.0 °C", what="the limiter at 590")
    for key in (Keys.PAGE_DOWN, Keys.PAGE_DOWN, Keys.ARROW_UP):
        limiter(page).send_keys(key)
    page.until(lambda: limiter(page).get_attribute("aria-valuetext") == "571.0 °C", what="the limiter moved")
    page.gone("The limiter stops it too late")
    highest = page.driver.find_element("css selector", "[role=slider][aria-label^='set-point high limit']")
    highest.send_keys(Keys.ARROW_DOWN)
    page.see("Set-point limit tried at 591.0 °C")
    page.press("Set 591.0 °C under Set-up")
    page.gone("Set-point limit tried")
    page.press("Limiter, fuse")
    page.fill("Hysteresis", "500")
    page.see("no limiter has that")
    page.press("Save the plan")
    page.fill("Hysteresis", "6")
    page.gone("no limiter has that")
    page.fill("Why (goes into the book)", "it tripped late")
    page.press("Save the plan")
    page.see("The plan was changed since it was proved")

    page.press("Switch stuck")
    page.see("The limiter opens the contactor after")
    page.press("Proof")
    page.fill("The input’s terminals are at", "23")
    page.see("Take one lead of its own sensor off")
    steps = page.driver.find_elements("css selector", ".proofstep")
    for i, step in enumerate(steps):
        must = "acted" if "must have acted" in step.text else "quiet"
        if i == len(steps) - 1:
            must = "left out"
        step.find_element("xpath", f".//button[normalize-space()='{must}']").click()
    assert page.driver.find_elements("xpath", "//button[normalize-space()='Keep the proof' and @disabled]")
    page.driver.find_element("css selector", ".proofstep input").send_keys("no access to its terminals")
    page.press("Keep the proof")
    page.see("were left out: not proved")
    page.press("Over a run")
    page.see("would have called")
    page.press("Alarms")
    page.press("Too hot")
    page.fill("At", "100")
    page.fill("Only after", "0")
    page.press("Save the plan")
    now = "//section[@aria-label='Alarms now']//li[b='Too hot']"
    page.until(lambda: "active, not" in page.driver.find_element("xpath", now).text, 30, "the alarm")
    page.until(
        lambda: page.driver.find_element("xpath", f"{now}//button[.='Acknowledge']").click() is None, 30, "its button"
    )
    page.until(
        lambda: "active, acknowledged" in page.driver.find_element("xpath", now).text, 30, "that it is acknowledged"
    )
    page.press("Book")
    page.see("Alarm acknowledged: Too hot")
    page.see("it tripped late")
    assert page.complaints() == []
