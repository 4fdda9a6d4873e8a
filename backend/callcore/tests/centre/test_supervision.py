"""Supervisors on the floor, against a centre and its clock: what they do, and what refuses it."""

from __future__ import annotations

import json
import unittest
from dataclasses import replace
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.centre.facts import AgentFacts
from callcore.centre.handlers import alerts
from callcore.centre.handlers.attendance import GONE_MS
from callcore.centre.setup import QueueSettings
from callcore.errors import EventRefused
from callcore.events import Kind, facts
from callcore.handling.rules import DeskRule
from callcore.measures.alerts import FIGURES, AlertRule
from callcore.tests.centre.hand import SECOND, Hand, configuration, restarted

ALL: dict[str, Any] = {"user": "7", "by": "Deepa", "teams": None, "queues": None}


def queue(name: str, *members: str) -> QueueSettings:
    return QueueSettings(name, name.title(), True, "#4A6B66", members, 5, 900, 60, 80, 5, "A", "set", "")


def two_queues() -> Hand:
    agents = {
        name: AgentFacts(
            name,
            name.title(),
            f"41{i}",
            "North" if name == "ann" else "South",
            team_id="n" if name == "ann" else "s",
        )
        for i, name in enumerate(["ann", "bea"])
    }
    queues = {"bookings": queue("bookings", "ann"), "freight": queue("freight", "bea")}
    return Hand(configuration(agents=agents, queues=queues))


class SupervisionTests(unittest.TestCase):
    def setUp(self):
        self.hand = two_queues()
        self.hand.ready("ann", "bea")
        self.hand.do("supervisor.opened", user="7", line="l1")

    def talking(self, contact: str = "c1") -> None:
        self.hand.queued(contact)
        self.hand.do("agent.answer", agent="ann")

    def act(self, act: str, **body: Any) -> None:
        self.hand.do(f"supervise.{act}", **{**ALL, "act": act, **body})

    def attends(self) -> dict[str, Any]:
        return self.hand.shown("supervisor.7")["contacts"]

    def test_who_listens_is_told_to_nobody_who_coaches_to_the_agent(self):
        self.talking()
        self.act("listen", contact="c1")
        self.assertEqual(self.attends()["c1"]["how"], "listens")
        self.assertEqual(self.hand.desk("ann")["talk"]["attended"], [])
        self.act("coach", contact="c1")
        told = self.hand.desk("ann")["talk"]["attended"]
        self.assertEqual([(one["by"], one["how"]) for one in told], [("Deepa", "coaches")])
        self.assertNotIn("coach", self.attends()["c1"]["may"])
        self.act("join", contact="c1")
        parties = [(p["who"], p["doing"]) for p in self.attends()["c1"]["parties"]]
        who = ("caller", "agent", "supervisor")
        self.assertEqual(parties, [(name, "speaks") for name in who])
        self.act("leave", contact="c1")
        self.assertEqual(self.attends(), {})
        hows = [line["how"] for line in self.hand.told("c1", Kind.ATTENDS)]
        self.assertEqual(hows, ["listens", "coaches", "joins", ""])

    def test_who_takes_over_has_the_caller_and_the_agent_wraps_up(self):
        self.talking()
        self.act("take_over", contact="c1")
        self.assertEqual(self.hand.shown("desk.ann")["agent"]["status"], "wrapping")
        self.assertEqual(self.attends()["c1"]["how"], "has")
        with self.assertRaisesRegex(EventRefused, "end it, or send it on"):
            self.act("leave", contact="c1")
        self.act("end", contact="c1")
        self.assertNotIn("c1", self.hand.centre.contacts)
        row = self.hand.centre.figures.queue_total("bookings")
        self.assertEqual((row.answered, row.legs, row.under_way), (1, 1, 0))

    def test_a_caller_taken_over_is_sent_on(self):
        self.talking()
        self.act("take_over", contact="c1")
        self.act("send_on", contact="c1", to="queue:freight")
        self.assertEqual(self.hand.shown("desk.bea")["agent"]["status"], "ringing")
        self.assertEqual(self.attends(), {})

    def test_a_caller_whose_supervisor_is_gone_goes_back_into_line(self):
        self.talking()
        self.act("take_over", contact="c1")
        again = restarted(self.hand, 1)
        for hand in (self.hand, again):
            hand.do("supervisor.closed", user="7", line="l1")
            hand.do("agent.wrap_up", agent="ann", code="")
            hand.after(GONE_MS / SECOND + 1)
            self.assertEqual(hand.shown("desk.ann")["agent"]["status"], "ringing")
            self.assertEqual(hand.written()[-4].contact, "c1")

    def test_a_browser_that_comes_back_in_time_goes_on_listening(self):
        self.talking()
        self.act("listen", contact="c1")
        self.hand.do("supervisor.closed", user="7", line="l1")
        self.hand.after(GONE_MS / SECOND - 5)
        self.hand.do("supervisor.opened", user="7", line="l2")
        self.hand.after(30)
        self.assertIn("c1", self.attends())

    def test_the_end_of_the_agents_part_ends_the_listening(self):
        self.talking()
        self.act("listen", contact="c1")
        self.hand.do("agent.end", agent="ann")
        self.assertEqual(self.attends(), {})

    def test_what_cannot_be_is_refused_in_words(self):
        self.talking()
        self.act("coach", contact="c1")
        other = {"user": "8", "by": "Tamsin"}
        refused = [
            ("coach", {"contact": "c1", **other}, "Deepa speaks there already"),
            ("listen", {"contact": "c1", "teams": ["s"], **other}, "no team that you supervise"),
            ("listen", {"contact": "gone"}, "is over"),
            ("end", {"contact": "c1"}, "do not have this caller"),
            ("priority", {"contact": "c1", "priority": 9}, "does not wait any more"),
            ("away", {"agent": "ann", "reason": "Bored"}, "no such reason"),
            ("away", {"agent": "bea", "reason": "Lunch", "teams": ["n"]}, "no team"),
            ("serve", {"agent": "ann", "serves": ["none"]}, "no such queue"),
            ("serve", {"agent": "ann", "serves": ["freight"], "queues": []}, "not a queue"),
        ]
        for act, body, words in refused:
            with self.subTest(act, words=words), self.assertRaisesRegex(EventRefused, words):
                self.act(act, **body)

    def test_a_state_set_on_a_contact_counts_after_it_and_says_by_whom(self):
        self.talking()
        self.act("away", agent="ann", reason="Lunch")
        shown = self.hand.shown("desk.ann")["agent"]
        self.assertEqual((shown["status"], shown["steered"]["by"]), ("on_contact", "Deepa"))
        self.hand.do("agent.end", agent="ann")
        self.hand.do("agent.wrap_up", agent="ann", code="code-1")
        shown = self.hand.shown("desk.ann")["agent"]
        self.assertEqual(
            (shown["status"], shown["reason"], shown["steered"]["act"]), ("away", "Lunch", "away")
        )
        self.hand.do("agent.available", agent="ann")
        self.assertIsNone(self.hand.shown("desk.ann")["agent"]["steered"])

    def test_who_is_signed_out_on_a_contact_is_out_after_it(self):
        self.talking()
        self.act("sign_out", agent="ann")
        self.hand.do("agent.end", agent="ann")
        self.hand.do("agent.wrap_up", agent="ann", code="code-1")
        self.assertEqual(self.hand.shown("desk.ann")["agent"]["status"], "out")

    def test_an_agent_serves_another_queue_until_they_sign_out(self):
        self.hand.do("agent.away", agent="ann", reason="Lunch")
        self.hand.queued("c1")
        self.act("serve", agent="bea", serves=["bookings"])
        self.assertEqual(self.hand.shown("desk.bea")["agent"]["status"], "ringing")
        again = restarted(self.hand, 1)
        for hand in (self.hand, again):
            self.assertEqual(hand.shown("person.bea")["person"]["serves"], ["bookings"])
            hand.do("call.hang_up", contact="c1")
            hand.do("agent.sign_out", agent="bea")
            hand.do("agent.sign_in", agent="bea")
            self.assertEqual(hand.shown("person.bea")["person"]["serves"], [])

    def test_a_waiting_contact_is_raised_and_moved(self):
        self.hand.do("agent.away", agent="ann", reason="Lunch")
        self.hand.queued("c1")
        self.hand.queued("c2")
        self.act("priority", contact="c2", priority=20)
        waiting = self.hand.shown("floor")["queues"]["bookings"]["waiting"]
        self.assertEqual([bead["contact"] for bead in waiting], ["c2", "c1"])
        self.act("move", contact="c1", queue="freight")
        self.assertEqual(self.hand.shown("desk.bea")["agent"]["contact"], "c1")
        bookings = self.hand.centre.figures.queue_total("bookings")
        freight = self.hand.centre.figures.queue_total("freight")
        self.assertEqual((bookings.offered, bookings.elsewhere, bookings.under_way), (2, 1, 1))
        self.assertEqual(freight.offered, 1)

    def test_an_offered_callback_keeps_the_place(self):
        self.hand.do("agent.away", agent="ann", reason="Lunch")
        for name in ("c1", "c2"):
            self.hand.queued(name)
            self.act("offer", contact=name)
        with self.assertRaisesRegex(EventRefused, "hear the offer"):
            self.act("offer", contact="c1")
        again = restarted(self.hand, 0)
        again.after(1)
        self.assertIn("c1", again.centre.contacts)
        self.hand.do("call.key", contact="c1", key="1")
        self.hand.after(30)
        self.assertEqual(self.hand.centre.figures.queue_total("bookings").callbacks, 1)
        self.assertIn("c2", self.hand.centre.contacts)
        self.assertEqual(self.hand.shown("call.c2")["call"]["phase"], "queued")
        offered = self.hand.told("c1", Kind.HEARD)[-2]
        self.assertIn("call you back", offered["words"])

    def test_a_chat_stands_on_the_floor_until_a_supervisor_answers(self):
        self.hand.do("agent.say", agent="ann", text=" The fare page shows an error. ")
        needs = self.hand.shown("floor")["agents"]["ann"]["needs"]
        self.assertEqual([need["why"] for need in needs], ["wrote"])
        self.act("say", agent="ann", text="Use the paper list.")
        for hand in (self.hand, restarted(self.hand, 1)):
            self.assertEqual(hand.shown("floor")["agents"]["ann"]["needs"], [])
            chat = hand.shown("desk.ann")["chat"].values()
            self.assertEqual(
                [(line["by"], line["mine"], line["words"]) for line in chat],
                [("Ann", True, "The fare page shows an error."), ("Deepa", False, "Use the paper list.")],
            )
        for body in (
            {"agent": "ann", "text": "  "},
            {"agent": "ann", "text": "x" * 501},
            {"agent": "bea", "text": "Hello", "teams": ["n"]},
        ):
            with self.assertRaises(EventRefused):
                self.act("say", **body)

    def test_who_needs_a_look_and_from_when_on(self):
        self.talking()
        needs = self.hand.shown("floor")["agents"]["ann"]["needs"]
        self.assertEqual(needs, [{"why": "long_talk", "from_ms": self.hand.now + 480 * SECOND, "limit": 480}])
        for name in ("c2", "c3"):
            self.hand.queued(name)
            self.act("move", contact=name, queue="freight")
            self.hand.do("agent.decline", agent="bea")
            self.hand.do("call.hang_up", contact=name)
        needs = self.hand.shown("floor")["agents"]["bea"]["needs"]
        self.assertIn(("missed", 2), [(need["why"], need["limit"]) for need in needs])

    def test_a_group_of_queues_counts_who_serves_both_once(self):
        setup = self.hand.centre.setup
        queues = {
            "bookings": queue("bookings", "ann", "bea")._replace(group="Selling"),
            "freight": queue("freight", "bea")._replace(group="Selling"),
            "care": queue("care", "ann"),
        }
        agents = {
            name: agent._replace(site="Ostrel" if name == "ann" else "")
            for name, agent in setup.agents.items()
        }
        self.hand.centre.configure(replace(setup, queues=queues, agents=agents), self.hand.now)
        self.talking()
        self.hand.do("agent.away", agent="bea", reason="Lunch")
        self.hand.queued("c2")
        floor = self.hand.shown("floor")
        group = floor["groups"]["Selling"]
        self.assertEqual(list(floor["groups"]), ["Selling"])
        self.assertEqual((group["signed_in"], group["away"], group["waiting"]), (2, 1, 1))
        self.assertEqual((group["figures"]["offered"], group["figures"]["answered"]), (2, 1))
        self.assertEqual(floor["sites"]["Ostrel"]["signed_in"], 1)

    def test_lines_say_who_waits_and_not_who_they_are(self):
        self.hand.do("agent.away", agent="ann", reason="Lunch")
        self.hand.queued("c1")
        line = self.hand.shown("lines")["queues"]["bookings"]
        wait = {"entered_ms": self.hand.now, "late_from_ms": self.hand.now + 60_001}
        self.assertEqual(line, {"name": "Bookings", "threshold_s": 60, "waiting": [wait]})

    def test_the_floor_says_from_when_on_a_wait_is_late_and_that_the_level_misses_its_goal(self):
        self.hand.do("agent.away", agent="ann", reason="Lunch")
        self.hand.queued("c1")
        queue = self.hand.shown("floor")["queues"]["bookings"]
        late_from_ms = queue["waiting"][0]["late_from_ms"]
        self.assertFalse(queue["below_goal"], "nobody has been judged yet")
        self.hand.after((late_from_ms - self.hand.now) / 1000)
        self.hand.do("call.hang_up", contact="c1")
        queue = self.hand.shown("floor")["queues"]["bookings"]
        self.assertEqual((queue["figures"]["abandoned_late"], queue["below_goal"]), (1, True))

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.sampled_from(
                    [
                        "listen",
                        "coach",
                        "join",
                        "take_over",
                        "leave",
                        "end",
                        "away",
                        "sign_out",
                        "available",
                        "serve",
                        "say",
                        "priority",
                        "move",
                        "offer",
                        "hang_up",
                        "answer",
                        "wrap_up",
                        "agent_end",
                        "queued",
                        "wait",
                    ]
                ),
                st.sampled_from(["ann", "bea"]),
                st.integers(1, 3),
            ),
            max_size=25,
        )
    )
    def test_whatever_they_do_nothing_is_lost(self, acts: list[tuple[str, str, int]]):
        """Rows reconcile, agents are in one state, and a restart stands as it stood."""
        hand = two_queues()
        hand.ready("ann", "bea")
        hand.do("supervisor.opened", user="7", line="l1")
        for number, (act, agent, n) in enumerate(acts):
            try:
                _one(hand, act, agent, f"c{n}", number)
            except EventRefused:
                continue
        self.assertEqual([t.what for t in hand.centre.troubles], [])
        total = hand.centre.figures.centre_total()
        self.assertEqual(
            total.offered, total.answered + total.abandoned + total.left_otherwise + total.under_way
        )
        agents = hand.centre.router.agents
        for contact in hand.centre.contacts.values():
            if contact.agent:
                held = (agents[contact.agent].contact, *dict(agents[contact.agent].others))
                self.assertIn(contact.id, held)
            elif contact.state.phase == "with_person":
                self.assertIn("has", [one.how for one in contact.attended.values()])
        again = restarted(hand, 0)
        self.assertEqual(
            json.dumps(again.shown("floor")["agents"], default=str),
            json.dumps(hand.shown("floor")["agents"], default=str),
        )


def _one(hand: Hand, act: str, agent: str, contact: str, number: int) -> None:
    if act == "queued":
        hand.queued(f"{contact}-{number}" if contact in hand.centre.contacts else contact)
    elif act == "wait":
        hand.after(7)
    elif act == "hang_up":
        hand.do("call.hang_up", contact=contact)
    elif act in ("answer", "wrap_up", "agent_end"):
        hand.do(f"agent.{act.removeprefix('agent_')}", agent=agent, code="")
    else:
        hand.do(
            f"supervise.{act}",
            **ALL,
            act=act,
            agent=agent,
            contact=contact,
            reason="Lunch",
            serves=["freight", "bookings"][: number % 3],
            queue=["freight", "bookings"][number % 2],
            priority=number % 20,
            text="Hello",
        )


class SigningOutTests(unittest.TestCase):
    def test_a_reason_is_asked_for_where_the_rules_say_so(self):
        hand = Hand(configuration(desks={"ann": DeskRule(sign_out="reason")}))
        hand.ready("ann", "bea")
        hand.do("agent.sign_out", agent="bea")
        with self.assertRaisesRegex(EventRefused, "Say why you end your work"):
            hand.do("agent.sign_out", agent="ann", reason="Bored")
        self.assertIn("Lunch", hand.shown("desk.ann")["agent"]["sign_out_reasons"])
        hand.do("agent.sign_out", agent="ann", reason="End of shift")
        self.assertEqual(hand.shown("desk.ann")["agent"]["reason"], "End of shift")


class SteeredFactTests(unittest.TestCase):
    def test_what_was_done_to_a_contact_stands_in_its_story(self):
        hand = two_queues()
        hand.queued("c1")
        hand.do("supervise.priority", **ALL, act="priority", contact="c1", priority=9)
        steered = [h.fact for h in hand.written() if isinstance(h.fact, facts.Steered)]
        self.assertEqual([(one.by, one.act, one.value) for one in steered], [("Deepa", "priority", 9)])


class WhyWaitsTests(unittest.TestCase):
    def test_a_supervisor_asks_why_a_contact_of_theirs_waits(self):
        hand = two_queues()
        hand.queued("c1")
        own = {**ALL, "contact": "c1", "teams": []}
        self.assertEqual(
            hand.do("supervise.why_waits", **ALL, contact="c1")["words"],
            "Nobody is at work who could take it",
        )
        hand.ready("ann")
        self.assertEqual(hand.do("supervise.why_waits", **ALL, contact="c1")["words"], "Rings at this moment")
        hand.do("agent.answer", agent="ann")
        hand.queued("c2")
        named = hand.do("supervise.why_waits", **ALL, contact="c2")
        self.assertEqual(named["words"], "1 who could take it is at work, and busy")
        self.assertEqual(named["considered"][0], {"words": "On a contact", "people": ["Ann"], "more": 0})
        counted = hand.do("supervise.why_waits", **{**own, "contact": "c2"})
        self.assertEqual(counted["considered"][0], {"words": "On a contact", "people": [], "more": 1})
        with self.assertRaisesRegex(EventRefused, "does not wait any more"):
            hand.do("supervise.why_waits", **own)
        with self.assertRaisesRegex(EventRefused, "not a queue that you supervise"):
            hand.do("supervise.why_waits", **{**own, "contact": "c2", "queues": []})


class AlertTests(unittest.TestCase):
    def test_an_alert_arises_is_seen_and_is_over(self):
        rule = AlertRule("r", "Nobody there", "waiting", "bookings", True, 0, 10_000)
        hand = Hand(configuration(alerts=(rule,)))
        hand.queued("c1")
        hand.after(9)
        self.assertEqual(hand.shown("strip")["alerts"], {})
        for _ in range(5):
            hand.after(1)
        again = restarted(hand, 1)
        for each in (hand, again):
            alert = each.shown("strip")["alerts"]["r"]
            self.assertEqual((alert["words"], alert["seen_by"]), ("Bookings: 1 waiting, more than 0", ""))
        hand.do("alert.see", rule="r", by="Deepa")
        self.assertEqual(hand.shown("strip")["alerts"]["r"]["seen_by"], "Deepa")
        hand.do("call.hang_up", contact="c1")
        for _ in range(40):
            hand.after(2)
        self.assertEqual(hand.shown("strip")["alerts"], {})
        states = [h.fact.state for h in hand.written() if isinstance(h.fact, facts.Alert)]
        self.assertEqual(states, ["arisen", "seen", "over"])
        with self.assertRaisesRegex(EventRefused, "is over"):
            hand.do("alert.see", rule="r", by="Deepa")

    def test_one_that_stands_over_midnight_arises_once(self):
        rule = AlertRule("r", "Nobody there", "signed_in", "", False, 1, 0)
        hand = Hand(configuration(alerts=(rule,)))
        hand.after(1)
        hand.after(13 * 3_600)
        again = restarted(hand, 5)
        for each in (hand, again):
            each.after(5)
            self.assertIn("r", each.shown("strip")["alerts"])
        states = [h.fact.state for h in again.written() if isinstance(h.fact, facts.Alert)]
        self.assertEqual(states, [])

    def test_every_figure_can_be_had_of_a_queue_and_of_all(self):
        hand = two_queues()
        hand.ready("ann")
        hand.queued("c1")
        for name in FIGURES:
            for queue_id in ("bookings", "", "gone"):
                value = alerts.figure(hand.centre, AlertRule("r", "R", name, queue_id), hand.now)
                if queue_id == "gone":
                    self.assertIsNone(value)
        self.assertEqual(alerts.figure(hand.centre, AlertRule("r", "R", "signed_in"), 0), 1)

    def test_a_rule_that_is_gone_ends_its_alert(self):
        rule = AlertRule("r", "Anybody", "signed_in", "", False, 5, 0)
        hand = Hand(configuration(alerts=(rule,)))
        hand.after(1)
        self.assertIn("r", hand.shown("strip")["alerts"])
        hand.centre.configure(configuration(), hand.now)
        hand.after(3)
        hand.after(3)
        self.assertEqual(hand.shown("strip")["alerts"], {})
