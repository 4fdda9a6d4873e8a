"""The demo's flows: definitions with references filled in. Everything said in them is made up."""

from __future__ import annotations

from typing import Any


def text(words: str) -> dict[str, str]:
    return {"kind": "text", "text": words, "language": "en"}


def welcome(refs: dict[str, str], summer: str, winter: str) -> dict[str, Any]:
    """A shared block: the greeting of the season, or what there is to say in a storm."""
    return {
        "purpose": "block",
        "start": "storm",
        "steps": [
            {
                "kind": "hours",
                "id": "storm",
                "hours": refs["storm"],
                "open": "season",
                "closed": "storm-words",
            },
            {
                "kind": "say",
                "id": "storm-words",
                "next": "greeted",
                "prompt": {"kind": "sound", "sound": refs["storm words"]},
            },
            {
                "kind": "times",
                "id": "season",
                "name": "Which timetable",
                "otherwise": "winter",
                "arms": [
                    {
                        "id": "summer",
                        "label": "Summer",
                        "next": "summer",
                        "periods": [{"first": "2027-05-01", "last": "2027-09-30"}],
                    }
                ],
            },
            {"kind": "say", "id": "summer", "next": "greeted", "prompt": {"kind": "sound", "sound": summer}},
            {"kind": "say", "id": "winter", "next": "greeted", "prompt": {"kind": "sound", "sound": winter}},
            {"kind": "end", "id": "greeted", "label": "Greeted"},
        ],
    }


#: What the main line offers; callers may press it or say it.
MAIN_MENU: dict[str, Any] = {
    "kind": "menu",
    "id": "main-menu",
    "name": "Main menu",
    "wait_s": 8,
    "tries": 3,
    "prompt": text(
        "For bookings and changes, press 1. For today's sailings, press 2. "
        "For help on board, press 3. For vehicles and freight, press 4. "
        "If you know an extension, press 0. You can also say what you need."
    ),
    "listens": True,
    "no_key_prompt": text("Sorry, I heard no key."),
    "wrong_key_prompt": text("That is not a choice."),
    "arms": [
        {
            "key": "1",
            "label": "Bookings & changes",
            "next": "bookings",
            "words": ["booking", "bookings", "book a crossing", "ticket"],
        },
        {
            "key": "2",
            "label": "Sailing today",
            "next": "sailings",
            "words": ["sail", "sailing", "sailings", "timetable"],
        },
        {
            "key": "3",
            "label": "Help on board",
            "next": "assistance-note",
            "words": ["help", "wheelchair", "assistance"],
        },
        {
            "key": "4",
            "label": "Vehicles & freight",
            "next": "freight",
            "words": ["freight", "lorry", "vehicle"],
        },
        {"key": "0", "label": "Extension", "next": "extension"},
    ],
    "no_key": "bookings",
}


def main_line(refs: dict[str, str]) -> dict[str, Any]:
    """The main line: a shared greeting, five keys, a sub-menu, three queues, hours of one."""
    say = {"kind": "say"}
    return {
        "language": "en",
        "start": "welcome",
        "stay_limit_s": 600,
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {
                "kind": "block",
                "id": "welcome",
                "flow": refs["Welcome"],
                "worked": "main-menu",
                "not_worked": "main-menu",
            },
            MAIN_MENU,
            {
                "kind": "extension",
                "id": "extension",
                "prompt": text("Please dial the extension."),
                "none": "bookings",
                "no_answer": "bookings",
            },
            {"kind": "queue", "id": "bookings", "queue": refs["Bookings"], "waited": "bookings-late"},
            {
                "kind": "end",
                "id": "bookings-late",
                "label": "Asked to call later",
                "prompt": text("All our colleagues are still busy. Please call again later today."),
            },
            {
                **say,
                "id": "sailings",
                "next": "sailings-menu",
                "prompt": text(
                    "Today all boats sail as planned. Ostrel to Haven Quay every hour from "
                    "six in the morning until ten at night."
                ),
            },
            {
                "kind": "menu",
                "id": "sailings-menu",
                "name": "After the sailings",
                "wait_s": 5,
                "tries": 1,
                "prompt": text("To hear the main menu again, press star. For a booking, press 1."),
                "arms": [
                    {"key": "1", "label": "Bookings", "next": "bookings"},
                    {"key": "*", "label": "Main menu", "next": "main-menu"},
                ],
                "no_key": "sailings-heard",
            },
            {
                "kind": "end",
                "id": "sailings-heard",
                "label": "Sailings heard",
                "prompt": text("Thank you, and a calm crossing."),
            },
            {
                **say,
                "id": "assistance-note",
                "next": "assistance-open",
                "prompt": text("Please tell us at least two hours before you sail."),
            },
            {
                "kind": "hours",
                "id": "assistance-open",
                "hours": refs["hours"],
                "open": "assistance",
                "closed": "night",
            },
            {"kind": "go", "id": "night", "flow": refs["After hours"], "failed": "bookings-late"},
            {"kind": "queue", "id": "assistance", "queue": refs["Assistance"], "waited": "night"},
            {"kind": "queue", "id": "freight", "queue": refs["Freight"], "waited": "freight-late"},
            {
                "kind": "message",
                "id": "freight-late",
                "mailbox": refs["Freight desk mailbox"],
                "thanks": text("Thank you. Our freight desk answers the same day."),
                "failed": "bookings-late",
            },
        ],
    }


def after_hours(refs: dict[str, str]) -> dict[str, Any]:
    """The night line: what can wait goes into a mailbox, what cannot rings the harbour."""
    return {
        "start": "closed",
        "stay_limit_s": 420,
        "accepted": [
            {
                "code": "outside-at-any-hour",
                "step": "harbour",
                "reason": "Help on a crossing must be reached at any hour.",
            }
        ],
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {
                "kind": "say",
                "id": "closed",
                "next": "urgent",
                "prompt": text("You are calling outside of our office hours."),
            },
            {
                "kind": "menu",
                "id": "urgent",
                "name": "Can it wait",
                "wait_s": 6,
                "tries": 2,
                "prompt": text("If you need help on a crossing today, press 1. To leave a message, press 2."),
                "arms": [
                    {"key": "1", "label": "Help today", "next": "harbour"},
                    {"key": "2", "label": "Leave a message", "next": "message"},
                ],
                "no_key": "message",
            },
            {
                "kind": "ring",
                "id": "harbour",
                "number": "+441632960120",
                "ring_s": 25,
                "no_answer": "message",
                "busy": "message",
                "failed": "message",
            },
            {
                "kind": "message",
                "id": "message",
                "mailbox": refs["Night line mailbox"],
                "failed": "bye",
                "thanks": text("Thank you. We call you back in the morning."),
            },
            {
                "kind": "end",
                "id": "bye",
                "label": "Asked to call again",
                "prompt": text("Please call again from eight in the morning."),
            },
        ],
    }


def lost_property(queue: str) -> dict[str, Any]:
    """A draft that is not finished: its queue is only a name, and a key leads nowhere."""
    return {
        "language": "en",
        "start": "hello",
        "steps": [
            {
                "kind": "say",
                "id": "hello",
                "next": "choice",
                "prompt": text("You have reached lost property at Haven Quay."),
            },
            {
                "kind": "menu",
                "id": "choice",
                "name": "What was lost",
                "tries": None,
                "prompt": text(
                    "For something lost on board, press 1. For luggage, press 2. "
                    "For something lost at a port, press 3."
                ),
                "arms": [
                    {"key": "1", "label": "Lost on board", "next": "desk"},
                    {"key": "2", "label": "Luggage", "next": None},
                ],
                "no_key": "hello",
            },
            {"kind": "queue", "id": "desk", "queue": queue, "waited": None},
        ],
    }


def port_desk() -> dict[str, Any]:
    """One flow for every port: each number names its port, its desk and its mailbox."""
    return {
        "language": "en",
        "start": "welcome",
        "stay_limit_s": 600,
        "inputs": [
            {"name": "port", "label": "Port", "type": "text", "default": "Ostrel"},
            {"name": "desk", "label": "Desk", "type": "queue", "default": None},
            {"name": "office", "label": "Hours of the desk", "type": "hours", "default": None},
            {"name": "mailbox", "label": "Mailbox at night", "type": "mailbox", "default": None},
        ],
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {
                "kind": "say",
                "id": "welcome",
                "next": "open",
                "prompt": text("This is the port desk of Ostrel Island Ferries at {port}."),
            },
            {"kind": "hours", "id": "open", "hours": "value:office", "open": "desk", "closed": "night"},
            {"kind": "queue", "id": "desk", "queue": "value:desk", "waited": "night"},
            {
                "kind": "message",
                "id": "night",
                "mailbox": "value:mailbox",
                "failed": "busy",
                "thanks": text("Thank you. We will call you back."),
            },
            {
                "kind": "end",
                "id": "busy",
                "label": "Asked to call again",
                "prompt": text("Nobody can take your call now. Please call again."),
            },
        ],
    }
