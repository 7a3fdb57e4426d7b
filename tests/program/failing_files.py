"""A program whose file layer fails: run with a command, it tells how each single failure ended.

`python failing_files.py FOLDER COMMAND…` runs the command in the folder once undisturbed, and once for every time it
opens, reads, writes, flushes, closes, makes, renames, lists or removes a file there, with just that one failing. It
prints a line of JSON for each.
"""

import builtins
import errno
import io
import json
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from grainstack.cli.main import run

WATCHED = {"open", "os.rename", "os.mkdir", "os.remove", "os.chmod", "os.scandir", "os.listdir", "os.truncate"}
ERRORS = (errno.EIO, errno.ENOSPC, errno.EACCES)


class Failing:
    """Counts the calls to the file system in a folder, and has one of them fail."""

    def __init__(self, folder: Path) -> None:
        self.folder = str(folder)
        self.count, self.fails, self.active, self.failed = 0, -1, False, ""

    def __call__(self, event: str, arguments: tuple[Any, ...]) -> None:
        """As an audit hook."""
        if not self.active or event not in WATCHED or not isinstance(arguments[0], str | os.PathLike):
            return
        self.step(os.path.abspath(os.fspath(arguments[0])), event)  # noqa: PTH100 - links are not followed

    def watches(self, path: str) -> bool:
        """Whether what is done to a file may fail now."""
        return self.active and path.startswith(self.folder)

    def step(self, path: str, what: str) -> None:
        """Something is done to a file."""
        if not self.watches(path):
            return
        self.count += 1
        if self.count - 1 == self.fails:
            self.failed = what
            code = ERRORS[self.fails % len(ERRORS)]
            raise OSError(code, os.strerror(code), path)


class Raw(io.FileIO):
    """A file of which a single read or write, or the closing, may fail."""

    failing: Failing
    path: str

    def readinto(self, into: Any) -> int | None:  # noqa: ANN401 - any buffer
        """As a file."""
        self.failing.step(self.path, "read")
        return super().readinto(into)

    def readall(self) -> bytes | None:  # type: ignore[override] # as the file itself
        """As a file."""
        self.failing.step(self.path, "read")
        return super().readall()

    def write(self, content: Any) -> int | None:  # type: ignore[override] # noqa: ANN401 - any buffer
        """As a file."""
        self.failing.step(self.path, "write")
        return super().write(content)

    def close(self) -> None:
        """As a file, which is closed in any case."""
        was_open = not self.closed
        super().close()
        if was_open and hasattr(self, "path"):
            self.failing.step(self.path, "close")


def watch(failing: Failing) -> None:
    """Has files be opened, and flushed to the disk, such that it may fail."""
    plain, plain_sync = io.open, os.fsync

    def opened(file: Any, mode: str = "r", buffering: int = -1, *more: Any, **named: Any) -> Any:  # noqa: ANN401
        path = _path_of(file)
        if not failing.watches(path):
            return plain(file, mode, buffering, *more, **named)
        asked = dict(zip(("encoding", "errors", "newline", "closefd", "opener"), more, strict=False)) | named
        raw = Raw(file, mode.replace("b", "").replace("t", ""), asked.get("closefd", True), asked.get("opener"))
        raw.failing, raw.path = failing, path
        if buffering == 0:
            return raw
        kind = io.BufferedRandom if "+" in mode else io.BufferedReader if "r" in mode else io.BufferedWriter
        buffered = kind(raw)
        texts: dict[str, Any] = {name: asked.get(name) for name in ("encoding", "errors", "newline")}
        return buffered if "b" in mode else io.TextIOWrapper(buffered, **texts)

    def synced(handle: Any) -> None:  # noqa: ANN401 - a number, or what has one
        failing.step(_path_of(handle), "flush")
        plain_sync(handle)

    for module, name, made in ((builtins, "open", opened), (io, "open", opened), (os, "fsync", synced)):
        setattr(module, name, made)


def _path_of(file: Any) -> str:  # noqa: ANN401 - a path or a number
    if isinstance(file, int):
        return str(Path(f"/proc/self/fd/{file}").readlink())
    return os.path.abspath(os.fsdecode(file))  # noqa: PTH100 - links are not followed


@contextmanager
def _quiet() -> Iterator[io.TextIOWrapper]:
    before = sys.stdout, sys.stderr
    sys.stdout, sys.stderr = (io.TextIOWrapper(io.BytesIO(), "utf-8", write_through=True) for _ in range(2))
    try:
        yield sys.stderr
    finally:
        sys.stdout, sys.stderr = before


def _once(command: list[str], failing: Failing, fails: int) -> tuple[int, str]:
    failing.count, failing.fails, failing.failed = 0, fails, ""
    sys.argv = ["grainstack", *command]
    with _quiet() as messages:
        failing.active = True
        try:
            code = run()
        finally:
            failing.active = False
        return code, messages.buffer.getvalue().decode()  # type: ignore[attr-defined]


def _files(folder: Path) -> dict[str, bytes]:
    return {path.relative_to(folder).as_posix(): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def _reset(folder: Path, before: dict[str, bytes]) -> None:
    """The folder as it was; what is as it was already keeps its time."""
    for name in set(_files(folder)) - set(before):
        (folder / name).unlink()
    for path in sorted((one for one in folder.rglob("*") if one.is_dir()), reverse=True):
        if not any(path.iterdir()):
            path.rmdir()
    for name, content in before.items():
        path = folder / name
        if not path.is_file() or path.read_bytes() != content:
            path.write_bytes(content)


def _tell(about: dict[str, Any]) -> None:
    if sys.__stdout__ is not None:
        sys.__stdout__.write(json.dumps(about) + "\n")


def main() -> None:
    """Prints what every failure came to."""
    folder, command = Path(sys.argv[1]).resolve(), sys.argv[2:]
    os.chdir(folder)
    failing = Failing(folder)
    sys.addaudithook(failing)
    watch(failing)
    before = _files(folder)
    _once(command, failing, -1)  # what is loaded once is loaded
    _reset(folder, before)
    code, said = _once(command, failing, -1)
    after, count = _files(folder), failing.count
    _tell({"code": code, "said": said, "count": count, "new": sorted(set(after) - set(before))})
    for fails in range(count):
        _reset(folder, before)
        code, said = _once(command, failing, fails)
        failed = failing.failed
        there = _files(folder)
        odd = [name for name, content in there.items() if content not in (before.get(name), after.get(name))]
        lost = [name for name in before if name not in there]
        _once(command, failing, -1)
        same = _files(folder) == after
        _tell({"at": fails, "failed": failed, "code": code, "said": said, "odd": odd, "lost": lost, "same": same})


if __name__ == "__main__":
    main()
