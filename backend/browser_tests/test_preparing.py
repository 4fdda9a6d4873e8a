"""The journeys of what flows refer to: sounds, tables, numbers, diversions, hours."""

import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser_tests.person import until
from browser_tests.served import ServedTestCase
from sounds.music import hold_music


class KeepingTests(ServedTestCase):
    def test_a_sound_is_spoken_and_a_file_that_is_none_is_refused(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/sounds/new")
        tamsin.fill("Name", "Storm notice")
        tamsin.fill("What is said, English", "All sailings are stopped because of the storm.")
        tamsin.click("Create")
        tamsin.sees("Storm notice is saved")
        tamsin.find("button", "▶ Play")
        tamsin.upload(settings.BACKEND / "manage.py")
        tamsin.sees("This is not a sound file that can be read")

    def test_required_wrap_up_counts_at_once(self):
        tamsin, owain = self.person("tamsin"), self.person("owain")
        tamsin.go("/talk/rules")
        tamsin.choose("Wrap-up code, centre", "required")
        tamsin.sees("required from the centre", "it counts at once")
        owain.click("Start work")
        owain.click("Become available")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.click("Dial", exact=True)
        tamsin.sees("Hears “For bookings")
        tamsin.click("Press 1")
        owain.click("Answer")
        owain.sees("On contact")
        owain.click("Hang up")
        owain.sees_disabled("Choose a code")
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
            tamsin.upload(good, bad, into="input[aria-label='Choose sound files']")
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
                tamsin.upload(file.name, into="input[aria-label='Choose a CSV file']")

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
        person.click("Dial", exact=True)

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
        until(lambda: tamsin.find_group("Length of the call").text >= "0:09")
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
        tamsin.holds("Port", "Sant Mora")


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
        tamsin.type_into("Sunday 20:00–22:00", Keys.SHIFT, Keys.ARROW_RIGHT, role="button")
        tamsin.sees("20:00–22:15")
        tamsin.click("Copy Sunday to…")
        tamsin.click("to Saturday and Sunday", "option")
        for day in ("Saturday", "Sunday"):
            tamsin.find("button", f"{day} 20:00–22:15")
        tamsin.click("Save", exact=True)
        tamsin.sees("The hours are saved")
        tamsin.click("Close now…")
        tamsin.fill("Reason", "Storm")
        tamsin.click("Close at once")
        tamsin.sees("Closed, and stays so", "Storm, until it is lifted")
        tamsin.go("/guide/flows")
        tamsin.click("Main line", "row")
        tamsin.click("Try a call")
        tamsin.click("Dial", exact=True)
        tamsin.sees("Hears “For bookings")
        tamsin.click("Press 3")
        tamsin.sees("closed by hand: Storm → closed", "You are calling outside of our")

    def test_a_calendar_file_is_looked_at_before_it_is_taken_in(self):
        feast = datetime.now(UTC).date() + timedelta(days=100)
        lines = (
            "BEGIN:VCALENDAR",
            "VERSION:2.0",
            "PRODID:-//x//y//EN",
            "BEGIN:VEVENT",
            "UID:1",
            "SUMMARY:Harbour feast",
            f"DTSTART;VALUE=DATE:{feast:%Y%m%d}",
            "END:VEVENT",
            "END:VCALENDAR",
            "",
        )
        with tempfile.NamedTemporaryFile(suffix=".ics") as file:
            file.write("\r\n".join(lines).encode())
            file.flush()
            tamsin = self.person("tamsin")
            tamsin.go("/arrive/hours")
            tamsin.click("Office hours", "row")
            tamsin.click("iCalendar…")
            tamsin.upload(file.name)
            tamsin.sees(f"{feast:%a %-d %b %Y}", "Harbour feast", "closed all day", "new")
            tamsin.click("Take in 1")
            tamsin.click("Save", exact=True)
            tamsin.sees("The hours are saved", "Harbour feast")
