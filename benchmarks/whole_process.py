"""Whole processes, file to chart, as ratios to the ten-line script with pandas and pyplot beside this file.

Both read the same 2,000 rows of the demo data and draw the same bars. Each command is run in turn with the script, so
that a machine that slows down slows both; printed is the median of the ratios, run by run. What Python takes to load
the libraries of a terminal view, and of a picture, before a line of ours runs, stands beside: no figure can be below.
"""

import compileall
import subprocess
import sys
import tempfile
import time
from importlib.resources import files
from pathlib import Path
from statistics import median

RUNS = 9
ROWS = 2000
HERE = Path(__file__).parent
LOADED = {
    "libraries, --help": "typer",
    "libraries, terminal": "typer, numpy, pyarrow",
    "libraries, SVG": "typer, numpy, pyarrow, uharfbuzz",
    "libraries, PNG": "typer, numpy, pyarrow, uharfbuzz, PIL.PngImagePlugin",
}
TARGETS = {"file to SVG": 0.20, "file to PNG": 0.36, "terminal view": 0.16, "--help": 0.05}


def seconds(command: list[str]) -> float:
    """How long a command takes from start to exit."""
    start = time.perf_counter()
    subprocess.run(command, check=True, capture_output=True)
    return time.perf_counter() - start


def compared(one: list[str], other: list[str]) -> str:
    """The ratio of two commands, and how long each takes."""
    seconds(one)
    seconds(other)
    timed = [(seconds(one), seconds(other)) for _ in range(RUNS)]
    ratio = median(first / second for first, second in timed)
    mine, theirs = (median(column) for column in zip(*timed, strict=True))
    return f"{ratio:5.2f}   {mine:.2f} s against {theirs:.2f} s"


def main() -> None:
    """Prints one line per figure: its ratio to the script and the bound it is to stay under."""
    compileall.compile_dir(str(files("grainstack")), quiet=1)  # as pip does when it installs
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        lines = files("grainstack.demo").joinpath("data/passengers.csv").read_text("utf-8").splitlines()
        records = folder / "records.csv"
        records.write_text("\n".join(lines[: ROWS + 1]) + "\n", "utf-8")
        script = [sys.executable, str(HERE / "ten_lines.py"), str(records)]
        ours = [str(Path(sys.executable).parent / "grainstack")]
        bar = [*ours, "bar", str(records), "--by", "ticket"]
        pairs = {
            "file to SVG": ([*bar, "--out", str(folder / "ours.svg")], [*script, str(folder / "theirs.svg")]),
            "file to PNG": ([*bar, "--out", str(folder / "ours.png")], [*script, str(folder / "theirs.png")]),
            "terminal view": (bar, [*script, str(folder / "theirs.png")]),
            "--help": ([*ours, "--help"], [*script, str(folder / "theirs.png")]),
        }
        for label, (one, other) in pairs.items():
            print(f"{label:20} {compared(one, other)} (at most {TARGETS[label]:.2f})")
        for label, loaded in LOADED.items():
            command = [sys.executable, "-c", f"import {loaded}"]
            print(f"{label:20} {compared(command, [*script, str(folder / 'theirs.png')])}")


if __name__ == "__main__":
    main()
