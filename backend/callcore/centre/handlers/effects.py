"""Carrying out what a flow wants for a contact: each effect becomes events and actions."""

from __future__ import annotations

from callcore.centre import environment
from callcore.centre.contact import Contact
from callcore.centre.contact_topics import SpokenNow
from callcore.centre.facts import LANGUAGE
from callcore.centre.handlers.recordings import records_no_more
from callcore.centre.hold_music import music_of
from callcore.centre.registry import Occasion, effect, timer
from callcore.centre.setup import RunnableFlow
from callcore.centre.site import Site
from callcore.events import facts
from callcore.flow import runner
from callcore.flow.blocks import way_out
from callcore.flow.definition import SpokenText, WaitInQueue
from callcore.flow.onward import onward
from callcore.flow.state import WITHIN
from callcore.routing import events as e


@effect(runner.Listen)
def listen(site: Site, contact: Contact, listen: runner.Listen, now_ms: int) -> None:
    contact.playing = None
    if not site.keeps.heard:
        return
    site.emit(facts.Listens(step=listen.step, until_ms=listen.until_ms), now_ms, contact=contact.id)


@effect(runner.Moved)
def moved(site: Site, contact: Contact, moved: runner.Moved, now_ms: int) -> None:
    """It took an exit: of its flow as it was written, or of its waiting plan."""
    plan, step, exit_name = (site.plans.get(contact.state.plan or contact.plan), moved.step, moved.exit)
    if WITHIN not in moved.step or plan is None:
        plan = None
        if contact.flow.written is not None:
            step, exit_name = way_out(contact.flow.written, moved.step, moved.exit, moved.to)
    inner = (moved.step, moved.exit) if (step, exit_name) != (moved.step, moved.exit) else None
    of_plan = (plan.flow_id, plan.plan_key) if plan else ("", "")
    fact = facts.Moved(step, exit_name, moved.to, moved.why, moved.detail, inner, of_plan[0], of_plan[1])
    site.emit(fact, now_ms, contact=contact.id)


@effect(runner.Play)
def play(site: Site, contact: Contact, play: runner.Play, now_ms: int) -> None:
    """It hears, or reads, a prompt."""
    if play.told_s is not None and contact.queue:
        site.emit(facts.WaitTold(contact.queue, play.told_s), now_ms, contact=contact.id)
    if not site.keeps.heard:
        return
    if contact.text:
        text = contact.flow.catalogue.words(play.prompt)
        site.emit(facts.Heard(play.step, play.role, text=text), now_ms, contact=contact.id)
        return
    take = contact.flow.takes.get(play.prompt)
    plan = site.plans.get(contact.state.plan)
    if take is None and plan is not None:
        take = plan.takes.get(play.prompt)
    spoken = _unspoken(play.prompt) if take is None else None
    contact.playing = {
        "take": take,
        "since_ms": now_ms,
        "length_ms": play.length_ms,
        "step": play.step,
        "spoken": spoken,
    }
    own = _is_own(plan if WITHIN in play.step else contact.flow, play)
    text = "" if own and not spoken else contact.flow.catalogue.words(play.prompt)
    language = spoken["language"] if spoken else ""
    version = plan.plan_key if plan is not None and WITHIN in play.step else ""
    fact = facts.Heard(play.step, play.role, take, play.length_ms, text, language, plan_version=version)
    site.emit(fact, now_ms, contact=contact.id)


def _is_own(flow: RunnableFlow | None, play: runner.Play) -> bool:
    """Whether a prompt is just what the stop says in its flow, so that nothing is to be kept."""
    return flow is not None and flow.prompt_of(play.step, play.role) == play.prompt


@effect(runner.JoinQueue)
def join(site: Site, contact: Contact, join: runner.JoinQueue, now_ms: int) -> None:
    contact.playing = None
    contact.queue = contact.home = join.queue.partition(":")[2]
    contact.entered_ms = now_ms
    contact.plan = contact.state.plan
    limits = site.setup.limits_of(contact.queue)
    staff = site.router.at_work_for(contact.queue, contact.asks)
    site.emit(facts.Queued(contact.queue, join.step, staff, *limits), now_ms, contact=contact.id)
    refused = environment.refuses(site, contact.queue, contact.text, now_ms)
    if refused:
        left = e.LeftQueue(contact.id, contact.queue, now_ms, refused)
        site.carry_out([left], now_ms)
        return
    site.route(joining(site, contact, now_ms), now_ms)
    site.watch_wait(contact)


@effect(runner.LeaveQueue)
def leave_queue(site: Site, contact: Contact, left: runner.LeaveQueue, now_ms: int) -> None:
    site.leave_queue(contact, left.why, now_ms)


@effect(runner.Finish)
def finish(site: Site, contact: Contact, finish: runner.Finish, now_ms: int) -> None:
    records_no_more(site, contact, now_ms, "end")
    site.close(contact)
    ending = "person" if contact.served and not contact.sent_on else finish.ending
    site.emit(facts.Ended(step=finish.step, ending=ending), now_ms, contact=contact.id)
    site.tell(Occasion.OVER, contact, now_ms)


@effect(runner.Record)
def record(site: Site, contact: Contact, record: runner.Record, now_ms: int) -> None:
    contact.playing = None
    site.emit(
        facts.Records(step=record.step, mailbox=record.mailbox, until_ms=record.until_ms),
        now_ms,
        contact=contact.id,
    )


@effect(runner.MessageLeft)
def message_left(site: Site, contact: Contact, left: runner.MessageLeft, now_ms: int) -> None:
    mailbox = left.mailbox.partition(":")[2]
    if mailbox in site.setup.mailboxes:
        site.unheard[mailbox] = site.unheard.get(mailbox, 0) + 1
    site.emit(
        facts.MessageLeft(step=left.step, mailbox=mailbox, length_ms=left.length_ms),
        now_ms,
        contact=contact.id,
    )


@effect(runner.HandOver)
def hand_over(site: Site, contact: Contact, over: runner.HandOver, now_ms: int) -> None:
    kind, _, identity = over.flow.partition(":")
    flow = site.setup.flows.get(identity)
    if kind in ("queue", "mailbox"):
        here = contact.flow.machine.flow
        flow = site.setup.ad_hoc(
            onward(over.flow, "", here.channel, here.language), "What the queue says then"
        )
    if flow is None:
        site.feed(contact, runner.NowhereToGo(), now_ms)
        return
    site.go_on(contact, flow, now_ms)


@effect(runner.RingPerson)
def ring_person(site: Site, contact: Contact, ring: runner.RingPerson, now_ms: int) -> None:
    contact.playing = None
    agents = tuple(person.partition(":")[2] for person in ring.people)
    site.emit(
        facts.RingsPerson(ring.step, ring.people, ring.until_ms, ring.group), now_ms, contact=contact.id
    )
    decisions = site.router.ring_directly(
        contact.id,
        agents,
        ring.until_ms - now_ms,
        now_ms,
        text=contact.text,
        inner=contact.consultation is not None,
    )
    if decisions is None:
        here = any(site.router.signed_in(agent) for agent in agents)
        site.feed(contact, runner.Rung("busy" if here else "away"), now_ms)
        return
    contact.queue, contact.entered_ms = site.router.contacts[contact.id].queue, now_ms
    site.carry_out(decisions, now_ms)
    site.watch_wait(contact)


@effect(runner.StopRinging)
def stop_ringing(site: Site, contact: Contact, stop: runner.StopRinging, now_ms: int) -> None:
    site.leave_queue(contact, "waited_out", now_ms)


@effect(runner.PlayMusic)
def music(site: Site, contact: Contact, music: runner.PlayMusic, now_ms: int) -> None:
    contact.playing = None
    if not site.keeps.heard:
        return
    site.emit(facts.Music(music.step, music.until_ms, music_of(site, contact)), now_ms, contact=contact.id)


@effect(runner.HearFax)
def hear_fax(site: Site, contact: Contact, hear: runner.HearFax, now_ms: int) -> None:
    listen(site, contact, runner.Listen(hear.step, hear.until_ms), now_ms)
    after_ms = site.devices.fax_tone_ms(contact.caller) if site.faxes else None
    if after_ms is not None:
        site.timers.set(now_ms + after_ms, "fax", contact.id)


@effect(runner.LookUp)
def look_up(site: Site, contact: Contact, asked: runner.LookUp, now_ms: int) -> None:
    contact.playing = None
    table = asked.table.partition(":")[2]
    contact.looks_up = (table, asked.key)
    site.asked.append((contact.id, table, asked.key))
    site.emit(facts.LooksUp(step=asked.step, table=table, key=asked.key), now_ms, contact=contact.id)


@effect(runner.Labelled)
def labelled(site: Site, contact: Contact, labelled: runner.Labelled, now_ms: int) -> None:
    contact.label = labelled.label
    if labelled.priority is not None:
        contact.priority = labelled.priority
    asks = dict(contact.asks)
    asks |= {skill.partition(":")[2]: least for skill, least in labelled.asks}
    if labelled.language is not None:
        asks = {skill: least for skill, least in asks.items() if not skill.startswith(LANGUAGE)}
        asks[LANGUAGE + labelled.language] = 1
    contact.asks = tuple(asks.items())
    site.emit(
        facts.Labelled(step=labelled.step, label=contact.label, priority=contact.priority, asks=contact.asks),
        now_ms,
        contact=contact.id,
    )


def _unspoken(prompt: runner.AnyPrompt) -> SpokenNow | None:
    """Words that were never spoken: whoever listens has them spoken then."""
    if isinstance(prompt, SpokenText) and prompt.text:
        return {"language": prompt.language, "text": prompt.text}
    return None


def joining(site: Site, contact: Contact, entered_ms: int) -> e.Join:
    """A contact as it enters a queue; who spoke with the caller before may be preferred."""
    queue = site.setup.queues.get(contact.queue)
    prefers = queue is not None and bool(queue.last_agent_s)
    known = site.acquaintances.of(contact.caller) if prefers else None
    step = contact.flow.machine.steps.get(contact.state.step)
    own_s = step.longest_wait_s if isinstance(step, WaitInQueue) else None
    return e.Join(
        contact.id,
        contact.queue,
        entered_ms,
        contact.priority,
        asks=contact.asks,
        preferred=(known,) if known else (),
        text=contact.text,
        inner=contact.consultation is not None,
        longest_ms=own_s * 1000 if own_s else None,
    )


@timer("contact")
def contact_due(site: Site, _kind: str, contact_id: str, now_ms: int) -> None:
    """Something is due for a contact in its flow."""
    contact = site.contacts.get(contact_id)
    due_ms = contact.state.due_ms if contact else None
    if contact is not None and due_ms is not None and due_ms <= now_ms:
        site.feed(contact, runner.Due(), now_ms)


@timer("fax")
def fax_heard(site: Site, _kind: str, contact_id: str, now_ms: int) -> None:
    """The caller is a fax machine."""
    contact = site.contacts.get(contact_id)
    if contact is not None:
        site.feed(contact, runner.FaxTone(), now_ms)
