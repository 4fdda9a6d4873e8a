"""What agents may do with a contact, where it goes on, what is recorded, and the sums of it."""

import unittest
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.events import read as happened
from callcore.flow.catalogue import Catalogue, MailboxFacts, QueueFacts
from callcore.flow.checks import blocking, check
from callcore.flow.definition import Flow, exits
from callcore.flow.onward import consult, onward
from callcore.flow.runner import Machine
from callcore.flow.steps import Menu, MenuArm, Message, Music, OfferCallback, TellWait
from callcore.handling.rules import desk, handling, resolve, wrong
from callcore.measures.coverage import coverage, presence
from callcore.measures.figures import Figures
from callcore.routing.events import QueueRule, Widen
from callcore.talk.conversation import Circumstances, Talk, allowed, refuse
from callcore.talk.recording import RecordingRule, notice, recorded
from callcore.waiting.estimate import Waits
from callcore.waiting.wait_timeline import FURTHEST_MS, clock

QUEUE, MAILBOX, AGENT = "queue:q", "mailbox:m", "agent:a"
WORLD = Catalogue(
    queues={QUEUE: QueueFacts("Bookings", True, 2, 900), "queue:r": QueueFacts("R", True, 1, 60)},
    mailboxes={MAILBOX: MailboxFacts("Night", True, 2000, 60_000)},
    agents={AGENT: "Ann"},
)
MINUTE = 60_000


class ConversationTests(unittest.TestCase):
    def test_what_may_be_done_follows_how_the_talk_stands(self):
        self.assertEqual(allowed(Talk(), Circumstances()), ["hold", "transfer", "consult", "end"])
        held = Talk(held=True)
        self.assertEqual(allowed(held, Circumstances()), ["resume", "transfer", "consult", "end"])
        asking = Talk(held=True, consult="s")
        self.assertEqual(allowed(asking, Circumstances()), ["resume", "end_consult"])
        self.assertEqual(
            allowed(asking, Circumstances(answered=True)), ["resume", "put_through", "join", "end_consult"]
        )
        self.assertEqual(
            allowed(Talk(consult="s", joined=True), Circumstances(answered=True)),
            ["put_through", "end_consult", "end"],
        )
        self.assertEqual(allowed(Talk(), Circumstances(text=True)), ["transfer", "end"])
        self.assertEqual(allowed(Talk(), Circumstances(consult=True)), ["end"])

    def test_what_may_not_be_done_is_refused_in_words(self):
        for action in ("resume", "join", "record", "help", "emergency", "by_text"):
            with self.subTest(action), self.assertRaises(EventRefused) as refused:
                refuse(action, Talk(), Circumstances())
            self.assertGreater(len(str(refused.exception)), 20)

    @given(st.builds(Talk, st.booleans(), st.sampled_from(["", "s"])), st.builds(Circumstances))
    def test_there_is_always_a_way_on(self, talk, facts):
        self.assertTrue({"end", "end_consult"} & set(allowed(talk, facts)))


class OnwardTests(unittest.TestCase):
    def test_nobody_who_is_sent_on_can_be_stranded(self):
        for target in (QUEUE, AGENT, MAILBOX, "+441632960111"):
            for back in ("", "queue:r"):
                with self.subTest(target=target, back=back):
                    flow = onward(target, back)
                    self.assertEqual(blocking(check(flow, WORLD)), [])
                    ways = [way for step in flow.steps for way in exits(step)]
                    if not target.startswith("mailbox"):
                        self.assertTrue(all(way.to for way in ways if way.failure))

    def test_whom_a_colleague_asks_is_rung_and_never_put_back_into_a_line(self):
        for target in (QUEUE, AGENT, "+441632960111"):
            kinds = [step.kind for step in consult(target).steps]
            self.assertEqual(kinds[1:], ["end"])


class RecordingTests(unittest.TestCase):
    def test_a_share_is_about_that_share_and_always_the_same_calls(self):
        rule = RecordingRule("share", 30)
        found = [recorded(rule, f"call {n}") for n in range(2000)]
        self.assertAlmostEqual(sum(found) / 2000, 0.3, delta=0.04)
        self.assertEqual(found, [recorded(rule, f"call {n}") for n in range(2000)])
        self.assertEqual((recorded(RecordingRule("all"), "x"), recorded(RecordingRule(), "x")), (True, False))

    def test_the_notice_says_what_happens_in_the_callers_language(self):
        self.assertEqual(notice(RecordingRule("all", told="tone")), "")
        said = notice(RecordingRule("all", transcribed=True), "cy")
        self.assertIn("recordio", said)
        self.assertIn("thrawsgrifio", said)


class RuleTests(unittest.TestCase):
    def test_the_desk_and_the_router_take_what_counts(self):
        counted = resolve(
            {
                "centre": {"texts": 4, "help_to": "agent:" + "0" * 8},
                "agent": {"reply_s": 60, "away_reasons": ["Lunch"]},
            }
        )
        self.assertEqual((handling(counted).texts, handling(counted).reply_ms), (4, 60_000))
        self.assertEqual(desk(counted).away, ("Lunch",))

    def test_a_target_is_a_reference_a_number_or_nobody(self):
        for good in ("", "+441632960111", "queue:00000000-0000-4000-8000-000000000000", None):
            self.assertIsNone(wrong("help_to", good), good)
        for bad in ("somebody", 5, "flow:x", "07700 900123"):
            self.assertIsNotNone(wrong("help_to", bad), bad)
        self.assertIsNotNone(wrong("away_reasons", "Lunch"))


class ClockTests(unittest.TestCase):
    """The caller's clock is what the plan does, run to the latest way out."""

    def plan(self, *steps):
        return Machine(Flow(purpose="plan", start=steps[0].id, steps=steps), lambda _: 4_000)

    def test_without_a_plan_there_is_music_until_the_longest_wait(self):
        found = clock(QueueRule("q", longest_wait_ms=5 * MINUTE), None, WORLD, then="mailbox")
        self.assertEqual([(m.at_ms, m.kind) for m in found.marks], [(0, "music"), (5 * MINUTE, "leaves")])
        self.assertEqual(clock(QueueRule("q"), None, WORLD).end_ms, FURTHEST_MS)

    def test_telling_offering_and_widening_stand_at_their_times(self):
        plan = self.plan(
            Music(id="m", seconds=20, next="t"),
            TellWait(id="t", next="c"),
            OfferCallback(id="c", declined="m", failed="m"),
        )
        rule = QueueRule("q", longest_wait_ms=MINUTE, widening=(Widen(26_000, lower=2),))
        found = clock(rule, plan, WORLD)
        kinds = [(m.at_ms, m.kind) for m in found.marks]
        self.assertEqual(kinds[:2], [(0, "music"), (20_000, "told")])
        self.assertEqual([kind for _, kind in kinds[2:4]], ["callback", "widens"])
        self.assertEqual(kinds[-1], (MINUTE, "leaves"))

    def test_a_plan_that_leads_to_a_mailbox_ends_the_line_there(self):
        plan = self.plan(Music(id="m", seconds=30, next="x"), Message(id="x", mailbox=MAILBOX))
        found = clock(QueueRule("q", longest_wait_ms=10 * MINUTE), plan, WORLD)
        self.assertEqual((found.end_ms, found.leaves), (30_000, False))

    @given(st.integers(1, 120), st.integers(1, 60), st.integers(10, 900))
    def test_marks_are_in_order_and_within_the_line(self, music, wait, longest):
        plan = self.plan(
            Music(id="m", seconds=music, next="a"),
            Menu(id="a", arms=(MenuArm(key="1", next="m"),), wait_s=wait, no_key="m", tries=1),
        )
        found = clock(QueueRule("q", longest_wait_ms=longest * 1000), plan, WORLD)
        times = [m.at_ms for m in found.marks]
        self.assertEqual(times, sorted(times))
        self.assertTrue(all(m.at_ms <= m.until_ms <= found.end_ms for m in found.marks))


class SumTests(unittest.TestCase):
    def story(self):
        """A call of 20 s, 5 of them on hold, transferred to another agent who has it for 7 s."""

        def event(at_s, kind, agent="", contact="c", **body):
            return happened(at_s * 1000, kind, contact, agent, body)

        return [
            event(0, Kind.ARRIVED, number="n", caller="x", flow="f", version=1, trial=False),
            event(1, Kind.QUEUED, queue="q", staff=1),
            event(4, Kind.ANSWERED, "ann", queue="q", entered_ms=1000),
            event(6, Kind.HELD, "ann", on=True),
            event(7, Kind.ARRIVED, contact="s", number="n", caller="x", flow="", consult_of="c"),
            event(7, Kind.QUEUED, contact="s", queue="q", staff=1),
            event(8, Kind.ANSWERED, "bea", contact="s", queue="q", entered_ms=7000),
            event(11, Kind.HELD, "ann", on=False),
            event(24, Kind.LEG_ENDED, "bea", contact="s", queue="q", by="joined"),
            event(24, Kind.LEG_ENDED, "ann", queue="q", by="transferred"),
            event(24, Kind.ANSWERED, "bea", queue="q", entered_ms=1000, transferred=True),
            event(24, Kind.ENDED, contact="s", ending="joined"),
            event(31, Kind.LEG_ENDED, "bea", queue="q", by="agent"),
            event(31, Kind.ENDED, ending="person"),
        ]

    def test_hold_is_no_talk_and_a_colleague_is_no_caller(self):
        fold, waits = Figures(), Waits()
        for event in self.story():
            fold.apply(event)
            waits.apply(event)
        row = fold.centre_total()
        self.assertEqual((fold.arrived, row.offered, row.answered), (1, 1, 1))
        self.assertEqual((row.hold_ms, row.talk_ms), (5_000, 15_000 + 7_000))
        self.assertEqual(fold.waits["q"].answered, {0: 1})
        self.assertEqual(len(waits.lines["q"].handled), 2)

    def test_moves_after_going_on_are_counted_in_the_flow_that_it_went_to(self):
        fold = Figures()
        for at, kind, body in (
            (0, Kind.ARRIVED, {"flow": "f", "number": "n", "caller": "x"}),
            (1, Kind.MOVED, {"step": "a", "exit": "next"}),
            (2, Kind.WENT_ON, {"flow": "g"}),
            (3, Kind.MOVED, {"step": "b", "exit": "next"}),
        ):
            fold.apply(happened(at, kind, "c", "", body))
        self.assertEqual(
            {f: dict(arms) for f, arms in fold.arms.items()},
            {"f": {("a", "next"): 1}, "g": {("b", "next"): 1}},
        )


class CoverageTests(unittest.TestCase):
    def test_presence_is_cut_at_the_hours_and_a_leaver_shows(self):
        zone, hour = ZoneInfo("UTC"), 3_600_000

        def state(at_h, agent, status):
            return happened(round(at_h * hour), Kind.AGENT, "", agent, {"status": status})

        there = presence(
            [
                state(8.5, "ann", "away"),
                state(8.75, "ann", "available"),
                state(10, "ann", "out"),
                state(9, "bea", "available"),
            ],
            0,
            24 * hour,
            zone,
        )
        self.assertEqual((there["ann"][8], there["ann"][9], there["ann"][10]), (0.5, 1.0, 0.0))
        self.assertEqual(there["bea"][23], 1.0)
        found = coverage(there, ("ann", "bea", "nobody"), "ann")
        self.assertEqual((found.before[9], found.after[9]), (2.0, 1.0))
        self.assertEqual(found.bare, (8,))
