"""Bring a backup back into an empty data folder (SOW_DATA=...)."""

import argparse
from pathlib import Path

from ..run import Server
from ..store.backup import read_backup
from ..store.models import database
from ..store.scenes import open_store
from ._server import counted, with_server


def arguments(parser: argparse.ArgumentParser) -> None:
    """The file."""
    parser.add_argument("file", type=Path)


def run(args: argparse.Namespace) -> int:
    """Reads the file and says what was brought back."""
    return with_server(lambda server: _restore(server, args.file))


def _restore(server: Server, file: Path) -> None:
    open_store(server.cluster.start())
    with database.connection_context():
        told = read_backup(file, server.take_beside)
    rows = counted(told.rows)
    print(f"Restored into {server.folder}: {rows}. Start with ./sow start")
