"""Nobody gets in who has not opened the printed address; nobody keeps others from being served."""

import http.client
import json
import socket
import threading
import time
import unittest
import urllib.error
import urllib.request

from werkzeug.security import generate_password_hash

from sow.web.guard import Caller, Guard, Slowed, Tries
from tests.page import Page
from tests.served import ask, server
from tests.test_text import HARM

TIER = "page"

KEY = "k" * 32


def asked(path="/api/scenes", method="GET", **headers) -> Caller:
    given = {"host": "127.0.0.1:8420"} | {k.replace("_", "-"): v for k, v in headers.items()}
    return Caller(method, path, given)


class Rules(unittest.TestCase):
    guard = Guard(KEY)
    own = {"cookie": f"a=b; sow-8420={KEY}"}

    def status(self, guard=None, **more) -> int:
        refused = (guard or self.guard).refusal(asked(**more))
        return refused.status if refused else 200

    def test_the_key_comes_by_cookie_or_by_bearer(self):
        self.assertEqual(self.status(), 401)
        self.assertEqual(self.status(**self.own), 200)
        self.assertEqual(self.status(cookie=f"sow-9999={KEY}"), 401)  # of a server at another port
        self.assertEqual(self.status(cookie="sow-8420="), 401)
        self.assertEqual(self.status(authorization=f"Bearer {KEY}"), 200)
        self.assertEqual(self.status(authorization=f"Bearer {KEY}x"), 401)
        self.assertEqual(self.status(authorization=f"Basic {KEY}"), 401)
        self.assertEqual(self.status(path="/api/health"), 200)

    def test_other_sites_are_refused_even_with_the_key(self):
        for origin in ("http://evil.example", "null", "http://127.0.0.1:9999", "https://127.0.0.1"):
            self.assertEqual(self.status(origin=origin, **self.own), 403, origin)
        self.assertEqual(self.status(origin="http://127.0.0.1:8420", **self.own), 200)
        for site, status in (("cross-site", 403), ("same-site", 403), ("none", 200)):
            self.assertEqual(self.status(sec_fetch_site=site, **self.own), status)
        for host in ("evil.example:8420", "127.0.0.1.evil.example", "[::2]:8420"):
            self.assertEqual(self.status(host=host, **self.own), 403, host)
        named = Guard(KEY, hosts=("studio",))
        self.assertEqual(self.status(named, host="studio:1", cookie=f"sow-1={KEY}"), 200)

    def test_what_a_form_can_send_is_not_taken(self):
        for kind in ("text/plain", "application/x-www-form-urlencoded; charset=utf-8"):
            self.assertEqual(self.status(method="POST", content_type=kind, **self.own), 415)
            self.assertEqual(self.status(method="GET", content_type=kind, **self.own), 200)
        self.assertEqual(
            self.status(method="POST", content_type="application/json", **self.own), 200
        )

    def test_the_printed_address_leads_to_the_same_without_its_key(self):
        self.assertEqual(
            self.guard.entered(f"scene=3&key={KEY}&quality=soft"), "/?scene=3&quality=soft"
        )
        self.assertEqual(self.guard.entered(f"key={KEY}"), "/")
        for query in ("", "key=", "key=x", f"key={KEY}x"):
            self.assertIsNone(self.guard.entered(query))

    def test_wrong_passwords_are_slowed_and_right_ones_end_it(self):
        now = [0.0]
        guard = Guard(
            KEY, remote=True, password_hash=generate_password_hash("open sesame", "pbkdf2:sha256:9")
        )
        guard.tries = Tries(lambda: now[0])
        for _ in range(3):
            self.assertFalse(guard.password_is_right("wrong"))
        waited = []
        for _ in range(8):
            with self.assertRaises(Slowed) as slowed:
                guard.password_is_right("open sesame")
            waited.append(slowed.exception.args[0])
            now[0] += waited[-1]
            self.assertFalse(guard.password_is_right("wrong"))
        self.assertEqual(waited[:5], [1, 2, 4, 8, 16])
        self.assertEqual(waited[-1], 30)
        now[0] += 30
        self.assertTrue(guard.password_is_right("open sesame"))
        self.assertFalse(guard.password_is_right("wrong"))  # and counting begins anew
        self.assertFalse(Guard(KEY, remote=True).password_is_right(""))


class OverTheServer(unittest.TestCase):
    def raw(self, path: str, **headers) -> tuple[int, dict, bytes]:
        request = urllib.request.Request(server().address + path, headers=headers)
        try:
            with urllib.request.urlopen(request, timeout=20) as answer:
                return answer.status, dict(answer.headers), answer.read()
        except urllib.error.HTTPError as e:
            return e.code, dict(e.headers), e.read()

    def test_strangers_see_neither_scenes_nor_pictures_nor_events(self):
        for path in ("/api/scenes", "/api/events", "/api/cabinet", "/api/openapi.json", "/"):
            status, _, body = self.raw(path)
            self.assertEqual(status, 401, path)
            self.assertNotIn(b"Brackenhope", body)
        self.assertEqual(json.loads(self.raw("/api/health")[2])["ok"], True)
        self.assertEqual(self.raw("/?key=wrong")[0], 401)

    def test_opening_the_address_sets_a_cookie_that_no_script_reads(self):
        status, headers, body = self.raw(f"/?key={server().key}&scene=1")
        cookie = headers.get("set-cookie") or headers["Set-Cookie"]
        self.assertEqual(status, 200)
        self.assertIn("HttpOnly", cookie)
        self.assertIn("SameSite=Strict", cookie)
        self.assertIn(b"/?scene=1", body)
        name, _, value = cookie.partition(";")[0].partition("=")
        self.assertEqual(self.raw("/api/scenes", Cookie=f"{name}={value}")[0], 200)

    def test_every_answer_says_what_a_browser_may_do(self):
        for path in ("/", "/api/health", "/api/scenes", "/api/nothing", "/assets/none.js"):
            headers = {k.lower(): v for k, v in self.raw(path)[1].items()}
            policy = headers["content-security-policy"]
            self.assertIn("frame-ancestors 'none'", policy)
            self.assertNotIn("unsafe-eval", policy)
            self.assertRegex(policy, r"script-src 'self';")
            self.assertEqual(headers["x-content-type-options"], "nosniff")
            self.assertEqual(headers["referrer-policy"], "no-referrer")

    def test_the_data_folder_is_its_owners_alone(self):
        for name in ("key", "cluster.json", "server.json", "server.log"):
            self.assertEqual((server().folder / name).stat().st_mode & 0o077, 0, name)
        self.assertEqual(server().folder.stat().st_mode & 0o066, 0)
        self.assertEqual((server().folder / "pg").stat().st_mode & 0o077, 0)


class Load(unittest.TestCase):
    """Counted in what the machine allows; the numbers of the promise are in the benchmark."""

    def test_open_channels_and_idle_connections_keep_nobody_waiting(self):
        host, port = server().address.removeprefix("http://").split(":")
        head = f"GET /api/events HTTP/1.1\r\nHost: {host}:{port}\r\nAuthorization: Bearer "
        sent = [f"{head}{server().key}\r\n\r\n".encode()] * 200
        sent += [b"", b"POST /api/rasters HTTP/1.1\r\nContent-Le", b"GET / HT"] * 300
        held = []
        try:
            for data in sent:
                s = socket.create_connection((host, int(port)))
                s.sendall(data)
                held.append(s)
            for s in held[:200]:
                s.settimeout(20)
                self.assertIn(b"200 OK", s.recv(200))
            for _ in range(5):
                began = time.monotonic()
                self.assertEqual(ask("GET", "/api/health")[0], 200)
                self.assertLess(time.monotonic() - began, 8)
        finally:
            for s in held:
                s.close()

    def test_a_tab_that_is_gone_frees_its_channel_and_others_hear_on(self):
        scene = ask("POST", "/api/scenes", {"document": {"name": "n"}})[1]
        host, port = server().address.removeprefix("http://").split(":")
        own = {"Authorization": f"Bearer {server().key}"}

        def channel():
            link = http.client.HTTPConnection(host, int(port), timeout=20)
            link.request("GET", "/api/events", headers=own)
            return link, link.getresponse()

        gone, _ = channel()
        stays, answer = channel()
        gone.close()
        heard = threading.Event()

        def listen():
            while line := answer.readline():
                if line.startswith(b"event: revision"):
                    heard.set()
                    return

        threading.Thread(target=listen, daemon=True).start()
        edit = {"base": scene["revision"], "label": "l", "document": scene["document"]}
        ask("POST", f"/api/scenes/{scene['id']}/edits", edit)
        self.assertTrue(heard.wait(10))
        stays.close()


class InTheBrowser(unittest.TestCase):
    def test_names_that_are_markup_stay_names(self):
        """Every place of the page that shows a name shows it as text."""
        names = [n for n in HARM if "\x07" not in n]
        document = {
            "name": HARM[0],
            "plot": {"width_m": 300, "depth_m": 300, "posts": 129},
            "land": [{"id": f"l{i}", "name": n, "kind": "noise"} for i, n in enumerate(names)],
            "planting": [{"id": "p", "name": HARM[1], "mix": [{"kind": "birch"}], "density": 0.1}],
            "shots": [{"id": "s", "name": HARM[2]}],
        }
        state = ask("POST", "/api/scenes", {"document": document})[1]
        page = Page(server().address, "sketch", f"/?scene={state['id']}")
        self.addCleanup(page.close)
        page.js("window.alert = () => { window.harmed = true; }")
        page.settled()
        shown = page.text()
        self.assertIn(HARM[0], shown)
        for section, name in (("planting", HARM[1]), ("shots", HARM[2])):
            page.unfold(section)
            self.assertIn(name, page.text())
        self.assertFalse(page.js("return !!window.harmed"))
        self.assertEqual(page.js("return document.querySelectorAll('img[src=x]').length"), 0)
        self.assertFalse([e for e in page.errors() if "Content Security" in e])
        self.assertEqual(page.js("return document.cookie"), "")

    def test_tabs_of_one_browser_share_one_channel(self):
        before = ask("GET", "/api/health")[1]["channels"]
        state = ask("POST", "/api/scenes", {"document": {"name": "Shared"}})[1]
        page = Page(server().address, "sketch", f"/?scene={state['id']}")
        self.addCleanup(page.close)
        page.settled()
        first = page.driver.current_window_handle
        page.driver.switch_to.new_window("tab")
        page.go(f"/?quality=sketch&scene={state['id']}")
        page.settled()
        self.assertEqual(ask("GET", "/api/health")[1]["channels"], before + 1)
        edit = {"base": state["revision"], "label": "elsewhere", "document": state["document"]}
        self.assertEqual(ask("POST", f"/api/scenes/{state['id']}/edits", edit)[0], 200)
        for tab in (page.driver.current_window_handle, first):
            page.driver.switch_to.window(tab)
            page.until(lambda: "changed in another tab" in page.text(), 30)
        page.driver.close()  # the tab that listened: the other takes its place
        page.driver.switch_to.window(page.driver.window_handles[0])
        page.until(lambda: ask("GET", "/api/health")[1]["channels"] == before + 1, 30)
