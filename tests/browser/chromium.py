"""Debian's headless Chromium, as the tests and the screenshots drive it."""

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

FLAGS = (
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
)


@contextmanager
def chromium(width: int = 1280, height: int = 800) -> Iterator[webdriver.Chrome]:
    """A fresh browser with an empty profile; its console is kept for the tests to read."""
    profile = tempfile.mkdtemp(prefix="rellux-chromium-")
    options = webdriver.ChromeOptions()
    options.binary_location = shutil.which("chromium") or "/usr/bin/chromium"
    for flag in (*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options, Service(shutil.which("chromedriver") or "/usr/bin/chromedriver"))
    try:
        # headless windows lose some height to a frame that is not drawn
        inner = driver.execute_script("return [window.innerWidth, window.innerHeight]")
        driver.set_window_size(2 * width - inner[0], 2 * height - inner[1])
        yield driver
    finally:
        driver.quit()
        shutil.rmtree(profile, ignore_errors=True)
