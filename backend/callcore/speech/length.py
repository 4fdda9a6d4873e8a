"""How long a text takes to speak, before the engine has spoken it."""

from __future__ import annotations

#: Characters a second of the shipped engine at its usual speed, pauses included;
#: measured over the demo's prompts. Only used until the real sound is there.
CHARACTERS_PER_S = 14.5


def estimated_ms(text: str) -> int:
    """Estimated speaking time of `text` in milliseconds; 0 for an empty text."""
    return round(len(text.strip()) / CHARACTERS_PER_S * 1000)
