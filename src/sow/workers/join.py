"""Other machines join: a scheduler that hands out tasks, and workers that do them."""

import asyncio
import logging

from distributed import Nanny, Scheduler

from ..core.errors import SceneError

PORT = 8786


async def _schedules(port: int) -> None:
    async with Scheduler(host="0.0.0.0", port=port, dashboard=False) as scheduler:
        print(
            f"Workers are handed tasks at {scheduler.address}: start Sow with SOW_SCHEDULER set to "
            f"it, and ./sow worker {scheduler.address} on each machine.",
            flush=True,
        )
        await scheduler.finished()


async def _works(address: str) -> None:
    try:
        async with Nanny(address, nthreads=1, memory_limit=None) as nanny:
            print(f"Works for {address}.", flush=True)
            await nanny.finished()
    except (OSError, TimeoutError, ValueError):
        raise SceneError(
            f"The scheduler {address} does not answer.",
            "address",
            "Start one with ./sow scheduler and give the address that it prints.",
        ) from None


def schedule(port: int = PORT) -> None:
    """Hands out tasks until it is ended. It listens on every address of this machine and lets in
    whoever knows it: run it in a network that is trusted.
    """
    asyncio.run(_schedules(port))


def work(address: str) -> None:
    """Does tasks of a scheduler until that is ended. Raises SceneError where it does not answer."""
    logging.getLogger("distributed").setLevel(logging.ERROR)
    asyncio.run(_works(address))
