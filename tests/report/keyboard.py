"""A page in Chromium that is worked by keys alone, as the browser itself gets them from a keyboard."""

import json
import os
import subprocess
from base64 import b64decode
from pathlib import Path
from time import sleep
from types import TracebackType
from typing import Any, Self

from tests.report.test_accessibility import BROWSER

KEYS = {  # the key, the number that Windows gave it, and what it types
    "Tab": (9, ""),
    "Enter": (13, "\r"),
    "Escape": (27, ""),
    "Backspace": (8, ""),
    "End": (35, ""),
    "ArrowLeft": (37, ""),
    "ArrowRight": (39, ""),
    "ArrowDown": (40, ""),
}
SHIFT = 8
FOCUSED = """(() => {
  const one = document.activeElement;
  if (one === document.body) return "";
  if (one.matches("svg.chart")) return "chart";
  if (one.getAttribute("role") === "switch") return `switch ${one.getAttribute("aria-label")}`;
  return one.dataset.part || one.textContent.trim();
})()"""


class Keyboard:
    """A page and its keys; the browser is driven through two pipes.

    Args:
        page: The page: a file, or an address.
        folder: Where the browser keeps what it needs.
        ready: What of the page is there once it can be worked with, as a selector.
    """

    def __init__(self, page: Path | str, folder: Path, ready: str = "[role=status]") -> None:
        reads, self._asking = os.pipe()
        self._told, writes = os.pipe()
        command = [str(BROWSER), "--headless", "--no-sandbox", "--disable-gpu", "--window-size=1280,800"]
        command += [f"--user-data-dir={folder}/browser", "--remote-debugging-pipe", "about:blank"]
        shell = f'exec "$@" 3<&{reads} 4>&{writes}'  # the browser reads from 3 and writes to 4
        quiet = subprocess.DEVNULL
        self._browser = subprocess.Popen(
            ["/bin/bash", "-c", shell, "sh", *command], pass_fds=(reads, writes), stdout=quiet, stderr=quiet
        )
        os.close(reads)
        os.close(writes)
        self._count, self._rest, self._session = 0, b"", ""
        target = self._ask("Target.createTarget", url=page if isinstance(page, str) else f"file://{page}")["targetId"]
        self._session = self._ask("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
        while not self.value(
            'document.readyState === "complete" && !!' + f"document.querySelector({json.dumps(ready)})"
        ):
            sleep(0.02)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, _: type[BaseException] | None, __: BaseException | None, ___: TracebackType | None) -> None:
        self._browser.kill()
        self._browser.wait()
        os.close(self._asking)
        os.close(self._told)

    def press(self, *keys: str) -> None:
        """Presses keys one after the other; `Shift+Enter` holds one down.

        Args:
            keys: Their names.
        """
        for named in keys:
            key = named.removeprefix("Shift+")
            code, text = KEYS[key]
            about = {"key": key, "code": key, "windowsVirtualKeyCode": code}
            about |= {"modifiers": SHIFT} if key != named else {}
            self._ask("Input.dispatchKeyEvent", type="keyDown" if text else "rawKeyDown", text=text, **about)
            self._ask("Input.dispatchKeyEvent", type="keyUp", **about)

    def shot(self, width: int = 1280, height: int = 800) -> bytes:
        """What is seen of the page, as PNG.

        Args:
            width: Of the window in pixels.
            height: Of the window in pixels.
        """
        size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        self._ask("Emulation.setDeviceMetricsOverride", **size)
        self._ask("Emulation.setScrollbarsHidden", hidden=True)
        sleep(1)
        return b64decode(self._ask("Page.captureScreenshot", format="png")["data"])

    def value(self, expression: str) -> Any:  # noqa: ANN401 - of the page
        """What an expression gives in the page, once it is known.

        Args:
            expression: JavaScript.
        """
        told = self._ask("Runtime.evaluate", expression=expression, returnByValue=True, awaitPromise=True)
        assert "exceptionDetails" not in told, told
        return told["result"].get("value")

    def stops(self) -> list[str]:
        """Goes through all that takes the focus, by Tab from where it is, and says what each stop is."""
        found: list[str] = []
        while len(found) < 60:
            self.press("Tab")
            now = self.value(FOCUSED)
            if not now:
                break
            found.append(now)
        return found

    def go_to(self, stop: str) -> None:
        """Goes on by Tab until something has the focus.

        Args:
            stop: What, as `stops` says it.
        """
        for _ in range(60):
            self.press("Tab")
            if self.value(FOCUSED) == stop:
                return
        raise AssertionError(f"Tab does not reach {stop}")

    def hear(self, text: str) -> bool:
        """Waits until the page tells something; whether it did.

        Args:
            text: What.
        """
        for _ in range(100):
            if self.said == text:
                return True
            sleep(0.05)
        return False

    @property
    def said(self) -> str:
        """What the page tells readers who listen."""
        return str(self.value('document.querySelector("[role=status]").textContent'))

    def _ask(self, method: str, **asked: Any) -> dict[str, Any]:  # noqa: ANN401 - as the browser likes
        self._count += 1
        message: dict[str, Any] = {"id": self._count, "method": method, "params": asked}
        message |= {"sessionId": self._session} if self._session else {}
        os.write(self._asking, json.dumps(message).encode() + b"\0")
        while True:
            while b"\0" not in self._rest:
                part = os.read(self._told, 1 << 16)
                assert part, "the browser is gone"
                self._rest += part
            line, _, self._rest = self._rest.partition(b"\0")
            told = json.loads(line)
            if told.get("id") == self._count:
                assert "error" not in told, told
                result: dict[str, Any] = told["result"]
                return result
