"""Every measure of a queue: its name, its sentence, and the parts that it is made of. What the API,
the help, "show its sum" and the columns' tips say of a figure, they say from here."""

from __future__ import annotations

from typing import Literal, NamedTuple

from callcore.measures.rows import FORMULA_NAMES, FORMULAS, LEVELS, LONGEST, Formula, QueueRow, Term, terms

#: A whole number of contacts, a time in ms, or a share (0..1).
Unit = Literal["count", "ms", "share"]
#: How a total comes about: sums add, the longest is taken, or it is worked out anew from its parts.
Adds = Literal["sum", "longest", "parts"]


class Measure(NamedTuple):
    """A figure: the sum of the terms `over`, divided by that of those `under` where there are any.

    Attributes:
        short: the head of a column. formula: in words. contacts: the column whose contacts stand
            behind it.
    """

    key: str
    name: str
    short: str
    unit: Unit
    sentence: str
    formula: str
    over: tuple[Term, ...]
    under: tuple[Term, ...] = ()
    contacts: str = "offered"

    @property
    def adds(self) -> Adds:
        """How it is totalled."""
        if self.under:
            return "parts"
        return "longest" if self.over[0].column in LONGEST else "sum"

    def value(self, row: QueueRow) -> float | None:
        """The figure of a row; None where nothing is to be divided by, or nobody is longest."""
        if self.adds == "longest" and not getattr(row, self.contacts):
            return None
        whole = row.sum_of(self.over)
        if not self.under:
            return whole
        divisor = row.sum_of(self.under)
        return whole / divisor if divisor else None


#: The columns in words.
PARTS: dict[str, str] = {
    "offered": "Offered",
    "answered": "Answered",
    "abandoned": "Abandoned",
    "messages": "Left a message",
    "callbacks": "Promised a callback",
    "elsewhere": "Sent elsewhere",
    "ended": "Ended by the flow",
    "under_way": "Under way",
    "short_abandons": "Short abandons",
    "answered_late": "Answered late",
    "abandoned_late": "Abandoned late",
    "wait_answered_ms": "Waits of the answered",
    "wait_abandoned_ms": "Waits of the abandoned",
    "longest_answered_ms": "Longest wait of the answered",
    "longest_abandoned_ms": "Longest wait of the abandoned",
    "longest_arrival_ms": "Longest from arrival to answer",
    "up_front_ms": "Time up front of the answered",
    "legs": "Agents' parts",
    "transferred": "Passed on by an agent",
    "callbacks_reached": "Callers called back",
    "talk_ms": "Talk",
    "hold_ms": "Hold",
    "wrap_ms": "Wrap-up",
}
_WAYS_OUT = ("answered", "abandoned", "messages", "callbacks", "elsewhere", "ended", "under_way")


def _count(column: str, short: str, sentence: str) -> Measure:
    name = PARTS[column]
    return Measure(column, name, short, "count", sentence, name.lower(), terms(column), (), column)


def _time(
    key: str, name: str, short: str, sentence: str, over: str, under: str = "", contacts: str = ""
) -> Measure:
    formula = PARTS[over].lower() + (f" ÷ {PARTS[under].lower()}" if under else "")
    behind = contacts or under or "answered"
    divisor = terms(under) if under else ()
    return Measure(key, name, short, "ms", sentence, formula, terms(over), divisor, behind)


_LEVELS_ARE: dict[Formula, str] = {
    "A": "Of the callers who were answered or abandoned, the share for whom it was within the threshold.",
    "B": "Of the callers who were answered, the share who waited no longer than the threshold.",
    "C": "Of all callers who came into the queue, the share answered within the threshold.",
    "D": "As of offered, but callers who hung up at once are not counted at all.",
}


def _level(formula: Formula) -> Measure:
    name, sentence = f"Service level {FORMULA_NAMES[formula]}", _LEVELS_ARE[formula]
    short, words = f"Level {FORMULA_NAMES[formula]}", FORMULAS[formula]
    return Measure(f"level_{formula}", name, short, "share", sentence, words, *LEVELS[formula])


QUEUE_MEASURES: dict[str, Measure] = {
    measure.key: measure
    for measure in (
        Measure(
            "offered",
            "Offered",
            "Offered",
            "count",
            "Contacts that came into the queue. Each is one of those answered, abandoned, or gone "
            "another way, or still under way.",
            "answered + abandoned + message + callback + elsewhere + ended + under way",
            terms(*_WAYS_OUT),
        ),
        _count("answered", "Answered", "An agent took them out of the queue."),
        _count("abandoned", "Abandoned", "They hung up while they waited."),
        _count("messages", "Message left", "They left the queue and left a message."),
        _count("callbacks", "Callback", "They left the queue for a promised callback."),
        _count("elsewhere", "Sent elsewhere", "They left the queue for another queue, flow or number."),
        _count("ended", "Ended by flow", "They left the queue, and their flow came to its end."),
        _count("under_way", "Under way", "They wait still, or it is not known yet where they go."),
        _count("short_abandons", "Short", "They hung up sooner than the queue counts as waiting."),
        _count("answered_late", "Answered late", "Answered after the threshold."),
        _count("abandoned_late", "Abandoned late", "They hung up waiting, after the threshold."),
        *map(_level, FORMULAS),
        _time(
            "wait_total",
            "Waits in all",
            "Waits, total",
            "All waits in the queue of those who were answered, added up.",
            "wait_answered_ms",
        ),
        _time(
            "wait_average",
            "Average wait",
            "Wait, average",
            "From entering the queue to the answer, over those who were answered.",
            "wait_answered_ms",
            "answered",
        ),
        _time(
            "wait_longest",
            "Longest wait",
            "Wait, longest",
            "The longest wait of one who was answered.",
            "longest_answered_ms",
        ),
        _time(
            "gave_up_longest",
            "Longest abandoned wait",
            "Abandoned, longest",
            "The longest wait of one who hung up waiting.",
            "longest_abandoned_ms",
            contacts="abandoned",
        ),
        _time(
            "gave_up_average",
            "Average abandoned wait",
            "Abandoned, average",
            "How long they waited who hung up.",
            "wait_abandoned_ms",
            "abandoned",
        ),
        _time(
            "up_front",
            "Average time up front",
            "Up front, average",
            "Greeting, menus and announcements before the queue, over those who were answered.",
            "up_front_ms",
            "answered",
        ),
        Measure(
            "arrival_average",
            "Average from arrival",
            "From arrival, average",
            "ms",
            "From the arrival at the number to the answer: the wait and the time up front.",
            "(waits + time up front) ÷ answered",
            terms("wait_answered_ms", "up_front_ms"),
            terms("answered"),
            "answered",
        ),
        _time(
            "arrival_longest",
            "Longest from arrival",
            "From arrival, longest",
            "The longest from the arrival at the number to the answer.",
            "longest_arrival_ms",
        ),
        _time(
            "talk_average",
            "Average talk",
            "Talk, average",
            "Speaking or writing, without hold, over all parts that agents had.",
            "talk_ms",
            "legs",
            "answered",
        ),
        _time(
            "hold_average",
            "Average hold",
            "Hold, average",
            "On hold, over all parts that agents had.",
            "hold_ms",
            "legs",
            "answered",
        ),
        _time(
            "wrap_average",
            "Average wrap-up",
            "Wrap-up, average",
            "Wrapping up, over all parts that agents had.",
            "wrap_ms",
            "legs",
            "answered",
        ),
        Measure(
            "handle_average",
            "Average handle time",
            "Handle, average",
            "ms",
            "Talk, hold and wrap-up, over all parts that agents had.",
            "(talk + hold + wrap-up) ÷ agents' parts",
            terms("talk_ms", "hold_ms", "wrap_ms"),
            terms("legs"),
            "answered",
        ),
        _count("legs", "Parts", "An agent had it: a contact that is passed on has several."),
        _count("transferred", "Passed on", "An agent sent it on to somebody else."),
        _count("callbacks_reached", "Called back", "Callers who were called back and answered."),
    )
}
