"""Work beside the window: never two at once, the newest wins, and closing does not wait for what cannot be stopped."""

import threading
import time
import unittest

from tests.gui.window import application, wait_until
from violet_dial.core.task import Task
from violet_dial.kit.pdf_pages import drawn_pages
from violet_dial.kit.runner import Runner, work_is_left
from violet_dial.report.blocks import Paper, Words
from violet_dial.report.pdf import paper_pdf


class Work(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.runner = Runner()
        self.addCleanup(self.runner.close)
        self.given: list[object] = []
        self.runner.succeeded.connect(self.given.append)

    def test_never_two_at_once_and_the_newest_wins(self) -> None:
        lock, most, begun = threading.Lock(), [0, 0], []

        def work(number: int, task: Task) -> int:
            with lock:
                most[0] += 1
                most[1] = max(most)
                begun.append(number)
            time.sleep(0.05)  # a library's step that cannot be stopped
            with lock:
                most[0] -= 1
            return number

        for number in range(20):
            self.runner.start(lambda task, number=number: work(number, task))
            wait_until(lambda: False, 5)
        self.assertTrue(wait_until(lambda: not self.runner.busy))
        wait_until(lambda: False, 50)
        self.assertEqual((most[1], self.given), (1, [19]))
        self.assertLess(len(begun), 20, "those that waited and were overtaken are not begun")

    def test_closing_does_not_wait(self) -> None:
        go_on = threading.Event()
        self.runner.start(lambda task: go_on.wait(20))
        wait_until(lambda: False, 50)
        began = time.monotonic()
        self.assertFalse(self.runner.close())
        self.assertLess(time.monotonic() - began, 1.0)
        self.assertTrue(work_is_left())
        go_on.set()
        self.assertTrue(wait_until(lambda: not work_is_left()))
        self.runner.start(lambda task: 7)
        self.assertTrue(wait_until(lambda: 7 in self.given))

    def test_pages_are_drawn_by_one_thread_at_a_time(self) -> None:
        """The PDF library ends the process when two threads are in it: twelve threads at once, and all come back."""
        content = paper_pdf(Paper("t", "1", "a", tuple(Words(f"line {n}") for n in range(120))))
        found: list[int] = []
        threads = [threading.Thread(target=lambda: found.append(len(drawn_pages(content, 300)))) for _ in range(12)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(60)
        self.assertEqual(len(found), 12)
        self.assertEqual(len(set(found)), 1)


if __name__ == "__main__":
    unittest.main()
