"""Steps that need the exchange: people, labels, look-ups, live figures, shared blocks."""

import unittest

from callcore.centre.facts import RingGroupSettings
from callcore.centre.handlers import messaging
from callcore.centre.handlers.telephone import place_call
from callcore.centre.setup import RunnableFlow
from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow.blocks import laid_out
from callcore.flow.catalogue import Catalogue, FlowFacts
from callcore.flow.definition import load
from callcore.flow.runner import Machine
from callcore.tests.centre.hand import NUMBER, SECOND, Hand, configuration, mailbox, restarted, script

WORDS = {"kind": "text", "text": "x"}


def hand_of(*steps, **more):
    """A centre whose number is answered by these steps."""
    ends = [{"kind": "end", "id": i} for i in ("a", "b", "c")]
    flow = load({"start": steps[0]["id"], "steps": [*steps, *ends]})
    return Hand(configuration(flows={"flow-1": script(flow)}, **more))


class LiveStepTests(unittest.TestCase):
    def ended_at(self, hand):
        return [h.fact.step for h in hand.written() if h.kind is Kind.ENDED]

    def test_a_menu_that_listens_understands_words_also_in_a_waiting_plan(self):
        menu = {
            "kind": "menu",
            "id": "menu",
            "listens": True,
            "tries": 2,
            "no_key": "c",
            "arms": [{"key": "1", "label": "Bookings", "words": ["book"], "next": "a"}],
        }
        hand = hand_of(menu)
        hand.call("c1")
        self.assertEqual(hand.do("call.say", contact="c1", words="er"), {"meant": ""})
        self.assertTrue(hand.shown("call.c1")["call"]["listens"])
        self.assertEqual(hand.do("call.say", contact="c1", words="I want to book"), {"meant": "1"})
        self.assertEqual(self.ended_at(hand), ["a"])
        said = [h.fact.words for h in hand.written() if h.kind is Kind.SPOKEN]
        self.assertEqual(said, ["er", "I want to book"])
        hand = hand_of({**menu, "listens": False})
        hand.call("c1")
        with self.assertRaisesRegex(EventRefused, "Nothing listens"):
            hand.do("call.say", contact="c1", words="book")
        plan = load(
            {
                "purpose": "plan",
                "start": "menu",
                "steps": [menu, {"kind": "music", "id": "a", "next": "a"}, {"kind": "music", "id": "c"}],
            }
        )
        waits = load(
            {
                "start": "q",
                "steps": [{"kind": "queue", "id": "q", "queue": "queue:bookings", "plan": "flow:p"}],
            }
        )
        waiting = script(waits)
        of_plan = RunnableFlow(
            "p", "Waiting", 1, 21, Machine(plan, lambda _: 2 * SECOND), waiting.catalogue, {}
        )
        hand = Hand(configuration(flows={"flow-1": waiting, "p": of_plan}))
        hand.call("c1")
        hand.do("call.say", contact="c1", words="book")
        self.assertEqual(hand.centre.contacts["c1"].state.inner.step, "a")

    def test_people_are_rung_in_order_and_the_one_who_answers_talks(self):
        ring = {
            "kind": "ring",
            "id": "ring",
            "people": ["agent:ann", "agent:bea"],
            "ring_s": 10,
            "no_answer": "a",
            "busy": "b",
        }
        hand = hand_of(ring)
        hand.ready("bea")
        hand.call("c1")
        self.assertEqual(hand.shown("desk.bea")["agent"]["status"], "ringing")
        hand.do("agent.answer", agent="bea")
        hand.do("agent.end", agent="bea")
        self.assertEqual(hand.centre.contacts, {})
        self.assertEqual(hand.centre.figures.centre_total().offered, 0)
        for more, there, end in (({}, False, "b"), ({"away": "c"}, False, "c"), ({"away": "c"}, True, "b")):
            hand = hand_of({**ring, **more})
            if there:
                hand.do("agent.sign_in", agent="bea")
            hand.call("c1")
            self.assertEqual(self.ended_at(hand), [end])
        hand = hand_of(ring)
        hand.ready("ann", "bea")
        hand.call("c1")
        hand.after(21)
        self.assertEqual(self.ended_at(hand), ["a"])
        self.assertEqual(hand.shown("desk.ann")["agent"]["status"], "available")

    def test_who_declines_is_not_rung_again_and_the_next_one_is_at_once(self):
        ring = {
            "kind": "ring",
            "id": "ring",
            "people": ["agent:ann", "agent:bea"],
            "ring_s": 60,
            "no_answer": "a",
            "busy": "b",
        }
        for at_once in (False, True):
            hand = hand_of({**ring, "at_once": at_once})
            hand.ready("ann", "bea")
            hand.call("c1")
            hand.after(30)
            hand.do("agent.decline", agent="ann")
            states = {n: str(hand.centre.router.agents[n].status) for n in ("ann", "bea")}
            self.assertEqual(states, {"ann": "available", "bea": "ringing"})
            hand.do("agent.decline", agent="bea")
            self.assertEqual(self.ended_at(hand), ["a"])
            self.assertEqual(hand.centre.router.contacts, {})

    def group(self, **changes):
        """A ring group of ann and bea."""
        values = {
            "id": "g",
            "name": "Harbour",
            "people": ("ann", "bea"),
            "way": "turn",
            "ring_s": 10,
            "when_busy": "pass",
            "mailbox": "",
            "language": "en",
        }
        return {"groups": {"g": RingGroupSettings(**{**values, **changes})}}

    def test_a_group_in_turn_begins_with_the_one_after_the_last_also_after_a_crash(self):
        ring = {"kind": "ring", "id": "ring", "group": "group:g", "no_answer": "a", "busy": "b"}
        hand = hand_of(ring, **self.group())
        hand.ready("ann", "bea")
        first = []
        for name in ("c1", "c2", "c3"):
            hand.call(name)
            first.append(hand.centre.router.contacts[name].agent)
            hand.do("call.hang_up", contact=name)
        self.assertEqual(first, ["ann", "bea", "ann"])
        again = restarted(hand, 0)
        for agent in ("ann", "bea"):
            again.do("agent.sign_out", agent=agent)
        again.ready("ann", "bea")
        again.call("c4")
        self.assertEqual(again.centre.router.contacts["c4"].agent, "bea")
        self.assertEqual(hand.told("c1", Kind.RINGS_PERSON)[0]["words"], "Harbour (Ann)")

    def test_a_group_passes_over_who_is_busy_or_is_busy_as_a_whole(self):
        ring = {"kind": "ring", "id": "ring", "group": "group:g", "no_answer": "a", "busy": "b"}
        for when_busy, end in (("pass", []), ("busy", ["b"])):
            hand = hand_of(ring, **self.group(when_busy=when_busy))
            hand.ready("ann", "bea")
            hand.call("c1")
            hand.do("agent.answer", agent="ann")
            hand.call("c2")
            self.assertEqual(self.ended_at(hand), end)
        self.assertEqual(hand.centre.contacts["c1"].agent, "ann")

    def test_an_agent_sends_a_caller_on_to_a_group_and_its_mailbox_takes_them(self):
        boxes = {"night": mailbox()}
        group = self.group(people=("bea",), mailbox="mailbox:night")
        hand = hand_of({"kind": "ring", "id": "ring", "people": ["agent:ann"]}, mailboxes=boxes, **group)
        hand.ready("ann", "bea")
        hand.call("c1")
        hand.do("agent.answer", agent="ann")
        hand.do("agent.transfer", agent="ann", to="group:g")
        self.assertEqual(hand.centre.router.contacts["c1"].agent, "bea")
        hand.after(11)
        self.assertEqual(hand.centre.contacts["c1"].state.phase, "playing")
        hand.after(10)
        self.assertIn(Kind.RECORDS, hand.kinds("c1"))

    def test_a_caller_who_hangs_up_while_a_person_rings_leaves_nothing_behind(self):
        hand = hand_of({"kind": "ring", "id": "ring", "people": ["agent:ann"], "no_answer": "a"})
        hand.ready("ann")
        hand.call("c1")
        hand.do("call.hang_up", contact="c1")
        self.assertEqual((hand.centre.contacts, hand.centre.router.contacts), ({}, {}))
        self.assertEqual(hand.shown("desk.ann")["agent"]["status"], "available")

    def test_a_label_is_read_at_the_desk_and_its_priority_counts_also_after_a_crash(self):
        steps = [
            {"kind": "label", "id": "label", "label": "Choir", "priority": 9, "next": "wait"},
            {"kind": "queue", "id": "wait", "queue": "queue:bookings", "waited": "a"},
        ]
        hand = hand_of(*steps)
        hand.call("c1")
        self.assertEqual(hand.centre.router.contacts["c1"].priority, 9)
        after = restarted(hand, 0)
        self.assertEqual(after.centre.router.contacts["c1"].priority, 9)
        after.ready("ann")
        desk = after.desk("ann")
        self.assertEqual(desk["noted"], "Choir")

    def test_a_stop_s_own_longest_wait_counts_also_after_a_crash(self):
        hand = hand_of(
            {"kind": "queue", "id": "wait", "queue": "queue:bookings", "waited": "a", "longest_wait_s": 30}
        )
        hand.call("c1")
        hand.call("c2")
        hand.after(10)
        after = restarted(hand, 0)
        for one in (hand, after):
            one.after(19)
            self.assertEqual(len(one.centre.router.waiting("bookings")), 2)
            one.after(2)
            self.assertEqual(one.centre.router.waiting("bookings"), [])
            self.assertEqual(self.ended_at(one), ["a", "a"])

    def test_a_look_up_is_asked_and_a_late_answer_does_nothing(self):
        look = {
            "kind": "lookup",
            "id": "look",
            "table": "table:t",
            "key": "caller",
            "take": [{"column": "Party", "into": "party"}],
            "found": "a",
            "not_found": "b",
            "failed": "b",
        }
        hand = hand_of(look)
        hand.call("c1")
        self.assertEqual(hand.centre.asked, [("c1", "t", "+447700900123")])
        hand.centre.looked_up("c1", {"Party": "Choir"}, hand.now)
        self.assertEqual(self.ended_at(hand), ["a"])
        hand = hand_of(look)
        hand.call("c1")
        hand.after(6)
        self.assertEqual(self.ended_at(hand), ["b"])
        hand.centre.looked_up("c1", {"Party": "Choir"}, hand.now)

    def test_live_figures_decide(self):
        check = {
            "kind": "check_queue",
            "id": "check",
            "queue": "queue:bookings",
            "figure": "available",
            "limit": 1,
            "yes": "a",
            "no": "b",
        }
        for ready, end in (((), "b"), (("ann",), "a")):
            hand = hand_of(check)
            hand.ready(*ready)
            hand.call("c1")
            self.assertEqual(self.ended_at(hand), [end])
        hand = hand_of(check)
        names = ("signed_in", "available", "waiting", "longest_wait", "service_level")
        hand.ready("ann")
        self.assertEqual([hand.centre.environment("").figure(None, n) for n in names], [1, 1, 0, 0, None])
        self.assertIsNone(hand.centre.environment("").figure("queue:gone", "waiting"))

    def test_a_fax_machine_is_told_by_its_tone(self):
        hand = hand_of({"kind": "fax", "id": "fax", "fax": "a", "no_fax": "b"})
        place_call(hand.centre, "c1", "+442079460210", "+441632960199", None, hand.now)
        hand.call("c2")
        hand.after(5)
        self.assertEqual(self.ended_at(hand), ["a", "b"])

    def test_moves_inside_of_a_block_are_told_in_its_words_and_its_way_out_is_counted(self):
        block = load(
            {
                "start": "in",
                "outputs": ["booking"],
                "steps": [
                    {
                        "kind": "digits",
                        "id": "in",
                        "into": "booking",
                        "most": 2,
                        "prompt": WORDS,
                        "next": "ok",
                        "no_digits": None,
                    },
                    {"kind": "end", "id": "ok"},
                ],
            }
        )
        written = load(
            {
                "start": "use",
                "steps": [
                    {"kind": "block", "id": "use", "flow": "flow:b", "worked": "a", "not_worked": "b"},
                    {"kind": "end", "id": "a"},
                    {"kind": "end", "id": "b"},
                ],
            }
        )
        flow = laid_out(written, lambda _ref, _version: block)
        catalogue = Catalogue(flows={"flow:b": FlowFacts("Booking check", True, "voice")})
        machine = Machine(flow, lambda _: 2 * SECOND)
        used = RunnableFlow("flow-1", "Line", 1, 11, machine, catalogue, {}, written, {"flow:b": 3})
        hand = Hand(configuration(flows={"flow-1": used}))
        hand.call("c1")
        hand.do("call.key", contact="c1", key="4")
        hand.do("call.key", contact="c1", key="2")
        moves = hand.told("c1", Kind.MOVED)
        titles = [m["title"] for m in moves if m["title"]]
        self.assertEqual(titles, ["Block · Booking check", "Asks · 1 to 2 digits", "Ends"])
        self.assertEqual((moves[-1]["step"], moves[-1]["exit"]), ("use", "worked"))
        self.assertIn("booking = 42", [m["words"] for m in moves])
        arrived = hand.written()[0]
        self.assertEqual(arrived.fact.blocks, {"flow:b": 3})


class TextTests(unittest.TestCase):
    def setUp(self):
        flow = load(
            {
                "channel": "text",
                "start": "menu",
                "steps": [
                    {
                        "kind": "menu",
                        "id": "menu",
                        "prompt": {**WORDS, "text": "Who?"},
                        "no_key": "end",
                        "wait_s": 60,
                        "arms": [{"key": "1", "label": "Desk", "next": "wait"}],
                    },
                    {"kind": "queue", "id": "wait", "queue": "queue:bookings", "waited": "end"},
                    {"kind": "end", "id": "end"},
                ],
            }
        )
        base = configuration()
        number = base.numbers[NUMBER]._replace(channel="text")
        self.hand = Hand(configuration(flows={"flow-1": script(flow)}, numbers={NUMBER: number}))

    def send(self, text, name="c1"):
        body = {"contact": name, "number": NUMBER, "caller": "+447700900123", "text": text}
        return messaging.arrives(self.hand.centre, body, None, self.hand.now)["contact"]

    def test_a_thread_goes_through_the_flow_to_an_agent_and_both_write(self):
        self.assertEqual(self.send("hello"), "c1")
        self.assertEqual(self.send("desk", "c2"), "c1")
        self.hand.ready("ann")
        self.hand.do("agent.answer", agent="ann")
        self.hand.do("agent.text", agent="ann", text="Good morning.")
        self.send("thanks")
        desk = self.hand.desk("ann")
        self.assertEqual(
            [(line["by"], line["words"]) for line in desk["thread"]],
            [
                ("caller", "hello"),
                ("flow", "Who?"),
                ("caller", "desk"),
                ("agent", "Good morning."),
                ("caller", "thanks"),
            ],
        )
        self.hand.do("agent.end", agent="ann")
        self.assertEqual(self.send("again", "c3"), "c3")

    def test_a_text_number_takes_no_calls_and_a_call_cannot_be_written_to(self):
        with self.assertRaises(EventRefused):
            self.hand.call("c1")
        other = Hand()
        other.call("c1")
        with self.assertRaises(EventRefused):
            other.do("text.say", contact="c1", text="x")
        body = {"contact": "c2", "number": NUMBER, "caller": "+447700900123", "text": "x"}
        with self.assertRaises(EventRefused):
            messaging.arrives(other.centre, body, None, other.now)
        with self.assertRaises(EventRefused):
            other.do("agent.text", agent="ann", text="x")

    def test_a_crash_keeps_the_thread(self):
        self.send("hello")
        after = restarted(self.hand, 0)
        shown = after.shown("call.c1")
        self.assertEqual(after.centre.contacts["c1"].state.values["message"], "hello")
        self.assertEqual(shown["call"]["channel"], "text")
        self.assertEqual(
            [line["words"] for line in shown["log"].values() if line["kind"] == "contact.texted"], ["hello"]
        )
