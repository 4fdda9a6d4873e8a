"""What simulated callers say to a mailbox: the stand-in for a recorded voice.

A real trunk brings the recording itself; nothing else knows of this.
"""

from __future__ import annotations

import zlib

from sounds.engine import WORDS_PER_MINUTE

_BEGINNINGS = (
    "Hello, this is about a crossing from Ostrel to Haven Quay.",
    "Good morning, I called about a booking for two cars.",
    "Hello, my mother needs a wheelchair on the afternoon boat.",
    "Hello, I left a green umbrella on the ten o'clock boat yesterday.",
)
_MORE = (
    "Could somebody call me back, please?",
    "I can be reached until six in the evening.",
    "We would like to sail on Saturday if the weather allows it.",
    "The booking is in my husband's name.",
    "Please tell me also what it costs with a trailer.",
    "I have tried the website, but it did not show my booking.",
    "If it is easier, a message to this number is fine too.",
)


def said_by(contact: str, length_ms: int) -> str:
    """Words that fill a message of that length, always the same for a contact."""
    seed = zlib.crc32(contact.encode())
    wanted = max(4, round(length_ms / 60_000 * WORDS_PER_MINUTE))
    words = _BEGINNINGS[seed % len(_BEGINNINGS)].split()
    at = seed // 7
    while len(words) < wanted:
        words += _MORE[at % len(_MORE)].split()
        at += 1
    return " ".join(words[:wanted])
