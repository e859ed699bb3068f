"""Who may ask this server, and what every answer says to a browser.

Only the page that was opened by the printed address may: that address holds a key, opening it sets
the key in a cookie that no script reads and no other site sends along. Scripts on the same machine
send it as `Authorization: Bearer KEY`; it lies in the data folder, where its owner alone reads it.
"""

import hmac
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import parse_qsl, urlencode

from werkzeug.security import check_password_hash

LOOPBACK = ("127.0.0.1", "localhost", "::1")
SAFE = ("GET", "HEAD")
OPEN = ("/api/health",)  # answered to everybody: whether the server is up, and no more
POLICY = {
    "Content-Security-Policy": (
        "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; "
        "media-src 'self'; "
        "img-src 'self' blob: data:; font-src 'self'; connect-src 'self' blob: data:; "
        "worker-src 'self' blob:; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    ),
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Referrer-Policy": "no-referrer",
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
}
FORMS = ("application/x-www-form-urlencoded", "text/plain")  # what a page may send without asking
SLOWEST_S = 30.0


@dataclass
class Refusal:
    """Why a request is not taken: status, title, detail and advice."""

    status: int
    title: str
    detail: str
    advice: str


@dataclass
class Caller:
    """What the guard looks at of a request; header names in lower case."""

    method: str
    path: str
    headers: dict[str, str]

    def cookie(self, name: str) -> str:
        """The value of a cookie, or nothing."""
        for part in self.headers.get("cookie", "").split(";"):
            key, _, value = part.strip().partition("=")
            if key == name:
                return value
        return ""

    @property
    def host(self) -> str:
        """The host that was asked for, without its port."""
        return self.headers.get("host", "").rsplit(":", 1)[0].strip("[]").lower()


@dataclass
class Guard:
    """What is asked of everybody.

    Args:
        key: what the printed address holds; empty takes requests of anybody (for tests of parts).
        hosts: further names by which the server may be asked.
        remote: whether it is reached from other machines, by any name.
        password_hash: of the password that such machines give.
    """

    key: str
    hosts: tuple[str, ...] = ()
    remote: bool = False
    password_hash: str = ""
    tries: "Tries" = field(default_factory=lambda: Tries())

    def cookie_name(self, asked: Caller) -> str:
        """Servers at two ports of one machine share their cookies; each has its own by name."""
        port = asked.headers.get("host", "").rpartition(":")[2]
        return f"sow-{port}" if port.isdigit() else "sow"

    def knows(self, asked: Caller) -> bool:
        """Whether a request brings the key."""
        if not self.key:
            return True
        given = asked.cookie(self.cookie_name(asked))
        word, _, bearer = asked.headers.get("authorization", "").partition(" ")
        if word.lower() == "bearer":
            given = bearer.strip()
        return hmac.compare_digest(given.encode(), self.key.encode())

    def refusal(self, asked: Caller) -> Refusal | None:
        """Why a request to the API is not taken, or None."""
        if not self.remote and asked.host not in LOOPBACK and asked.host not in self.hosts:
            return Refusal(
                403,
                "Another host",
                f"This server does not answer as “{asked.host}”.",
                "Open it by its loopback address.",
            )
        origin = asked.headers.get("origin")
        own = asked.headers.get("host", "")
        if origin is not None and origin not in (f"http://{own}", f"https://{own}"):
            return Refusal(
                403,
                "Another origin",
                f"A page from {origin} may not use this server.",
                "Open Sow's own page.",
            )
        if asked.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return Refusal(
                403,
                "Another site",
                "A page of another site may not use this server.",
                "Open Sow's own page.",
            )
        if asked.path in OPEN:
            return None
        if not self.knows(asked):
            return Refusal(
                401,
                "Not opened by its address",
                "This browser has not opened Sow by the address that ./sow start prints.",
                "Open that address, with its key; ./sow address prints it again.",
            )
        sent = asked.headers.get("content-type", "").partition(";")[0].strip().lower()
        if asked.method not in SAFE and sent in FORMS:
            return Refusal(
                415,
                "Another kind of content",
                f"“{sent}” is not taken here.",
                "Send JSON as application/json and files as application/octet-stream.",
            )
        return None

    def entered(self, query: str) -> str | None:
        """Where an address with the right key leads: the same without it; None without a key."""
        given = dict(parse_qsl(query, keep_blank_values=True))
        key = given.pop("key", None)
        if key is None or not self.key or not hmac.compare_digest(key.encode(), self.key.encode()):
            return None
        return f"/?{urlencode(given)}" if given else "/"

    def password_is_right(self, password: str) -> bool:
        """Whether a password is the one that was set; raises Slowed when too many were wrong."""
        self.tries.wait_for_turn()
        right = bool(self.password_hash) and check_password_hash(self.password_hash, password)
        self.tries.count(right)
        return right


class Slowed(Exception):
    """Too many wrong passwords came; the number is of the seconds to wait."""


class Tries:
    """Wrong passwords: after three, each doubles the time until the next is looked at."""

    def __init__(self, now: Callable[[], float] = time.monotonic) -> None:
        self.now = now
        self.wrong = 0
        self.not_before = 0.0
        self.lock = threading.Lock()

    def wait_for_turn(self) -> None:
        """Raises Slowed while the time since the last wrong one is not over."""
        with self.lock:
            left = self.not_before - self.now()
            if left > 0:
                raise Slowed(left)

    def count(self, right: bool) -> None:
        """Takes note of one that was looked at."""
        with self.lock:
            self.wrong = 0 if right else self.wrong + 1
            if self.wrong >= 3:
                self.not_before = self.now() + min(2.0 ** (self.wrong - 3), SLOWEST_S)
