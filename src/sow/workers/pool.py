"""Workers for frames, stills and tiles, by Dask: those of a scheduler that is named, or this
machine's.

`SOW_SCHEDULER` names a scheduler as tcp://HOST:8786; `SOW_WORKERS` is how many workers this machine
sets up where none is named.
"""

import contextlib
import logging
import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any

import dask
from distributed import Client, Future, LocalCluster, wait

from ..core.settings import settings
from ..core.version import version

ANSWERS_S = 8.0
LOOKS_EVERY_S = 0.5
MOST_ENDS = 50  # of workers within one task, before it is given up
AHEAD = 3  # tasks for each worker that are asked for before they are needed

dask.config.set({"distributed.scheduler.allowed-failures": MOST_ENDS})


class Pool:
    """Workers that do tasks until they are sent home. `told` says in words what was not as wished:
    a scheduler that did not answer. Each of this machine's workers has so many `threads`; unless
    told otherwise its part of the cores.
    """

    def __init__(
        self,
        scheduler: str = "",
        workers: int = 1,
        folder: Path | None = None,
        threads: int | None = None,
    ):
        logging.getLogger("distributed").setLevel(logging.ERROR)
        self.told = ""
        self.cluster: LocalCluster | None = None
        found = self._named(scheduler) if scheduler else None
        self.far = found is not None
        if found is None:
            count = max(1, workers)
            share = threads or max(1, (os.cpu_count() or 1) // count)
            self.cluster = LocalCluster(
                n_workers=count,
                threads_per_worker=1,
                processes=True,
                memory_limit=None,
                dashboard_address=None,
                local_directory=None if folder is None else str(folder),
                silence_logs=logging.CRITICAL,
                env={"NUMBA_NUM_THREADS": str(share)},  # in theirs, not in ours
            )
            found = Client(self.cluster)
        self.client: Client = found

    @staticmethod
    def of_this_machine(folder: Path | None = None) -> "Pool":
        """The pool that the environment names."""
        told = settings()
        return Pool(told.scheduler, told.workers, folder)

    def _named(self, scheduler: str) -> Client | None:
        try:
            client = Client(scheduler, timeout=ANSWERS_S)
            client.wait_for_workers(1, timeout=ANSWERS_S)
            others = sum(found != version() for found in client.run(version).values())
            if others:
                client.close(timeout=2)
                self.told = (
                    f"{others} of the workers of {scheduler} run another Sow than this one; "
                    "this machine works alone until they are brought up to date."
                )
                return None
            return client
        except (OSError, TimeoutError, ValueError, ModuleNotFoundError):
            self.told = f"The scheduler {scheduler} does not answer; this machine works alone."
            return None

    @property
    def workers(self) -> int:
        """How many there are now."""
        return max(1, len(self.client.nthreads()))

    def held(self, package: bytes) -> Future:
        """Bytes that many tasks ask for: there again where the worker that held them was lost."""
        return self.client.submit(bytes, package)

    def each(
        self,
        task: Callable[..., Any],
        given: Sequence[Any],
        wanted: Iterable[Any],
        check: Callable[[], None] = lambda: None,
    ) -> Iterator[tuple[Any, Any]]:
        """What `task(*given, k)` gives for each `k` wanted, with `k`, as they are done; the earlier
        ones are begun first. `check` is asked while they are waited for.
        """
        waiting = deque(enumerate(wanted))
        under_way: dict[Future, Any] = {}
        while waiting or under_way:
            while waiting and len(under_way) < AHEAD * self.workers:
                place, k = waiting.popleft()
                asked = self.client.submit(task, *given, k, pure=False, priority=-place)
                under_way[asked] = k
            for done in self._some(list(under_way), check):
                yield under_way.pop(done), done.result()

    def awaited(self, asked: Future, check: Callable[[], None] = lambda: None) -> Any:
        """What a task gives, waited for while `check` is asked."""
        while not self._some([asked], check):
            pass
        return asked.result()

    def in_order(
        self,
        task: Callable[..., Any],
        given: Sequence[Any],
        wanted: Iterable[Any],
        check: Callable[[], None],
    ) -> Iterator[Any]:
        """What `task(*given, k)` gives for each `k` wanted, in their order."""
        waiting = deque(wanted)
        line: deque[Future] = deque()
        while waiting or line:
            while waiting and len(line) < AHEAD * self.workers:
                line.append(self.client.submit(task, *given, waiting.popleft(), pure=False))
            first = line.popleft()
            while not self._some([first], check):
                pass
            yield first.result()

    def _some(self, futures: list[Future], check: Callable[[], None]) -> list[Future]:
        check()
        with contextlib.suppress(TimeoutError):
            wait(futures, timeout=LOOKS_EVERY_S, return_when="FIRST_COMPLETED")
        return [f for f in futures if f.done()]

    def go_home(self) -> None:
        """Ends the client, and the workers that were set up for it."""
        with contextlib.suppress(Exception):
            self.client.close(timeout=2)
        if self.cluster is not None:
            with contextlib.suppress(Exception):
                self.cluster.close(timeout=2)

    def __enter__(self) -> "Pool":
        return self

    def __exit__(self, *why: Any) -> None:
        self.go_home()
