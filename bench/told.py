"""Times and the rows in which they are told."""

import statistics
import time

from numba import njit, prange

ROUNDS = 5


def median(work, rounds=ROUNDS) -> float:
    work()
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def pair(ours, theirs, rounds=5) -> tuple[float, float]:
    """Medians of two works taken in turn, so that both meet the machine in the same mood."""
    ours(), theirs()
    mine, other = [], []
    for _ in range(rounds):
        for work, times in ((ours, mine), (theirs, other)):
            start = time.perf_counter()
            work()
            times.append(time.perf_counter() - start)
    return statistics.median(mine), statistics.median(other)


def row(name, seconds, against=None, other=None, unit="times faster"):
    return {
        "name": name,
        "seconds": round(seconds, 6),
        "against": against,
        "ratio": None if other is None else round(other / seconds, 3),
        "unit": unit,
    }


@njit(parallel=True, cache=True)
def copied(a, b):
    for r in prange(a.shape[0]):
        for c in range(a.shape[1]):
            b[r, c] = a[r, c]


def wanted(name: str, seconds: float, most: float) -> dict:
    """A row beside what is wanted of it, s."""
    return {
        "name": name,
        "seconds": round(seconds, 3),
        "against": f"{most} s wanted",
        "ratio": round(most / max(seconds, 1e-3), 2),
        "unit": "times faster",
    }


def counted(told: str) -> dict:
    """A row that tells counts, not seconds."""
    return {"name": told, "seconds": 0.0, "against": None, "ratio": None, "unit": ""}
