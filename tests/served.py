"""A server and a database cluster of the tests' own, in a folder of their own."""

import atexit
import json
import os
import shutil
import tempfile
import urllib.error
import urllib.request
import uuid
from pathlib import Path

from sow.run import Server
from sow.store.cluster import free_port

_server: Server | None = None


def server() -> Server:
    """Started once for all tests, stopped and deleted at the end.

    It never touches the user's data.
    """
    global _server
    if _server is None:
        folder = Path(tempfile.mkdtemp(prefix="sow-test-"))
        folder.chmod(0o755)
        os.environ["SOW_PORT"] = str(free_port())  # two test processes must not wish for the same
        _server = Server(folder)
        atexit.register(end)
        _server.start(180)
    return _server


def end() -> None:
    global _server
    if _server is not None:
        _server.stop()
        shutil.rmtree(_server.folder, ignore_errors=True)
        _server = None


def ask(method: str, path: str, body=None, headers: dict | None = None, timeout: float = 240):
    """Status and answer (JSON where it is) of a request."""
    data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
    kind = "application/octet-stream" if isinstance(body, bytes) else "application/json"
    own = {"Authorization": f"Bearer {server().key}", "Content-Type": kind}
    request = urllib.request.Request(
        server().address + path, data, own | (headers or {}), method=method
    )
    try:
        with urllib.request.urlopen(request, timeout=timeout) as answer:
            raw = answer.read()
            status = answer.status
            kind = answer.headers["Content-Type"]
    except urllib.error.HTTPError as e:
        raw = e.read()
        status = e.code
        kind = e.headers["Content-Type"]
    return status, json.loads(raw) if "json" in (kind or "") else raw


def send_files(path: str, *files: tuple[str, bytes]):
    """Status and answer of files sent as a form, each a name and its bytes."""
    mark = uuid.uuid4().hex
    head = f'--{mark}\r\nContent-Disposition: form-data; name="auto"; filename='
    parts = [f'{head}"{name}"\r\n\r\n'.encode() + data + b"\r\n" for name, data in files]
    body = b"".join(parts) + f"--{mark}--\r\n".encode()
    return ask("POST", path, body, {"Content-Type": f"multipart/form-data; boundary={mark}"})
