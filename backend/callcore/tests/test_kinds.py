"""What holds of every kind of stop there is, and of any flow made of them."""

import json
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.flow.catalogue import Catalogue
from callcore.flow.checks import check
from callcore.flow.definition import SpokenText, dump, load
from callcore.flow.describe import stop
from callcore.flow.fates import OWN_ARMS
from callcore.flow.runner import Machine
from callcore.flow.state import (
    Dialled,
    Due,
    FaxTone,
    Finish,
    HungUp,
    Key,
    Looked,
    MadeUp,
    MailboxRule,
    Moved,
    NowhereToGo,
    OtherPlan,
    Person,
    PersonDone,
    Place,
    Rung,
    Spoken,
    Taken,
    Texted,
    WaitedOut,
    from_data,
    to_data,
)
from callcore.flow.steps import STEP_KINDS
from callcore.tests.flows import BOOKINGS, WORLD
from callcore.tests.random_flows import KINDS, RUN, random_flows

NIGHT = MailboxRule(SpokenText(text="Leave a message."), 60_000)
AROUND = MadeUp(
    open_at=lambda ref, _now: (True, "week") if ref == "hours:office" else None,
    mailbox={"mailbox:night": NIGHT}.get,
    figure=lambda ref, _figure: 1.0 if ref in (BOOKINGS, None) else None,
    dial=lambda digits: {"1": Dialled("more", "", False), "12": Dialled("found", "agent:a", False)}.get(
        digits, Dialled("none", "", False)
    ),
    people=lambda: (Person("a", "Ana Quay"), Person("b", "Ben Pier")),
    place=lambda _queue: Place(2, 40.0),
    outside=lambda typed: f"+44{typed}" if len(typed) > 2 else None,
)
#: Whatever may happen to a contact, whether it fits where it is or not.
#: Ways that a stop has only where it leads somewhere by them, the flow's failure rule, and stops' own ends.
UNSAID = {"failure", "wrong_key", "nobody", "closed", "away", *OWN_ARMS.values()}
EVENTS = st.one_of(
    st.sampled_from("123*#90").map(Key),
    st.sampled_from(
        [Due(), Due(), Due(), Taken(), WaitedOut(), PersonDone(), NowhereToGo(), FaxTone(), HungUp()]
    ),
    st.sampled_from(["busy", "no_answer", "failed", "answered", "away"]).map(Rung),
    st.sampled_from([Looked({"name": "Sea Holly"}), Looked(None), Looked(None, failed=True)]),
    st.sampled_from([Texted("1"), Texted("hello"), Spoken("bookings", "1"), OtherPlan("")]),
)


def written(state):
    """A state as a crash would find it."""
    return from_data(json.loads(json.dumps(to_data(state))))


class KindTests(unittest.TestCase):
    def test_random_flows_hold_every_kind(self):
        self.assertEqual(set(KINDS), set(STEP_KINDS))

    def test_a_fresh_stop_of_each_kind_has_words_and_says_what_is_missing(self):
        for kind in KINDS:
            flow = load({"start": "s", "steps": [{"kind": kind, "id": "s"}]})
            with self.subTest(kind):
                self.assertEqual(load(dump(flow)), flow)
                words = stop(flow.steps[0], Catalogue())
                self.assertTrue(words.title and words.name)
                open_ways = {f.exit for f in check(flow, WORLD) if f.severity == "blocks" and f.exit}
                needed = {way.name for way in flow.steps[0].exits() if not way.failure}
                self.assertEqual(needed - open_ways, set())

    def outcome(self, machine, state, event, now):
        """What comes of an event, or the code with which it is refused."""
        try:
            return machine.resume(state, event, now)
        except EventRefused as refused:
            return refused.code

    @settings(max_examples=200)
    @given(
        random_flows(kinds=RUN),
        st.lists(st.tuples(EVENTS, st.sampled_from([0, 100, 1_000, 9_000])), max_size=30),
    )
    def test_whatever_happens_nothing_is_raised_and_a_crash_changes_nothing(self, flow, events):
        machine = Machine(flow, lambda _: 700, AROUND)
        ways = {step.id: {way.name for way in step.exits()} for step in flow.steps}
        state, effects = machine.start(0, {"caller": "+441632960144"})
        now = 0
        for event, later in events:
            now = max(now + later, state.due_ms or 0) if isinstance(event, Due) else now + later
            outcome = self.outcome(machine, state, event, now)
            self.assertEqual(self.outcome(machine, written(state), event, now), outcome)
            if isinstance(outcome, str):
                continue
            state, effects = outcome
            for moved in effects:
                if isinstance(moved, Moved) and moved.step in ways:
                    self.assertTrue(moved.exit in ways[moved.step] | UNSAID or moved.to == moved.step, moved)
            self.assertEqual(sum(isinstance(e, Finish) for e in effects), int(state.phase == "ended"))
        self.assertEqual(written(state), state)


if __name__ == "__main__":
    unittest.main()
