"""The policy on single things: may this person do this to this thing, and which rows may they see.

`accounts.policy` says what a role may do in an area; here each app says, once, what holds for its
things beside that. Views, files, live topics and commands ask it; nothing else decides.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Literal, NamedTuple

from web.errors import Refused

#: `make` has no thing yet, only the values that it would have; `hear` is to listen to what callers
#: left; `use` is to act in its place, as whoever holds a telephone does.
Act = Literal["make", "change", "delete", "hear", "use"]
Values = Mapping[str, Any]
NO_VALUES: Values = {}

#: Why a person may not do it, in words for them; empty where they may.
Refusal = Callable[[Any, Act, Any, Values], str]


def allowed(user: Any, act: Act, thing: Any, values: Values) -> str:
    """The rule of things that whoever may work in their area may all work with."""
    del user, act, thing, values
    return ""


def all_rows(user: Any, rows: Any) -> Any:
    """The rule of things that whoever may see their area may see all of."""
    del user
    return rows


class ThingRule(NamedTuple):
    """What holds for the things of one model."""

    refusal: Refusal = allowed
    rows: Callable[[Any, Any], Any] = all_rows


_rules: dict[type, ThingRule] = {}


def register(model: type, rule: ThingRule) -> None:
    """Say what holds for the things of a model. Without that nobody may do anything to them."""
    _rules[model] = rule


def rule_of(model: type) -> ThingRule:
    """What holds for the things of a model; KeyError where nobody has said."""
    return _rules[model]


def registered() -> dict[type, ThingRule]:
    """All that has been said."""
    return dict(_rules)


def refusal(user: Any, act: Act, thing: Any, values: Values = NO_VALUES) -> str:
    """Why a person may not do something to a thing (a model, for `make`); empty where they may."""
    model = thing if isinstance(thing, type) else type(thing)
    return _rules[model].refusal(user, act, None if thing is model else thing, values)


def must(user: Any, act: Act, thing: Any, values: Values = NO_VALUES) -> None:
    """Let pass whoever may.

    Raises:
        Refused: `not-yours` (403), in words.
    """
    words = refusal(user, act, thing, values)
    if words:
        raise Refused("not-yours", words, status=403)


def visible(user: Any, rows: Any) -> Any:
    """The rows of a queryset that a person may see."""
    return _rules[rows.model].rows(user, rows)
