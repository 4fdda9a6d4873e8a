from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from lookups import services
from lookups.models import Row
from testkit import people

COLUMNS = [
    {"name": "Booking", "type": "text"},
    {"name": "Cars", "type": "number"},
    {"name": "Paid", "type": "yes_no"},
    {"name": "Sails", "type": "date"},
]
HEAD = "Booking,Cars,Paid,Sails\n"


class LookupTests(TestCase):
    def setUp(self):
        self.admin = people.person()
        self.client = people.client_of(self.admin)
        body = {"name": "Bookings", "columns": COLUMNS}
        self.table = self.client.post("/api/v1/lookups", body).json()
        self.url = f"/api/v1/lookups/{self.table['id']}"

    def send(self, what, text, **body):
        data = text if isinstance(text, bytes) else text.encode()
        file = SimpleUploadedFile("rows.csv", data)
        return self.client.post(f"{self.url}/{what}", {"file": file, **body}, format="multipart")

    def import_file(self, text):
        """The file's rows, through the worker (which runs at once in tests)."""
        revision = self.client.get(self.url).json()["revision"]
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.send("import", text, revision=revision)
        self.assertEqual(answer.status_code, 202, answer.content)
        return self.client.get(f"/api/v1/lookup-imports/{answer.json()['name']}").json()

    def rows(self):
        return [r["cells"] for r in self.client.get(f"{self.url}/rows").json()["results"]]

    def test_a_file_is_looked_at_then_taken_in_whole_and_can_be_taken_back(self):
        self.import_file(HEAD + "AB1,2,yes,2027-05-01\nAB2,,no,\n")
        file = HEAD + "AB1,3,yes,2027-05-01\nAB2,,no,\nAB3,1,no,2027-06-01\n"
        seen = self.send("preview", file).json()
        self.assertEqual([seen[k] for k in ("new", "changed", "same", "gone")], [1, 1, 1, 0])
        self.assertEqual(len(self.rows()), 2)
        self.assertEqual(self.import_file(file)["state"], "done")
        self.assertEqual(self.rows()[0], ["AB1", 3, True, "2027-05-01"])
        log = self.client.get("/api/v1/changes").json()["results"][0]
        undone = self.client.post(f"/api/v1/changes/{log['id']}/undo")
        self.assertEqual(undone.status_code, 200)
        self.assertEqual(self.rows()[0], ["AB1", 2, True, "2027-05-01"])

    def test_a_telephone_number_is_the_same_key_in_any_spelling(self):
        self.import_file(HEAD + "07700 900417,1,yes,\n12345678,2,no,\n")
        table = self.table["id"]
        for spelling in ("+447700900417", "07700900417", "(07700) 900-417", "0044 7700 900417"):
            self.assertEqual(services.look_up(table, spelling)["Cars"], 1, spelling)
        self.assertIsNone(services.look_up(table, "012345678"), "figures that begin otherwise are no number")
        found = self.client.get(f"{self.url}/rows?search=%2B44+7700+900417").json()
        self.assertEqual(found["count"], 1)
        twice = HEAD + "07700 900417,1,yes,\n+447700900417,2,no,\n"
        bad = self.send("preview", twice).json()["bad"]
        self.assertIn("stands in line 2 already", bad[0]["words"])

    def test_columns_hold_things_by_their_names_and_rows_name_them_for_the_flow(self):
        ann = people.agent(self.admin, "Ann Vaughan", "4101")
        queue = people.queue(self.admin, "Freight", ann)
        kinds = {"Ref": "text", "Desk": "queue", "Who": "agent"}
        columns = [{"name": name, "type": kind} for name, kind in kinds.items()]
        table = self.client.post("/api/v1/lookups", {"name": "Customers", "columns": columns})
        self.url = f"/api/v1/lookups/{table.json()['id']}"
        bad = self.send("preview", "Ref,Desk,Who\nA1,Nowhere,4101\nA2,freight,Nobody\n").json()
        self.assertEqual([(line["line"], line["column"]) for line in bad["bad"]], [(2, "Desk"), (3, "Who")])
        self.assertEqual(bad["bad"][0]["words"], "there is no queue “Nowhere”")
        self.import_file("Ref,Desk,Who\nA1,freight,4101\nA2,,\n")
        self.assertEqual(self.rows(), [["A1", "Freight", "Ann Vaughan"], ["A2", None, None]])
        self.assertIn("A1,Freight,Ann Vaughan", self.client.get(f"{self.url}/rows?as=csv").content.decode())
        found = services.look_up(table.json()["id"], "a1")
        self.assertEqual((found["Desk"], found["Who"]), (f"queue:{queue.pk}", f"agent:{ann.pk}"))
        uses = self.client.delete(f"/api/v1/queues/{queue.pk}").json()["uses"]
        self.assertIn("Customers", [use["name"] for use in uses])
        row = self.client.get(f"{self.url}/rows").json()["results"][1]["id"]
        typed = {"cells": ["A2", "Freight", "ann vaughan"]}
        changed = self.client.patch(f"/api/v1/lookup-rows/{row}", typed).json()
        self.assertEqual(changed["cells"], ["A2", "Freight", "Ann Vaughan"])

    def test_every_bad_line_is_named_and_nothing_is_taken(self):
        file = HEAD + "AB1,two,yes,2027-05-01\n,1,yes,\nAB3,1,perhaps,2027-02-30\nAB4,1\n"
        seen = self.send("preview", file).json()
        named = [(line["line"], line["column"]) for line in seen["bad"]]
        self.assertEqual(named, [(2, "Cars"), (3, "Booking"), (4, "Paid"), (5, "")])
        state = self.import_file(file)
        self.assertEqual((state["state"], self.rows()), ("failed", []))
        self.assertIn("Line 2, Cars", state["words"])

    def test_a_file_that_is_no_table_is_refused_in_words(self):
        for data, words in (
            (b"", "The file is empty"),
            (b"\xff\xfe\x00", "not text in UTF-8"),
            ("Booking,Cars\n", "The column Paid is missing"),
            (HEAD.strip() + ",Colour\n", "has no column “Colour”"),
            (HEAD + '"AB1,1,yes\n', "no CSV"),
        ):
            with self.subTest(words):
                answer = self.send("preview", data)
                self.assertEqual(answer.status_code, 400)
                self.assertIn(words, answer.json()["fields"]["file"][0] if data else words)

    def test_an_import_that_is_cancelled_leaves_the_table_as_it_was(self):
        data = (HEAD + "AB1,1,yes,\n").encode()
        table = services.Table.objects.get(pk=self.table["id"])
        name = services.begin_import(self.admin, table, 1, data)
        services.cancel_import(name)
        services.run_import(name, str(table.pk), 1)
        self.assertEqual(services.state_of(name)["state"], "cancelled")
        self.assertFalse(Row.objects.exists())

    def test_rows_are_typed_changed_and_deleted_in_the_grid(self):
        made = self.client.post(f"{self.url}/rows", {"cells": ["ab 1", 2, "yes", None]})
        self.assertEqual(made.json()["cells"], ["ab 1", 2, True, None])
        self.assertEqual(services.look_up(self.table["id"], " AB  1")["Cars"], 2)
        again = self.client.post(f"{self.url}/rows", {"cells": ["AB 1", 2, "yes", None]})
        self.assertIn("stands in the table already", again.json()["detail"])
        row = f"/api/v1/lookup-rows/{made.json()['id']}"
        wrong = self.client.patch(row, {"cells": ["ab 1", "many", "yes", None]})
        self.assertEqual((wrong.status_code, list(wrong.json()["fields"])), (400, ["Cars"]))
        self.assertEqual(self.client.patch(row, {"cells": ["ab 1", 5, "no", None]}).status_code, 200)
        self.assertIn("1 row", self.client.delete(self.url).json()["detail"])
        self.assertEqual(self.client.delete(row).status_code, 204)
        self.assertIsNone(services.look_up(self.table["id"], "ab 1"))

    def test_columns_stay_while_there_are_rows(self):
        self.import_file(HEAD + "AB1,2,yes,\n")
        body = {"columns": COLUMNS[:2], "revision": 2}
        refused = self.client.patch(self.url, body)
        self.assertEqual((refused.status_code, refused.json()["code"]), (409, "has-rows"))
        self.client.post(f"{self.url}/empty", {"revision": 2})
        self.assertEqual(self.client.patch(self.url, {**body, "revision": 3}).status_code, 200)

    def test_what_goes_out_comes_back_the_same(self):
        self.import_file(HEAD + 'AB1,-2,yes,2027-05-01\n"Ä, B",,no,\n')
        before = self.rows()
        out = self.client.get(f"{self.url}/rows?as=csv").content.decode()
        self.client.post(f"{self.url}/empty", {"revision": 2})
        self.assertEqual(self.import_file(out)["state"], "done")
        self.assertEqual(self.rows(), before)
