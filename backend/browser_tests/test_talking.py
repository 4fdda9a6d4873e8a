"""The journeys of two agents with one caller, and of rules and queues that shape them."""

from selenium.webdriver.common.keys import Keys

from browser_tests.served import ServedTestCase


class TalkingTests(ServedTestCase):
    def call(self, tamsin, *keys: str) -> None:
        """A call to the main line that has come into a queue."""
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.choose("Number", "020 7946 0210")
        tamsin.click("Dial", exact=True)
        tamsin.sees("Hears “For bookings")
        for key in keys:
            tamsin.click(f"Press {key}")

    def test_a_consult_transfer_between_two_signed_in_agents(self):
        tamsin, nerys, kofi = self.person("tamsin"), self.person("nerys"), self.person("kofi")
        nerys.click("Start work")
        nerys.click("Become available")
        self.call(tamsin, "1")
        nerys.sees("Ringing")
        nerys.press("a")
        tamsin.sees("Talks with Nerys Vaughan")
        nerys.sees("being recorded")
        kofi.click("Start work")
        kofi.click("Become available")
        nerys.press("c")
        nerys.sees("Ask a colleague", "Kofi Mensah")
        nerys.fill("Name, extension or number", "4102")
        nerys.sees("Enter chooses")
        nerys.press(Keys.ENTER)
        nerys.sees("Ringing Kofi Mensah")
        kofi.sees("Nerys Vaughan asks you about", "07700 900")
        kofi.press("a")
        nerys.sees("You speak with Kofi Mensah")
        nerys.press("p")
        kofi.sees("Hang up", "Ask a colleague")
        tamsin.sees("Talks with Kofi Mensah")
        nerys.sees("What was it about?")
        nerys.press("12", Keys.ENTER)
        kofi.press("h")
        kofi.click("11 New booking", "radio")
        kofi.click("Done")
        tamsin.sees("Over: talked with a person", "code: New booking", "code: Booking changed")
        for person in (nerys, kofi):
            person.click("End work")
            person.sees("Start work")

    def test_an_emergency_is_on_every_page_of_a_supervisor_until_somebody_takes_it(self):
        tamsin, nerys, deepa = self.person("tamsin"), self.person("nerys"), self.person("deepa")
        nerys.click("Start work")
        nerys.click("Become available")
        self.call(tamsin, "1")
        nerys.sees("Ringing")
        nerys.press("a")
        nerys.sees("being recorded")
        deepa.go("/wait/queues")
        nerys.click("Emergency")
        nerys.sees("nobody has taken it yet")
        deepa.sees("Nerys Vaughan pressed the emergency button", "1 in need")
        deepa.go("/learn/floor")
        deepa.sees("Emergency: Nerys Vaughan")
        deepa.click("I look after it")
        deepa.sees_no("pressed the emergency button")
        nerys.sees("Deepa Ramanathan looks after your emergency")
        nerys.press("k", "5", "#")
        nerys.sees("Sent: 5#")
        tamsin.sees("Nerys Vaughan presses #")
        nerys.click("Hang up")
        nerys.press("12", Keys.ENTER)
        nerys.click("End work")
        nerys.sees("Start work")

    def test_the_callers_clock_moves_as_one_types(self):
        tamsin = self.person("tamsin")
        tamsin.go("/wait/queues")
        tamsin.click("Freight", "row")
        tamsin.sees("The caller’s clock", "Widened", "After 15:00: the flow goes on")
        tamsin.fill("Longest wait", "300")
        tamsin.sees("After 5:00: the flow goes on", "not saved yet")
        tamsin.click("Undo typing")
        tamsin.sees("After 15:00: the flow goes on")
