"""Whole processes, file to chart, as ratios to the ten-line script with pandas and pyplot beside this file.

Both read 2,000 rows of the demo data and draw bars. Each command is run in turn with the script, so that a machine
that slows down slows both; printed is the median of the ratios of processor time, run by run, and whether the program
had its byte code, as it has where pip installed it. What Python takes to load the libraries of a view, before a line of
ours runs, stands beside: no figure can be below.
"""

import compileall
import importlib.util
import os
import resource
import subprocess
import sys
import tempfile
from importlib.resources import files
from pathlib import Path
from statistics import median

RUNS = 9
ROWS = 2000
HERE = Path(__file__).parent
LOADED = {
    "libraries, -h": "typer",
    "libraries, terminal": "typer, msgspec, numpy, pyarrow",
    "libraries, SVG": "typer, msgspec, numpy, pyarrow, uharfbuzz",
    "libraries, SVG with limits": "typer, msgspec, numpy, pyarrow, uharfbuzz, scipy.special",
    "libraries, PNG": "typer, msgspec, numpy, pyarrow, uharfbuzz, typst, pypdfium2, PIL.PngImagePlugin",
}
TARGETS = {"count, terminal": 0.16, "percent, SVG": 0.22, "count, PNG": 0.33, "count, PDF": 0.26, "-h": 0.05}


def processor_seconds(command: list[str]) -> float:
    """The processor time of a command from start to exit."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, check=True, capture_output=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def compared(one: list[str], other: list[str]) -> str:
    """The ratio of two commands, and how long each takes."""
    processor_seconds(one)
    processor_seconds(other)
    timed = [(processor_seconds(one), processor_seconds(other)) for _ in range(RUNS)]
    ratio = median(first / second for first, second in timed)
    mine, theirs = (median(column) for column in zip(*timed, strict=True))
    return f"{ratio:5.2f}   {mine:.2f} s against {theirs:.2f} s"


def main() -> None:
    """Prints one line per figure: its ratio to the script and the bound it is to stay under."""
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    compileall.compile_dir(str(files("grainstack")), quiet=1)  # as pip does when it installs
    source = str(files("grainstack").joinpath("cli/main.py"))
    cached = Path(importlib.util.cache_from_source(source)).is_file()
    print(f"byte code: {'there' if cached else 'missing'}")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        lines = files("grainstack.demo").joinpath("data/passengers.csv").read_text("utf-8").splitlines()
        records = folder / "records.csv"
        records.write_text("\n".join(lines[: ROWS + 1]) + "\n", "utf-8")
        script = [sys.executable, str(HERE / "ten_lines.py"), str(records)]
        ours = [str(Path(sys.executable).parent / "grainstack")]
        count = [*ours, "bar", str(records), "--by", "ticket"]
        percent = [*count, "--split", "season", "--layout", "percent", "--weight", "weight", "--cluster", "sailing"]
        pairs = {
            "count, terminal": (count, "png"),
            "percent, SVG": ([*percent, "--out", str(folder / "ours.svg")], "svg"),
            "count, SVG": ([*count, "--out", str(folder / "ours.svg")], "svg"),
            "count, PNG": ([*count, "--out", str(folder / "ours.png")], "png"),
            "count, PDF": ([*count, "--out", str(folder / "ours.pdf")], "pdf"),
            "-h": ([*ours, "-h"], "png"),
        }
        for label, (command, ending) in pairs.items():
            bound = f" (at most {TARGETS[label]:.2f})" if label in TARGETS else ""
            print(f"{label:26} {compared(command, [*script, str(folder / f'theirs.{ending}')])}{bound}")
        for label, loaded in LOADED.items():
            command = [sys.executable, "-c", f"import {loaded}"]
            print(f"{label:26} {compared(command, [*script, str(folder / 'theirs.png')])}")


if __name__ == "__main__":
    main()
