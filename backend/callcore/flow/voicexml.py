"""A voice flow's dialogues in VoiceXML 2.1 (W3C Recommendation, 2007): one form a stop.

Values of the contact are variables of the document. What a dialog cannot decide (hours, figures,
look-ups, queues) is asked of the host: `<data>` fetches `host/<stop>` with the values, and the root
element of the answer names the exit, and values that have changed, in its attributes.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from typing import Any
from xml.etree import ElementTree as Xml

from callcore.flow.catalogue import Catalogue
from callcore.flow.definition import AnyPrompt, Digits, End, Flow, Menu, Message, Say, SpokenText
from callcore.flow.inputs import ALWAYS
from callcore.flow.parts import FROM_VALUE, PLACE, Exit, values_in
from callcore.flow.usage import sets, uses
from callcore.flow.xml_names import Names, document
from callcore.speech.recogniser import YES

NAMESPACE = "http://www.w3.org/2001/vxml"
LANGUAGES = {"en": "en-GB", "cy": "cy-GB"}
#: Ways of saying a value that VoiceXML knows too (2.0, appendix P).
_SAY_AS = {"digits": "vxml:digits", "number": "vxml:number"}
_OF_THE_LINE = {"caller": "session.connection.remote.uri", "dialled": "session.connection.local.uri"}

Element = Xml.Element


def write(flow: Flow, catalogue: Catalogue) -> str:
    """The flow as a VoiceXML document."""
    return document(_Writer(flow, catalogue).root)


class _Writer:
    def __init__(self, flow: Flow, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        self.language = flow.language
        self.names = Names(step.id for step in flow.steps)
        self.failed = self.names.new("failure-rule")
        last_words = values_in(flow.failure_prompt) if flow.failure_prompt else ()
        used = {name for step in flow.steps for name in (*sets(step), *uses(step))}
        self.values = sorted({*ALWAYS, *(i.name for i in flow.inputs), *used, *last_words})
        language = {"xmlns": NAMESPACE, "version": "2.1", "xml:lang": LANGUAGES[flow.language]}
        self.root = Xml.Element("vxml", language)
        defaults = {declared.name: declared.default for declared in flow.inputs}
        for name in self.values:
            default = defaults.get(name)
            first = _OF_THE_LINE.get(name) or json.dumps("" if default is None else default)
            self.add(self.root, "var", name=_variable(name), expr=first)
        # A document begins with its first dialog.
        for step in sorted(flow.steps, key=lambda step: step.id != flow.start):
            form = self.add(self.root, "form", id=self.names.of(step.id))
            _DIALOGS.get(type(step), _decided)(self, form, step)
        block = self.add(self.add(self.root, "form", id=self.failed), "block")
        if flow.failure_prompt is not None:
            self.prompt(block, flow.failure_prompt)
        self.add(block, "exit")
        if not self.names.of(flow.start):
            # Nothing to begin with: the failure rule stands first.
            failure = self.root[-1]
            self.root.remove(failure)
            self.root.insert(len(self.values), failure)

    def add(self, parent: Element, tag: str, **attributes: str) -> Element:
        return Xml.SubElement(parent, tag, attributes)

    def goto(self, parent: Element, target: str | None) -> None:
        self.add(parent, "goto", next=f"#{self.names.of(target, self.failed)}")

    def prompt(self, parent: Element, prompt: AnyPrompt) -> None:
        element = self.add(parent, "prompt")
        if not isinstance(prompt, SpokenText):
            self._sound(element, prompt.sound or "", self.catalogue.words(prompt))
            return
        element.set("xml:lang", LANGUAGES[prompt.language])
        element.text = ""
        last: Element | None = None
        at = 0
        for place in PLACE.finditer(prompt.text):
            _say_on(element, last, prompt.text[at : place.start()])
            way = _SAY_AS.get(place[2] or "")
            around = self.add(element, "say-as", **{"interpret-as": way}) if way else element
            value = self.add(around, "value", expr=_variable(place[1]))
            last = around if way else value
            at = place.end()
        _say_on(element, last, prompt.text[at:])

    def _sound(self, element: Element, sound: str, words: str) -> None:
        if sound.startswith(FROM_VALUE):
            name = _variable(sound.removeprefix(FROM_VALUE))
            self.add(element, "audio", expr=f"'sounds/' + {name}.replace('sound:', '') + '.wav'")
            return
        name = sound.partition(":")[2] or "none"
        self.add(element, "audio", src=f"sounds/{name}.wav").text = words

    def choose(self, parent: Element, asked: str, ways: Iterable[tuple[str, str | None]]) -> None:
        """Go where the value of an expression says; a value that none has goes nowhere."""
        choice: Element | None = None
        for value, to in ways:
            cond = f"{asked} == {json.dumps(value)}"
            if choice is None:
                choice = self.add(parent, "if", cond=cond)
            else:
                self.add(choice, "elseif", cond=cond)
            self.goto(choice, to)
        if choice is not None:
            self.add(choice, "else")
            self.goto(choice, None)


def _variable(name: str) -> str:
    """A value's variable: no word of ECMAScript's begins so."""
    return f"value_{name}"


def _say_on(element: Element, last: Element | None, text: str) -> None:
    if last is None:
        element.text = text
    else:
        last.tail = text


def _missed(
    w: _Writer,
    field: Element,
    event: str,
    counts: str,
    over: str,
    to: str | None,
    extra: AnyPrompt | None = None,
    clears: str = "",
) -> None:
    """One more try: over where so many were had (`over`, empty: never), else asked again."""
    caught = w.add(field, event)
    w.add(caught, "assign", name=counts, expr=f"{counts} + 1")
    if over:
        w.goto(w.add(caught, "if", cond=over), to)
    if extra is not None:
        w.prompt(caught, extra)
    if clears:
        w.add(caught, "clear", namelist=clears)
    w.add(caught, "reprompt")


def _say(w: _Writer, form: Element, step: Say) -> None:
    block = w.add(form, "block")
    w.prompt(block, step.prompt)
    w.goto(block, step.next)


def _menu(w: _Writer, form: Element, step: Menu) -> None:
    """Silences and wrong keys are counted together, or, with tries of their own, apart."""
    for name in ("silences", "wrong"):
        w.add(form, "var", name=name, expr="0")
    field = w.add(form, "field", name="pressed")
    _listens(w, field, step.wait_s, "", spoken=step.listens)
    w.prompt(field, step.prompt)
    for arm in step.arms:
        w.add(field, "option", dtmf=arm.key, value=arm.key).text = arm.label
        for words in arm.words if step.listens else ():
            w.add(field, "option", value=arm.key).text = words
    together = "silences + wrong" if step.wrong_tries is None else ""
    most = step.tries if step.wrong_tries is None else step.wrong_tries or None
    silent = f"{together or 'silences'} >= {step.tries}" if step.tries is not None else ""
    pressed = f"{together or 'wrong'} >= {most}" if most is not None else ""
    _missed(w, field, "noinput", "silences", silent, step.no_key, step.no_key_prompt)
    to = step.wrong_key or step.no_key
    _missed(w, field, "nomatch", "wrong", pressed, to, step.wrong_key_prompt)
    filled = w.add(field, "filled")
    w.choose(filled, "pressed", ((arm.key, arm.next) for arm in step.arms))


def _listens(w: _Writer, field: Element, wait_s: int, end_key: str, *, spoken: bool = False) -> None:
    modes = "dtmf voice" if spoken else "dtmf"
    settings = {
        "inputmodes": modes,
        "timeout": f"{wait_s}s",
        "interdigittimeout": f"{wait_s}s",
        "termchar": end_key,
    }
    for name, value in settings.items():
        w.add(field, "property", name=name, value=value)


def _digits(w: _Writer, form: Element, step: Digits) -> None:
    w.add(form, "var", name="tries", expr="0")
    over = f"tries >= {step.tries}"
    length = f"digits?minlength={step.least};maxlength={step.most}"
    field = w.add(form, "field", name="typed", type=length)
    _listens(w, field, step.wait_s, step.end_key, spoken=step.listens)
    w.prompt(field, step.prompt)
    for event in ("noinput", "nomatch"):
        _missed(w, field, event, "tries", over, step.no_digits)
    filled = w.add(field, "filled")
    w.add(filled, "assign", name=_variable(step.into), expr="typed")
    if step.confirm is None:
        w.goto(filled, step.next)
        return
    right = w.add(form, "field", name="right")
    _listens(w, right, step.wait_s, "", spoken=step.listens)
    w.prompt(right, step.confirm)
    yes = w.add(right, "option", dtmf="1", value="1")
    if step.listens:
        yes.text = YES[w.language][0]
    for event in ("noinput", "nomatch"):
        _missed(w, right, event, "tries", over, step.no_digits, clears="typed right")
    w.goto(w.add(right, "filled"), step.next)


def _message(w: _Writer, form: Element, step: Message) -> None:
    if step.mailbox is None:
        w.goto(w.add(form, "block"), step.failed)
        return
    facts = w.catalogue.mailboxes.get(step.mailbox)
    longest = f"{(facts.longest_ms if facts else 120_000) // 1000}s"
    record = w.add(form, "record", name="message", beep="true", maxtime=longest, dtmfterm="true")
    w.add(w.add(record, "noinput"), "exit")
    filled = w.add(record, "filled")
    if step.thanks is not None:
        w.prompt(filled, step.thanks)
    w.add(filled, "exit", namelist="message")


def _end(w: _Writer, form: Element, step: End) -> None:
    block = w.add(form, "block")
    if step.prompt is not None:
        w.prompt(block, step.prompt)
    w.add(block, "exit")


def _decided(w: _Writer, form: Element, step: Any) -> None:
    """A stop that the host decides: it goes on by the exit that the host names."""
    block = w.add(form, "block")
    ways: tuple[Exit, ...] = step.exits()
    names = " ".join(_variable(name) for name in w.values)
    w.add(block, "data", name="answer", src=f"host/{w.names.of(step.id)}", namelist=names)
    for name in sorted(sets(step)):
        said = f"answer.documentElement.getAttribute({json.dumps(name)})"
        w.add(block, "assign", name=_variable(name), expr=said)
    if not ways:
        w.add(block, "exit")
        return
    asked = "answer.documentElement.getAttribute('exit')"
    w.choose(block, asked, ((way.name, way.to) for way in ways))


_DIALOGS: dict[type, Callable[[_Writer, Element, Any], None]] = {
    Say: _say,
    Menu: _menu,
    Digits: _digits,
    Message: _message,
    End: _end,
}
