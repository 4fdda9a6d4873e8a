"""Conditions over values: fields, comparisons, and/or groups. Never typed formulas."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from callcore.flow.parts import Part, TypedValue, ValueName

Operator = Literal["is", "is_not", "begins_with", "contains", "more_than", "less_than", "given", "not_given"]
#: The comparisons, in words; the editor offers them in this order.
OPERATORS: dict[Operator, str] = {
    "is": "is",
    "is_not": "is not",
    "begins_with": "begins with",
    "contains": "contains",
    "more_than": "is more than",
    "less_than": "is less than",
    "given": "is given",
    "not_given": "is not given",
}
MOST_PARTS = 20
_WITHOUT_OTHER = ("given", "not_given")


class Comparison(Part):
    """One value compared. Texts are compared without case; numbers as numbers."""

    kind: Literal["compare"] = "compare"
    value: ValueName = "caller"
    how: Operator = "is"
    other: TypedValue = None


class Group(Part):
    """Comparisons that must all hold (`and`), or one of them (`or`). An empty one never holds."""

    kind: Literal["group"] = "group"
    join: Literal["and", "or"] = "and"
    parts: tuple[Annotated[Comparison | Group, Field(discriminator="kind")], ...] = Field(
        default=(), max_length=MOST_PARTS
    )


def holds(condition: Group | Comparison, values: Mapping[str, Any]) -> bool:
    """Whether a condition holds for a contact's values."""
    if isinstance(condition, Comparison):
        return _compare(condition, values.get(condition.value))
    if not condition.parts:
        return False
    each = (holds(part, values) for part in condition.parts)
    return all(each) if condition.join == "and" else any(each)


def _compare(comparison: Comparison, value: Any) -> bool:
    given = value is not None and value != ""
    if comparison.how == "given":
        return given
    if comparison.how == "not_given":
        return not given
    if not given:
        return comparison.how == "is_not"
    other = comparison.other
    if comparison.how in ("more_than", "less_than"):
        mine, theirs = whole_number(value), whole_number(other)
        if mine is None or theirs is None:
            return False
        return mine > theirs if comparison.how == "more_than" else mine < theirs
    mine_text, other_text = folded(value), folded(other)
    match comparison.how:
        case "begins_with":
            return mine_text.startswith(other_text)
        case "contains":
            return other_text in mine_text
        case "is":
            return mine_text == other_text
    return mine_text != other_text


def folded(value: Any) -> str:
    """A value as it is compared."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return " ".join(str(value if value is not None else "").casefold().split())


def complete(condition: Group | Comparison) -> bool:
    """Whether everything that it compares with is filled in."""
    if isinstance(condition, Comparison):
        return condition.how in _WITHOUT_OTHER or condition.other not in (None, "")
    return bool(condition.parts) and all(complete(part) for part in condition.parts)


def whole_number(value: Any) -> int | None:
    """A value as a number, where it is one."""
    try:
        return int(str(value))
    except ValueError:
        return None


def values_of(condition: Group | Comparison) -> frozenset[str]:
    """The names of the values that a condition looks at."""
    if isinstance(condition, Comparison):
        return frozenset({condition.value})
    return frozenset(name for part in condition.parts for name in values_of(part))


def words(condition: Group | Comparison, *, inner: bool = False) -> str:
    """A condition in words: `party is more than 9 and paid is yes`."""
    if isinstance(condition, Comparison):
        how = OPERATORS[condition.how]
        if condition.how in _WITHOUT_OTHER:
            return f"{condition.value} {how}"
        other = condition.other
        shown = ("yes" if other else "no") if isinstance(other, bool) else other
        return f"{condition.value} {how} {shown if shown not in (None, '') else '…'}"
    if not condition.parts:
        return "no condition yet"
    joined = f" {condition.join} ".join(words(part, inner=True) for part in condition.parts)
    return f"({joined})" if inner and len(condition.parts) > 1 else joined
