"""Starts and stops Sow: the database cluster, the server, the demo."""

import hashlib
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from .store.cluster import Cluster, ClusterError, free_port

ROOT = Path(__file__).resolve().parents[2]
SAMPLES = ROOT / "samples"


def data_folder() -> Path:
    """SOW_DATA, or a folder for this checkout where PostgreSQL's user can reach it."""
    if os.environ.get("SOW_DATA"):
        return Path(os.environ["SOW_DATA"])
    name = f"{ROOT.name}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:8]}"
    if os.geteuid() == 0:
        return Path("/var/lib/sow") / name
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share") / "sow" / name


class Server:
    """gunicorn on a data folder: one process with threads, since builds share their cache and their
    cores.
    """

    def __init__(self, folder: Path):
        self.folder, self.file = folder, folder / "server.json"
        self.cluster = Cluster(folder)

    def state(self) -> dict:
        """Port and process of the server that was started last; empty where there is none."""
        try:
            return json.loads(self.file.read_text())
        except (OSError, ValueError):
            return {}

    @property
    def address(self) -> str:
        """Where the server answers."""
        return f"http://127.0.0.1:{self.state().get('port')}"

    def ask(self, path: str, body: dict | None = None, timeout=10):
        """A JSON answer; with a body the request is a POST. Raises OSError when nobody answers."""
        data = None if body is None else json.dumps(body).encode()
        with urllib.request.urlopen(
            urllib.request.Request(self.address + path, data), timeout=timeout
        ) as answer:
            return json.loads(answer.read())

    def alive(self) -> bool:
        """Whether this server answers; another one at the same port is not it."""
        try:
            return bool(self.state().get("port")) and self.ask("/api/health", timeout=3)[
                "pid"
            ] == self.state().get("pid")
        except (OSError, ValueError, KeyError):
            return False

    def start(self, wait_s: float = 60) -> str:
        """Starts database and server and waits until they answer; gives the address. Raises
        ClusterError.
        """
        url = self.cluster.start()
        if self.alive():
            return self.address
        self._end()
        port = free_port(int(os.environ.get("SOW_PORT", 0)) or self.state().get("port") or 8420)
        environment = self._environment() | {"SOW_DATABASE": url, "SOW_PORT_NOW": str(port)}
        log = open(self.folder / "server.log", "ab")
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
        part = self.file.with_suffix(".part")
        part.write_text(json.dumps({"port": port, "pid": process.pid}))
        part.replace(self.file)
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
        cache = os.environ.get("SOW_CACHE") or str(self.folder / "cabinet")
        return os.environ | {"PYTHONPATH": str(ROOT / "src"), "SOW_CACHE": cache}

    def _end(self, sign=signal.SIGTERM) -> None:
        """Ends the server's whole process group, when its number still belongs to one of ours."""
        pid = self.state().get("pid")
        try:
            if not pid or b"sow.web.serve" not in Path(f"/proc/{pid}/cmdline").read_bytes():
                return
            os.killpg(pid, sign)
            for _ in range(80):
                if (
                    not Path(f"/proc/{pid}").exists()
                    or "Z" in Path(f"/proc/{pid}/stat").read_text().split(")")[1][:3]
                ):
                    return
                time.sleep(0.1)
            os.killpg(pid, signal.SIGKILL)
        except (OSError, IndexError):
            pass

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
        loaded = json.loads(done.read_text()) if done.exists() else []
        for file in sorted(SAMPLES.glob("*.json")):
            if file.stem not in loaded:
                self.ask("/api/scenes", {"document": json.loads(file.read_text())})
                loaded.append(file.stem)
                done.write_text(json.dumps(loaded))

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


def main(command: str) -> int:
    """Runs demo, start or stop; gives the exit status."""
    server = Server(data_folder())
    try:
        if command == "stop":
            server.stop()
            print("Sow is stopped.")
            return 0
        server.start()
        if command == "demo":
            server.load_samples()
            server.draw_ahead()
        for line in server.ask("/api/catalogue")["left_out"]:
            print(f"sow: {line['file']} was left out: {line['message']}", file=sys.stderr)
        print(f"Sow is at {server.address}/   (data in {server.folder}; stop with ./sow stop)")
        return 0
    except (ClusterError, urllib.error.URLError) as e:
        print(f"sow: {e}", file=sys.stderr)
        return 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
