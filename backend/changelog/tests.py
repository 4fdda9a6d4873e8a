import threading
from datetime import timedelta

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.test.utils import CaptureQueriesContext

from agents.models import Agent, Skill, Team
from callcore.tests.flows import short_line
from changelog import config_store
from changelog.models import Change
from flows.services import publish, save_draft
from lookups.models import Table
from lookups.services import change_row
from queues.models import Queue
from testkit import people
from web.errors import InUse, Refused, Stale


class StoreTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        self.queue = people.queue(self.admin, "Bookings", self.nerys)

    def last(self) -> Change:
        return Change.objects.latest("id")

    def test_every_change_is_recorded_with_before_and_after(self):
        config_store.change(self.admin, self.queue, 1, name="Reservations", members=[])
        change = self.last()
        self.assertEqual(
            (change.verb, change.by_name, change.title), ("changed", "Administrator", "Reservations")
        )
        self.assertEqual(
            (change.before["name"], change.before["members"]), ("Bookings", [str(self.nerys.pk)])
        )
        self.assertEqual((change.after["name"], change.after["members"]), ("Reservations", []))

    def test_saving_what_stands_already_is_no_change(self):
        count = Change.objects.count()
        self.assertEqual(config_store.change(self.admin, self.queue, 1, name="Bookings").revision, 1)
        self.assertEqual(Change.objects.count(), count)

    def test_the_second_of_two_authors_is_told_who_was_first(self):
        config_store.change(people.person("supervisor", "deepa"), self.queue, 1, name="First")
        with self.assertRaisesRegex(Stale, "Deepa changed First while you were editing it"):
            config_store.change(self.admin, self.queue, 1, name="Second")
        self.assertEqual(Queue.objects.get(pk=self.queue.pk).name, "First")

    def test_what_is_used_is_not_deleted(self):
        with self.assertRaisesRegex(InUse, "Nerys Vaughan is used by Bookings"):
            config_store.remove(self.admin, self.nerys)

    def test_each_kind_of_change_can_be_taken_back(self):
        config_store.change(self.admin, self.queue, None, name="Reservations", members=[])
        config_store.undo(self.admin, self.last().pk)
        back = Queue.objects.get(pk=self.queue.pk)
        self.assertEqual((back.name, list(back.members.all())), ("Bookings", [self.nerys]))
        config_store.remove(self.admin, back)
        config_store.undo(self.admin, self.last().pk)
        again = Queue.objects.get(pk=self.queue.pk)
        self.assertEqual((again.name, list(again.members.all())), ("Bookings", [self.nerys]))
        config_store.undo(self.admin, self.last().pk)
        self.assertFalse(Queue.objects.filter(pk=self.queue.pk).exists())

    def test_only_the_newest_change_of_a_thing_is_taken_back(self):
        made = Change.objects.get(object_id=str(self.queue.pk))
        config_store.change(self.admin, self.queue, None, name="Reservations")
        with self.assertRaisesRegex(Refused, "has been changed again since"):
            config_store.undo(self.admin, made.pk)

    def test_saves_that_follow_closely_are_one_entry(self):
        minute = timedelta(minutes=1)
        count = Change.objects.count()
        for name in ("A", "B", "C"):
            config_store.change(self.admin, self.queue, None, merge_within=minute, name=name)
        config_store.change(people.person(name="other"), self.queue, None, merge_within=minute, name="D")
        self.assertEqual(Change.objects.count(), count + 2)
        merged = Change.objects.order_by("-id")[1]
        self.assertEqual((merged.before["name"], merged.after["name"]), ("Bookings", "C"))


class StoreApiTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        self.queue = people.queue(self.admin)
        self.url = f"/api/v1/queues/{self.queue.pk}"

    def test_a_stale_revision_answers_with_what_stands_now(self):
        self.client.patch(self.url, {"name": "First", "revision": 1})
        answer = self.client.patch(self.url, {"name": "Second", "revision": 1})
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "stale"))
        self.assertEqual((answer.json()["current"]["name"], answer.json()["by"]), ("First", "Administrator"))

    def test_a_change_must_name_its_revision(self):
        answer = self.client.patch(self.url, {"name": "First"})
        self.assertEqual(answer.json()["fields"], {"revision": ["Say which revision you changed."]})

    def test_deleting_what_is_used_names_the_uses(self):
        flow = people.flow(self.admin, short_line(self.queue.pk))
        answer = self.client.delete(self.url)
        self.assertEqual(answer.status_code, 409)
        self.assertEqual(answer.json()["uses"][0]["name"], flow.name)

    def test_undo_over_the_api(self):
        self.client.delete(self.url)
        newest = self.client.get("/api/v1/changes").json()["results"][0]
        self.assertEqual((newest["verb"], newest["words"]), ("removed", "Queue"))
        self.assertEqual(self.client.post(f"/api/v1/changes/{newest['id']}/undo").status_code, 200)
        self.assertEqual(self.client.get(self.url).json()["name"], "Bookings")

    def test_what_a_change_speaks_of_is_named_also_when_it_is_gone(self):
        nerys = people.agent(self.admin, "Nerys Vaughan", "4101")
        team = config_store.create(self.admin, Team, name="Ostrel")
        config_store.change(self.admin, nerys, None, team=team)
        config_store.change(self.admin, team, None, supervisors=[self.admin])
        config_store.change(self.admin, nerys, None, team=None)
        config_store.remove(self.admin, team)
        flow = people.flow(self.admin, short_line(self.queue.pk))
        version = publish(self.admin, flow, flow.revision, "")
        rows = self.client.get("/api/v1/changes").json()["results"]
        names = {name: words for row in rows for name, words in row["names"].items()}
        self.assertEqual(names[str(team.pk)], "Ostrel")
        self.assertEqual(names[f"supervisors:{self.admin.pk}"], "Administrator")
        self.assertEqual(names[f"in_force_id:{version.pk}"], "version 1")
        with CaptureQueriesContext(connection) as asked:
            self.client.get("/api/v1/changes", {"page_size": 60})
        self.assertLess(len(asked), len(rows), "names are asked for once a page")


class GoneTests(TestCase):
    """Taking back never brings back what leads to nothing, nor what somebody else has by now."""

    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)

    def undo(self, thing, verb="changed"):
        change = Change.objects.filter(object_id=str(thing.pk), verb=verb).latest("id")
        return self.client.post(f"/api/v1/changes/{change.pk}/undo")

    def test_a_skill_and_teams_that_are_gone_are_left_out_and_said(self):
        skill = config_store.create(self.admin, Skill, name="Welsh history")
        team = config_store.create(self.admin, Team, name="Ostrel")
        agent = people.agent(self.admin, "Ann", "411")
        queue = people.queue(self.admin, "Bookings")
        config_store.change(self.admin, agent, None, skills={str(skill.pk): 3}, team=team)
        config_store.change(
            self.admin,
            queue,
            None,
            required_skills=[{"skill": str(skill.pk), "least": 2}],
            widening=[{"after_s": 9, "lower": 0, "teams": [str(team.pk)]}],
            teams=[team],
        )
        agent = config_store.change(self.admin, agent, None, skills={}, team=None)
        config_store.change(self.admin, queue, None, required_skills=[], widening=[], teams=[])
        config_store.remove(self.admin, skill)
        config_store.remove(self.admin, team)
        undone = self.undo(agent)
        self.assertEqual(undone.status_code, 200, undone.content)
        said = " ".join(undone.json()["left_out"])
        self.assertIn("skills", said)
        self.assertIn("team", said)
        body = {"revision": Agent.objects.get().revision, "name": "Ann Prys"}
        self.assertEqual(self.client.patch(f"/api/v1/agents/{agent.pk}", body).status_code, 200)
        undone = self.undo(queue).json()
        self.assertEqual(len(undone["left_out"]), 3, undone)
        queue.refresh_from_db()
        self.assertEqual((queue.required_skills, queue.widening[0]["teams"]), ([], []))

    def test_an_extension_that_another_has_by_now_is_not_brought_back(self):
        agent = people.agent(self.admin, "Ann", "411")
        config_store.change(self.admin, agent, None, extension="412")
        people.queue(self.admin, "Bookings", extension="411")
        refused = self.undo(agent)
        self.assertEqual(refused.status_code, 400, refused.content)
        self.assertIn("Bookings", refused.json()["fields"]["extension"][0])

    def test_what_is_used_by_handling_rules_is_not_deleted(self):
        agent = people.agent(self.admin, "Ann", "411")
        values = {"help_to": f"agent:{agent.pk}"}
        body = {"layer": "centre", "values": values}
        self.assertEqual(self.client.patch("/api/v1/handling-rules", body).status_code, 200)
        self.assertEqual(self.client.delete(f"/api/v1/agents/{agent.pk}").status_code, 409)
        gone = {"help_to": "agent:00000000-0000-4000-8000-000000000000"}
        body = {"layer": "centre", "values": gone, "revision": 2}
        self.assertEqual(self.client.patch("/api/v1/handling-rules", body).status_code, 400)


class RaceTests(TransactionTestCase):
    def test_two_who_take_one_extension_at_once_are_not_both_given_it(self):
        admin = people.person()
        barrier = threading.Barrier(2)
        done = []

        def make(model, **values):
            try:
                barrier.wait()
                config_store.create(admin, model, extension="411", **values)
                done.append(True)
            except Refused:
                done.append(False)
            finally:
                connection.close()

        makers = [
            threading.Thread(target=make, args=(Agent,), kwargs={"name": "Ann"}),
            threading.Thread(target=make, args=(Queue,), kwargs={"name": "Bookings"}),
        ]
        for maker in makers:
            maker.start()
        for maker in makers:
            maker.join()
        self.assertEqual(sorted(done), [False, True])


class QuietTests(TestCase):
    """What the exchange does not run on does not make it read everything."""

    def words(self, act):
        before = Change.objects.order_by("-id").values_list("id", flat=True).first() or 0
        with CaptureQueriesContext(connection) as queries:
            act()
        made = Change.objects.filter(id__gt=before).count()
        told = [q["sql"] for q in queries if "pg_notify" in q["sql"]]
        return made, ["quiet" if "quiet" in sql else "take-up" for sql in told]

    def test_cells_trials_and_drafts_are_quiet_and_what_calls_depend_on_is_not(self):
        admin = people.person()
        table = config_store.create(admin, Table, name="Groups", columns=[{"name": "Ref", "type": "text"}])
        queue = people.queue(admin, "Bookings")
        flow = people.flow(admin, short_line(queue.pk))
        draft = {**flow.draft, "stay_limit_s": 901}
        for act, expected in (
            (lambda: change_row(admin, table, None, ["AB1"]), "quiet"),
            (lambda: save_draft(admin, flow, None, draft), "quiet"),
            (lambda: config_store.change(admin, table, None, columns=[]), "take-up"),
            (lambda: config_store.change(admin, queue, None, priority=7), "take-up"),
            (lambda: publish(admin, flow, 2, ""), "take-up"),
        ):
            self.assertEqual(self.words(act), (1, [expected]))
