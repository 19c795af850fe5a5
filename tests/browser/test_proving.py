"""Proving at the bench, through the interface: a sound step, one in the wrong unit, one that fails and is found by halves, a name."""

import pytest

pytestmark = pytest.mark.browser


@pytest.mark.long
def test_a_failed_step_of_the_demo_is_found_by_halves(demo, browser):
    page = browser.open(demo.address, "/rigs/detector-cold-box/proving")
    page.see("Control power, load dead")
    page.see("things explain it")
    page.see("Plug out: ohms from")
    page.press("No connection")
    page.see("no connection")
    page.see("comes off")


def test_a_rig_is_proved_step_by_step_with_a_slip_of_the_unit_and_out_of_turn(demo, browser):
    page = browser.open(demo.address, "/rigs/cement-cabinet/proving")
    page.see("Dead, unplugged")
    page.see("Go through the list")
    page.press("It was so, next")
    page.see("Earth of X1")
    page.see("from the earth pin of the plug")
    page.fill("Measured", "0.06")
    page.press("It was so, next")
    page.see("0.06 Ω")
    page.press("Heater E1")
    page.see("everything at rest")
    page.fill("Measured", "0.17")
    page.press("It was so, next")
    page.see("but as kΩ for Ω it fits")
    page.fill("Measured", "170")
    page.press("It was so, next")
    page.see("170 Ω, expected")

    page.press("Stage 3")
    page.press("Power cut")
    page.see("It is not its turn")
    page.press("It was so, next")
    page.see("a reason that stays on the sheet")
    page.press("Stage 0")
    page.press("Sign it all the same")
    page.fill("Why", "only to try the output")
    page.press("Sign stage 0")
    page.see("only to try the output")
    page.open(demo.address, "/rigs/cement-cabinet/book").see("Stage 0 signed")
