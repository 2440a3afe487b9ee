"""A page's question: the newest alone is answered, a known one at once, and no answer or failure outlives its question."""

import threading
import unittest

from PySide6.QtCore import QObject

from tests.gui.window import application, wait_until
from violet_dial.core.errors import InvalidInput
from violet_dial.kit.answer import PageAnswer
from violet_dial.services.remembered import Answers


def refuses(task: object) -> object:
    raise InvalidInput("Battery", "none", "a battery")


class Asking(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.page, self.known = QObject(), Answers(2)
        self.answer = PageAnswer(self.page, self.known)
        self.addCleanup(self.answer.close)
        self.came: list[object] = []
        self.answer.came.connect(lambda: self.came.append(self.answer.last))

    def settle(self) -> None:
        self.assertTrue(wait_until(lambda: not self.answer.busy))

    def test_an_answer_comes_and_is_known_in_another_window(self) -> None:
        self.answer.ask("2 + 2", lambda task: 4)
        self.assertTrue(self.answer.busy)
        self.settle()
        self.assertEqual((self.answer.result, self.came), (4, [4]))
        other = PageAnswer(self.page, self.known)
        self.assertTrue(other.ask("2 + 2", refuses))  # never begun
        self.assertEqual((other.result, other.busy), (4, False))
        self.assertFalse(other.ask("2 + 2", refuses))  # nothing new
        self.assertEqual(len(self.came), 1)  # what was known is no news

    def test_the_oldest_answer_goes(self) -> None:
        for number in range(3):
            self.known.put(number, -number)
        self.assertEqual([self.known.get(number) for number in range(3)], [None, -1, -2])

    def test_the_newest_question_alone_is_answered(self) -> None:
        go_on = threading.Event()
        self.answer.ask("slow", lambda task: go_on.wait(20))
        self.answer.ask("quick", lambda task: "answer")
        go_on.set()
        self.settle()
        self.assertEqual((self.answer.question, self.came), ("quick", ["answer"]))
        self.assertIsNone(self.known.get("slow"))

    def test_a_failure_is_of_its_question(self) -> None:
        self.answer.ask("first", lambda task: 1)
        self.settle()
        self.answer.ask("second", refuses)
        self.assertEqual((self.answer.result, self.answer.last), (None, 1))  # how it stood, until more is known
        self.settle()
        self.assertIn("Battery", self.answer.failure)
        self.answer.ask("third", lambda task: 3)
        self.assertEqual(self.answer.failure, "")
        self.settle()
        self.assertEqual(self.answer.result, 3)

    def test_a_part_is_shown_until_the_whole_comes(self) -> None:
        go_on = threading.Event()

        def work(task: object) -> object:
            self.answer.tell("all", "part")
            go_on.wait(20)
            return "whole"

        self.answer.ask("all", work)
        self.assertTrue(wait_until(lambda: self.came == ["part"]))
        self.assertTrue(self.answer.busy)
        go_on.set()
        self.settle()
        self.assertEqual(self.came, ["part", "whole"])
        self.answer.tell("all", "late")
        application().processEvents()
        self.assertEqual(self.answer.last, "whole")

    def test_another_job_begins_with_nothing(self) -> None:
        self.answer.ask("job 1", lambda task: 1)
        self.settle()
        self.answer.begin()
        self.assertEqual((self.answer.last, self.answer.result, self.answer.question), (None, None, None))
        self.answer.refuse("job 2", "hidden until it is solved")
        self.assertEqual((self.answer.busy, self.answer.failure), (False, "hidden until it is solved"))


if __name__ == "__main__":
    unittest.main()
