"""What stands around a centre while no real trunk, recogniser or fax does."""

from __future__ import annotations

import uuid

from callcore.centre.parts import Devices
from callcore.devices.fax import tone_after_ms
from callcore.devices.outside_line import SimulatedLine
from callcore.speech.recogniser import TypedSpeech


def devices() -> Devices:
    """Ids of its own, a simulated outside line, speech that is typed, simulated fax machines."""
    return Devices(lambda: str(uuid.uuid4()), SimulatedLine(), TypedSpeech(), tone_after_ms)
