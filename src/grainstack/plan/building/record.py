"""The record a build leaves beside its outputs: what each was made of, and the figures in it.

The next build skips what would come out the same; `changes` compares the figures of two builds.
"""

import json
from collections.abc import Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from grainstack import __version__
from grainstack.digests import digest_of_file

RECORD = "build.json"
_LAYOUT = 1  # of the file; a record of another layout counts as none


class FileState(Struct, frozen=True):
    """A file as it was when it was read.

    Attributes:
        size: Its bytes.
        modified: When it was changed last, in nanoseconds.
        content: The digest of its content.
    """

    size: int
    modified: int
    content: str


class FigureRecord(Struct, frozen=True):
    """A figure of an entry.

    Attributes:
        cell: The level of each column that makes up its cell, by the column's name.
        figure: What it is: `Mean waiting time`.
        estimate: The figure, unrounded; None where there is none.
        shown: The figure as the table or chart writes it.
        base: The records it rests on; None where they must not be shown.
        flags: Why it should not be taken as solid.
    """

    cell: Mapping[str, str]
    figure: str
    estimate: float | None
    shown: str
    base: int | None
    flags: tuple[str, ...] = ()


class EntryRecord(Struct, frozen=True):
    """What was made of an entry.

    Attributes:
        made_of: The digest of everything it was made of; empty where that cannot be told, as for a database.
        outputs: The digests of its files, by their names.
        figures: Its figures.
    """

    made_of: str
    outputs: Mapping[str, str]
    figures: tuple[FigureRecord, ...] = ()


class BuildRecord(Struct, frozen=True):
    """What a folder was built of.

    Attributes:
        files: The files that were read, by their paths from the folder of the plan.
        entries: What was made, by what tells entries apart: `wait`, or `dunmar/wait` for those of a level.
        levels: Codes and labels of columns whose levels had to be known, by the digests of what they were read from.
        colors: The codes of columns in the order in which charts gave them colours, by the column.
    """

    files: Mapping[str, FileState] = field(default_factory=dict)
    entries: Mapping[str, EntryRecord] = field(default_factory=dict)
    levels: Mapping[str, tuple[tuple[str, str], ...]] = field(default_factory=dict)
    colors: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


def read_record(folder: Path) -> BuildRecord:
    """The record of a folder; an empty one where there is none that can be read.

    Args:
        folder: Where outputs were written.
    """
    try:
        content = json.loads((folder / RECORD).read_text("utf-8"))
        if content["layout"] != _LAYOUT:
            return BuildRecord()
        files = {path: FileState(**state) for path, state in content["files"].items()}
        levels = {key: tuple((code, label) for code, label in of_it) for key, of_it in content["levels"].items()}
        colors = {column: tuple(map(str, codes)) for column, codes in content.get("colors", {}).items()}
        return BuildRecord(files, {name: _entry_of(one) for name, one in content["entries"].items()}, levels, colors)
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return BuildRecord()


def record_as_json(record: BuildRecord) -> bytes:
    """A record as the content of its file."""
    content = {
        "layout": _LAYOUT,
        "program": __version__,
        "files": {
            path: {"size": one.size, "modified": one.modified, "content": one.content}
            for path, one in sorted(record.files.items())
        },
        "levels": {key: list(of_it) for key, of_it in sorted(record.levels.items())},
        "colors": {column: list(codes) for column, codes in sorted(record.colors.items())},
        "entries": {
            name: {
                "made_of": one.made_of,
                "outputs": dict(one.outputs),
                "figures": [_as_row(figure) for figure in one.figures],
            }
            for name, one in record.entries.items()
        },
    }
    return (json.dumps(content, ensure_ascii=False, indent=1, allow_nan=False) + "\n").encode()


def _as_row(figure: FigureRecord) -> list[Any]:
    return [dict(figure.cell), figure.figure, figure.estimate, figure.shown, figure.base, list(figure.flags)]


def _entry_of(content: Mapping[str, Any]) -> EntryRecord:
    rows = content["figures"]
    figures = [
        FigureRecord(cell, name, number, text, base, tuple(flags)) for cell, name, number, text, base, flags in rows
    ]
    return EntryRecord(content["made_of"], content["outputs"], tuple(figures))


class FileStates:
    """The states of files, each worked out once; the content of one that looks the same is not read again.

    Contents can be looked at while something else goes on: records can be large, and mostly they are read anyway.

    Args:
        folder: The folder their paths are told from.
        before: What is known of them from last time.
        ahead: Whether contents are looked at before they are asked for.
    """

    def __init__(self, folder: Path, before: Mapping[str, FileState], *, ahead: bool = False) -> None:
        self._folder = folder.resolve()
        self._before = before
        self._ahead = ahead
        self._paths: dict[str, Path] = {}
        self._seen: dict[str, tuple[int, int]] = {}
        self._contents: dict[str, Future[str]] = {}
        self._looking: ThreadPoolExecutor | None = None

    def look(self, path: Path) -> tuple[int, int] | None:
        """The size of a file and when it was changed last; None where it is none, such as a pipe.

        Args:
            path: The file.
        """
        if not path.is_file():
            return None
        name = self.name_of(path)
        if name not in self._seen:
            about = path.stat()
            self._seen[name] = (about.st_size, about.st_mtime_ns)
            self._paths[name] = path
            if self._ahead:
                self._content(name)
        return self._seen[name]

    def of(self, path: Path) -> FileState:
        """The state of a file that was looked at, with its content."""
        return self._state(self.name_of(path))

    @property
    def known(self) -> dict[str, FileState]:
        """The states of all files that were looked at, by their names."""
        return {name: self._state(name) for name in self._seen}

    def name_of(self, path: Path) -> str:
        """The path of a file from the folder of the plan, as far as it lies there."""
        whole = path.resolve()
        return whole.relative_to(self._folder).as_posix() if whole.is_relative_to(self._folder) else str(whole)

    def _state(self, name: str) -> FileState:
        return FileState(*self._seen[name], self._content(name).result())

    def _content(self, name: str) -> "Future[str]":
        """The content of a file, which is looked at from now on."""
        if name not in self._contents:
            before = self._before.get(name)
            if before is not None and (before.size, before.modified) == self._seen[name]:
                self._contents[name] = Future()
                self._contents[name].set_result(before.content)
            else:
                self._looking = self._looking or ThreadPoolExecutor(1)
                self._contents[name] = self._looking.submit(digest_of_file, self._paths[name])
        return self._contents[name]
