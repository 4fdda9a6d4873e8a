"""What docs/ claims and can be looked up is as they say."""

import importlib
import json
import re
import subprocess
import sys

from django.conf import settings
from django.core.management import get_commands
from django.test import SimpleTestCase

ROOT = settings.BACKEND.parent
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]
WHOLE = "\n".join(page.read_text() for page in PAGES)


class DocumentTests(SimpleTestCase):
    def test_limits_are_those_of_the_code(self):
        rows = re.findall(
            r"^\| (.+?) \| ([\d,]+)( MB)? \| `([\w.]+)` \|$", (ROOT / "docs/limits.md").read_text(), re.M
        )
        self.assertGreater(len(rows), 30)
        for what, number, unit, where in rows:
            module, _, name = where.rpartition(".")
            told = int(number.replace(",", "")) * (1024**2 if unit else 1)
            with self.subTest(what):
                self.assertEqual(getattr(importlib.import_module(module), name), told)

    def test_every_setting_is_told(self):
        code = (ROOT / "backend/hazeridge/settings.py").read_text()
        used = set(re.findall(r"HAZERIDGE_[A-Z_]+", code)) - {"HAZERIDGE_TESTING"}
        told = (ROOT / "docs/running.md").read_text()
        missing = {name for name in used if name not in told and f"`_{name.rsplit('_', 1)[1]}`" not in told}
        self.assertEqual(missing, set())

    def test_commands_are_there(self):
        named = set(re.findall(r"manage\.py (\w+)", WHOLE))
        self.assertGreater(len(named), 5)
        self.assertEqual(named - set(get_commands()), set())
        of_run = set(re.findall(r"\./run (\w+)", WHOLE))
        said = subprocess.run(
            [sys.executable, str(ROOT / "run"), "--help"], capture_output=True, text=True, check=True
        ).stdout
        self.assertEqual({word for word in of_run if word not in said}, set())

    def test_every_package_is_told_and_pinned(self):
        page = (ROOT / "docs/dependencies.md").read_text()
        cells = re.findall(r"^\| ([\w@/., -]+?) \|", page, re.M)
        told = {name for cell in cells for name in cell.split(", ")} - {"package"}
        pages = json.loads((ROOT / "frontend/package.json").read_text())
        of_pages = set(pages["dependencies"]) | set(pages["devDependencies"])
        lists = [
            (ROOT / f"backend/requirements{which}.txt").read_text() for which in ("", "-dev", "-installer")
        ]
        pinned = {
            name.lower().replace("_", "-") for name in re.findall(r"^([\w.-]+)==", "\n".join(lists), re.M)
        }
        hashes = "\n".join(lists).replace("\\\n", " ")
        for line in re.findall(r"^[\w.-]+==.*", hashes, re.M):
            self.assertIn("--hash=sha256:", line)
        self.assertEqual(of_pages - told, set())
        self.assertEqual({name for name in told - of_pages if name.lower() not in pinned}, set())

    def test_links_lead_somewhere(self):
        for page in PAGES:
            for link in re.findall(r"\]\((?!https?:)([^)#]+)", page.read_text()):
                with self.subTest(page=page.name, link=link):
                    self.assertTrue((page.parent / link).exists())

    def test_files_and_modules_that_pages_name_are_there(self):
        for page in PAGES:
            for name in re.findall(r"`((?:backend|frontend|tools|docs)/[\w./-]+)`", page.read_text()):
                with self.subTest(page=page.name, file=name):
                    self.assertTrue((ROOT / name).exists())
