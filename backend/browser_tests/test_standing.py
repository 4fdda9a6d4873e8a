"""What stands on every page: the live line, roles, sign-in, accessibility."""

from pathlib import Path
from tempfile import TemporaryDirectory

from selenium.webdriver.common.keys import Keys

from browser_tests.person import until
from browser_tests.served import ServedTestCase
from callcore.people.profile import always
from exchange.models import StandIns
from flows.models import Flow
from lookups.models import Table
from opening_hours.models import Hours
from queues.models import Queue


class StandingTests(ServedTestCase):
    def test_the_line_is_lost_and_found_again(self):
        deepa = self.person("deepa")
        deepa.sees("Data 0 s old")
        self.stop_web()
        deepa.sees("Your line to the server is lost", "Figures stand still", "Not known: your line is lost")
        self.start_web_again()
        deepa.sees_no("Your line to the server is lost")
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

    def test_a_person_is_made_comes_in_and_is_signed_out_when_disabled(self):
        tamsin = self.person("tamsin")
        tamsin.go("/talk/people")
        tamsin.click("New person")
        tamsin.fill("Name", "Mari Prys")
        tamsin.fill("Sign-in name", "mari")
        tamsin.choose("May", "Supervisor")
        tamsin.fill("New password", "short")
        tamsin.click("Create")
        tamsin.sees("too short")
        tamsin.fill("New password", "harbour-light-9")
        tamsin.click("Create")
        tamsin.sees("Mari Prys is saved")
        mari = self.person()
        mari.sign_in("mari", "harbour-light-9")
        mari.sees("Floor")
        mari.click("Mari Prys")
        mari.click("Change password…", "option")
        for field, typed in (
            ("Present password", "guess"),
            ("New password", "another-tide-7"),
            ("New password again", "another-tide-7"),
        ):
            mari.fill(field, typed)
        mari.click("Change password", exact=True)
        mari.sees("This is not your password.")
        mari.fill("Present password", "harbour-light-9")
        mari.click("Change password", exact=True)
        mari.sees("Your password is changed")
        # Their own password was a change of theirs: who edits what stood before is told so.
        tamsin.go("/talk/people")
        tamsin.fill("Find in people", "Mari")
        tamsin.click("Mari Prys", "row")
        tamsin.click("May come in", "switch")
        tamsin.click("Save", exact=True)
        tamsin.sees("Mari Prys is saved")
        mari.sees("Sign-in name")
        mari.sign_in("mari", "another-tide-7")
        mari.sees("The name or the password is wrong.")

    def test_the_profile_and_the_people_are_edited_by_hand_and_by_a_table(self):
        tamsin = self.person("tamsin")
        tamsin.go("/settings/stand-ins")
        tamsin.click("Tue")
        tamsin.sees("callers are expected")
        tamsin.fill("09:00", "12.5")
        tamsin.fill("Mean, s", "95")
        tamsin.click("Begin anew with these")
        until(lambda: StandIns.objects.get().people.get("patience", {}).get("mean_s") == 95)
        days = StandIns.objects.get().people["profile"]
        self.assertEqual((days[1][36:40], days[2][36]), ([12.5] * 4, 220))
        tamsin.sees("The stand-ins have gone home")  # the page begins anew with them, at today
        tamsin.click("Tue")
        tamsin.click("As on every working day")
        with TemporaryDirectory() as folder:
            table = Path(folder) / "callers.csv"
            table.write_text(always(7).as_csv().replace("10:00,7", "10:00,seven"))
            tamsin.upload(table)
            tamsin.sees("Line 42, Monday: “seven” is no number")
            table.write_text(always(7).as_csv())
            tamsin.upload(table)
            tamsin.sees("The table is read")
        tamsin.click("Begin anew with these")
        until(lambda: StandIns.objects.get().people["profile"][4][36] == 7)
        tamsin.fill("Mean, s", "0")
        tamsin.click("Begin anew with these")
        tamsin.sees("A mean lies above 0")
        tamsin.click("People as usual")
        until(lambda: StandIns.objects.get().people == {})

    def test_words_and_figures_are_looked_up(self):
        nerys = self.person("nerys")
        nerys.click("Nerys")
        nerys.click("Words and figures", "option")
        nerys.fill("Find a word", "hung up")
        nerys.sees("abandoned", "hung up while waiting")
        nerys.sees_no("journey strip")
        guest = self.person("guest")
        guest.go("/help")
        guest.fill("Find a word", "handle time")
        guest.sees("Average handle time", "(talk + hold + wrap-up) ÷ parts of contacts")

    def test_every_page_is_free_of_accessibility_faults_by_day_and_night(self):
        tamsin = self.person("tamsin")
        main_line = f"/guide/flows/{Flow.objects.get(name='Main line').pk}"
        pages = (
            "/learn/floor",
            "/learn/contacts",
            "/desk",
            "/arrive/numbers",
            "/arrive/numbers/new",
            "/arrive/diversions",
            "/arrive/hours",
            f"/arrive/hours/{Hours.objects.get(name='Office hours').pk}",
            "/guide/flows",
            main_line,
            f"{main_line}/publish",
            "/guide/blocks",
            "/guide/sounds",
            "/guide/lookups",
            f"/guide/lookups/{Table.objects.first().pk}",
            "/wait/queues",
            f"/wait/queues/{Queue.objects.get(name='Bookings').pk}",
            "/wait/plans",
            "/wait/callbacks",
            "/wait/mailboxes",
            "/talk/agents",
            "/talk/teams",
            "/talk/skills",
            "/talk/people",
            "/talk/rules",
            "/talk/notices",
            "/wrap-up/codes",
            "/wrap-up/sets",
            "/settings/changes",
            "/settings/stand-ins",
            "/settings/kept",
            "/talk/groups",
            "/help",
        )
        for mode in ("day", "night"):
            tamsin.browser.execute_script(f"localStorage.setItem('hazeridge-mode', '{mode}')")
            tamsin.come_to("/")
            for page in pages:
                with self.subTest(page=page, mode=mode):
                    tamsin.go(page)
                    tamsin.sees("Running")
                    until(lambda: "Loading" not in tamsin.text)
                    faults = tamsin.accessibility_faults()
                    self.assertEqual(faults, [])
                    if mode == "day":
                        self.assertEqual(tamsin.unreadable(), [])

    def test_whatever_has_the_keyboard_is_seen_to_have_it(self):
        tamsin = self.person("tamsin")
        for page in (
            "/arrive/numbers/new",
            "/guide/flows",
            "/wait/queues",
            "/learn/floor",
            "/learn/reports/queues?period=yesterday",
            "/settings/stand-ins",
            "/settings/kept",
            "/talk/groups",
            "/help",
        ):
            tamsin.go(page)
            tamsin.sees("Running")
            until(lambda: "Loading" not in tamsin.text)
            for _ in range(30):
                tamsin.press(Keys.TAB)
                where = tamsin.focused_words()
                self.assertTrue(tamsin.shows_focus(), (page, where))

    def test_the_browsers_tab_says_where_one_is(self):
        tamsin = self.person("tamsin")
        main_line = f"/guide/flows/{Flow.objects.get(name='Main line').pk}"
        titles = {"/guide/flows": "Flows", "/settings/stand-ins": "Stand-ins", main_line: "Main line"}
        for page, title in titles.items():
            tamsin.go(page)
            until(lambda title=title: tamsin.browser.title == f"{title} · Hazeridge")
