"""The first use of each landform and process after a fresh install, beside its second: in a process
of its own that begins as the server does, on a cache of kernels that was filled as it is beside the
first start.
"""

import json
import os
import subprocess
import sys
import tempfile

AHEAD = "from sow import warm; warm.compile_kernels()"

TIMED = """
import contextlib, json, time
from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.land.base import landforms, processes
from sow.warm import read_kernels, trial
read_kernels()
Build(trial(), trial().plot.grid(257), Cache()).heights
found = {}
for kind in [*landforms.models, *processes.models]:
    with contextlib.suppress(SceneError):
        took = []
        for _ in range(2):
            scene = trial({"id": "one", "name": "One", "kind": kind})
            began = time.perf_counter()
            Build(scene, scene.plot.grid(257), Cache()).heights
            took.append(time.perf_counter() - began)
        found[kind] = took
print(json.dumps(found))
"""


def _run(code: str, cache: str) -> str:
    env = {**os.environ, "NUMBA_CACHE_DIR": cache, "SOW_CACHE": cache}
    done = subprocess.run(
        [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
    )
    return done.stdout


def first_use():
    """The kind whose first use is slowest beside its second, and the mean of all."""
    with tempfile.TemporaryDirectory() as cache:
        _run(AHEAD, cache)
        took = json.loads(_run(TIMED, cache))
    worst = max(took, key=lambda kind: took[kind][0] / took[kind][1])
    for name, pairs in ((f"first use of {worst}", [took[worst]]), ("of all", took.values())):
        first = sum(pair[0] for pair in pairs)
        second = sum(pair[1] for pair in pairs)
        yield {
            "name": name,
            "seconds": round(first, 4),
            "against": "its second",
            "ratio": round(first / second, 2),
            "unit": "times as long",
        }
