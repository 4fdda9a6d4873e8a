"""Chance: a stream of its own for everybody, by seed and name.

Two set-ups with the same seed so meet the same people (common random numbers): what one person
draws is the same whatever the others do.
"""

from __future__ import annotations

import hashlib
import random


def stream(seed: int, *names: str | int) -> random.Random:
    """The chance of somebody; the same names give the same draws."""
    key = "\n".join(map(str, (seed, *names))).encode()
    digest = hashlib.blake2b(key, digest_size=8).digest()
    return random.Random(int.from_bytes(digest))  # noqa: S311  people, no secret
