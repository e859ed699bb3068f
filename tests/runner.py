"""Runs every test, or those of the named files, and closes with the plain line that CI reads.

Files that drive the page run in one process, one after the other, as each needs the whole machine
to draw; the others run beside them in a second process with a server of its own. What a file prints
is shown whole.
"""

import io
import multiprocessing
import os
import time
import unittest
from pathlib import Path

from sow import warm

FEW = 6  # files for which compiling everything ahead is not worth its time


class Told(unittest.TextTestResult):
    def __init__(self, *args, **named):
        super().__init__(*args, **named)
        self.seconds, self.passed = {}, 0

    def startTest(self, test):
        self.began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test):
        super().stopTest(test)
        self.seconds[test.id()] = time.monotonic() - self.began

    def addSuccess(self, test):
        super().addSuccess(test)
        self.passed += 1


def one(name: str) -> tuple:
    """Runs one file.

    Gives what it printed, seconds of each test, and how many passed, failed, were skipped.
    """
    told = io.StringIO()
    suite = unittest.defaultTestLoader.loadTestsFromName(f"tests.test_{name}")
    r = unittest.TextTestRunner(told, resultclass=Told, verbosity=2).run(suite)
    failed = len(r.failures) + len(r.errors) + len(r.unexpectedSuccesses)
    return (
        told.getvalue(),
        r.seconds,
        (r.passed + len(r.expectedFailures), failed if r.testsRun else failed + 1, len(r.skipped)),
    )


def work(queues, results) -> None:
    """One process: takes files from each queue in turn until there is none left."""
    for names in queues:
        while (name := names.get()) is not None:
            try:
                results.put((name, *one(name)))
            except (
                BaseException
            ) as e:  # a file that cannot even be loaded fails, and the next is run
                results.put((name, f"{name}: {e!r}\n", {}, (0, 1, 0)))
        names.put(None)  # for the other process
    from tests import served

    served.end()
    results.put(None)


def _drives(file: Path) -> bool:
    """Whether the tests of a file drive the page."""
    return file.exists() and any(word in file.read_text() for word in ("Page(", "(Journeys)"))


def compile_ahead(spawn) -> None:
    """Compiles the kernels in two processes, each its half: else every process of the tests, its
    servers among them, would compile the same ones beside each other.
    """
    mark = warm.mark()
    if mark.exists():
        return
    halves = [spawn.Process(target=half) for half in (warm.compile_land, warm.compile_rest)]
    for half in halves:
        half.start()
    for half in halves:
        half.join()
    if not any(half.exitcode for half in halves):
        mark.parent.mkdir(exist_ok=True)
        mark.touch()


def main(names: list[str]) -> int:
    here = Path(__file__).parent
    if names == ["fuzz"]:
        os.environ.setdefault("SOW_FUZZ_SECONDS", "900")  # asked for by itself it goes on
    names = names or sorted(p.stem.removeprefix("test_") for p in here.glob("test_*.py"))
    drives = {n for n in names if _drives(here / f"test_{n}.py")}
    # threads that wait leave the processor to the other process
    os.environ.setdefault("OMP_WAIT_POLICY", "PASSIVE")
    spawn = multiprocessing.get_context("spawn")
    if len(names) > FEW:
        compile_ahead(spawn)
    paged = spawn.Queue()
    plain = spawn.Queue()
    results = spawn.Queue()
    count = [0, 0, 0]
    seconds = {}
    for queue, mine in ((paged, drives), (plain, set(names) - drives)):
        for item in [*(n for n in names if n in mine), None]:
            queue.put(item)
    workers = [spawn.Process(target=work, args=([paged, plain], results))] + (
        [spawn.Process(target=work, args=([plain], results))]
        if drives and len(names) > len(drives)
        else []
    )
    for w in workers:
        w.start()
    left, open_names = len(workers), set(names)
    while left:
        try:
            answer = results.get(timeout=5)
        except Exception:
            if any(not w.is_alive() and w.exitcode for w in workers) and results.empty():
                break  # a process died: what it had not told counts as failed, below
            continue
        if answer is None:
            left -= 1
            continue
        name, text, took, counts = answer
        open_names.discard(name)
        print(text, end="", flush=True)
        seconds |= took
        count = [a + b for a, b in zip(count, counts)]
    for w in workers:
        w.terminate() if left else w.join()
    for name in open_names:
        print(f"tests/test_{name}.py gave no answer: its process ended")
        count[1] += 1
    files: dict[str, float] = {}
    for name, took in seconds.items():
        file = ".".join(name.split(".")[:2])
        files[file] = files.get(file, 0) + took
    for slow in (files, seconds):
        for name, took in sorted(slow.items(), key=lambda x: -x[1])[:25]:
            print(f"{took:6.1f} s  {name}")
    print("{} passed, {} failed, {} skipped".format(*count), flush=True)
    return 1 if count[1] or not sum(count) else 0
