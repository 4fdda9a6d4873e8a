"""What the ledger books, against a second computation by plain loops that knows nothing of it."""

import itertools
import random
import unittest
from collections import Counter, defaultdict

from hypothesis import given, settings
from hypothesis import strategies as st

from callcore.events import Kind, facts
from callcore.events import read as happened
from callcore.measures.figures import Figures
from callcore.measures.ledger import Ledger
from callcore.measures.rows import COLUMNS, LONGEST, QueueRow, total
from callcore.routing.router import DIRECT
from callcore.tests.centre import life

#: A busy machine is slow: how long an example takes decides nothing.
steady = settings(deadline=None, max_examples=40)


def a_day(seed, length=120):
    """What happens in a small centre by chance: calls, texts, transfers, consults, holds,
    callbacks."""
    rng = random.Random(seed)
    hand = life.begun()
    for number in range(length):
        life.something(hand, rng, number)
    hand.after(400)
    return hand


def naive(events):
    """The sums of a queue, story by story, looking forward from each thing to what follows it."""
    stories = defaultdict(list)
    for event in events:
        stories[event.contact].append(event)
    sums = Counter()
    for story in stories.values():
        first = story[0].fact
        if not (isinstance(first, facts.Arrived) and first.consult_of):
            for number, event in enumerate(story):
                if event.kind is Kind.QUEUED:
                    _stay(sums, event, story[number + 1 :])
            _legs(sums, story)
    return sums


def _stay(sums, entered, later):
    sums["offered"] += 1
    for number, event in enumerate(later):
        waited = event.at_ms - entered.at_ms
        if event.kind is Kind.ANSWERED and not event.fact.queue.startswith(DIRECT):
            sums["answered"] += 1
            sums["wait_answered_ms"] += waited
            sums["answered_late"] += waited > entered.fact.threshold_ms
            return
        if event.kind is Kind.LEFT_QUEUE:
            if event.fact.why == "hung_up":
                sums["abandoned"] += 1
                sums["wait_abandoned_ms"] += waited
                sums["abandoned_late"] += waited > entered.fact.threshold_ms
                sums["short_abandons"] += waited < entered.fact.short_ms
            else:
                sums[_outcome(event.fact.why, later[number + 1 :])] += 1
            return
        if event.kind is Kind.ENDED:
            sums[_outcome("", later[number:])] += 1
            return
    sums["under_way"] += 1


def _outcome(why, later):
    """Where somebody went who left a queue and neither was answered nor hung up."""
    if why == "callback":
        return "callbacks"
    on = False
    for event in later:
        fact = event.fact
        if event.kind is Kind.MESSAGE_LEFT:
            return "messages"
        if event.kind in (Kind.QUEUED, Kind.ANSWERED):
            return "elsewhere"
        if event.kind is Kind.RANG_OUT and fact.result == "answered":
            return "elsewhere"
        on = on or event.kind is Kind.WENT_ON
        if event.kind is Kind.ENDED:
            named = {"callback": "callbacks", "elsewhere": "elsewhere"}
            return named.get(fact.ending, "elsewhere" if on else "ended")
    return "under_way"


def _legs(sums, story):
    for number, event in enumerate(story):
        if event.kind is not Kind.ANSWERED:
            continue
        booked = (
            event.fact.callback
            or event.fact.begun
            or any(before.kind is Kind.QUEUED for before in story[:number])
        )
        later = story[number + 1 :]
        over = next((e for e in later if e.kind is Kind.LEG_ENDED), None)
        if not booked:
            continue
        sums["legs"] += 1
        if over is None:
            continue
        part = later[: later.index(over)]
        held, since = 0, None
        for one in (*part, over):
            if one.kind is Kind.HELD or one is over:
                held += one.at_ms - since if since is not None else 0
                since = one.at_ms if one is not over and one.fact.on else None
        sums["hold_ms"] += held
        sums["talk_ms"] += over.at_ms - event.at_ms - held
        after = later[later.index(over) + 1 :]
        coded = next((e for e in after if e.kind is Kind.CODED and e.agent == event.agent), None)
        begun = next(
            (
                e
                for e in after
                if e.kind is Kind.AGENT and e.agent == event.agent and e.fact.status == "wrapping"
            ),
            None,
        )
        if coded is not None and begun is not None and begun.at_ms <= coded.at_ms:
            sums["wrap_ms"] += coded.at_ms - (begun.fact.since_ms or begun.at_ms)


class LedgerTests(unittest.TestCase):
    @steady
    @given(st.integers(0, 10_000))
    def test_every_sum_is_what_plain_loops_find(self, seed):
        events = a_day(seed).written()
        ledger = Ledger()
        ledger.take(events)
        booked = total(list(ledger.rows.values()))
        found = naive(events)
        for name in (
            "offered",
            "answered",
            "abandoned",
            "messages",
            "callbacks",
            "elsewhere",
            "ended",
            "under_way",
            "answered_late",
            "abandoned_late",
            "short_abandons",
            "wait_answered_ms",
            "wait_abandoned_ms",
            "legs",
            "talk_ms",
            "hold_ms",
            "wrap_ms",
        ):
            self.assertEqual(getattr(booked, name), found[name], name)
        for key, row in ledger.rows.items():
            self.assertEqual(
                row.offered, row.answered + row.abandoned + row.left_otherwise + row.under_way, key
            )

    @steady
    @given(st.integers(0, 10_000), st.integers(0, 400))
    def test_counted_in_two_parts_it_is_the_same(self, seed, cut):
        events = a_day(seed).written()
        whole, first, second = Ledger(), Ledger(), Ledger()
        whole.take(events)
        first.take(events[:cut])
        standing = [span for span in first.spans if span.until_ms is None]
        second = Ledger(standing)
        second.knew(events[:cut])
        second.take(events[cut:])
        together = dict(first.rows)
        for key, row in second.rows.items():
            together[key] = total([together.get(key, QueueRow()), row])
        self.assertEqual(
            {k: r for k, r in whole.rows.items() if r != QueueRow()},
            {k: r for k, r in together.items() if r != QueueRow()},
        )
        over = [span for span in first.spans if span.until_ms is not None]
        self.assertCountEqual(whole.spans, [*over, *second.spans])
        self.assertEqual({c: a for c, a in whole.accounts.items() if c in second.accounts}, second.accounts)

    @steady
    @given(st.integers(0, 10_000))
    def test_the_live_board_says_the_same(self, seed):
        hand = a_day(seed)
        ledger, live = Ledger(), Figures()
        ledger.take(hand.written())
        for event in hand.written():
            live.apply(event)
        self.assertEqual(live.centre_total(), total(list(ledger.rows.values())))
        self.assertEqual(live.queue_total("bookings"), hand.centre.figures.queue_total("bookings"))

    @steady
    @given(st.integers(0, 10_000))
    def test_an_agents_states_leave_no_gap_and_do_not_overlap(self, seed):
        ledger = Ledger()
        ledger.take(a_day(seed).written())
        by_agent = defaultdict(list)
        for span in ledger.spans:
            by_agent[span.agent].append(span)
        self.assertTrue(by_agent)
        for spans in by_agent.values():
            for one, after in itertools.pairwise(spans):
                self.assertEqual(one.until_ms, after.from_ms)
            self.assertIsNone(spans[-1].until_ms)


class BrokenTests(unittest.TestCase):
    def test_a_contact_that_cannot_be_counted_costs_itself_only(self):
        def stay(name, **queued):
            return [
                happened(0, Kind.QUEUED, name, "", {"queue": "q", **queued}),
                happened(9_000, Kind.ANSWERED, name, "ann", {"queue": "q"}),
            ]

        ledger = Ledger()
        ledger.take([*stay("bad", threshold_ms="soon"), *stay("good")])
        self.assertEqual(list(ledger.broken), ["bad"])
        self.assertEqual(len(ledger.accounts["good"].legs), 1)


class SumTests(unittest.TestCase):
    def test_figures_that_were_not_made_here(self):
        row = QueueRow(
            offered=446,
            answered=402,
            abandoned=44,
            answered_late=148,
            abandoned_late=28,
            wait_answered_ms=19_026_000,
        )
        self.assertEqual(f"{row.service_level('A') * 100:.2f}", "60.54")
        self.assertEqual(int(row.average_wait_ms / 1000), 47)

    def test_of_all_columns_it_is_known_how_they_add_up(self):
        one, other = (QueueRow(*(n + i for i, _ in enumerate(COLUMNS))) for n in (1, 5))
        whole = total([one, other])
        for name in COLUMNS:
            mine, theirs = getattr(one, name), getattr(other, name)
            sums = max(mine, theirs) if name in LONGEST else mine + theirs
            self.assertEqual(getattr(whole, name), sums)
