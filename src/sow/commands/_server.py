"""What the commands share that start, stop or open the server."""

import errno
import os
import sys
import urllib.error
from collections.abc import Callable

from ..run import Server, data_folder
from ..store.backup import BackupError
from ..store.cluster import ClusterError


def with_server(work: Callable[[Server], None]) -> int:
    """Does something with the server of the data folder; what goes wrong is said in words."""
    os.umask(0o077)
    server = Server(data_folder())
    try:
        work(server)
        return 0
    except (ClusterError, BackupError, urllib.error.URLError) as e:
        print(f"sow: {e}", file=sys.stderr)
    except OSError as e:
        print(f"sow: {_in_words(e, server)}", file=sys.stderr)
    return 1


def counted(rows: dict[str, int]) -> str:
    """How many rows of each sort, in words."""
    told = (f"{n:,} {name}{'' if n == 1 else 's'}" for name, n in rows.items() if n)
    return ", ".join(told) or "nothing yet"


def _in_words(error: OSError, server: Server) -> str:
    place = error.filename or server.folder
    said = {
        errno.ENOSPC: "the disk is full. Free some room, then do it again.",
        errno.EDQUOT: "the disk is full for this user. Free some room, then do it again.",
        errno.EROFS: "the disk is read-only. Name another folder with SOW_DATA=/a/folder.",
        errno.EACCES: "this user may not write there. Name another folder with SOW_DATA=/a/folder.",
        errno.EPERM: "this user may not change it. Name another folder with SOW_DATA=/a/folder.",
    }
    return f"{place}: {said.get(error.errno or 0, str(error))} Nothing that was kept is harmed."
