"""The README's first ten minutes, word by word: what it says in bold is what is done here."""

import re

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
