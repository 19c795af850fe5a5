"""Reading and pressing a page as a user does: by the words on it."""

from selenium.common.exceptions import (
    ElementClickInterceptedException,
    StaleElementReferenceException,
    TimeoutException,
)
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import Select, WebDriverWait

# What somebody can read. The driver's own way is a hundred times slower, and every wait asks for it.
READ = r"return document.body.innerText.replace(/[ \t\u00a0]+/g, ' ').replace(/ ?\n[ \n]*/g, '\n')"
# The element in the middle, and a note of whether a press reaches it.
AIM = """
arguments[0].scrollIntoView({block: 'center'})
window.missed = true
arguments[0].addEventListener('click', () => { window.missed = false }, {capture: true, once: true})
"""


class Page:
    """A tab. Every wait fails with what was on the page instead."""

    def __init__(self, driver: Chrome) -> None:
        self.driver = driver
        self.base = ""

    def open(self, address: str, path: str = "/") -> "Page":
        self.base = address
        self.driver.get(address + path)
        return self

    @property
    def text(self) -> str:
        return self.driver.execute_script(READ)

    def forget(self) -> None:
        """Whatever the browser keeps of where it has been."""
        self.driver.execute_cdp_cmd("Network.clearBrowserCookies", {})
        if self.base:
            self.driver.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": self.base, "storageTypes": "all"})

    def until(self, condition, seconds: float = 40.0, what: str = ""):
        """Wait for ``condition()`` to be true (or an element) and return it."""

        def safely(_driver):
            try:
                return condition()
            except (StaleElementReferenceException, ElementClickInterceptedException, IndexError):
                return False  # not there yet, or under a dialog that is fading out

        try:
            return WebDriverWait(self.driver, seconds, 0.1).until(safely)
        except TimeoutException:
            raise AssertionError(
                f"waited {seconds} s for {what or condition}; the page says:\n{self.text}\n{self.complaints()}"
            ) from None

    def see(self, words: str, seconds: float = 40.0) -> None:
        self.until(lambda: words in self.text, seconds, f"{words!r}")

    def gone(self, words: str, seconds: float = 40.0) -> None:
        self.until(lambda: words not in self.text, seconds, f"{words!r} to go")

    def _pressable(self, words: str) -> WebElement | None:
        quoted = f'"{words}"'
        path = (
            f"//*[self::button or self::a or self::summary or @role='radio' or @role='option'][starts-with(normalize-space(.), {quoted})"
            f" or starts-with(@aria-label, {quoted})]"
        )
        for element in self.driver.find_elements(By.XPATH, path):
            if element.is_displayed() and element.is_enabled():
                return element
        return None

    def press(self, words: str, seconds: float = 40.0) -> None:
        """Press the enabled button, link or choice whose words begin so: again where the page moved under the pointer."""

        def pressed():
            element = self._pressable(words)
            if element is None:
                return False
            self.driver.execute_script(AIM, element)
            element.click()
            return self.driver.execute_script("return window.missed !== true")

        self.until(pressed, seconds, f"something to press called {words!r}")

    def field(self, label: str) -> WebElement:
        quoted = f'"{label}"'
        path = f"//*[self::input or self::select or self::textarea][@id=//label[normalize-space(.)={quoted}]/@for or @aria-label={quoted}]"
        return self.until(lambda: self.driver.find_elements(By.XPATH, path)[0], what=f"the field {label!r}")

    def fill(self, label: str, value: str) -> None:
        """Put a value into a field: again where the page drew it anew under the hand."""

        def filled():
            element = self.field(label)
            self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
            if element.tag_name == "select":
                Select(element).select_by_visible_text(value)
            else:
                element.send_keys(Keys.CONTROL, "a")
                element.send_keys(value)
            return True

        self.until(filled, what=f"the field {label!r} to be filled")

    def unfold(self, selector: str) -> None:
        """Open what is folded away there, as soon as it is there."""
        unfolded = "const it = document.querySelector(arguments[0]); if (it) it.open = true; return it !== null"
        self.until(lambda: self.driver.execute_script(unfolded, selector), what=f"{selector} to unfold")

    def attach(self, label: str, path: str) -> None:
        self.driver.find_element(By.CSS_SELECTOR, f"input[type=file][aria-label='{label}']").send_keys(path)

    def keys(self, *keys: str) -> None:
        """Press keys one after another wherever the focus is; a modifier is held for the key after it."""
        actions, held = ActionChains(self.driver), []
        for key in keys:
            if key in (Keys.CONTROL, Keys.SHIFT):
                actions.key_down(key)
                held.append(key)
            else:
                actions.send_keys(key)
        for key in held:
            actions.key_up(key)
        actions.perform()

    def complaints(self) -> list[str]:
        """What the browser's console complained about: policy violations, script errors."""
        severe = [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]
        return [m for m in severe if "the server responded with a status of 4" not in m and "ERR_" not in m]
