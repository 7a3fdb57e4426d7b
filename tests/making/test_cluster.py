"""Records read by the workers of a real scheduler: the same table, and one clear message for whatever goes wrong."""

import csv
import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import pytest

from grainstack.errors import RecordsError, RequestError
from grainstack.making import cluster
from grainstack.making.cluster import read_on_cluster
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.report.table_files import json_of
from grainstack.requests import filled
from tests.soak import daily

pytestmark = pytest.mark.xdist_group("cluster")
DASK = str(Path(sys.executable).parent / "dask")
REQUESTS: list[dict[str, Any]] = [
    {"by": ("route",), "split": "ticket"},
    {"by": ("route",), "measure": ("wait",), "weight": "weight"},
    {"by": ("route",), "measure": ("wait",), "stat": ("median",), "only": ("ticket=app",)},
    {"by": ("wait",), "band": ("wait=auto",)},
]


def begun(*words: str) -> "subprocess.Popen[bytes]":
    return subprocess.Popen([DASK, *words], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def worker(scheduler: str) -> "subprocess.Popen[bytes]":
    return begun("worker", scheduler, "--nthreads", "1", "--no-dashboard", "--no-nanny")


@pytest.fixture(scope="module")
def scheduler(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A scheduler without workers."""
    told = tmp_path_factory.mktemp("dask") / "scheduler.json"
    process = begun("scheduler", "--host", "127.0.0.1", "--port", "0", "--no-dashboard", "--scheduler-file", str(told))
    until = time.monotonic() + 60
    while not told.exists() and time.monotonic() < until:
        time.sleep(0.1)
    import json  # noqa: PLC0415 - here only

    yield json.loads(told.read_text("utf-8"))["address"]
    process.terminate()
    process.wait(30)


@pytest.fixture(scope="module")
def workers(scheduler: str) -> Iterator[list["subprocess.Popen[bytes]"]]:
    """Two workers, that have all turned up."""
    from distributed import Client  # noqa: PLC0415 - slow to load

    processes = [worker(scheduler) for _ in range(2)]
    with Client(scheduler, timeout=60, set_as_default=False) as client:  # type: ignore[no-untyped-call]
        client.wait_for_workers(2, timeout=60)
    yield processes
    for process in processes:
        process.kill()
        process.wait(30)


def records(rows: int) -> list[dict[str, Any]]:
    chance = random.Random(1)  # noqa: S311 - made-up records
    return [
        {
            "route": chance.choice(["Dunmar", "Osk\nHarbour", 'Pell "Isle"', "Vey, Sands"]),
            "ticket": chance.choice(["app", "web", "desk"]),
            "wait": round(chance.gammavariate(2, 8), 1),
            "weight": round(chance.uniform(0.5, 2.5), 6),
        }
        for _ in range(rows)
    ]


@pytest.fixture
def files(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> dict[str, tuple[str, ...]]:
    """The same records as CSV, Parquet and in two files, read in many parts."""
    monkeypatch.setattr(cluster, "_PART", 3000)
    rows = records(600)
    names = {"csv": ["all"], "several": ["first", "second"]}
    for name, part in (("all", rows), ("first", rows[:250]), ("second", rows[250:])):
        with (tmp_path / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
            writer = csv.DictWriter(file, list(rows[0]), lineterminator="\n")
            writer.writeheader()
            writer.writerows(part)
    pq.write_table(pa.Table.from_pylist(rows), tmp_path / "all.parquet", row_group_size=70)
    every = {form: tuple(str(tmp_path / f"{name}.csv") for name in stems) for form, stems in names.items()}
    return every | {"parquet": (str(tmp_path / "all.parquet"),)}


def silent(done: int, parts: int) -> None:
    """Takes no note of how far the cluster has got."""


def absent() -> dict[str, str]:
    """A function of a module that workers do not have."""
    return {}


def table(asked: dict[str, Any], file: tuple[str, ...], scheduler: str | None = None, **options: Any) -> object:  # noqa: ANN401
    """A table as JSON, read here or on a cluster."""
    kind = kind_named("table")
    requests = filled(kind.models, asked | {"file": file})
    opened = open_records(requests[RecordsRequest])
    progress = options.get("progress", silent)
    read = partial(read_on_cluster, scheduler=scheduler, progress=progress) if scheduler else None
    return json_of(make(kind, requests, opened, read))


@pytest.mark.soak
@pytest.mark.usefixtures("workers", "files")
def test_a_plan_names_a_cluster_that_the_command_line_allows(scheduler: str, tmp_path: Path) -> None:
    entry = '[records]\nfile = "all.csv"\n[[table]]\nname = "t"\nby = "route"\nmeasure = "wait"\n'
    (tmp_path / "here.toml").write_text(entry, "utf-8")
    (tmp_path / "there.toml").write_text(f'[engine]\nengine = "dask"\nscheduler = "{scheduler}"\n{entry}', "utf-8")

    def build(plan: str, *options: str) -> "subprocess.CompletedProcess[str]":
        command = [str(Path(DASK).with_name("grainstack")), "build", plan, "--out", Path(plan).stem, *options]
        return subprocess.run(command, cwd=tmp_path, check=False, capture_output=True, text=True)

    assert "Allow it: --allow" in build("there.toml").stderr
    for plan in ("here.toml", "there.toml"):
        done = build(plan, "--allow", scheduler)
        assert done.returncode == 0, done.stderr
    assert (tmp_path / "there/t.csv").read_bytes() == (tmp_path / "here/t.csv").read_bytes()


@pytest.mark.usefixtures("workers")
@pytest.mark.parametrize("form", daily(["csv", "several", "parquet"], ["parquet"]))
def test_the_table_is_that_of_one_machine(scheduler: str, files: dict[str, tuple[str, ...]], form: str) -> None:
    done: list[tuple[int, int]] = []
    for asked in REQUESTS:
        progress = lambda number, parts: done.append((number, parts))  # noqa: E731
        assert table(asked, files[form], scheduler, progress=progress) == table(asked, files[form])
    parts = done[0][1]
    assert parts > 4
    assert done == [(number, parts) for _ in REQUESTS for number in range(1, parts + 1)]


def test_a_worker_that_is_lost_half_way_is_done_without(
    scheduler: str, workers: list["subprocess.Popen[bytes]"], files: dict[str, tuple[str, ...]]
) -> None:
    third = worker(scheduler)
    lost: list[int] = []

    def lose(done: int, _: int) -> None:
        if not lost:
            lost.append(done)
            os.kill(workers[1].pid, signal.SIGKILL)

    try:
        assert table(REQUESTS[1], files["csv"], scheduler, progress=lose) == table(REQUESTS[1], files["csv"])
        assert lost == [1]
    finally:
        third.kill()
        third.wait(30)


@pytest.mark.usefixtures("workers")
def test_what_is_wrong_with_a_record_is_told_with_its_line(scheduler: str, tmp_path: Path) -> None:
    lines = [f"a,{number}" for number in range(400)]
    lines[300] = "a,many"
    path = tmp_path / "r.csv"
    path.write_text("k,v\n" + "\n".join(lines) + "\n", "utf-8")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(cluster, "_PART", 500)
        with pytest.raises(RecordsError, match="line 302"):
            table({"by": ("k",), "measure": ("v",)}, (str(path),), scheduler)


@pytest.mark.usefixtures("workers")
def test_a_file_that_a_worker_does_not_find_is_told(scheduler: str, tmp_path: Path) -> None:
    path = tmp_path / "r.jsonl"
    path.write_text('{"k": "a"}\n{"k": "b"}\n', "utf-8")
    kind = kind_named("table")
    requests = filled(kind.models, {"by": ("k",), "file": (str(path),)})
    opened = open_records(requests[RecordsRequest])
    path.unlink()
    with pytest.raises(RecordsError, match="No such file"):
        make(kind, requests, opened, partial(read_on_cluster, scheduler=scheduler, progress=silent))


@pytest.mark.usefixtures("workers")
def test_workers_that_differ_are_refused(
    scheduler: str, files: dict[str, tuple[str, ...]], monkeypatch: pytest.MonkeyPatch
) -> None:
    with monkeypatch.context() as patch:
        patch.setattr(cluster, "version", lambda name: f"{name}-other")
        with pytest.raises(RequestError, match=r"Worker tcp://.* has grainstack .* instead of grainstack-other"):
            table(REQUESTS[0], files["csv"], scheduler)
    with monkeypatch.context() as patch:
        patch.setattr(cluster, "versions", absent)  # of a module that workers do not have
        with pytest.raises(RequestError, match=r"Worker tcp://.* cannot load|does not answer as it should"):
            table(REQUESTS[0], files["csv"], scheduler)
