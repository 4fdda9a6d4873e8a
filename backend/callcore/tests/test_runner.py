import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.flow.definition import End, Flow, Menu, MenuArm, Queue, Say, SpokenText
from callcore.flow.runner import (
    Due,
    Finish,
    HungUp,
    JoinQueue,
    Key,
    Listen,
    Machine,
    Moved,
    PersonDone,
    Play,
    Taken,
    WaitedOut,
    from_data,
    to_data,
)
from callcore.tests.flows import BOOKINGS, main_line, text, with_hours, with_step

SECOND = 1000


class Call:
    """A contact driven by hand: every prompt lasts two seconds."""

    def __init__(self, flow: Flow) -> None:
        self.machine = Machine(flow, lambda _: 2 * SECOND)
        self.now = 0
        self.state, effects = self.machine.start(0)
        self.effects = list(effects)

    def feed(self, event, after_ms: int = 0):
        self.now += after_ms
        self.state, effects = self.machine.resume(self.state, event, self.now)
        self.effects += effects
        return effects

    def wait(self):
        self.now = self.state.due_ms
        return self.feed(Due())

    def seen(self, kind):
        return [effect for effect in self.effects if isinstance(effect, kind)]


class RunnerTests(unittest.TestCase):
    def test_greeting_menu_key_queue(self):
        call = Call(main_line())
        self.assertEqual([p.step for p in call.seen(Play)], ["hello"])
        call.wait()
        self.assertEqual(call.wait()[-1], Listen("menu", 12 * SECOND))
        effects = call.feed(Key("1"), 3 * SECOND)
        self.assertEqual(
            effects, (Moved("menu", "key:1", "wait", "key", "1"), JoinQueue("wait", BOOKINGS))
        )
        self.assertEqual((call.state.phase, call.state.due_ms), ("queued", None))

    def test_a_key_works_during_the_menus_prompt_but_not_during_a_greeting(self):
        call = Call(main_line())
        self.assertEqual(call.feed(Key("1"), SECOND), ())
        call.wait()
        self.assertIn(JoinQueue("wait", BOOKINGS), call.feed(Key("1"), SECOND))

    def test_silence_asks_again_then_leaves_after_the_tries(self):
        call = Call(with_step(main_line(), "menu", tries=2, no_key_prompt=text("I heard nothing.")))
        call.wait()
        for _ in range(2):
            call.wait()
        self.assertEqual(call.seen(Play)[-1].role, "no_key")
        call.wait()
        self.assertEqual(call.seen(Play)[-1].role, "prompt")
        call.wait()
        self.assertEqual(call.wait()[0], Moved("menu", "no_key", "bye", "no_key", "2"))

    def test_a_wrong_key_counts_as_a_try(self):
        call = Call(with_step(main_line(), "menu", tries=2))
        call.wait()
        self.assertEqual(
            call.feed(Key("9"))[0], Moved("menu", "wrong_key", "menu", "wrong_key", "9")
        )
        self.assertEqual(call.feed(Key("9"))[0].exit, "no_key")

    def test_answered_then_done_ends_with_a_person(self):
        call = Call(main_line())
        call.wait()
        call.feed(Key("1"))
        call.feed(Taken(), 5 * SECOND)
        self.assertEqual(call.feed(Key("5")), ())
        self.assertEqual(call.feed(PersonDone()), (Finish("wait", "person"),))

    def test_waiting_too_long_goes_on_and_does_not_count_towards_the_limit(self):
        call = Call(main_line(stay_limit_s=30))
        call.wait()
        call.feed(Key("1"))
        effects = call.feed(WaitedOut(), 3600 * SECOND)
        self.assertEqual(effects[0], Moved("wait", "waited", "bye", "waited_out", ""))
        self.assertEqual(call.wait()[-1], Finish("bye", "ended"))

    def test_an_open_exit_meets_the_failure_rule(self):
        flow = with_step(main_line(failure_prompt=text("Sorry.")), "hello", next="gone")
        call = Call(flow)
        effects = call.wait()
        self.assertEqual([type(e) for e in effects], [Moved, Moved, Play])
        self.assertEqual(call.wait(), (Finish("hello", "failed"),))

    def test_hours_decide_at_once_and_say_why(self):
        for is_open, to in ((True, "hello"), (False, "bye")):
            machine = Machine(with_hours(), lambda _: 1, lambda _r, _n, o=is_open: (o, "Tue 18:42"))
            _, effects = machine.start(0)
            exit_name = "open" if is_open else "closed"
            self.assertEqual(effects[1], Moved("open", exit_name, to, "hours", "Tue 18:42"))
            self.assertIsInstance(effects[2], Play)

    def test_hours_that_lead_in_a_circle_meet_the_failure_rule(self):
        machine = Machine(with_hours(open="open"), lambda _: 1, lambda _r, _n: (True, ""))
        state, effects = machine.start(0)
        self.assertEqual((state.ending, effects[-2].why), ("failed", "round_and_round"))
        gone = Machine(with_hours(), lambda _: 1)
        self.assertEqual(gone.start(0)[1][-2].why, "no_hours")

    def test_nothing_can_happen_after_the_end(self):
        call = Call(main_line())
        self.assertEqual(call.feed(HungUp()), (Finish("hello", "hung_up"),))
        with self.assertRaises(EventRefused):
            call.feed(Key("1"))

    def test_a_queue_event_outside_a_queue_is_refused(self):
        with self.assertRaises(EventRefused):
            Call(main_line()).feed(Taken())

    def test_the_state_survives_storage(self):
        state = Call(main_line()).state
        self.assertEqual(from_data(to_data(state)), state)


IDS = [f"s{i}" for i in range(6)]
targets = st.one_of(st.none(), st.sampled_from([*IDS, "nowhere"]))


@st.composite
def random_flows(draw) -> Flow:
    """Any flow at all: loops, open exits, stops that nothing leads to."""
    steps = []
    for step_id in IDS:
        kind = draw(st.sampled_from(["say", "menu", "queue", "end"]))
        if kind == "say":
            steps.append(Say(id=step_id, prompt=SpokenText(text="x"), next=draw(targets)))
        elif kind == "menu":
            keys = draw(st.lists(st.sampled_from("123*#"), unique=True, max_size=3))
            arms = tuple(MenuArm(key=key, next=draw(targets)) for key in keys)
            tries = draw(st.one_of(st.none(), st.integers(1, 3)))
            steps.append(Menu(id=step_id, arms=arms, tries=tries, wait_s=1, no_key=draw(targets)))
        elif kind == "queue":
            ref = draw(st.sampled_from([None, BOOKINGS]))
            steps.append(Queue(id=step_id, queue=ref, waited=draw(targets)))
        else:
            steps.append(End(id=step_id))
    failure = draw(st.sampled_from([None, SpokenText(text="Sorry")]))
    return Flow(start=draw(targets), steps=tuple(steps), stay_limit_s=30, failure_prompt=failure)


class RunnerProperties(unittest.TestCase):
    @given(random_flows(), st.lists(st.sampled_from("123*#9"), max_size=40))
    def test_no_contact_stays_longer_than_the_limit(self, flow, keys):
        """Whatever the flow and the keys: over within the limit, the queue and last words apart."""
        machine = Machine(flow, lambda _: 700)
        state, effects = machine.start(0)
        now, in_queue, visits = 0, 0, 0
        for _ in range(2000):
            if state.phase == "ended":
                break
            if state.phase == "queued":
                visits += 1
                in_queue += 5 * SECOND
                now += 5 * SECOND
                event = WaitedOut() if visits < 20 else HungUp()
            elif keys:
                event, now = Key(keys.pop()), now + 100
            else:
                event, now = Due(), max(now, state.due_ms)
            state, effects = machine.resume(state, event, now)
        self.assertEqual(state.phase, "ended")
        self.assertIsInstance(effects[-1], Finish)
        self.assertLessEqual(now - in_queue, 30 * SECOND + 2 * 700)
