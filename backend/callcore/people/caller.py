"""One caller: what they press, say and write, how long they wait, and want to talk."""

from __future__ import annotations

import random
from typing import Any

from callcore.centre.contact import Contact
from callcore.centre.site import Site
from callcore.directory.names import keys_of
from callcore.flow.runner import RunState
from callcore.flow.steps import Digits, Directory, Extension, Menu, OfferCallback
from callcore.people.diary import Diary, Task
from callcore.people.traits import CallerTraits
from callcore.speech.recogniser import KEY_WORDS, Grammar

SECOND = 1000
#: What nobody understands, and what people write.
MUMBLED = ("er", "can you say that again", "hello?", "what was that")
TEXTS = ("Are you sailing today?", "booking", "lost property", "Hello, a question", "no thanks")
#: From one key to the next.
_NEXT_KEY_MS = 400


class Caller:
    """Reacts when something of the contact has changed, and to nothing else."""

    __slots__ = (
        "_diary",
        "_keying_ms",
        "_rng",
        "_seen",
        "_site",
        "_traits",
        "_waits_since_ms",
        "id",
        "patience_ms",
        "robot",
        "talk_s",
    )

    def __init__(
        self, contact: str, site: Site, diary: Diary, rng: random.Random, traits: CallerTraits
    ) -> None:
        self.id = contact
        self._site, self._diary, self._rng, self._traits = site, diary, rng, traits
        # Drawn at once and in one order: a caller is the same person in every set-up.
        patience_s = max(traits.least_patience_s, traits.patience.draw(rng))
        self.patience_ms = round(patience_s * SECOND)
        self.talk_s = traits.talk.draw(rng)
        self.robot = rng.random() < traits.robots
        self._waits_since_ms = 0
        #: When the last of the keys is pressed that they are at.
        self._keying_ms = -1
        self._seen: RunState | None = None

    def look(self, now_ms: int) -> None:
        """Take in how the contact stands now, if it is still there."""
        contact = self._site.contacts.get(self.id)
        if contact is None or contact.state is self._seen:
            return
        state = self._seen = contact.state
        if state.phase == "queued" and state.entered_ms != self._waits_since_ms:
            self._waits_since_ms = state.entered_ms
            self._diary.at(state.entered_ms + self.patience_ms, self._giving_up(state.entered_ms))
        self._react(contact, now_ms)

    def _react(self, contact: Contact, now_ms: int) -> None:
        state = contact.state.inner or contact.state
        if state.phase == "recording":
            self._soon(now_ms, self._rng.uniform(6, 25), "call.key", key="#")
            return
        # Between two keys of theirs nobody begins anew.
        if state.phase != "listening" or self.robot or now_ms <= self._keying_ms:
            return
        if contact.text:
            words = self._written()
            self._soon(now_ms, self._rng.uniform(5, 40), "text.say", text=words)
            return
        plan = self._site.plans.get(contact.state.plan) if contact.state.inner else None
        machine = plan.machine if plan else contact.flow.machine
        step = machine.steps.get(state.step)
        if isinstance(step, Menu) and self._rng.random() < self._traits.leaves:
            self._soon(now_ms, self._traits.reacts.draw(self._rng), "call.hang_up")
            return
        keys = self._keys(step, state)
        grammar = self._grammar(contact) if keys else None
        after_s = self._traits.reacts.draw(self._rng)
        if grammar is not None and self._rng.random() < self._traits.speaks:
            self._soon(now_ms, after_s, "call.say", words=self._spoken(grammar, keys))
            return
        for at, key in enumerate(keys):
            self._keying_ms = now_ms + round(after_s * SECOND) + at * _NEXT_KEY_MS
            self._diary.at(self._keying_ms, self._pressing(state.step, key))

    def _grammar(self, contact: Contact) -> Grammar | None:
        machine = contact.flow.machine.asking(self._site.environment(contact.id))
        return machine.grammar(contact.state)

    def _spoken(self, grammar: Grammar, keys: str) -> str:
        """How a caller says what would be pressed; some of them are not understood."""
        if self._rng.random() < self._traits.misheard:
            return self._rng.choice(MUMBLED)
        names = {key: word for word, key in KEY_WORDS[grammar.language].items()}
        phrases = dict(grammar.choices).get(keys)
        if phrases:
            return self._rng.choice(phrases)
        # Figures end where somebody says no more.
        said = keys.rstrip("#*") if grammar.digits else keys
        return " ".join(names[key] for key in said if key in names)

    def _keys(self, step: Any, state: RunState) -> str:
        """What is pressed at a stop."""
        rng, traits = self._rng, self._traits
        if isinstance(step, Menu) and step.arms:
            if rng.random() < traits.silent:
                return ""
            if rng.random() < traits.miskeyed:
                return rng.choice("0123456789")
            return self._chosen(step)
        if isinstance(step, Digits):
            if state.role == "confirm":
                return "1"
            return "".join(rng.choice("0123456789") for _ in range(step.least)) + step.end_key
        if isinstance(step, OfferCallback):
            if state.role == "other_number":
                return "#"
            return "1" if rng.random() < traits.called_back else ""
        if isinstance(step, Extension):
            return rng.choice(sorted(self._site.setup.extensions) or ["1"])
        if isinstance(step, Directory):
            names = sorted({keys_of(person.letters()) for person in self._site.setup.people()})
            return "1" if state.role == "choices" else rng.choice(names or ["1"]) + "#"
        return ""

    def _written(self) -> str:
        texts = self._traits.texts
        if sum(texts.values()) <= 0:
            return self._rng.choice(TEXTS)
        return self._rng.choices(list(texts), list(texts.values()))[0]

    def _chosen(self, menu: Menu) -> str:
        """A key by the shares of the stop, or of the words of its ways; without any the first key
        is pressed most."""
        shares, choices = self._traits.shares.get(menu.name or menu.id, {}), self._traits.choices
        weights = [shares.get(arm.key, 0.0) for arm in menu.arms]
        if sum(weights) <= 0 and any(arm.label in choices for arm in menu.arms):
            weights = [choices.get(arm.label, 1.0) for arm in menu.arms]
        if sum(weights) <= 0:
            weights = [1 / (at + 1) for at in range(len(menu.arms))]
        return self._rng.choices([arm.key for arm in menu.arms], weights)[0]

    def _soon(self, now_ms: int, after_s: float, kind: str, **body: Any) -> None:
        self._diary.at(now_ms + round(after_s * SECOND), self._doing(kind, body))

    def _doing(self, kind: str, body: dict[str, Any]) -> Task:
        return lambda now: self._do(kind, body, now)

    def _do(self, kind: str, body: dict[str, Any], now_ms: int) -> None:
        if self.id in self._site.contacts:
            self._site.command(kind, {"contact": self.id, **body}, now_ms)

    def _pressing(self, step: str, key: str) -> Task:
        """A key, if it is still asked for where it was meant."""

        def press(now_ms: int) -> None:
            contact = self._site.contacts.get(self.id)
            state = (contact.state.inner or contact.state) if contact is not None else None
            if state is not None and (state.step, state.phase) == (step, "listening"):
                self._site.command("call.key", {"contact": self.id, "key": key}, now_ms)

        return press

    def _giving_up(self, entered_ms: int) -> Task:
        def give_up(now_ms: int) -> None:
            contact = self._site.contacts.get(self.id)
            if contact is None or contact.state.phase != "queued":
                return
            if contact.state.entered_ms == entered_ms:
                self._site.command("call.hang_up", {"contact": self.id}, now_ms)

        return give_up
