"""The main journeys, in a real browser, against the whole application."""

import tempfile
from pathlib import Path

from django.conf import settings
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser_tests.served import ServedTestCase
from sounds.music import hold_music
from testkit import processes
from testkit.processes import until

AXE = settings.BACKEND.parent / "frontend" / "node_modules" / "axe-core" / "axe.min.js"


class EditingTests(ServedTestCase):
    def open_flow(self, person, name):
        person.go("/guide/flows")
        person.click(name, "row")
        person.sees("Arrives on")

    def test_a_key_to_a_new_queue_from_the_picker_to_the_exchange(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Main line")
        tamsin.stop("main-menu").click()
        tamsin.click("Add a key")
        tamsin.sees("“key 5” leads nowhere", "publishing waits for what blocks")
        tamsin.fill("Key 5: what it is for", "Groups")
        tamsin.type_and_choose("Key 5 leads to", "Group desk", "Create queue “Group desk”")
        tamsin.sees("Queue “Group desk” is only a name so far")
        tamsin.click("Say “For groups, press 5”")
        tamsin.sees_no("is never named in the text")
        tamsin.click("Undo")
        tamsin.sees("is never named in the text")
        tamsin.click("Redo")
        tamsin.sees_no("is never named in the text")
        tamsin.sees("changes since version 1 · saved")
        tamsin.click("Publish…")
        tamsin.sees("Publishing waits for the findings that block")
        self.assertFalse(tamsin.find("button", "Publish now").is_enabled())
        tamsin.go("/wait/queues")
        tamsin.click("Group desk", "row")
        tamsin.fill("Members", "Nerys")
        tamsin.click("Nerys Vaughan", "option")
        tamsin.press(Keys.ESCAPE)
        tamsin.click("Save", exact=True)
        tamsin.sees("Group desk is saved")
        self.open_flow(tamsin, "Main line")
        tamsin.click("Publish…")
        tamsin.sees("New stop · Queue: Group desk")
        tamsin.fill("Note", "Key 5 for groups")
        tamsin.click("Publish now")
        tamsin.sees("Version 2 is in effect on the exchange, revision")

    def test_a_flow_is_built_with_the_keyboard_alone(self):
        tamsin = self.person("tamsin")
        tamsin.press_with_control("k")
        tamsin.sees("create")
        tamsin.press("New flow")
        tamsin.sees("New flow")
        tamsin.press(Keys.ENTER)
        tamsin.find("field", "Name").send_keys("Night line", Keys.ENTER)
        tamsin.sees("Draft; nothing is in force yet")
        tamsin.sees("Nothing is said here")
        tamsin.press(Keys.ARROW_RIGHT, Keys.ENTER)
        tamsin.press(Keys.TAB, "Good night from Ostrel.")
        tamsin.sees_no("Nothing is said here")
        tamsin.press(Keys.ESCAPE, "a")
        tamsin.sees("the caller hears a text or a sound")
        tamsin.press("say", Keys.ENTER)
        self.stands_on(tamsin, "say-1", of=2)
        tamsin.press(Keys.DELETE)
        self.stands_on(tamsin, "greeting", of=1)
        tamsin.press_with_control("z")
        self.stands_on(tamsin, "greeting", of=2)
        tamsin.press(Keys.ARROW_RIGHT)
        self.stands_on(tamsin, "say-1", of=2)
        tamsin.press("c", "v")
        self.stands_on(tamsin, "say-2", of=3)
        tamsin.press("/")
        tamsin.sees("Find a stop")
        tamsin.press("good night", Keys.ARROW_DOWN, Keys.ENTER)
        self.stands_on(tamsin, "greeting", of=3)
        tamsin.sees("Draft; nothing is in force yet · saved")

    def stands_on(self, person, step, of):
        """The keyboard is on a stop, of so many."""
        until(lambda: len(person.browser.find_elements(By.CSS_SELECTOR, "[data-stop]")) == of)
        until(lambda: person.focused().get_attribute("data-stop") == step)

    def test_a_saved_trial_blocks_a_publish_until_it_goes_as_expected(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Group travel")
        tamsin.click("Try a call")
        tamsin.click("On paper")
        tamsin.click("Dial on paper")
        tamsin.sees("Waits for a key")
        tamsin.click("Press 9")
        tamsin.click("One step back")
        for key in "1042":
            tamsin.click(f"Press {key}")
        tamsin.sees("Over: with a person", "Labelled “Group Haven Quay Primary School, 61”")
        tamsin.fill("Save as the trial", "A large group")
        tamsin.click("Save", exact=True)
        tamsin.sees("is saved; it runs before each publishing")
        tamsin.click("Close", exact=True)
        tamsin.click("Trials")
        tamsin.sees("As expected")
        tamsin.stop("size").click()
        tamsin.fill("Compared with", "70")
        tamsin.sees("Otherwise", "After How large came", "1 change since version 1 · saved")
        tamsin.click("Publish…")
        tamsin.sees("people is more than 70", "Publishing waits for the trial that goes otherwise")
        self.assertFalse(tamsin.find("button", "Publish now").is_enabled())
        tamsin.click("Expect this")
        tamsin.sees("As expected")
        tamsin.fill("Note", "Larger groups only")
        tamsin.click("Publish now")
        tamsin.sees("Version 2 is in effect on the exchange")
        tamsin.click("Bring back")
        tamsin.sees("is the draft now")

    def test_a_route_lights_the_map_and_every_way_is_listed(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Port desk")
        tamsin.click("Routes")
        tamsin.sees("Rounds are cut out")
        tamsin.click("closed")
        until(lambda: tamsin.browser.find_elements(By.CSS_SELECTOR, '[aria-current="true"] button'))

    def test_two_authors_of_one_flow_lose_nothing(self):
        first, second = self.person("tamsin"), self.person("tamsin")
        for author in (first, second):
            self.open_flow(author, "Lost property")
            author.stop("hello").click()
        first.fill("The caller hears: text", "Words of the first.")
        first.sees("nothing is in force yet · saved")
        second.fill("The caller hears: text", "Words of the second.")
        second.sees("saved this flow while you were editing it", "Words of the first.")
        second.click("Go on with theirs")
        until(lambda: "Words of the first" in second.stop("hello").text)
        second.click("Undo")
        until(lambda: "Words of the second" in second.stop("hello").text)

    def test_two_authors_of_one_form_choose_field_by_field(self):
        first, second = self.person("tamsin"), self.person("deepa")
        for author in (first, second):
            author.go("/wait/queues")
            author.click("Freight", "row")
            author.sees("Today so far")
        first.fill("Service threshold", "90")
        first.click("Save", exact=True)
        first.sees("Freight is saved")
        second.fill("Service threshold", "45")
        second.fill("Goal", "85")
        second.click("Save", exact=True)
        second.sees("Tamsin Okafor changed this while you were editing it", "90", "45")
        second.click("Go on editing with these")
        second.click("Save", exact=True)
        second.sees("Freight is saved")
        self.assertEqual(second.find("field", "Goal").get_attribute("value"), "85")

    def test_a_wrong_number_is_refused_where_it_was_typed_and_a_deleted_one_comes_back(self):
        tamsin = self.person("tamsin")
        tamsin.go("/arrive/numbers/new")
        tamsin.fill("Number", "hello")
        tamsin.click("Create")
        tamsin.sees("“hello” is not a telephone number.")
        tamsin.fill("Number", "01632 960777")
        tamsin.click("Create")
        tamsin.sees("01632 960777 is saved")
        tamsin.click("Delete…")
        tamsin.sees("Nothing uses it")
        tamsin.click("Delete", exact=True)
        tamsin.click("Undo")
        tamsin.sees("01632 960777 is back")


#: The places of all words and stops of the map, as the eye sees them.
_PLACES = """
const boxes = [];
for (const stop of document.querySelectorAll('[data-stop]')) {
  const parts = [...stop.querySelectorAll('tspan'), ...stop.querySelectorAll(':scope > circle')];
  for (const part of parts) {
    const r = part.getBoundingClientRect();
    const place = [r.left, r.top, r.right, r.bottom];
    if (r.width) boxes.push([stop.dataset.stop, part.textContent, ...place]);
  }
}
return boxes;
"""


def overlapping(boxes, slack=3):
    """Pairs of places of different stops that lie on one another."""
    pairs = []
    for i, (stop, words, left, top, right, bottom) in enumerate(boxes):
        for other, their, l2, t2, r2, b2 in boxes[i + 1 :]:
            apart = (
                right - slack < l2 or r2 - slack < left or bottom - slack < t2 or b2 < top + slack
            )
            if stop != other and not apart:
                pairs.append((stop, words, other, their))
    return pairs


class MapTests(ServedTestCase):
    def test_no_words_of_the_map_lie_on_one_another(self):
        tamsin = self.person("tamsin")
        for name in ("Main line", "Lost property"):
            with self.subTest(name):
                tamsin.go("/guide/flows")
                tamsin.click(name, "row")
                tamsin.sees("Arrives on")
                boxes = until(lambda: tamsin.browser.execute_script(_PLACES))
                self.assertGreater(len(boxes), 5)
                self.assertEqual(overlapping(boxes), [])

    def test_a_pill_leads_back_and_a_finding_leads_to_its_stop(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/flows")
        tamsin.click("Lost property", "row")
        tamsin.sees("Arrives on")
        tamsin.click("Lost property desk")
        until(lambda: tamsin.stop("desk").get_attribute("aria-pressed") == "true")
        pill = tamsin.browser.find_element(By.XPATH, "//*[name()='text'][contains(., '↩')]")
        pill.click()
        until(lambda: tamsin.stop("hello").get_attribute("aria-pressed") == "true")


class KeepingTests(ServedTestCase):
    def test_a_sound_is_spoken_and_a_file_that_is_none_is_refused(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/sounds/new")
        tamsin.fill("Name", "Storm notice")
        tamsin.fill("What is said, English", "All sailings are stopped because of the storm.")
        tamsin.click("Create")
        tamsin.sees("Storm notice is saved")
        tamsin.find("button", "▶ Play")
        upload = tamsin.browser.find_element(By.CSS_SELECTOR, "input[type=file]")
        upload.send_keys(str(settings.BACKEND / "manage.py"))
        tamsin.sees("This is not a sound file that can be read")

    def test_required_wrap_up_counts_at_once(self):
        tamsin, owain = self.person("tamsin"), self.person("owain")
        tamsin.go("/talk/rules")
        tamsin.choose("Wrap-up code", "Required before the next contact")
        tamsin.fill("Longest wrap-up time", "0")
        tamsin.click("Save", exact=True)
        tamsin.sees("greater than or equal to 5")
        tamsin.fill("Longest wrap-up time", "90")
        tamsin.click("Save", exact=True)
        tamsin.sees("The rules are saved")
        owain.click("Start work")
        owain.click("Become available")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.click("Dial")
        tamsin.sees("Hears “For bookings")
        tamsin.click("Press 1")
        owain.click("Answer")
        owain.sees("On contact")
        owain.click("Hang up")
        self.assertFalse(owain.find("button", "Choose a code").is_enabled())
        owain.press("22", Keys.ENTER)
        owain.sees("The next contact will ring here")

    def test_a_change_is_taken_back_from_the_log(self):
        deepa, tamsin = self.person("deepa"), self.person("tamsin")
        deepa.go("/wait/queues")
        deepa.click("Assistance", "row")
        deepa.fill("Goal", "70")
        deepa.click("Save", exact=True)
        deepa.sees("Assistance is saved")
        tamsin.go("/settings/changes")
        tamsin.sees("goal percent 90 → 70")
        tamsin.click("Take back")
        tamsin.sees("Assistance: taken back.", "goal percent 70 → 90")
        deepa.go("/settings/changes")
        deepa.sees("goal percent 70 → 90")
        self.assertNotIn("Take back", deepa.text)

    def test_a_sound_is_recorded_from_the_microphone(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/sounds")
        tamsin.click("Recording notice", "row")
        tamsin.sees("Spoken by the speech engine")
        tamsin.click("Record…")
        until(lambda: "2." in tamsin.find_group("Recording").text)
        tamsin.click("Stop and keep")
        tamsin.sees("this is its recording now", "Recorded in the browser")
        tamsin.click("Speak the text instead")
        tamsin.sees("spoken from its text")

    def test_many_files_become_sounds_and_a_bad_one_is_named(self):
        tamsin = self.person("tamsin")
        with tempfile.TemporaryDirectory() as folder:
            good, bad = Path(folder) / "pier_closed.wav", Path(folder) / "notes.wav"
            good.write_bytes(hold_music())
            bad.write_bytes(b"no sound")
            tamsin.go("/guide/sounds")
            tamsin.click("Many files…")
            chooser = "input[aria-label='Choose sound files']"
            until(lambda: tamsin.browser.find_elements(By.CSS_SELECTOR, chooser))
            tamsin.browser.find_element(By.CSS_SELECTOR, chooser).send_keys(f"{good}\n{bad}")
            tamsin.click("Take in 2")
            tamsin.sees("1 of 2 taken", "is the sound “Pier closed”", "This is not a sound file")

    def test_a_table_is_filled_from_a_file_after_its_bad_line_is_mended(self):
        tamsin = self.person("tamsin")
        head = "Booking,Party,People,Paid,Sails on\n"
        with tempfile.NamedTemporaryFile(suffix=".csv") as file:

            def choose(rows):
                file.seek(0)
                file.truncate()
                file.write((head + rows).encode())
                file.flush()
                chooser = "input[aria-label='Choose a CSV file']"
                until(lambda: tamsin.browser.find_elements(By.CSS_SELECTOR, chooser))
                tamsin.browser.find_element(By.CSS_SELECTOR, chooser).send_keys(file.name)

            tamsin.go("/guide/lookups")
            tamsin.click("Group bookings", "row")
            tamsin.click("Take a CSV file in…")
            choose("OG2001,Harbour Choir,many,yes,2027-08-01\n")
            tamsin.sees("Line 2, People: “many” is not a whole number")
            choose("OG2001,Harbour Choir,40,yes,2027-08-01\n")
            tamsin.sees("1 new, 0 changed, 0 the same; 5 of the table’s rows would go")
            tamsin.click("Put these in place of the rows")
            tamsin.sees("All rows are taken in")
            tamsin.click("Close", exact=True)
            tamsin.sees("Harbour Choir")
            tamsin.sees_no("Northby Choral")


class DiversionTests(ServedTestCase):
    def call(self, person, number="01632 960100"):
        person.go("/guide/flows")
        person.click("Main line", "row")
        person.click("Try a call")
        person.choose("Number", number)
        person.click("Dial")

    def test_a_diversion_changes_where_a_call_goes_and_the_message_is_heard(self):
        tamsin = self.person("tamsin")
        tamsin.go("/arrive/diversions/new")
        tamsin.fill("Reason", "Flood")
        tamsin.type_and_choose("Numbers", "harbour", "01632 960100")
        tamsin.fill("Outside number", "nobody")
        tamsin.click("Create")
        tamsin.sees("“nobody” is not a telephone number")
        tamsin.fill("Outside number", "01632 960117")
        tamsin.choose("If nobody answers", "a mailbox")
        tamsin.type_and_choose("That mailbox", "Night", "Night line")
        tamsin.click("Create")
        tamsin.sees("Flood is saved", "Ostrel harbour office diverted to 01632 960117")
        self.call(tamsin)
        tamsin.sees("Flood → 01632 960117", "It is busy", "Records for Night line")
        tamsin.sees("0:09")
        tamsin.click("Press #")
        tamsin.sees("A message is left in Night line", "Over: a message was left", "6 new messages")
        tamsin.go("/wait/mailboxes")
        tamsin.click("Night line", "row")
        tamsin.sees("07700 900417")
        tamsin.find("button", "▶ Play")
        tamsin.go("/arrive/diversions")
        tamsin.click("Flood", "row")
        tamsin.click("Lift it now")
        tamsin.sees("new calls go the normal way again")
        tamsin.sees_no("diverted to 01632 960117")
        self.call(tamsin)
        tamsin.sees("Thank you for calling Ostrel")

    def test_an_agent_hears_the_messages_of_their_queue_at_the_desk(self):
        ingrid = self.person("ingrid")
        ingrid.sees("My desk", "01632 960455")
        self.assertNotIn("07700 900650", ingrid.text)
        ingrid.click("Delete", exact=True)
        ingrid.sees("The message is deleted")
        ingrid.click("Undo")
        ingrid.sees("01632 960455")

    def test_a_number_is_copied_with_its_values(self):
        tamsin = self.person("tamsin")
        tamsin.go("/arrive/numbers")
        tamsin.click("01632 960143", "row")
        tamsin.sees("Values for the flow", "Mailbox at night")
        tamsin.click("Copy")
        tamsin.fill("Number", "4101")
        tamsin.click("Create")
        tamsin.sees("4101 is Nerys Vaughan already")
        tamsin.fill("Number", "01632 960145")
        tamsin.click("Create")
        tamsin.sees("Port desk, Sant Mora is saved")
        port = tamsin.find("field", "Port")
        self.assertEqual(port.get_attribute("value"), "Sant Mora")


class HoursTests(ServedTestCase):
    def test_hours_are_painted_nudged_and_closed_and_a_call_meets_them(self):
        tamsin = self.person("tamsin")
        tamsin.go("/arrive/hours")
        tamsin.click("Office hours", "row")
        tamsin.sees("Coming months", "Christmas Day")
        sunday = tamsin.browser.find_element(By.CSS_SELECTOR, '[role=group][aria-label="Sunday"]')
        quarter = sunday.size["width"] / 96
        drag = ActionChains(tamsin.browser)
        drag.move_to_element_with_offset(sunday, round((80 - 48) * quarter), 0).click_and_hold()
        drag.move_by_offset(round(8 * quarter), 0).release().perform()
        tamsin.sees("20:00–22:00")
        tamsin.find("button", "Sunday 20:00–22:00").send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
        tamsin.sees("20:00–22:15")
        tamsin.click("Copy Sunday to…")
        tamsin.click("to Saturday and Sunday", "option")
        until(lambda: tamsin.text.count("20:00–22:15") == 2)
        tamsin.click("Save", exact=True)
        tamsin.sees("The hours are saved")
        tamsin.click("Close now…")
        tamsin.fill("Reason", "Storm")
        tamsin.click("Close at once")
        tamsin.sees("Closed, and stays so", "Storm, until it is lifted")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.click("Dial")
        tamsin.sees("Hears “For bookings")
        tamsin.click("Press 3")
        tamsin.sees("closed by hand: Storm → closed", "Hears “Our assistance desk cannot answer")

    def test_a_calendar_file_is_looked_at_before_it_is_taken_in(self):
        lines = (
            "BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//x//y//EN", "BEGIN:VEVENT", "UID:1",
            "SUMMARY:Harbour feast", "DTSTART;VALUE=DATE:20270605", "END:VEVENT",
            "END:VCALENDAR", "",
        )  # fmt: skip
        with tempfile.NamedTemporaryFile(suffix=".ics") as file:
            file.write("\r\n".join(lines).encode())
            file.flush()
            tamsin = self.person("tamsin")
            tamsin.go("/arrive/hours")
            tamsin.click("Office hours", "row")
            tamsin.click("iCalendar…")
            upload = "input[type=file]"
            until(lambda: tamsin.browser.find_elements(By.CSS_SELECTOR, upload))
            tamsin.browser.find_element(By.CSS_SELECTOR, upload).send_keys(file.name)
            tamsin.sees("2027-06-05", "Harbour feast", "closed all day", "new")
            tamsin.click("Take in 1")
            tamsin.click("Save", exact=True)
            tamsin.sees("The hours are saved", "Harbour feast")


class CallTests(ServedTestCase):
    def test_from_a_ringing_number_to_an_answered_call_on_the_board(self):
        tamsin, nerys = self.person("tamsin"), self.person("nerys")
        floor = self.person("deepa")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.choose("Number", "020 7946 0210")
        tamsin.click("Dial")
        tamsin.sees("Thank you for calling Ostrel", "Hears “For bookings and changes")
        tamsin.click("Press 9")
        tamsin.sees("key 9 is not a choice → asked again")
        tamsin.press("1")
        tamsin.sees("number 1 in line: music")
        floor.sees("Bookings: 1 waiting, nobody is signed in")
        nerys.click("Start work")
        nerys.click("Become available")
        nerys.sees("Ringing", "07700 900 417", "Ask for the booking reference first")
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
        with_path = until(
            lambda: tamsin.browser.find_elements(By.CSS_SELECTOR, '[data-stop="bookings"]')
        )
        self.assertRegex(with_path[0].text, r"0:\d\d")

    def test_a_call_with_the_keyboard_alone_on_both_sides(self):
        tamsin, kofi = self.person("tamsin"), self.person("kofi")
        kofi.sees("Start work")
        kofi.find("button", "Start work").send_keys(Keys.ENTER)
        kofi.sees("Just signed in")
        kofi.press("v")
        kofi.sees("The next contact will ring here")
        tamsin.press_with_control("k")
        tamsin.press("Main line")
        tamsin.find("option", "Main line flow")
        marked = '[role=option][aria-selected="true"]'
        while "flow" not in tamsin.browser.find_element(By.CSS_SELECTOR, marked).text:
            tamsin.press(Keys.ARROW_DOWN)
        tamsin.press(Keys.ENTER)
        tamsin.sees("Arrives on")
        tamsin.press("t")
        tamsin.sees("Telephone")
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
        tamsin.sees("code: Booking changed")
        kofi.click("End work")

    def test_a_caller_whom_nobody_answers_waits_and_hangs_up(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.choose("Runs", "this draft")
        tamsin.click("Dial")
        tamsin.sees("Hears “For bookings")
        tamsin.click("Press 4")
        tamsin.sees("Waits in Freight, number 1 in line: music")
        tamsin.click("Hang up")
        tamsin.sees("Over: the caller hung up")


class StandingTests(ServedTestCase):
    def test_the_line_is_lost_and_found_again(self):
        deepa = self.person("deepa")
        deepa.sees("Data 0 s old")
        port = self.address.rsplit(":", 1)[1]
        processes.stop(self.web)
        deepa.sees("The line to the server is lost", "Figures stand still")
        type(self).web = processes.start(
            "-m", "uvicorn", "hazeridge.asgi:application", "--port", port, "--log-level", "warning"
        )
        deepa.sees_no("The line to the server is lost")
        deepa.sees("Data 0 s old")

    def test_each_role_sees_what_it_may(self):
        guest = self.person("guest")
        guest.go("/wait/queues")
        guest.click("Bookings", "row")
        guest.sees("Your role lets you look, not change.")
        self.assertNotIn("New queue", guest.text)
        nerys = self.person("nerys")
        nerys.sees("My desk")
        nerys.go("/wait/queues")
        nerys.sees("Your role does not allow this.")

    def test_a_wrong_password_is_said(self):
        person = self.person()
        person.sign_in("tamsin", "wrong")
        person.sees("The name or the password is wrong.")

    def test_every_page_is_free_of_accessibility_faults_by_day_and_night(self):
        tamsin = self.person("tamsin")
        script = Path(AXE).read_text()
        rules = {"runOnly": ["wcag2a", "wcag2aa"]}
        pages = ("/learn/floor", "/arrive/numbers", "/arrive/hours", "/arrive/diversions",
                 "/guide/flows", "/guide/sounds", "/guide/lookups", "/wait/queues",
                 "/wait/mailboxes", "/talk/agents", "/talk/rules", "/wrap-up/codes",
                 "/settings/changes")  # fmt: skip
        for mode in ("day", "night"):
            tamsin.browser.execute_script(f"localStorage.setItem('hazeridge-mode', '{mode}')")
            for page in pages:
                with self.subTest(page=page, mode=mode):
                    tamsin.go(page)
                    tamsin.sees("Running")
                    until(lambda: "Loading" not in tamsin.text)
                    tamsin.browser.execute_script(script)
                    found = tamsin.browser.execute_async_script(
                        "axe.run(document, arguments[0]).then(r => arguments[1](r.violations))",
                        rules,
                    )
                    faults = [(f["id"], f["nodes"][0]["html"][:160]) for f in found]
                    self.assertEqual(faults, [])
