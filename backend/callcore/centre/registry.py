"""Tables of what is done with what: filled by decorators where it is done, read by the centre."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from enum import Enum, auto
from typing import Any, Generic, TypeVar

K = TypeVar("K", bound=Hashable)
Handler = Callable[..., Any]
H = TypeVar("H", bound=Handler)


class Registry(Generic[K]):
    """One handler a key.

    Args:
        what: what the keys are, for who names one twice.
    """

    def __init__(self, what: str) -> None:
        self._what = what
        self._handlers: dict[K, Handler] = {}

    def __call__(self, *keys: K) -> Callable[[H], H]:
        """A decorator: this handles these.

        Raises:
            TypeError: something else does already.
        """

        def register(handler: H) -> H:
            for key in keys:
                if key in self._handlers:
                    raise TypeError(f"two handlers of the {self._what} {key}")
                self._handlers[key] = handler
            return handler

        return register

    def __getitem__(self, key: K) -> Handler:
        return self._handlers[key]

    def get(self, key: K) -> Handler | None:
        """The handler of a key, if there is one."""
        return self._handlers.get(key)

    def keys(self) -> set[K]:
        """Everything that is handled."""
        return set(self._handlers)


class Occasion(Enum):
    """What one handler tells others of, without knowing them; each gets the contact it is about."""

    #: An agent and the caller speak.
    TAKEN = auto()
    #: An outside number has answered.
    ANSWERED_OUTSIDE = auto()
    #: An agent's part of it is over; `by` says how.
    LEG_ENDED = auto()
    #: It has ended.
    OVER = auto()
    #: Time has passed: what is not about a contact is looked at.
    LOOK = auto()
    #: An agent is rung for it; instead of the contact, the ring.
    RANG = auto()


#: `(site, body, now_ms) → answer`
command: Registry[str] = Registry("command")
#: `(site, contact, effect, now_ms)`: what a flow wants
effect: Registry[type] = Registry("effect")
#: `(site, decision, now_ms)`: what the router has decided
decision: Registry[type] = Registry("decision")
#: `(site, kind, identity, now_ms)`: what falls due
timer: Registry[str] = Registry("timer")
#: `(site, …, now_ms)`
on: Registry[Occasion] = Registry("occasion")
