"""Pages answer in Firefox too: series, treemaps, tips by keys; what it finds is sent to a server of the test."""

import json
import re
import shutil
import subprocess
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from threading import Thread
from typing import Any

import pytest

from tests.program.conftest import Run, folder, run
from tests.report.test_page_states import HELPERS, PERCENT

__all__ = ["folder", "run"]

FIREFOX = shutil.which("firefox-esr") or shutil.which("firefox")
pytestmark = [
    pytest.mark.soak,
    pytest.mark.skipif(FIREFOX is None, reason="Firefox is not installed (Debian's firefox-esr)"),
]
PATIENCE = 90  # seconds until it has started and told


def _in_firefox(page: Path, script: str, folder: Path) -> dict[str, Any]:
    """What a script finds in a page."""
    text = re.sub(r'<meta http-equiv="Content-Security-Policy"[^>]*>\n', "", page.read_text("utf-8"))
    told = "(async () => { const told_ = await (async () => { %s %s })(); " % (HELPERS, script)  # noqa: UP031 - braces
    told += "await fetch('/told', { method: 'POST', body: JSON.stringify(told_) }); })()"
    body = text.replace("</body>", f"<script>{told}</script></body>").encode()
    found: list[dict[str, Any]] = []

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.end_headers()
            self.wfile.write(body)

        def do_POST(self) -> None:
            found.append(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
            self.send_response(204)
            self.end_headers()

        def log_message(self, *_: object) -> None:
            """Nothing: the tests say what went wrong."""

    server = HTTPServer(("127.0.0.1", 0), Handler)
    serving = Thread(target=server.serve_forever, daemon=True)
    serving.start()
    command = [str(FIREFOX), "--headless", "--no-remote", "--profile", str(folder / "profile")]
    (folder / "profile").mkdir(exist_ok=True)
    address = f"http://127.0.0.1:{server.server_port}/page.html"
    with subprocess.Popen([*command, address], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as browser:
        try:
            for _ in range(PATIENCE * 10):
                if found or browser.poll() is not None:
                    break
                serving.join(0.1)
        finally:
            browser.kill()
            server.shutdown()
            server.server_close()
    assert found, "it told nothing"
    return found[0]


def test_series_hide_and_come_back(run: Run, folder: Path) -> None:
    assert run(*PERCENT, "--out", "a.html").returncode == 0
    found = _in_firefox(
        folder / "a.html",
        """
        const before = plain(), seen = [look()];
        click(names[0]); seen.push(look());
        press(names[2], "Enter", true); seen.push(look());
        press(names[2], "Escape"); seen.push(look());
        return { seen, same: plain() === before };
        """,
        folder,
    )
    start, hidden, alone, back = found["seen"]
    assert (len(start["bars"]), len(hidden["bars"]), len(alone["bars"])) == (30, 24, 6)
    assert hidden["note"] == hidden["said"] == "Left out: App; the other figures stay as they are."
    assert hidden["starts"] == [hidden["zero"]] * 6
    assert (back["values"], found["same"]) == (start["values"], True)


def test_treemaps_open_and_keys_go_through_the_figures(run: Run, folder: Path) -> None:
    asked = ("treemap", "costs.csv", "--by", "department", "--by", "item", "--measure", "amount")
    assert run(*asked, "--out", "a.html").returncode == 0
    found = _in_firefox(
        folder / "a.html",
        """
        const tip = document.querySelector(".tip");
        chart.focus();
        chart.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
        const told = [tip.hidden, tip.textContent];
        chart.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
        await later();
        const tiles = all('rect[data-role="tile"]').map((one) => one.dataset.category.split("/")[0]);
        return { told, tiles, note: note(), hash: location.hash };
        """,
        folder,
    )
    assert found["told"][0] is False
    assert found["told"][1] == "Crew: 2,700,700 € (40.2 %)"
    assert len(set(found["tiles"])) == 1
    assert found["note"] == f"All › {found['tiles'][0]}"
    assert found["hash"] == f"#show=chart~~~~~{found['tiles'][0]}"
