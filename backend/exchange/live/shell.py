"""The exchange process: an asyncio shell around the engine.

One rule orders it: nothing is told before it is written. Events and answers go
into the journal in one transaction, and only then to telephones, desks and boards.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import socket
import time
import uuid
from collections.abc import Callable, Coroutine
from pathlib import Path
from typing import Any

import psycopg
from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import DataError, IntegrityError, InterfaceError, OperationalError, connection, transaction
from kombu.exceptions import KombuError as CeleryError
from redis.asyncio import Redis
from redis.exceptions import RedisError

from callcore.centre import standing
from callcore.centre.centre import Centre
from callcore.centre.handlers.messaging import arrives
from callcore.centre.handlers.telephone import place_call
from callcore.centre.setup import Setup
from callcore.centre.standing import Row
from callcore.centre.topics import CentreTopic, HeartbeatTopic
from callcore.centre.views import view
from callcore.errors import EventRefused
from callcore.people.crowd import Crowd
from changelog.config_store import CONFIG_CHANNEL, QUIET
from exchange.commands import COMMAND_CHANNEL
from exchange.devices import devices
from exchange.live import journal, reading, taking_up
from exchange.live.publisher import Publisher
from exchange.models import Command
from exchange.site_clock import SiteClock, wall_ms
from exchange.watching import SHOWN_S, WATCHED
from flows.soundness import LOOKED_AT
from flows.tasks import look_whether_sound
from lookups.services import look_up
from mailboxes import services as mailbox_services
from mailboxes.services import MESSAGES
from web.errors import Refused

log = logging.getLogger(__name__)

_BEAT_S = 1.0
#: The process beats no more, and is started anew, when rounds fail for so long in a row.
PATIENCE_S = 30.0
LONGEST_START_BEATS = 900
#: What is said when the exchange gives up its site; with the database away nobody is told.
_FAREWELL_S = 3.0
#: Publishing takes no more than this at a time: contacts come before those who watch them.
_PUBLISH_S = 0.015


class SiteTaken(Exception):
    """Another exchange serves the site; the text says which."""


def database(function: Any, *arguments: Any) -> Any:
    """Run a function that uses the database, in the one thread that does."""
    return sync_to_async(function, thread_sensitive=True)(*arguments)


def _new_centre(setup: Setup, now_ms: int) -> Centre:
    """A centre with this product's stand-ins around it."""
    return Centre(setup, now_ms, devices())


def release_connections() -> None:
    """Close the database connection of the thread that this runs in; the next use opens another."""
    connection.close()


def _look_up_all(asked: list[tuple[str, str, str]]) -> list[tuple[dict[str, Any] | None, bool]]:
    """The rows, each with whether it could not be asked for."""
    found: list[tuple[dict[str, Any] | None, bool]] = []
    for _, table, key in asked:
        try:
            with transaction.atomic():
                found.append((look_up(table, key), False))
        except (OperationalError, InterfaceError):
            raise
        except Exception:  # whatever is wrong with one table: its own contacts are told
            log.exception("looking up %r in table %s failed", key, table)
            found.append((None, True))
    return found


class Exchange:
    """One run of the exchange of one site.

    Args:
        lives_on: brings what is simulated to where it would be by now, before anything is taken up;
            given the owner of the site's lease.
    """

    def __init__(self, site: str, lives_on: Callable[[uuid.UUID], object] = lambda _owner: None) -> None:
        self.site = site
        self._lives_on = lives_on
        self.owner = uuid.uuid4()
        self.centre: Centre
        self.crowd: Crowd
        self._wake = asyncio.Event()
        self._config_changed = False
        self._messages_changed = False
        self._soundness_changed = False
        self._answers: list[tuple[int, dict[str, Any]]] = []
        #: How things stand that was not written yet: the newest of each.
        self._rows: dict[tuple[str, str], Row] = {}
        self._to_publish: set[str] = set()
        #: Until when (ms of the wall's clock) calls are shown: somebody watches them.
        self._watched: dict[str, int] = {}
        self._answered: set[int] = set()
        self._redis = Redis.from_url(settings.REDIS_URL)
        self._publisher = Publisher(self._redis, self.owner.hex[:12])
        self._stopping = False
        self._failing_since: float | None = None
        self._beat_at = time.monotonic()
        self.clock = SiteClock()

    async def run(self) -> None:
        """Serve the site until stopped.

        Raises:
            SiteTaken: another exchange owns it.
            LeaseLost: another exchange took it while this one was held up.
        """
        await self._take_site()
        try:
            await self._beating(self._begin())
            log.info("exchange of site %s runs revision %s", self.site, self.centre.setup.revision)
            # One that ends by an exception ends the others.
            async with asyncio.TaskGroup() as tasks:
                for work in (self._listen(), self._renew(), self._work(), self._publish()):
                    tasks.create_task(work)
        except BaseExceptionGroup as several:
            raise several.exceptions[0] from several
        finally:
            # With the database away there is nobody to tell: the lease runs out by itself.
            with contextlib.suppress(OperationalError, InterfaceError, TimeoutError):
                await asyncio.wait_for(database(journal.give_up_lease, self.site, self.owner), _FAREWELL_S)

    def stop(self) -> None:
        """End after the work at hand."""
        self._stopping = True
        self._wake.set()

    # Beginning

    async def _take_site(self) -> None:
        where = f"process {os.getpid()} on {socket.gethostname()}"
        deadline = time.monotonic() + journal.LEASE.total_seconds() + 1
        while True:
            holder = await database(journal.take_lease, self.site, self.owner, where)
            if holder is None:
                return
            if time.monotonic() > deadline:
                raise SiteTaken(f"Another exchange ({holder.where}) serves site {self.site}. Stop it first.")
            await asyncio.sleep(0.25)

    async def _begin(self) -> None:
        await self._live_on()
        setup = await database(reading.read)
        self.clock = await database(journal.site_clock, self.site)
        now = self.clock.now_ms()
        self.centre = _new_centre(setup, now)
        await database(taking_up.take_up, self.centre, self.site, now)
        await self._new_crowd(now)
        await database(journal.forget_old_commands, self.site)
        await self._have_it_looked_at()

    async def _live_on(self) -> None:
        """What is simulated may be at fault: it keeps nobody from being served."""
        try:
            await database(self._lives_on, self.owner)
        except (OperationalError, InterfaceError, journal.LeaseLost):
            raise
        except Exception:
            log.exception("what is simulated did not live on; it goes on from where it was")

    # Working

    async def _work(self) -> None:
        while not self._stopping:
            self._beat()
            try:
                await self._round()
                self._failing_since = None
            except (OperationalError, InterfaceError) as error:
                log.error("the database is away (%s); nothing is lost, trying again", error)
                await database(release_connections)
                await asyncio.sleep(0.5)
            except journal.LeaseLost:
                raise
            except Exception:
                # What was not written yet is still there, and is tried again with the next round.
                since = self._failing_since = self._failing_since or time.monotonic()
                if time.monotonic() - since > PATIENCE_S:
                    raise
                log.exception("a round failed; trying again")
                await asyncio.sleep(0.5)

    async def _beating(self, start: Coroutine[Any, Any, None]) -> None:
        """A long start is no standstill, within reason."""
        task = asyncio.ensure_future(start)
        for _ in range(LONGEST_START_BEATS):
            self._beat()
            if task in (await asyncio.wait([task], timeout=_BEAT_S))[0]:
                break
        await task

    def _beat(self) -> None:
        """Show whoever watches the process that rounds go on (see tools/launch)."""
        self._beat_at = time.monotonic()
        if settings.EXCHANGE_BEAT_FILE:
            Path(settings.EXCHANGE_BEAT_FILE).touch()

    async def _round(self) -> None:
        """Take in what is new, let time pass, write, and only then have it told."""
        await self._wait()
        due_ms = self.centre.setup.next_due_ms
        if self._config_changed or (due_ms is not None and due_ms <= self.clock.now_ms()):
            self._config_changed = False
            await self._configure()
        if self._soundness_changed:
            self._soundness_changed = False
            self.centre.looked_at(await database(reading.invalid_in_force))
        if self._messages_changed:
            self._messages_changed = False
            self.centre.messages(await database(mailbox_services.unheard))
        for command in await database(journal.open_commands, self.site):
            if command.pk not in self._answered:
                self._answered.add(command.pk)
                self._answers.append((command.pk, await self._do(command)))
        self.centre.advance(self.clock.now_ms())
        self.crowd.advance(self.clock.now_ms())
        if self.centre.asked:
            # Once a round: one contact that asks again and again holds up no other.
            await self._look_up()
            self.crowd.advance(self.clock.now_ms())
        self._to_publish |= self.centre.topics()
        self._rows |= {(row.what, row.name): row for row in standing.changed(self.centre)}
        if self.centre.pending or self._answers or self._rows:
            await self._write()

    async def _write(self) -> None:
        """Write what has happened, with the answers; what cannot be written costs its contact."""
        events, answers = list(self.centre.pending), list(self._answers)
        rows = list(self._rows.values())
        try:
            await database(journal.write, self.site, self.owner, events, rows, answers)
        except (DataError, IntegrityError, TypeError, ValueError):
            faults = await database(journal.unwritable, self.site, events, rows)
            if not faults:
                raise
            kept = [event for event in events if event.contact not in faults]
            sound = [row for row in rows if row.name not in faults]
            await database(journal.write, self.site, self.owner, kept, sound, answers)
            for contact, error in faults.items():
                self.centre.lose(contact, error, self.clock.now_ms())
        del self.centre.pending[: len(events)]
        self._rows = {}
        self._answers = []
        self._answered -= {number for number, _ in answers}

    async def _look_up(self) -> None:
        """Ask the tables for what contacts wait for; a database that is away is asked again."""
        asked = list(self.centre.asked)
        rows = await database(_look_up_all, asked)
        del self.centre.asked[: len(asked)]
        for (contact, _, _), (row, failed) in zip(asked, rows, strict=True):
            self.centre.looked_up(contact, row, self.clock.now_ms(), failed=failed)

    async def _wait(self) -> None:
        """Until something wakes us or is due; at the longest one beat."""
        if not (self.centre.pending or self.centre.asked or self._answers):
            dues = (self.centre.next_due_ms(), self.crowd.next_due_ms())
            due_ms = min(due for due in dues if due is not None)
            ahead_ms = max(due_ms - self.clock.now_ms(), 0) / self.clock.speed
            pause_s = min(ahead_ms / 1000, _BEAT_S)
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._wake.wait(), pause_s)
        self._wake.clear()

    async def _do(self, command: Command) -> dict[str, Any]:
        """Carry out one command; whatever is wrong with it becomes its answer."""
        try:
            return await self._answer_to(command)
        except (EventRefused, Refused) as error:
            return {"refused": {"code": error.code, "message": str(error)}}
        except (OperationalError, InterfaceError):
            raise
        except Exception as error:  # whatever it is: it stays with this command
            log.exception("command %s failed", command.kind)
            message = f"The exchange could not do this: {error}."
            return {"refused": {"code": "failed", "message": message}}

    async def _answer_to(self, command: Command) -> dict[str, Any]:
        match command.kind:
            case "reload":
                self._config_changed = False
                await self._configure()
                return {"revision": self.centre.setup.revision}
            case "reset":
                await self._reset()
                return {}
            case "topic.watched":
                topic = str(command.body["topic"])
                self._watched[topic] = wall_ms() + SHOWN_S * 1000
                self._to_publish.add(topic)
                return {}
            case "call.place" | "text.place":
                return await self._place(command)
        if command.kind.startswith("agent."):
            self.crowd.release(command.body["agent"])
        return self.centre.command(command.kind, command.body, self.clock.now_ms())

    async def _configure(self) -> None:
        self.clock = await database(journal.site_clock, self.site)
        setup = await database(reading.read)
        now = self.clock.now_ms()
        with self.centre.surviving("", "taking up a new configuration", now):
            self.centre.configure(setup, now)
        await self._have_it_looked_at()
        wanted = await database(journal.crowd_settings, self.site)
        if wanted != self.crowd.settings:
            self.crowd.go_home(self.clock.now_ms())
            await self._new_crowd(self.clock.now_ms())

    async def _have_it_looked_at(self) -> None:
        """Let the worker see whether what is in force is still sound; calls do not wait for it."""
        try:
            await sync_to_async(look_whether_sound.apply_async, thread_sensitive=False)(retry=False)
        except (RedisError, OSError, CeleryError) as error:
            log.warning("nobody looks whether what is in force is sound (%s)", error)

    async def _new_crowd(self, now: int) -> None:
        settings_ = await database(journal.crowd_settings, self.site)
        self.centre.faxes = settings_.fax
        self.crowd = Crowd(self.centre, settings_, now)

    async def _reset(self) -> None:
        """Forget every contact and figure, and go by the wall's clock again."""
        await database(journal.forget_everything, self.site)
        self.clock = SiteClock()
        self.centre = _new_centre(self.centre.setup, self.clock.now_ms())
        await self._new_crowd(self.clock.now_ms())
        self._to_publish |= {f"desk.{agent}" for agent in self.centre.setup.agents}

    async def _place(self, command: Command) -> dict[str, Any]:
        body, trial = command.body, None
        if body["draft"]:
            trial = await database(reading.flow_of_draft, body["flow"])
        now, placed_by = self.clock.now_ms(), str(command.by_id or "")
        if command.kind == "text.place":
            return arrives(self.centre, body, trial, now, placed_by)
        return place_call(
            self.centre, body["contact"], body["number"], body["caller"], trial, now, placed_by=placed_by
        )

    # Listening, holding the lease, telling

    async def _listen(self) -> None:
        """Wake up on new commands and on changes of the reading."""
        while not self._stopping:
            try:
                parameters = connection.get_connection_params()
                wanted = ("host", "port", "user", "password", "dbname")
                known = {k: v for k, v in parameters.items() if k in wanted}
                async with await psycopg.AsyncConnection.connect(**known, autocommit=True) as link:
                    await link.execute(f"LISTEN {CONFIG_CHANNEL}")
                    await link.execute(f"LISTEN {COMMAND_CHANNEL}")
                    self._config_changed = True
                    self._wake.set()
                    await self._hear(link)
            except psycopg.Error as error:
                log.warning("not listening (%s); trying again", error)
                await asyncio.sleep(0.5)

    async def _hear(self, link: psycopg.AsyncConnection[Any]) -> None:
        while not self._stopping:
            async for notice in link.notifies(timeout=_BEAT_S):
                if notice.channel == CONFIG_CHANNEL:
                    self._hear_of_change(notice.payload)
                self._wake.set()

    def _hear_of_change(self, payload: str) -> None:
        """Take up what calls depend on; of all else only the revision counts on."""
        word, _, number = payload.partition(" ")
        if word == MESSAGES:
            self._messages_changed = True
        elif word == LOOKED_AT:
            self._soundness_changed = True
        elif word == QUIET and not self._config_changed:
            self.centre.at_revision(int(number))
        else:
            self._config_changed = True

    async def _renew(self) -> None:
        where = f"process {os.getpid()} on {socket.gethostname()}"
        while not self._stopping:
            await asyncio.sleep(_BEAT_S)
            try:
                holder = await database(journal.take_lease, self.site, self.owner, where)
            except (OperationalError, InterfaceError):
                continue
            if holder is not None:
                raise journal.LeaseLost(f"site {self.site} went to {holder.where}")

    async def _publish(self) -> None:
        beat_ms = 0
        while not self._stopping:
            await asyncio.sleep(0.03)
            wall = wall_ms()
            try:
                await self._publish_told(wall)
                # The heartbeat is that of the rounds: where they stand still, it stands still.
                works = time.monotonic() - self._beat_at < 3 * _BEAT_S
                if works and wall - beat_ms >= _BEAT_S * 1000:
                    beat_ms = wall
                    await self._heartbeat(wall)
            except (RedisError, OSError) as error:
                log.warning("not published (%s); trying again", error)
                # What was kept there may be gone with it: all of it is told anew.
                self._to_publish |= self._publisher.forget()
                await asyncio.sleep(0.5)

    async def _publish_told(self, wall: int) -> None:
        now = self.clock.at(wall)
        until = time.monotonic() + _PUBLISH_S
        self._look_away(wall)
        # As far as there is time; what is left comes first the next time.
        for topic in self._publisher.in_turn(self._to_publish, wall):
            if time.monotonic() > until:
                break
            self._to_publish.discard(topic)
            data = self._view(topic, now)
            if data is not None:
                try:
                    await self._publisher.publish(topic, data, now, wall)
                except (RedisError, OSError):
                    self._to_publish.add(topic)
                    raise

    def _look_away(self, wall: int) -> None:
        """Calls, people and desks that nobody watches (any more) are not shown."""
        for topic in [topic for topic, until in self._watched.items() if until < wall]:
            del self._watched[topic]
            self._publisher.drop(topic)
        self._to_publish = {t for t in self._to_publish if not t.startswith(WATCHED) or t in self._watched}

    def _view(self, topic: str, now: int) -> CentreTopic | None:
        """What a topic shows; one that cannot be drawn is left out, and the others are told."""
        try:
            return view(self.centre, topic, now)
        except Exception:  # whatever it is: it stays with this topic
            log.exception("topic %s cannot be shown", topic)
            return None

    async def _heartbeat(self, wall: int) -> None:
        """Every second: that we live, on which revision, and how the site's clock runs."""
        self._to_publish.add("strip")
        now = self.clock.at(wall)
        await self._publisher.publish("heartbeat", self._how_it_beats(now, wall), now, wall)
        await self._publisher.keep(wall)

    def _how_it_beats(self, now: int, wall: int) -> HeartbeatTopic:
        troubles = self.centre.troubles
        last = troubles[-1] if troubles else None
        return {
            "heartbeat": {
                "revision": self.centre.setup.revision,
                "at_ms": now,
                "speed": self.clock.speed,
                "wall_ms": wall,
                "faults": len(troubles),
                "fault": (
                    {"at_ms": last.at_ms, "what": last.what, "contact": last.contact} if last else None
                ),
            }
        }
