from datetime import timedelta

from django.test import TestCase

from changelog import kept
from changelog.errors import InUse, Refused, Stale
from changelog.models import Change
from queues.models import Queue
from testkit import people


class KeptTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.queue = people.queue(self.admin, "Bookings", self.nerys)

    def last(self) -> Change:
        return Change.objects.latest("id")

    def test_every_change_is_recorded_with_before_and_after(self):
        kept.change(self.admin, self.queue, 1, name="Reservations", members=[])
        change = self.last()
        self.assertEqual((change.verb, change.by_name, change.title),
                         ("changed", "Administrator", "Reservations"))  # fmt: skip
        self.assertEqual(
            (change.before["name"], change.before["members"]), ("Bookings", [str(self.nerys.pk)])
        )
        self.assertEqual((change.after["name"], change.after["members"]), ("Reservations", []))

    def test_saving_what_stands_already_is_no_change(self):
        count = Change.objects.count()
        self.assertEqual(kept.change(self.admin, self.queue, 1, name="Bookings").revision, 1)
        self.assertEqual(Change.objects.count(), count)

    def test_the_second_of_two_authors_is_told_who_was_first(self):
        kept.change(people.person("supervisor", "deepa"), self.queue, 1, name="First")
        with self.assertRaisesRegex(Stale, "Deepa changed First while you were editing it"):
            kept.change(self.admin, self.queue, 1, name="Second")
        self.assertEqual(Queue.objects.get(pk=self.queue.pk).name, "First")

    def test_what_is_used_is_not_deleted(self):
        with self.assertRaisesRegex(InUse, "Nerys Vaughan is used by Bookings"):
            kept.remove(self.admin, self.nerys)

    def test_each_kind_of_change_can_be_taken_back(self):
        kept.change(self.admin, self.queue, None, name="Reservations", members=[])
        kept.undo(self.admin, self.last().pk)
        back = Queue.objects.get(pk=self.queue.pk)
        self.assertEqual((back.name, list(back.members.all())), ("Bookings", [self.nerys]))
        kept.remove(self.admin, back)
        kept.undo(self.admin, self.last().pk)
        again = Queue.objects.get(pk=self.queue.pk)
        self.assertEqual((again.name, list(again.members.all())), ("Bookings", [self.nerys]))
        kept.undo(self.admin, self.last().pk)
        self.assertFalse(Queue.objects.filter(pk=self.queue.pk).exists())

    def test_only_the_newest_change_of_a_thing_is_taken_back(self):
        made = Change.objects.get(object_id=str(self.queue.pk))
        kept.change(self.admin, self.queue, None, name="Reservations")
        with self.assertRaisesRegex(Refused, "has been changed again since"):
            kept.undo(self.admin, made.pk)

    def test_saves_that_follow_closely_are_one_entry(self):
        minute = timedelta(minutes=1)
        count = Change.objects.count()
        for name in ("A", "B", "C"):
            kept.change(self.admin, self.queue, None, merge_within=minute, name=name)
        kept.change(people.person(name="other"), self.queue, None, merge_within=minute, name="D")
        self.assertEqual(Change.objects.count(), count + 2)
        merged = Change.objects.order_by("-id")[1]
        self.assertEqual((merged.before["name"], merged.after["name"]), ("Bookings", "C"))


class KeptApiTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.queue = people.queue(self.admin)
        self.url = f"/api/v1/queues/{self.queue.pk}"

    def test_a_stale_revision_answers_with_what_stands_now(self):
        self.client.patch(self.url, {"name": "First", "revision": 1})
        answer = self.client.patch(self.url, {"name": "Second", "revision": 1})
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "stale"))
        self.assertEqual((answer.json()["current"]["name"], answer.json()["by"]),
                         ("First", "Administrator"))  # fmt: skip

    def test_a_change_must_name_its_revision(self):
        answer = self.client.patch(self.url, {"name": "First"})
        self.assertEqual(answer.json()["fields"], {"revision": ["Say which revision you changed."]})

    def test_deleting_what_is_used_names_the_uses(self):
        flow = people.flow(self.admin, people.definition(self.queue.pk))
        answer = self.client.delete(self.url)
        self.assertEqual(answer.status_code, 409)
        self.assertEqual(answer.json()["uses"][0]["name"], flow.name)

    def test_undo_over_the_api(self):
        self.client.delete(self.url)
        newest = self.client.get("/api/v1/changes").json()["results"][0]
        self.assertEqual((newest["verb"], newest["words"]), ("removed", "Queue"))
        self.assertEqual(self.client.post(f"/api/v1/changes/{newest['id']}/undo").status_code, 200)
        self.assertEqual(self.client.get(self.url).json()["name"], "Bookings")
