"""Drives the real page in headless Chromium."""
import tempfile
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

FLAGS = ("--headless=new --no-sandbox --enable-unsafe-swiftshader --use-angle=swiftshader --disable-background-networking "
         "--disable-component-update --disable-sync --no-first-run --no-default-browser-check --disable-quic --hide-scrollbars "
         "--force-device-scale-factor=1 --window-size=1280,943").split()


class Page:
    """One browser on one address. Waits are for what the page itself says (`data-settled`), never for a time."""

    def __init__(self, address: str, quality: str = "", path: str = "/"):
        self.home = tempfile.TemporaryDirectory(prefix="sow-chromium-")
        self.downloads = Path(self.home.name) / "downloads"
        self.downloads.mkdir()
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in [*FLAGS, f"--user-data-dir={self.home.name}/profile"]:
            options.add_argument(flag)
        options.add_experimental_option("prefs", {"download.default_directory": str(self.downloads)})
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        self.driver = webdriver.Chrome(options, webdriver.ChromeService("/usr/bin/chromedriver"))
        self.driver.set_script_timeout(300)
        self.address = address
        self.go(path + (("&" if "?" in path else "?") + f"quality={quality}" if quality else ""))

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def close(self) -> None:
        self.driver.quit()
        self.home.cleanup()

    def until(self, truth, seconds: float = 120, what: str = ""):
        return WebDriverWait(self.driver, seconds, 0.1, ignored_exceptions=[Exception]).until(lambda d: truth(), what)

    def one(self, css: str):
        return self.driver.find_element(By.CSS_SELECTOR, css)

    def all(self, css: str):
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def text(self, css: str = "body") -> str:
        return self.one(css).text

    def click(self, css: str) -> None:
        self.until(lambda: self.one(css).is_displayed(), 20, f"no {css}")
        element = self.one(css)
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
        element.click()

    def click_text(self, words: str, within: str = "body") -> None:
        def find():
            return next((e for e in self.all(f"{within} button, {within} a, {within} [role=menuitem]") if e.text.strip().startswith(words) and e.is_displayed()), None)
        self.until(lambda: find() is not None, 20, f"no “{words}”")
        element = find()
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
        element.click()

    def keys(self, *keys: str) -> None:
        webdriver.ActionChains(self.driver).send_keys(*keys).perform()

    def chord(self, *keys: str) -> None:
        chain = webdriver.ActionChains(self.driver)
        for k in keys[:-1]:
            chain.key_down(k)
        chain.send_keys(keys[-1])
        for k in reversed(keys[:-1]):
            chain.key_up(k)
        chain.perform()

    def settled(self, seconds: float = 180) -> None:
        """No build pending, everything of the newest revision drawn."""
        time.sleep(0.25)
        self.until(lambda: self.js("const s = window.sow; return !!(s && s.get().products && !s.get().building && !s.get().products.manifest.draft && s.view.settled)"), seconds, "not settled")
        time.sleep(0.15)

    def js(self, code: str, *args):
        return self.driver.execute_script(code, *args)

    def drop(self, path: Path, css: str = "[data-pad]") -> None:
        """Drops a file from the disk on an element, as a person would."""
        field = self.js("const i = document.createElement('input'); i.type = 'file'; i.style.display = 'none'; document.body.append(i); return i")
        field.send_keys(str(path))
        self.js("""const t = new DataTransfer(); t.items.add(arguments[0].files[0]); arguments[0].remove();
            for (const k of ['dragenter', 'dragover', 'drop']) arguments[1].dispatchEvent(new DragEvent(k, {dataTransfer: t, bubbles: true, cancelable: true}));""",
                field, self.one(css))

    def unfold(self, section: str) -> None:
        head = f"[data-section={section}] > button"
        self.until(lambda: self.one(head), 30)
        if self.one(head).get_attribute("aria-expanded") != "true":
            self.click(head)

    def downloaded(self, ending: str, seconds: float = 180) -> Path:
        def ready():
            return next((p for p in self.downloads.iterdir() if p.name.endswith(ending) and not p.name.endswith(".crdownload")), None)
        self.until(ready, seconds, f"no download *{ending}")
        return ready()

    def shot(self, path: Path) -> None:
        self.driver.save_screenshot(str(path))

    def errors(self) -> list[str]:
        return [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]


__all__ = ["Page", "Keys", "By"]
