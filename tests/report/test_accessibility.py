"""Reports in a browser: an accessibility engine finds nothing, and nothing is wider than a phone."""

import html
import json
import re
import shutil
import subprocess
from importlib.resources import files
from pathlib import Path
from typing import Any

import pytest

from tests.program.conftest import Run, folder, run

__all__ = ["folder", "run"]

BROWSER = shutil.which("chromium") or shutil.which("chromium-browser")
pytestmark = [
    pytest.mark.soak,
    pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)"),
]
TOLD = "<script>{}.then(told => {{ const told_ = document.createElement('pre'); told_.id = 'told'; "
TOLD += "told_.textContent = JSON.stringify(told); document.body.appendChild(told_); }});</script>"


def _in_browser(page: Path, script: str, folder: Path, address: str = "", width: int = 1280) -> Any:  # noqa: ANN401
    """What a script that gives a promise finds in a page."""
    text = re.sub(r'<meta http-equiv="Content-Security-Policy"[^>]*>\n', "", page.read_text("utf-8"))
    copy = folder / "in_browser.html"
    copy.write_text(text.replace("</body>", f"{script}</body>"), "utf-8")
    command = [str(BROWSER), "--headless", "--no-sandbox", "--disable-gpu", f"--user-data-dir={folder}/browser"]
    command += [f"--window-size={width},800", "--virtual-time-budget=30000", "--dump-dom", f"file://{copy}{address}"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=True)
    match = re.search(r'<pre id="told">(.*?)</pre>', done.stdout, re.DOTALL)
    assert match, done.stdout[:300]
    return json.loads(html.unescape(match[1]))


@pytest.fixture(params=["report", "topline"])
def page(request: pytest.FixtureRequest, run: Run, folder: Path) -> Path:
    """The report of the demo, or a topline, as a page."""
    if request.param == "report":
        plan = (folder / "plan.toml").read_text("utf-8")
        (folder / "plan.toml").write_text(re.sub(r"\nformats = \[[^\]]*\"docx\"[^\]]*\]", "", plan), "utf-8")
        done = run("build", "plan.toml", "--quiet")
    else:
        done = run("topline", "passengers.csv", "--split", "season", "--out", "topline.html")
    assert done.returncode == 0, done.stderr
    return folder / ("out/report.html" if request.param == "report" else "topline.html")


def test_an_accessibility_engine_finds_nothing(page: Path, folder: Path) -> None:
    engine = files("axe_core_python").joinpath("axe.min.js").read_text("utf-8").replace("</script>", "<\\/script>")
    found = _in_browser(page, f"<script>{engine}</script>{TOLD.format('axe.run()')}", folder)
    assert [(one["id"], one["nodes"][0]["html"][:200]) for one in found["violations"]] == []
    assert len(found["passes"]) > 20


def test_a_phone_shows_it_without_scrolling_sideways(page: Path, folder: Path) -> None:
    asked = "Promise.resolve([document.documentElement.scrollWidth, window.innerWidth])"
    wide, window = _in_browser(page, TOLD.format(asked), folder, width=500)  # the narrowest a window can be
    assert wide <= window
