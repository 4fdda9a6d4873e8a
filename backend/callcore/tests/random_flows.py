"""Any flow at all, for properties: loops, open exits, stops that nothing leads to."""

from __future__ import annotations

from hypothesis import strategies as st

from callcore.flow.definition import Flow, load
from callcore.tests.flows import BOOKINGS

IDS = [f"s{i}" for i in range(6)]
targets = st.one_of(st.none(), st.sampled_from([*IDS, "nowhere"]))
TEXT = {"kind": "text", "text": "x"}

#: What each kind is made of, beside its id and its exits.
_PARTS = {
    "say": {"prompt": st.just(TEXT)},
    "menu": {"tries": st.one_of(st.none(), st.integers(1, 3)), "wait_s": st.just(1)},
    "digits": {"wait_s": st.just(1)},
    "queue": {"queue": st.sampled_from([None, BOOKINGS])},
    "ring": {"number": st.sampled_from(["", "+441632960111"]), "ring_s": st.just(5)},
    "message": {"mailbox": st.sampled_from([None, "mailbox:night", "mailbox:gone"])},
    "go": {"flow": st.just("flow:x")},
    "music": {"seconds": st.integers(1, 9)},
    "repeat": {"times": st.just(2)},
    "set": {"to": st.just("y")},
    "end": {},
}
_EXITS = {
    "say": ["next"],
    "menu": ["no_key"],
    "digits": ["next", "no_digits"],
    "queue": ["waited"],
    "ring": ["busy", "no_answer", "failed"],
    "message": ["failed"],
    "go": ["failed"],
    "music": ["next"],
    "repeat": ["again", "done"],
    "set": ["next"],
    "end": [],
}


@st.composite
def random_flows(draw, kinds=tuple(_PARTS)) -> Flow:
    """A flow of six steps of the given kinds."""
    steps = []
    for step_id in IDS:
        kind = draw(st.sampled_from(kinds))
        step = {"kind": kind, "id": step_id}
        step |= {name: draw(part) for name, part in _PARTS[kind].items()}
        step |= {name: draw(targets) for name in _EXITS[kind]}
        if kind == "menu":
            keys = draw(st.lists(st.sampled_from("123*#"), unique=True, max_size=3))
            step["arms"] = [{"key": key, "next": draw(targets)} for key in keys]
        steps.append(step)
    failure = draw(st.sampled_from([None, TEXT]))
    return load({"start": draw(targets), "steps": steps, "stay_limit_s": 30, "failure_prompt": failure})
