"""Recording a talk: begun by a queue's rule, an agent or an emergency, once the caller knows."""

from __future__ import annotations

from callcore.centre.contact import Contact
from callcore.centre.registry import timer
from callcore.centre.site import Site
from callcore.events import Fact, facts
from callcore.talk import recording
from callcore.talk.conversation import Talk

_NOTICE_MS = 3_000


def stands(site: Site, contact: Contact, talk: Talk, fact: Fact, now_ms: int, agent: str = "") -> None:
    """From now on a contact stands so with its agent."""
    contact.talk = talk
    consult = site.contacts.get(talk.consult)
    if consult is not None and consult.agent:
        # A colleague who is asked sees it too.
        site.dirty.add(f"desk.{consult.agent}")
    site.emit(fact, now_ms, contact=contact.id, agent=agent or contact.agent)


def record(site: Site, contact: Contact, now_ms: int, by: str = "agent") -> None:
    """Record, once the caller has heard that it is recorded."""
    queue = site.setup.queues.get(contact.home)
    rule = queue.recording if queue is not None else recording.RecordingRule()
    language = contact.flow.machine.flow.language
    words = recording.notice(rule, language)
    if not words:
        _begins(site, contact, now_ms, rule.told, by)
    elif not contact.talk.notice:
        contact.talk = contact.talk._replace(notice=True)
        contact.playing = {
            "take": None,
            "since_ms": now_ms,
            "length_ms": _NOTICE_MS,
            "step": contact.state.step,
            "spoken": {"language": language, "text": words},
        }
        site.emit(
            facts.Heard(
                step=contact.state.step,
                role="notice",
                length_ms=_NOTICE_MS,
                text=words,
                language=language,
                by=by,
            ),
            now_ms,
            contact=contact.id,
        )
        site.dirty.add(f"desk.{contact.agent}")
        site.timers.set(now_ms + _NOTICE_MS, "records", contact.id)


def _begins(site: Site, contact: Contact, now_ms: int, told: str, by: str) -> None:
    talk = contact.talk._replace(recording=True, notice=False)
    stands(site, contact, talk, facts.RecordsTalk(on=True, told=told, by=by), now_ms)


@timer("records")
def notice_heard(site: Site, _kind: str, contact_id: str, now_ms: int) -> None:
    """The caller knows by now; whoever spoke with them may be gone."""
    contact = site.contacts.get(contact_id)
    if contact is None or not contact.talk.notice:
        return
    heard = (e.fact for e in reversed(contact.log) if isinstance(e.fact, facts.Heard))
    by = next((fact.by for fact in heard if fact.role == "notice"), "")
    _begins(site, contact, now_ms, "notice", by)


def records_no_more(site: Site, contact: Contact, now_ms: int, by: str) -> None:
    """A recording, or what leads to one, is over."""
    recorded = contact.talk.recording
    if recorded or contact.talk.notice:
        contact.talk = contact.talk._replace(recording=False, notice=False)
    if recorded:
        site.emit(
            facts.RecordsTalk(on=False, told="nothing", by=by),
            now_ms,
            contact=contact.id,
            agent=contact.agent,
        )
