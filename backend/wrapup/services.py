"""What other apps may ask of wrap-up codes."""

from __future__ import annotations

from callcore.centre.facts import CodeFacts
from changelog.kinds import RecordedKind, Values
from web.errors import Refused, Use
from wrapup.models import Code, CodeSet


def check(kind: RecordedKind, thing: Code, before: Values, after: Values) -> None:
    """Whatever way a code is changed: on a keypad the shorter of two that begin alike would be
    taken before the longer is typed."""
    digits = after.get("digits")
    if kind.name != "code" or not digits or after.get("retired"):
        return
    for other in Code.objects.filter(retired=False).exclude(pk=thing.pk):
        shorter, longer = sorted((digits, other.digits), key=len)
        if longer.startswith(shorter):
            said = f"{shorter} begins {longer}: {other.name} has {other.digits}."
            words = f"{said} No code may begin another."
            raise Refused("not-valid", words, status=400, fields={"digits": [words]})


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


def code_names() -> dict[str, str]:
    """What codes are called, retired ones too, by id."""
    return {str(pk): name for pk, name in Code.objects.values_list("pk", "name")}


def sets_with_code(code_id: str) -> list[Use]:
    """The code sets that hold a code."""
    found = CodeSet.objects.filter(codes=code_id)
    return [Use("code_set", str(s.pk), s.name, "code set") for s in found]


def search(text: str) -> list[Use]:
    """Codes whose name or digits hold a text."""
    found = Code.objects.filter(name__icontains=text)[:5]
    return [Use("code", str(c.pk), c.name, "wrap-up code") for c in found]
