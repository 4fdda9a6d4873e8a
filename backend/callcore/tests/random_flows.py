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
    "digits": {"wait_s": st.just(1), "confirm": st.sampled_from([None, TEXT]), "most": st.integers(1, 3)},
    "music": {"seconds": st.integers(1, 9)},
    "fax": {"seconds": st.integers(1, 5)},
    "hours": {"hours": st.sampled_from([None, "hours:office", "hours:gone"])},
    "times": {},
    "fork": {},
    "lookup": {"table": st.sampled_from([None, "table:boats"]), "key": st.sampled_from(["digits", "caller"])},
    "check_queue": {"queue": st.sampled_from([None, BOOKINGS]), "limit": st.integers(0, 2)},
    "repeat": {"times": st.just(2)},
    "set": {"to": st.sampled_from(["y", 3, True, None])},
    "label": {"label": st.sampled_from(["", "From {caller}"]), "priority": st.sampled_from([None, 9])},
    "queue": {"queue": st.sampled_from([None, BOOKINGS])},
    "tell": {"queue": st.sampled_from([None, BOOKINGS])},
    "callback": {
        "queue": st.sampled_from([None, BOOKINGS]),
        "wait_s": st.just(1),
        "other_number": st.booleans(),
    },
    "ring": {
        "number": st.sampled_from(["", "+441632960111"]),
        "people": st.sampled_from([[], ["agent:a"], ["agent:a", "agent:b"]]),
        "at_once": st.booleans(),
        "ring_s": st.just(5),
    },
    "extension": {"wait_s": st.just(1), "tries": st.integers(1, 2), "ring_s": st.just(5)},
    "directory": {"wait_s": st.just(1), "tries": st.integers(1, 2), "ring_s": st.just(5)},
    "message": {"mailbox": st.sampled_from([None, "mailbox:night", "mailbox:gone"])},
    "block": {"flow": st.sampled_from([None, "flow:x"])},
    "go": {"flow": st.just("flow:x")},
    "end": {},
}
_EXITS = {
    "say": ["next"],
    "menu": ["no_key"],
    "digits": ["next", "no_digits"],
    "music": ["next"],
    "fax": ["fax", "no_fax"],
    "hours": ["open", "closed"],
    "times": ["otherwise"],
    "fork": ["otherwise"],
    "lookup": ["found", "not_found", "failed"],
    "check_queue": ["yes", "no"],
    "repeat": ["again", "done"],
    "set": ["next"],
    "label": ["next"],
    "queue": ["waited", "nobody", "closed"],
    "tell": ["next"],
    "callback": ["declined", "failed"],
    "ring": ["busy", "no_answer", "away", "failed"],
    "extension": ["none", "no_answer"],
    "directory": ["none", "no_answer"],
    "message": ["failed"],
    "block": ["worked", "not_worked"],
    "go": ["failed"],
    "end": [],
}
KINDS = tuple(_PARTS)
#: Shared blocks are laid out before a flow runs.
RUN = tuple(kind for kind in KINDS if kind != "block")
_WHEN = {
    "join": "and",
    "parts": [{"kind": "compare", "value": "caller", "how": "begins_with", "other": "+44"}],
}
_MORNING = {"days": [0, 1, 2, 3, 4], "start": 480, "end": 720}


def _arms(draw, kind):
    """What some kinds have beside their exits."""
    if kind == "menu":
        keys = draw(st.lists(st.sampled_from("123*#"), unique=True, max_size=3))
        return {"arms": [{"key": key, "next": draw(targets)} for key in keys]}
    if kind == "fork" and draw(st.booleans()):
        return {"arms": [{"id": "a1", "when": _WHEN, "next": draw(targets)}]}
    if kind == "times" and draw(st.booleans()):
        return {"arms": [{"id": "a1", "periods": [_MORNING], "next": draw(targets)}]}
    return {}


@st.composite
def random_flows(draw, kinds=KINDS) -> Flow:
    """A flow of six steps of the given kinds."""
    steps = []
    for step_id in IDS:
        kind = draw(st.sampled_from(kinds))
        step = {"kind": kind, "id": step_id}
        step |= {name: draw(part) for name, part in _PARTS[kind].items()}
        step |= {name: draw(targets) for name in _EXITS[kind]}
        steps.append(step | _arms(draw, kind))
    failure = draw(st.sampled_from([None, TEXT]))
    return load({"start": draw(targets), "steps": steps, "stay_limit_s": 30, "failure_prompt": failure})
