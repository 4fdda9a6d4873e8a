import unittest
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.errors import DefinitionError
from callcore.hours.answer import answer, clocks_change_at, decided, in_words, is_open, next_changes, outlook
from callcore.hours.plan import Closure, Exception_, Hours, Span, clock, dump, load

LONDON = ZoneInfo("Europe/London")
OFFICE = Span(start=480, end=1080)
WEEK = ((OFFICE,),) * 4 + ((OFFICE, Span(start=1320, end=1500)),) + ((Span(start=480, end=960),), ())
HOURS = Hours(
    week=WEEK,
    exceptions=(
        Exception_(name="Regatta day", day=date(2026, 8, 1), spans=(Span(start=480, end=780),)),
        Exception_(name="Last sailing", day=date(2020, 10, 31), yearly=True),
    ),
)


def at(text, zone=LONDON):
    return datetime.fromisoformat(text).replace(tzinfo=zone)


class HoursTests(unittest.TestCase):
    def said(self, moment):
        return in_words(answer(HOURS, moment), HOURS, moment)

    def test_open_or_closed_and_until_when(self):
        cases = {
            "2026-07-14T14:32": "Open, closes 18:00",
            "2026-07-14T18:00": "Closed, opens Wed 15 Jul at 08:00",
            "2026-07-31T23:59": "Open, closes Sat 1 Aug at 01:00",
            "2026-08-01T00:30": "Open, closes 01:00",
            "2026-08-01T15:30": "Closed, opens Mon 3 Aug at 08:00",
            "2026-10-31T10:00": "Closed, opens Mon 2 Nov at 08:00",
        }
        for moment, words in cases.items():
            with self.subTest(moment):
                self.assertEqual(self.said(at(moment)), words)

    def test_the_reason_names_the_span_that_a_moment_lies_in(self):
        self.assertEqual(
            answer(HOURS, at("2026-07-14T14:32")).why,
            ("Weekly plan: Tuesday 08:00–18:00", "Tue 14:32 is inside 08:00–18:00"),
        )
        late = answer(HOURS, at("2026-08-01T00:30")).why
        self.assertTrue(late[-1].startswith("Sat 00:30 is inside 22:00–"), late)
        self.assertTrue(late[-1].endswith(" of the day before"), late)

    def test_it_closes_to_the_minute(self):
        half = Hours(week=((Span(start=495, end=1050),),) * 7)
        for moment, words in (("10:00", "Open, closes 17:30"), ("08:00", "Closed, opens 08:15")):
            when = at(f"2026-07-14T{moment}")
            self.assertEqual(in_words(answer(half, when), half, when), words)

    def test_midnight_at_the_end_of_a_day_is_24(self):
        self.assertEqual(
            [clock(minute) for minute in (0, 1439, 1440, 1500)], ["00:00", "23:59", "24:00", "01:00"]
        )

    def test_what_is_wrong_names_its_weekday_or_exception(self):
        for data, place in (
            ({"week": [[], 3, [], [], [], [], []]}, "Tuesday: "),
            ({"week": [[], [], [{"start": 9, "end": 5}], [], [], [], []]}, "Wednesday: "),
            ({"exceptions": [{"name": "Regatta", "day": "2026-08-01"}, 7]}, "Exception 2: "),
        ):
            with self.assertRaises(DefinitionError) as refused:
                load(data)
            self.assertTrue(refused.exception.problems[0].message.startswith(place), refused.exception)

    def test_the_reason_is_told_step_by_step(self):
        self.assertEqual(
            answer(HOURS, at("2026-08-01T15:30")).why,
            (
                "Weekly plan: Saturday 08:00–16:00",
                "replaced by Regatta day, 08:00–13:00",
                "Sat 15:30 is outside",
            ),
        )

    def test_a_closure_by_hand_comes_before_everything_and_ends_by_itself(self):
        end = at("2026-07-14T16:00")
        closed = HOURS.model_copy(update={"closure": Closure(reason="Storm", until=end)})
        now = at("2026-07-14T14:00")
        self.assertEqual(in_words(answer(closed, now), closed, now), "Closed, opens 16:00")
        self.assertIn("closed by hand until Tue 14 Jul 16:00: Storm", answer(closed, now).why)
        self.assertTrue(is_open(closed, end))
        for_good = HOURS.model_copy(update={"closure": Closure()})
        self.assertEqual(answer(for_good, now)[::2], (False, None))

    def test_next_changes_and_outlook(self):
        changes = next_changes(HOURS, at("2026-07-31T17:00"), 4)
        local = [(c.astimezone(LONDON).strftime("%a %H:%M"), opened) for c, opened in changes]
        self.assertEqual(
            local, [("Fri 18:00", False), ("Fri 22:00", True), ("Sat 01:00", False), ("Sat 08:00", True)]
        )
        days = outlook(HOURS, date(2026, 10, 24), 8)
        self.assertEqual([d.kind for d in days], ["plan"] * 7 + ["closed"])
        self.assertEqual([d.clocks_change for d in days], [False, True] + [False] * 6)
        minutes = [sum(span.end - span.start for span in spans) for spans in WEEK]
        self.assertEqual([d.open_minutes for d in days], [*(minutes[n] for n in (5, 6, 0, 1, 2, 3, 4)), 0])

    def test_what_is_once_is_only_once_and_29_february_comes_in_leap_years(self):
        once = Exception_(name="Once", day=date(2028, 2, 29))
        yearly = once.model_copy(update={"yearly": True})
        for day, falls in ((date(2028, 2, 29), (True, True)), (date(2032, 2, 29), (False, True))):
            self.assertEqual((once.falls_on(day), yearly.falls_on(day)), falls)
        self.assertFalse(yearly.falls_on(date(2029, 2, 28)))

    def test_the_moment_at_which_the_clocks_change(self):
        changes = {"2026-10-25": "2026-10-25T01:00+00:00", "2027-03-28": "2027-03-28T01:00+00:00"}
        for day, moment in changes.items():
            self.assertEqual(clocks_change_at(HOURS, at(f"{day}T00:00")), datetime.fromisoformat(moment))
        for day in ("2026-10-24", "2026-10-26", "2026-07-14"):
            self.assertIsNone(clocks_change_at(HOURS, at(f"{day}T00:00")))

    def test_what_decides_is_the_last_reason(self):
        for moment in ("2026-07-14T14:32", "2026-08-01T12:00", "2026-10-31T10:00"):
            told = answer(HOURS, at(moment))
            self.assertEqual(decided(HOURS, at(moment)), (told.open, told.why[-1]))

    def test_hours_without_a_span_never_change(self):
        self.assertEqual(answer(Hours(), at("2026-07-14T12:00"))[::2], (False, None))

    def test_dump_and_load_give_the_same_hours(self):
        self.assertEqual(load(dump(HOURS)), HOURS)

    def test_what_are_no_hours_is_refused_with_its_place(self):
        week = [[] for _ in range(7)]
        cases = [
            ({"time_zone": "Mars/North"}, "there is no time zone"),
            (
                {"week": [[{"start": 480, "end": 600}, {"start": 540, "end": 700}], *week[1:]]},
                "Monday: 08:00–10:00 and 09:00–11:40 overlap",
            ),
            ({"week": [[{"start": 600, "end": 480}], *week[1:]]}, "Monday: it must end after"),
            (
                {"week": [[{"start": 1320, "end": 1560}], [{"start": 60, "end": 90}], *week[2:]]},
                "Monday 22:00–02:00 runs into Tuesday 01:00–01:30",
            ),
            (
                {"week": [[{"start": 1320, "end": 1561}], [{"start": 120, "end": 150}], *week[2:]]},
                "Monday 22:00–02:01 runs into Tuesday 02:00–02:30",
            ),
            ({"week": [[{"start": n * 60, "end": n * 60 + 30} for n in range(13)], *week[1:]]}, "12 items"),
            ({"exceptions": [{"name": "A day", "day": "1969-12-31"}]}, "1970"),
            ({"exceptions": [{"name": "A day", "day": "2201-01-01"}]}, "2200"),
            ({"week": week[:6]}, "7 items"),
            (
                {"exceptions": [{"name": name, "day": "2026-01-01"} for name in "AB"]},
                "two exceptions fall on 1 January",
            ),
            ({"exceptions": [{"name": "", "day": "x"}]}, "Exception 1: "),
            ("nonsense", ""),
            (None, ""),
        ]
        for data, words in cases:
            with self.subTest(words), self.assertRaises(DefinitionError) as caught:
                load(data)
            self.assertIn(words, str(caught.exception))

    def test_what_just_fits_is_taken(self):
        week = [[] for _ in range(7)]
        meeting = [[{"start": 1320, "end": 1560}], [{"start": 120, "end": 150}], *week[2:]]
        for data in (
            {"week": meeting},
            {"week": [[{"start": n * 60, "end": n * 60 + 60} for n in range(12)], *week[1:]]},
            {"exceptions": [{"name": "A day", "day": day} for day in ("1970-01-01", "2200-12-31")]},
        ):
            self.assertEqual(dump(load(data)), dump(load(dump(load(data)))))


ZONES = ("Europe/London", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu")


@st.composite
def any_hours(draw):
    """Up to two spans a day, far enough apart that late ones meet nothing."""

    def day():
        edges = draw(st.lists(st.integers(4, 95), min_size=0, max_size=4, unique=True))
        edges = sorted(edges)[: len(edges) // 2 * 2]
        return tuple(Span(start=a * 15, end=b * 15) for a, b in zip(edges[::2], edges[1::2], strict=True))

    return Hours(time_zone=draw(st.sampled_from(ZONES)), week=tuple(day() for _ in range(7)))


class HoursProperties(unittest.TestCase):
    @settings(deadline=None, max_examples=60)
    @given(any_hours(), st.integers(0, 366 * 24 * 60))
    def test_the_answer_is_what_the_wall_clock_says_and_holds_until_it_changes(self, hours, minutes):
        moment = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(minutes=minutes)
        local = moment.astimezone(hours.zone)
        inside = any(s.start <= local.hour * 60 + local.minute < s.end for s in hours.week[local.weekday()])
        found = answer(hours, moment)
        self.assertEqual(found.open, inside)
        if found.until is None:
            self.assertFalse(any(hours.week))
            return
        self.assertEqual(is_open(hours, found.until), not inside)
        step = max((found.until - moment) / 50, timedelta(minutes=1))
        probe = moment
        while probe < found.until:
            self.assertEqual(is_open(hours, probe), inside, probe)
            probe += step
        self.assertEqual(is_open(hours, found.until - timedelta(seconds=1)), inside)

    @settings(deadline=None)
    @given(any_hours())
    def test_both_nights_in_which_clocks_change_are_told_minute_by_minute(self, hours):
        """Every answer of the night agrees with every later one about the next change."""
        for night in (datetime(2026, 3, 28, 22, tzinfo=UTC), datetime(2026, 10, 24, 22, tzinfo=UTC)):
            known = answer(hours, night)
            for minute in range(0, 12 * 60, 5):
                moment = night + timedelta(minutes=minute)
                if known.until is not None and moment >= known.until:
                    known = answer(hours, moment)
                self.assertEqual(is_open(hours, moment), known.open)
