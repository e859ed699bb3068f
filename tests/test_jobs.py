"""Jobs: kept whole, gone on with after any end, and told of when they cannot be."""

import tempfile
import threading
import time
import unittest
from pathlib import Path

from sow.core.errors import SceneError
from sow.jobs import ENDED, JobState, Queue, Shelf
from sow.jobs.job import MOST_WAITING

TIER = "fast"


class Jobs(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory(prefix="sow-jobs-")
        self.addCleanup(folder.cleanup)
        self.shelf = Shelf(Path(folder.name))
        self.heard = []

    def queue(self, work=lambda running: [], **more):
        heard = lambda job: self.heard.append((job.id, job.state.doing))
        queue = Queue(self.shelf.folder, here={"here": work}, heard=heard, **more)
        self.addCleanup(queue.end)
        return queue

    def until(self, job, *doing):
        end = time.monotonic() + 20
        while job.state.doing not in doing:
            self.assertLess(time.monotonic(), end, job.state)
            time.sleep(0.01)
        return job.state

    def test_one_that_was_under_way_when_all_ended_is_done_by_the_next_queue(self):
        job = self.shelf.add("here", {"scene": 1})
        job.state = JobState("running", share=0.4)
        done = []
        self.queue(lambda running: done.append(running.job.id) or ["a.txt"]).look()
        self.assertEqual(self.until(job, *ENDED).files, ["a.txt"])
        self.assertEqual(done, [job.id])
        end = time.monotonic() + 10
        while self.heard[-1] != (job.id, "done"):  # it is told after it was written
            self.assertLess(time.monotonic(), end, self.heard)

    def test_one_is_stopped_and_begun_again(self):
        begun = threading.Event()

        def work(running):
            begun.set()
            while True:
                running.check()
                time.sleep(0.01)

        job = self.shelf.add("here", {"scene": 1})
        queue = self.queue(work)
        queue.look()
        self.assertTrue(begun.wait(10))
        queue.wished(job, "stop")
        self.until(job, "stopped")
        begun.clear()
        queue.wished(job, "run")
        self.assertTrue(begun.wait(10))
        queue.drop(job)
        self.assertEqual(self.shelf.all(), [])

    def test_trouble_is_told_in_words(self):
        def refused(running):
            raise SceneError("It is too large.", "plot.posts", "Make it smaller.")

        def broken(running):
            raise ValueError("odd")

        for work, told in ((refused, "It is too large."), (broken, "ValueError: odd")):
            job = self.shelf.add("here", {"scene": 1})
            self.queue(work).look()
            state = self.until(job, "failed")
            self.assertEqual(state.trouble, told)
            self.assertTrue(state.advice)
            self.assertEqual(state.refused, work is refused)

    def test_a_process_that_ends_again_and_again_is_given_up(self):
        job = self.shelf.add("there", {"scene": 1})
        self.queue(module="sow.no_such_module", there=["there"]).look()
        self.assertIn("again and again", self.until(job, "failed").trouble)

    def test_half_written_ones_and_too_many_are_refused(self):
        def torn(folder):
            (folder / "scene.zip").write_bytes(b"half")
            raise OSError("no room")

        with self.assertRaises(OSError):
            self.shelf.add("here", {"scene": 1}, torn)
        self.assertEqual(list(self.shelf.folder.iterdir()), [])
        for _ in range(MOST_WAITING):
            self.shelf.add("here", {"scene": 1})
        with self.assertRaisesRegex(SceneError, "wait already"):
            self.shelf.add("here", {"scene": 1})

    def test_lost_or_foreign_files_are_no_end(self):
        job = self.shelf.add("here", {"scene": 7})
        (job.folder / "state.json").write_text("torn{")
        self.assertEqual(job.state, JobState())
        older = self.shelf.folder / "old"
        older.mkdir()
        (older / "order.json").write_text('{"scene": 7, "asked": 1}')  # as an earlier Sow wrote it
        self.assertEqual([j.id for j in self.shelf.of(7, "still")], ["old"])
        self.assertIsNone(self.shelf.get("../x", "here"))


if __name__ == "__main__":
    unittest.main()
