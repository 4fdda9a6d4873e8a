"""What differs between two definitions, step by step, and in words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from difflib import SequenceMatcher
from typing import Any, NamedTuple, get_args

from callcore.flow import conditions, describe, periods
from callcore.flow.catalogue import Catalogue
from callcore.flow.conditions import Group
from callcore.flow.definition import AnyPrompt, AnyStep, Flow, LibrarySound, SpokenText
from callcore.flow.parts import Part, StepId
from callcore.flow.periods import Period

#: Words that are told before and after what changes in a text.
_AROUND = 6
#: So many pairs of the same word are matched at the most, in one text.
_MOST_MATCHES = 600
_SETTINGS = (
    "channel",
    "language",
    "inputs",
    "outputs",
    "start",
    "stay_limit_s",
    "failure_prompt",
    "music",
    "accepted",
)


class Difference(NamedTuple):
    """Step ids that were added, removed and changed, and the settings that changed."""

    added: tuple[str, ...]
    removed: tuple[str, ...]
    changed: tuple[str, ...]
    settings: tuple[str, ...]

    @property
    def size(self) -> int:
        """How many things differ."""
        return sum(len(part) for part in self)


class Change(NamedTuple):
    """One difference in words: `added`, `removed`, `changed` or `settings`, and what of it."""

    kind: str
    step: str
    words: str
    details: tuple[str, ...]


def compare(before: Flow, after: Flow) -> Difference:
    """What `after` does to `before`."""
    old = {step.id: step for step in before.steps}
    new = {step.id: step for step in after.steps}
    return Difference(
        added=tuple(i for i in new if i not in old),
        removed=tuple(i for i in old if i not in new),
        changed=tuple(i for i in new if i in old and new[i] != old[i]),
        settings=tuple(n for n in _SETTINGS if getattr(before, n) != getattr(after, n)),
    )


def in_words(before: Flow, after: Flow, catalogue: Catalogue) -> list[Change]:
    """Every difference as a person reads it."""
    old = {step.id: step for step in before.steps}
    new = {step.id: step for step in after.steps}
    names = {i: describe.stop(s, catalogue).name for i, s in {**old, **new}.items()}
    found = compare(before, after)
    rows = [Change("added", i, _stop(new[i], catalogue), ()) for i in found.added]
    for i in found.changed:
        details = tuple(_details(old[i], new[i], names, catalogue))
        rows.append(Change("changed", i, _stop(new[i], catalogue), details))
    rows += [Change("removed", i, _stop(old[i], catalogue), ()) for i in found.removed]
    rows += [
        Change(
            "settings",
            "",
            _LABELS.get(name, name),
            (_pair(getattr(before, name), getattr(after, name), names, catalogue),),
        )
        for name in found.settings
    ]
    return rows


class Clash(NamedTuple):
    """A part of one stop, or a setting of the flow (`step` empty), that two changed differently.

    `part` is a field, or a field and the key of one of its rows; empty for the stop as a whole.
    """

    step: str
    part: str
    label: str
    mine: str
    theirs: str


def clashes(base: Flow, mine: Flow, theirs: Flow, catalogue: Catalogue) -> list[Clash]:
    """What two who began from the same definition changed differently, in words.

    What only one of them touched is no clash: it is theirs (the interface brings it together).
    """
    both = [{step.id: step for step in flow.steps} for flow in (base, mine, theirs)]
    names = {i: describe.stop(s, catalogue).name for steps in both for i, s in steps.items()}
    found = []
    for step in dict.fromkeys(i for steps in both for i in steps):
        old, own, other = (steps.get(step) for steps in both)
        if own == other or old in (own, other):
            continue
        if old is None or own is None or other is None or len({old.kind, own.kind, other.kind}) > 1:
            said = [_stop(s, catalogue) if s is not None else "taken out" for s in (own, other)]
            found.append(Clash(step, "", "the whole stop", said[0], said[1]))
            continue
        found += _clashing(step, _parts(old), _parts(own), _parts(other), names, catalogue)
    settings = _settings(base), _settings(mine), _settings(theirs)
    return found + _clashing("", *settings, names, catalogue)


def _settings(flow: Flow) -> _Named:
    return {name: (_LABELS.get(name, name), getattr(flow, name)) for name in _SETTINGS}


#: The parts of a stop, each with what it is called and its value.
_Named = dict[str, tuple[str, Any]]


def _parts(step: AnyStep) -> _Named:
    """A stop's fields, lists of rows with a key or an id taken apart into their rows."""
    found: _Named = {}
    for field in type(step).model_fields:
        value, label = getattr(step, field), _label(field)
        rows = value if isinstance(value, tuple) else ()
        keys = [getattr(row, "key", None) or getattr(row, "id", None) for row in rows]
        if not keys or not all(isinstance(key, str) for key in keys):
            found[field] = (label, value)
            continue
        for key, row in zip(keys, rows, strict=True):
            named = f"key {key}" if hasattr(row, "key") else describe.exit_label(step, f"arm:{key}")
            found[f"{field} {key}"] = (f"{label}, {named}", row)
    return found


def _clashing(
    step: str, base: _Named, mine: _Named, theirs: _Named, names: Mapping[str, str], catalogue: Catalogue
) -> list[Clash]:
    found = []
    for part in dict.fromkeys((*mine, *theirs)):
        old, own, other = (side.get(part, ("", None)) for side in (base, mine, theirs))
        if own[1] == other[1] or old[1] in (own[1], other[1]):
            continue
        said = [_said(value, names, catalogue) for value in (own[1], other[1])]
        found.append(Clash(step, part, own[0] or other[0], said[0], said[1]))
    return found


_LABELS = {
    "channel": "what it answers",
    "language": "the language",
    "inputs": "the inputs",
    "outputs": "the outputs",
    "start": "the first stop",
    "stay_limit_s": "the longest stay",
    "failure_prompt": "what is said when something fails",
    "music": "the hold music",
    "accepted": "the warnings that are accepted",
    "prompt": "what is said",
    "arms": "its ways",
    "label": "what it is for",
    "words": "its words",
    "hidden": "hidden",
    "next": "leads to",
    "no_key": "without a key leads to",
    "wrong_key": "after wrong keys leads to",
    "wrong_tries": "how many wrong keys there may be",
    "wait_s": "seconds for a key",
    "listens": "listens for words",
    "tries": "how often it asks",
}


def _stop(step: AnyStep, catalogue: Catalogue) -> str:
    words = describe.stop(step, catalogue)
    return f"{words.title}: {words.sentence}"


def _details(old: AnyStep, new: AnyStep, names: Mapping[str, str], catalogue: Catalogue) -> list[str]:
    if old.kind != new.kind:
        return [f"was {_stop(old, catalogue)}"]
    rows: list[str] = []
    were, are = _parts(old), _parts(new)
    for part in dict.fromkeys((*were, *are)):
        label = (are.get(part) or were[part])[0]
        before, after = (side.get(part, ("", None))[1] for side in (were, are))
        known = _known(new, part, names) if part in type(new).model_fields else names
        if before != after:
            rows += _differing(label, before, after, known, catalogue)
    return rows


def _differing(
    label: str, before: Any, after: Any, names: Mapping[str, str], catalogue: Catalogue
) -> list[str]:
    """What differs in a part of a stop; of a row that was there before, field by field."""
    rows = isinstance(before, Part) and type(before) is type(after)
    if not rows or isinstance(before, SpokenText | LibrarySound | Group):
        return [f"{label}: {_pair(before, after, names, catalogue)}"]
    found = []
    for field in type(before).model_fields:
        was, is_now = getattr(before, field), getattr(after, field)
        if was != is_now:
            said = _pair(was, is_now, _known(before, field, names), catalogue)
            found.append(f"{label}, {_label(field)}: {said}")
    return found


def _known(part: Part, field: str, names: Mapping[str, str]) -> Mapping[str, str]:
    """The stops' names where a field of a part leads to a stop; else a word is only a word."""
    return names if StepId in get_args(type(part).model_fields[field].annotation) else {}


def _label(field: str) -> str:
    return _LABELS.get(field, field.replace("_s", " (s)").replace("_", " "))


def _pair(before: Any, after: Any, names: Mapping[str, str], catalogue: Catalogue) -> str:
    if isinstance(before, SpokenText) and isinstance(after, SpokenText):
        told = _word_by_word(before.text, after.text)
        if told:
            return f"“{told}”"
    if isinstance(before, tuple) and isinstance(after, tuple):
        # Of a list only what differs.
        before, after = (
            tuple(part for part in before if part not in after),
            tuple(part for part in after if part not in before),
        )
    return f"{_said(before, names, catalogue)} → {_said(after, names, catalogue)}"


def _word_by_word(before: str, after: str) -> str:
    """A text with what changes in it in brackets, before and after; long runs that stay are cut.
    Nothing where the texts have nothing in common, or are the same."""
    old, new = before.split(), after.split()
    runs = _runs(old, new)
    if all(same for same, *_ in runs) or not any(same for same, *_ in runs):
        return ""
    said: list[str] = []
    for n, (same, goes, comes) in enumerate(runs):
        if not same:
            said.append(f"[{' '.join(goes) or 'nothing'} → {' '.join(comes) or 'nothing'}]")
        elif len(goes) > 2 * _AROUND:
            first, last = (goes[:_AROUND] if n else []), goes[-_AROUND:]
            said.append(" ".join([*first, "…", *(last if n + 1 < len(runs) else [])]))
        else:
            said.append(" ".join(goes))
    return " ".join(said)


def _runs(old: list[str], new: list[str]) -> list[tuple[bool, list[str], list[str]]]:
    """Runs of words that are the same in both texts, and those that differ, in order. Where the
    same words come so often that matching them would take long, all between the common beginning
    and the common end differs."""
    again = Counter(new)
    if sum(again[word] for word in old) <= _MOST_MATCHES:
        codes = SequenceMatcher(None, old, new, autojunk=False).get_opcodes()
        return [(kind == "equal", old[i:j], new[k:m]) for kind, i, j, k, m in codes]
    least = min(len(old), len(new))
    head = next((n for n in range(least) if old[n] != new[n]), least)
    tail = next((n for n in range(least - head) if old[-1 - n] != new[-1 - n]), least - head)
    o, w = len(old) - tail, len(new) - tail
    runs = [(True, old[:head], new[:head]), (False, old[head:o], new[head:w]), (True, old[o:], new[w:])]
    return [run for run in runs if run[1] or run[2]]


def _said(value: Any, names: Mapping[str, str], catalogue: Catalogue) -> str:
    """A part of a definition, short."""
    if value is None or value == "" or value == ():
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, SpokenText | LibrarySound):
        return _prompt(value, catalogue)
    if isinstance(value, Group):
        return conditions.words(value)
    if isinstance(value, Period):
        return periods.words(value)
    if isinstance(value, tuple):
        return ", ".join(_said(item, names, catalogue) for item in value)
    if isinstance(value, Part):
        named = [(n, v) for n, v in value if n not in ("id", "kind") and v not in (None, "", (), False)]
        return " ".join(
            n.replace("_", " ") if v is True else _said(v, _known(value, n, names), catalogue)
            for n, v in named
        )
    if isinstance(value, str) and value in names:
        return f"“{names[value]}”"
    if isinstance(value, str) and value.partition(":")[0] in describe.PLACES and ":" in value:
        return describe.place_name(value, catalogue)
    return str(value)


def _prompt(prompt: AnyPrompt, catalogue: Catalogue) -> str:
    return f"“{catalogue.words(prompt) or describe.prompt_words(prompt, catalogue)}”"
