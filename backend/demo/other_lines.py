"""The demo's flows beside its main line: texts, groups, and the line between the ports."""

from __future__ import annotations

from typing import Any

from demo.definitions import text


def text_line(refs: dict[str, str]) -> dict[str, Any]:
    """By text: today's sailings by a keyword, the rest by an answer to a menu."""
    wait_s = 1800
    return {
        "channel": "text",
        "start": "about",
        "stay_limit_s": 7200,
        "failure_prompt": text("We are sorry, something went wrong. Please write again."),
        "steps": [
            {
                "kind": "fork",
                "id": "about",
                "name": "What is it about",
                "otherwise": "menu",
                "arms": [
                    {
                        "id": "sailing",
                        "label": "asks about sailings",
                        "next": "sailings",
                        "when": {
                            "join": "or",
                            "parts": [
                                {"kind": "compare", "value": "message", "how": "contains", "other": word}
                                for word in ("sail", "ferry", "hwylio")
                            ],
                        },
                    },
                    {
                        "id": "stop",
                        "label": "wants no texts",
                        "next": "stopped",
                        "when": {
                            "parts": [{"kind": "compare", "value": "message", "how": "is", "other": "stop"}]
                        },
                    },
                ],
            },
            {
                "kind": "say",
                "id": "sailings",
                "next": "menu",
                "prompt": text(
                    "Today all boats sail as planned: Ostrel to Haven Quay every hour from 06:00 to 22:00."
                ),
            },
            {
                "kind": "menu",
                "id": "menu",
                "name": "What else",
                "wait_s": wait_s,
                "tries": 2,
                "prompt": text(
                    "Can we help with a booking, or with something lost on board? "
                    "Answer BOOKING or LOST, or NO."
                ),
                "arms": [
                    {"key": "1", "label": "Booking", "words": ["book", "bookings", "ticket"], "next": "open"},
                    {
                        "key": "2",
                        "label": "Lost",
                        "words": ["lost property", "left on board"],
                        "next": "lost",
                    },
                    {"key": "3", "label": "No", "words": ["no thanks", "bye"], "next": "bye"},
                ],
                "no_key": "bye",
            },
            {"kind": "hours", "id": "open", "hours": refs["hours"], "open": "desk", "closed": "closed"},
            {"kind": "label", "id": "lost", "label": "Lost property", "next": "open"},
            {"kind": "queue", "id": "desk", "queue": refs["Bookings"], "waited": "closed"},
            {
                "kind": "end",
                "id": "closed",
                "label": "Asked to write again",
                "prompt": text("Nobody can answer now. Please write again in our office hours."),
            },
            {
                "kind": "end",
                "id": "stopped",
                "label": "No texts wanted",
                "prompt": text("You will get no more texts from us."),
            },
            {
                "kind": "end",
                "id": "bye",
                "label": "Answered",
                "prompt": text("Thank you, and a calm crossing."),
            },
        ],
    }


def booking_check(table: str) -> dict[str, Any]:
    """A shared block: asks for a group booking and finds it; gives back whose it is."""
    return {
        "purpose": "block",
        "start": "ask",
        "inputs": [
            {
                "name": "question",
                "label": "What is asked",
                "type": "text",
                "default": "Please type the number of your group booking, then hash.",
            }
        ],
        "outputs": ["party", "people"],
        "steps": [
            {
                "kind": "digits",
                "id": "ask",
                "prompt": text("{question}"),
                "into": "booking",
                "least": 4,
                "most": 4,
                "tries": 2,
                "next": "prefix",
                "no_digits": "unknown",
            },
            {
                "kind": "lookup",
                "id": "prefix",
                "table": table,
                "key": "booking",
                "take": [{"column": "Party", "into": "party"}, {"column": "People", "into": "people"}],
                "found": "found",
                "not_found": "unknown",
                "failed": "unknown",
            },
            {"kind": "end", "id": "found", "label": "Found", "prompt": text("Thank you, {party}.")},
            {"kind": "end", "id": "unknown", "label": "Not found", "worked": False},
        ],
    }


def group_travel(refs: dict[str, str], block: str) -> dict[str, Any]:
    """Groups: the booking is looked up first, and large parties go to the front."""
    return {
        "start": "hello",
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {
                "kind": "say",
                "id": "hello",
                "next": "check",
                "prompt": text("Welcome to group travel at Ostrel Island Ferries."),
            },
            {
                "kind": "block",
                "id": "check",
                "flow": block,
                "worked": "size",
                "not_worked": "staffed",
                "take": [{"output": "party", "into": "party"}, {"output": "people", "into": "people"}],
            },
            {
                "kind": "fork",
                "id": "size",
                "name": "How large",
                "otherwise": "small",
                "arms": [
                    {
                        "id": "large",
                        "label": "more than 20",
                        "next": "large",
                        "when": {
                            "parts": [{"kind": "compare", "value": "people", "how": "more_than", "other": 20}]
                        },
                    }
                ],
            },
            {
                "kind": "label",
                "id": "large",
                "label": "Group {party}, {people}",
                "priority": 9,
                "next": "staffed",
            },
            {"kind": "label", "id": "small", "label": "Group {party}", "next": "staffed"},
            {
                "kind": "check_queue",
                "id": "staffed",
                "queue": refs["Bookings"],
                "figure": "signed_in",
                "limit": 1,
                "yes": "desk",
                "no": "message",
            },
            {"kind": "queue", "id": "desk", "queue": refs["Bookings"], "waited": "message"},
            {
                "kind": "message",
                "id": "message",
                "mailbox": refs["Night line mailbox"],
                "failed": "sorry",
                "thanks": text("Thank you. We call you back."),
            },
            {
                "kind": "end",
                "id": "sorry",
                "label": "Asked to call again",
                "prompt": text("Please call again tomorrow."),
            },
        ],
    }


def inside_line(refs: dict[str, str]) -> dict[str, Any]:
    """For partners: an extension, a name, or a message; music while somebody is looked for."""
    return {
        "start": "fax",
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {"kind": "fax", "id": "fax", "seconds": 3, "no_fax": "choice", "fax": "faxes"},
            {"kind": "end", "id": "faxes", "label": "A fax machine"},
            {
                "kind": "menu",
                "id": "choice",
                "name": "Whom do you want",
                "tries": 2,
                "wait_s": 6,
                "prompt": text(
                    "If you know the extension, press 1. To spell a name, press 2. For the office, press 3."
                ),
                "arms": [
                    {"key": "1", "label": "Extension", "next": "extension"},
                    {"key": "2", "label": "Name", "next": "name"},
                    {"key": "3", "label": "Office", "next": "office"},
                ],
                "no_key": "message",
            },
            {
                "kind": "extension",
                "id": "extension",
                "prompt": text("Please dial the extension."),
                "none": "round",
                "no_answer": "message",
            },
            {
                "kind": "directory",
                "id": "name",
                "prompt": text("Spell the surname on the keys."),
                "none": "round",
                "no_answer": "message",
            },
            {"kind": "repeat", "id": "round", "times": 2, "again": "choice", "done": "message"},
            {
                "kind": "ring",
                "id": "office",
                "group": refs["Office"],
                "no_answer": "music",
                "busy": "music",
                "failed": "message",
            },
            {"kind": "music", "id": "music", "seconds": 15, "next": "message"},
            {
                "kind": "message",
                "id": "message",
                "mailbox": refs["Night line mailbox"],
                "failed": "bye",
                "thanks": text("Thank you."),
            },
            {"kind": "end", "id": "bye", "label": "Asked to write", "prompt": text("Please write to us.")},
        ],
    }
