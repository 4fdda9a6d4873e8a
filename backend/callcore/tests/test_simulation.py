"""Simulation against closed forms, against a plain second way, and against bad plans."""

import math
from functools import partial
from heapq import heappop, heappush
from unittest import TestCase
from zoneinfo import ZoneInfo

from callcore.centre.parts import EVERYTHING
from callcore.events import facts
from callcore.measures.figures import Figures
from callcore.measures.rows import INTERVAL_MS
from callcore.people.distributions import Erlang, Lognormal, distribution
from callcore.people.moments import Moments
from callcore.people.profile import DAYS, Arrivals, Profile, always, by_hours, from_csv
from callcore.people.streams import stream
from callcore.people.traits import USUAL_DAY
from callcore.simulation.intervals import estimate, student
from callcore.simulation.replications import replications
from callcore.simulation.run import DAY_MS, Impossible, Plan, Run, midnight_of, run
from callcore.tests import textbook
from callcore.tests.textbook import BEGINS_MS
from callcore.waiting.theory import loss, two_priorities, with_patience

HOUR_MS = 3_600_000


def _tomorrow(setup):
    """The number of the first interval of the day after the runs begin."""
    return (midnight_of(BEGINS_MS, setup.time_zone) + DAY_MS) // INTERVAL_MS


def seen(setup, plan, seeds, queue="q0"):
    """Share who waits, share who hangs up, mean wait (s): of each run."""
    return [textbook.observed(setup, plan._replace(seed=seed))[queue] for seed in seeds]


class TheoryTests(TestCase):
    def test_the_closed_forms_agree_with_one_another_and_with_known_figures(self):
        # Ten servers at eight of load: Erlang's own tables give 0.1217 lost and 0.4092 who wait.
        self.assertAlmostEqual(loss(10, 8.0), 0.1217, 4)
        patient = with_patience(10, 8 / 180, 180.0, None)
        self.assertAlmostEqual(patient.waits, 0.4092, 4)
        self.assertAlmostEqual(patient.wait_s, patient.waits * 180 / (10 - 8), 6)
        hasty = with_patience(10, 8 / 180, 180.0, 0.001)
        self.assertAlmostEqual(hasty.abandons, loss(10, 8.0), 4)
        lasting = with_patience(10, 8 / 180, 180.0, 1e7)
        self.assertAlmostEqual(lasting.wait_s, patient.wait_s, 2)
        high, low = two_priorities(10, 3 / 180, 5 / 180, 180.0)
        together = (3 * high + 5 * low) / 8
        self.assertAlmostEqual(together, patient.wait_s, 6, "the order in which is served moves no mean")
        with self.assertRaises(ValueError):
            with_patience(10, 10 / 180, 180.0, None)

    def test_a_queue_is_what_erlang_says(self):
        setup = textbook.setup([(5, range(8))])
        for patience_s, load in ((120.0, 1.1), (None, 0.75)):
            rate = load * 8 / 150
            traits = textbook.traits([rate], 150.0, patience_s)
            plan = Plan(BEGINS_MS, 0.5, traits, warm_up_ms=2 * HOUR_MS, all_in_s=0)
            expected = with_patience(8, rate, 150.0, patience_s)
            for name, *observed in zip(expected._fields, *seen(setup, plan, range(1, 7)), strict=True):
                with self.subTest(name, load=load):
                    said = estimate(observed, 0.99)
                    self.assertTrue(said.holds(getattr(expected, name)), (said, expected))
                    self.assertLess(said.half, 0.8 * said.mean + 0.01)

    def test_two_priorities_are_what_the_closed_form_says(self):
        setup = textbook.setup([(9, range(6)), (1, range(6))])
        rates = (2 / 120, 2.6 / 120)
        plan = Plan(BEGINS_MS, 0.6, textbook.traits(rates, 120.0, None), warm_up_ms=2 * HOUR_MS, all_in_s=0)
        runs = [textbook.observed(setup, plan._replace(seed=seed)) for seed in range(1, 7)]
        for queue, expected in zip(("q0", "q1"), two_priorities(6, *rates, 120.0), strict=True):
            said = estimate([row[queue].wait_s for row in runs], 0.99)
            self.assertTrue(said.holds(expected), (queue, said, expected))


class SecondWayTests(TestCase):
    """Three queues whose agents overlap, against a plain loop that knows nothing of the centre."""

    QUEUES = ((5, range(6)), (5, range(4, 10)), (5, range(8, 13)))
    RATES = (0.030, 0.034, 0.026)

    def plain(self, seed, end_ms):
        """When who was served by whom: (ms, queue, agent), without an agent who hung up."""
        calls = self.calls(seed, end_ms)
        members = [{f"a{n:04}" for n in agents} for _, agents in self.QUEUES]
        everybody = sorted(set.union(*members))
        # All begin at once, in the order in which the crowd draws them.
        order = stream(seed, "who works").sample(everybody, len(everybody))
        idle = [(BEGINS_MS, place, name) for place, name in enumerate(order)]
        waiting, busy, served = [], [], []
        for at_ms, queue, patience_ms, talk_ms in [*calls, (end_ms, 0, 0, 0)]:
            while busy and busy[0][0] < at_ms:
                free_ms, agent = heappop(busy)
                for caller in list(waiting):
                    if caller[0] + caller[2] <= free_ms:
                        waiting.remove(caller)
                        served.append((None, caller[1], caller[0] + caller[2]))
                mine = [caller for caller in waiting if agent in members[caller[1]]]
                if mine:
                    caller = min(mine)
                    waiting.remove(caller)
                    served.append((agent, caller[1], free_ms))
                    heappush(busy, (free_ms + caller[3], agent))
                else:
                    idle.append((free_ms, 0, agent))
            able = [one for one in sorted(idle) if one[2] in members[queue]]
            if at_ms == end_ms:
                break
            if able:
                idle.remove(able[0])
                served.append((able[0][2], queue, at_ms))
                heappush(busy, (at_ms + talk_ms, able[0][2]))
            else:
                waiting.append((at_ms, queue, patience_ms, talk_ms))
        served += [(None, c[1], c[0] + c[2]) for c in waiting if c[0] + c[2] < end_ms]
        return sorted((ms, queue, agent or "") for agent, queue, ms in served if ms < end_ms)

    def calls(self, seed, end_ms):
        """The same people as the centre meets, by their own streams."""
        traits = textbook.traits(self.RATES, 140.0, 200.0)
        chance, zone = stream(seed, "arrivals"), ZoneInfo("UTC")
        arrivals = Arrivals(traits.profile, chance, zone, 1.0, BEGINS_MS)
        moments = iter(partial(arrivals.before, end_ms), None)
        found = []
        for number, at_ms in enumerate(moments, 1):
            call, caller = stream(seed, "call", number), stream(seed, "caller", number)
            queue = call.choices(range(3), self.RATES)[0]
            patience_s = traits.callers.patience.draw(caller)
            talk_s = traits.callers.talk.draw(caller)
            found.append((at_ms, queue, round(patience_s * 1000), round(talk_s * 1000)))
        return found

    def test_agent_by_agent_it_is_the_same(self):
        end_ms = BEGINS_MS + 5 * HOUR_MS
        plan = Plan(BEGINS_MS, 1, textbook.traits(self.RATES, 140.0, 200.0), seed=5, all_in_s=0)
        told = []
        for events in Run(textbook.setup(self.QUEUES), plan).until(end_ms):
            for event in events:
                if isinstance(event.fact, facts.Answered):
                    told.append((event.at_ms, int(event.fact.queue[1:]), event.agent))
                elif isinstance(event.fact, facts.LeftQueue) and event.fact.why == "hung_up":
                    told.append((event.at_ms, int(event.fact.queue[1:]), ""))
        expected = self.plain(5, end_ms)
        self.assertGreater(len(told), 1_400)
        self.assertGreater(sum(not agent for _, _, agent in told), 20)
        self.assertEqual(sorted(told), expected)


class RunTests(TestCase):
    def plan(self, **changes):
        traits = textbook.traits([0.05], 150.0, 90.0)
        return Plan(BEGINS_MS, 0.25, traits, all_in_s=0)._replace(**changes)

    def test_a_seed_is_a_day_and_runs_side_by_side_are_those_one_by_one(self):
        setup = textbook.setup([(5, range(6))])
        by_seed = {
            workers: {o.seed: o for o in replications(setup, self.plan(), 3, workers=workers)}
            for workers in (1, 2)
        }
        self.assertEqual(by_seed[1], by_seed[2])
        self.assertEqual(len({o.centre.wait_answered_ms for o in by_seed[1].values()}), 3)
        row = by_seed[1][1].centre
        self.assertEqual(row.offered, row.answered + row.abandoned + row.left_otherwise + row.under_way)

    def test_the_same_people_meet_two_set_ups(self):
        arrived = [run(textbook.setup([(5, range(agents))]), self.plan(seed=9)).arrived for agents in (3, 9)]
        self.assertEqual(arrived[0], arrived[1])

    def test_what_is_left_out_of_a_run_changes_no_figure(self):
        setup, plan = textbook.setup([(5, range(6))]), self.plan(seed=4)
        ends_ms = BEGINS_MS + round(plan.days * DAY_MS)
        whole = Figures()
        for events in Run(setup, plan, keeps=EVERYTHING).until(ends_ms):
            for event in events:
                whole.apply(event)
        left_out = run(setup, plan)
        self.assertGreater(left_out.arrived, 100)
        for name in ("rows", "arms", "endings", "waits", "arrived", "ended", "legs", "coded"):
            self.assertEqual(getattr(left_out, name), getattr(whole, name), name)

    def test_days_after_the_first_are_counted_too(self):
        setup, plan = textbook.setup([(5, range(6))]), self.plan(seed=4)
        day, days = run(setup, plan._replace(days=1.0)), run(setup, plan._replace(days=1.25))
        offered = [figures.centre_total().offered for figures in (day, days)]
        self.assertGreater(offered[1], offered[0])
        self.assertEqual(
            offered[0], sum(row.offered for (_, at), row in days.rows.items() if at < _tomorrow(setup))
        )

    def test_what_cannot_be_simulated_is_said_in_words(self):
        setup = textbook.setup([(5, range(2))])
        nobody = self.plan().traits._replace(profile=always(0))
        for plan, words in (
            (self.plan(days=0), "366 days"),
            (self.plan(load=0), "load"),
            (self.plan(traits=nobody), "Nobody calls"),
            (self.plan(warm_up_ms=HOUR_MS * 9), "beginning"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Impossible, words):
                run(setup, plan)
        with self.assertRaisesRegex(Impossible, "No queue has agents"):
            run(textbook.setup([(5, ())]), self.plan())


class PeopleTests(TestCase):
    def test_distributions_have_the_mean_and_spread_that_they_were_given(self):
        for kind, spread in (("fixed", 0.0), ("exponential", 1.0), ("lognormal", 0.6), ("erlang", 0.5)):
            chosen = distribution(kind, 180.0, spread)
            rng = stream(1, kind)
            drawn = [chosen.draw(rng) for _ in range(20_000)]
            mean = sum(drawn) / len(drawn)
            deviation = math.sqrt(sum((d - mean) ** 2 for d in drawn) / len(drawn))
            with self.subTest(kind):
                self.assertAlmostEqual(mean / 180, 1, 1)
                self.assertAlmostEqual(deviation / mean, spread, 1)
        self.assertIsInstance(distribution("erlang", 9, 0.5), Erlang)
        self.assertEqual(distribution("lognormal", 9, 2), Lognormal(9, 2))
        for kind, mean_s, spread in (
            ("lognormal", 9, 0),
            ("erlang", 9, 2),
            ("normal", 9, 1),
            ("fixed", 0, 1),
            ("erlang", 9, 0.001),
            ("erlang", 9, 1e-200),
        ):
            with self.subTest(kind, mean=mean_s), self.assertRaises(ValueError):
                distribution(kind, mean_s, spread)

    def test_callers_come_as_the_profile_says_by_the_centres_clock(self):
        profile, zone = by_hours(USUAL_DAY, 0.8, 0.5), ZoneInfo("Europe/London")
        # Midnight of the Sunday on which clocks go back: 25 hours, 1 o'clock twice.
        sunday = 1_792_882_800_000
        day = [sum(USUAL_DAY) * 0.5 + USUAL_DAY[1] * 0.5]
        counted = []
        for seed in range(40):
            arrivals = Arrivals(profile, stream(seed, "arrivals"), zone, 1.0, sunday)
            moments = iter(partial(arrivals.before, sunday + 25 * HOUR_MS), None)
            counted.append(sum(1 for _ in moments))
        self.assertTrue(estimate(counted, 0.99).holds(day[0]), (estimate(counted, 0.99), day))
        empty = Profile(((0.0,) * 95 + (4.0,),) * 7)
        first = Arrivals(empty, stream(1), zone, 1.0, sunday).before(sunday + 90 * DAY_MS)
        self.assertEqual(first // (15 * 60_000) % 4, 3)

    def test_callers_come_at_the_moments_of_a_day_by_the_centres_clock(self):
        zone, moments = ZoneInfo("Europe/London"), (8 * HOUR_MS, 8 * HOUR_MS + 1, 24 * HOUR_MS + 5)
        # From nine o'clock of the Saturday before clocks go back on.
        nine = 1_792_796_400_000 + 9 * HOUR_MS
        sunday, monday = 1_792_882_800_000, 1_792_882_800_000 + 25 * HOUR_MS
        again = Moments(moments, stream(1), zone, 1.0, nine)
        came = iter(lambda: again.before(monday + 9 * HOUR_MS), None)
        self.assertEqual(
            list(came),
            [
                sunday + moments[0],
                sunday + moments[1],
                sunday + moments[2],
                monday + moments[0],
                monday + moments[1],
            ],
        )
        thrice = Moments(moments[:1] * 1000, stream(1), zone, 2.5, nine)
        times = len(list(iter(lambda: thrice.before(monday), None)))
        self.assertTrue(2400 < times < 2600, times)
        self.assertIsNone(Moments(moments, stream(1), zone, 0.0, nine).before(monday))

    def test_a_day_of_moments_is_simulated_where_the_profile_says_nothing(self):
        setup, traits = textbook.setup([(5, range(6))]), textbook.traits([0.05], 150.0, 90.0)
        moments = tuple(range(0, 5 * HOUR_MS, HOUR_MS))
        plan = Plan(BEGINS_MS, 1.0, traits._replace(profile=always(0), moments=moments), all_in_s=0)
        self.assertEqual(run(setup, plan).arrived, len(moments) - 1, "nobody comes at the very beginning")

    def test_where_callers_come_once_in_an_age_the_search_for_the_next_has_an_end(self):
        seldom = Arrivals(always(1e-12), stream(1), ZoneInfo("UTC"), 1.0, BEGINS_MS)
        self.assertIsNone(seldom.before(BEGINS_MS + DAY_MS))
        plan = RunTests.plan(self, traits=textbook.traits([1e-15], 150.0, 90.0), days=3)
        self.assertEqual(run(textbook.setup([(5, range(2))]), plan).arrived, 0)

    def test_a_profile_is_a_table_and_bad_rows_are_told_by_line(self):
        profile = by_hours(USUAL_DAY, 0.8, 0.5)
        again = from_csv(profile.as_csv())
        self.assertEqual(again.as_csv(), profile.as_csv())
        rows = profile.as_csv().splitlines()
        for bad, words in (
            (rows[:50], "96 rows"),
            ([*rows[:-1], "23:45,1,2"], "Line 97"),
            (['"' + "9" * 150_000], "no table"),
            ([rows[0], "00:00,1,2,x,4,5,6,7", *rows[2:]], f"Line 2, {DAYS[2]}"),
            ([rows[0], "00:00,1,2,-3,4,5,6,7", *rows[2:]], "no number"),
            ([rows[0], "00:00,1,2,nan,4,5,6,7", *rows[2:]], "no number"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                from_csv("\n".join(bad))

    def test_students_t_is_that_of_the_tables(self):
        for chance, freedom, value in (
            (0.95, 1, 12.706),
            (0.95, 30, 2.042),
            (0.99, 29, 2.756),
            (0.99, 11, 3.106),
            (0.95, 12, 2.179),
        ):
            self.assertAlmostEqual(student(chance, freedom), value, 2)
