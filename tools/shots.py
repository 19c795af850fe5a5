"""Renews docs/screenshots: the demo workshop, each main view once, 1280 × 800."""

import re
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser.chromium import chromium  # noqa: E402
from tests.browser.conftest import Stack  # noqa: E402
from tests.browser.page import Page  # noqa: E402

FOLDER = ROOT / "docs" / "screenshots"
VIEWS = (
    ("workshop", "/", "What needs attention"),
    ("purpose", "/rigs/blank-annealer/purpose", "What must it hold"),
    ("parts", "/rigs/blank-annealer/parts", "Heater current"),
    ("wiring", "/rigs/bake-out-shell/wiring", "heater on"),
    ("setup", "/rigs/cement-cabinet/setup?look=keys", "Rehearse it"),
    ("proving", "/rigs/detector-cold-box/proving", "things explain it"),
    ("guarding", "/rigs/blank-annealer/guarding", "peak after it trips"),
    ("profiles", "/rigs/blank-annealer/profiles", "It takes"),
    ("tuning", "/rigs/spectro-furnace/tuning?trial=mains", "heater gets to"),
    ("calibration", "/rigs/cement-cabinet/calibration", "Enter this"),
    ("mistake", "/questions/mistake", "likeliest mistake"),
    ("zones", "/zones/1", "All hold after"),
    ("equipment", "/equipment?piece=1", "Fitted to"),
    ("library", "/library", "Which number"),
    ("maps", "/maps", "A new map"),
    ("book", "/rigs/cement-cabinet/book", "What was done"),
)


def take(page: Page, name: str) -> None:
    time.sleep(1.5)
    page.driver.save_screenshot(str(FOLDER / f"{name}.png"))
    print(name)


def heat(page: Page, stack: Stack, rig: str) -> None:
    page.open(stack.address, f"/rigs/{rig}/runs")
    page.press("Arm writing", 30)
    page.press("Heat…", 30)
    page.press("Write it")
    page.until(lambda: re.search(r"output [1-9]\d* %", " ".join(page.text.split())), 120, "heat")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    stack = Stack("demo", Path(tempfile.mkdtemp(prefix="rellux-shots-")), Path(tempfile.mkdtemp()))
    try:
        with chromium() as driver:
            page = Page(driver)
            heat(page, stack, "cement-cabinet")
            heat(page, stack, "bake-out-shell")
            for name, path, words in VIEWS:
                page.open(stack.address, path)
                page.see(words)
                if name == "calibration":
                    for i, display in enumerate(("60.4", "60.5", "60.4"), 1):
                        page.fill(f"Display {i}", display)
                        page.fill(f"Reference {i}", "60.0")
                    page.press("T-01")
                    page.see("CORRECT IT")
                    page.driver.execute_script("document.getElementById('work').scrollTop = 0")
                if name == "mistake":
                    for i, (shown, true) in enumerate((("765.1", "800"), ("466", "500")), 1):
                        page.press("One more row")
                        page.fill(f"Display showed ({i})", shown)
                        page.fill(f"when it was ({i})", true)
                    page.see("explains it")
                    page.driver.execute_script("document.getElementById('work').scrollTop = 0")
                if name == "bank":
                    page.fill("What if", "L3 is lost")
                    page.see("star point has moved")
                if name == "maps":
                    page.press("Kiln controller")
                    page.see("30001")
                take(page, name)
                if name == "wiring":
                    page.press("If something fails")
                    page.see("single failure")
                    take(page, "faults")
            page.open(stack.address, "/rigs/bake-out-shell/runs")
            page.see("mirror cell")
            take(page, "runs")
            page.open(stack.address, "/wall")
            page.see("Pitch plate")
            time.sleep(45)
            take(page, "wall")
    finally:
        stack.stop()


if __name__ == "__main__":
    main()
