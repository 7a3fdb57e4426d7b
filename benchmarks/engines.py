"""Large files against query engines: the same sums asked of each, whole processes in turn, as ratios to the faster one.

The engines are benchmark-only extras. Records are made once per size in a temporary folder: categories, decimals, a
weight, and clusters in strata. Then what grows with rows, with clusters and with columns that nobody asked for. Pass a
number of rows to try another size.
"""

import compileall
import subprocess
import sys
import tempfile
import time
from importlib.resources import files
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
WEIGHTED_MEAN = ["--measure", "wait", "--weight", "weight"]
QUERIES = {
    "count": ([], "count(*)"),
    "weighted mean": (WEIGHTED_MEAN, WEIGHTED),
    "median": (["--measure", "wait", "--stat", "median", "--error-bars", "none"], "median(wait)"),
}
CLUSTERS = 5_000
PEAK = (
    "import resource, subprocess, sys; subprocess.run(sys.argv[1:], check=True, stdout=2); "
    "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
)
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
    parquet.write_table(clustered(table, random), folder / "clusters.parquet")
    csv.write_csv(table, folder / "records.csv")
    parquet.write_table(table, folder / "records.parquet")


def clustered(table: pa.Table, random: np.random.Generator) -> pa.Table:
    """Records with 5,000 clusters in 50 strata."""
    drawn = random.integers(0, CLUSTERS, len(table))
    names = pa.array([f"c{number}" for number in range(CLUSTERS)])
    strata = pa.array([f"s{number}" for number in range(CLUSTERS // 100)])
    return table.append_column("cluster", names.take(pa.array(drawn))).append_column(
        "stratum", strata.take(pa.array(drawn // 100))
    )


def wide(folder: Path, rows: int) -> None:
    """Records of 3 columns, and the same with 197 more."""
    random = np.random.default_rng(2)
    table = parquet.read_table(folder / "records.parquet", columns=["route", "ticket", "wait"]).slice(0, rows)
    parquet.write_table(table, folder / "three.parquet")
    for number in range(197):
        table = table.append_column(f"q{number}", pa.array(random.integers(0, 10, len(table)).astype(np.int8)))
    parquet.write_table(table, folder / "wide.parquet")


def megabytes(command: list[str]) -> float:
    """The most memory a command holds at once, measured by a process that holds little itself."""
    done = subprocess.run([sys.executable, "-c", PEAK, *command], check=True, capture_output=True, text=True)
    return int(done.stdout) / 1024


def seconds(command: list[str]) -> float:
    """How long a command takes from start to exit."""
    start = time.perf_counter()
    subprocess.run(command, check=True, capture_output=True)
    return time.perf_counter() - start


def table_of(file: Path, *options: str) -> list[str]:
    """The command for a table by route and ticket."""
    program = str(Path(sys.executable).parent / "grainstack")
    return [program, "table", str(file), "--by", "route", "--split", "ticket", *options]


def weighted_here(folder: Path) -> list[str]:
    """The command for weighted means."""
    return table_of(folder / "records.parquet", *WEIGHTED_MEAN)


def weighted_duckdb(folder: Path) -> list[str]:
    """The same of DuckDB."""
    return [sys.executable, "-c", DUCKDB.format(what=WEIGHTED, file=folder / "records.parquet")]


def ratio(command: list[str], other: list[str]) -> float:
    """How many times as long a command takes as another."""
    return median(seconds(command) / seconds(other) for _ in range(RUNS))


def growth(folder: Path, rows: int) -> None:
    """Prints what more rows, clusters and columns cost."""
    more = folder / "more"
    more.mkdir()
    make(more, 3 * rows)
    ours, theirs = (
        median(seconds(request(more)) - seconds(request(folder)) for _ in range(RUNS))
        for request in (weighted_here, weighted_duckdb)
    )
    print(f"added rows of Parquet, against DuckDB        {ours / theirs:5.2f} (at most 1.60)")
    plain = table_of(folder / "clusters.parquet", *WEIGHTED_MEAN)
    design = [*plain, "--strata", "stratum", "--cluster", "cluster"]
    print(f"{CLUSTERS:,} clusters, against the weighted mean   {ratio(design, plain):5.2f} (at most 1.50)")
    wide(folder, 1_000_000)
    every, used = (table_of(folder / f"{name}.parquet", "--measure", "wait") for name in ("wide", "three"))
    print(f"200 columns of Parquet, against the 3 used   {ratio(every, used):5.2f} (at most 1.10)")
    for form in ("csv", "parquet"):
        small, large = (megabytes(table_of(place / f"records.{form}", *WEIGHTED_MEAN)) for place in (folder, more))
        print(f"memory for {rows:,} and three times the rows of {form}: {small:.0f} and {large:.0f} MB (at most 300)")


def main(rows: int) -> None:
    """Prints one line per format and query."""
    compileall.compile_dir(str(files("grainstack")), quiet=1)  # as pip does when it installs
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make(folder, rows)
        for form in ("csv", "parquet"):
            file = folder / f"records.{form}"
            for label, (options, what) in QUERIES.items():
                ours = table_of(file, *options)
                duckdb = [sys.executable, "-c", DUCKDB.format(what=what, file=file)]
                polars = [sys.executable, "-c", POLARS.format(form=form, what=POLARS_SUMS[label], file=file)]
                timed = [tuple(seconds(one) for one in (ours, duckdb, polars)) for _ in range(RUNS)]
                slower = median(one[0] / min(one[1:]) for one in timed)
                mine, duck, polar = (median(column) for column in zip(*timed, strict=True))
                print(
                    f"{form:8} {label:14} {slower:5.2f} (at most {TARGETS[form, label]:.2f})   "
                    f"{mine:.2f} s; DuckDB {duck:.2f} s, Polars {polar:.2f} s"
                )
        growth(folder, rows)


if __name__ == "__main__":
    main(int(float(sys.argv[1])) if len(sys.argv) > 1 else ROWS)
