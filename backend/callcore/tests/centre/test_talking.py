"""Hold, transfer, consult, join, put through: agents and a caller on the hand-driven centre."""

import unittest
from dataclasses import replace

from callcore.centre.facts import AgentFacts, NoticeFacts, QueueSettings
from callcore.centre.handlers.callbacks import book
from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow.definition import End, Flow
from callcore.flow.parts import SpokenText
from callcore.flow.state import BookCallback
from callcore.handling.rules import DeskRule
from callcore.routing.events import HandlingRule, Status
from callcore.talk.recording import RecordingRule
from callcore.tests.centre.hand import Hand, configuration, restarted, script

NAMES = ("ann", "bea", "cai")


def queue(name, members, code_set="set", **more):
    return QueueSettings(
        name, name.title(), True, "#4A6B66", members, 5, 900, 60, 80, 5, "A", code_set, "", **more
    )


def config(desk=None, handling=None, **more):
    people = {n: AgentFacts(n, n.title(), f"41{i}", "") for i, n in enumerate(NAMES)}
    queues = {"bookings": queue("bookings", ("ann", "bea"), **more), "freight": queue("freight", ("cai",))}
    return configuration(
        agents=people,
        queues=queues,
        desks={n: desk or DeskRule() for n in NAMES},
        handling=handling or HandlingRule(),
        extensions={"411": "agent:bea", "50": "queue:freight"},
    )


class Talking(unittest.TestCase):
    def start(self, **settings):
        """Ann talks with the caller c1."""
        self.hand = Hand(config(**settings))
        self.hand.ready("ann")
        self.hand.queued("c1")
        self.hand.do("agent.answer", agent="ann")
        return self.hand

    def do(self, action, agent="ann", **body):
        return self.hand.do(f"agent.{action}", agent=agent, **body)

    def status(self, agent):
        return self.hand.centre.router.agents[agent].status

    def crash(self):
        """Another centre that takes up what the journal of this one says."""
        return restarted(self.hand, 0)


class HoldTests(Talking):
    def test_hold_is_told_counted_apart_from_talk_and_survives_a_crash(self):
        hand = self.start()
        hand.after(10)
        self.do("hold")
        self.assertTrue(hand.shown("call.c1")["call"]["music"])
        with self.assertRaises(EventRefused):
            self.do("hold")
        after = self.crash()
        self.assertEqual(after.desk("ann")["talk"]["held"], True)
        hand.after(5)
        self.do("resume")
        hand.after(3)
        self.do("end")
        row = hand.centre.figures.queue_total("bookings")
        self.assertEqual((row.talk_ms, row.hold_ms), (13_000, 5_000))

    def test_nobody_holds_what_they_do_not_have(self):
        self.start()
        for agent in ("bea", "nobody"):
            with self.subTest(agent), self.assertRaises(EventRefused):
                self.do("hold", agent=agent)


class TransferTests(Talking):
    def test_straight_to_a_queue_the_leg_is_wrapped_up_and_the_caller_waits_there(self):
        hand = self.start()
        hand.centre.setup.queues["freight"] = queue("freight", ("cai",), code_set="other")
        self.do("hold")
        self.do("transfer", to="50")
        self.assertIs(self.status("ann"), Status.WRAPPING)
        self.assertEqual([w.id for w in hand.centre.router.waiting("freight")], ["c1"])
        self.assertEqual(hand.desk("ann")["queue"], "Bookings", "her part was of this queue")
        hand.ready("cai")
        self.do("answer", agent="cai")
        self.assertFalse(hand.desk("cai")["talk"]["held"])
        self.do("wrap_up", code="code-1")
        coded = [h for h in hand.written() if h.kind is Kind.CODED]
        self.assertEqual((coded[0].agent, coded[0].fact.code), ("ann", "code-1"))
        rows = {q: hand.centre.figures.queue_total(q).answered for q in ("bookings", "freight")}
        self.assertEqual(rows, {"bookings": 1, "freight": 1})

    def test_to_a_colleague_who_does_not_answer_it_goes_back_into_its_queue(self):
        hand = self.start()
        hand.ready("cai")
        self.do("transfer", to="agent:cai")
        self.assertIs(self.status("cai"), Status.RINGING)
        hand.after(26)
        self.assertEqual([w.id for w in hand.centre.router.waiting("bookings")], ["c1"])

    def test_to_an_outside_number_and_after_a_crash_too(self):
        hand = self.start()
        self.do("transfer", to="01632 960111")
        after = self.crash()
        for one in (hand, after):
            one.after(5)
            self.assertEqual(one.centre.contacts["c1"].state.phase, "outside")
            one.after(40)
            self.assertEqual(one.kinds("c1")[-1], Kind.ENDED)

    def test_who_cannot_be_reached_is_said_and_the_caller_stays(self):
        hand = self.start()
        for wrong in ("agent:nobody", "queue:gone", "12", "hello", "agent:ann"):
            with self.subTest(wrong), self.assertRaises(EventRefused):
                self.do("transfer", to=wrong)
        self.assertIs(self.status("ann"), Status.ON_CONTACT)
        self.assertEqual(hand.centre.contacts["c1"].agent, "ann")


class ConsultTests(Talking):
    def asked(self, answer=True, **settings):
        """Ann has the caller on hold and asks bea."""
        hand = self.start(**settings)
        hand.ready("bea")
        self.do("consult", to="411")
        if answer:
            self.do("answer", agent="bea")
        return hand

    def test_put_through_the_colleague_has_the_caller_and_both_label_their_part(self):
        hand = self.asked()
        self.assertEqual(hand.desk("bea")["asked_by"], "Ann")
        hand.after(4)
        self.do("put_through")
        self.assertEqual((self.status("ann"), self.status("bea")), (Status.WRAPPING, Status.ON_CONTACT))
        self.assertEqual(hand.centre.contacts["c1"].agent, "bea")
        self.assertEqual(len(hand.centre.contacts), 1)
        hand.after(6)
        self.do("end", agent="bea")
        self.do("wrap_up", code="code-1")
        self.do("wrap_up", agent="bea", code="code-1")
        row = hand.centre.figures.queue_total("bookings")
        self.assertEqual((row.offered, row.answered, row.under_way), (1, 1, 0))
        self.assertEqual((row.talk_ms, row.hold_ms), (6_000, 4_000))
        self.assertEqual((hand.centre.figures.legs, hand.centre.figures.coded), (2, 2))

    def test_a_question_is_in_no_figure_of_callers(self):
        hand = self.asked()
        fold = hand.centre.figures
        self.assertEqual((fold.arrived, fold.centre_total().offered), (1, 1))
        self.do("end_consult")
        self.assertIs(self.status("bea"), Status.AVAILABLE)
        self.assertEqual(hand.desk("ann")["talk"]["held"], False)
        self.assertEqual(fold.legs, 0)

    def test_a_talk_of_three_goes_on_without_the_one_who_began_it(self):
        hand = self.asked()
        self.do("join")
        self.assertEqual(hand.shown("floor")["agents"]["ann"]["doing"], "conference")
        self.do("end")
        self.assertEqual(hand.centre.contacts["c1"].agent, "bea")
        hand.do("call.hang_up", contact="c1")
        self.assertIs(self.status("bea"), Status.WRAPPING)

    def test_the_colleague_leaves_and_the_caller_stays(self):
        hand = self.asked()
        self.do("join")
        self.do("end", agent="bea")
        self.assertEqual(hand.desk("ann")["talk"]["consult"], "")
        self.assertEqual(hand.centre.contacts["c1"].agent, "ann")

    def test_the_caller_hangs_up_while_a_colleague_is_asked(self):
        hand = self.asked(answer=False)
        hand.do("call.hang_up", contact="c1")
        self.assertEqual(hand.centre.contacts, {})
        self.assertEqual((self.status("ann"), self.status("bea")), (Status.WRAPPING, Status.AVAILABLE))

    def test_while_asking_the_agent_cannot_just_hang_up_or_put_through_to_a_ringing(self):
        self.asked(answer=False)
        for action in ("end", "put_through", "join", "transfer"):
            with self.subTest(action), self.assertRaises(EventRefused):
                self.do(action, to="50")

    def test_nobody_answers_and_the_agent_is_told(self):
        hand = self.asked(answer=False)
        hand.after(26)
        self.assertEqual(hand.desk("ann")["talk"]["consult"], "")
        self.assertIn(Kind.CONSULT_OVER, hand.kinds("c1"))
        self.assertIn("resume", hand.desk("ann")["can"])

    def test_a_crash_while_asking_loses_neither_the_caller_nor_the_colleague(self):
        hand = self.asked()
        after = self.crash()
        self.assertEqual(len(after.centre.contacts), 2)
        after.do("agent.put_through", agent="ann")
        self.assertEqual(after.centre.contacts["c1"].agent, "bea")
        self.assertEqual(len(hand.centre.contacts), 2)

    def test_an_outside_number_is_asked_and_gets_the_caller(self):
        hand = self.start()
        self.do("consult", to="+441632960111")
        hand.after(5)
        self.assertEqual(hand.desk("ann")["talk"]["consult_talks"], True)
        self.do("key", key="5")
        self.assertEqual(list(hand.centre.devices.outside.heard), [("+441632960111", "5")])
        self.do("put_through")
        self.assertEqual(hand.centre.contacts["c1"].state.phase, "outside")
        hand.after(60)
        self.assertEqual(hand.centre.contacts, {})

    def test_a_queue_is_asked_and_whoever_is_free_answers(self):
        hand = self.start()
        hand.ready("cai")
        self.do("consult", to="queue:freight")
        self.do("answer", agent="cai")
        self.do("put_through")
        self.assertEqual(hand.centre.contacts["c1"].agent, "cai")


class RuleTests(Talking):
    def test_help_goes_to_whom_the_rules_name_straight_or_with_a_question(self):
        self.start(desk=DeskRule(help_to="queue:freight", help_how="straight"))
        self.do("help")
        self.assertIs(self.status("ann"), Status.WRAPPING)
        hand = self.start(desk=DeskRule(help_to="agent:bea"))
        hand.ready("bea")
        self.do("help")
        self.assertEqual(hand.desk("bea")["purpose"], "help")
        self.start()
        with self.assertRaises(EventRefused):
            self.do("help")

    def test_an_emergency_tells_the_floor_records_and_rings_somebody_in(self):
        hand = self.start(desk=DeskRule(emergency="joins", emergency_to="agent:bea"))
        hand.ready("bea")
        self.do("emergency")
        standing = hand.shown("strip")["alarms"]["c1"]
        self.assertEqual((standing["name"], standing["over"]), ("Ann", False))
        self.assertNotIn("emergency", hand.desk("ann")["can"])
        self.do("answer", agent="bea")
        hand.after(4)
        talk = hand.desk("ann")["talk"]
        self.assertTrue(hand.desk("bea")["talk"]["recording"], "whoever is asked sees it too")
        self.assertEqual((talk["joined"], talk["held"], talk["recording"]), (True, False, True))
        hand.do("call.hang_up", contact="c1")
        self.assertTrue(hand.shown("floor")["agents"]["ann"]["emergency"])
        self.assertTrue(self.crash().centre.alarms, "it stands until somebody takes it")
        self.assertEqual(hand.desk("ann")["alarm"], {"taken_by": ""})
        hand.do("alarm.take", contact="c1", by="Deepa")
        self.assertEqual(hand.shown("strip")["alarms"], {})
        self.assertEqual(hand.desk("ann")["alarm"], {"taken_by": "Deepa"})
        with self.assertRaises(EventRefused):
            hand.do("alarm.take", contact="c1", by="Tamsin")

    def test_a_call_is_recorded_once_and_the_caller_told(self):
        hand = self.start(recording=RecordingRule("all"))
        hand.after(1)
        talk = hand.desk("ann")["talk"]
        self.assertEqual((talk["notice"], talk["recording"]), (True, False))
        after = self.crash()
        after.after(3)
        self.assertTrue(after.desk("ann")["talk"]["recording"], "a notice is not lost by a crash")
        hand.after(3)
        self.do("transfer", to="queue:bookings")
        hand.ready("bea")
        self.do("answer", agent="bea")
        hand.after(5)
        self.do("end", agent="bea")
        told = [h for h in hand.written() if h.kind is Kind.RECORDS_TALK]
        self.assertEqual([(h.fact.on, h.fact.by) for h in told], [(True, "queue"), (False, "end")])
        notices = [h for h in hand.written() if h.kind is Kind.HEARD and h.fact.role == "notice"]
        self.assertEqual(told[0].at_ms - notices[0].at_ms, 3_000)
        self.assertEqual([h.fact.text for h in notices], ["This call is being recorded."])

    def test_on_demand_only_where_the_queue_says_so(self):
        self.start(recording=RecordingRule("on_demand", told="tone"))
        self.do("record")
        self.do("stop_recording")
        self.start()
        with self.assertRaises(EventRefused):
            self.do("record")

    def test_the_survey_takes_the_caller_whose_agent_has_ended(self):
        asks = Flow(start="a", steps=(End(id="a", prompt=SpokenText(text="Thank you.")),))
        hand = self.start(survey="flow-2")
        survey = script(asks)
        survey.flow_id = "flow-2"
        hand.centre.setup.flows["flow-2"] = survey
        self.do("end")
        self.assertIs(self.status("ann"), Status.WRAPPING)
        self.assertEqual(hand.centre.contacts["c1"].flow.flow_id, "flow-2")
        hand.after(5)
        self.assertEqual(hand.written()[-1].fact.ending, "person")

    def test_codes_have_their_time_by_keypad_and_by_screen(self):
        hand = self.start(
            desk=DeskRule(keypad_ms=5_000, screen_ms=20_000), handling=HandlingRule(wrap_up="required")
        )
        self.do("end")
        hand.after(6)
        with self.assertRaises(EventRefused):
            self.do("wrap_up", code="code-1", keypad=True)
        with self.assertRaises(EventRefused):
            self.do("wrap_up", code="")
        hand.after(15)
        with self.assertRaises(EventRefused):
            self.do("wrap_up", code="code-1")
        self.do("wrap_up", code="")
        self.assertIs(self.status("ann"), Status.AVAILABLE)

    def test_a_required_code_traps_nobody_where_there_is_none_and_may_have_no_end(self):
        rule = HandlingRule(wrap_up="required", longest_wrap_ms=0)
        for action in ("wrap_up", "available"):
            hand = self.start(code_set="", handling=rule)
            self.do("end")
            self.assertFalse(hand.shown("desk.ann")["agent"]["must_code"])
            self.do(action)
            self.assertIs(self.status("ann"), Status.AVAILABLE)
        hand = self.start(handling=rule)
        self.do("end")
        self.assertTrue(hand.shown("desk.ann")["agent"]["must_code"])
        hand.after(3600)
        self.assertIs(self.status("ann"), Status.WRAPPING, "it does not end by itself")

    def test_an_outside_line_answers_for_the_agent_or_must_be_open(self):
        hand = Hand(config(desk=DeskRule(line="dialled")))
        facts = hand.centre.setup.agents["ann"]._replace(outside_number="+441632960001")
        hand.centre.setup.agents["ann"] = facts
        hand.ready("ann")
        hand.queued("c1")
        hand.after(5)
        self.assertIs(hand.centre.router.agents["ann"].status, Status.ON_CONTACT)
        hand = Hand(config(desk=DeskRule(line="open")))
        hand.centre.setup.agents["ann"] = facts
        hand.do("agent.sign_in", agent="ann")
        with self.assertRaises(EventRefused):
            hand.do("agent.available", agent="ann")
        hand.after(5)
        hand.do("agent.available", agent="ann")


class DeskTests(Talking):
    def test_a_desk_whose_browser_is_gone_rings_no_more_and_the_caller_goes_to_the_next(self):
        hand = Hand(config(handling=HandlingRule(ring_ms=60_000)))
        hand.ready("ann", "bea")
        for line in ("tab 1", "tab 2"):
            hand.do("desk.opened", agent="ann", line=line)
        hand.queued("c1")
        self.assertEqual(hand.centre.router.contacts["c1"].agent, "ann")
        hand.do("desk.closed", agent="ann", line="tab 1")
        hand.after(20)
        self.assertEqual(hand.centre.router.contacts["c1"].agent, "ann")
        hand.do("desk.closed", agent="ann", line="tab 2")
        hand.after(16)
        ann = hand.centre.router.agents["ann"]
        self.assertEqual((ann.status, ann.reason), (Status.AWAY, "Desk closed"))
        self.assertEqual(hand.centre.router.contacts["c1"].agent, "bea")

    def test_a_notice_stands_at_the_desks_of_its_teams_until_its_moment(self):
        hand = self.start()
        until = hand.now + 60_000
        people = hand.centre.setup.agents
        people["ann"] = people["ann"]._replace(team_id="t1")
        notices = (
            NoticeFacts("n1", "Boats are late.", frozenset({"t1"}), hand.now, until),
            NoticeFacts("n2", "Not for her.", frozenset({"t2"}), hand.now, until),
        )
        hand.centre.configure(replace(hand.centre.setup, notices=notices), hand.now)
        shown = hand.shown("desk.ann")["notices"]
        self.assertEqual([n["text"] for n in shown.values()], ["Boats are late."])
        hand.after(61)
        self.assertEqual(hand.shown("desk.ann")["notices"], {})

    def test_a_page_that_is_loaded_again_changes_nothing(self):
        hand = self.start()
        hand.do("desk.opened", agent="ann", line="tab")
        hand.do("desk.closed", agent="ann", line="tab")
        hand.do("desk.opened", agent="ann", line="tab again")
        hand.after(30)
        self.assertIsNone(hand.centre.router.agents["ann"].next_status)

    def test_who_is_back_after_a_dead_browser_goes_on_working_and_a_break_they_chose_stays(self):
        for chosen in ("", "Lunch"):
            hand = self.start()
            hand.do("desk.opened", agent="ann", line="tab")
            if chosen:
                self.do("away", reason=chosen)
            hand.do("desk.closed", agent="ann", line="tab")
            hand.after(20)
            self.assertIsNotNone(hand.centre.router.agents["ann"].next_status)
            hand.do("desk.opened", agent="ann", line="tab again")
            after = hand.shown("desk.ann")["agent"]["next"]
            self.assertEqual(after, ["away", chosen] if chosen else None)


class CallbackTests(Talking):
    def test_a_caller_who_was_called_back_can_be_sent_on_and_is_not_rung_again(self):
        self.hand = hand = Hand(config())
        hand.queued("c1")
        live = hand.centre.contacts["c1"]
        book(hand.centre, live, BookCallback("q", "queue:bookings", "+447700900123", 2, 60_000), hand.now)
        hand.ready("ann")
        hand.after(11)
        self.do("answer")
        hand.after(5)
        self.do("transfer", to="50")
        hand.ready("cai")
        self.do("answer", agent="cai")
        calls = [h for h in hand.written() if h.kind is Kind.CALLS_BACK]
        self.assertEqual(len(calls), 1)
        self.assertIs(self.status("cai"), Status.ON_CONTACT)
        self.do("end", agent="cai")
        self.assertEqual(hand.centre.contacts, {})


class ThreadTests(Talking):
    def test_a_text_without_a_reply_in_time_goes_back_to_its_queue(self):
        hand = Hand(config(handling=HandlingRule(reply_ms=60_000, texts=2)))
        hand.centre.setup.queues["bookings"] = queue("bookings", ("ann", "bea"), text_number="+447700900999")
        hand.ready("ann")
        hand.queued("c1")
        hand.do("agent.answer", agent="ann")
        hand.do("agent.by_text", agent="ann", text="Here is the link.")
        thread = next(c for c in hand.centre.contacts.values() if c.text)
        self.assertEqual(hand.centre.router.agents["ann"].others, ((thread.id, "bookings"),))
        hand.do("call.hang_up", contact="c1")
        hand.do("agent.wrap_up", agent="ann", code="")
        hand.do("text.say", contact=thread.id, text="Thanks, and the price?")
        hand.after(59)
        self.assertEqual(thread.agent, "ann")
        hand.ready("bea")
        hand.after(2)
        self.assertEqual(hand.centre.router.agents["bea"].contact, thread.id)
        self.assertEqual(hand.centre.figures.arrived, 1)
