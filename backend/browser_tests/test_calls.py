"""The journeys of a call, on both sides."""

import re

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser_tests.person import until
from browser_tests.served import ServedTestCase


class CallTests(ServedTestCase):
    def test_from_a_ringing_number_to_an_answered_call_on_the_board(self):
        tamsin, nerys = self.person("tamsin"), self.person("nerys")
        floor = self.person("deepa")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.choose("Number", "020 7946 0210")
        tamsin.click("Dial", exact=True)
        tamsin.sees("Thank you for calling Ostrel", "Hears “For bookings and changes")
        tamsin.click("Press 9")
        tamsin.sees("key 9 is not a choice → asked again")
        tamsin.type_into("The caller says", "what was that?", Keys.ENTER)
        tamsin.sees("not understood", "“what was that?” is not a choice → asked again")
        tamsin.type_into("The caller says", "I want to change my booking", Keys.ENTER)
        tamsin.sees("“I want to change my booking” → Bookings & changes", "number 1 in line: music")
        floor.sees("Bookings: 1 waiting, nobody is signed in")
        floor.click("Bookings", exact=True)
        floor.click("07700 900417")
        floor.sees("Nobody is at work who could take it", "Signed out 27")
        floor.click("Close", exact=True)
        nerys.click("Start work")
        nerys.click("Become available")
        nerys.sees("Ringing", "07700 900417", "Ask for the booking reference first")
        floor.sees("Nerys Vaughan", "Ringing")
        nerys.press("a")
        nerys.sees("On contact")
        tamsin.sees("Talks with Nerys Vaughan")
        floor.sees("On contact")
        nerys.click("Hang up")
        tamsin.sees("Over: talked with a person")
        nerys.click("11 New booking", "radio")
        nerys.click("Done")
        nerys.sees("Available")
        tamsin.sees("code: New booking")
        floor.sees("100.0 %")
        until(lambda: re.search(r"0:\d\d", tamsin.stop("bookings").text))
        nerys.click("End work")
        nerys.sees("Start work")

    def test_a_call_with_the_keyboard_alone_on_both_sides(self):
        tamsin, kofi = self.person("tamsin"), self.person("kofi")
        kofi.sees("Start work")
        kofi.type_into("Start work", Keys.ENTER, role="button")
        kofi.sees("Just signed in")
        kofi.press("v")
        kofi.sees("The next contact will ring here")
        tamsin.press_with_control("k")
        tamsin.press("Main line")
        tamsin.find("option", "Main line Everybody who calls")
        marked = '[role=option][aria-selected="true"]'
        while "flow" not in tamsin.browser.find_element(By.CSS_SELECTOR, marked).text:
            tamsin.press(Keys.ARROW_DOWN)
        tamsin.press(Keys.ENTER)
        tamsin.sees("Arrives on")
        tamsin.press("t")
        tamsin.sees_enabled("Dial")
        tamsin.press(Keys.ENTER)
        tamsin.sees("Hears “For bookings")
        tamsin.press("1")
        kofi.sees("Ringing")
        kofi.press("a")
        kofi.sees("On contact")
        tamsin.sees("Talks with Kofi Mensah")
        tamsin.press("h")
        tamsin.sees("Over: talked with a person")
        kofi.sees("What was it about?")
        kofi.press("12", Keys.ENTER)
        kofi.sees("The next contact will ring here")
        tamsin.sees("code: Booking changed", "Rings Kofi Mensah", "Nobody else could come")
        tamsin.tab_to("Who else")
        tamsin.press(Keys.ENTER)
        tamsin.sees("Signed out 26")
        kofi.click("End work")
        kofi.sees("Start work")

    def test_a_caller_whom_nobody_answers_waits_and_hangs_up(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.choose("Runs", "this draft")
        tamsin.click("Dial", exact=True)
        tamsin.sees("Hears “For bookings")
        tamsin.click("Press 4")
        tamsin.sees("Waits in Freight, number 1 in line: music")
        tamsin.click("Hang up")
        tamsin.sees("Over: the caller hung up")
