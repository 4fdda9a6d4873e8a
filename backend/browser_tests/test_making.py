"""Everything that can be made is made from its button, and found again in its list."""

from browser_tests.person import until
from browser_tests.served import ServedTestCase

#: Typed into a field of day and time.
DECEMBER = ("12", "dec", "2027", "2359")
#: Where a thing is made, what one is called, what is filled in, and what its row shows then.
KINDS = (
    ("/arrive/numbers", "number", {"Number": "01632 960171", "Label": "New pier"}, "New pier"),
    ("/arrive/hours", "hours", {"Name": "New pier hours"}, "New pier hours"),
    ("/arrive/diversions", "diversion", {"Reason": "New pier works"}, "New pier works"),
    ("/guide/flows", "flow", {"Name": "New pier flow"}, "New pier flow"),
    ("/guide/blocks", "block", {"Name": "New pier block"}, "New pier block"),
    ("/guide/sounds", "sound", {"Name": "New pier sound"}, "New pier sound"),
    ("/guide/lookups", "lookup table", {"Name": "New pier table"}, "New pier table"),
    ("/wait/queues", "queue", {"Name": "New pier queue"}, "New pier queue"),
    ("/wait/plans", "plan", {"Name": "New pier plan"}, "New pier plan"),
    ("/wait/mailboxes", "mailbox", {"Name": "New pier mailbox"}, "New pier mailbox"),
    ("/talk/agents", "agent", {"Name": "Pia Pier", "Extension": "4871"}, "Pia Pier"),
    ("/talk/teams", "team", {"Name": "New pier team"}, "New pier team"),
    ("/talk/groups", "ring group", {"Name": "New pier group"}, "New pier group"),
    ("/talk/skills", "skill", {"Name": "New pier skill"}, "New pier skill"),
    ("/talk/people", "person", {"Name": "Abel Pier", "Sign-in name": "abel"}, "Abel Pier"),
    ("/talk/notices", "notice", {"Text": "New pier opens.", "Until": DECEMBER}, "New pier opens."),
    ("/wrap-up/codes", "wrap-up code", {"Name": "New pier", "Digits": "87"}, "New pier"),
    ("/wrap-up/sets", "code set", {"Name": "New pier codes"}, "New pier codes"),
)


class MakingTests(ServedTestCase):
    def test_one_of_every_kind_from_its_button(self):
        tamsin = self.person("tamsin")
        for path, noun, fields, shown in KINDS:
            with self.subTest(noun):
                tamsin.go(path)
                tamsin.click(f"New {noun}")
                tamsin.sees("Create")
                for label, text in fields.items():
                    if text is DECEMBER:
                        tamsin.fill_moment(label, *text)
                    else:
                        tamsin.fill(label, text)
                if noun == "diversion":
                    tamsin.type_and_choose("Numbers", "harbour", "01632 960100")
                    tamsin.fill("Outside number", "01632 960117")
                tamsin.click("Create", exact=True)
                until(lambda: not tamsin.browser.current_url.endswith("/new"))
                tamsin.go(path)
                tamsin.sees(f"New {noun}", shown)
