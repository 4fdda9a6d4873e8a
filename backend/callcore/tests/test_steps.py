"""Each kind of step beyond the first few, driven by hand."""

import json
import unittest
from datetime import datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from callcore.directory.extensions import dial
from callcore.directory.names import Person
from callcore.flow.catalogue import Catalogue
from callcore.flow.checks import check
from callcore.flow.conditions import Comparison, Group, holds, words
from callcore.flow.definition import (
    CheckQueue,
    Digits,
    Directory,
    End,
    Extension,
    FaxCheck,
    Flow,
    Fork,
    ForkArm,
    Input,
    Label,
    Lookup,
    Menu,
    MenuArm,
    Music,
    Repeat,
    Ring,
    Say,
    SetValue,
    SpokenText,
    Times,
    TimesArm,
    WaitInQueue,
)
from callcore.flow.periods import Period, overlap
from callcore.flow.periods import words as period_words
from callcore.flow.runner import (
    Due,
    FaxTone,
    Finish,
    GroupRule,
    HandOver,
    JoinQueue,
    Key,
    Labelled,
    Looked,
    LookUp,
    Machine,
    MadeUp,
    MailboxRule,
    Moved,
    Play,
    PlayMusic,
    Record,
    RingPerson,
    Rung,
    StopRinging,
    Taken,
    WaitedOut,
    from_data,
    to_data,
)
from callcore.flow.why import why
from callcore.routing.groups import WAYS, rounds
from callcore.tests.flows import text

SECOND = 1000
#: Monday 23 November 2026, 12:00 in London.
NOON = 1_795_435_200_000
PLAN = {"4101": "agent:ann", "46": "queue:freight", "460": "mailbox:night", "47": "flow:x"}
PEOPLE = (
    Person("agent:ann", "Ann Vaughan"),
    Person("agent:bea", "Bea Vaughan"),
    Person("agent:cyd", "Cyd Ellis"),
)


class Call:
    """A flow driven by hand; every prompt lasts two seconds."""

    def __init__(self, *steps, around=None, **values) -> None:
        flow = Flow(start=steps[0].id, steps=(*steps, End(id="a"), End(id="b"), End(id="c")))
        around = around or MadeUp(
            mailbox=lambda _: MailboxRule(None, 60 * SECOND),
            dial=lambda digits: dial(PLAN, digits),
            people=lambda: PEOPLE,
        )
        self.machine = Machine(flow, lambda _: 2 * SECOND, around)
        self.now = NOON
        self.state, effects = self.machine.start(NOON, values or {"caller": "+44"})
        self.effects = list(effects)

    def feed(self, *events, after_ms=0):
        for event in events:
            self.now += after_ms
            self.state, effects = self.machine.resume(self.state, event, self.now)
            self.effects += effects
        return self

    def press(self, keys):
        return self.feed(*(Key(key) for key in keys))

    def wait(self):
        self.now = self.state.due_ms
        return self.feed(Due())

    @property
    def last(self):
        return self.effects[-1]

    def moves(self):
        return [m.exit for m in self.effects if isinstance(m, Moved)]

    @property
    def ended_at(self):
        return self.last.step if isinstance(self.last, Finish) else None


class DigitsTests(unittest.TestCase):
    STEP = Digits(
        id="ask",
        prompt=text("Your booking?"),
        into="booking",
        least=3,
        most=5,
        tries=2,
        next="a",
        no_digits="b",
    )

    def test_figures_end_by_their_number_the_end_key_or_silence(self):
        self.assertEqual(Call(self.STEP).press("12345").state.values["booking"], "12345")
        self.assertEqual(Call(self.STEP).press("123#").ended_at, "a")
        self.assertEqual(Call(self.STEP).press("1234").wait().ended_at, "a")

    def test_too_few_are_asked_again_and_at_last_leave(self):
        call = Call(self.STEP).press("12#")
        self.assertEqual((call.last.role, call.state.typed), ("prompt", ""))
        self.assertEqual(call.press("1*").ended_at, "b")
        silent = Call(self.STEP).wait().wait()
        self.assertIsInstance(silent.last, Play)
        self.assertEqual(silent.wait().wait().ended_at, "b")

    def test_they_can_be_read_back_and_confirmed(self):
        step = self.STEP.model_copy(update={"confirm": text("{booking:digits}. Right? Press 1.")})
        call = Call(step).press("123#")
        self.assertEqual(call.last.prompt.text, "one, two, three. Right? Press 1.")
        self.assertEqual(Call(step).press("123#1").ended_at, "a")
        again = Call(step).press("123#2")
        self.assertEqual((again.last.role, again.moves()[-1]), ("prompt", "not_confirmed"))


class ForkTests(unittest.TestCase):
    def test_conditions_compare_texts_numbers_and_absence(self):
        values = {"party": "12", "paid": True, "name": "Ostrel  Band", "empty": ""}
        cases = [
            (("party", "more_than", 9), True),
            (("party", "less_than", "9"), False),
            (("party", "is", 12), True),
            (("name", "is", "ostrel band"), True),
            (("name", "begins_with", "OSTREL"), True),
            (("name", "contains", "band"), True),
            (("paid", "is", True), True),
            (("paid", "is", "yes"), True),
            (("name", "more_than", 3), False),
            (("empty", "given", None), False),
            (("gone", "not_given", None), True),
            (("gone", "is_not", "x"), True),
            (("gone", "is", ""), False),
        ]
        for (value, how, other), expected in cases:
            with self.subTest(value=value, how=how):
                comparison = Comparison(value=value, how=how, other=other)
                self.assertEqual(holds(comparison, values), expected)

    def test_groups_join_and_an_empty_one_never_holds(self):
        yes, no = Comparison(value="a", other="1"), Comparison(value="a", other="2")
        group = Group(join="or", parts=(no, Group(parts=(yes, yes))))
        self.assertTrue(holds(group, {"a": "1"}))
        self.assertFalse(holds(Group(parts=(yes, no)), {"a": "1"}))
        self.assertFalse(holds(Group(), {}))
        self.assertEqual(words(group), "a is 2 or (a is 1 and a is 1)")

    def test_the_first_arm_that_holds_is_taken_and_says_why(self):
        arm = ForkArm(
            id="big", when=Group(parts=(Comparison(value="party", how="more_than", other=9),)), next="a"
        )
        fork = Fork(id="fork", arms=(arm,), otherwise="b")
        inputs = {"inputs": (Input(name="party", type="number"),)}
        for party, end in ((12, "a"), (3, "b")):
            flow = Flow(start="fork", steps=(fork, End(id="a"), End(id="b")), **inputs)
            _, effects = Machine(flow, lambda _: 1).start(0, {"party": party})
            self.assertEqual(effects[-1].step, end)
        self.assertEqual(
            why(Moved("fork", "arm:big", "a", "fork", "party is more than 9"), flow),
            "party is more than 9 → party is more than 9",
        )


class MenuTests(unittest.TestCase):
    def menu(self, **more):
        return Call(
            Menu(id="m", prompt=text("Press 1."), arms=(MenuArm(key="1", next="a"),), no_key="b", **more)
        )

    def miss(self, call, *what):
        for one in what:
            while call.state.phase == "playing":
                call.wait()
            if call.state.phase == "ended":
                break
            call.wait() if one == "silence" else call.press("9")
        return call

    def test_silence_and_wrong_keys_count_together_or_each_by_themselves(self):
        mixed = ("9", "silence", "9")
        self.assertEqual(self.miss(self.menu(tries=3), *mixed).ended_at, "b")
        own = self.menu(tries=2, wrong_tries=3, wrong_key="c")
        self.miss(own, *mixed)
        self.assertNotEqual(own.state.phase, "ended")
        self.assertEqual(self.miss(own, "9").ended_at, "c", "the third wrong key")
        silent = self.menu(tries=2, wrong_tries=3, wrong_key="c")
        self.assertEqual(self.miss(silent, *mixed, "silence").ended_at, "b")
        self.assertEqual(self.miss(self.menu(tries=1, wrong_key="c"), "9").ended_at, "c")
        patient = self.menu(tries=1, wrong_tries=0)
        self.miss(patient, *["9"] * 12)
        self.assertNotEqual(patient.state.phase, "ended", "without end")
        self.assertEqual(from_data(to_data(patient.state)), patient.state)

    def test_a_centre_ends_calls_without_a_key_where_the_menu_says_nothing_of_them(self):
        quiet = MadeUp(silence_ends=True)
        menu = {"id": "m", "prompt": text("Press 1."), "arms": (MenuArm(key="1", next="a"),)}
        for more, around, ending, exits in (
            ({}, quiet, "ended", ["no_key"]),
            ({}, None, "failed", ["no_key", "failure"]),
            ({"no_key": "b"}, quiet, "ended", ["no_key"]),
        ):
            call = self.miss(Call(Menu(**menu, tries=2, **more), around=around), "9", "silence")
            while call.state.phase != "ended":
                call.wait()
            self.assertEqual(call.state.ending, ending)
            moved = [e for e in call.effects if isinstance(e, Moved) and e.to != "m"]
            self.assertEqual([e.exit for e in moved][: len(exits)], exits)
            self.assertEqual(moved[0].why == "silence_ends", around is quiet and not more)
        flow = Flow(start="m", steps=(Menu(**menu), End(id="a")))
        codes = {ends: [f.code for f in check(flow, Catalogue(silence_ends=ends))] for ends in (0, 1)}
        self.assertEqual((codes[0], codes[1]), (["default-failure"], []))

    def test_each_has_words_of_its_own(self):
        said = {"no_key_prompt": text("Nothing came."), "wrong_key_prompt": text("Not that.")}
        call = self.menu(tries=5, **said)
        self.miss(call, "9", "silence")
        played = [e.prompt.text for e in call.effects if isinstance(e, Play)]
        self.assertEqual(played, ["Press 1.", "Not that.", "Press 1.", "Nothing came."])


class TimesTests(unittest.TestCase):
    def test_arms_hold_by_weekday_clock_and_date_in_their_zone(self):
        arms = {
            "monday": (Period(days=(0,)), True),
            "weekend": (Period(days=(5, 6)), False),
            "noon": (Period(start=720, end=721), True),
            "morning": (Period(end=720), False),
            "winter": (Period(first="2026-11-01", last="2027-03-01"), True),
            "summer": (Period(first="2027-05-01"), False),
            "sunday night": (Period(days=(6,), start=1320, end=721), True),
            "monday night": (Period(days=(0,), start=1320, end=721), False),
            "the last night": (Period(start=1320, end=721, last="2027-02-28"), True),
            "the night after": (Period(start=1320, end=721, first="2027-03-01"), False),
        }
        for name, (period, expected) in arms.items():
            with self.subTest(name):
                arm = TimesArm(id="x", periods=(period,), next="a")
                call = Call(Times(id="when", arms=(arm,), otherwise="b"))
                self.assertEqual(call.ended_at, "a" if expected else "b")
        nine = TimesArm(id="x", periods=(Period(start=1260, end=1261),), next="a")
        tokyo = Times(id="when", time_zone="Asia/Tokyo", otherwise="b", arms=(nine,))
        self.assertEqual(Call(tokyo).ended_at, "a")

    def test_periods_are_said_and_their_overlap_is_found(self):
        self.assertEqual(
            period_words(Period(days=(0, 1, 2, 3, 4), start=480, end=1080)), "Mon–Fri 08:00–18:00"
        )
        self.assertFalse(overlap([Period(end=720)], [Period(start=720)]))
        self.assertTrue(overlap([Period(end=721)], [Period(start=720)]))
        early, late = Period(last="2027-04-30"), Period(first="2027-05-01")
        self.assertFalse(overlap([early], [late]))

    @given(st.integers(0, 6), st.integers(0, 1439), st.integers(0, 6), st.integers(0, 1439))
    def test_two_periods_overlap_where_a_minute_is_in_both(self, day, start, other_day, other):
        def lasting(day, start):
            return Period(days=(day,), start=start, end=(start + 90) % 1440 or 1440)

        one, two = lasting(day, start), lasting(other_day, other)
        monday = datetime(2027, 3, 1)  # noqa: DTZ001  a wall clock
        week = [monday + timedelta(minutes=minute) for minute in range(0, 7 * 1440, 10)]
        begins = ((day, start), (other_day, other))
        edges = [monday + timedelta(days=d, minutes=m) for d, m in begins]
        both = any(one.holds(moment) and two.holds(moment) for moment in [*week, *edges])
        self.assertEqual(overlap([one], [two]), both)
        self.assertEqual(sum(one.holds(moment) for moment in week), 9)
        self.assertEqual("the next day" in period_words(one), start + 90 > 1440)


class DecidingTests(unittest.TestCase):
    def test_a_live_figure_is_compared_and_none_is_no(self):
        cases = [
            (3, "at_least", 3, "a"),
            (2, "at_least", 3, "b"),
            (2, "less_than", 3, "a"),
            (None, "less_than", 3, "b"),
        ]
        for figure, how, limit, end in cases:
            step = CheckQueue(id="check", queue="queue:x", how=how, limit=limit, yes="a", no="b")
            around = MadeUp(figure=lambda _queue, _name, f=figure: f)
            self.assertEqual(Call(step, around=around).ended_at, end)

    def test_values_are_set_copied_and_labelled(self):
        call = Call(
            SetValue(id="one", value="port", to="Northby", next="two"),
            SetValue(id="two", value="copy", copy_of="port", next="label"),
            Label(id="label", label="Party of {copy}", priority=9, next="a"),
        )
        self.assertIn(Labelled("label", "Party of Northby", 9), call.effects)

    def test_a_repeat_goes_round_so_often(self):
        call = Call(Say(id="say", next="again"), Repeat(id="again", times=2, again="say", done="a"))
        for _ in range(3):
            call.wait()
        self.assertEqual(call.moves(), ["start", "next", "again", "next", "again", "next", "done"])

    def test_music_and_a_fax_tone(self):
        call = Call(Music(id="m", seconds=20, next="fax"), FaxCheck(id="fax", fax="a", no_fax="b"))
        self.assertEqual(call.last, PlayMusic("m", NOON + 20 * SECOND))
        self.assertEqual(call.wait().feed(FaxTone()).ended_at, "a")
        quiet = Call(FaxCheck(id="fax", fax="a", no_fax="b"))
        self.assertEqual(quiet.wait().ended_at, "b")


class LookupTests(unittest.TestCase):
    STEP = Lookup(
        id="look",
        table="table:t",
        key="caller",
        found="a",
        not_found="b",
        failed="c",
        take=({"column": "Party", "into": "party"},),
    )

    def test_a_row_fills_values_and_says_so(self):
        call = Call(self.STEP)
        self.assertEqual(call.last, LookUp("look", "table:t", "+44"))
        call.feed(Looked({"Party": "Choir", "Cars": 2}))
        self.assertEqual((call.ended_at, call.state.values["party"]), ("a", "Choir"))
        self.assertEqual(call.effects[-2].detail, "row +44, party = Choir")

    def test_no_row_no_answer_and_no_key_have_their_exits(self):
        self.assertEqual(Call(self.STEP).feed(Looked(None)).ended_at, "b")
        self.assertEqual(Call(self.STEP).feed(Looked(None, failed=True)).ended_at, "c")
        self.assertEqual(Call(self.STEP).wait().ended_at, "c")
        no_key = self.STEP.model_copy(update={"key": "gone"})
        self.assertEqual(Call(no_key).ended_at, "b")


class ReachingPeopleTests(unittest.TestCase):
    RING = Ring(id="ring", people=("agent:ann", "agent:bea"), ring_s=10, no_answer="a", busy="b")
    EXTENSION = Extension(id="dial", prompt=text("Dial."), tries=2, none="a", no_answer="b")
    DIRECTORY = Directory(id="spell", prompt=text("Spell."), tries=2, none="a", no_answer="b")

    def test_people_are_rung_one_after_another(self):
        call = Call(self.RING)
        self.assertEqual(call.last, RingPerson("ring", ("agent:ann",), NOON + 10 * SECOND))
        call.wait()
        self.assertIsInstance(call.effects[-3], StopRinging)
        self.assertEqual(call.last.people, ("agent:bea",))
        self.assertEqual(call.feed(Taken()).state.phase, "with_person")
        self.assertEqual(Call(self.RING).feed(Rung("busy"), Rung("busy")).ended_at, "b")
        self.assertEqual(Call(self.RING).wait().wait().ended_at, "a")

    def group(self, *rounds, full=False, mailbox="", **exits):
        """A call that rings a ring group."""
        rule = GroupRule(rounds, 15, full, mailbox)
        around = MadeUp(group=lambda ref: rule if ref == "group:g" else None)
        return Call(Ring(id="ring", group="group:g", **exits), around=around)

    def test_a_group_rings_its_rounds_and_what_is_kept_of_it_goes_on_the_same(self):
        call = self.group(("agent:ann", "agent:bea"), ("agent:cyd",), no_answer="a")
        self.assertEqual(
            call.last, RingPerson("ring", ("agent:ann", "agent:bea"), NOON + 15 * SECOND, "group:g")
        )
        call.state = from_data(json.loads(json.dumps(to_data(call.state))))
        self.assertEqual(call.feed(Rung("no_answer")).last.people, ("agent:cyd",))
        self.assertEqual(call.wait().ended_at, "a")
        self.assertEqual(self.group(("agent:ann",), full=True, busy="b").ended_at, "b")

    def test_whom_no_group_takes_its_mailbox_does_where_the_flow_says_nothing(self):
        call = self.group(("agent:ann",), mailbox="mailbox:m").wait()
        self.assertEqual(call.last, HandOver("ring", "mailbox:m"))
        self.assertEqual(self.group(("agent:ann",), mailbox="mailbox:m", no_answer="a").wait().ended_at, "a")
        self.assertEqual(self.group(failed="c").ended_at, "c", "nobody is in it")

    @given(
        st.lists(st.sampled_from("abcdef"), unique=True),
        st.sampled_from(sorted(WAYS)),
        st.sampled_from("abcdefg"),
    )
    def test_a_group_rings_everybody_once_and_begins_where_its_way_says(self, people, way, after):
        found = rounds(tuple(people), way, after)
        rung = [person for together in found for person in together]
        self.assertEqual(sorted(rung), sorted(people))
        if way == "turn" and after in people:
            self.assertEqual(rung[-1], after)
        else:
            self.assertEqual(rung, people)
        self.assertEqual(len(found), bool(people) if way == "all" else len(people))

    def test_an_extension_leads_to_whose_it_is(self):
        self.assertEqual(Call(self.EXTENSION).press("4101").last.people, ("agent:ann",))
        self.assertIsInstance(Call(self.EXTENSION).press("460").last, Record)
        self.assertEqual(Call(self.EXTENSION).press("47").last, HandOver("dial", "flow:x"))
        short = Call(self.EXTENSION).press("46")
        self.assertEqual(short.wait().last, JoinQueue("dial", "queue:freight"))
        self.assertEqual(Call(self.EXTENSION).press("46#").last, JoinQueue("dial", "queue:freight"))

    def test_a_wrong_extension_is_asked_again_and_at_last_leaves(self):
        call = Call(self.EXTENSION).press("9")
        self.assertEqual(call.last.role, "prompt")
        self.assertEqual(call.press("9").ended_at, "a")
        self.assertEqual(Call(self.EXTENSION).wait().wait().wait().wait().ended_at, "a")

    def test_a_name_is_spelled_and_several_are_read_out(self):
        self.assertEqual(Call(self.DIRECTORY).press("3").last.people, ("agent:cyd",))
        call = Call(self.DIRECTORY).press("82").wait()
        self.assertEqual(call.last.prompt.text, "For Ann Vaughan, press 1. For Bea Vaughan, press 2.")
        self.assertEqual(call.press("2").last.people, ("agent:bea",))
        self.assertEqual(Call(self.DIRECTORY).press("99").ended_at, "a")

    def test_nobody_answers_and_the_exit_for_it_is_taken(self):
        self.assertEqual(Call(self.EXTENSION).press("4101").wait().ended_at, "b")


class QueueTests(unittest.TestCase):
    def test_each_way_out_of_a_queue_leads_where_the_flow_or_else_the_queue_says(self):
        """The stop's own exit, the queue's destination of the way, then as after the wait."""
        sends = {"waited": "mailbox:w", "nobody": "queue:n", "closed": ""}
        cases = [
            ("waited_out", {"waited": "a", "nobody": "b"}, {}, "a"),
            ("nobody_there", {"waited": "a", "nobody": "b"}, sends, "b"),
            ("queue_closed", {"waited": "a", "closed": "b"}, sends, "b"),
            ("nobody_there", {"waited": "a"}, {}, "a"),
            ("nobody_there", {"waited": "a"}, sends, "queue:n"),
            ("queue_closed", {"waited": "a"}, sends, "a"),
            ("queue_closed", {}, sends, "mailbox:w"),
            ("queue_gone", {"nobody": "b"}, sends, "mailbox:w"),
        ]
        for reason, exits, then, end in cases:
            with self.subTest(reason=reason, exits=exits):
                around = MadeUp(overflow=lambda _queue, way, then=then: then.get(way, ""))
                call = Call(WaitInQueue(id="q", queue="queue:x", **exits), around=around)
                call.feed(WaitedOut(reason))
                handed = call.last.flow if isinstance(call.last, HandOver) else call.ended_at
                self.assertEqual(handed, end)

    def test_a_waiting_plan_is_not_needed_to_wait(self):
        call = Call(WaitInQueue(id="q", queue="queue:x", waited="a"))
        self.assertEqual(call.state.phase, "queued")

    def test_spoken_text_without_values_is_played_as_it_is(self):
        prompt = SpokenText(text="Hello.")
        call = Call(Say(id="say", prompt=prompt, next="a"))
        self.assertIs(call.last.prompt, prompt)
