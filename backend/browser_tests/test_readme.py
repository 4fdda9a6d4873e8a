"""The README's first ten minutes, word by word: what it says in bold is what is done here."""

import json
import os
import re
import subprocess
import tempfile

from django.conf import settings

from browser_tests.served import ServedTestCase


class FirstTenMinutesTests(ServedTestCase):
    def setUp(self):
        text = (settings.BACKEND.parent / "README.md").read_text()
        section = text.partition("## The first ten minutes")[2].partition("\n## ")[0]
        self.said = [" ".join(words.split()) for words in re.findall(r"\*\*(.+?)\*\*", section, re.S)]

    def do(self, person, words, role="button"):
        """Do what the README says next."""
        self.assertEqual(self.said.pop(0), words)
        for word in words.split(" → "):
            # Stops of the map begin with the same word as the telephone's button.
            person.click(word, "row" if word == "Main line" else role, exact=word == "Dial")

    def test_whoever_reads_along_finds_it_so(self):
        tamsin, nerys = self.person("tamsin"), self.person("nerys")
        tamsin.go("/settings/stand-ins")
        tamsin.click("At home", "switch")
        tamsin.sees("The stand-ins are at work")
        tamsin.go("/")
        tamsin.click("Tamsin Okafor")
        self.do(tamsin, "Stand-ins", "option")
        self.assertEqual(self.said.pop(0), "At work")
        tamsin.click("At work", "switch")
        tamsin.sees("The stand-ins have gone home")

        self.do(nerys, "Start work")
        self.do(nerys, "Become available")

        self.do(tamsin, "Guide → Flows → Main line")
        tamsin.click_stop("main-menu")
        self.do(tamsin, "Add a key")
        tamsin.sees("leads nowhere")
        self.do(tamsin, "Undo")
        tamsin.sees_no("leads nowhere")
        self.assertEqual(self.said.pop(0), "Publish…")
        self.assertTrue(tamsin.find("button", "Publish…").is_displayed())

        self.do(tamsin, "Try a call")
        self.do(tamsin, "Dial")
        tamsin.sees("Hears “For bookings")
        self.do(tamsin, "Press 1")
        nerys.sees("Ringing", seconds=20)
        self.do(nerys, "Answer")
        tamsin.sees("Talks with Nerys Vaughan")
        self.do(nerys, "Hang up")
        nerys.click("11 New booking", "radio")
        self.do(nerys, "Done")
        nerys.sees("Available")

        self.do(tamsin, "Learn → Floor")
        tamsin.sees("Nerys Vaughan", "Available")
        self.do(tamsin, "Learn → Contacts")
        tamsin.sees("With a person")
        self.do(tamsin, "Learn → Reports")
        tamsin.sees("Wrap-up codes", "When it is busy")
        self.assertEqual(self.said, [], "all that it says was done")


class ApiByExampleTests(ServedTestCase):
    def answers(self):
        """What the lines of docs/api.md answer, block by block."""
        blocks = re.findall(r"```sh\n(.+?)```", (settings.BACKEND.parent / "docs/api.md").read_text(), re.S)
        script = "set -eu\n" + "echo; echo ---\n".join(blocks)
        with tempfile.TemporaryDirectory() as folder:
            run = subprocess.run(  # noqa: S603  the page is our own
                ["/bin/bash", "-c", script],
                cwd=folder,
                env=os.environ | {"ADDRESS": self.address},
                capture_output=True,
                text=True,
                timeout=120,
                check=False,
            )
        self.assertEqual(run.returncode, 0, run.stderr)
        return [self.objects(said) for said in run.stdout.split("---")]

    def objects(self, said):
        """The JSON values that stand one after another."""
        found, at = [], 0
        while said[at:].strip():
            at += len(said[at:]) - len(said[at:].lstrip())
            value, at = json.JSONDecoder().raw_decode(said, at)
            found.append(value)
        return found

    def test_its_lines_do_what_the_page_says(self):
        signed, listed, made, changed, errors, gone = self.answers()
        self.assertEqual(signed[0]["username"], "tamsin")
        self.assertEqual(len(listed[0]["results"]), 2)
        self.assertEqual((made[0]["name"], made[0]["revision"]), ("Knots", 1))
        self.assertEqual(changed[0]["revision"], 2)
        self.assertEqual((changed[1]["status"], changed[1]["code"]), (409, "stale"))
        self.assertEqual((errors[0]["status"], list(errors[0]["fields"])), (400, ["name"]))
        self.assertEqual(errors[1]["code"], "not-authenticated")
        self.assertEqual([answer.get("signed_in", False) for answer in gone], [False])
