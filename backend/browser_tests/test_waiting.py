"""Waiting, being called back, writing instead of calling, and what is left of it."""

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from accounts.models import User
from browser_tests.served import ServedTestCase
from callcore.flow.definition import load
from changelog.config_store import change
from flows.services import make_flow, publish
from queues.models import Queue

OFFER = {
    "purpose": "plan",
    "start": "offer",
    "steps": [
        {
            "kind": "callback",
            "id": "offer",
            "other_number": False,
            "declined": "music",
            "prompt": {"kind": "text", "text": "Press 1, and we call back."},
            "thanks": {"kind": "text", "text": "We will."},
        },
        {"kind": "music", "id": "music", "seconds": 60, "next": "offer"},
    ],
}


class WaitingTests(ServedTestCase):
    def call(self, person, caller):
        person.go("/guide/flows")
        person.click("Main line", "row")
        person.click("Try a call")
        person.choose("Number", "020 7946 0210")
        person.fill("Caller", caller)
        person.click("Dial", exact=True)
        person.sees("Hears “For bookings")
        person.click("Press 1")

    def offer_callbacks(self):
        admin = User.objects.get(username="tamsin")
        plan = make_flow(admin, "Quick offer", load(OFFER))
        publish(admin, plan, plan.revision, "")
        change(admin, Queue.objects.get(name="Bookings"), None, plan=plan)

    def test_a_callback_keeps_its_place_and_the_caller_is_rung_when_its_turn_comes(self):
        self.offer_callbacks()
        tamsin, nerys = self.person("tamsin"), self.person("nerys")
        self.call(tamsin, "01632 960214")
        tamsin.sees("Offers a callback")
        tamsin.click("Press 1")
        tamsin.sees("Over: a callback is booked")
        tamsin.go("/wait/callbacks")
        tamsin.sees("01632 960214", "waits for its turn", "0 of 3")
        nerys.click("Start work")
        nerys.click("Become available")
        nerys.sees("Callback: answer, and the caller is rung", seconds=30)
        nerys.click("Answer")
        nerys.sees("Callback: ringing, attempt 1 of 3")
        tamsin.sees("1 of 3")
        nerys.sees_no("ringing, attempt", seconds=20)
        nerys.click("Hang up")
        nerys.sees("What was it about?")
        tamsin.sees("reached")
        tamsin.click("The call")
        tamsin.sees("Callback booked, after", "a callback to +441632960214 is booked")

    def test_a_text_goes_through_the_flow_to_an_agent_and_both_write(self):
        tamsin, kofi = self.person("tamsin"), self.person("kofi")
        tamsin.go("/guide/flows")
        tamsin.click("Text line", "row")
        tamsin.click("Try a text")
        tamsin.fill("First message", "When do you sail?")
        tamsin.press(Keys.ENTER)
        tamsin.sees("Today all boats sail as planned", "Answer BOOKING or LOST")
        tamsin.fill("Next message", "no thanks")
        tamsin.press(Keys.ENTER)
        tamsin.sees("a calm crossing", "Over")
        tamsin.click_stop("open")
        tamsin.click("Remove")
        tamsin.sees("since version 1 · saved")
        tamsin.click("Try a text")
        tamsin.choose("Runs", "this draft")
        tamsin.fill("First message", "hello")
        tamsin.press(Keys.ENTER)
        tamsin.sees("Answer BOOKING or LOST")
        tamsin.fill("Next message", "Booking")
        tamsin.press(Keys.ENTER)
        tamsin.sees("Waits for a person")
        kofi.click("Start work")
        kofi.click("Become available")
        kofi.click("Answer")
        kofi.sees("hello", "Answer BOOKING or LOST")
        kofi.fill("Your message", "Good morning.")
        kofi.press(Keys.ENTER)
        tamsin.sees("Good morning.", "With a person: Kofi Mensah")
        kofi.click("End the thread")
        tamsin.sees("Over")


class SettingUpTests(ServedTestCase):
    def test_a_rule_is_inherited_overridden_and_cleared(self):
        tamsin = self.person("tamsin")
        tamsin.go("/talk/rules")
        tamsin.sees("Ring time", "20 s from the centre")
        tamsin.type_and_choose("Of the agent", "Ingrid", "Ingrid Solheim")
        tamsin.sees("25 s from the team")
        ring_time = "Ring time, agent"
        tamsin.type_into(ring_time, "40", Keys.ENTER)
        tamsin.sees("40 s from the agent", "it counts at once")
        tamsin.type_into(ring_time, Keys.CONTROL, "a")
        tamsin.type_into(ring_time, Keys.DELETE, Keys.ENTER)
        tamsin.sees("25 s from the team")
        tamsin.type_into(ring_time, "4000", Keys.ENTER)
        tamsin.sees("A whole number from 5 to 120 is needed")

    def test_several_stops_become_a_shared_block_and_the_map_shows_what_changed(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.sees("Arrives on")
        tamsin.click_stop("assistance-note")
        keys = ActionChains(tamsin.browser)
        keys.key_down(Keys.SHIFT).send_keys(Keys.ARROW_RIGHT).key_up(Keys.SHIFT).perform()
        tamsin.sees("2 stops chosen")
        tamsin.press("b")
        tamsin.fill("Name of the block", "Assistance by hours")
        tamsin.press(Keys.ENTER)
        tamsin.sees("“Assistance by hours” is not in force yet", "· saved")
        tamsin.click("Publish…")
        tamsin.click("Show it on the map")
        tamsin.sees("new", "changed")
        tamsin.sees("gone")
        tamsin.go("/guide/blocks")
        tamsin.sees("Assistance by hours", "nothing yet")
