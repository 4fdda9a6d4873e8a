"""The journeys of a flow: built, checked, tried, published."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from browser_tests.person import until
from browser_tests.served import ServedTestCase
from flows.models import Flow

#: What is typed in the list of kinds, and the stop that it makes.
KINDS = {
    "music": "music-1",
    "say": "say-3",
    "repeat": "repeat-1",
    "check": "hours-1",
    "label": "label-1",
    "set": "set-1",
    "call ends": "end-1",
}


class EditingTests(ServedTestCase):
    def open_flow(self, person, name):
        person.go("/guide/flows")
        person.click(name, "row")
        person.sees("Arrives on")

    def test_a_key_to_a_new_queue_from_the_picker_to_the_exchange(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Main line")
        tamsin.click_stop("main-menu")
        tamsin.click("Add a key")
        tamsin.sees("“key 5” leads nowhere", "publishing waits for what blocks")
        tamsin.fill("Key 5: what it is for", "Groups")
        tamsin.type_and_choose("Key 5 leads to", "Group desk", "Create queue “Group desk”")
        tamsin.sees("Queue “Group desk” is only a name so far")
        tamsin.click("Say “For groups, press 5”")
        tamsin.sees_no("is never named in the text")
        tamsin.click("Undo")
        tamsin.sees("is never named in the text")
        tamsin.click("Redo")
        tamsin.sees_no("is never named in the text")
        tamsin.sees("changes since version 1 · saved")
        tamsin.click("Publish…")
        tamsin.sees("Publishing waits for the findings that block")
        tamsin.sees_disabled("Publish now")
        tamsin.go("/wait/queues")
        tamsin.click("Group desk", "row")
        tamsin.fill("Members", "Nerys")
        tamsin.click("Nerys Vaughan", "option")
        tamsin.press(Keys.ESCAPE)
        tamsin.click("Save", exact=True)
        tamsin.sees("Group desk is saved")
        self.open_flow(tamsin, "Main line")
        tamsin.click("Publish…")
        tamsin.sees("New stop · Queue: Group desk")
        tamsin.fill("Note", "Key 5 for groups")
        tamsin.click("Publish now")
        tamsin.sees("Version 2 is in effect on the exchange, revision")

    def test_a_flow_is_built_with_the_keyboard_alone(self):
        tamsin = self.person("tamsin")
        tamsin.press_with_control("k")
        tamsin.sees("create")
        tamsin.press("New flow")
        tamsin.sees("New flow")
        tamsin.press(Keys.ENTER)
        tamsin.type_into("Name", "Night line", Keys.ENTER)
        tamsin.sees("Draft; nothing is in force yet")
        tamsin.sees("Nothing is said here")
        tamsin.press(Keys.ARROW_RIGHT, Keys.ENTER)
        tamsin.press(Keys.TAB, "Good night from Ostrel.")
        tamsin.sees_no("Nothing is said here")
        tamsin.press(Keys.ESCAPE, "a")
        tamsin.sees("the caller hears a text or a sound")
        tamsin.press("say", Keys.ENTER)
        self.stands_on(tamsin, "say-1", of=2)
        tamsin.press(Keys.DELETE)
        self.stands_on(tamsin, "greeting", of=1)
        tamsin.press_with_control("z")
        self.stands_on(tamsin, "greeting", of=2)
        tamsin.press(Keys.ARROW_RIGHT)
        self.stands_on(tamsin, "say-1", of=2)
        tamsin.press_with_control("c")
        tamsin.press("v")
        self.stands_on(tamsin, "say-2", of=3)
        tamsin.press("/")
        tamsin.sees("Find a stop")
        tamsin.press("good night", Keys.ARROW_DOWN, Keys.ENTER)
        self.stands_on(tamsin, "greeting", of=3)
        for number, (typed, stop) in enumerate(KINDS.items()):
            tamsin.press("a")
            tamsin.sees("the caller hears a text or a sound")
            tamsin.press(typed, Keys.ENTER)
            self.stands_on(tamsin, stop, of=4 + number)
        tamsin.sees("“done” leads nowhere", "Draft; nothing is in force yet · saved")

    def test_stops_and_arms_are_copied_by_button_and_by_key(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "After hours")
        tamsin.click_stop("urgent")
        tamsin.click("More about key 2")
        tamsin.click("Copy key 2 with all that follows")
        tamsin.sees("A way with 2 stops copied")
        self.open_flow(tamsin, "Lost property")
        before = len(tamsin.browser.find_elements(By.CSS_SELECTOR, "[data-stop]"))
        tamsin.click_stop("choice")
        tamsin.press_with_control("v")
        tamsin.sees("Leave a message")
        self.stands_on(tamsin, "choice", of=before + 2)
        tamsin.holds("Key 3: what it is for", "Leave a message")
        tamsin.click_stop("hello")
        tamsin.click("Copy…")
        tamsin.click("Copy this stop", "option")
        tamsin.sees("A stop copied")
        tamsin.click("Copy…")
        tamsin.click("Paste after it", "option")
        until(lambda: tamsin.stop("hello-1"))

    def test_a_stop_is_filled_in_as_sentences(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Main line")
        tamsin.click_stop("extension")
        tamsin.sees("What is heard", "Rings for", "What if it fails", "If it is nobody’s: Queue: Bookings")
        tamsin.sees_no("each time for a key")
        tamsin.click("What if it fails")
        tamsin.sees("each time for a key")
        tamsin.fill("Waits for a key", "61")
        tamsin.press(Keys.TAB)
        tamsin.sees("A whole number from 1 to 60 is needed; 6 still counts.")
        tamsin.fill("Waits for a key", "9")
        tamsin.choose("Asks", "twice")
        tamsin.sees("· saved")
        steps = {step["id"]: step for step in Flow.objects.get(name="Main line").draft["steps"]}
        self.assertEqual((steps["extension"]["wait_s"], steps["extension"]["tries"]), (9, 2))

    def stands_on(self, person, step, of):
        """The keyboard is on a stop, of so many."""
        until(lambda: len(person.browser.find_elements(By.CSS_SELECTOR, "[data-stop]")) == of)
        until(lambda: person.focused().get_attribute("data-stop") == step)

    def test_a_saved_trial_blocks_a_publish_until_it_goes_as_expected(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Group travel")
        tamsin.click("Try a call")
        tamsin.click("On paper")
        tamsin.click("Dial on paper")
        tamsin.sees("Waits for a key")
        tamsin.click("Press 9")
        tamsin.click("One step back")
        for key in "1042":
            tamsin.click(f"Press {key}")
        tamsin.sees("Over: with a person", "Labelled “Group Haven Quay Primary School, 61”")
        tamsin.fill("Save as the trial", "A large group")
        tamsin.click("Save", exact=True)
        tamsin.sees("is saved; it runs before each publishing")
        tamsin.click("Close", exact=True)
        tamsin.click("Trials")
        tamsin.sees("As expected")
        tamsin.click_stop("size")
        tamsin.fill("Compared with", "70")
        tamsin.sees("Otherwise", "After How large came", "1 change since version 1 · saved")
        tamsin.click("Publish…")
        tamsin.sees("people is more than 70", "Publishing waits for the trial that goes otherwise")
        tamsin.sees_disabled("Publish now")
        tamsin.click("Expect this")
        tamsin.sees("As expected")
        tamsin.fill("Note", "Larger groups only")
        tamsin.click("Publish now")
        tamsin.sees("version 2 is in force", "Version 2 is in effect on the exchange")
        tamsin.click("Bring back")
        tamsin.sees("is the draft now")

    def test_a_route_lights_the_map_and_every_way_is_listed(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Port desk")
        tamsin.click("Routes")
        tamsin.sees("Rounds are cut out")
        tamsin.click("closed")
        until(lambda: tamsin.browser.find_elements(By.CSS_SELECTOR, '[aria-current="true"] button'))

    def test_the_map_is_worked_by_keys_and_no_strand_lies_over_a_label(self):
        tamsin = self.person("tamsin")
        self.open_flow(tamsin, "Inside line")
        tamsin.find("button", "Goes back to Whom do you want").send_keys(Keys.ENTER)
        until(lambda: tamsin.focused().get_attribute("data-stop") == "choice")
        tamsin.click_stop("office")
        tamsin.sees("7 people")
        tamsin.stop("office").send_keys("-")
        folded = tamsin.find("button", "Open 1 folded stop")
        self.assertEqual(tamsin.browser.find_elements(By.CSS_SELECTOR, '[data-stop="music"]'), [])
        folded.send_keys(Keys.ENTER)
        tamsin.stop("music")
        over = tamsin.browser.execute_script("""
            const all = [...document.querySelectorAll('svg[data-trail] *')];
            const drawn = (e) => (e.getAttribute('stroke') ?? '').includes('--fate');
            const strand = (e) => e.tagName === 'path' && drawn(e);
            const label = (e) => e.tagName === 'text' && e.textContent === 'nobody found';
            return all.findLastIndex(strand) < all.findIndex(label);
        """)
        self.assertTrue(over)

    def test_two_authors_of_one_flow_lose_nothing(self):
        first, second = self.person("tamsin"), self.person("tamsin")
        for author in (first, second):
            self.open_flow(author, "Lost property")
            author.click_stop("hello")
        first.sees("also open: another window of yours")
        first.fill("The caller hears: text", "Words of the first.")
        first.sees("nothing is in force yet · saved")
        second.fill("The caller hears: text", "Words of the second.")
        second.sees("changed the same as you while you did", "what is said", "Words of the first.")
        second.click("Tamsin Okafor’s", "radio")
        second.click("Bring together")
        until(lambda: "Words of the first" in second.words_of("hello"))
        second.click("Undo")
        until(lambda: "Words of the second" in second.words_of("hello"))
        second.sees("nothing is in force yet · saved")
        first.click_stop("choice")
        first.fill("Name", "What is gone")
        first.sees("both your changes are in the draft now")
        until(lambda: "Words of the second" in first.words_of("hello"))
        until(lambda: "What is gone" in first.words_of("choice"))

    def test_two_authors_of_one_form_choose_field_by_field(self):
        first, second = self.person("tamsin"), self.person("deepa")
        for author in (first, second):
            author.go("/wait/queues")
            author.click("Freight", "row")
            author.sees("Today so far")
        first.fill("Service threshold", "90")
        first.click("Save", exact=True)
        first.sees("Freight is saved")
        second.fill("Service threshold", "45")
        second.fill("Goal", "85")
        second.click("Save", exact=True)
        second.sees("Tamsin Okafor changed this while you were editing it", "90", "45")
        second.click("Go on editing with these")
        second.click("Save", exact=True)
        second.sees("Freight is saved")
        second.holds("Goal", "85")

    def test_a_wrong_number_is_refused_where_it_was_typed_and_a_deleted_one_comes_back(self):
        tamsin = self.person("tamsin")
        tamsin.go("/arrive/numbers/new")
        tamsin.fill("Number", "hello")
        tamsin.click("Create")
        tamsin.sees("“hello” is not a telephone number.")
        tamsin.fill("Number", "01632 960777")
        tamsin.click("Create")
        tamsin.sees("01632 960777 is saved")
        tamsin.click("Delete…")
        tamsin.sees("Nothing uses it")
        tamsin.click("Delete", exact=True)
        tamsin.click("Undo")
        tamsin.sees("01632 960777 is back")


#: The places of all words and stops of the map, as the eye sees them.
_PLACES = """
const boxes = [];
for (const stop of document.querySelectorAll('[data-stop]')) {
  const parts = [...stop.querySelectorAll('tspan'), ...stop.querySelectorAll(':scope > circle')];
  for (const part of parts) {
    const r = part.getBoundingClientRect();
    const place = [r.left, r.top, r.right, r.bottom];
    if (r.width) boxes.push([stop.dataset.stop, part.textContent, ...place]);
  }
}
return boxes;
"""


def overlapping(boxes, slack=3):
    """Pairs of places of different stops that lie on one another."""
    pairs = []
    for i, (stop, words, left, top, right, bottom) in enumerate(boxes):
        for other, their, l2, t2, r2, b2 in boxes[i + 1 :]:
            apart = right - slack < l2 or r2 - slack < left or bottom - slack < t2 or b2 < top + slack
            if stop != other and not apart:
                pairs.append((stop, words, other, their))
    return pairs


class MapTests(ServedTestCase):
    def test_no_words_of_the_map_lie_on_one_another(self):
        tamsin = self.person("tamsin")
        for name in ("Main line", "Lost property"):
            with self.subTest(name):
                tamsin.go("/guide/flows")
                tamsin.click(name, "row")
                tamsin.sees("Arrives on")
                boxes = until(lambda: tamsin.browser.execute_script(_PLACES))
                self.assertGreater(len(boxes), 5)
                self.assertEqual(overlapping(boxes), [])

    def test_a_pill_leads_back_and_a_finding_leads_to_its_stop(self):
        tamsin = self.person("tamsin")
        tamsin.go("/guide/flows")
        tamsin.click("Lost property", "row")
        tamsin.sees("Arrives on")
        tamsin.click("Lost property desk")
        until(lambda: tamsin.stop("desk").get_attribute("aria-pressed") == "true")
        pill = tamsin.browser.find_element(By.XPATH, "//*[name()='text'][contains(., '↩')]")
        pill.click()
        until(lambda: tamsin.stop("hello").get_attribute("aria-pressed") == "true")
