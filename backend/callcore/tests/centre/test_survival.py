"""What goes wrong stays where it went wrong; and a restart changes nothing of what was."""

import json
import logging
import random
import unittest
from contextlib import contextmanager
from unittest.mock import patch

from hypothesis import example, given, settings
from hypothesis import strategies as st

from callcore.centre import registry
from callcore.centre.handlers.telephone import place_call
from callcore.errors import EventRefused
from callcore.events import Kind
from callcore.flow.definition import Flow, GoOn, Ring, WaitInQueue
from callcore.flow.runner import Machine
from callcore.people.crowd import OWN, Crowd, CrowdSettings
from callcore.routing.events import HandlingRule
from callcore.tests.centre import life
from callcore.tests.centre.hand import NUMBER, SECOND, Hand, after_a_stop, configuration, restarted, script
from callcore.tests.centre.life import whole


@contextmanager
def quiet():
    """Faults are logged with their tracebacks: here they are meant."""
    logging.disable(logging.CRITICAL)
    try:
        yield
    finally:
        logging.disable(logging.NOTSET)


class RoundInNoTimeTests(unittest.TestCase):
    """Flows that go round while no time passes, with nobody there to stop them."""

    def called(self, *steps, **changes):
        config = configuration(**changes)
        flow = Flow(start=steps[0].id, steps=steps)
        config.flows["flow-1"] = script(flow)
        hand = Hand(config)
        hand.call("c1")
        hand.after(3)
        return hand

    def assert_ended_by_the_failure_rule(self, hand):
        story = [h for h in hand.written() if h.contact == "c1"]
        self.assertEqual((story[-1].kind, story[-1].fact.ending), (Kind.ENDED, "failed"))
        why = [h.fact.why for h in story if h.kind is Kind.MOVED]
        self.assertEqual(why[-1], "round_and_round")
        self.assertEqual(list(hand.centre.troubles), [], "no fault of ours")

    def test_a_queue_with_nobody_signed_in_leads_to_itself(self):
        queues = configuration().queues
        queues = {"bookings": queues["bookings"]._replace(when_nobody="leave")}
        queue = WaitInQueue(id="wait", queue="queue:bookings", waited="wait")
        self.assert_ended_by_the_failure_rule(self.called(queue, queues=queues))

    def test_a_ring_that_is_busy_leads_to_itself_or_over_a_queue(self):
        ring = Ring(id="ring", people=("agent:ann",), busy="ring")
        self.assert_ended_by_the_failure_rule(self.called(ring))
        queues = configuration().queues
        queues = {"bookings": queues["bookings"]._replace(when_nobody="leave")}
        ring = ring.model_copy(update={"busy": "wait"})
        queue = WaitInQueue(id="wait", queue="queue:bookings", waited="ring")
        self.assert_ended_by_the_failure_rule(self.called(ring, queue, queues=queues))

    def test_going_on_that_fails_leads_to_itself(self):
        self.assert_ended_by_the_failure_rule(self.called(GoOn(id="go", flow="flow:gone", failed="go")))


class BrokenMachine(Machine):
    """A machine that throws whatever it is fed."""

    def asking(self, environment):
        return self

    def resume(self, *_):
        raise RecursionError("a fault")


class FaultTests(unittest.TestCase):
    def broken(self, hand, name):
        """A contact whose script throws whatever it is asked."""
        contact = hand.centre.contacts[name]
        contact.flow = script()
        contact.flow.machine = BrokenMachine(contact.flow.machine.flow, lambda _: 2 * SECOND)

    def test_an_exception_of_one_contact_ends_that_contact_and_no_other(self):
        for event in ("key", "time", "hang up"):
            with self.subTest(event), quiet():
                hand = Hand()
                hand.call("c1")
                hand.call("c2")
                self.broken(hand, "c1")
                if event == "key":
                    hand.do("call.key", contact="c1", key="1")
                elif event == "hang up":
                    hand.do("call.hang_up", contact="c1")
                hand.after(3)
                self.assertNotIn("c1", hand.centre.contacts)
                self.assertIn("c2", hand.centre.contacts)
                ended = [h for h in hand.written() if h.kind is Kind.ENDED]
                self.assertEqual([(h.contact, h.fact.ending) for h in ended], [("c1", "failed")])
                self.assertEqual({t.contact for t in hand.centre.troubles}, {"c1"})

    def test_the_failure_rule_says_its_last_words_and_the_trace_says_why(self):
        hand = Hand()
        hand.queued("c1")
        contact = hand.centre.contacts["c1"]
        flow = contact.flow.machine.flow.model_copy(
            update={"failure_prompt": contact.flow.machine.flow.steps[0].prompt}
        )
        contact.flow.machine = Machine(flow, lambda _: 2 * SECOND)
        with quiet(), hand.centre.surviving("c1", "a test", hand.now):
            raise KeyError("a fault")
        self.assertEqual(hand.centre.router.contacts, {})
        self.assertEqual(contact.state.role, "failure")
        hand.after(3)
        words = [line["words"] for line in hand.told("c1", Kind.MOVED)]
        self.assertIn("went wrong on our side", words[-1])
        self.assertEqual(hand.written()[-1].fact.ending, "failed")
        row = hand.centre.figures.queue_total("bookings")
        self.assertEqual((row.offered, row.left_otherwise, row.under_way), (1, 1, 0))

    def test_an_agent_whose_contact_is_cut_off_goes_on(self):
        hand = Hand()
        hand.ready("ann")
        hand.queued("c1")
        hand.do("agent.answer", agent="ann")
        with quiet(), hand.centre.surviving("c1", "a test", hand.now):
            raise KeyError("a fault")
        self.assertEqual(hand.centre.router.agents["ann"].status, "wrapping")
        hand.do("agent.wrap_up", agent="ann")
        hand.queued("c2")
        self.assertEqual(hand.centre.router.agents["ann"].contact, "c2")

    def test_where_the_failure_rule_fails_as_well_the_contact_is_cut_off(self):
        for way in ("in its own words", "in what it leads to"):
            with self.subTest(way), quiet():
                hand = Hand()
                hand.ready("ann")
                hand.queued("c1")
                contact = hand.centre.contacts["c1"]
                contact.flow = script()
                machine = contact.flow.machine = BrokenMachine(contact.flow.machine.flow, lambda _: SECOND)
                if way == "in its own words":
                    with patch.object(BrokenMachine, "fail", side_effect=MemoryError):
                        hand.do("call.hang_up", contact="c1")
                else:
                    contact.failing = True
                    hand.do("call.hang_up", contact="c1")
                self.assertIs(contact.flow.machine, machine)
                self.assertEqual((hand.centre.contacts, hand.centre.router.contacts), ({}, {}))
                self.assertEqual(hand.written()[-1].fact.ending, "failed")
                self.assertEqual((contact.state.phase, contact.state.due_ms), ("ended", None))
                self.assertEqual(hand.centre.router.agents["ann"].status, "available")

    def test_a_command_that_breaks_is_answered_in_words(self):
        hand = Hand()
        hand.ready("ann")
        hand.queued("c1")
        with quiet(), self.assertRaisesRegex(EventRefused, "went wrong on our side"):
            hand.do("agent.away", agent="ann")
        self.assertEqual(len(hand.centre.troubles), 1)
        self.assertIsNotNone(hand.shown("floor"))

    def test_a_story_that_cannot_be_read_costs_its_contact_only(self):
        hand = Hand()
        hand.queued("c1")
        hand.queued("c2")
        rows = hand.rows()
        next(row for row in rows if row.name == "c1").body["state"] = {"step": 1, "nonsense": 2}
        with quiet():
            again = after_a_stop(hand, list(hand.written()), rows, 4)
        self.assertEqual(list(again.centre.contacts), ["c2"])
        ended = [h.contact for h in again.written() if h.kind is Kind.ENDED]
        self.assertEqual(ended, ["c1"])


class RestartTests(unittest.TestCase):
    """What a restart takes up is what was there; only what rang rings anew."""

    def hand(self):
        hand = Hand(configuration(handling=HandlingRule(ring_ms=10**7, texts=2)))
        hand.ready("ann")
        hand.queued("c1")
        hand.do("agent.answer", agent="ann")
        return hand

    def same(self, hand):
        self.assertEqual(whole(restarted(hand, 0).centre), whole(hand.centre))

    def test_away_after_this_contact(self):
        hand = self.hand()
        hand.do("agent.away", agent="ann", reason="Lunch")
        self.same(hand)
        again = restarted(hand, 1)
        again.do("agent.end", agent="ann")
        again.do("agent.wrap_up", agent="ann")
        self.assertEqual(again.centre.router.agents["ann"].status, "away")

    def test_on_hold_and_then_transferred(self):
        hand = self.hand()
        hand.do("agent.hold", agent="ann")
        hand.ready("bea")
        hand.do("agent.transfer", agent="ann", to="agent:bea")
        hand.do("agent.answer", agent="bea")
        self.assertFalse(hand.centre.contacts["c1"].talk.held)
        self.same(hand)

    def test_who_counts_as_having_handled(self):
        hand = self.hand()
        hand.ready("bea")
        hand.do("agent.consult", agent="ann", to="agent:bea")
        hand.do("agent.answer", agent="bea")
        self.assertEqual(hand.centre.router.handled, {"ann": 1})
        self.same(hand)
        hand.do("agent.put_through", agent="ann")
        self.same(hand)

    def test_who_knows_a_caller_is_who_spoke_with_them_not_who_was_asked(self):
        hand = self.hand()
        hand.ready("bea")
        hand.do("agent.consult", agent="ann", to="agent:bea")
        hand.do("agent.answer", agent="bea")
        self.assertEqual(hand.centre.acquaintances.of("+447700900123"), "ann")
        self.same(hand)

    def test_whoever_gives_up_after_a_transfer_is_not_with_a_person(self):
        hand = self.hand()
        hand.do("agent.transfer", agent="ann", to="queue:bookings")
        hand.after(5)
        self.same(hand)
        hand.do("call.hang_up", contact="c1")
        ended = next(h for h in hand.written() if h.kind is Kind.ENDED)
        self.assertEqual(ended.fact.ending, "hung_up")

    @settings(deadline=None, max_examples=80)
    @given(st.integers(0, 10**9))
    @example(103725)  # a mailbox is asked
    @example(210)  # a priority of its own, in a queue that is empty again
    @example(257)  # helping out in another queue while a line of one person is open
    def test_after_any_commands_and_at_any_moment(self, seed):
        """The whole state, at a moment on the way and at the end."""
        rng = random.Random(seed)
        hand = life.begun()
        stops = {rng.randrange(life.LENGTH), life.LENGTH - 1}
        for number in range(life.LENGTH):
            life.something(hand, rng, number)
            if number in stops:
                self.same(hand)
        self.assertEqual(list(hand.centre.troubles), [])

    def test_at_every_event_of_some_lives_in_which_every_command_is_given(self):
        given: set[str] = set()
        for seed in range(20):
            rng, hand = random.Random(seed), life.begun()
            do = hand.centre.command

            def told(kind, body, now_ms, do=do):
                given.add(kind)
                return do(kind, body, now_ms)

            hand.centre.command = told
            for number in range(life.LENGTH):
                written = len(hand.written())
                life.something(hand, rng, number)
                if len(hand.written()) > written:
                    del hand.centre.command
                    self.same(hand)
                    hand.centre.command = told
            self.assertEqual(list(hand.centre.troubles), [])
        self.assertEqual(registry.command.keys() - given, set())

    def test_the_same_commands_at_the_same_times_give_the_same_journal(self):
        journals = []
        for other in (None, 99):
            hand, beside = life.begun(), life.begun()
            rng, elsewhere = random.Random(5), random.Random(other)
            for number in range(life.LENGTH):
                life.something(hand, rng, number)
                if other is not None:
                    life.something(beside, elsewhere, number)
            journals.append(json.dumps([list(event) for event in hand.written()]))
        self.assertEqual(*journals)

    def test_a_journal_with_a_gap_is_taken_up_all_the_same(self):
        rng, hand = random.Random(11), life.begun()
        for number in range(life.LENGTH):
            life.something(hand, rng, number)
        journal, rows = list(hand.written()), hand.rows()
        again = after_a_stop(hand, journal[::3], rows, 2)
        again.after(300)
        self.assertEqual(list(again.centre.troubles), [])
        self.assertIsNotNone(again.shown("floor"))

    def test_a_setup_that_refers_to_nothing_costs_its_callers_no_more_than_their_way(self):
        base = configuration()
        queue = base.queues["bookings"]._replace(
            code_set="gone",
            plan="gone",
            survey="gone",
            music="sound:gone",
            overflow="queue:gone",
            hours="gone",
            when_closed="leave",
            members=("ann", "gone"),
            text_number="+44",
        )
        lost = base.numbers[NUMBER]._replace(address="+442079460211", flow="gone")
        hand = Hand(
            configuration(queues={"bookings": queue}, numbers={**base.numbers, "+442079460211": lost})
        )
        hand.ready("ann")
        hand.queued("c1")
        with self.assertRaisesRegex(EventRefused, "Nothing answers this number"):
            place_call(hand.centre, "c2", "+442079460211", "+447700900123", None, hand.now)
        hand.do("agent.answer", agent="ann")
        hand.do("agent.end", agent="ann")
        hand.do("agent.wrap_up", agent="ann")
        hand.after(60)
        self.assertEqual(list(hand.centre.troubles), [])
        for topic in ("floor", "strip", "desk.ann", "queue.bookings"):
            self.assertIsNotNone(hand.shown(topic), topic)


class StandInTests(unittest.TestCase):
    def test_nobody_who_works_themself_is_taken_over(self):
        hand = Hand()
        hand.do("agent.sign_in", agent="ann")
        hand.do("agent.away", agent="ann", reason="Lunch")
        crowd = Crowd(hand.centre, CrowdSettings(True, 5, 2, 1), hand.now)
        for _ in range(600):
            hand.after(1)
            crowd.advance(hand.now)
        ann = hand.centre.router.agents["ann"]
        self.assertEqual((ann.status, ann.reason), ("away", "Lunch"))
        self.assertGreater(hand.centre.router.handled["bea"], 0)
        self.assertNotIn("ann", hand.centre.stood_in)
        again = restarted(hand, 1)
        Crowd(again.centre, CrowdSettings(True, 5, 2, 1), again.now)
        self.assertEqual(again.centre.stood_in, {"bea"})

    def test_another_crowd_leaves_nobody_of_the_one_before_behind(self):
        hand = Hand()
        crowd = Crowd(hand.centre, CrowdSettings(True, 20, 2, 1), hand.now)
        for _ in range(60):
            hand.after(5)
            crowd.advance(hand.now)
        self.assertEqual(len(hand.centre.stood_in), 2)
        again = restarted(hand, 1)
        Crowd(again.centre, CrowdSettings(False), again.now)
        states = {a.status for a in again.centre.router.agents.values()}
        self.assertEqual((states, again.centre.stood_in), ({"out"}, set()))

    def test_a_talk_is_no_longer_for_being_taken_up_and_nobody_is_more_patient(self):
        hand = Hand()
        settings = CrowdSettings(True, 20, 2, 1)
        crowd = Crowd(hand.centre, settings, hand.now)
        waiting: set[str] = set()
        while not (waiting and hand.centre.router.agents["ann"].status == "on_contact"):
            hand.after(1)
            crowd.advance(hand.now)
            waiting = {c for c, one in hand.centre.router.contacts.items() if not one.connected}
        hand.after(8 * 3600)
        again = restarted(hand, 1)
        served = again.centre.router.agents["ann"].contact
        crowd = Crowd(again.centre, settings, again.now)
        crowd.advance(again.now)
        self.assertFalse({served, *waiting} & set(again.centre.router.contacts))

    def test_a_person_is_left_alone_while_no_exchange_runs(self):
        hand = Hand()
        hand.do("agent.sign_in", agent="ann")
        hand.do("agent.available", agent="ann")
        settings = CrowdSettings(True, 20, 2, 1)
        crowd = Crowd(hand.centre, settings, hand.now)
        ann = hand.centre.router.agents["ann"]
        while ann.status != "ringing":
            hand.after(1)
            crowd.advance(hand.now)
        hand.do("agent.answer", agent="ann")
        served = ann.contact
        crowd.is_alone(hand.now)
        self.assertNotIn(served, hand.centre.contacts)
        for _ in range(600):
            hand.after(1)
            crowd.advance(hand.now)
            self.assertNotIn(ann.status, ("ringing", "on_contact"))
        self.assertEqual(list(hand.centre.troubles), [])

    def test_the_same_seed_twice_brings_other_contacts(self):
        hand, seen = Hand(), []
        for _ in range(2):
            crowd = Crowd(hand.centre, CrowdSettings(True, 20, 1, 7), hand.now)
            for _ in range(30):
                hand.after(5)
                crowd.advance(hand.now)
            crowd.go_home(hand.now)
            seen += [h.contact for h in hand.written() if h.kind is Kind.ARRIVED]
            hand.journal.clear()
        self.assertTrue(all(contact.startswith(OWN) for contact in seen))
        self.assertEqual(len(seen), len(set(seen)))
