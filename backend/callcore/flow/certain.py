"""Conditions that come out the same whatever a contact's values are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import combinations

from callcore.flow.conditions import Comparison, Group, folded, whole_number
from callcore.flow.inputs import ValueType

Types = Mapping[str, ValueType]


def certain(condition: Group | Comparison) -> bool | None:
    """What a condition always comes to; None where that depends on the values.

    True and False are sure; None may still be a condition that is certain for deeper reasons.
    """
    if isinstance(condition, Comparison):
        return _alone(condition)
    if not condition.parts:
        return False
    each = [certain(part) for part in condition.parts]
    deciding = condition.join == "or"
    if deciding in each:
        return deciding
    if all(answer is not None for answer in each):
        return not deciding
    clash = _must_hold if deciding else _cannot_hold
    return deciding if any(clash(*pair) for pair in _pairs(condition.parts)) else None


def misfitting(condition: Group | Comparison, types: Types) -> Iterable[Comparison]:
    """The comparisons that hold for no value of their input's type.

    Args:
        types: the types of the inputs, by name.
    """
    if isinstance(condition, Group):
        for part in condition.parts:
            yield from misfitting(part, types)
        return
    kind = types.get(condition.value)
    other = condition.other
    if other in (None, "") or condition.how in ("given", "not_given", "is_not"):
        return
    number = whole_number(other)
    if kind in ("number", "duration"):
        fits = number is not None
    elif kind == "yes_no":
        fits = condition.how not in ("more_than", "less_than") and folded(other) in ("yes", "no")
    else:
        fits = condition.how not in ("more_than", "less_than") or number is not None
    if not fits:
        yield condition


def _alone(one: Comparison) -> bool | None:
    if one.how in ("more_than", "less_than") and one.other not in (None, ""):
        return None if whole_number(one.other) is not None else False
    return None


def _pairs(parts: Iterable[Group | Comparison]) -> Iterable[tuple[Comparison, Comparison]]:
    """Comparisons of one value that stand beside one another, in both orders."""
    compared = [part for part in parts if isinstance(part, Comparison)]
    for one, two in combinations(compared, 2):
        if one.value == two.value:
            yield one, two
            yield two, one


def _cannot_hold(one: Comparison, two: Comparison) -> bool:
    """Whether no value is both."""
    if one.how == "not_given":
        return two.how not in ("not_given", "is_not")
    mine, theirs = folded(one.other), folded(two.other)
    if one.how == "is":
        number, limit = whole_number(one.other), whole_number(two.other)
        match two.how:
            case "is":
                return mine != theirs
            case "is_not":
                return mine == theirs
            case "begins_with":
                return not mine.startswith(theirs)
            case "contains":
                return theirs not in mine
            case "more_than":
                return limit is not None and (number is None or number <= limit)
            case "less_than":
                return limit is not None and (number is None or number >= limit)
    if one.how == "more_than" and two.how == "less_than":
        low, high = whole_number(one.other), whole_number(two.other)
        return low is not None and high is not None and high - low < 2
    return False


def _must_hold(one: Comparison, two: Comparison) -> bool:
    """Whether every value is one of the two."""
    same = folded(one.other) == folded(two.other)
    if one.how == "given":
        return two.how in ("not_given", "is_not")
    if one.how == "is_not":
        return (two.how == "is" and same) or (two.how == "is_not" and not same)
    return False
