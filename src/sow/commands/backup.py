"""Write all that is kept to one file, while Sow runs."""

import argparse
from pathlib import Path

from ..run import Server
from ..store.backup import write_backup
from ..store.models import database
from ..store.scenes import open_store
from ._server import counted, with_server


def arguments(parser: argparse.ArgumentParser) -> None:
    """The file."""
    parser.add_argument("file", type=Path)


def run(args: argparse.Namespace) -> int:
    """Writes the file and reads it back."""
    return with_server(lambda server: _backup(server, args.file))


def _backup(server: Server, file: Path) -> None:
    open_store(server.cluster.start())
    with database.connection_context():
        told = write_backup(file, server.beside())
    rows = counted(told.rows)
    print(f"{file}: {told.bytes:,} bytes, read back whole: {rows}")
