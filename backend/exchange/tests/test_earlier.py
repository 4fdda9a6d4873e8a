import json
import unittest
from pathlib import Path

from callcore.events import Kind
from callcore.events import read as happened
from callcore.tests.centre.hand import Hand, after_a_stop, script
from callcore.tests.centre.life import whole
from callcore.tests.centre.test_callbacks import config as plan_config
from exchange.live import earlier


class EarlierTests(unittest.TestCase):
    def test_what_an_earlier_version_left_is_taken_over(self):
        """A journal of November 2026, whose events held the state of their contacts."""
        kept = json.loads((Path(__file__).parent / "journal_of_earlier.json").read_text())
        old = [earlier.Written(at, Kind(kind), *rest) for at, kind, *rest in kept["events"]]
        journal = [happened(*event) for event in kept["events"]]
        hand = Hand(plan_config())
        hand.now = kept["now"]
        ended = {h.contact for h in journal if h.kind is Kind.ENDED}
        stories: dict[str, list[earlier.Written]] = {}
        for h in old:
            if h.contact and h.contact not in ended and h.kind is not Kind.AGENT:
                stories.setdefault(h.contact, []).append(h)
        agents = {h.agent: h for h in old if h.kind is Kind.AGENT}
        earlier.take_over(hand.centre, journal, stories, list(agents.values()), lambda _: script(), hand.now)
        self.assertEqual(list(hand.centre.troubles), [])
        ann, bea = (hand.centre.router.agents[name] for name in ("ann", "bea"))
        self.assertEqual((ann.status, ann.contact, bea.status), ("on_contact", "waits", "ringing"))
        contacts = hand.centre.contacts
        self.assertTrue(contacts["waits"].talk.held)
        self.assertEqual(contacts["in-menu"].state.phase, "listening")
        self.assertEqual([c.id for c in contacts.values() if c.callback], ["id-1"])
        again = after_a_stop(hand, [*journal, *hand.written()], hand.rows(), 0)
        self.assertTrue(again.centre.contacts["waits"].talk.held)
        self.assertEqual(whole(again.centre.router), whole(hand.centre.router))
