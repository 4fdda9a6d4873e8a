"""Why a contact took an exit, in plain words: the transcript of a call."""

from __future__ import annotations

from callcore.flow.definition import Flow
from callcore.flow.describe import duration, exit_label
from callcore.flow.state import Moved

#: By reason code. `{detail}` is the reason's own, `{key}` the same as a key, `{label}` the exit's,
#: `{after}` what a failed try leads to, `{limit}` the flow's longest stay.
_WHY = {
    "arrived": "the call was answered",
    "heard": "heard to the end",
    "key": "{key} → {label}",
    "hours": "{detail} → {label}",
    "times": "{detail} → {label}",
    "fork": "{detail} → {label}",
    "figure": "{detail} → {label}",
    "digits": "{detail}",
    "looked_up": "{detail} → {label}",
    "set": "{detail}",
    "label": "{detail}",
    "repeat": "round {detail} → {label}",
    "silence_ends": "no valid key in {detail} tries → ends, as the centre wishes",
    "waited_out": "the queue's longest wait has passed",
    "queue_gone": "the queue is gone",
    "queue_closed": "the queue is closed",
    "nobody_there": "nobody is signed in to the queue",
    "answered": "a person answered",
    "answered_outside": "answered outside",
    "no_answer": "nobody answered in {detail} s → {label}",
    "busy": "busy → {label}",
    "away": "not signed in → {label}",
    "failed": "the number cannot be reached",
    "through_agent": "{detail} is put through",
    "through_group": "{detail} is put through",
    "no_person": "nobody is named → {label}",
    "no_group": "nobody is in the ring group → {label}",
    "through_queue": "{detail} is put through",
    "through_mailbox": "{detail} is put through",
    "through_flow": "{detail} is put through",
    "no_extension": "{detail} is nobody's extension → {after}",
    "no_name": "{detail} spells nobody's name → {after}",
    "too_few": "too few digits → {after}",
    "not_confirmed": "not confirmed → {after}",
    "no_number": "no number is given",
    "no_mailbox": "there is no such mailbox",
    "no_table": "no table is chosen",
    "look_up_failed": "the table could not be asked → {label}",
    "fax": "a fax tone was heard",
    "no_fax": "no fax tone",
    "no_flow": "that flow is not in force",
    "no_sound": "there is no such sound → failure rule",
    "no_queue": "no queue is chosen → failure rule",
    "no_hours": "there are no such hours → failure rule",
    "nowhere": "the exit leads nowhere → failure rule",
    "told": "told to the end",
    "not_told": "not sure enough to tell",
    "booked": "a callback to {detail} is booked",
    "declined": "no callback wanted → {label}",
    "no_such_number": "{detail} is no number that can be rung → {after}",
    "round_and_round": "decisions go round in a circle → failure rule",
    "broken": "something went wrong on our side → failure rule",
    "stay_limit": "longer in the flow than {limit} → failure rule",
}


def why(moved: Moved, flow: Flow) -> str:
    """Why a contact took an exit, for people."""
    step = next((s for s in flow.steps if s.id == moved.step), None)
    label = exit_label(step, moved.exit, flow.channel) if step else ""
    if moved.why in ("no_key", "wrong_key"):
        return _missed(moved, label, flow)
    if moved.why == "arrived" and flow.purpose == "plan":
        return "the waiting plan begins"
    after = "asked again" if moved.to == moved.step else label
    words = _WHY.get(moved.why, moved.why)
    return words.format(
        detail=moved.detail,
        key=_pressed(moved, flow),
        label=label,
        after=after,
        limit=duration(flow.stay_limit_s),
    )


def _pressed(moved: Moved, flow: Flow) -> str:
    """What was pressed, said or written."""
    if moved.detail.startswith("“"):
        return moved.detail
    return f"“{moved.detail}”" if flow.channel == "text" else f"key {moved.detail}"


def _missed(moved: Moved, label: str, flow: Flow) -> str:
    """Silence or a wrong key: the first tries, and the last."""
    answer = "answer" if flow.channel == "text" else "key"
    if moved.to != moved.step:
        if moved.exit == "wrong_key":
            return f"nothing that fits, {moved.detail} times → {label}"
        tries = "1 try" if moved.detail == "1" else f"{moved.detail} tries"
        return f"no valid {answer} in {tries} → {label}"
    if moved.why == "no_key":
        return f"no {answer} in time, try {moved.detail} → asked again"
    return f"{_pressed(moved, flow)} is not a choice → asked again"
