"""What is old goes, whole contacts at a time, and the figures stay."""

from datetime import UTC, datetime
from unittest.mock import patch

from django.conf import settings

from exchange import past
from exchange.live import journal
from exchange.models import Contact, Journal
from exchange.services import site_clock_ms
from exchange.tests.test_past import CentreTestCase
from mailboxes.models import Mailbox, Message
from reports import growing, keeping
from reports.models import ContactLine, KeepingRules, Progress, Stay
from sounds.models import Take
from testkit import people

SITE = settings.EXCHANGE_SITE


class KeepingTests(CentreTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        traits = journal.crowd_settings(SITE).traits
        days = [past.Day(ago, 1.0, 3, traits) for ago in (9, 8, 2)]
        list(past.live_through_days(days, growing.count))
        growing.all_is_counted(SITE)
        cls.admin = people.person(name="keeper")

    def setUp(self):
        self.client = people.client_of(self.admin)

    def keep(self, **days: int | None):
        now = self.client.get("/api/v1/keeping").json()
        return self.client.patch("/api/v1/keeping", {"revision": now["revision"], **days})

    def test_old_contacts_go_and_their_figures_stay(self):
        before, grown = keeping.begin_of(7), growing.everything(SITE)
        old = set(Contact.objects.filter(arrived_ms__lt=before).values_list("pk", flat=True))
        told = self.client.post("/api/v1/keeping/would-go", {"revision": 1, "contacts_days": 7})
        self.assertEqual(told.json(), {"contacts": len(old), "messages": 0, "texts": 0})
        self.assertGreater(len(old), 20)
        self.assertEqual(self.keep(contacts_days=7).status_code, 200)
        keeping.forget_what_is_old()
        left = set(Contact.objects.values_list("pk", flat=True))
        self.assertTrue(left and not left & old)
        self.assertFalse(Journal.objects.filter(at_ms__lt=before).exists())
        after = growing.everything(SITE)
        self.assertFalse(ContactLine.objects.filter(contact__in=old).exists())
        after["contactline"] = grown["contactline"]
        self.assertEqual(growing.differences(grown, after), [])
        gone = Stay.objects.filter(contact__in=old).first().contact
        for of in ("course", "heard"):
            answer = self.client.get(f"/api/v1/contacts/{gone}/{of}")
            self.assertEqual((answer.status_code, answer.json()["code"]), (410, "not-kept"), of)

    def test_one_go_takes_no_longer_than_it_may_and_the_next_goes_on(self):
        self.keep(contacts_days=7)
        old = Contact.objects.filter(arrived_ms__lt=keeping.begin_of(7))
        before = old.count()
        with patch.multiple(keeping, _GO_S=-1.0, _AT_ONCE=10):
            keeping.forget_what_is_old()
            self.assertEqual(old.count(), before - 10)
            keeping.forget_what_is_old()
            self.assertEqual(old.count(), before - 20)
        keeping.forget_what_is_old()
        self.assertEqual(old.count(), 0)

    def test_counted_anew_what_is_not_kept_stays_as_it_was(self):
        self.keep(contacts_days=7)
        # One that began before and has gone on since is kept in whole, and counted once.
        long = Contact.objects.filter(arrived_ms__lt=keeping.begin_of(7)).last().pk
        last = Journal.objects.filter(contact=long).last()
        last.pk, last.at_ms = None, keeping.begin_of(6)
        last.save()
        while growing.catch_up(SITE):
            pass
        grown = growing.everything(SITE)
        keeping.forget_what_is_old()
        self.assertTrue(Journal.objects.filter(contact=long).exists())
        list(growing.rebuild(SITE))
        again = growing.everything(SITE)
        again["contactline"] |= grown["contactline"]
        self.assertEqual(growing.differences(grown, again), [])

    def test_words_of_texts_and_messages_go_by_their_own_age(self):
        now_ms = site_clock_ms()
        box = Mailbox.objects.create(name="Lost property")
        for number, days in enumerate((30, 1)):
            at_ms = now_ms - days * 86_400_000
            take = Take.objects.create(digest=f"d{days}", wav=b"x", length_ms=1, private=True)
            Message.objects.create(
                mailbox=box,
                contact=f"m{number}",
                caller="",
                number="",
                length_ms=1,
                take=take,
                left_at=datetime.fromtimestamp(at_ms / 1000, UTC),
            )
            Journal.objects.create(
                site=SITE,
                at_ms=at_ms,
                kind="contact.texted",
                contact=f"t{number}",
                body={"by": "caller", "words": "Where is my bag?"},
            )
        self.keep(messages_days=14, texts_days=14)
        keeping.forget_what_is_old()
        self.assertEqual(list(Message.objects.values_list("contact", flat=True)), ["m1"])
        self.assertFalse(Take.objects.filter(digest="d30").exists())
        bodies = Journal.objects.filter(kind="contact.texted").order_by("at_ms")
        self.assertEqual(["words" in row.body for row in bodies], [False, True])
        self.assertGreater(Progress.objects.get(site=SITE).worded_from_ms, 0)

    def test_nothing_goes_by_itself_and_what_cannot_be_is_refused(self):
        contacts = Contact.objects.count()
        keeping.forget_what_is_old()
        self.assertEqual(Contact.objects.count(), contacts)
        for days in (0, 6, 4000, "x"):
            self.assertEqual(self.keep(contacts_days=days).status_code, 400, days)
        self.assertEqual(self.client.patch("/api/v1/keeping", {"revision": 9}).status_code, 409)
        for role in ("supervisor", "agent", "read_only"):
            other = people.client_of(people.person(role, f"a {role}"))
            self.assertEqual(other.get("/api/v1/keeping").status_code, 403, role)
        self.assertFalse(KeepingRules.objects.exclude(contacts_days=None).exists())
