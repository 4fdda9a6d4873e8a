"""What has been: reports that open down to a contact, files of them, and contacts found."""

import base64
import calendar
import io

import openpyxl
from django.core.cache import cache

from browser_tests.person import until
from browser_tests.served import ServedTestCase, _demo
from callcore.people.said import traits_of
from demo import scenario
from exchange import past
from reports import growing
from reports.asking import today
from reports.models import Stay
from testkit import processes

_FETCH = """
const [address, done] = arguments;
fetch(address).then((answer) => answer.arrayBuffer()).then((bytes) =>
  done(btoa(Array.from(new Uint8Array(bytes), (one) => String.fromCharCode(one)).join(""))));
"""


class ReportsTests(ServedTestCase):
    """The demo with a day behind it."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        processes.stop(cls.exchange)
        people = traits_of({**scenario.PEOPLE, "sent_on": 0.15})
        day = past.Day(1, 0.3, 16, people)
        list(past.live_through_days([day], growing.count))
        growing.all_is_counted("main")
        # What the lists of an earlier class showed is kept for a while.
        cache.delete(f"in-use-{today()}")
        cls.exchange = processes.start_exchange()

    @classmethod
    def tearDownClass(cls):
        super().tearDownClass()
        _demo.bring_back()

    def click_first(self, person, css):
        """The first of what is found so, once it is there."""
        until(lambda: person.browser.find_elements("css selector", css))
        until(lambda: person.browser.find_element("css selector", css).click() or True)

    def test_a_figure_opens_to_its_sum_and_down_to_a_contact(self):
        deepa = self.person("deepa")
        deepa.go("/learn/reports/queues?period=yesterday")
        deepa.choose("Queue", "Bookings")
        deepa.sees("Service level", "the goal of 80.0 %")
        deepa.choose("Rows", "By hours")
        deepa.sees("10:00")
        deepa.click("Level of answered and abandoned:")
        deepa.sees("The sum behind", "divided by", "The same by each formula")
        deepa.click("Close the sum")
        self.click_first(deepa, "tfoot button[aria-label^='Answered:']")
        deepa.sees("An agent took them out of the queue.")
        self.click_first(deepa, "aside a")
        deepa.sees("Waited", "Counted in", "Bookings", "answered")
        deepa.click("On the map")
        deepa.sees("Arrives on")

    def test_codes_hours_flows_agents_and_use_answer_their_questions(self):
        deepa = self.person("deepa")
        deepa.go("/learn/reports/codes?period=yesterday")
        deepa.sees("What contacts were about", "Hand-overs", "New booking")
        self.click_first(deepa, "section[aria-label=Hand-overs] td button")
        deepa.sees("First part", "What it costs")
        deepa.click("Agents")
        deepa.sees("Occupancy", "All of them")
        self.click_first(deepa, "tbody th button")
        deepa.sees("Where the time went", "Contacts by queue")
        deepa.click("Flows")
        deepa.sees("Main menu", "Bookings & changes", "How contacts ended in it")
        deepa.click("On the map")
        deepa.sees("Callers", "Main menu")
        deepa.click("When it is busy")
        deepa.sees("Busiest on", "How long they waited")
        deepa.click("Numbers & callbacks")
        deepa.sees("Freephone", "With a person", "Waits that callers were told of")

    def test_a_report_is_put_together_and_kept(self):
        deepa = self.person("deepa")
        deepa.go("/learn/reports/own?period=yesterday")
        deepa.sees("Offered: most of Bookings", "Assistance")
        deepa.choose("Rows", "Weekdays")
        deepa.sees_no("Assistance")
        until(lambda: any(day in deepa.text for day in calendar.day_name))
        deepa.choose("Rows", "Hours of the day")
        deepa.sees("12:00 – 13:00")
        deepa.click("Level", exact=True)
        deepa.sees("Service level: most at")
        deepa.click("Save…")
        deepa.fill("Name", "By hour")
        deepa.click("Save", exact=True)
        deepa.click("Saved")
        deepa.click("By hour")
        deepa.sees("Service level: most at", "12:00 – 13:00")
        deepa.click("Saved")
        deepa.click("Delete")
        deepa.sees("No report is saved yet")

    def test_a_report_is_saved_and_its_file_holds_what_the_page_shows(self):
        deepa = self.person("deepa")
        deepa.go("/learn/reports/queues?period=yesterday&by=60")
        deepa.sees("were answered")
        deepa.click("Save…")
        deepa.fill("Name", "Every morning")
        deepa.choose("A file is made", "at 01:00")
        deepa.click("Save", exact=True)
        deepa.click("Saved")
        deepa.sees("Every morning", ", every day")
        deepa.click("Make a file now")
        deepa.sees("is listed below", ".xlsx")
        listed = "a[href*='/reports/files/']"
        (link,) = until(lambda: deepa.browser.find_elements("css selector", listed))
        data = deepa.browser.execute_async_script(_FETCH, link.get_attribute("href"))
        book = openpyxl.load_workbook(io.BytesIO(base64.b64decode(data)))
        rows = list(book["Report"].values)
        offered = rows[-1][rows[0].index("Offered")]
        self.assertGreater(offered, 100)
        deepa.click("Every morning")
        deepa.sees(f"of {offered:,} were answered")
        deepa.click("Saved")
        deepa.click("Delete")
        deepa.sees("No report is saved yet")

    def test_contacts_are_found_in_any_combination_and_opened_by_key(self):
        deepa = self.person("deepa")
        deepa.go("/learn/contacts")
        deepa.choose("Ended", "With a person")
        deepa.choose("Queue", "Bookings")
        deepa.choose("Code", "New booking")
        deepa.sees("New booking", "With a person")
        deepa.sees_no("Hung up in the flow")
        deepa.fill("Keys", "9*9#9")
        deepa.sees("No contact fits.")
        deepa.click("All contacts")
        deepa.sees("Hung up in the flow")
        self.click_first(deepa, "[role=gridcell]")
        deepa.sees("Counted in")

    def test_lists_say_whether_things_are_used(self):
        deepa = self.person("deepa")
        deepa.go("/arrive/numbers")
        deepa.sees("Contacts in 28 days", "not used")
        deepa.go("/wait/queues")
        deepa.sees("28 days: offered, level, wait")

    def test_the_pages_are_free_of_accessibility_faults_by_day_and_night(self):
        deepa = self.person("deepa")
        contact = Stay.objects.filter(outcome="answered").first().contact
        reports = ("queues", "codes", "agents", "flows", "hours", "usage")
        pages = [f"/learn/reports/{report}?period=yesterday" for report in reports]
        pages += ["/learn/reports/saved", "/learn/contacts", f"/learn/contacts/{contact}"]
        for mode in ("day", "night"):
            deepa.browser.execute_script(f"localStorage.setItem('hazeridge-mode', '{mode}')")
            deepa.come_to("/")
            for page in pages:
                with self.subTest(page=page, mode=mode):
                    deepa.go(page)
                    deepa.sees("Running")
                    until(lambda: "Loading" not in deepa.text)
                    self.assertEqual(deepa.accessibility_faults(), [])
