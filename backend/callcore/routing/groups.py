"""In which order a ring group rings its people. Nobody waits in one: queues are for that."""

from __future__ import annotations

#: How a group rings, in words.
WAYS: dict[str, str] = {
    "all": "all at once, the first to answer",
    "listed": "one after another, always from the top",
    "turn": "one after another, each in turn",
}
#: What a group does while one of its people is on a contact.
BUSY: dict[str, str] = {
    "pass": "whoever is on a contact is passed over",
    "busy": "the whole group is busy as soon as one of them is on a contact",
}


def rounds(people: tuple[str, ...], way: str, after: str = "") -> tuple[tuple[str, ...], ...]:
    """Who rings together, one round after another.

    Args:
        people: those of the group, in its order.
        way: one of `WAYS`.
        after: who was rung first the last time; in turn, the one after them comes first now.
    """
    if not people:
        return ()
    if way == "all":
        return (people,)
    first = people.index(after) + 1 if way == "turn" and after in people else 0
    return tuple((person,) for person in (*people[first:], *people[:first]))
