"""Expected waits: four estimators for each queue, scored on what callers then really waited.

For a caller with n others before them, s agents, mean handle time 1/m and a rate of giving up t:

- `last`: the wait of the caller who was last taken (the delay of the last to enter service).
- `head`: how long the first in line waits already (the delay of the head of the line).
- `rate`: (n + 1) times the mean time between the last callers taken.
- `staff`: the mean time in which n + 1 of the line are taken or give up, a death process with
  patience: the sum over k = 0..n of 1 / (s m + k t) (Whitt, Predicting Queueing Delays,
  Management Science 45, 1999, section 4).

`last` and `head` are compared in Ibrahim & Whitt, Real-Time Delay Estimation (M&SOM 11, 2009).
The estimator with the least mean error on the recorded contacts counts.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import NamedTuple

from callcore.events import Happening, Kind
from callcore.measures.callers import Callers
from callcore.speech.values import LONG_S, SHORT_S

ESTIMATORS = ("last", "head", "rate", "staff")
#: A wait is told only where so many were scored, and so large a share fell within the band told.
LEAST_SCORED = 20
LEAST_WITHIN = 0.6
_STARTS, _HANDLED = 12, 50


def band(seconds: float) -> tuple[float, float]:
    """The waits (s) for which what is told of an expected wait is true enough.

    "Less than two minutes" and "more than twenty" are meant as they are said; between them a
    wait may differ by 30 %, and by a minute at the least.
    """
    if seconds < SHORT_S:
        return 0.0, float(SHORT_S)
    if seconds > LONG_S:
        return float(LONG_S), float("inf")
    give = max(60.0, 0.3 * seconds)
    return seconds - give, seconds + give


@dataclass(slots=True)
class Score:
    """How well an estimator did: counts, and sums of seconds."""

    scored: int = 0
    within: int = 0
    error_s: float = 0.0
    bias_s: float = 0.0

    def add(self, told_s: float, was_s: float) -> None:
        """Count one wait."""
        low, high = band(told_s)
        self.scored += 1
        self.within += low <= was_s <= high
        self.error_s += abs(told_s - was_s)
        self.bias_s += told_s - was_s

    @property
    def mean_error_s(self) -> float | None:
        """Mean absolute error in seconds; None where nothing was scored."""
        return self.error_s / self.scored if self.scored else None

    @property
    def may_be_told(self) -> bool:
        """Whether past errors allow to tell a wait."""
        return self.scored >= LEAST_SCORED and self.within >= LEAST_WITHIN * self.scored


class Expected(NamedTuple):
    """A wait still ahead (s), by which estimator, and whether past errors allow to tell it."""

    seconds: float
    estimator: str
    may_be_told: bool


@dataclass(slots=True)
class _Entry:
    entered_ms: int
    told: dict[str, float]


@dataclass(slots=True)
class Line:
    """What is known of one queue."""

    waiting: dict[str, _Entry] = field(default_factory=dict)
    last_wait_s: float | None = None
    starts: deque[int] = field(default_factory=lambda: deque(maxlen=_STARTS))
    handled_s: deque[float] = field(default_factory=lambda: deque(maxlen=_HANDLED))
    gave_up: int = 0
    waited_s: float = 0.0
    scores: dict[str, Score] = field(default_factory=lambda: {n: Score() for n in ESTIMATORS})

    def all(self, ahead: int, waited_s: float, staff: int, now_ms: int) -> dict[str, float]:
        """The wait still ahead by every estimator that can say something.

        Args:
            ahead: callers before this one.
            waited_s: seconds that this one has waited already.
            staff: agents signed in.
        """
        found: dict[str, float] = {}
        if self.last_wait_s is not None:
            found["last"] = max(0.0, self.last_wait_s - waited_s)
        first = next(iter(self.waiting.values()), None)
        head_s = (now_ms - first.entered_ms) / 1000 if first and ahead else 0.0
        found["head"] = max(0.0, head_s - waited_s)
        if len(self.starts) > 1:
            apart_s = (self.starts[-1] - self.starts[0]) / 1000 / (len(self.starts) - 1)
            found["rate"] = (ahead + 1) * apart_s
        if staff and self.handled_s:
            served = staff * len(self.handled_s) / max(1.0, sum(self.handled_s))
            leaving = self.gave_up / self.waited_s if self.waited_s else 0.0
            found["staff"] = sum(1 / (served + k * leaving) for k in range(ahead + 1))
        return found

    def best(self) -> str:
        """The estimator with the least mean error; before any was scored the last wait."""
        scored = [(s.mean_error_s, n) for n, s in self.scores.items() if s.mean_error_s is not None]
        return min(scored)[1] if scored else "last"


class Waits:
    """Every queue's line, folded from the one stream of events."""

    def __init__(self) -> None:
        self.lines: dict[str, Line] = {}
        self._queue_of: dict[str, str] = {}
        self._callers = Callers()
        self._talking: dict[str, tuple[str, int]] = {}
        self._handlers: dict[Kind, Callable[[Happening], None]] = {
            Kind.QUEUED: self._on_queued,
            Kind.ANSWERED: self._on_answered,
            Kind.LEFT_QUEUE: self._on_left,
            Kind.LEG_ENDED: self._on_leg_ended,
        }

    def apply(self, event: Happening) -> None:
        """Take in the next event of the stream."""
        handler = self._handlers.get(event.kind)
        if self._callers.counts(event) and handler is not None:
            handler(event)

    def expected(
        self, queue: str, ahead: int, waited_s: float, staff: int, now_ms: int
    ) -> Expected | None:
        """The wait still ahead, by the best estimator; None where nothing can be said."""
        line = self.lines.get(queue)
        if line is None:
            return None
        name = line.best()
        seconds = line.all(ahead, waited_s, staff, now_ms).get(name)
        if seconds is None:
            return None
        return Expected(seconds, name, line.scores[name].may_be_told)

    def _line(self, queue: str) -> Line:
        return self.lines.setdefault(queue, Line())

    def _on_queued(self, event: Happening) -> None:
        queue = event.body["queue"]
        line = self._line(queue)
        ahead = len(line.waiting)
        told = line.all(ahead, 0.0, event.body.get("staff", 0), event.at_ms)
        line.waiting[event.contact] = _Entry(event.at_ms, told)
        self._queue_of[event.contact] = queue

    def _gone(self, event: Happening) -> tuple[Line, _Entry, float] | None:
        queue = self._queue_of.pop(event.contact, None)
        entry = self.lines[queue].waiting.pop(event.contact, None) if queue is not None else None
        if queue is None or entry is None:
            return None
        waited_s = (event.at_ms - entry.entered_ms) / 1000
        self.lines[queue].waited_s += waited_s
        return self.lines[queue], entry, waited_s

    def _on_answered(self, event: Happening) -> None:
        self._talking[event.contact] = (event.body["queue"], event.at_ms)
        gone = self._gone(event)
        if gone is None:
            return
        line, entry, waited_s = gone
        for name, told_s in entry.told.items():
            line.scores[name].add(told_s, waited_s)
        line.last_wait_s = waited_s
        line.starts.append(event.at_ms)

    def _on_left(self, event: Happening) -> None:
        gone = self._gone(event)
        if gone is not None and event.body["why"] == "hung_up":
            gone[0].gave_up += 1

    def _on_leg_ended(self, event: Happening) -> None:
        talking = self._talking.pop(event.contact, None)
        if talking is not None:
            self._line(talking[0]).handled_s.append((event.at_ms - talking[1]) / 1000)
