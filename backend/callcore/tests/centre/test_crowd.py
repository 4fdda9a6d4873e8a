"""The simulated callers and agents, on a clock that the test moves."""

import unittest
from typing import Any

from callcore.centre.setup import Setup
from callcore.events import Kind
from callcore.flow.definition import load
from callcore.people.crowd import OWN, Crowd, CrowdSettings
from callcore.people.traits import Traits
from callcore.routing.events import Status
from callcore.tests.centre.hand import SECOND, Hand, configuration, script
from callcore.tests.flows import short_line


def lived(
    seconds: int, load: float = 20.0, seed: int = 3, *, config: Setup | None = None, **callers: Any
) -> tuple[Hand, Crowd]:
    """A centre with a crowd, some time on; `callers`: what of them is not as usual."""
    hand = Hand(config)
    usual = Traits()
    traits = usual._replace(callers=usual.callers._replace(**callers))
    settings = CrowdSettings(True, load, 2, seed, traits=traits)
    crowd = Crowd(hand.centre, settings, hand.now)
    end = hand.now + seconds * SECOND
    while hand.now < end:
        dues = [hand.centre.next_due_ms(), crowd.next_due_ms() or end, hand.now + 5 * SECOND]
        hand.now = max(hand.now, min(*dues, end))
        hand.centre.advance(hand.now)
        crowd.advance(hand.now)
    return hand, crowd


class CrowdTests(unittest.TestCase):
    def test_callers_come_press_keys_and_are_answered_or_give_up(self):
        hand, _ = lived(1800)
        row = hand.centre.figures.centre_total()
        self.assertGreater(hand.centre.figures.arrived, 200)
        self.assertGreater(row.answered, 5)
        self.assertGreater(row.abandoned, 50)
        self.assertEqual(row.offered, row.answered + row.abandoned + row.left_otherwise + row.under_way)
        self.assertTrue(any(h.kind is Kind.CODED for h in hand.written()))

    def test_callers_say_what_they_want_where_a_stop_listens(self):
        definition = short_line("bookings")
        for step in definition["steps"]:
            step |= {"listens": True} if step["kind"] == "menu" else {}
        listening = load(definition)
        shares = {}
        for misheard in (0, 100):
            config = configuration(flows={"flow-1": script(listening)})
            hand, _ = lived(900, misheard=misheard / 100, config=config)
            said = [h.fact.meant for h in hand.written() if h.kind is Kind.SPOKEN]
            self.assertGreater(len(said), 50)
            shares[misheard] = sum(map(bool, said)) / len(said)
        self.assertGreater(shares[0], 0.9, "all but those who say a wrong key")
        self.assertEqual(shares[100], 0)

    def test_ways_are_chosen_by_the_shares_of_their_words(self):
        def pressed(**callers: Any) -> list[str]:
            hand, _ = lived(900, config=chosen, miskeyed=0, silent=0, leaves=0, **callers)
            return [h.fact.key for h in hand.written() if h.kind is Kind.KEYED]

        definition = short_line("bookings")
        (menu,) = (step for step in definition["steps"] if step["kind"] == "menu")
        first = menu["arms"][0]
        menu["arms"] = [
            {**first, "key": "1", "label": "Bookings"},
            {**first, "key": "2", "label": "Sailings"},
        ]
        chosen = configuration(flows={"flow-1": script(load(definition))})
        self.assertEqual(set(pressed(choices={"Bookings": 0})), {"2"})
        most = pressed(choices={"Sailings": 3})
        self.assertGreater(most.count("2"), 2 * most.count("1"))
        of_stop = {menu.get("name") or menu["id"]: {"1": 1}}
        self.assertEqual(set(pressed(choices={"Bookings": 0}, shares=of_stop)), {"1"})

    def test_the_same_seed_gives_the_same_day_and_another_one_another(self):
        def story(seed):
            named: dict[str, int] = {}
            return [
                (h.at_ms, h.kind, named.setdefault(h.contact, len(named)), h.agent)
                for h in lived(300, 5, seed)[0].written()
            ]

        self.assertEqual(story(1), story(1))
        self.assertNotEqual(story(1), story(2))

    def test_it_goes_home_when_it_is_switched_off(self):
        hand, crowd = lived(600)
        crowd.go_home(hand.now)
        hand.after(120)
        self.assertEqual(
            [
                c
                for c in hand.centre.contacts
                if c.startswith(OWN) and hand.centre.contacts[c].state.phase == "queued"
            ],
            [],
        )
        self.assertIsNone(crowd.next_due_ms())

    def test_whoever_takes_an_agent_over_keeps_the_contact_in_hand(self):
        hand, crowd = lived(600, load=40)
        agents = hand.centre.router.agents.values()
        taken = next(agent for agent in agents if agent.status is Status.ON_CONTACT)
        before = (taken.contact, taken.since_ms)
        crowd.release(taken.id)
        for _ in range(900):
            hand.now += SECOND
            hand.centre.advance(hand.now)
            crowd.advance(hand.now)
        self.assertEqual((taken.contact, taken.since_ms), before)

    def test_who_works_at_the_desk_themself_is_left_alone(self):
        hand, crowd = lived(30, load=0)
        crowd.release("ann")
        hand.queued("c1")
        agent = hand.centre.router.contacts["c1"].agent
        if agent != "ann":
            hand.do("agent.decline", agent=agent)
        hand.do("agent.away", agent="bea", reason="Lunch")
        for _ in range(10):
            hand.after(1)
            crowd.advance(hand.now)
        self.assertEqual(hand.centre.router.agents["ann"].status, "ringing")
