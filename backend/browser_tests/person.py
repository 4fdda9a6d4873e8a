"""A person in front of a browser: finds things by role and name, as people do."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from demo.scenario import PASSWORD
from testkit import processes, runner

_FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
    # What moves into its place is clicked beside it on a slow machine.
    "--force-prefers-reduced-motion",
    "--hide-scrollbars",
    "--lang=en-GB",
    "--use-fake-device-for-media-stream",
    "--use-fake-ui-for-media-stream",
    "--autoplay-policy=no-user-gesture-required",
)

#: What an element is called, worked out well enough for our own pages.
_CALLED = """
const called = e => {
  const by = (e.getAttribute('aria-labelledby') || '').split(' ')
    .map(i => document.getElementById(i)).filter(Boolean).map(n => n.textContent).join(' ');
  const label = e.labels && e.labels.length ? e.labels[0].textContent : '';
  const said = e.getAttribute('aria-label') || by || label || e.textContent || e.placeholder || '';
  return said.split(/\\s+/).filter(Boolean).join(' ');
};
"""
#: The first visible element of a kind that is called so, looked for in one round trip.
_FIND = (
    _CALLED
    + """
const [selector, name, exact] = arguments;
const shown = {opacityProperty: true, visibilityProperty: true};
return [...document.querySelectorAll(selector)].find(e => {
  const is = called(e);
  return (exact ? is === name : is.startsWith(name)) && e.getClientRects().length
    && e.checkVisibility(shown);
}) || null;
"""
)

#: Follows a link within the application; false where it is not open.
_FOLLOW = """
if (!document.querySelector('#root > *')) return false;
history.pushState(null, '', arguments[0]);
dispatchEvent(new PopStateEvent('popstate'));
return true;
"""

#: Lets pages believe that it is later (or earlier) by some milliseconds.
_AHEAD = """
(() => {
  const Real = Date, ahead = %d;
  window.Date = class Date extends Real {
    constructor(...given) { given.length ? super(...given) : super(Real.now() + ahead); }
    static now() { return Real.now() + ahead; }
  };
})();
"""

#: The first part of the picker with a label.
_FIRST_PART = """
    const named = (label) => label.textContent.startsWith(arguments[0]);
    const label = [...document.querySelectorAll('label')].find(named);
    return label?.closest('.MuiFormControl-root')?.querySelector('[role=spinbutton]');
"""
#: What an open picker lists, and how often in a row it is the same when nothing more comes.
_OPTIONS = "return [...document.querySelectorAll('[role=option]')].map((e) => e.textContent);"
_SAME_LOOKS = 12
#: What has the focus, as it is called.
_FOCUSED = _CALLED + "return called(document.activeElement);"
_MOST_TABS = 150
_SELECTORS = {
    "button": "button,[role=button],a[href]",
    "field": "input:not([type=hidden]),textarea,[role=combobox]",
    "option": "[role=option],[role=menuitem]",
    "radio": "[role=radio]",
    "row": "[role=row]",
    "tab": "nav a",
    "switch": "label",
}
_LOOKS = Path(__file__).resolve().parent / "looks.js"
#: By an outline of its own; a field by its frame, a stop by its ring, a cell by its table's.
_SHOWS_FOCUS = """
const e = document.activeElement, style = getComputedStyle(e);
if (e === document.body) return true;
const outlined = style.outlineStyle !== "none" && parseFloat(style.outlineWidth) > 0;
const fields = ["InputBase", "PickersInputBase", "Switch", "Checkbox"];
const field = e.closest(fields.map((name) => `.Mui${name}-root`).join());
return outlined || field?.classList.contains("Mui-focused")
  || field?.querySelector(".Mui-focusVisible, :focus-visible") != null
  || e.closest("[data-stop], .MuiDataGrid-cell, .MuiDataGrid-columnHeader") !== null;
"""
_AXE = Path(__file__).resolve().parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
#: Browsers that nobody uses at the moment: starting one takes longer than emptying it.
_free: list[webdriver.Chrome] = []


@runner.at_the_end.append
def _close_browsers() -> None:
    while _free:
        _free.pop().quit()


def _new_browser() -> webdriver.Chrome:
    options = webdriver.ChromeOptions()
    for flag in _FLAGS:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    options.binary_location = shutil.which("chromium") or "/usr/bin/chromium"
    driver = shutil.which("chromedriver") or "/usr/bin/chromedriver"
    browser = webdriver.Chrome(options, webdriver.ChromeService(driver))
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
    )
    ahead_ms = int(os.environ.get("HAZERIDGE_TEST_AHEAD_MS", "0"))
    if ahead_ms:
        # The browser itself runs in real time: what would drive it waits by its clock.
        browser.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": _AHEAD % ahead_ms})
    return browser


def until(check: Callable[[], Any], seconds: float = 30.0) -> Any:
    """As of processes; what is looked at may be drawn anew meanwhile, and is looked at again."""

    def look() -> Any:
        try:
            return check()
        except StaleElementReferenceException:
            return None

    return processes.until(look, seconds, pause_s=0.1)


def _insist(do: Callable[[], object]) -> None:
    """Do it, again while what it is done to is drawn anew or a note lies over it for a moment."""

    def try_it() -> bool:
        try:
            do()
        except (ElementClickInterceptedException, ElementNotInteractableException):
            return False
        return True

    until(try_it)


class Person:
    """One browser of 1280 by 800."""

    def __init__(self, address: str) -> None:
        self.browser = _free.pop() if _free else _new_browser()
        self.address = address

    def leave(self) -> None:
        """Leave an empty browser for the next one; one that cannot be emptied is closed."""
        try:
            self._said()  # what one person's page said is nothing to the next one
            self.browser.get("about:blank")
            self.browser.execute_cdp_cmd(
                "Storage.clearDataForOrigin", {"origin": self.address, "storageTypes": "all"}
            )
            self.browser.execute_cdp_cmd("Network.clearBrowserCookies", {})
            _free.append(self.browser)
        except WebDriverException:
            self.browser.quit()

    def _said(self) -> list[str]:
        return [f"{said['level']} {said['message']}" for said in self.browser.get_log("browser")]

    def keep_what_is_seen(self, folder: Path, name: str) -> None:
        """A picture of the page, its address and words, and what it said to its log."""
        try:
            self.browser.save_screenshot(str(folder / f"{name}.png"))
            words = [self.browser.current_url, *self._said(), "", self.text]
        except WebDriverException as error:
            words = [f"The browser does not answer: {error}"]
        (folder / f"{name}.txt").write_text("\n".join(words))

    def go(self, path: str) -> None:
        """To a page as a link of the application leads there; by its address from elsewhere."""
        if not self.browser.execute_script(_FOLLOW, path):
            self.come_to(path)

    def come_to(self, path: str) -> None:
        """To a page by its address, which loads everything anew."""
        self.browser.get(self.address + path)

    def come_in(self, cookies: dict[str, str]) -> None:
        """Be signed in without the page for it, by a session's cookies, at the first page."""
        for name, value in cookies.items():
            self.browser.execute_cdp_cmd(
                "Network.setCookie", {"name": name, "value": value, "url": self.address}
            )
        self.come_to("/")
        self.sees("Find, go to or create")

    def sign_in(self, name: str, password: str = PASSWORD) -> None:
        self.come_to("/")
        self.fill("Sign-in name", name)
        self.fill("Password", password)
        self.press(Keys.ENTER)
        self.sees_no("Sign-in name") if password == PASSWORD else None

    @property
    def text(self) -> str:
        """What stands on the page, as the browser itself tells it: asking WebDriver costs as much
        as loading a page."""
        words: str = self.browser.execute_script("return document.body.innerText")
        return " ".join(words.split())

    def sees(self, *words: str, seconds: float = 30) -> None:
        """Wait until all words are on the page, at one moment or one after the other."""
        left = list(words)

        def look() -> bool:
            text = self.text
            left[:] = [word for word in left if word not in text]
            return not left

        try:
            until(look, seconds)
        except AssertionError:
            raise AssertionError(f"“{left[0]}” is not to be seen in:\n{self.text}") from None

    def sees_no(self, word: str, seconds: float = 30) -> None:
        until(lambda: word not in self.text, seconds)

    def find(self, role: str, name: str, *, exact: bool = False) -> WebElement:
        """The first visible element of a role whose name begins with `name`."""

        def look() -> WebElement | None:
            found: WebElement | None = self.browser.execute_script(_FIND, _SELECTORS[role], name, exact)
            return found

        try:
            return until(look)
        except AssertionError:
            raise AssertionError(f"no {role} “{name}” in:\n{self.text}") from None

    def click(self, name: str, role: str = "button", *, exact: bool = False) -> None:
        _insist(lambda: self.find(role, name, exact=exact).click())

    def click_stop(self, step: str) -> None:
        """Choose a stop of the trail map."""
        _insist(lambda: self.stop(step).click())

    def fill_moment(self, label: str, *parts: str) -> None:
        """Type the parts of a date, and of a time, one after another."""
        until(lambda: self.browser.execute_script(_FIRST_PART, label))
        _insist(lambda: self.browser.execute_script(_FIRST_PART, label).click())
        self.press(*parts)

    def fill(self, name: str, text: str) -> None:
        """Replace what a field holds."""
        self.type_into(name, Keys.CONTROL, "a")
        self.type_into(name, Keys.DELETE)
        self.type_into(name, text)

    def type_into(self, name: str, *keys: str, role: str = "field") -> None:
        """Keys, with the keyboard on what is called so."""
        _insist(lambda: self.find(role, name).send_keys(*keys))

    def choose(self, field: str, option: str) -> None:
        """Open a field and take an option."""
        self.click(field, "field")
        self.click(option, "option")

    def type_and_choose(self, field: str, text: str, option: str) -> None:
        """Type into a picker, wait until its list has come to rest, then take an option of it."""
        self.fill(field, text)
        looks: list[list[str]] = []

        def at_rest() -> bool:
            looks.append(self.browser.execute_script(_OPTIONS))
            return len(looks) >= _SAME_LOOKS and all(look == looks[-1] for look in looks[-_SAME_LOOKS:])

        until(at_rest)
        self.click(option, "option")

    def holds(self, field: str, value: str) -> None:
        """Wait until a field holds a value."""
        until(lambda: self.find("field", field).get_attribute("value") == value)

    def sees_enabled(self, button: str) -> None:
        """Wait until a button can be pressed."""
        until(lambda: self.find("button", button, exact=True).is_enabled())

    def sees_disabled(self, button: str) -> None:
        """Wait until a button is there and cannot be pressed."""
        until(lambda: not self.find("button", button).is_enabled())

    def upload(self, *files: str | Path, into: str = "input[type=file]") -> None:
        """Choose files where the page takes some."""
        paths = "\n".join(map(str, files))

        until(lambda: self.browser.find_elements(By.CSS_SELECTOR, into))
        _insist(lambda: self.browser.find_element(By.CSS_SELECTOR, into).send_keys(paths))

    def press(self, *keys: str) -> None:
        ActionChains(self.browser).send_keys(*keys).perform()

    def tab_to(self, name: str) -> None:
        """Tab until what is called so has the focus: everything can be reached without a mouse."""
        for _ in range(_MOST_TABS):
            if self.browser.execute_script(_FOCUSED).startswith(name):
                return
            self.press(Keys.TAB)
        raise AssertionError(f"“{name}” is not reached by Tab in:\n{self.text}")

    def press_with_control(self, key: str, *, shift: bool = False) -> None:
        chain = ActionChains(self.browser).key_down(Keys.CONTROL)
        if shift:
            chain = chain.key_down(Keys.SHIFT)
        chain = chain.send_keys(key).key_up(Keys.CONTROL)
        (chain.key_up(Keys.SHIFT) if shift else chain).perform()

    def accessibility_faults(self) -> list[tuple[str, str]]:
        """What of the page is against WCAG 2 (A, AA): the rule, and the first place."""
        self.browser.execute_script(_AXE.read_text())
        found = self.browser.execute_async_script(
            "axe.run(document, arguments[0]).then(r => arguments[1](r.violations))",
            {"runOnly": ["wcag2a", "wcag2aa"]},
        )
        return [(fault["id"], fault["nodes"][0]["html"][:160]) for fault in found]

    def unreadable(self) -> list[str]:
        """What of the page cannot be read at a glance: texts that are too small, or cut."""
        found: list[str] = self.browser.execute_script(_LOOKS.read_text())
        return found

    def shows_focus(self) -> bool:
        """Whether what has the keyboard is seen to have it."""
        return bool(self.browser.execute_script(_SHOWS_FOCUS))

    def find_group(self, name: str) -> WebElement:
        """A part of the page by its name."""
        selector = f'[aria-label="{name}"]'
        return until(lambda: self.browser.find_elements(By.CSS_SELECTOR, selector))[0]

    def stop(self, step: str) -> WebElement:
        """A stop of the trail map."""
        found = until(lambda: self.browser.find_elements(By.CSS_SELECTOR, f'[data-stop="{step}"]'))
        return found[0]

    def words_of(self, step: str) -> str:
        """What a stop says in full, however little of it the map has room for."""
        return self.stop(step).get_attribute("aria-label") or ""

    def focused_words(self) -> str:
        """The beginning of what has the focus, as the page has it: read at once, for it may be drawn anew."""
        return str(self.browser.execute_script("return document.activeElement.outerHTML.slice(0, 200)"))

    def focused(self) -> Any:
        return self.browser.switch_to.active_element
