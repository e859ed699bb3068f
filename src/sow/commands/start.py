"""Start the server and its database and print the address; beyond this machine it asks for a
password.
"""

import argparse
import getpass
import sys
from pathlib import Path

from werkzeug.security import generate_password_hash

from ..core.settings import settings
from ..run import Server
from ..store.cluster import ClusterError, write_whole
from ._server import with_server


def arguments(parser: argparse.ArgumentParser) -> None:
    """Where it listens."""
    parser.add_argument("--host", default="127.0.0.1", help="where it listens")


def run(args: argparse.Namespace) -> int:
    """Starts what is not running."""
    return with_server(lambda server: begin(server, args.host))


def begin(server: Server, host: str, samples: bool = False) -> None:
    """Starts the server, with the samples where they are wanted, and says where it is."""
    beyond = host not in ("127.0.0.1", "localhost")
    if beyond:
        server.start(host=host, password_hash=_password(server.folder))
    else:
        server.start()
    if samples:
        server.load_samples()
        server.draw_ahead()
    for line in server.ask("/api/catalogue")["left_out"]:
        print(f"sow: {line['file']} was left out: {line['message']}", file=sys.stderr)
    print(f"Sow is at {server.opening}   (data in {server.folder}; stop with ./sow stop)")
    if beyond:
        print(
            f"It listens at {host} too, and asks there for the password. What it says travels "
            "unciphered: put a proxy with TLS before it wherever others share the network."
        )


def _password(folder: Path) -> str:
    """The hash of the password for other machines: set by SOW_PASSWORD, or asked for once."""
    file = folder / "password"
    given = settings().password
    if not given and file.exists():
        return file.read_text().strip()
    if not given and sys.stdin.isatty():
        given = getpass.getpass("A password for those who open Sow from other machines: ")
    if len(given) < 8:
        raise ClusterError(
            "Beyond this machine Sow asks for a password of at least 8 characters. Set it with "
            "SOW_PASSWORD=… ./sow start --host ADDRESS (it is kept as a hash)."
        )
    folder.mkdir(parents=True, exist_ok=True)
    made = generate_password_hash(given)
    write_whole(file, made)
    return made
