"""Reports that are kept: whose they are, the files that are made of them, and what goes wrong."""

import io
import re
import tempfile
from datetime import date, datetime
from pathlib import Path
from unittest.mock import patch
from zoneinfo import ZoneInfo

import openpyxl
from django.core import mail
from django.core.cache.backends.dummy import DummyCache
from django.test import override_settings

from accounts.models import Role
from flows.models import Flow
from reports import printed, saved, sheets
from reports.files import KINDS as FILES
from reports.models import ReportFile, SavedReport
from reports.tables import KINDS
from reports.tests.test_api import DAY, ReportTestCase
from testkit import people
from web.problems import Problem

URL = "/api/v1/reports/saved"
ASKED = {"first": "2026-11-25", "last": "2026-11-25", "by": "60"}


class SavedTests(ReportTestCase):
    def save(self, status=201, **more):
        body = {"name": "The night", "report": "queues", "asked": ASKED, **more}
        answer = self.client.post(URL, body)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def test_what_was_saved_makes_the_file_that_the_page_shows(self):
        made = self.save()
        file = self.client.post(f"{URL}/{made['id']}/file").json()
        self.assertEqual((file["error"], file["sent_to"]), ("", []))
        got = self.client.get(f"/api/v1/reports/files/{file['id']}")
        rows = list(openpyxl.load_workbook(io.BytesIO(got.content))["Report"].values)
        self.assertEqual(len(rows), 1 + 24 + 1)
        offered = self.get("queues")["total"]["figures"]["offered"]
        self.assertEqual(rows[-1][rows[0].index("Offered")], offered)
        self.assertEqual([one["id"] for one in self.client.get(f"{URL}/files").json()], [file["id"]])

    def test_every_report_is_a_file_of_every_kind(self):
        flow = str(Flow.objects.get().pk)
        for kind in KINDS:
            for ending in FILES:
                got = self.client.get(f"/api/v1/reports/{kind}/sheet", {**DAY, "as": ending, "flow": flow})
                self.assertEqual(got.status_code, 200, kind)
                if ending == "csv":
                    self.assertGreater(len(got.content.decode().splitlines()), 1, kind)
                elif ending == "pdf":
                    self.assertRegex(got.content, rb"(?s)\A%PDF-.*/Type /Page\b.*%%EOF\s*\Z")
                else:
                    openpyxl.load_workbook(io.BytesIO(got.content))
        self.assertEqual(self.client.get("/api/v1/reports/luck/sheet").status_code, 404)

    def test_a_pdf_takes_every_letter_and_only_what_one_leafs_through(self):
        columns = [sheets.Column("<b>Ż&", "text", "x < y"), sheets.Column("Share", "share")]
        table = sheets.Table("A & Ω <i>", columns, [("Łódź <b> ☂", 0.5), ("x" * 400, None)] * 100)
        pages = re.findall(rb"/Type /Page\b", printed.pdf(table))
        self.assertGreater(len(pages), 2)
        with self.assertRaisesMessage(Problem, "A PDF holds 3,000 rows"):
            printed.pdf(table._replace(rows=[("x", 0.5)] * 3_001))

    def test_names_never_run_as_formulas(self):
        table = sheets.Table("x", [sheets.Column("Name", "text")], [("=1+1",), ("@x",)])
        self.assertEqual(sheets.comma_separated(table).decode().split()[1:], ["'=1+1", "'@x"])
        book = openpyxl.load_workbook(io.BytesIO(sheets.xlsx(table)))
        self.assertEqual(book["Report"]["A2"].data_type, "s")

    def test_it_is_ones_own_unless_it_is_shared(self):
        self.save(400, shared=True)  # who only reads
        mine = self.save()
        deepa = people.client_of(people.person(Role.SUPERVISOR, "deepa"))
        self.assertEqual(deepa.get(URL).json(), [])
        self.assertEqual(deepa.post(f"{URL}/{mine['id']}/file").status_code, 404)
        body = {"name": "All", "report": "codes", "shared": True}
        shared = deepa.post(URL, body).json()
        self.assertEqual([one["name"] for one in self.client.get(URL).json()], ["All", "The night"])
        self.assertEqual(self.client.delete(f"{URL}/{shared['id']}").status_code, 403)
        answer = self.client.put(f"{URL}/{shared['id']}", {"name": "x", "report": "codes"})
        self.assertEqual(answer.status_code, 403)
        self.assertEqual(deepa.delete(f"{URL}/{shared['id']}").status_code, 204)

    def test_what_cannot_be_kept_is_refused(self):
        for more in (
            {"report": "luck"},
            {"name": ""},
            {"asked": {"colour": "red"}},
            {"at_min": 1440},
            {"weekdays": [7]},
            {"to": ["nobody"]},
            {"file": "doc"},
            {"owner": 3},
        ):
            with self.subTest(**more):
                self.assertIn(next(iter(more)), str(self.save(400, **more)["fields"]))

    @override_settings(EMAIL_BACKEND="django.core.mail.backends.locmem.EmailBackend")
    def test_files_are_made_at_their_time_of_day_once_and_sent(self):
        at = datetime(2026, 11, 25, 7, 45, tzinfo=ZoneInfo("Europe/London"))
        refused = self.save(400, to=["duty@ostrel.example"])
        self.assertIn("sends reports to nobody", str(refused["fields"]))
        self.client = people.client_of(people.person(Role.SUPERVISOR, "deepa"))
        self.save(at_min=7 * 60 + 30, to=["duty@ostrel.example"], weekdays=[2])
        self.save(name="Later", at_min=8 * 60)
        self.save(name="Thursdays", at_min=7 * 60, weekdays=[3])
        self.save(name="By hand")
        with patch.object(saved, "site_clock_ms", lambda: round(at.timestamp() * 1000)):
            saved.make_what_is_due()
            saved.make_what_is_due()
        made = ReportFile.objects.get()
        self.assertEqual((made.report.name, made.sent_to), ("The night", ["duty@ostrel.example"]))
        (message,) = mail.outbox
        self.assertEqual(message.attachments[0][0], "The night 2026-11-25.xlsx")
        noon = round(at.replace(hour=23).timestamp() * 1000)
        with patch.object(saved, "site_clock_ms", lambda: noon):
            saved.make_what_is_due()
        self.assertEqual(ReportFile.objects.count(), 1, "what was due half a day ago is over")

    def test_what_fails_says_so_in_place_of_the_file(self):
        made = self.save(asked={"first": "2026-11-25", "by": "15", "last": "2027-06-01"})
        file = self.client.post(f"{URL}/{made['id']}/file").json()
        self.assertIn("too many rows", file["error"])
        got = self.client.get(f"/api/v1/reports/files/{file['id']}")
        self.assertEqual(got.status_code, 404)
        with tempfile.TemporaryDirectory() as folder:
            blocked = Path(folder, "file")
            blocked.write_text("in the way")
            backend = "django.core.mail.backends.filebased.EmailBackend"
            report = SavedReport.objects.get()
            report.asked, report.to = ASKED, ["duty@ostrel.example"]
            with self.settings(EMAIL_BACKEND=backend, EMAIL_FILE_PATH=str(blocked)):
                failed = saved.make_file(report)
        self.assertIn("not sent", failed.error)
        report.owner.role = Role.AGENT
        self.assertIn("may not see reports any more", saved.make_file(report).error)

    def test_only_the_newest_files_stay(self):
        made = SavedReport.objects.get(pk=self.save()["id"])
        with patch.object(saved, "MOST_FILES", 2):
            for _ in range(4):
                saved.make_file(made)
        self.assertEqual(ReportFile.objects.count(), 2)


class InUseTests(ReportTestCase):
    def test_things_are_told_by_their_references_and_days(self):
        nothing_kept = patch("reports.api.cache", DummyCache("", {}))
        with nothing_kept, patch("reports.in_use.today", lambda: date(2026, 11, 26)):
            told = {one["thing"]: one for one in self.client.get("/api/v1/reports/in-use").json()}
        number = told["number:+442079460210"]
        self.assertEqual(number["count"], sum(number["days"]))
        self.assertEqual(number["count"], number["days"][-1], "all of it was on the last day")
        figures = self.get("queues", queues=self.queue)["total"]["figures"]
        queue = told[f"queue:{self.queue}"]
        self.assertEqual((queue["count"], queue["level"]), (figures["offered"], figures["level"]))
        kinds = {thing.partition(":")[0] for thing in told}
        self.assertLessEqual({"number", "flow", "queue", "agent", "code"}, kinds)
        self.assertEqual(told[f"flow:{Flow.objects.get().pk}"]["count"], number["count"])
