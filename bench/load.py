"""What the server bears: open channels, idle connections, many builds, backups, hostile files."""

import copy
import io
import json
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
import zipfile
from pathlib import Path

from bench.told import wanted

CHANNELS, IDLE = 200, 1000
BUILDS = 60
REVISIONS = 10_000
PROMISED_MB = 3000  # caches of 1,000 and 500 MB, what a build works with, and the libraries


def _health(times: int) -> float:
    """The slowest of some answers of /api/health, s."""
    from tests.served import ask

    slowest = 0.0
    for _ in range(times):
        began = time.perf_counter()
        ask("GET", "/api/health")
        slowest = max(slowest, time.perf_counter() - began)
        time.sleep(0.02)
    return slowest


def _crowd() -> list[socket.socket]:
    from tests.served import server

    host, port = server().address.removeprefix("http://").split(":")
    channel = (
        f"GET /api/events HTTP/1.1\r\nHost: {host}:{port}\r\n"
        f"Authorization: Bearer {server().key}\r\n\r\n"
    ).encode()
    half = (
        f"POST /api/rasters HTTP/1.1\r\nHost: {host}:{port}\r\n"
        f"Authorization: Bearer {server().key}\r\nContent-Length: 900000\r\n\r\nII"
    ).encode()
    kinds = (b"", b"GET / HT", half, b"POST /api/rasters HTTP/1.1\r\nContent-Le")
    held = []
    for data in [channel] * CHANNELS + [kinds[k % 4] for k in range(IDLE)]:
        s = socket.create_connection((host, int(port)))
        s.sendall(data)
        held.append(s)
    return held


def _memory_mb() -> float:
    """The most that the server's worker has held, MB."""
    from tests.served import server

    master = server().state()["pid"]
    children = Path(f"/proc/{master}/task/{master}/children").read_text().split()
    peaks = []
    for pid in children:
        status = Path(f"/proc/{pid}/status").read_text()
        peaks.append(int(status.partition("VmHWM:")[2].split()[0]) / 1024)
    return max(peaks)


def load():
    """Channels, idle connections, sixty builds, a backup of ten thousand revisions."""
    from tests.served import server

    server()
    alone = _health(20)
    crowd = _crowd()
    try:
        time.sleep(1)
        yield wanted(
            f"/api/health beside {CHANNELS} channels and {IDLE} idle connections", _health(20), 1
        )
        yield wanted("/api/health alone", alone, 1)
    finally:
        for s in crowd:
            s.close()
    yield from _builds()
    yield from _hostile()
    yield from _backup()


def _builds():
    from tests.served import ask

    document = json.loads(Path("samples/brackenhope.json").read_text())
    state = ask("POST", "/api/scenes", {"document": document})[1]
    for k in range(BUILDS):
        other = copy.deepcopy(document)
        other["land"][2]["seed"] = 1000 + k
        order = {"client": "load", "document": other}
        status, _ = ask("POST", f"/api/scenes/{state['id']}/builds", order)
        assert status == 200
    peak = _memory_mb()
    yield {
        "name": f"{BUILDS} distinct builds of the demo: {peak:,.0f} MB at most",
        "seconds": 0.0,
        "against": f"{PROMISED_MB} MB promised",
        "ratio": round(PROMISED_MB / peak, 2),
        "unit": "times less",
    }


def _hostile():
    from tests.served import ask

    slow = b"ncols 3000\nnrows 3000\ncellsize 1\n" + b"1.25 " * 9_000_000
    readers = [
        threading.Thread(target=ask, args=("POST", "/api/rasters", slow, {"X-Name": f"{k}.asc"}))
        for k in range(3)
    ]
    for r in readers:
        r.start()
    slowest = _health(40)
    for r in readers:
        r.join()
    yield wanted("/api/health while three files of 45 MB of text are read", slowest, 1)


def _backup():
    import psycopg2
    from tests.served import ask, server

    document = json.loads(Path("samples/brackenhope.json").read_text())
    state = ask("POST", "/api/scenes", {"document": document})[1]
    with psycopg2.connect(server().cluster.url) as link, link.cursor() as run:
        run.execute("SELECT max(id) FROM revision")
        top = run.fetchone()[0]
        run.execute(
            "INSERT INTO revision (id, scene_id, parent, label, note, document, made) "
            "SELECT %s + g, %s, CASE WHEN g = 1 THEN %s ELSE %s + g - 1 END, 'step', '', "
            "(SELECT document FROM revision WHERE id = %s), now() FROM generate_series(1, %s) g",
            (top, state["id"], state["revision"], top, state["revision"], REVISIONS),
        )
        number = "SELECT setval(pg_get_serial_sequence('revision', 'id'), %s)"
        run.execute(number, (top + REVISIONS,))
        run.execute(
            "UPDATE scene SET head = %s, tip = %s WHERE id = %s",
            (top + REVISIONS, top + REVISIONS, state["id"]),
        )
    with tempfile.TemporaryDirectory(prefix="sow-bench-") as folder:
        Path(folder).chmod(0o711)
        file = Path(folder) / "all.sow"
        for command, data, most in (
            ("backup", server().folder, 60),
            ("restore", Path(folder) / "data", 90),
        ):
            began = time.perf_counter()
            subprocess.run(
                [sys.executable, "-m", "sow", command, str(file)],
                env=os.environ | {"SOW_DATA": str(data)},
                check=True,
                stdout=subprocess.DEVNULL,
            )
            seconds = time.perf_counter() - began
            size = file.stat().st_size / 1e6
            yield wanted(f"{command} of {REVISIONS:,} revisions, {size:.1f} MB", seconds, most)
        from sow.run import Server

        other = Server(Path(folder) / "data")
        other.start(180)
        try:
            yield from _same_files(state["id"], other)
        finally:
            other.stop()


def _same_files(scene: int, other):
    """What both stores hand over of one scene, byte for byte."""
    from tests.served import ask

    here = ask("GET", f"/api/scenes/{scene}/scene.zip")[1]
    own = {"Authorization": f"Bearer {other.key}"}
    request = urllib.request.Request(f"{other.address}/api/scenes/{scene}/scene.zip", headers=own)
    with urllib.request.urlopen(request) as answer:
        there = answer.read()
    held = [zipfile.ZipFile(io.BytesIO(data)) for data in (here, there)]
    names = held[0].namelist()
    same = [held[0].read(n) == held[1].read(n) for n in names if n in held[1].namelist()]
    yield {
        "name": "the restored scene beside the one that was backed up",
        "seconds": 0.0,
        "against": "the same bytes",
        "ratio": sum(same) / len(names),
        "unit": "of them equal",
    }
