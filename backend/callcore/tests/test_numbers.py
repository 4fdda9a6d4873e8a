import unittest
from datetime import UTC, datetime, timedelta

from callcore.flow.catalogue import Catalogue, FlowFacts, MailboxFacts
from callcore.flow.checks import blocking, check
from callcore.numbers.detour import detour
from callcore.numbers.plan import Applies, Diversion, Planned, applies, diverted

MARCH = datetime(2027, 3, 1, 6, tzinfo=UTC)
MAY = datetime(2027, 5, 1, 6, tzinfo=UTC)
PLANNED = [Planned(MAY, "summer"), Planned(MARCH, "spring")]


class NumberPlanTests(unittest.TestCase):
    def test_the_change_that_was_due_last_counts(self):
        moment = timedelta(milliseconds=1)
        cases = {
            MARCH - moment: Applies("winter", None, PLANNED[1]),
            MARCH: Applies("spring", MARCH, PLANNED[0]),
            MAY - moment: Applies("spring", MARCH, PLANNED[0]),
            MAY: Applies("summer", MAY, None),
        }
        for when, expected in cases.items():
            with self.subTest(when):
                self.assertEqual(applies("winter", PLANNED, when), expected)

    def test_a_number_without_changes_does_what_it_says(self):
        self.assertEqual(applies("winter", [], MAY), Applies("winter", None, None))


def diversion(**changes):
    values = {
        "id": "d1",
        "reason": "Storm",
        "numbers": frozenset({"+441"}),
        "where": "outside",
        "target": "+441632960111",
        "begins": MARCH,
        "until": MAY,
        **changes,
    }
    return Diversion(**values)


class DiversionTests(unittest.TestCase):
    def test_of_several_in_force_the_one_that_began_last_counts(self):
        later = diversion(id="d2", begins=MARCH + timedelta(days=1), until=None)
        moments = {
            MARCH - timedelta(seconds=1): None,
            MARCH: "d1",
            MARCH + timedelta(days=1): "d2",
            MAY + timedelta(days=99): "d2",
        }
        for moment, expected in moments.items():
            found = diverted("+441", [diversion(), later], moment)
            self.assertEqual(found.id if found else None, expected)
        self.assertIsNone(diverted("+442", [diversion()], MARCH))

    def test_a_detour_is_a_sound_flow_for_every_way_of_diverting(self):
        catalogue = Catalogue(
            mailboxes={"mailbox:m": MailboxFacts("Night", True, 2000, 60_000)},
            flows={f"flow:{f}": FlowFacts(f, True, "voice") for f in ("f", "n")},
        )
        ways = [
            ({}, ["ring", "go"]),
            ({"then": "mailbox", "then_target": "m"}, ["ring", "message"]),
            ({"then": "flow", "then_target": "f"}, ["ring", "go"]),
            ({"then": "end"}, ["ring", "end"]),
            ({"where": "mailbox", "target": "m"}, ["message"]),
            ({"where": "flow", "target": "f"}, ["go"]),
        ]
        for changes, kinds in ways:
            with self.subTest(changes):
                flow = detour(diversion(**changes), "n")
                self.assertEqual([step.kind for step in flow.steps], kinds)
                self.assertEqual(blocking(check(flow, catalogue)), [])
        self.assertEqual(detour(diversion(), "").steps[1].kind, "end")
