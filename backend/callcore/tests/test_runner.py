import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.errors import EventRefused
from callcore.flow.definition import End, Flow, GoOn, Input, Lookup, Message, Ring, Say, WaitInQueue
from callcore.flow.runner import (
    Dial,
    Due,
    Finish,
    HandOver,
    HungUp,
    JoinQueue,
    Key,
    Listen,
    Looked,
    Machine,
    MadeUp,
    MailboxRule,
    MessageLeft,
    Moved,
    NowhereToGo,
    PersonDone,
    Play,
    Record,
    Rung,
    Taken,
    WaitedOut,
    from_data,
    to_data,
)
from callcore.tests.flows import BOOKINGS, main_line, text, with_hours, with_step
from callcore.tests.random_flows import RUN, random_flows

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
        self.assertEqual(effects, (Moved("menu", "key:1", "wait", "key", "1"), JoinQueue("wait", BOOKINGS)))
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
        self.assertEqual(call.feed(Key("9"))[0], Moved("menu", "wrong_key", "menu", "wrong_key", "9"))
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
            machine = Machine(with_hours(), lambda _: 1, MadeUp(lambda _r, _n, o=is_open: (o, "Tue 18:42")))
            _, effects = machine.start(0)
            exit_name = "open" if is_open else "closed"
            self.assertEqual(effects[1], Moved("open", exit_name, to, "hours", "Tue 18:42"))
            self.assertIsInstance(effects[2], Play)

    def test_hours_that_lead_in_a_circle_meet_the_failure_rule(self):
        machine = Machine(with_hours(open="open"), lambda _: 1, MadeUp(lambda _r, _n: (True, "")))
        state, effects = machine.start(0)
        self.assertEqual((state.ending, effects[-2].why), ("failed", "round_and_round"))
        gone = Machine(with_hours(), lambda _: 1)
        self.assertEqual(gone.start(0)[1][-2].why, "no_hours")

    def test_answers_that_come_at_once_lead_round_only_so_often(self):
        """Nobody there, busy, no such flow: fed back in the same moment they have one bound."""
        round_and_round = {
            "queue": (WaitInQueue(id="at", queue="queue:x", waited="at"), WaitedOut("nobody_there")),
            "ring": (Ring(id="at", people=("agent:x",), busy="at"), Rung("busy")),
            "go": (GoOn(id="at", flow="flow:x", failed="at"), NowhereToGo()),
            "look": (Lookup(id="at", table="table:x", key="caller", not_found="at"), Looked(None)),
        }
        for step, event in round_and_round.values():
            machine = Machine(Flow(start="at", steps=(step,)), lambda _: 1)
            state, effects = machine.start(0, {"caller": "1"})
            fed = 0
            while state.phase != "ended":
                state, effects = machine.resume(state, event, fed // 10)
                fed += 1
                self.assertLess(fed, 200)
            self.assertEqual((state.ending, effects[-2].why), ("failed", "round_and_round"), step.kind)

    def test_rounds_that_take_time_go_on_until_the_stay_limit(self):
        step = Ring(id="at", people=("agent:x",), ring_s=5, no_answer="at")
        machine = Machine(Flow(start="at", steps=(step,), stay_limit_s=900), lambda _: 1)
        state, effects, now = *machine.start(0), 0
        while state.phase != "ended":
            now += 5 * SECOND
            state, effects = machine.resume(state, Due(), now)
        self.assertEqual((now, effects[-2].why), (900 * SECOND, "stay_limit"))

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


RING = Ring(id="ring", number="+441632960111", no_answer="box", busy="busy", failed=None)
AWAY = Flow(
    start="ring",
    steps=(
        RING,
        Message(id="box", mailbox="mailbox:night", thanks=text("Thank you.")),
        End(id="busy", label="Busy"),
    ),
    failure_prompt=text("Sorry."),
)
NIGHT = MailboxRule(text("Leave a message."), 60 * SECOND)


class AwayTests(unittest.TestCase):
    """Outside numbers, mailboxes, other flows."""

    def call(self, flow=AWAY, mailbox=NIGHT, **values):
        call = Call(Flow())
        call.machine = Machine(flow, lambda _: 2 * SECOND, MadeUp(mailbox=lambda _: mailbox))
        call.state, effects = call.machine.start(0, values)
        call.effects = list(effects)
        return call

    def test_an_outside_number_answers_and_the_call_ends_with_it(self):
        call = self.call()
        self.assertEqual(call.effects[-1], Dial("ring", "+441632960111", 20 * SECOND))
        call.feed(Rung("answered"), 4 * SECOND)
        self.assertEqual((call.state.phase, call.state.due_ms), ("outside", None))
        self.assertEqual(call.feed(Rung("done")), (Finish("ring", "elsewhere"),))

    def test_each_way_of_not_answering_has_its_exit(self):
        call = self.call()
        self.assertEqual(call.feed(Rung("busy"))[0], Moved("ring", "busy", "busy", "busy", ""))
        call = self.call()
        self.assertEqual(call.wait()[0], Moved("ring", "no_answer", "box", "no_answer", "20"))
        call = self.call()
        call.feed(Rung("failed"))
        self.assertEqual(call.state.role, "failure")

    def message(self):
        call = self.call(with_step(AWAY, "ring", number="", failed="box"))
        self.assertEqual((call.state.phase, call.state.role), ("playing", "greeting"))
        self.assertEqual(call.wait()[-1], Record("box", "mailbox:night", 62 * SECOND))
        return call

    def test_a_message_ends_by_the_hash_by_hanging_up_or_by_its_time(self):
        call = self.message()
        left = call.feed(Key("#"), 5 * SECOND)
        self.assertEqual(left[0], MessageLeft("box", "mailbox:night", 5 * SECOND))
        self.assertEqual(call.wait(), (Finish("box", "message"),))
        call = self.message()
        self.assertEqual([type(e) for e in call.feed(HungUp(), 5 * SECOND)], [MessageLeft, Finish])
        self.assertEqual(call.state.ending, "message")
        call = self.message()
        self.assertEqual(call.wait()[0], MessageLeft("box", "mailbox:night", 60 * SECOND))

    def test_a_caller_who_says_nothing_leaves_no_message(self):
        call = self.message()
        self.assertEqual(call.feed(HungUp(), 500), (Finish("box", "hung_up"),))

    def test_a_mailbox_that_is_gone_takes_the_failure_exit(self):
        call = self.call(with_step(AWAY, "ring", number="", failed="box"), mailbox=None)
        self.assertIn(Moved("box", "failed", None, "no_mailbox", ""), call.effects)

    def test_a_flow_that_is_not_in_force_takes_the_failure_exit(self):
        steps = (GoOn(id="go", flow="flow:x", failed="bye"), End(id="bye"))
        call = self.call(Flow(start="go", steps=steps))
        self.assertEqual(call.effects[-1], HandOver("go", "flow:x"))
        self.assertEqual(call.feed(NowhereToGo())[-1], Finish("bye", "ended"))

    def test_a_contact_is_handed_on_only_so_often(self):
        machine = Machine(Flow(start="go", steps=(GoOn(id="go", flow="flow:x"),)), lambda _: 1)
        self.assertEqual(machine.start(0, flows=20)[0].phase, "going")
        self.assertEqual(machine.start(0, flows=21)[0].ending, "failed")

    def test_values_fill_references_and_texts_and_defaults_count_where_none_fits(self):
        inputs = (
            Input(name="desk", type="queue", default=BOOKINGS),
            Input(name="port", type="text", default="Ostrel"),
            Input(name="minutes", type="number", default=3),
        )
        prompt = text("Welcome to {port}. Boats leave every {minutes:number} minutes. {caller:digits}")
        steps = (Say(id="say", prompt=prompt, next="wait"), WaitInQueue(id="wait", queue="value:desk"))
        flow = Flow(start="say", steps=steps, inputs=inputs)
        call = self.call(flow, port="Northby", minutes="soon", caller="+44")
        heard = call.effects[-1].prompt.text
        self.assertEqual(heard, "Welcome to Northby. Boats leave every three minutes. four, four")
        self.assertEqual(call.wait()[-1], JoinQueue("wait", BOOKINGS))
        call = self.call(flow, desk="queue:other")
        self.assertEqual(call.wait()[-1], JoinQueue("wait", "queue:other"))
        stored = from_data(json.loads(json.dumps(to_data(call.state))))
        self.assertEqual(stored.values["port"], "Ostrel")


class RunnerProperties(unittest.TestCase):
    @given(random_flows(kinds=RUN), st.lists(st.sampled_from("123*#9"), max_size=40))
    def test_no_contact_stays_longer_than_the_limit(self, flow, keys):
        """Whatever the flow and the keys: over within the limit, the queue and last words apart."""
        boxes = {"mailbox:night": NIGHT}
        machine = Machine(flow, lambda _: 700, MadeUp(mailbox=boxes.get))
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
            elif state.phase == "going":
                visits += 1
                event = NowhereToGo() if visits < 20 else HungUp()
            elif state.phase == "asking":
                event = Looked(None)
            elif state.phase == "ringing" and keys:
                event, now = Rung("busy"), now + 100
                keys.pop()
            elif keys:
                event, now = Key(keys.pop()), now + 100
            else:
                event, now = Due(), max(now, state.due_ms)
            state, effects = machine.resume(state, event, now)
        self.assertEqual(state.phase, "ended")
        self.assertIsInstance(effects[-1], Finish)
        self.assertLessEqual(now - in_queue, 30 * SECOND + 2 * 700)
