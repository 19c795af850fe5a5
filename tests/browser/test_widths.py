"""Every page at any width: nothing is cut off, nothing scrolls sideways, station names and the next action stay."""

import time

import pytest

from tests.browser.chromium import chromium
from tests.browser.page import Page
from tests.examples import some

pytestmark = pytest.mark.browser

RIG = "/rigs/cement-cabinet"
STATIONS = (
    "purpose",
    "parts",
    "wiring",
    "proving",
    "setup",
    "guarding",
    "tuning",
    "profiles",
    "runs",
    "calibration",
    "book",
)
PAGES = (
    "/",
    "/new",
    "/library",
    "/equipment?piece=1",
    "/equipment?piece=new",
    "/maps?map=stand_in",
    "/questions/warm",
    "/wall",
    f"{RIG}/runs/import",
    f"{RIG}/bench",
    "/rigs/bake-out-shell/runs",
    "/rigs/blank-annealer/profiles?profile=blank-200-mm&look=run",
    "/rigs/detector-cold-box/proving",
    "/rigs/board-plate/proving?step=trip+live",
    *(f"{RIG}/{station}" for station in STATIONS),
)
WIDTHS = (390, 1024)
"""A phone and a tablet: the narrowest of each layout's kind. By hand also 640 (1280 at 200 % zoom), 768, 1280 and 1440."""

CUT_OFF = """
const wide = window.innerWidth + 1
const kept = (e) => ['auto', 'scroll', 'hidden', 'clip'].includes(getComputedStyle(e).overflowX)
const contains = (e) => kept(e) && !e.matches('#work, .rig, .page')
const scrolls = (e) => e && (contains(e) || scrolls(e.parentElement))
const shown = (e) => e.getClientRects().length && getComputedStyle(e).visibility !== 'hidden'
const seen = (e) => shown(e) && !e.closest('.visually-hidden, .skip')
const found = [...document.querySelectorAll('body *')].filter((e) => seen(e) && !e.closest('svg') && !scrolls(e.parentElement)
  && (e.getBoundingClientRect().right > wide || e.getBoundingClientRect().left < -1))
for (const e of document.querySelectorAll('html, body, .rig, .rig > main, .page'))
  if (e.scrollWidth > e.clientWidth + 1) found.push(e)
const right = (e) => Math.round(e.getBoundingClientRect().right)
return found.slice(0, 4).map((e) => `${e.tagName}.${e.className} ${(e.textContent || '').slice(0, 30)} ${right(e)}`)
"""
NOT_SAID = r"""
const texts = []
const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
while (walker.nextNode()) texts.push(walker.currentNode.nodeValue)
for (const e of document.querySelectorAll('[aria-label]')) texts.push(e.getAttribute('aria-label'))
for (const e of document.querySelectorAll('[placeholder]')) texts.push(e.getAttribute('placeholder'))
return texts.filter((t) => /\{[~+−-]?\d[^}]*\}|Δ°|\d ?°C/.test(t)).slice(0, 4)
"""
"""Quantities of messages that nobody has written for the reader, who reads °F here."""
HIDDEN = """
return [...document.querySelectorAll('.next, .spine a > span:not(.visually-hidden)')].filter((e) => {
  const box = e.getBoundingClientRect()
  return !e.textContent || box.width < 8 || box.height < 8 || box.left < 0 || box.right > window.innerWidth + 1
}).map((e) => e.textContent)
"""


def narrow(driver, width):
    size = {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


def focused(page):
    return page.driver.switch_to.active_element


@pytest.mark.parametrize("width", some(WIDTHS, 1))
def test_nothing_is_cut_off_and_everything_is_said_for_its_reader(demo, width):
    """In °F, where every sentence is longest and none may say °C."""
    with chromium(max(width, 600), 800) as driver:
        if width < 600:  # narrower than a window can be
            narrow(driver, width)
        page = Page(driver)
        page.open(demo.address, "/")
        driver.execute_script("localStorage.setItem('unit', 'F')")
        wrong = {}
        for path in some(PAGES, 12):
            page.open(demo.address, path)
            page.until(
                lambda: driver.find_elements("css selector", "main h1") and "Fetching…" not in page.text,
                what="the page",
            )
            time.sleep(0.2)
            found = driver.execute_script(CUT_OFF) + driver.execute_script(NOT_SAID)
            if path.startswith(RIG) and not path.endswith("/bench"):  # one rig across the room: no stations
                found += [f"hidden: {words}" for words in driver.execute_script(HIDDEN)]
                assert len(driver.find_elements("css selector", ".spine a")) == len(STATIONS)
            if found:
                wrong[path] = found
        assert wrong == {}


def test_a_pressed_figure_opens_as_a_sheet_on_a_phone_and_escape_closes_it(demo):
    with chromium(600, 800) as driver:
        driver.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride", {"width": 390, "height": 800, "deviceScaleFactor": 1, "mobile": False}
        )
        page = Page(driver).open(demo.address, f"{RIG}/parts")
        page.press("heater current")
        sheet = page.until(lambda: driver.find_element("css selector", ".reason .pressed"), what="the sheet")
        box = sheet.rect
        assert box["x"] == 0 and box["width"] == 390 and box["y"] + box["height"] <= 801 and box["y"] > 300
        page.press("Close")
        page.until(lambda: not driver.find_elements("css selector", ".reason .pressed"), what="the sheet to close")


def test_a_page_is_named_and_its_heading_has_the_focus_after_going_there(demo, browser):
    page = browser.open(demo.address, f"{RIG}/purpose")
    page.until(lambda: browser.driver.title == "Purpose · Cement cabinet · Rellux", what="the title")
    page.press("Set-up")
    page.until(lambda: browser.driver.title == "Set-up · Cement cabinet · Rellux", what="the title of the next page")
    page.until(
        lambda: focused(browser).text == "What should the controller be set to?",
        what="the focus",
    )
    page.open(demo.address, "/new")
    page.press("Create the rig")
    page.until(
        lambda: focused(browser).get_attribute("aria-invalid") == "true",
        what="the first wrong field",
    )
    assert focused(browser) == page.field("Name")


def test_the_palette_finds_by_other_words_and_shows_what_is_chosen(demo, browser):
    from selenium.webdriver import Keys

    page = browser.open(demo.address, f"{RIG}/purpose")
    page.see("What must it hold")
    page.keys(Keys.CONTROL, "k")
    box = page.field("Command")
    box.send_keys("history")
    page.until(
        lambda: [o.text for o in browser.driver.find_elements("css selector", "[role=option]")] == ["Book"],
        what="the Book",
    )
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys(Keys.BACKSPACE)
    for _ in range(25):
        box.send_keys(Keys.ARROW_DOWN)
    chosen = browser.driver.find_element("css selector", "[role=option][aria-selected=true]").rect
    frame = browser.driver.find_element("css selector", ".palette-list").rect
    assert frame["y"] <= chosen["y"] and chosen["y"] + chosen["height"] <= frame["y"] + frame["height"] + 1
    box.send_keys(Keys.CONTROL, "a")
    box.send_keys("emergency")
    box.send_keys(Keys.ENTER)
    page.see("Heat is off")
