"""What journeys through the real page share: a browser, a scene opened in it, and the ways in which
entries are added and changed there.
"""

import unittest

from tests.page import Keys, Page
from tests.served import ask, server


class Journeys(unittest.TestCase):
    """Opens scenes in one browser; `FIRST` is what every document of the case begins with."""

    FIRST: dict = {}

    @classmethod
    def setUpClass(cls):
        cls.page = Page(server().address, "sketch")
        cls.addClassCleanup(cls.page.close)

    def tearDown(self):
        self.page.shot_if_failed(self)

    def open(self, **document) -> dict:
        """A new scene, opened and drawn; gives its state."""
        status, state = ask("POST", "/api/scenes", {"document": {**self.FIRST, **document}})
        self.assertEqual(status, 200, state)
        self.page.go(f"/?quality=sketch&scene={state['id']}")
        self.page.settled()
        return state

    def changed(self, work) -> dict:
        """The document that is kept after some work on the page."""
        before = self.page.state()["revision"]
        work()
        return self.page.kept(before)["document"]

    def added(self, section: str, label: str, key: str) -> dict:
        """An entry added from a section's menu."""
        self.page.unfold(section)
        add = f"[aria-label='Add {label}']"
        return self.changed(lambda: (self.page.click(add), self.page.click(f"[data-add={key}]")))

    def typed(self, entry: str, label: str, value: float, fold: str = "") -> dict:
        """A number typed into a field of an entry, whose fold is opened first."""
        own = f"[data-entry={entry}]"

        def type_it():
            box = f"{own} input[aria-label^='{label} in']"
            if fold and not self.page.all(box):
                self.page.click_text(fold, own)
            field = self.page.one(box)
            field.click()
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(str(value), Keys.ENTER)

        return self.changed(type_it)
