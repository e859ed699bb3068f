"""Sow on a data folder: its database cluster and its server, started and stopped."""

import contextlib
import hashlib
import json
import os
import secrets
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from .core.settings import settings
from .store.cluster import Cluster, ClusterError, free_port, living, write_whole
from .store.shared import MIX, PART

ROOT = Path(__file__).resolve().parents[2]
SAMPLES = ROOT / "samples"
FIRST = "brackenhope"  # of them, to be opened first


def data_folder() -> Path:
    """SOW_DATA, or a folder for this checkout where PostgreSQL's user can reach it."""
    if named := settings().data:
        return named
    name = f"{ROOT.name}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]}"
    if os.geteuid() == 0:
        return Path("/var/lib/sow") / name
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "sow" / name


class Server:
    """The server on a data folder: one process with threads, since builds share their cache and
    their cores.
    """

    def __init__(self, folder: Path):
        self.folder, self.file = folder, folder / "server.json"
        self.cluster = Cluster(folder)

    def state(self) -> dict:
        """Port and process of the server that was started last; empty where there is none."""
        try:
            found = json.loads(self.file.read_text())
            return found if isinstance(found, dict) else {}
        except (OSError, ValueError):
            return {}

    @property
    def address(self) -> str:
        """Where the server answers."""
        return f"http://127.0.0.1:{self.state().get('port')}"

    @property
    def key(self) -> str:
        """What opens the page: made once, and kept where its owner alone reads it."""
        file = self.folder / "key"
        try:
            found = file.read_text().strip()
        except OSError:
            found = ""
        if len(found) < 20:
            found = secrets.token_urlsafe(24)
            write_whole(file, found)
        return found

    @property
    def opening(self) -> str:
        """The address that opens the page."""
        return f"{self.address}/?key={self.key}"

    def ask(self, path: str, body: dict | None = None, timeout=10):
        """A JSON answer; with a body the request is a POST. Raises OSError when nobody answers."""
        data = None if body is None else json.dumps(body).encode()
        headers = {"Authorization": f"Bearer {self.key}", "Content-Type": "application/json"}
        request = urllib.request.Request(self.address + path, data, headers)
        with urllib.request.urlopen(request, timeout=timeout) as answer:
            return json.loads(answer.read())

    def alive(self) -> bool:
        """Whether this folder's server answers; another one at the same port is not it, not even
        that of the folder which this one was copied from.
        """
        pid = self.state().get("pid")
        try:
            return self._serves(pid) and self.ask("/api/health", timeout=3)["pid"] == pid
        except (OSError, ValueError, KeyError):
            return False

    def _serves(self, pid: object) -> bool:
        """Whether a process is a server of this data folder."""
        place = Path(f"/proc/{pid}")
        try:
            mark = f"SOW_FOLDER={self.folder}".encode()
            return (
                b"sow.web.serve" in (place / "cmdline").read_bytes()
                and mark in (place / "environ").read_bytes().split(b"\0")
                and living(int(place.name))
            )
        except (OSError, ValueError):
            return False  # it has ended, or is another user's

    def _takes_key(self) -> bool:
        """Whether the server that runs was started with the key that is kept."""
        try:
            return bool(self.ask("/api/catalogue"))
        except OSError:
            return False

    def start(self, wait_s: float = 60, host: str = "127.0.0.1", password_hash: str = "") -> str:
        """Starts database and server and waits until they answer; gives the address.

        Args:
            wait_s: how long it may take, s.
            host: where it listens; beyond the loopback a password's hash is needed.
            password_hash: of what strangers must give.

        Raises ClusterError.
        """
        url = self.cluster.start()
        if self.alive() and self._takes_key() and self.state().get("host") == host:
            return self.address
        self._end()
        port = free_port(settings().port or self.state().get("port") or 8420)
        environment = self._environment() | {
            "SOW_DATABASE": url,
            "SOW_PORT_NOW": str(port),
            "SOW_HOST_NOW": host,
            "SOW_FOLDER": str(self.folder),
            "SOW_KEY": self.key,
            "SOW_PASSWORD_HASH": password_hash,
        }
        log = open(self.folder / "server.log", "ab", opener=lambda p, f: os.open(p, f, 0o600))
        process = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "gunicorn",
                "-c",
                "python:sow.web.serve",
                "--no-control-socket",
                "sow.web.serve:app",
            ],
            cwd=ROOT,
            env=environment,
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
        )
        write_whole(self.file, json.dumps({"port": port, "pid": process.pid, "host": host}))
        end = time.monotonic() + wait_s
        while time.monotonic() < end:
            if self.alive():
                return self.address
            if process.poll() is not None:
                break
            time.sleep(0.1)
        tail = (self.folder / "server.log").read_bytes()[-1500:].decode(errors="replace")
        raise ClusterError(
            f"The server did not come up. The end of {self.folder / 'server.log'}:\n{tail}"
        )

    def _environment(self) -> dict[str, str]:
        cache = str(settings().cache or self.folder / "cabinet")
        own = {"PYTHONPATH": str(ROOT / "src"), "SOW_CACHE": cache}
        # two arenas: with one for each thread, what is freed in one is not had by another
        return {"MALLOC_ARENA_MAX": "2"} | os.environ | own

    def _running(self) -> list[int]:
        """Process groups of the servers of this data folder: one that no file tells of any more
        too, and one whose first process was killed.
        """
        found = set()
        for place in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError):  # it has ended meanwhile
                if self._serves(int(place.name)):
                    found.add(os.getpgid(int(place.name)))
        return sorted(found)

    def _end(self, sign=signal.SIGTERM) -> None:
        """Ends the servers of this data folder, each with its whole process group."""
        for group in self._running():
            with contextlib.suppress(OSError):  # it has ended meanwhile
                os.killpg(group, sign)
                for _ in range(80):
                    if group not in self._running():
                        break
                    time.sleep(0.1)
                else:
                    os.killpg(group, signal.SIGKILL)

    def kill(self) -> None:
        """Ends the server at once, as a crash would."""
        self._end(signal.SIGKILL)

    def stop(self) -> None:
        """Stops server and database."""
        self._end()
        self.cluster.stop()

    def load_samples(self) -> None:
        """Each sample once: one that was loaded and then edited or deleted is not touched again."""
        done = self.folder / "samples.json"
        try:
            loaded = [str(name) for name in json.loads(done.read_text())]
        except (OSError, ValueError, TypeError):
            # the list is lost: what has a sample's name counts as loaded
            loaded = []
        here = {line["name"] for line in self.ask("/api/scenes")} if not loaded else set()
        # the page opens the newest: the first of the samples comes last
        for file in sorted(SAMPLES.glob("*.json"), key=lambda f: (f.stem == FIRST, f.stem)):
            if file.stem in loaded:
                continue
            document = json.loads(file.read_text())
            if document["name"] not in here:
                self.ask("/api/scenes", {"document": document})
            loaded.append(file.stem)
            write_whole(done, json.dumps(loaded))

    def beside(self) -> dict[str, Path]:
        """What belongs to a backup though it lies outside the database, by its name in it."""
        shared = Path(settings().shared or self.folder / "shared")
        kept = [p for ending in (MIX, PART) for p in sorted(shared.glob(f"*{ending}"))]
        found = {f"shared/{p.name}": p for p in kept}
        samples = self.folder / "samples.json"
        return found | ({"samples.json": samples} if samples.exists() else {})

    def take_beside(self, name: str, data: bytes) -> None:
        """Puts one of those back; one that is there already is left as it is."""
        parts = Path(name).parts
        if len(parts) > 2 or ".." in parts or Path(name).is_absolute():
            return
        target = self.folder / name
        target.parent.mkdir(parents=True, exist_ok=True)
        if not target.exists():
            write_whole(target, data)

    def draw_ahead(self) -> None:
        """Begins to compile kernels and to draw the pictures of the cabinet beside the server,
        giving way to all else; what is kept already is passed over.
        """
        subprocess.Popen(
            ["nice", "-n", "19", sys.executable, "-m", "sow.warm"],
            cwd=ROOT,
            env=self._environment() | {"NUMBA_NUM_THREADS": "1"},
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
