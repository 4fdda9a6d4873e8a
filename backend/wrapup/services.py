"""What other apps may ask of wrap-up codes."""

from __future__ import annotations

from typing import NamedTuple

from changelog.errors import Use
from wrapup.models import Code, CodeSet


class CodeFacts(NamedTuple):
    """A code as an agent sees it."""

    id: str
    name: str
    digits: str
    group: str
    long_label: str = ""
    retired: bool = False


def codes_by_set() -> dict[str, list[CodeFacts]]:
    """Every code set's codes that can be chosen, in the order of their digits."""
    sets: dict[str, list[CodeFacts]] = {}
    for code_set in CodeSet.objects.prefetch_related("codes"):
        sets[str(code_set.pk)] = [
            CodeFacts(str(c.pk), c.name, c.digits, c.group, c.long_label)
            for c in code_set.codes.all()
            if not c.retired
        ]
    return sets


def sets_with_code(code_id: str) -> list[Use]:
    """The code sets that hold a code."""
    found = CodeSet.objects.filter(codes=code_id)
    return [Use("code_set", str(s.pk), s.name, "code set") for s in found]


def search(text: str) -> list[Use]:
    """Codes whose name or digits hold a text."""
    found = Code.objects.filter(name__icontains=text)[:5]
    return [Use("code", str(c.pk), c.name, "wrap-up code") for c in found]
