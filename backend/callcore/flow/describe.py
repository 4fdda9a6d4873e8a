"""Steps, exits and decisions in plain words, as a caller lives through them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from callcore.flow import conditions, periods
from callcore.flow.behaviour.decide import shown
from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import (
    AnyStep,
    Block,
    CheckHours,
    CheckQueue,
    Digits,
    Directory,
    End,
    Extension,
    FaxCheck,
    Fork,
    ForkArm,
    GoOn,
    Label,
    LibrarySound,
    Lookup,
    Menu,
    Message,
    Music,
    OfferCallback,
    Repeat,
    Ring,
    Say,
    SetValue,
    SpokenText,
    TellWait,
    Times,
    TimesArm,
    WaitInQueue,
)
from callcore.flow.parts import LANGUAGES, named
from callcore.flow.steps.decide import counted

_SAMPLE = 46


class StopWords(NamedTuple):
    """A stop in words: its kind with its measure, and its sentence."""

    title: str
    sentence: str
    name: str


def duration(seconds: float) -> str:
    """`6 s`, `1:05` or `1:02:03`."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    minutes, rest = divmod(whole, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes}:{rest:02}"


def sample(text: str) -> str:
    """The beginning of a text, cut at a word."""
    text = " ".join(text.split())
    if len(text) <= _SAMPLE:
        return text
    return text[:_SAMPLE].rsplit(" ", 1)[0].rstrip(",.;:") + "…"


def prompt_words(prompt: SpokenText | LibrarySound, catalogue: Catalogue) -> str:
    """What a prompt says, or the name of its sound."""
    words = catalogue.words(prompt)
    if words:
        return sample(words)
    if isinstance(prompt, LibrarySound):
        return place_name(prompt.sound, catalogue)
    return "words to come"


#: Where things are found in a catalogue, and what an open or lost one is called.
PLACES = {
    "queue": ("queues", "queue"),
    "hours": ("hours", "hours"),
    "mailbox": ("mailboxes", "mailbox"),
    "flow": ("flows", "flow"),
    "table": ("tables", "table"),
    "sound": ("sounds", "sound"),
    "group": ("groups", "ring group"),
}


def place_name(reference: str | None, catalogue: Catalogue, kind: str = "sound") -> str:
    """The name of what a reference leads to, or that there is none."""
    for name in named(reference):
        return f"whatever {name} holds"
    if reference is None:
        return "hours to choose" if kind == "hours" else f"a {kind} to choose"
    where, word = PLACES[reference.partition(":")[0]]
    facts = getattr(catalogue, where).get(reference)
    if facts is not None:
        return str(facts.name)
    return "hours that are gone" if word == "hours" else f"a {word} that is gone"


def stop(step: AnyStep, catalogue: Catalogue) -> StopWords:
    """A step in the caller's terms."""
    return _STOPS[type(step)](step, catalogue)


def _say(step: Say, catalogue: Catalogue) -> StopWords:
    words = prompt_words(step.prompt, catalogue)
    if catalogue.channel == "text":
        return StopWords("Writes", words, words)
    return StopWords(f"Says · {duration(catalogue.length_ms(step.prompt) / 1000)}", words, words)


def _menu(step: Menu, catalogue: Catalogue) -> StopWords:
    count = len(step.arms)
    keys = "keys to come" if not count else "1 key" if count == 1 else f"{count} keys"
    name = step.name or "Menu"
    if catalogue.channel == "text":
        choices = "1 choice" if count == 1 else f"{count} choices"
        return StopWords(f"Menu · {name}", f"{choices}, waits {duration(step.wait_s)}", name)
    choices = f"{keys} or words" if step.listens else keys
    return StopWords(f"Menu · {name}", f"{choices}, waits {duration(step.wait_s)}", name)


def _hours(step: CheckHours, catalogue: Catalogue) -> StopWords:
    name = place_name(step.hours, catalogue, "hours")
    return StopWords("Open?", name, name)


def _queue(step: WaitInQueue, catalogue: Catalogue) -> StopWords:
    name = place_name(step.queue, catalogue, "queue")
    return StopWords("Queue", name, name)


def _callback(step: OfferCallback, catalogue: Catalogue) -> StopWords:
    where = place_name(step.queue, catalogue, "queue") if step.queue else "the place in line is kept"
    return StopWords("Offers a callback", where, "Callback")


def _tell(step: TellWait, catalogue: Catalogue) -> StopWords:
    told = [word for word, on in (("place", step.position), ("wait", step.wait)) if on]
    where = f" in {place_name(step.queue, catalogue, 'queue')}" if step.queue else ""
    sentence = f"{' and '.join(told) or 'nothing'}{where}"
    return StopWords("Tells", sentence, f"Tell the {sentence}")


def _digits(step: Digits, catalogue: Catalogue) -> StopWords:
    count = f"{step.most}" if step.least == step.most else f"{step.least} to {step.most}"
    figures = "1 digit" if step.most == 1 else f"{count} digits"
    how = "keys or voice, " if step.listens else ""
    return StopWords(f"Asks · {figures}", f"{how}into {step.into}", step.into)


def _times(step: Times, catalogue: Catalogue) -> StopWords:
    name = step.name or "Day and time"
    return StopWords("When?", name, name)


def _fork(step: Fork, catalogue: Catalogue) -> StopWords:
    name = step.name or "By value"
    return StopWords("Which?", name, name)


def _lookup(step: Lookup, catalogue: Catalogue) -> StopWords:
    name = place_name(step.table, catalogue, "table")
    return StopWords("Looks up", f"{step.key} in {name}", name)


def _check_queue(step: CheckQueue, catalogue: Catalogue) -> StopWords:
    where = "the centre" if step.whole_centre else place_name(step.queue, catalogue, "queue")
    if step.figure in ("position", "expected_wait") and step.queue is None:
        where = "the wait"
    than = "at least" if step.how == "at_least" else "less than"
    sentence = f"{than} {counted(step.figure, step.limit)}?"
    return StopWords(f"Checks · {where}", sentence, f"{where}: {sentence}")


def _set(step: SetValue, catalogue: Catalogue) -> StopWords:
    to = f"as {step.copy_of}" if step.copy_of else f"= {shown(step.to)}"
    return StopWords("Notes", f"{step.value} {to}", step.value)


def _label(step: Label, catalogue: Catalogue) -> StopWords:
    parts = [step.label] if step.label else []
    if step.priority is not None:
        parts.append(f"priority {step.priority}")
    parts += [f"{catalogue.skills.get(a.skill, 'a skill that is gone')} {a.least}" for a in step.skills]
    if step.language is not None:
        parts.append(LANGUAGES[step.language])
    sentence = ", ".join(parts) or "a label to come"
    return StopWords("Labels", sentence, step.label or "Label")


def _music(step: Music, catalogue: Catalogue) -> StopWords:
    return StopWords(f"Music · {duration(step.seconds)}", "hold music", "Hold music")


def _fax(step: FaxCheck, catalogue: Catalogue) -> StopWords:
    return StopWords(f"Fax? · {duration(step.seconds)}", "listens for a fax tone", "Fax check")


def _repeat(step: Repeat, catalogue: Catalogue) -> StopWords:
    times = "once" if step.times == 1 else f"{step.times} times"
    return StopWords("Repeats", f"{times}, then goes on", f"Repeat {times}")


def _extension(step: Extension, catalogue: Catalogue) -> StopWords:
    return StopWords("Dials", "an extension", "Dial an extension")


def _directory(step: Directory, catalogue: Catalogue) -> StopWords:
    return StopWords("Spells", "a name on the keys", "Name directory")


def _block(step: Block, catalogue: Catalogue) -> StopWords:
    name = place_name(step.flow, catalogue, "flow") if step.flow else "a block to choose"
    sentence = f"version {step.version}" if step.version else "as it is in force"
    return StopWords(f"Block · {name}", sentence, name)


def _ring(step: Ring, catalogue: Catalogue) -> StopWords:
    if step.group:
        name = place_name(step.group, catalogue, "ring group")
        facts = catalogue.groups.get(step.group)
        return StopWords(f"Rings · {duration(facts.seconds if facts else 0)}", name, name)
    if step.people:
        between = ", with " if step.at_once else ", then "
        names = between.join(catalogue.agents.get(p, "somebody who is gone") for p in step.people)
        return StopWords(f"Rings · {duration(step.ring_s)}", names, names)
    number = catalogue.national.get(step.number, step.number) or "a number to come"
    return StopWords(f"Rings · {duration(step.ring_s)}", number, number)


def _message(step: Message, catalogue: Catalogue) -> StopWords:
    name = place_name(step.mailbox, catalogue, "mailbox")
    return StopWords("Leaves a message", name, name)


def _go(step: GoOn, catalogue: Catalogue) -> StopWords:
    name = place_name(step.flow, catalogue, "flow")
    return StopWords("Goes on in", name, name)


def _end(step: End, catalogue: Catalogue) -> StopWords:
    name = step.label or (prompt_words(step.prompt, catalogue) if step.prompt else "Call ends")
    if step.prompt is None:
        return StopWords("Ends", name, name)
    if catalogue.channel == "text":
        return StopWords("Writes, then ends", name, name)
    return StopWords(f"Ends · {duration(catalogue.length_ms(step.prompt) / 1000)}", name, name)


_STOPS: dict[type, Callable[[Any, Catalogue], StopWords]] = {
    Say: _say,
    Menu: _menu,
    CheckHours: _hours,
    Digits: _digits,
    Times: _times,
    Fork: _fork,
    Lookup: _lookup,
    CheckQueue: _check_queue,
    SetValue: _set,
    Label: _label,
    Music: _music,
    FaxCheck: _fax,
    Repeat: _repeat,
    Extension: _extension,
    Directory: _directory,
    Block: _block,
    WaitInQueue: _queue,
    OfferCallback: _callback,
    TellWait: _tell,
    Ring: _ring,
    Message: _message,
    GoOn: _go,
    End: _end,
}
_EXITS = {
    "next": "then",
    "left": "left",
    "waited": "waited too long",
    "nobody": "nobody signed in",
    "answered": "answered",
    "no_answer": "no answer",
    "away": "not available",
    "failed": "does not work",
    "no_digits": "no digits",
    "otherwise": "any other",
    "not_found": "not found",
    "no_fax": "no fax",
    "not_worked": "did not work",
    "none": "nobody found",
    "went_on": "goes on",
    "booked": "booked",
    "declined": "goes on waiting",
}


def exit_label(step: AnyStep, name: str, channel: str = "voice") -> str:
    """The condition that an arm is drawn with."""
    if isinstance(step, Menu):
        if name == "no_key":
            nothing = "no answer" if channel == "text" else "no key"
            return nothing if step.tries is None else f"{nothing} ×{step.tries}"
        if name == "wrong_key":
            wrong = "nothing that fits" if channel == "text" else "wrong key"
            times = step.wrong_tries or step.tries
            return wrong if times is None else f"{wrong} ×{times}"
        for arm in step.arms:
            if name == f"key:{arm.key}":
                return arm.label or f"key {arm.key}"
    if isinstance(step, Fork | Times) and name.startswith("arm:"):
        return next((_arm(arm) for arm in step.arms if name == f"arm:{arm.id}"), name)
    return _EXITS.get(name, name)


def _arm(arm: ForkArm | TimesArm) -> str:
    if arm.label:
        return arm.label
    if isinstance(arm, ForkArm):
        return conditions.words(arm.when)
    return "; ".join(periods.words(period) for period in arm.periods) or "times to come"
