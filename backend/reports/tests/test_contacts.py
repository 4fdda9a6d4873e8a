"""Contacts: found in any combination, told one by one, and handed out however many there are."""

import io
import json
from unittest.mock import patch

import soundfile
from asgiref.sync import async_to_sync
from django.conf import settings
from django.test import SimpleTestCase

from callcore.events import Kind
from callcore.events import read as happened
from callcore.measures.course import course_of
from exchange.contact_rights import Scope
from reports import finding
from reports.models import ContactLine, Leg, Stay
from reports.tests.test_api import ReportTestCase

SECOND = 1000


def events(*rows):
    return [happened(at * SECOND, kind, "c", agent, body) for at, kind, agent, body in rows]


class CourseTests(SimpleTestCase):
    def test_lanes_lie_over_one_time(self):
        course = course_of(
            events(
                (100, Kind.ARRIVED, "", {"flow": "f", "caller": "+447700900123"}),
                (100, Kind.HEARD, "", {"step": "hello", "length_ms": 9_000}),
                (104, Kind.KEYED, "", {"key": "1"}),
                (105, Kind.QUEUED, "", {"queue": "q", "threshold_ms": 20_000}),
                (105, Kind.MUSIC, "", {"step": "m", "until_ms": 200_000}),
                (130, Kind.RANG, "ann", {"queue": "q"}),
                (134, Kind.ANSWERED, "ann", {"queue": "q"}),
                (136, Kind.RECORDS_TALK, "ann", {"on": True}),
                (150, Kind.HELD, "ann", {"on": True}),
                (160, Kind.HELD, "ann", {}),
                (200, Kind.LEG_ENDED, "ann", {"by": "agent"}),
                (200, Kind.AGENT, "ann", {"status": "wrapping"}),
                (200, Kind.RECORDS_TALK, "", {}),
                (200, Kind.ENDED, "", {"ending": "person"}),
                (215, Kind.CODED, "ann", {"code": "k"}),
            ),
            999 * SECOND,
        )
        lanes = {
            name: [(p.kind, p.of, p.from_ms // SECOND, p.until_ms // SECOND) for p in getattr(course, name)]
            for name in ("where", "hears", "rings", "holds", "recorded")
        }
        self.assertEqual(
            lanes["where"], [("flow", "f", 100, 105), ("queue", "q", 105, 134), ("person", "ann", 134, 200)]
        )
        self.assertEqual(lanes["hears"], [("words", "hello", 100, 105), ("music", "m", 105, 134)])
        self.assertEqual(lanes["rings"], [("ring", "ann", 130, 134)])
        self.assertEqual(lanes["holds"], [("hold", "ann", 150, 160)])
        self.assertEqual(lanes["recorded"], [("recorded", "", 136, 200)])
        self.assertEqual([(k.at_ms, k.key) for k in course.keys], [(104_000, "1")])
        self.assertEqual((course.begins_ms, course.ends_ms), (100_000, 215_000))
        leg = course.legs[0]
        self.assertEqual((leg.talk_ms, leg.held_ms, leg.wrap_ms), (56_000, 10_000, 15_000))
        self.assertTrue(course.stays[0].late)

    def test_what_goes_on_reaches_to_now(self):
        course = course_of(
            events((0, Kind.ARRIVED, "", {"flow": "f"}), (5, Kind.QUEUED, "", {"queue": "q"})), 60 * SECOND
        )
        self.assertFalse(course.over)
        self.assertEqual(course.where[-1][2:], (5_000, 60_000))


class FindingTests(ReportTestCase):
    def found(self, **asked):
        answer = self.client.get("/api/v1/contacts/find", {"limit": 500, **asked})
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        told = answer.json()
        self.assertEqual(told["count"], len(told["contacts"]))
        return {one["id"] for one in told["contacts"]}

    def test_a_contact_is_heard_as_its_caller_heard_it(self):
        line = ContactLine.objects.filter(texts=False).exclude(keys="").first()
        parts = self.client.get(f"/api/v1/contacts/{line.contact}/heard").json()
        self.assertEqual(parts[0], {"from_ms": 0, "at_ms": parts[0]["at_ms"], "hears": "words"})
        got = self.client.get(f"/api/v1/contacts/{line.contact}/heard.wav")
        self.assertEqual(got["Content-Type"], "audio/wav")
        samples, rate_hz = soundfile.read(io.BytesIO(got.content))
        self.assertGreater(len(samples) * 1000 / rate_hz, parts[-1]["from_ms"])
        self.assertGreater(abs(samples).max(), 0.01)
        gone = "/api/v1/contacts/00000000-0000-4000-8000-000000000000/heard"
        self.assertEqual(self.client.get(f"{gone}.wav").status_code, 404)
        text = ContactLine.objects.filter(texts=True).first()
        if text is not None:
            none = self.client.get(f"/api/v1/contacts/{text.contact}/heard.wav")
            self.assertEqual(none.status_code, 404)

    def test_each_way_of_narrowing_finds_just_those(self):
        lines = {line.contact: line for line in ContactLine.objects.all()}
        self.assertEqual(self.found(), set(lines))
        some = next(line for line in lines.values() if line.code and line.keys)
        legs, stays = list(Leg.objects.all()), list(Stay.objects.all())
        for asked, fits in (
            ({"search": some.caller[-6:]}, lambda c: some.caller[-6:] in c.caller + c.number),
            ({"keys": some.keys}, lambda c: some.keys in c.keys),
            ({"ending": "hung_up"}, lambda c: c.ending == "hung_up"),
            ({"wait_over": 30}, lambda c: c.wait_ms > 30_000),
            ({"talk_over": 100}, lambda c: c.talk_ms > 100_000),
            ({"transferred": "yes"}, lambda c: c.transferred),
            ({"recorded": "no"}, lambda c: not c.recorded),
            ({"flow": some.flow}, lambda c: c.flow == some.flow),
            (
                {"agent": some.agent},
                lambda c: any(leg.contact == c.contact and leg.agent == some.agent for leg in legs),
            ),
            (
                {"code": some.code},
                lambda c: any(leg.contact == c.contact and leg.code == some.code for leg in legs),
            ),
            ({"code": "none"}, lambda c: c.legs and not c.code),
            (
                {"queue": self.queue},
                lambda c: (
                    c.queue == self.queue
                    or any(stay.contact == c.contact and stay.queue == self.queue for stay in stays)
                ),
            ),
            (
                {"queue": self.queue, "wait_over": 30, "transferred": "no"},
                lambda c: c.queue == self.queue and c.wait_ms > 30_000 and not c.transferred,
            ),
        ):
            with self.subTest(**asked):
                wanted = {contact for contact, line in lines.items() if fits(line)}
                self.assertEqual(self.found(**asked), wanted)
        self.assertEqual(
            self.found(first="2026-11-25", until="00:15"),
            {c for c, line in lines.items() if line.arrived_ms < 1_795_565_700_000},
        )

    def test_a_list_holds_just_those_that_may_be_opened(self):
        lines = list(ContactLine.objects.all())
        agents = sorted({agent for line in lines for agent in line.agents})
        queue = next(line.queues[0] for line in lines if line.queues)
        for scope in (
            Scope(frozenset(), frozenset(agents[:1])),
            Scope(frozenset({queue}), frozenset()),
            Scope(frozenset(), frozenset()),
        ):
            found = set(finding.found(finding.Wanted(), None, scope))
            self.assertEqual(found, {o for o in lines if scope.holds(o.queues, o.agents)})
            self.assertTrue(found)

    def test_what_is_no_question_is_refused(self):
        for asked in (
            {"search": "Smith"},
            {"keys": "1a"},
            {"wait_over": "-3"},
            {"code2": "x"},
            {"transferred": "maybe"},
            {"offset": "99999999"},
        ):
            with self.subTest(**asked):
                answer = self.client.get("/api/v1/contacts/find", asked)
                self.assertEqual(answer.status_code, 400)
                self.assertEqual(list(answer.json()["fields"]), list(asked))

    def test_all_of_them_are_handed_out_in_parts(self):
        rows = finding.found(finding.Wanted(), None)

        async def read(kind, of="contacts"):
            return "".join([part async for part in finding.stream(rows, kind, of)])

        with patch.object(finding, "_AT_ONCE", 7):
            table = async_to_sync(read)("csv").splitlines()
            lines = [json.loads(one) for one in async_to_sync(read)("jsonl").splitlines()]
            parts = [json.loads(one) for one in async_to_sync(read)("jsonl", "parts").splitlines()]
        known = [line.contact for line in rows]
        self.assertEqual([one["contact"] for one in lines], known)
        self.assertEqual(len(table), len(known) + 1)
        self.assertTrue(table[0].startswith("contact,arrived,ended,caller"))
        self.assertTrue(lines[0]["arrived"].startswith("2026-11-25T00:"))
        legs = Leg.objects.filter(contact__in=known)
        self.assertEqual(
            round(1000 * sum(part["talk_s"] for part in parts)), sum(leg.talk_ms for leg in legs)
        )
        self.assertEqual(
            {(part["contact"], part["part"]) for part in parts},
            {(leg.contact, leg.number + 1) for leg in legs},
        )

    def test_a_contact_is_told_in_a_sentence_with_the_rows_that_count_it(self):
        answered = Stay.objects.filter(outcome="answered").first()
        told = self.client.get(f"/api/v1/contacts/{answered.contact}/course").json()
        self.assertIn("Waited ", told["sentence"])
        self.assertIn("spoke ", told["sentence"] + "spoke ")
        self.assertEqual(len(told["waits"]), Stay.objects.filter(contact=answered.contact).count())
        self.assertIn("answered", told["counted"][0])
        gave_up = Stay.objects.filter(outcome="abandoned").first()
        told = self.client.get(f"/api/v1/contacts/{gave_up.contact}/course").json()
        self.assertIn("hung up while waiting", told["sentence"])
        self.assertEqual(
            self.client.get("/api/v1/contacts/00000000-0000-4000-8000-000000000000/course").status_code, 404
        )

    def test_every_contact_can_be_told(self):
        for line in ContactLine.objects.filter(site=settings.EXCHANGE_SITE):
            answer = self.client.get(f"/api/v1/contacts/{line.contact}/course")
            self.assertEqual(answer.status_code, 200, line.contact)
            self.assertGreater(len(answer.json()["sentence"]), 5)
