"""Large files against query engines: the same sums asked of each, whole processes in turn, as ratios to the faster one.

The engines are benchmark-only extras. Records are made once per size in a temporary folder: seven columns, categories,
decimals and a weight. Pass a number of rows to try another size.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

import numpy as np
import pyarrow as pa
from pyarrow import csv, parquet

RUNS = 3
ROWS = 10_000_000
ROUTES = ("Dunmar", "Pell Isle", "Osk Harbour", "Hallow Ness", "Lower Tarn", "Vey Sands")
TICKETS = ("app", "web", "desk", "board")
WEIGHTED = (
    "sum(weight * wait) / sum(weight), sum(weight), sum(weight * weight), sum(weight * weight * wait), "
    "sum(weight * weight * wait * wait), count(*)"
)
QUERIES = {
    "count": ([], "count(*)"),
    "weighted mean": (["--measure", "wait", "--weight", "weight"], WEIGHTED),
    "median": (["--measure", "wait", "--stat", "median", "--error-bars", "none"], "median(wait)"),
}
TARGETS = {
    ("csv", "count"): 1.0,
    ("csv", "weighted mean"): 1.1,
    ("csv", "median"): 2.0,
    ("parquet", "count"): 2.5,
    ("parquet", "weighted mean"): 2.5,
    ("parquet", "median"): 2.0,
}
DUCKDB = "import duckdb; duckdb.sql(\"SELECT route, ticket, {what} FROM '{file}' GROUP BY route, ticket\").fetchall()"
POLARS = (
    "import polars as pl; c = pl.col; "
    "pl.scan_{form}('{file}').group_by('route', 'ticket').agg({what}).collect(engine='streaming')"
)
POLARS_SUMS = {
    "count": "pl.len()",
    "weighted mean": "(c('weight') * c('wait')).sum().alias('a'), c('weight').sum(), "
    "(c('weight') ** 2).sum().alias('b'), (c('weight') ** 2 * c('wait')).sum().alias('d'), "
    "(c('weight') ** 2 * c('wait') ** 2).sum().alias('e'), pl.len()",
    "median": "c('wait').median()",
}


def make(folder: Path, rows: int) -> None:
    """Writes the records as CSV and as Parquet."""
    random = np.random.default_rng(1)
    table = pa.table(
        {
            "id": np.arange(rows),
            "route": pa.array(np.array(ROUTES)[random.integers(0, len(ROUTES), rows)]),
            "ticket": pa.array(np.array(TICKETS)[random.integers(0, len(TICKETS), rows)]),
            "wait": np.round(random.gamma(2, 8, rows), 1),
            "spend": np.round(random.gamma(1.5, 6, rows), 2),
            "weight": np.round(random.uniform(0.5, 2.5, rows), 4),
            "age": random.integers(15, 90, rows),
        }
    )
    csv.write_csv(table, folder / "records.csv")
    parquet.write_table(table, folder / "records.parquet")


def seconds(command: list[str]) -> float:
    """How long a command takes from start to exit."""
    start = time.perf_counter()
    subprocess.run(command, check=True, capture_output=True)
    return time.perf_counter() - start


def main(rows: int) -> None:
    """Prints one line per format and query."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make(folder, rows)
        for form in ("csv", "parquet"):
            file = folder / f"records.{form}"
            for label, (options, what) in QUERIES.items():
                ours = [str(Path(sys.executable).parent / "grainstack"), "table", str(file)]
                ours += ["--by", "route", "--split", "ticket", *options]
                duckdb = [sys.executable, "-c", DUCKDB.format(what=what, file=file)]
                polars = [sys.executable, "-c", POLARS.format(form=form, what=POLARS_SUMS[label], file=file)]
                timed = [tuple(seconds(one) for one in (ours, duckdb, polars)) for _ in range(RUNS)]
                ratio = median(one[0] / min(one[1:]) for one in timed)
                mine, duck, polar = (median(column) for column in zip(*timed, strict=True))
                print(
                    f"{form:8} {label:14} {ratio:5.2f} (at most {TARGETS[form, label]:.2f})   "
                    f"{mine:.2f} s; DuckDB {duck:.2f} s, Polars {polar:.2f} s"
                )


if __name__ == "__main__":
    main(int(float(sys.argv[1])) if len(sys.argv) > 1 else ROWS)
