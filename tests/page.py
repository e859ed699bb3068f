"""Drives the real page in headless Chromium."""

import base64
import io
import tempfile
import time
from pathlib import Path

import numpy as np
from PIL import Image
from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from tests.served import server

FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--enable-unsafe-swiftshader",
    "--use-angle=swiftshader",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--no-default-browser-check",
    "--disable-quic",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
    "--window-size=1280,943",
    "--disable-gpu-compositing",
    "--disable-gpu-rasterization",
]

STILL = """const [pose, width, height, frames] = arguments, done = arguments[arguments.length - 1];
    sow.view.still(pose, width, height, frames, () => {}, () => false).then((b) => {
    const r = new FileReader(); r.onload = () => done(r.result); r.readAsDataURL(b); });"""


class Page:
    """One browser on one address.

    Waits are for what the page itself says (`data-settled`), never for a time.
    """

    def __init__(
        self, address: str, quality: str = "", path: str = "/", flags: tuple = (), key: str = ""
    ):
        self.home = tempfile.TemporaryDirectory(prefix="sow-chromium-")
        self.downloads = Path(self.home.name) / "downloads"
        self.downloads.mkdir()
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in [*FLAGS, *flags, f"--user-data-dir={self.home.name}/profile"]:
            options.add_argument(flag)
        options.add_experimental_option(
            "prefs", {"download.default_directory": str(self.downloads)}
        )
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        self.driver = webdriver.Chrome(options, webdriver.ChromeService("/usr/bin/chromedriver"))
        self.driver.set_script_timeout(300)
        self.address = address
        more = [f"key={key or server().key}"] + ([f"quality={quality}"] if quality else [])
        self.go(path + ("&" if "?" in path else "?") + "&".join(more))
        self.until(lambda: "key=" not in self.driver.current_url, 20)

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def close(self) -> None:
        self.driver.quit()
        self.home.cleanup()

    def until(self, truth, seconds: float = 120, what: str = ""):
        return WebDriverWait(self.driver, seconds, 0.05, ignored_exceptions=[Exception]).until(
            lambda d: truth(), what
        )

    def one(self, css: str):
        """The element, waited for: what the server is asked for first comes a moment later."""
        find = lambda: self.driver.find_element(By.CSS_SELECTOR, css)
        return self.until(find, 30, f"no {css}")

    def all(self, css: str):
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def text(self, css: str = "body") -> str:
        return self.one(css).text

    def click(self, css: str) -> None:
        self.until(lambda: self.one(css).is_displayed(), 60, f"no {css}")
        self._press(self.one(css))

    def _press(self, element) -> None:
        """Clicks once the element has come to rest: what was just unfolded may still move it."""
        self.js("arguments[0].scrollIntoView({block: 'center'})", element)
        place = None
        for _ in range(20):
            now = self.js(
                "const r = arguments[0].getBoundingClientRect(); return [r.left, r.top]", element
            )
            if now == place:
                break
            place = now
            time.sleep(0.03)
        element.click()

    def click_text(self, words: str, within: str = "body") -> None:
        def find():
            return next(
                (
                    e
                    for e in self.all(f"{within} button, {within} a, {within} [role=menuitem]")
                    if e.text.strip().startswith(words) and e.is_displayed()
                ),
                None,
            )

        for again in (True, True, False):  # what is drawn anew meanwhile is looked for again
            element = self.until(find, 60, f"no “{words}”")
            try:
                self._press(element)
                return
            except StaleElementReferenceException:
                if not again:
                    raise

    def keys(self, *keys: str) -> None:
        webdriver.ActionChains(self.driver, duration=30).send_keys(*keys).perform()

    def chord(self, *keys: str) -> None:
        chain = webdriver.ActionChains(self.driver, duration=30)
        for k in keys[:-1]:
            chain.key_down(k)
        chain.send_keys(keys[-1])
        for k in reversed(keys[:-1]):
            chain.key_up(k)
        chain.perform()

    def settled(self, seconds: float = 300, begun: float = 0.15) -> None:
        """No build pending, everything of the newest revision drawn.

        What was just done is given `begun` seconds to begin.
        """
        time.sleep(begun)
        self.until(
            lambda: self.js(
                "const s = window.sow; return !!(s && s.get().products && "
                "!s.get().building && !s.get().products.manifest.draft && s.view.settled)"
            ),
            seconds,
            "not settled",
        )
        time.sleep(0.05)

    def state(self) -> dict:
        return self.js("return sow.get().state")

    def kept(self, before: int, seconds: float = 60) -> dict:
        """Waits until a revision after `before` is kept and everything is drawn; gives the
        state.
        """
        self.until(
            lambda: self.js("return sow.get().state.revision") > before, seconds, "nothing was kept"
        )
        self.settled(begun=0.02)
        return self.state()

    def on_map(self):
        """The map swapped onto the face, or as it lies there."""
        if not self.js("return sow.get().mapOnFace"):
            self.js("document.querySelector('[data-pad]').focus()")
            self.keys("m")
        return self.until(
            lambda: next(e for e in self.all("[data-map]") if e.size["width"] > 600), 20
        )

    def at(self, big, east: float, north: float) -> tuple[float, float]:
        """A place in metres on the map as a point of the page."""
        left, top, width, height, e0, n0, k, w, d = self.js(
            "const r = arguments[0].getBoundingClientRect(), a = sow.get().mapAt, p = "
            "sow.get().doc.plot; return [r.left, r.top, r.width, r.height, a && a.east, a "
            "&& a.north, a && a.scale, p.width_m, p.depth_m]",
            big,
        )
        k = k or min((width - 52) / w, (height - 52) / d)
        return left + width / 2 + (east - (w / 2 if e0 is None else e0)) * k, top + height / 2 - (
            north - (d / 2 if n0 is None else n0)
        ) * k

    def mouse(self, *moves: tuple[float, float]) -> None:
        """Press at the first point, move through the rest, release."""
        hold = ActionBuilder(self.driver, duration=30)
        hold.pointer_action.move_to_location(*map(int, moves[0])).pointer_down()
        for m in moves[1:]:
            hold.pointer_action.move_to_location(*map(int, m))
        hold.pointer_action.pointer_up()
        hold.perform()

    def js(self, code: str, *args):
        return self.driver.execute_script(code, *args)

    def drop(self, path: Path, css: str = "[data-pad]") -> None:
        """Drops a file from the disk on an element, as a person would."""
        field = self.js(
            "const i = document.createElement('input'); i.type = 'file'; i.style.display = "
            "'none'; document.body.append(i); return i"
        )
        field.send_keys(str(path))
        self.js(
            """const t = new DataTransfer(); t.items.add(arguments[0].files[0]);
                arguments[0].remove();
            for (const k of ['dragenter', 'dragover',
            'drop']) arguments[1].dispatchEvent(new DragEvent(k, {dataTransfer: t, bubbles: true,
            cancelable: true}));""",
            field,
            self.one(css),
        )

    def unfold(self, section: str) -> None:
        head = f"[data-section={section}] > button"
        self.until(lambda: self.one(head), 30)
        if self.one(head).get_attribute("aria-expanded") != "true":
            self.click(head)

    def downloaded(self, ending: str, seconds: float = 180) -> Path:
        def ready():
            return next(
                (
                    p
                    for p in self.downloads.iterdir()
                    if p.name.endswith(ending) and not p.name.endswith(".crdownload")
                ),
                None,
            )

        self.until(ready, seconds, f"no download *{ending}")
        return ready()

    def still(self, pose: dict, width=400, height=300, frames=1) -> np.ndarray:
        """A still of the scene from a pose, float64 (height, width, 3), sRGB 0..255."""
        data = self.driver.execute_async_script(STILL, pose, width, height, frames)
        return np.asarray(
            Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGB")
        ).astype(float)

    def shot(self, path: Path) -> None:
        # the renderer's own queue is emptied first: a frame in software may take longer than a
        # screenshot waits
        self.js(
            "const v = window.sow && sow.view; if (v) { const gl = "
            "v.renderer.getContext(); gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, "
            "new Uint8Array(4)); }"
        )
        self.driver.save_screenshot(str(path))

    def shot_if_failed(self, test) -> None:
        """For tearDown: what the page showed when a test failed."""
        if any(
            getattr(t, "test_case", t) is test
            for t, _ in test._outcome.result.errors + test._outcome.result.failures
        ):
            self.shot(Path(tempfile.gettempdir()) / f"sow-failed-{test._testMethodName}.png")

    def errors(self) -> list[str]:
        return [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]


__all__ = ["Page", "Keys", "By"]
