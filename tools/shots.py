"""`./run shots`: the pictures of docs/screenshots, taken from a running demo.

Words: the address of the demo, then the names of pictures to take (all without).
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "backend"))

from browser_tests.person import Person, until  # noqa: E402
from selenium.webdriver.common.keys import Keys  # noqa: E402

FOLDER = ROOT / "docs" / "screenshots"


_SWITCHED = """
    const box = document.querySelector('input[type=checkbox]');
    return box && !box.disabled && (box.click(), true);
"""


class Photographer:
    """The people of the demo, each with a browser, and where the pictures go."""

    def __init__(self, address: str, wanted: list[str]) -> None:
        self.address, self.wanted = address, wanted
        self.people: dict[str, Person] = {}

    def person(self, name: str) -> Person:
        if name not in self.people:
            self.people[name] = Person(self.address)
            self.people[name].sign_in(name)
        return self.people[name]

    def take(self, person: Person, name: str) -> None:
        """One picture, once things have come to rest."""
        if self.wanted and name not in self.wanted:
            return
        time.sleep(0.9)
        FOLDER.mkdir(parents=True, exist_ok=True)
        person.browser.save_screenshot(str(FOLDER / f"{name}.png"))
        print(f"  {name}.png", flush=True)

    def open_flow(self, person: Person, name: str) -> None:
        person.go("/guide/flows")
        person.click(name, "row")
        person.sees("Arrives on", "saved")


def dial(person: Person, *keys: str, caller: str = "07700 900417") -> None:
    """A call to the main line, and keys as the menu asks for them."""
    person.choose("Number", "020 7946 0210")
    person.fill("Caller", caller)
    person.click("Dial", exact=True)
    person.sees("Hears “For bookings")
    for key in keys:
        person.click(f"Press {key}")


def agents_at_work(shoot: Photographer) -> None:
    for name in ("nerys", "kofi", "ingrid"):
        agent = shoot.person(name)
        agent.click("Start work")
        agent.click("Become available")
        agent.sees("Available")
    lukas = shoot.person("lukas")
    lukas.click("Start work")


def what_has_been(shoot: Photographer) -> None:
    """Four weeks: a sum opened, hand-overs, and one contact."""
    guest = shoot.person("guest")
    guest.go("/learn/reports/queues?period=28days")
    guest.choose("Queue", "Freight")
    guest.sees("the goal of 80.0 %")
    guest.browser.execute_script(
        "document.querySelectorAll('tbody td button[aria-label^=\"Level\"]')[11].click()"
    )
    guest.sees("The same by each formula", "contacts late first")
    shoot.take(guest, "report")
    guest.go("/learn/reports/codes?period=28days")
    guest.sees("Hand-overs")
    guest.browser.execute_script(
        "[...document.querySelectorAll('section[aria-label=Hand-overs] td button')]"
        ".sort((a, b) => b.textContent - a.textContent)[1].click()"
    )
    guest.sees("What it costs")
    shoot.take(guest, "codes-report")
    guest.go("/learn/contacts?transferred=yes&wait_over=60&ending=person&recorded=yes")
    cell = "[role=row][data-id] [role=gridcell]"
    until(lambda: guest.browser.find_elements("css selector", cell))
    guest.browser.execute_script(f"document.querySelector('{cell}').click()")
    guest.sees("Counted in")
    shoot.take(guest, "contact")


def a_busy_hour(shoot: Photographer) -> None:
    """The stand-ins at work, as a new demo begins; then they go home, and what is shown is ours."""
    guest = shoot.person("guest")
    guest.go("/learn/floor")
    guest.sees("Bookings", "On contact")
    shoot.take(guest, "floor")
    deepa = shoot.person("deepa")
    deepa.go("/learn/floor")
    deepa.sees("On contact")
    deepa.browser.execute_script(
        "[...document.querySelectorAll('section[aria-label=Agents] [role=row]')]"
        ".find(row => /On contact\\s*\\d:/.test(row.innerText.replace(/\\n/g, ' ')))"
        ".querySelector('button').click()"
    )
    deepa.sees("Last contacts", "The caller")
    deepa.press("c")
    deepa.sees("You coach")
    shoot.take(deepa, "person")
    deepa.click("Leave")
    deepa.go("/learn/boards")
    deepa.click("New board")
    deepa.fill("Name", "Ostrel office")
    deepa.click("Save")
    deepa.sees("no link")
    address = deepa.browser.find_element("css selector", "a[href^='/wall/board/']")
    deepa.browser.get(address.get_attribute("href"))
    deepa.sees("service level")
    deepa.press("n")
    shoot.take(deepa, "wall")
    deepa.press("n")
    tamsin = shoot.person("tamsin")
    tamsin.go("/settings/stand-ins")
    tamsin.sees("callers are expected")
    shoot.take(tamsin, "stand-ins")
    a_storm(shoot)
    # While the clock is being set back the switch does nothing.
    until(lambda: tamsin.browser.execute_script(_SWITCHED))
    tamsin.sees("At home")


def a_storm(shoot: Photographer) -> None:
    """Four times as many callers as usual, for a quarter of an hour of the centre's clock."""
    tamsin, guest = shoot.person("tamsin"), shoot.person("guest")
    tamsin.fill("Load", "4")
    tamsin.click("Begin anew with these")
    tamsin.click("10×")
    guest.go("/learn/floor?by=group")
    guest.sees("is behind")
    time.sleep(80)
    tamsin.click("1×")
    shoot.take(guest, "floor-storm")


def morning(shoot: Photographer) -> None:
    """A few calls, so that the floor has something to show."""
    agents_at_work(shoot)
    first = shoot.person("tamsin")
    shoot.open_flow(first, "Main line")
    first.click("Try a call")
    dial(first, "1", caller="01632 960214")
    nerys = shoot.person("nerys")
    nerys.click("Answer")
    nerys.sees("On contact")
    second = shoot.person("deepa")
    shoot.open_flow(second, "Main line")
    second.click("Try a call")
    dial(second, "1", caller="07700 900388")
    kofi = shoot.person("kofi")
    kofi.sees("Ringing")
    kofi.click("Answer")
    nerys.press("c")
    nerys.fill("Name, extension or number", "Ingrid")
    nerys.sees("4301")
    nerys.press(Keys.ENTER)
    ingrid = shoot.person("ingrid")
    ingrid.click("Answer")
    nerys.sees("You speak with Ingrid Solheim")
    shoot.take(nerys, "desk")
    nerys.press("e")


def flow_pictures(shoot: Photographer) -> None:
    tamsin = shoot.person("tamsin")
    tamsin.click("Hang up")
    tamsin.sees("Over:")
    tamsin.click("Close", exact=True)
    shoot.open_flow(tamsin, "Main line")
    shoot.take(tamsin, "flow")
    tamsin.click("Try a call")
    dial(tamsin, "1", caller="07700 900529")
    tamsin.sees("number 1 in line")
    shoot.take(tamsin, "trial")


def preparing(shoot: Photographer) -> None:
    """What a flow refers to."""
    tamsin = shoot.person("tamsin")
    tamsin.go("/arrive/numbers")
    tamsin.click("01632 960143", "row")
    tamsin.sees("Values for the flow", "Mailbox at night")
    shoot.take(tamsin, "numbers")
    tamsin.go("/guide/sounds")
    tamsin.click("Welcome, summer", "row")
    tamsin.sees("Used by")
    shoot.take(tamsin, "sounds")


def people(shoot: Photographer) -> None:
    """Who answers."""
    tamsin = shoot.person("tamsin")
    tamsin.go("/talk/agents")
    tamsin.sees("Amara Nwosu")
    tamsin.browser.execute_script(
        "[...document.querySelectorAll('[role=row] input[type=checkbox]')].slice(2, 5)"
        ".forEach(box => box.click())"
    )
    tamsin.click("Change 3")
    tamsin.sees("Change 3 agents alike")
    shoot.take(tamsin, "agents")
    tamsin.click("Close", exact=True)


def rest(shoot: Photographer) -> None:
    tamsin = shoot.person("tamsin")
    shoot.open_flow(tamsin, "Lost property")
    tamsin.stop("choice").click()
    shoot.take(tamsin, "findings")
    shoot.open_flow(tamsin, "Main line")
    tamsin.stop("sailings").click()
    tamsin.fill("The caller hears: text", "All boats sail today, every hour from six until ten.")
    tamsin.sees("1 change since version 1 · saved")
    tamsin.click("Publish…")
    tamsin.fill("Note", "Today's sailings in fewer words")
    tamsin.click("Show it on the map")
    tamsin.sees("changed")
    shoot.take(tamsin, "publish")
    tamsin.go("/wait/queues")
    tamsin.click("Bookings", "row")
    tamsin.sees("Today so far", "in time")
    shoot.take(tamsin, "queue")
    preparing(shoot)
    tamsin.go("/arrive/hours")
    tamsin.click("Office hours", "row")
    tamsin.sees("Coming months", "Next changes")
    shoot.take(tamsin, "hours")


def waiting(shoot: Photographer) -> None:
    """Who may take what waits."""
    tamsin = shoot.person("tamsin")
    tamsin.go("/talk/rules")
    tamsin.type_and_choose("Of the agent", "Ingrid", "Ingrid Solheim")
    tamsin.sees("25 s from the team")
    shoot.take(tamsin, "handling-rules")


SCENES: tuple[Callable[[Photographer], None], ...] = (
    what_has_been,
    a_busy_hour,
    morning,
    flow_pictures,
    people,
    waiting,
    rest,
)


def main() -> None:
    shoot = Photographer(sys.argv[1], sys.argv[2:])
    try:
        for scene in SCENES:
            scene(shoot)
    finally:
        for person in shoot.people.values():
            person.leave()


if __name__ == "__main__":
    main()
