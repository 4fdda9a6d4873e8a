import resource
from datetime import UTC, date, datetime, timedelta
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from callcore.flow.definition import dump, load
from changelog.models import Change
from demo.scenario import HOURS
from opening_hours import calendar_files
from opening_hours.calendar_reader import CPU_S
from testkit import people

WEEK = [[] for _ in range(7)]


class OfficeHours(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.hours = self.client.post("/api/v1/hours", HOURS).json()
        self.url = f"/api/v1/hours/{self.hours['id']}"


class HoursApiTests(OfficeHours):
    def change(self, **values):
        revision = self.client.get(self.url).json()["revision"]
        return self.client.patch(self.url, {"revision": revision, **values})

    def look(self, at, **values):
        plan = {k: self.hours[k] for k in ("time_zone", "week", "exceptions", "closure")}
        body = {"plan": {**plan, **values}, "at": at}
        return self.client.post("/api/v1/hours/look", body)

    def test_hours_are_kept_and_changed_in_part(self):
        self.assertEqual(self.hours["week"][2], [{"start": 480, "end": 1200}])
        changed = self.change(closure={"reason": "Storm", "until": None}).json()
        self.assertEqual(changed["now"], "Closed, and stays so")
        self.assertEqual(changed["week"], self.hours["week"])
        change = Change.objects.latest("id")
        self.assertEqual((change.before["closure"], change.after["closure"]["reason"]), (None, "Storm"))

    def test_what_are_no_hours_changes_nothing_and_names_the_place(self):
        late, early = {"start": 1320, "end": 1560}, {"start": 60, "end": 120}
        bad = [
            ({"time_zone": "Mars/North"}, "there is no time zone"),
            ({"week": [[late], [early], *WEEK[2:]]}, "Monday 22:00–02:00 runs into Tuesday"),
            ({"week": WEEK[:3]}, ""),
            ({"week": "x"}, ""),
            ({"exceptions": [{"day": "x"}]}, ""),
            ({"exceptions": [{"name": "x" * 81, "day": "2026-12-24", "spans": []}]}, "80 characters"),
            ({"closure": {"until": "soon"}}, ""),
            ({"closure": {"until": "2026-01-01T10:00"}}, "zone"),
        ]
        for values, words in bad:
            with self.subTest(values):
                answer = self.change(**values)
                self.assertEqual(answer.status_code, 400, answer.content)
                self.assertIn(words, str(answer.json()))
        self.assertEqual(self.client.get(self.url).json()["revision"], 1)

    def test_any_moment_can_be_asked_for_before_anything_is_saved(self):
        seen = self.look("2027-07-31T15:30").json()
        self.assertEqual(seen["then"]["words"], "Closed, opens Sun 1 Aug at 10:00")
        self.assertEqual(seen["then"]["why"][1], "replaced by Regatta day, 08:00–13:00")
        self.assertEqual((len(seen["changes"]), len(seen["days"])), (6, 123))
        typed = self.look("2027-07-31T15:30", exceptions=[]).json()
        self.assertEqual(typed["then"]["words"], "Open, closes 16:00")
        self.assertEqual(self.look("whenever").status_code, 400)
        self.assertEqual(self.look("9999-12-31T23:59").status_code, 400)
        far = {"reason": "", "until": "9999-12-31T23:59:00Z"}
        self.assertEqual(self.look("2027-07-31T15:30", closure=far).status_code, 400)

    def test_public_holidays_are_shown_before_they_are_taken_in(self):
        query = "/api/v1/holidays?country=gb&region=SCT&year=2027"
        days = {row["day"]: row["name"] for row in self.client.get(query).json()}
        self.assertIn("Andrew", days["2027-11-30"])
        for bad in ("country=XX&year=2027", "country=GB&region=XX&year=2027", "country=GB&year=x"):
            self.assertEqual(self.client.get(f"/api/v1/holidays?{bad}").status_code, 400)

    def read(self, data: bytes):
        file = SimpleUploadedFile("hours.ics", data)
        return self.client.post(f"{self.url}/calendar", {"file": file}, format="multipart")

    def test_what_is_exported_comes_back_the_same(self):
        exported = self.client.get(f"{self.url}/calendar")
        self.assertEqual(exported["Content-Type"], "text/calendar")
        back = self.read(exported.content).json()["exceptions"]
        self.assertEqual(back, sorted(self.hours["exceptions"], key=lambda e: e["day"]))

    def test_recurring_and_excluded_dates_become_exceptions(self):
        first = datetime.now(UTC).date() + timedelta(days=3)
        dates = [first + timedelta(weeks=week) for week in range(4)]
        lines = [
            "BEGIN:VCALENDAR",
            "VERSION:2.0",
            "PRODID:-//x//y//EN",
            "BEGIN:VEVENT",
            "UID:1",
            "SUMMARY:Late boat",
            "RRULE:FREQ=WEEKLY;COUNT=4",
            f"DTSTART;TZID=Europe/London:{first:%Y%m%d}T200000",
            f"DTEND;TZID=Europe/London:{first:%Y%m%d}T223000",
            f"EXDATE;TZID=Europe/London:{dates[1]:%Y%m%d}T200000",
            "END:VEVENT",
            "BEGIN:VEVENT",
            "UID:2",
            "SUMMARY:Dock repairs",
            "DTSTART;VALUE=DATE:20270302",
            "DTEND;VALUE=DATE:20270304",
            "END:VEVENT",
            "END:VCALENDAR",
            "",
        ]
        found = self.read("\r\n".join(lines).encode()).json()["exceptions"]
        late = [e for e in found if e["name"] == "Late boat"]
        self.assertEqual([e["day"] for e in late], [str(dates[i]) for i in (0, 2, 3)])
        self.assertEqual(late[0]["spans"], [{"start": 1200, "end": 1350}])
        repairs = [(e["day"], e["spans"]) for e in found if e["name"] == "Dock repairs"]
        self.assertEqual(repairs, [("2027-03-02", []), ("2027-03-03", [])])

    def calendar(self, *events: str):
        """What a file of events brings; each is its lines, without BEGIN and END."""
        lines = [f"BEGIN:VEVENT\r\n{event}\r\nEND:VEVENT" for event in events]
        head = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//y//EN\r\n"
        text = head + "\r\n".join(lines) + "\r\nEND:VCALENDAR\r\n"
        read = calendar_files.read(text.encode(), "Europe/London", date(2027, 1, 1))
        days = [(str(e.day), [(span.start, span.end) for span in e.spans], e.yearly) for e in read.exceptions]
        return days, list(read.left_out)

    def test_events_of_every_form_are_taken_as_the_standard_means_them(self):
        whole, name = "DTSTART;VALUE=DATE:2027", "SUMMARY:Boat"
        cases = {
            f"{name}\r\n{whole}0302\r\nDURATION:P2D": [("2027-03-02", [], False), ("2027-03-03", [], False)],
            f"{name}\r\n{whole}0302\r\nSTATUS:CANCELLED": [],
            f"{name}\r\nDTSTART:20270302T200000\r\nDTEND:20270303T020000": [
                ("2027-03-02", [(1200, 1560)], False)
            ],
            f"{name}\r\nDTSTART:20270302T140000\r\nDTEND:20270304T100000": [
                ("2027-03-02", [(840, 1440)], False),
                ("2027-03-03", [(0, 1440)], False),
                ("2027-03-04", [(0, 600)], False),
            ],
            f"{name}\r\nDTSTART:20270601T080000Z\r\nDURATION:PT1H": [("2027-06-01", [(540, 600)], False)],
            f"{name}\r\nDTSTART;VALUE=DATE:20240229\r\nRRULE:FREQ=YEARLY": [("2024-02-29", [], True)],
            f"{name}\r\nDTSTART;VALUE=DATE:20240229\r\nRRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29": [
                ("2024-02-29", [], True)
            ],
            f"{name}\r\n{whole}0105\r\nRRULE:FREQ=WEEKLY;COUNT=2\r\nRRULE:FREQ=DAILY;COUNT=2": [
                ("2027-01-05", [], False),
                ("2027-01-06", [], False),
                ("2027-01-12", [], False),
            ],
        }
        for event, days in cases.items():
            with self.subTest(event):
                self.assertEqual(self.calendar(event), (days, []))
        for rule, day in (
            ("BYMONTH=5;BYDAY=1MO", "2027-05-03"),
            ("COUNT=1", "2027-05-01"),
            ("UNTIL=20280101", "2027-05-01"),
        ):
            event = f"{name}\r\n{whole}0501\r\nRRULE:FREQ=YEARLY;{rule}"
            with self.subTest(rule):
                found, left_out = self.calendar(event)
                self.assertIn((day, [], False), found)
                self.assertEqual(left_out, [])
        twice = [f"SUMMARY:{n}\r\n{whole}010{n}\r\nRRULE:FREQ=WEEKLY;COUNT=1" for n in (4, 5)]
        found = self.calendar(*twice)[0]
        self.assertEqual([day for day, _, _ in found], ["2027-01-04", "2027-01-05"])
        series = f"UID:s\r\n{name}\r\nDTSTART:20270104T080000Z\r\nDURATION:PT1H\r\n"
        cancelled = f"{series}RECURRENCE-ID:20270111T080000Z\r\nSTATUS:CANCELLED"
        found = self.calendar(f"{series}RRULE:FREQ=WEEKLY;COUNT=3", cancelled)[0]
        self.assertEqual([day for day, _, _ in found], ["2027-01-04", "2027-01-18"])

    def test_what_cannot_be_known_of_an_event_is_said_and_not_guessed(self):
        start = "SUMMARY:Boat\r\nDTSTART"
        good = "SUMMARY:Good\r\nDTSTART;VALUE=DATE:20270302"
        for event, said in (
            (f"{start};TZID=Mars/Base:20270302T080000\r\nDURATION:PT1H", "Mars/Base"),
            (f"{start}:20270302T080000", "has no length"),
            (f"{start}:20270302T080000\r\nDTEND:20270302T070000", "has no length"),
            (f"{start}:20270101T000000Z\r\nDTEND:20290101T000000Z", "longer than a year"),
            ("SUMMARY:Boat", "no date"),
        ):
            with self.subTest(event):
                days, left_out = self.calendar(event, good)
                self.assertEqual([day for day, _, _ in days], ["2027-03-02"])
                self.assertIn(said, left_out[0])
                self.assertIn("Boat", left_out[0])

    def test_a_file_that_is_no_calendar_is_refused_in_words(self):
        event = b"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART:20270101T000000Z\r\n%s\r\n"
        end = b"END:VEVENT\r\nEND:VCALENDAR\r\n"
        for data in (
            b"",
            b"not a calendar",
            b"BEGIN:VCALENDAR\r\n",
            b"\xff\xfe\x00",
            event % b"DURATION:PT1H\r\nRRULE:FREQ=SECONDLY" + end,
            b"x" * (1024 * 1024 + 10),
        ):
            with self.subTest(data[:40]):
                answer = self.read(data)
                self.assertEqual(answer.status_code, 400, answer.content)
                self.assertTrue(answer.json()["detail"])

    def test_hours_in_a_flow_cannot_be_deleted(self):
        check = {"kind": "hours", "id": "open", "hours": f"hours:{self.hours['id']}"}
        flow = people.flow(self.admin, dump(load({"start": "open", "steps": [check]})))
        self.assertEqual(self.client.delete(self.url).json()["uses"][0]["name"], flow.name)


class BoundedCalendarTests(OfficeHours):
    """Files of a few lines that ask for more work than there is time."""

    def test_what_never_comes_true_or_repeats_too_finely_ends_in_words(self):
        minutes = ",".join(map(str, range(60)))
        for rule in (
            "RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30",
            f"RRULE:FREQ=DAILY;BYHOUR={','.join(map(str, range(24)))};BYMINUTE={minutes}",
            f"RRULE:FREQ=DAILY;BYMINUTE={minutes};BYSECOND={minutes}",
        ):
            event = (
                "BEGIN:VEVENT",
                "UID:1",
                "SUMMARY:X",
                "DTSTART:20260101T080000",
                "DTEND:20260101T090000",
                rule,
                "END:VEVENT",
            )
            lines = ("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x", *event, "END:VCALENDAR", "")
            file = SimpleUploadedFile("x.ics", "\r\n".join(lines).encode(), "text/calendar")
            before = resource.getrusage(resource.RUSAGE_SELF).ru_utime
            answer = self.client.post(f"{self.url}/calendar", {"file": file}, format="multipart")
            spent = resource.getrusage(resource.RUSAGE_SELF).ru_utime - before
            with self.subTest(rule):
                self.assertIn(answer.status_code, (200, 400), answer.content)
                if answer.status_code == 400:
                    self.assertIn("file", answer.json()["fields"])
                self.assertLess(spent, CPU_S, "the work is another process's")

    def test_a_busy_machine_is_not_taken_for_a_fault_of_the_file(self):
        file = SimpleUploadedFile("x.ics", b"BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", "text/calendar")
        with mock.patch("opening_hours.calendar_reader.PATIENCE_S", 0.001):
            answer = self.client.post(f"{self.url}/calendar", {"file": file}, format="multipart")
        self.assertContains(answer, "the machine is busy", status_code=400)
