import io

import soundfile
from django.test import TestCase

from accounts.models import Role
from callcore.events import Kind
from callcore.events import read as happened
from mailboxes import services
from mailboxes.models import Message
from mailboxes.tasks import give_voice
from mailboxes.voices import said_by
from testkit import people

GREETING = {"kind": "text", "text": "Please leave a message.", "language": "en"}


class MailboxTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.kofi = people.agent(self.admin, "Kofi Mensah", "4102")

    def make(self, **values):
        body = {"name": "Night line", "greeting": GREETING, **values}
        return self.client.post("/api/v1/mailboxes", body)

    def leave(self, mailbox, contact="contact-1", length_ms=6000):
        body = {"mailbox": mailbox["id"], "length_ms": length_ms}
        event = happened(1_795_435_200_000, Kind.MESSAGE_LEFT, contact, "", body)
        silent = services.keep_messages([event], {contact: ("+447700900123", "+442079460210")})
        give_voice(silent)
        return Message.objects.get(contact=contact)

    def test_a_mailbox_belongs_to_a_person_a_queue_or_to_all(self):
        self.assertIn("Choose whose mailbox", str(self.make(owner="person").json()["fields"]))
        made = self.make(owner="person", agent=str(self.nerys.pk)).json()
        self.assertEqual((made["owner"], made["agent"]), ("person", str(self.nerys.pk)))
        url = f"/api/v1/mailboxes/{made['id']}"
        shared = self.client.patch(url, {"owner": "shared", "revision": 1}).json()
        self.assertIsNone(shared["agent"])
        greetings = ({"kind": "text", "text": ""}, {"kind": "tune"}, {"kind": "sound", "sound": "sound:1"})
        for bad in ({"longest_s": 0}, *({"greeting": g} for g in greetings)):
            with self.subTest(bad):
                answer = self.client.patch(url, {**bad, "revision": 2})
                self.assertEqual(answer.status_code, 400)

    def test_a_message_has_real_sound_of_about_its_length(self):
        message = self.leave(self.make().json(), length_ms=9000)
        heard = self.client.get(f"/api/v1/messages/{message.pk}/sound")
        samples, rate = soundfile.read(io.BytesIO(heard.content))
        self.assertAlmostEqual(len(samples) / rate, 9, delta=4)
        self.assertEqual(said_by("contact-1", 9000), said_by("contact-1", 9000))

    def test_a_message_is_heard_deleted_and_restored_and_the_counts_follow(self):
        mailbox = self.make().json()
        message = self.leave(mailbox)

        def state(what=None):
            if what:
                self.client.post(f"/api/v1/messages/{message.pk}/mark", {"what": what})
            box = self.client.get(f"/api/v1/mailboxes/{mailbox['id']}").json()
            return box["kept"], box["new"], services.settings()[0].new

        self.assertEqual(state(), (1, 1, 1))
        self.assertEqual(state("heard"), (1, 0, 0))
        self.assertEqual(state("new"), (1, 1, 1))
        self.assertEqual(state("deleted"), (0, 0, 0))
        self.assertEqual(self.client.get("/api/v1/messages").json()["count"], 0)
        self.assertEqual(self.client.get("/api/v1/messages?deleted=1").json()["count"], 1)
        self.assertEqual(state("restored"), (1, 1, 1))
        kept = self.client.delete(f"/api/v1/mailboxes/{mailbox['id']}")
        self.assertIn("1 message", kept.json()["detail"])

    def test_only_those_who_may_listen_hear_a_message(self):
        queue = people.queue(self.admin, "Freight", self.kofi)
        boxes = {
            "shared": self.make(name="Shared", listeners=[str(self.kofi.pk)]).json(),
            "queue": self.make(name="Queue", owner="queue", queue=str(queue.pk)).json(),
            "own": self.make(name="Own", owner="person", agent=str(self.nerys.pk)).json(),
        }
        for name, box in boxes.items():
            self.leave(box, contact=name)
        supervisor = people.person(Role.SUPERVISOR, "deepa")
        of_freight = people.person(Role.SUPERVISOR, "mari")
        queue.supervisors.add(of_freight)
        hears = {
            self.admin: {"shared", "queue"},
            supervisor: {"shared"},
            of_freight: {"shared", "queue"},
            self.nerys.user: {"own"},
            self.kofi.user: {"shared", "queue"},
        }
        for user, expected in hears.items():
            with self.subTest(user.username):
                client = people.client_of(user)
                found = client.get("/api/v1/messages").json()["results"]
                self.assertEqual({m["contact"] for m in found}, expected)
                hidden = Message.objects.exclude(contact__in=expected).first()
                url = f"/api/v1/messages/{hidden.pk}"
                self.assertEqual(client.get(f"{url}/sound").status_code, 404)
                marked = client.post(f"{url}/mark", {"what": "heard"})
                self.assertEqual(marked.status_code, 404)

    def test_the_same_message_is_kept_once(self):
        mailbox = self.make().json()
        self.leave(mailbox)
        self.leave(mailbox)
        self.assertEqual(Message.objects.count(), 1)
