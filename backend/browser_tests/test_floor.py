"""Supervisors on the floor: they hear, speak, take over, and change what agents do."""

import re

from django.conf import settings
from selenium.webdriver.common.keys import Keys

from accounts.models import User
from browser_tests.person import until
from browser_tests.served import ServedTestCase
from browser_tests.test_making import DECEMBER
from exchange.commands import ExchangeAway, ask
from exchange.models import Contact, StandIns
from exchange.snapshots import snapshot
from reports.growing import catch_up
from testkit.people import client_of


class SupervisorTests(ServedTestCase):
    def talking(self, tamsin, nerys) -> None:
        """Nerys speaks with Tamsin, who has called."""
        nerys.click("Start work")
        nerys.click("Become available")
        self.call(tamsin, "1")
        nerys.sees("Ringing")
        nerys.press("a")
        tamsin.sees("Talks with Nerys Vaughan")

    def test_a_supervisor_listens_coaches_joins_and_takes_over(self):
        tamsin, nerys, deepa = self.person("tamsin"), self.person("nerys"), self.person("deepa")
        self.talking(tamsin, nerys)
        deepa.go("/learn/floor")
        deepa.click("Nerys Vaughan", exact=True)
        deepa.sees("The caller speaks", "Nobody hears you, and nobody is told.")
        deepa.press("l")
        deepa.sees("You listen to Nerys Vaughan", "Nerys Vaughan answers")
        nerys.press("o")
        deepa.sees("The caller hears music", "Nerys Vaughan puts the caller on hold")
        nerys.sees("The caller is on hold")
        self.assertNotIn("Deepa", nerys.text)
        nerys.press("o")
        deepa.press("c")
        nerys.sees("Deepa Ramanathan is there: only you hear them")
        deepa.press("j")
        deepa.sees("You speak with Nerys Vaughan")
        nerys.sees("Deepa Ramanathan speaks with you and the caller")
        deepa.press("o")
        nerys.sees("What was it about?")
        tamsin.sees("Talks with Deepa Ramanathan")
        deepa.sees("You have taken over")
        deepa.go("/learn/reports/queues")
        deepa.sees("You have taken over")
        deepa.click("Open", exact=True)
        deepa.sees("Your caller", "Send on…")
        nerys.click("12 Booking changed", "radio")
        nerys.click("Done")
        deepa.click("Send on…")
        deepa.fill("Name, extension or number", "4100")
        deepa.sees("Enter chooses")
        deepa.press(Keys.ENTER)
        deepa.sees("This caller is with you no more")
        nerys.sees("Ringing")
        nerys.press("a")
        tamsin.sees("Talks with Nerys Vaughan")
        nerys.sees("Hang up")
        nerys.press("h")
        nerys.click("11 New booking", "radio")
        nerys.click("Done")
        tamsin.sees("Over: talked with a person")

    def test_a_state_that_a_supervisor_sets_says_by_whom(self):
        kofi, deepa = self.person("kofi"), self.person("deepa")
        kofi.click("Start work")
        kofi.click("Become available")
        deepa.go("/learn/floor")
        deepa.click("Kofi Mensah", exact=True)
        deepa.choose("State", "Set away: Training")
        deepa.sees("At once. They see that it was you.")
        deepa.click("Set", exact=True)
        kofi.sees("Deepa Ramanathan set you away: Training", "Away")
        deepa.sees("Set away (Training) by Deepa Ramanathan")
        deepa.choose("State", "Make available")
        deepa.click("Set", exact=True)
        kofi.sees("Deepa Ramanathan made you available", "The next contact will ring here.")
        kofi.click("End work")

    def test_a_notice_gives_way_to_the_one_before_it(self):
        tamsin, kofi = self.person("tamsin"), self.person("kofi")
        kofi.click("Start work")
        for text in ("Fog at Northby.", "Pier two is closed."):
            tamsin.go("/talk/notices/new")
            tamsin.fill("Text", text)
            tamsin.fill_moment("Until", *DECEMBER)
            tamsin.click("Create", exact=True)
            kofi.sees(text)
        self.assertNotIn("Fog", kofi.text)
        kofi.click("1 before it")
        kofi.sees("Fog at Northby.")
        tamsin.go("/talk/notices")
        tamsin.click("Pier two is closed.", "row")
        tamsin.click("Delete…")
        tamsin.click("Delete", exact=True)
        kofi.sees_no("Pier two")
        kofi.sees("Fog at Northby.")
        kofi.click("End work")

    def test_who_runs_the_floor_closes_early_and_opens_again(self):
        deepa = self.person("deepa")
        deepa.go("/learn/floor")
        deepa.click("Close or open…")
        deepa.choose("Hours", "Boats can sail")
        deepa.fill("Reason", "Gale from the west")
        deepa.click("Close at once")
        deepa.sees("Boats can sail are closed.")
        deepa.click("Close or open…")
        deepa.choose("Hours", "Boats can sail")
        deepa.sees("Gale from the west")
        deepa.click("Lift the closure")
        deepa.sees("the closure is lifted")

    def test_the_floor_is_worked_by_keys_alone(self):
        deepa = self.person("deepa")
        deepa.press_with_control("k")
        deepa.sees("Find")
        deepa.press("Floor", Keys.ENTER)
        deepa.sees("Service level today")
        deepa.tab_to("Close or open…")
        deepa.press(Keys.ENTER)
        deepa.sees("Boats can sail")
        deepa.tab_to("Reason")
        deepa.press("Gale", Keys.ESCAPE)
        deepa.sees_no("Gale")
        deepa.press(Keys.ENTER)  # the focus is back where it was
        deepa.tab_to("Reason")
        deepa.press("Gale from the west")
        deepa.tab_to("Close at once")
        deepa.press(Keys.ENTER)
        deepa.sees("are closed.")
        deepa.tab_to("Close or open…")
        deepa.press(Keys.ENTER)
        deepa.sees("Gale from the west")
        deepa.tab_to("Lift the closure")
        deepa.press(Keys.ENTER)
        deepa.sees("the closure is lifted")
        deepa.tab_to("Freight")
        deepa.press(Keys.ENTER)
        deepa.sees("Its settings")
        deepa.press(Keys.ESCAPE)
        deepa.sees_no("Its settings")
        deepa.tab_to("Queues")
        deepa.press(Keys.ENTER, Keys.ARROW_DOWN, Keys.ENTER)
        deepa.sees("Selling", "each agent counted once here")

    def test_an_alert_arises_is_seen_and_is_over(self):
        tamsin, deepa = self.person("tamsin"), self.person("deepa")
        tamsin.go("/learn/alerts/new")
        tamsin.fill("Name", "Somebody waits")
        tamsin.choose("Figure", "Waiting")
        tamsin.fill("Limit", "0")
        tamsin.fill("For so long", "1")
        tamsin.click("Create")
        deepa.go("/learn/reports/queues")
        aoife = self.person("aoife")
        aoife.click("Start work")
        aoife.sees("End work")
        self.call(tamsin, "1")
        deepa.sees("All queues: 1 waiting, more than 0", "Somebody waits")
        deepa.click("Seen")
        deepa.go("/learn/alerts")
        deepa.sees("Somebody waits seen by Deepa Ramanathan", "1 now")
        self.assertNotIn("“Somebody waits”", deepa.text)
        tamsin.click("Hang up")
        aoife.click("End work")

    def test_the_figures_agree_after_a_storm(self):
        crowd = StandIns.objects.get(site=settings.EXCHANGE_SITE)
        crowd.on, crowd.agents, crowd.load, crowd.speed = True, 6, 1.0, 20
        # As many at any hour and on any day: it storms whenever the test runs.
        crowd.people = {"profile": [[600.0] * 96] * 7}
        crowd.save()
        until(self.reloaded, 60)
        until(lambda: self.live("strip")["figures"]["arrived"] > 40, 120)
        crowd.on, crowd.speed, crowd.agents = False, 1, 0
        crowd.save()
        until(self.reloaded, 120)
        under_way = Contact.objects.filter(site=settings.EXCHANGE_SITE, ended_ms=None)
        until(lambda: not under_way.exists(), 90)
        while catch_up(settings.EXCHANGE_SITE):
            pass
        deepa = self.person("deepa")
        client = client_of(User.objects.get(username="deepa"))
        day = "period=today&by=60"
        for queue, shown in self.live("floor")["queues"].items():
            figures = shown["figures"]
            report = client.get(f"/api/v1/reports/queues?{day}&queues={queue}").json()["total"]["figures"]
            for name in ("offered", "answered", "abandoned", "answered_late", "abandoned_late"):
                self.assertEqual(report[name], figures[name], (shown["name"], name))
            late = figures["answered_late"] + figures["abandoned_late"]
            deepa.go(f"/learn/floor?queue={queue}")
            deepa.sees(
                f"Offered {figures['offered']} ",
                f"Answered {figures['answered']} ",
                f"Abandoned {figures['abandoned']} ",
                f"Late {late} ",
            )
        strip = self.live("strip")["figures"]
        found = client.get("/api/v1/contacts/find?period=today&callback=no").json()
        self.assertEqual(found["count"], strip["arrived"])
        deepa.sees(f"{strip['arrived']} arrived today")
        (level,) = re.findall(r"([\d.]+) % service level today", deepa.text)
        self.assertAlmostEqual(float(level), strip["service_level"] * 100, delta=0.051)

    def reloaded(self):
        """Whether the exchange has taken the stand-ins' settings up; in a storm it may take a
        while, as it speaks the messages that are left in the tests itself."""
        try:
            return ask(None, "reload", {})
        except ExchangeAway:
            return None

    def live(self, topic):
        """What a topic told last."""
        return (snapshot(topic) or {"data": {"figures": {"arrived": 0}}})["data"]

    def test_who_waits_is_raised_and_offered_a_callback(self):
        tamsin, aoife, deepa = self.person("tamsin"), self.person("aoife"), self.person("deepa")
        aoife.click("Start work")
        self.call(tamsin, "1")
        tamsin.sees("Waits in the queue")
        deepa.go("/learn/floor")
        deepa.click("Bookings", exact=True)
        deepa.sees("1 waiting", "priority 5")
        deepa.click("07700 900")
        deepa.fill("Priority", "9")
        deepa.click("Set", exact=True)
        deepa.sees("priority 9")
        deepa.click("Offer a callback")
        tamsin.sees("has a callback offered", "We can call you back")
        tamsin.click("Press 1")
        deepa.sees("Nobody waits.", "1 to ring")
        aoife.click("End work")
