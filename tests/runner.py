"""Runs tests and closes with the plain line that CI reads.

Each file names its tier: `TIER = "fast"` (core and small parts: seconds), `"whole"` (all else that
needs no page) or `"page"` (drives the page in a browser). `./sow test` runs all of them,
`./sow test fast` the first tier with the whole journey, `./sow test NAME ...` the named files.

Two processes take files from one queue, those that took longest first (`times.json` keeps what
each took). Each process has a server and a browser of its own when a file first asks for one.
"""

import ast
import io
import json
import multiprocessing
import os
import time
import unittest
from pathlib import Path

from sow import warm

HERE = Path(__file__).parent
KEPT = HERE.parents[0] / ".tmp"
TIMES = HERE / "times.json"
TIERS = ("fast", "whole", "page")
SMOKE = ("journey",)  # files of another tier that the fast one runs too
FEW = 6  # files for which compiling everything ahead is not worth its time
UNKNOWN_S = 30.0
PROCESSES = 2
SLOWEST = 10


class Told(unittest.TextTestResult):
    """What each test took besides how it ended."""

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


def tier_of(name: str) -> str:
    """The tier that a file names, read without running it. Raises ValueError where none is."""
    file = HERE / f"test_{name}.py"
    if not file.exists():
        return TIERS[-1]  # told when it is run
    for node in ast.parse(file.read_text()).body:
        match node:
            case ast.Assign([ast.Name("TIER")], ast.Constant(str(tier))) if tier in TIERS:
                return tier
    raise ValueError(f"{file.name} names no tier: TIER = one of {', '.join(TIERS)}")


def names_of(asked: list[str]) -> list[str]:
    """The files that are asked for, by the words after `./sow test`."""
    every = sorted(p.stem.removeprefix("test_") for p in HERE.glob("test_*.py"))
    if not asked:
        return every
    if asked == ["fast"]:
        return [name for name in every if tier_of(name) == "fast" or name in SMOKE]
    return asked


def times() -> dict[str, float]:
    """Seconds that each file took last, by name."""
    try:
        return json.loads(TIMES.read_text())
    except (OSError, ValueError):
        return {}


def keep_times(took: dict[str, float]) -> None:
    """Keeps what files took, for the next run's order; small changes are not written."""
    before = times()
    now = dict(before)
    for name, seconds in took.items():
        if abs(seconds - before.get(name, -1e9)) > 0.25 * seconds + 1:
            now[name] = round(seconds, 1)
    merged = dict(sorted(now.items()))
    if merged != before:
        TIMES.write_text(json.dumps(merged, indent=1) + "\n")


def one(name: str) -> tuple:
    """Runs one file.

    Gives what it printed, seconds of each test, how many passed, failed, were skipped, and the
    seconds of the file.
    """
    began = time.monotonic()
    told = io.StringIO()
    suite = unittest.defaultTestLoader.loadTestsFromName(f"tests.test_{name}")
    r = unittest.TextTestRunner(told, resultclass=Told, verbosity=2).run(suite)
    failed = len(r.failures) + len(r.errors) + len(r.unexpectedSuccesses)
    counts = (r.passed + len(r.expectedFailures), failed if r.testsRun else failed + 1)
    return (
        told.getvalue(),
        r.seconds,
        (*counts, len(r.skipped)),
        time.monotonic() - began,
    )


def work(queue, results) -> None:
    """One process: takes files from the queue until there is none left."""
    while (name := queue.get()) is not None:
        try:
            results.put((name, *one(name)))
        except BaseException as e:  # a file that cannot be loaded fails, and the next is run
            results.put((name, f"{name}: {e!r}\n", {}, (0, 1, 0), 0.0))
    queue.put(None)  # for the other process
    from tests import served

    served.end()
    results.put(None)


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


def shared_folders() -> None:
    """What recipes make is kept for every process of the tests and for the next run: it stands
    under the version of the code.
    """
    if "SOW_CACHE" not in os.environ:
        folder = KEPT / "cabinet"
        folder.mkdir(parents=True, exist_ok=True)
        os.environ["SOW_CACHE"] = str(folder)
    # threads that wait leave the processor to the other process
    os.environ.setdefault("OMP_WAIT_POLICY", "PASSIVE")


def answers(spawn, names: list[str]):
    """Each file's answer as it comes; what a process that died had not told counts as failed."""
    queue = spawn.Queue()
    results = spawn.Queue()
    for item in [*names, None]:
        queue.put(item)
    count = min(PROCESSES, len(names))
    workers = [spawn.Process(target=work, args=(queue, results)) for _ in range(count)]
    for w in workers:
        w.start()
    left = len(workers)
    missing = set(names)
    while left:
        try:
            answer = results.get(timeout=5)
        except Exception:
            if any(not w.is_alive() and w.exitcode for w in workers) and results.empty():
                break
            continue
        if answer is None:
            left -= 1
            continue
        missing.discard(answer[0])
        yield answer
    for w in workers:
        w.terminate() if left else w.join()
    for name in missing:
        yield name, f"tests/test_{name}.py gave no answer: its process ended\n", {}, (0, 1, 0), 0.0


def main(asked: list[str]) -> int:
    """Runs what is asked for; gives the exit status."""
    began = time.monotonic()
    if asked == ["fuzz"]:
        os.environ.setdefault("SOW_FUZZ_SECONDS", "900")  # asked for by itself it goes on
    try:
        names = names_of(asked)
    except ValueError as e:
        print(e)
        return 1
    before = times()
    names.sort(key=lambda name: -before.get(name, UNKNOWN_S))
    shared_folders()
    spawn = multiprocessing.get_context("spawn")
    if len(names) > FEW:
        compile_ahead(spawn)
    count = [0, 0, 0]
    seconds: dict[str, float] = {}
    files: dict[str, float] = {}
    for name, text, took, counts, whole in answers(spawn, names):
        print(text, end="", flush=True)
        seconds |= took
        files[name] = whole
        count = [a + b for a, b in zip(count, counts)]
    keep_times({name: s for name, s in files.items() if s})
    for slow in (files, seconds):
        for name, took in sorted(slow.items(), key=lambda x: -x[1])[:SLOWEST]:
            print(f"{took:6.1f} s  {name}")
    print(f"{time.monotonic() - began:.0f} s in all")
    print("{} passed, {} failed, {} skipped".format(*count), flush=True)
    return 1 if count[1] or not sum(count) else 0
