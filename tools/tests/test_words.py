"""Looking for words that have better ones."""

import unittest

from words import instead, texts_of_module, texts_of_page

PAGE = """
| word | what it is | not |
|---|---|---|
| Cancel | leave it as it was | Leave it, Never mind |
| offered | came into a queue | |
"""


class WordsTests(unittest.TestCase):
    def test_words_are_read_from_the_tables(self):
        self.assertEqual(instead(PAGE), {"Leave it": "Cancel", "Never mind": "Cancel"})

    def test_what_users_read_is_between_tags_and_in_quotes_not_in_comments(self):
        page = '// "never"\nconst a = "in quotes";\n/* <b>gone</b> */\n<p>between tags</p>\n`with ${b}`'
        self.assertEqual(list(texts_of_page(page)), [(2, "in quotes"), (4, "between tags"), (5, "with ${b}")])

    def test_what_a_module_says_is_not_what_it_documents(self):
        module = '"""Of the module."""\ndef f():\n    """Of it."""\n    return "said"\n'
        self.assertEqual(list(texts_of_module(module)), [(4, "said")])


if __name__ == "__main__":
    unittest.main()
