"""Expected waits: four estimators for each queue, scored on what callers then really waited.

For a caller with n others before them, s agents, mean handle time 1/m and a rate of giving up t:

- `last`: the wait of the caller who was last taken (the delay of the last to enter service), or
  that of the first in line where it is longer by now.
- `head`: how long the first in line waits already (the delay of the head of the line).
- `rate`: (n + 1) times the mean time between the last callers taken, or since they were.
- `staff`: the mean time in which n + 1 of the line are taken or give up, a death process with
  patience: the sum over k = 0..n of 1 / (s m + k t) (Whitt, Predicting Queueing Delays,
  Management Science 45, 1999, section 4). Handling a contact is talk, hold and wrap-up.

Nothing is concluded from what is long past (`FRESH_MS`, `KNOWN_MS`), nor from a wait that the
caller has outlived already.

`last` and `head` are compared in Ibrahim & Whitt, Real-Time Delay Estimation (M&SOM 11, 2009).
The estimator with the least mean error on the recorded contacts counts.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from callcore.events import Happening, facts
from callcore.measures.callers import Callers
from callcore.routing.events import Status
from callcore.speech.values import band

ESTIMATORS = ("last", "head", "rate", "staff")
#: A wait is told only where so many were scored, and so large a share fell within the band told.
LEAST_SCORED = 20
LEAST_WITHIN = 0.6
_STARTS, _HANDLED, _SCORED = 12, 50, 60
#: Waits say something of those to come for so long; handle times and errors for longer.
FRESH_MS, KNOWN_MS = 1_800_000, 4 * 3_600_000


class _Scored(NamedTuple):
    """One wait as it was told and as it was."""

    at_ms: int
    within: bool
    error_s: float
    bias_s: float


class Score:
    """How well an estimator did on the last waits: counts, and means in seconds."""

    def __init__(self) -> None:
        self._recent: deque[_Scored] = deque(maxlen=_SCORED)

    def add(self, told_s: float, was_s: float, at_ms: int) -> None:
        """Count one wait; older ones that say nothing any more go."""
        self.forget(at_ms)
        low, high = band(told_s)
        error_s = told_s - was_s
        self._recent.append(_Scored(at_ms, low <= was_s <= high, abs(error_s), error_s))

    def forget(self, now_ms: int) -> None:
        """Leave out what is long past."""
        while self._recent and self._recent[0].at_ms < now_ms - KNOWN_MS:
            self._recent.popleft()

    @property
    def scored(self) -> int:
        """How many waits were counted."""
        return len(self._recent)

    @property
    def within(self) -> int:
        """How many of them fell within the band told."""
        return sum(one.within for one in self._recent)

    @property
    def mean_error_s(self) -> float | None:
        """Mean absolute error in seconds; None where nothing was scored."""
        return self._mean([one.error_s for one in self._recent])

    @property
    def mean_bias_s(self) -> float | None:
        """Mean of told minus waited, in seconds; None where nothing was scored."""
        return self._mean([one.bias_s for one in self._recent])

    @staticmethod
    def _mean(values: list[float]) -> float | None:
        return sum(values) / len(values) if values else None

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
class _Handled:
    """How long an agent had a contact; wrapping it up is added when that is over."""

    at_ms: int
    seconds: float


@dataclass(slots=True)
class Line:
    """What is known of one queue."""

    waiting: dict[str, _Entry] = field(default_factory=dict)
    last_wait_s: float | None = None
    starts: deque[int] = field(default_factory=lambda: deque(maxlen=_STARTS))
    handled: deque[_Handled] = field(default_factory=lambda: deque(maxlen=_HANDLED))
    gave_up: int = 0
    waited_s: float = 0.0
    scores: dict[str, Score] = field(default_factory=lambda: {n: Score() for n in ESTIMATORS})

    def all(self, ahead: int, waited_s: float, staff: int, now_ms: int) -> dict[str, float]:
        """The wait still ahead by every estimator that can say something.

        Args:
            ahead: callers before this one.
            waited_s: seconds that this one has waited already.
            staff: agents at work who could take it.
        """
        found: dict[str, float] = {}
        first = next(iter(self.waiting.values()), None)
        head_s = (now_ms - first.entered_ms) / 1000 if first and ahead else 0.0
        starts = [at for at in self.starts if at >= now_ms - FRESH_MS]
        if self.last_wait_s is not None and starts:
            whole_s = max(self.last_wait_s, head_s)
            if not waited_s or whole_s > waited_s:
                found["last"] = whole_s - waited_s
        if head_s > waited_s or not (ahead or waited_s):
            found["head"] = head_s - waited_s
        if len(starts) > 1:
            apart_ms = (starts[-1] - starts[0]) / (len(starts) - 1)
            apart_ms = max(apart_ms, (now_ms - starts[0]) / len(starts))
            found["rate"] = (ahead + 1) * apart_ms / 1000
        handled = [one.seconds for one in self.handled if one.at_ms >= now_ms - KNOWN_MS]
        if staff and handled:
            served = staff * len(handled) / max(1.0, sum(handled))
            leaving = self.gave_up / self.waited_s if self.waited_s else 0.0
            found["staff"] = sum(1 / (served + k * leaving) for k in range(ahead + 1))
        return found

    def best(self, among: Iterable[str] = ESTIMATORS) -> str | None:
        """The one of some estimators with the least mean error; unscored ones come last, in the
        order of `ESTIMATORS`. None where there is none."""
        order = {name: at for at, name in enumerate(ESTIMATORS)}

        def rank(name: str) -> tuple[bool, float, int]:
            error_s = self.scores[name].mean_error_s
            return error_s is None, error_s or 0.0, order[name]

        return min(among, key=rank, default=None)


class Waits:
    """Every queue's line, folded from the one stream of events."""

    def __init__(self) -> None:
        self.lines: dict[str, Line] = {}
        self._queue_of: dict[str, str] = {}
        self._callers = Callers()
        self._talking: dict[str, tuple[str, int]] = {}
        #: Legs that are being wrapped up, by agent and contact.
        self._wrapping: dict[tuple[str, str], tuple[_Handled, int]] = {}
        self.handlers: dict[type, Callable[[Happening, Any], None]] = {
            facts.Coded: self._on_coded,
            facts.AgentChanged: self._on_agent,
            facts.Queued: self._on_queued,
            facts.Answered: self._on_answered,
            facts.LeftQueue: self._on_left,
            facts.LegEnded: self._on_leg_ended,
        }

    def apply(self, event: Happening) -> None:
        """Take in the next event of the stream."""
        handler = self.handlers.get(type(event.fact))
        if self._callers.counts(event) and handler is not None:
            handler(event, event.fact)

    def expected(self, queue: str, ahead: int, waited_s: float, staff: int, now_ms: int) -> Expected | None:
        """The wait still ahead, by the best estimator; None where nothing can be said."""
        line = self.lines.get(queue)
        if line is None:
            return None
        if not staff:
            return None
        found = line.all(ahead, waited_s, staff, now_ms)
        for score in line.scores.values():
            score.forget(now_ms)
        name = line.best(found)
        if name is None:
            return None
        return Expected(found[name], name, line.scores[name].may_be_told)

    def _line(self, queue: str) -> Line:
        line = self.lines.get(queue)
        if line is None:
            line = self.lines[queue] = Line()
        return line

    def _on_queued(self, event: Happening, fact: facts.Queued) -> None:
        queue = fact.queue
        line = self._line(queue)
        ahead = len(line.waiting)
        told = line.all(ahead, 0.0, fact.staff, event.at_ms)
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

    def _on_answered(self, event: Happening, fact: facts.Answered) -> None:
        self._talking[event.contact] = (fact.queue, event.at_ms)
        gone = self._gone(event)
        if gone is None:
            return
        line, entry, waited_s = gone
        for name, told_s in entry.told.items():
            line.scores[name].add(told_s, waited_s, event.at_ms)
        line.last_wait_s = waited_s
        line.starts.append(event.at_ms)

    def _on_left(self, event: Happening, fact: facts.LeftQueue) -> None:
        gone = self._gone(event)
        if gone is not None and fact.why == "hung_up":
            gone[0].gave_up += 1

    def _on_leg_ended(self, event: Happening, fact: facts.LegEnded) -> None:
        talking = self._talking.pop(event.contact, None)
        if talking is not None:
            handled = _Handled(event.at_ms, (event.at_ms - talking[1]) / 1000)
            self._line(talking[0]).handled.append(handled)
            self._wrapping[(event.agent, event.contact)] = (handled, event.at_ms)

    def _on_coded(self, event: Happening, fact: facts.Coded) -> None:
        wrapping = self._wrapping.pop((event.agent, event.contact), None)
        if wrapping is not None:
            handled, since_ms = wrapping
            handled.seconds += (event.at_ms - since_ms) / 1000

    def _on_agent(self, event: Happening, fact: facts.AgentChanged) -> None:
        """Whoever is free again has nothing left to wrap up."""
        if fact.status in (Status.AVAILABLE, Status.AWAY, Status.OUT):
            for key in [key for key in self._wrapping if key[0] == event.agent]:
                del self._wrapping[key]
