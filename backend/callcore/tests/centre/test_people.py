"""What people are said to be like, and that they then are."""

import logging
import unittest
from datetime import datetime
from zoneinfo import ZoneInfo

from hypothesis import given
from hypothesis import strategies as st

from callcore.centre.facts import AgentFacts
from callcore.centre.parts import EVERYTHING
from callcore.centre.setup import Setup
from callcore.events import Happening, Kind
from callcore.flow.definition import AnyStep, Flow
from callcore.flow.steps import Digits, Directory, End, Extension, OfferCallback, WaitInQueue
from callcore.people.distributions import Fixed
from callcore.people.moments import MOST_MOMENTS
from callcore.people.profile import always
from callcore.people.said import LENGTHS, SHARES, Wrong, as_said, traits_of, usual_unless
from callcore.people.traits import Traits
from callcore.simulation.run import DAY_MS, Plan, Run, midnight_of
from callcore.tests.centre.hand import NOON, NUMBER, configuration, script

HOUR_MS = 3_600_000

_shares = st.floats(0, 1)
_weights = st.dictionaries(st.text(max_size=20), st.floats(0, 1e6), max_size=4)
_lengths = st.one_of(
    st.builds(lambda mean: {"kind": "fixed", "mean_s": mean, "spread": 0.0}, st.floats(1, 3600)),
    st.builds(lambda mean: {"kind": "exponential", "mean_s": mean, "spread": 1.0}, st.floats(1, 3600)),
    st.builds(
        lambda mean, spread: {"kind": "lognormal", "mean_s": mean, "spread": spread},
        st.floats(1, 3600),
        st.floats(0.05, 5),
    ),
)
_people = st.fixed_dictionaries(
    {},
    optional={
        "profile": st.lists(st.floats(0, 500), min_size=7, max_size=7).map(
            lambda rates: [[r] * 96 for r in rates]
        ),
        "moments": st.lists(st.integers(0, DAY_MS), max_size=20).map(sorted),
        "shifts": st.lists(st.floats(0, 23.75), max_size=5),
        "passes_as": st.text(max_size=80),
        **dict.fromkeys(LENGTHS, _lengths),
        **dict.fromkeys(SHARES, _shares),
        **dict.fromkeys(("codes", "choices", "texts", "numbers"), _weights),
    },
)


class SaidTests(unittest.TestCase):
    @given(_people)
    def test_what_is_said_is_what_counts_and_all_else_is_as_usual(self, said):
        self.assertEqual(as_said(traits_of(said)), {**as_said(Traits()), **said})

    def test_what_cannot_be_is_named_by_its_field(self):
        length = {"kind": "lognormal", "mean_s": 90, "spread": 0.5}
        for said, words in (
            ({"profile": [[1.0] * 96] * 6}, "Seven days"),
            ({"profile": [[1.0] * 95] * 7}, "Seven days"),
            ({"profile": [[1.0] * 96, *[[1.0] * 95 + [20_001]] * 6]}, "Tuesday, 23:45"),
            ({"moments": 5}, "list of moments"),
            ({"moments": [0] * (MOST_MOMENTS + 1)}, "20,000"),
            ({"moments": [3, True]}, "Moment 2"),
            ({"moments": [25 * HOUR_MS]}, "Moment 1"),
            ({"talk": {**length, "colour": 1}}, "A kind of distribution"),
            ({"talk": [90]}, "A kind of distribution"),
            ({"talk": {**length, "mean_s": None}}, "are numbers"),
            ({"wraps": {**length, "kind": "odd"}}, "no distribution"),
            ({"patience": {**length, "spread": 0}}, "spread"),
            ({"shifts": [24]}, "hours of the day"),
            ({"shifts": [8] * 101}, "100 at the most"),
            ({"codes": {"a": -1}}, "figures from 0"),
            ({"choices": ["a"]}, "figures from 0"),
            ({"held": 1.01}, "between 0 and 1"),
            ({"held": True}, "between 0 and 1"),
            ({"luck": 1}, "called so"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Wrong, words) as refused:
                traits_of(said)
            self.assertEqual(refused.exception.field, next(iter(said)))

    def test_what_a_later_version_said_leaves_them_as_usual(self):
        with self.assertLogs("callcore.people.said", logging.WARNING):
            self.assertEqual(usual_unless({"luck": 1}), Traits())
        self.assertEqual(usual_unless({"held": 0.5}).agents.held, 0.5)


_EXTENSIONS = {"4101": "agent:ann", "0": "queue:bookings"}


def line(*steps: AnyStep, **changes) -> Setup:
    """The test number leads to some stops; nobody answers their ways out but the last."""
    flow = Flow(start=steps[0].id, steps=(*steps, End(id="end")))
    return configuration(flows={"flow-1": script(flow)}, extensions=_EXTENSIONS, **changes)


def lived(setup: Setup, hours: float = 0.5, **changes) -> list[Happening]:
    """What people of some make did with a set-up from noon on."""
    traits = Traits(always(400))
    callers = traits.callers._replace(robots=0, silent=0, miskeyed=0, leaves=0, reacts=Fixed(0.5), **changes)
    plan = Plan(NOON, hours / 24, traits._replace(callers=callers), all_in_s=0)
    run = Run(setup, plan, keeps=EVERYTHING)
    events = [event for some in run.until(NOON + round(hours * HOUR_MS)) for event in some]
    assert not run.centre.troubles, run.centre.troubles
    return events


def typed(events: list[Happening]) -> set[str]:
    """All that callers of their own accord pressed, call by call."""
    keys: dict[str, str] = {}
    over = {event.contact for event in events if event.kind is Kind.ENDED}
    for event in events:
        if event.kind is Kind.KEYED and event.contact in over:
            keys[event.contact] = keys.get(event.contact, "") + event.fact.key
    return set(keys.values())


class CallerTests(unittest.TestCase):
    def test_figures_are_typed_to_their_end_and_confirmed(self):
        plain = Digits(id="ask", least=3, most=6, next="end", no_digits="end")
        found = typed(lived(line(plain)))
        self.assertGreater(len(found), 50)
        for keys in found:
            self.assertRegex(keys, r"^[0-9]{3}#$")
        confirmed = plain.model_copy(update={"confirm": plain.prompt})
        for keys in typed(lived(line(confirmed))):
            self.assertRegex(keys, r"^[0-9]{3}#1$")

    def test_figures_are_said_where_the_stop_listens(self):
        listens = Digits(id="ask", least=3, most=6, next="end", no_digits="end", listens=True)
        events = lived(line(listens), speaks=1, misheard=0)
        said = [event.fact for event in events if event.kind is Kind.SPOKEN]
        self.assertGreater(len(said), 50)
        for fact in said:
            self.assertRegex(fact.meant, r"^[0-9]{3}", fact.words)

    def test_extensions_that_are_there_are_dialled(self):
        found = typed(lived(line(Extension(id="dial", none="end", no_answer="end"))))
        self.assertEqual({keys.rstrip("#") for keys in found}, {"4101", "0"})

    def test_names_of_people_are_spelled_until_it_is_known_who_is_meant(self):
        agents = {
            name: AgentFacts(name, f"{name} {surname}", "", "")
            for name, surname in (("Ann", "Vaughan"), ("Bea", "Adams"), ("Cai", "Adams"))
        }
        step = Directory(id="dial", none="end", no_answer="end")
        events = lived(line(step, agents=agents))
        self.assertEqual(typed(events), {"8", "23267#1"}, "one V, and two of one name to choose from")

    def test_who_wants_a_callback_takes_it_and_nobody_else(self):
        steps = (
            WaitInQueue(id="wait", queue="queue:bookings", longest_wait_s=10, waited="offer"),
            OfferCallback(
                id="offer", queue="queue:bookings", declined="end", failed="end", other_number=True
            ),
        )
        booked: dict[int, int] = {}
        for share in (0, 1):
            events = lived(line(*steps), called_back=share)
            booked[share] = sum(event.kind is Kind.BOOKED for event in events)
        self.assertEqual(booked[0], 0)
        self.assertGreater(booked[1], 20)

    def test_who_leaves_hangs_up_in_the_menu_and_robots_press_nothing(self):
        traits = Traits(always(400))
        for changes, ending in (({"leaves": 1.0, "robots": 0.0}, "hung_up"), ({"robots": 1.0}, "ended")):
            with self.subTest(ending):
                callers = traits.callers._replace(reacts=Fixed(0.5), **changes)
                plan = Plan(NOON, 1 / 48, traits._replace(callers=callers), all_in_s=0)
                run = Run(configuration(), plan, keeps=EVERYTHING)
                events = [event for some in run.until(NOON + HOUR_MS // 2) for event in some]
                self.assertNotIn(Kind.KEYED, {event.kind for event in events})
                endings = {event.fact.ending for event in events if event.kind is Kind.ENDED}
                self.assertEqual(endings, {ending})

    def test_numbers_are_called_by_their_shares(self):
        setup = configuration()
        other = setup.numbers[NUMBER]._replace(id="m", address="+442079460211")
        plan = Plan(NOON, 1 / 24, Traits(always(200), numbers={other.address: 0}), all_in_s=0)
        run = Run(configuration(numbers={**setup.numbers, other.address: other}), plan, keeps=EVERYTHING)
        events = [event for some in run.until(NOON + HOUR_MS) for event in some]
        called = {
            event.fact.number for event in events if event.kind is Kind.ARRIVED and not event.fact.consult_of
        }
        self.assertEqual(called, {NUMBER})


class AgentTests(unittest.TestCase):
    def test_shifts_begin_at_their_hour_on_days_that_are_not_off(self):
        zone, traits = ZoneInfo("Europe/London"), Traits(always(2))
        begins_ms = midnight_of(NOON, "Europe/London")
        for days_off in (0.0, 0.5):
            with self.subTest(days_off):
                agents = traits.agents._replace(
                    shifts=(9.5,), shift=Fixed(4 * 3600.0), days_off=days_off, sent_on=0
                )
                plan = Plan(begins_ms, 20.0, traits._replace(agents=agents), all_in_s=0)
                run = Run(configuration(), plan, keeps=EVERYTHING)
                at_work: list[tuple[str, datetime, str]] = []
                for some in run.until(begins_ms + 20 * DAY_MS):
                    for event in some:
                        if event.kind is Kind.AGENT:
                            local = datetime.fromtimestamp(event.at_ms / 1000, zone)
                            at_work.append((event.agent, local, event.fact.status))
                came = self.first_of_days(at_work)
                for agent, first in came:
                    minutes = first.hour * 60 + first.minute
                    self.assertTrue(9 * 60 + 24 <= minutes <= 9 * 60 + 35, (agent, first))
                days = len(came)
                self.assertTrue(days == 40 if not days_off else 10 < days < 32, days)
                for agent, local, status in at_work:
                    if status == "out":
                        self.assertTrue(13 <= local.hour <= 14, (agent, local))

    @staticmethod
    def first_of_days(at_work: list[tuple[str, datetime, str]]) -> list[tuple[str, datetime]]:
        """When each agent was first there on each of their days."""
        first: dict[tuple[str, object], datetime] = {}
        for agent, local, _ in at_work:
            first.setdefault((agent, local.date()), local)
        return [(agent, local) for (agent, _), local in first.items()]

    def test_codes_are_chosen_by_their_shares_and_what_was_sent_on_is_called_so(self):
        setup = configuration()
        (known,) = setup.codes["set"]
        codes = [
            known,
            known._replace(id="code-2", name="Passed on"),
            known._replace(id="code-3", name="Other"),
        ]
        given = {}
        for name, changes in (
            ("Other", {"codes": {"New booking": 0, "Passed on": 0}}),
            ("none", {"codes": {"New booking": 0, "Passed on": 0, "Other": 0}}),
            ("any", {}),
        ):
            traits = Traits(always(60))
            usual = traits.agents._replace(coded=1, wraps=Fixed(5.0))
            agents = usual._replace(**changes)
            plan = Plan(NOON, 2 / 24, traits._replace(agents=agents), all_in_s=0)
            run = Run(configuration(codes={"set": codes}), plan, keeps=EVERYTHING)
            events = [event for some in run.until(NOON + 2 * HOUR_MS) for event in some]
            given[name] = {event.fact.code for event in events if event.kind is Kind.CODED}
        self.assertEqual(given["Other"], {"code-3"})
        self.assertEqual(given["none"], {""})
        self.assertEqual(given["any"], {"code-1", "code-2", "code-3"})
