import unittest

from hypothesis import given
from hypothesis import strategies as st

from callcore.flow.catalogue import (
    Catalogue,
    FlowFacts,
    HoursFacts,
    MailboxFacts,
    QueueFacts,
    SoundFacts,
    Spoken,
)
from callcore.flow.certain import certain
from callcore.flow.checks import blocking, check
from callcore.flow.conditions import OPERATORS, Comparison, Group, holds
from callcore.flow.definition import (
    Accepted,
    CheckHours,
    CheckQueue,
    Digits,
    End,
    Flow,
    GoOn,
    Input,
    LibrarySound,
    Menu,
    MenuArm,
    Message,
    Music,
    Ring,
    Say,
    WaitInQueue,
    load,
)
from callcore.flow.spoken_keys import offered_keys
from callcore.flow.steps import STEP_KINDS, Fork, Repeat, kinds_for
from callcore.flow.steps.decide import ForkArm
from callcore.tests.flows import BOOKINGS, OFFICE, WORLD, main_line, patched, text, with_hours, with_step

CELLS = (None, "", "no", "yes", "ten", "x", -1, 0, 1, 2, 3, 9, 10)
_compared = st.builds(
    Comparison,
    value=st.sampled_from(["a", "b"]),
    how=st.sampled_from(list(OPERATORS)),
    other=st.sampled_from(CELLS[2:]),
)
certain_conditions = st.recursive(
    st.builds(
        Group,
        join=st.sampled_from(["and", "or"]),
        parts=st.lists(_compared, min_size=1, max_size=3).map(tuple),
    ),
    lambda inner: st.builds(
        Group,
        join=st.sampled_from(["and", "or"]),
        parts=st.lists(st.one_of(_compared, inner), min_size=1, max_size=3).map(tuple),
    ),
    max_leaves=4,
)


def codes(flow, catalogue=WORLD):
    return [(f.severity, f.code, f.step) for f in check(flow, catalogue)]


class RoundsInNoTimeTests(unittest.TestCase):
    """Ways that lead round while no time passes: the runner ends them, the checker finds them."""

    def found(self, *steps, **facts):
        end = End(id="end")
        queues = {BOOKINGS: QueueFacts("Bookings", True, 3, 900, **facts)}
        agents = {"agent:x": "Ann"}
        catalogue = WORLD._replace(queues=queues, agents=agents)
        flow = Flow(start=steps[0].id, steps=(*steps, end))
        return [(f.severity, f.step, f.exit) for f in check(flow, catalogue) if f.code == "no-time-loop"]

    def test_a_queue_that_lets_go_at_once_leads_to_itself(self):
        queue = WaitInQueue(id="wait", queue=BOOKINGS, waited="wait")
        self.assertEqual(self.found(queue, lets_go=True), [("blocks", "wait", "waited")])
        self.assertEqual(self.found(queue, closes=True), [("blocks", "wait", "waited")])
        self.assertEqual(self.found(queue), [], "its longest wait passes each time")
        queue = WaitInQueue(id="wait", queue=BOOKINGS, waited="end", nobody="wait")
        self.assertEqual(self.found(queue, lets_go=True), [("blocks", "wait", "nobody")])
        self.assertEqual(self.found(queue, closes=True), [])

    def test_a_ring_that_is_busy_leads_to_itself_or_over_a_queue(self):
        ring = Ring(id="ring", people=("agent:x",), busy="ring", no_answer="end", failed="end")
        self.assertEqual(self.found(ring), [("blocks", "ring", "busy")])
        ring = ring.model_copy(update={"busy": "wait"})
        queue = WaitInQueue(id="wait", queue=BOOKINGS, waited="ring")
        self.assertEqual(len(self.found(ring, queue, lets_go=True)), 1)
        outside = Ring(id="ring", number="+441632960111", busy="ring", no_answer="end", failed="end")
        self.assertEqual(self.found(outside), [], "a number outside takes its time")
        outside = Ring(id="ring", number="+441632960111", busy="end", no_answer="end", failed="ring")
        self.assertEqual(self.found(outside), [], "and to say that it is none")
        fork = Fork(id="fork", otherwise="wait")
        queue = WaitInQueue(id="wait", queue=BOOKINGS, waited="fork")
        self.assertEqual(self.found(fork, queue, lets_go=True), [("blocks", "wait", "waited")])
        nobody = Ring(id="ring", busy="end", no_answer="end", failed="ring")
        self.assertEqual(self.found(nobody), [("blocks", "ring", "failed")])

    def test_forks_to_themselves_and_repeats_around_nothing(self):
        fork = Fork(id="fork", otherwise="fork")
        self.assertEqual(self.found(fork), [("blocks", "fork", "otherwise")])
        repeat = Repeat(id="repeat", times=5, again="repeat", done="end")
        self.assertEqual(self.found(repeat), [("warns", "repeat", "again")])
        heard = Repeat(id="repeat", times=5, again="hello", done="end")
        self.assertEqual(self.found(heard, Say(id="hello", prompt=text("Hello."), next="repeat")), [])

    def test_each_round_is_told_once_and_what_only_leads_there_is_not(self):
        steps = [Fork(id=f"f{i}", otherwise=f"f{i + 1}") for i in range(40)]
        one = [*steps[:39], Fork(id="f39", otherwise="f30")]
        self.assertEqual(self.found(*one), [("blocks", "f30", "otherwise")])


class CheckTests(unittest.TestCase):
    def test_a_sound_flow_has_no_findings(self):
        self.assertEqual(codes(main_line()), [])

    def test_each_fault_is_found_at_its_stop(self):
        menu = main_line().steps[1]
        cases = {
            "open exit": (with_step(main_line(), "hello", next=None), ("blocks", "open-exit", "hello")),
            "missing target": (
                with_step(main_line(), "hello", next="gone"),
                ("blocks", "missing-target", "hello"),
            ),
            "no queue": (with_step(main_line(), "wait", queue=None), ("blocks", "missing-queue", "wait")),
            "queue gone": (
                with_step(main_line(), "wait", queue="queue:gone"),
                ("blocks", "missing-queue", "wait"),
            ),
            "menu without arm": (
                with_step(main_line(), "menu", arms=()),
                ("blocks", "menu-without-arm", "menu"),
            ),
            "nothing said": (
                with_step(main_line(), "hello", prompt=text("")),
                ("blocks", "empty-text", "hello"),
            ),
            "default failure": (
                with_step(main_line(), "menu", no_key=None),
                ("warns", "default-failure", "menu"),
            ),
            "silence without end": (
                with_step(main_line(), "menu", tries=None),
                ("warns", "no-silence-limit", "menu"),
            ),
            "silence goes round": (
                with_step(main_line(), "menu", no_key="hello"),
                ("warns", "no-silence-limit", "menu"),
            ),
            "key without arm": (
                with_step(main_line(), "menu", prompt=text("Press 1, press 2, press 5.")),
                ("warns", "key-without-arm", "menu"),
            ),
            "arm not named": (
                with_step(main_line(), "menu", prompt=text("For bookings, press 1.")),
                ("warns", "arm-not-named", "menu"),
            ),
            "many choices": (
                with_step(main_line(), "menu", arms=tuple(MenuArm(key=k, next="bye") for k in "123456")),
                ("hints", "many-choices", "menu"),
            ),
            "late choice": (
                with_step(main_line(), "hello", prompt=text("word " * 90)),
                ("hints", "late-choice", "menu"),
            ),
            "no start": (main_line(start=None), ("blocks", "no-start", "")),
            "not reached": (
                main_line(steps=(*main_line().steps, End(id="island"))),
                ("hints", "not-reached", "island"),
            ),
            "no way out": (
                main_line(
                    steps=(
                        main_line().steps[0],
                        menu.model_copy(
                            update={"arms": (MenuArm(key="1", next="hello"),), "no_key": "hello"}
                        ),
                    )
                ),
                ("blocks", "no-way-out", "hello"),
            ),
        }
        for name, (flow, expected) in cases.items():
            with self.subTest(name):
                self.assertIn(expected, codes(flow))

    def test_keys_that_the_stop_before_names_or_that_are_hidden_are_no_fault(self):
        silent = with_step(main_line(), "menu", prompt=text("For bookings, press 1."))
        said = with_step(silent, "hello", prompt=text("For today's sailings, press 2."))
        self.assertEqual(codes(said), [])
        arms = tuple(a.model_copy(update={"hidden": a.key == "2"}) for a in silent.steps[1].arms)
        self.assertEqual(codes(with_step(silent, "menu", arms=arms)), [])
        self.assertEqual(codes(silent), [("warns", "arm-not-named", "menu")])

    def test_queues_that_nobody_serves(self):
        unfinished = Catalogue(queues={BOOKINGS: QueueFacts("Freight desk", False, 0)})
        empty = Catalogue(queues={BOOKINGS: QueueFacts("Bookings", True, 0)})
        self.assertEqual(codes(main_line(), unfinished), [("blocks", "unfinished-queue", "wait")])
        self.assertEqual(codes(main_line(), empty), [("warns", "empty-queue", "wait")])

    def test_queues_that_keep_callers_for_ever_or_whose_skills_nobody_has(self):
        def found(facts):
            return codes(main_line(), Catalogue(queues={BOOKINGS: facts}))

        self.assertEqual(found(QueueFacts("Bookings", True, 2)), [("warns", "waits-for-ever", "wait")])
        self.assertEqual(found(QueueFacts("Bookings", True, 2, lets_go=True)), [])
        self.assertEqual(
            found(QueueFacts("Bookings", True, 2, 900, able=0)), [("warns", "unskilled-queue", "wait")]
        )

    def test_a_way_longer_than_the_limit_is_told_with_how_long_it_needs(self):
        music = tuple(Music(id=f"m{i}", seconds=300, next=f"m{i + 1}") for i in range(4))
        flow = Flow(start="m0", steps=(*music, End(id="m4")), stay_limit_s=900)
        (finding,) = check(flow, WORLD)
        self.assertEqual((finding.code, finding.severity), ("longer-than-limit", "warns"))
        self.assertEqual(finding.fix.patch[0]["value"], 1200)
        self.assertEqual(check(flow.model_copy(update={"stay_limit_s": 1200}), WORLD), [])

    def test_an_outside_number_at_any_hour_costs_and_behind_open_hours_it_does_not(self):
        ring = Ring(id="r", number="+441632960111", busy="e", no_answer="e", failed="e")
        flow = Flow(start="r", steps=(ring, End(id="e")))
        self.assertEqual(codes(flow), [("warns", "outside-at-any-hour", "r")])
        hours = CheckHours(id="h", hours=OFFICE, open="r", closed="e")
        behind = flow.model_copy(update={"start": "h", "steps": (hours, *flow.steps)})
        self.assertEqual(codes(behind), [])

    def test_hours_that_are_missing_or_never_open(self):
        never = Catalogue(queues=WORLD.queues, hours={OFFICE: HoursFacts("Office hours", False)})
        self.assertEqual(codes(with_hours()), [])
        for ref in (None, "hours:gone"):
            self.assertEqual(codes(with_hours(hours=ref)), [("blocks", "missing-hours", "open")])
        self.assertEqual(codes(with_hours(), never), [("warns", "never-open", "open")])

    def test_things_that_calls_are_sent_to(self):
        catalogue = WORLD._replace(
            mailboxes={"mailbox:a": MailboxFacts("Night", False, 0, 60_000)},
            flows={
                "flow:draft": FlowFacts("Draft", False, "voice"),
                "flow:text": FlowFacts("Texts", True, "text"),
                "flow:back": FlowFacts("Back", True, "voice", ("flow:other",)),
                "flow:other": FlowFacts("Other", True, "voice", ("flow:own",)),
            },
            own="flow:own",
        )
        cases = [
            (Message(id="x", failed="bye"), ("blocks", "missing-mailbox")),
            (Message(id="x", mailbox="mailbox:gone", failed="bye"), ("blocks", "missing-mailbox")),
            (Message(id="x", mailbox="mailbox:a", failed="bye"), ("warns", "no-greeting")),
            (GoOn(id="x", failed="bye"), ("blocks", "missing-flow")),
            (GoOn(id="x", flow="flow:draft", failed="bye"), ("blocks", "flow-not-in-force")),
            (GoOn(id="x", flow="flow:text", failed="bye"), ("blocks", "other-channel")),
            (GoOn(id="x", flow="flow:back", failed="bye"), ("blocks", "flows-in-a-circle")),
            (Ring(id="x", busy="bye", no_answer="bye", failed="bye"), ("blocks", "no-number")),
            (
                Ring(id="x", number="+441632960111", busy="x", no_answer="bye", failed="bye"),
                ("warns", "outside-in-a-loop"),
            ),
            (WaitInQueue(id="x", queue="value:desk", waited="bye"), ("blocks", "unknown-value")),
        ]
        for step, expected in cases:
            with self.subTest(expected):
                flow = main_line(steps=(*main_line().steps, step))
                flow = with_step(flow, "hello", next="x")
                found = [(f.severity, f.code) for f in check(flow, catalogue) if f.step == "x"]
                self.assertIn(expected, found)

    def test_values_are_looked_through_to_their_defaults(self):
        desk = Input(name="desk", type="queue", default=BOOKINGS)
        flow = with_step(main_line(inputs=(desk,)), "wait", queue="value:desk")
        self.assertEqual(codes(flow), [])
        open_desk = flow.model_copy(update={"inputs": (Input(name="desk", type="queue"),)})
        self.assertEqual(codes(open_desk), [("warns", "queue-left-to-numbers", "wait")])
        self.assertEqual(codes(open_desk, WORLD._replace(handed=frozenset({"desk"}))), [])
        text_desk = flow.model_copy(update={"inputs": (Input(name="desk", default="x"),)})
        self.assertIn(("blocks", "wrong-type", "wait"), codes(text_desk))
        unused = main_line(inputs=(desk,))
        self.assertEqual(codes(unused), [("hints", "unused-input", "")])
        strange = with_step(main_line(), "hello", prompt=text("Hello {who} at {caller:backwards}."))
        self.assertEqual(
            codes(strange), [("blocks", "unknown-value", "hello"), ("warns", "unknown-way", "hello")]
        )

    def test_a_sound_that_lacks_the_flows_language_is_named(self):
        facts = SoundFacts("Welcome", {"en": Spoken("Hello.", 900)})
        flow = with_step(main_line(language="cy"), "hello", prompt=LibrarySound(sound="sound:w"))
        catalogue = WORLD._replace(sounds={"sound:w": facts}, language="cy")
        self.assertEqual(codes(flow, catalogue), [("warns", "sound-in-other-language", "hello")])
        self.assertEqual(catalogue.length_ms(LibrarySound(sound="sound:w")), 900)

    def test_comparisons_that_decide_nothing_are_found(self):
        def part(value, how, other=None):
            return Comparison(value=value, how=how, other=other)

        def found(*arms, join="and"):
            rows = tuple(
                ForkArm(id=f"a{i}", when=Group(join=join, parts=parts), next="bye")
                for i, parts in enumerate(arms)
            )
            fork = Fork(id="fork", arms=rows, otherwise="hello")
            inputs = (Input(name="party", type="number"), Input(name="paid", type="yes_no"))
            flow = main_line(start="fork", inputs=inputs, steps=(fork, *main_line().steps))
            return [(f.code, f.exit) for f in check(flow, WORLD) if f.step == "fork"]

        big, small = part("party", "more_than", 9), part("party", "less_than", 5)
        self.assertEqual(found((big,), (small,)), [])
        self.assertEqual(found((big,), (big,)), [("same-condition", "arm:a1")])
        self.assertEqual(found((big, small)), [("never-true", "arm:a0")])
        paid = (part("paid", "given"), part("paid", "not_given"))
        self.assertEqual(found(paid, join="or"), [("always-true", "arm:a0")])
        self.assertEqual(found((part("party", "is", "many"),)), [("unlike-compared", "arm:a0")])
        self.assertEqual(found((part("paid", "is", "perhaps"),)), [("unlike-compared", "arm:a0")])
        self.assertEqual(found((part("caller", "more_than", "x"),)), [("unlike-compared", "arm:a0")])

    @given(certain_conditions, st.lists(st.sampled_from(CELLS), min_size=9, max_size=9))
    def test_what_is_certain_is_so_for_every_value(self, condition, others):
        answer = certain(condition)
        if answer is not None:
            for a in CELLS:
                for b in others:
                    self.assertEqual(holds(condition, {"a": a, "b": b}), answer, (a, b))

    def test_figures_that_decide_nothing_are_found(self):
        def found(**asked):
            step = CheckQueue(id="check", queue=BOOKINGS, yes="hello", no="bye", **asked)
            flow = main_line(start="check", steps=(step, *main_line().steps))
            return [(f.code, f.exit) for f in check(flow, WORLD) if f.step == "check"]

        self.assertEqual(found(limit=1), [])
        self.assertEqual(found(limit=0), [("always-true", "no")])
        self.assertEqual(found(limit=0, how="less_than"), [("never-true", "yes")])
        self.assertEqual(found(figure="service_level", limit=101), [("never-true", "yes")])
        centre = found(whole_centre=True, figure="position")
        self.assertEqual(centre, [("figure-of-a-queue", "")])

    def test_a_number_of_another_channel_would_lose_its_callers(self):
        catalogue = WORLD._replace(called=frozenset({"voice", "text"}))
        self.assertEqual(codes(main_line(), catalogue), [("blocks", "number-of-another-channel", "")])
        self.assertEqual(codes(main_line(), WORLD._replace(called=frozenset({"voice"}))), [])

    def test_the_kinds_that_are_offered_are_those_that_are_not_blocked(self):
        barred = {"voice-in-text", "not-while-waiting"}
        for purpose in ("flow", "block", "plan"):
            for channel in ("voice", "text"):
                for kind in STEP_KINDS:
                    flow = load(
                        {"purpose": purpose, "channel": channel, "steps": [{"kind": kind, "id": "x"}]}
                    )
                    found = {f.code for f in check(flow, Catalogue(channel=channel))}
                    with self.subTest(f"{purpose} {channel} {kind}"):
                        offered = kind in kinds_for(purpose, channel)
                        self.assertEqual(offered, not found & barred)

    def test_voice_steps_have_no_place_in_a_text_flow(self):
        steps = (*main_line().steps, Message(id="x", mailbox="mailbox:a"))
        self.assertIn(("blocks", "voice-in-text", "x"), codes(main_line(channel="text", steps=steps)))

    def test_more_than_three_menus_in_a_row(self):
        steps = [
            Menu(id=f"m{i}", prompt=text("Press 1."), arms=(MenuArm(key="1", next=f"m{i + 1}"),), no_key="m4")
            for i in range(4)
        ]
        flow = main_line(start="m0", steps=(*steps, End(id="m4")))
        self.assertEqual(codes(flow), [("hints", "deep-menu", "m3")])

    def test_a_warning_can_be_let_be_with_a_reason_and_what_blocks_cannot(self):
        flow = with_step(main_line(), "menu", no_key=None)
        flow = with_step(flow, "wait", queue=None)
        let_be = (
            Accepted(code="default-failure", step="menu", exit="no_key", reason="Meant so."),
            Accepted(code="missing-queue", step="wait", reason="Later."),
        )
        found = check(flow.model_copy(update={"accepted": let_be}), WORLD)
        self.assertEqual(
            [(f.code, f.accepted) for f in found], [("missing-queue", ""), ("default-failure", "Meant so.")]
        )

    def test_worst_comes_first(self):
        flow = with_step(with_step(main_line(), "wait", queue=None), "menu", no_key=None)
        findings = check(flow, WORLD)
        self.assertEqual([f.severity for f in findings], ["blocks", "warns"])
        self.assertEqual(blocking(findings), findings[:1])

    def test_every_fix_mends_what_it_names(self):
        faults = [
            with_step(main_line(), "hello", next=None),
            with_step(main_line(), "hello", next="gone"),
            with_step(main_line(), "menu", no_key=None),
            with_step(main_line(), "menu", tries=None),
            with_step(main_line(), "menu", no_key="hello"),
            with_step(main_line(), "menu", prompt=text("For bookings, press 1.")),
            with_step(main_line(), "menu", prompt=text("Press 1, press 2. For lost property, 5.")),
            main_line(start=None),
            main_line(steps=(Say(id="hello", prompt=text("Hello."), next="hello"),)),
            main_line(
                start="go",
                steps=(
                    Fork(id="go", otherwise="menu", arms=(ForkArm(id="a", when=Group(), next="bye"),)),
                    Menu(
                        id="menu",
                        prompt=text("Hello {digits}, press 1."),
                        no_key="go",
                        arms=(MenuArm(key="1", next="ask"),),
                    ),
                    Digits(id="ask", prompt=text("Your booking?"), next="bye", no_digits="bye"),
                    End(id="bye"),
                ),
            ),
            main_line(start="box", steps=(Message(id="box", failed="bye"), End(id="bye"))),
            main_line(
                start="check",
                steps=(
                    CheckQueue(
                        id="check", whole_centre=True, figure="position", queue=BOOKINGS, yes="bye", no="bye"
                    ),
                    End(id="bye"),
                ),
            ),
            main_line(steps=(*main_line().steps, Say(id="island", prompt=text("x"), next="bye"))),
        ]
        box = MailboxFacts("Night", True, 0, 60_000)
        catalogue = WORLD._replace(mailboxes={"mailbox:night": box})
        for flow in faults:
            finding = next(f for f in check(flow, catalogue) if f.fix)
            with self.subTest(finding.code):
                after = check(patched(flow, finding.fix.patch), catalogue)
                self.assertNotIn((finding.code, finding.step), [(f.code, f.step) for f in after])

    def test_keys_are_read_out_of_texts(self):
        cases = {
            "For bookings and changes, press 1. For today's sailings, 2. For lost property, 5.": {
                "1": "Bookings and changes",
                "2": "Today's sailings",
                "5": "Lost property",
            },
            "Press one to be called back, or press star to hear this again.": {
                "1": "Be called back",
                "*": "Hear this again",
            },
            "I siarad â ni, pwyswch 3.": {"3": "Siarad â ni"},
            "We sail in 2 hours, at 10. There are 5 boats.": {},
            "In an emergency, hang up and dial 9 9 9. For bookings, press 1.": {"1": "Bookings"},
            "If it is urgent, dial nine nine nine.": {},
            "Sales is 1, service is 2.": {"1": "Sales", "2": "Service"},
            "Press 1 or 2. Press 3, 4 or 5 for the boats.": {
                "1": "",
                "2": "",
                "3": "",
                "4": "",
                "5": "Boats",
            },
            "Lost property is option 3. For freight, select 4. For tickets, select option 5.": {
                "3": "Lost property",
                "4": "Freight",
                "5": "Tickets",
            },
            "I archebu, gwasgwch 2. I siarad â ni, dewiswch opsiwn 4.": {"2": "Archebu", "4": "Siarad â ni"},
        }
        for words, keys in cases.items():
            with self.subTest(words):
                self.assertEqual(offered_keys(words), keys)
