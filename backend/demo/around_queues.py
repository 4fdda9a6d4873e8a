"""What callers of the demo meet while they wait, and after they have talked."""

from __future__ import annotations

from typing import Any

from demo.definitions import text


def after_the_call() -> dict[str, Any]:
    """What callers are asked when their agent has hung up."""
    thanks = "Thank you. Your answer helps us. Goodbye."
    keys = [
        {"key": str(mark), "label": words, "next": "thanks"}
        for mark, words in ((1, "Well"), (2, "Not so well"))
    ]
    return {
        "start": "ask",
        "steps": [
            {
                "kind": "menu",
                "id": "ask",
                "name": "How was it?",
                "tries": 1,
                "wait_s": 6,
                "prompt": text("How well were you helped? Well: press 1. Not so well: press 2."),
                "arms": keys,
                "no_key": "thanks",
            },
            {"kind": "end", "id": "thanks", "prompt": text(thanks)},
        ],
    }


def while_waiting(mailbox: str) -> dict[str, Any]:
    """What callers of the bookings desk meet while they wait."""
    return {
        "purpose": "plan",
        "start": "notice",
        "steps": [
            {
                "kind": "say",
                "id": "notice",
                "next": "place",
                "prompt": text("All our colleagues are with other callers. You keep your place."),
            },
            {"kind": "tell", "id": "place", "next": "music"},
            {"kind": "music", "id": "music", "seconds": 30, "next": "again"},
            {"kind": "tell", "id": "again", "next": "long"},
            {
                "kind": "check_queue",
                "id": "long",
                "queue": None,
                "figure": "position",
                "limit": 2,
                "yes": "offer",
                "no": "more-music",
            },
            {
                "kind": "callback",
                "id": "offer",
                "attempts": 3,
                "retry_s": 300,
                "prompt": text("If you would rather be called back, press 1. You keep your place in line."),
                "thanks": text("Thank you. We call you as soon as it is your turn."),
                "declined": "more-music",
                "failed": "more-music",
            },
            {"kind": "music", "id": "more-music", "seconds": 60, "next": "choice"},
            {
                "kind": "menu",
                "id": "choice",
                "name": "Rather write",
                "tries": 1,
                "wait_s": 5,
                "prompt": text("To leave a message instead, press 2. Or just stay on the line."),
                "arms": [{"key": "2", "label": "Leave a message", "next": "message"}],
                "no_key": "again",
            },
            {
                "kind": "message",
                "id": "message",
                "mailbox": mailbox,
                "failed": "music",
                "thanks": text("Thank you. We will call you back."),
            },
        ],
    }
