"""The source for what a person typed: by the ending of a file, else by its first bytes."""

import os
import sys
from collections.abc import Sequence
from glob import glob, has_magic
from pathlib import Path

from msgspec import Struct

from grainstack.compiled import compiled
from grainstack.endings import SURVEY_ENDINGS
from grainstack.errors import RecordsError, RequestError, did_you_mean, near_names
from grainstack.later import Later
from grainstack.option_names import option
from grainstack.records.source import Source
from grainstack.records.sources.headers import BelowLines
from grainstack.records.sources.opening import Bytes, FileBytes, RemoteBytes, StreamBytes, remote_files
from grainstack.records.sources.several import SeveralFiles
from grainstack.records.sources.totals_row import LARGEST, without_totals

kernel = compiled("grainstack.records.kernel")
READABLE = {
    **dict.fromkeys((".csv", ".tsv", ".tab", ".txt"), "delimited"),
    **dict.fromkeys((".jsonl", ".ndjson"), "json"),
    ".parquet": "parquet",
    ".arrow": "arrow",
    **dict.fromkeys((".xlsx", ".ods"), "spreadsheet"),
    **dict.fromkeys((".sqlite", ".sqlite3", ".db"), "sqlite"),
}
_MAGIC = (
    (b"PAR1", "parquet"),
    (b"ARROW1", "arrow"),
    (b"\xff\xff\xff\xff", "arrow"),
    (b"PK\x03\x04", "spreadsheet"),
    (b"SQLite format 3\x00", "sqlite"),
)
# What files of statistics programs and old spreadsheets end with: they are met with a sentence of their own.
_PROGRAM_ENDINGS = (".sav", ".zsav", ".por", ".dta", ".sas7bdat", ".xpt", ".rds", ".rdata", ".xls")
_POSTGRESQL = ("postgresql://", "postgres://")


def open_source(  # noqa: PLR0913 - a file may need any of these to be read
    addresses: Sequence[str],
    *,
    sheet: str | None = None,
    header_row: int | None = None,
    header_lines: int = 1,
    query: str | None = None,
    allow_large: bool = False,
    keep_totals: bool = False,
) -> Source:
    """Opens one file, several with the same columns, standard input (`-`) or a database.

    Args:
        addresses: Paths, patterns such as `wave_*.csv`, or one database address.
        sheet: The sheet of a spreadsheet file.
        header_row: Which of its rows, or of the lines of a text, names the columns, counted from 1.
        header_lines: How many rows or lines the header has.
        query: SQL for a database.
        allow_large: Whether files may unpack to any size, and hold records of any length.
        keep_totals: Whether a last row that adds up all others is a record too.

    Raises:
        RequestError: There is no such file, or it is a folder, or an option does not suit it.
        RecordsError: It cannot be read or has no usable header.
    """
    if kernel is not None:
        kernel.keep_memory()  # before Arrow has threads
    files = [path for address in addresses for path in _expanded(address)]
    part = _Part(sheet, header_row, header_lines, query, allow_large, keep_totals)
    if len(files) == 1:
        return _one(files[0], part)

    return SeveralFiles([_one(path, part) for path in files])


def is_database(address: str) -> bool:
    """Whether an address names a PostgreSQL database."""
    return address.startswith(_POSTGRESQL)


def is_remote(address: str) -> bool:
    """Whether an address names a file in object storage or on a distributed file system."""
    return "://" in address and not is_database(address)


def input_files(addresses: Sequence[str]) -> list[Path]:
    """The files behind some addresses, which a command must not write.

    Raises:
        RequestError: No file matches a pattern.
        RecordsError: A description of a survey cannot be read, or its data are not there.
    """
    wanted = [address for address in addresses if address != "-" and "://" not in address]
    files = [Path(path.partition("#")[0]) for address in wanted for path in _expanded(address)]
    surveys = [path for path in files if path.suffix.lower() in SURVEY_ENDINGS and path.is_file()]
    return [*files, *(data for path in surveys for data in _DATA_BESIDE(path))]


def _expanded(address: str) -> list[str]:
    if is_remote(address) and has_magic(address):
        return remote_files(address)
    if not has_magic(address) or "://" in address or Path(address).exists():
        return [address]
    found = sorted(glob(address))  # noqa: PTH207 - keeps the path as it was typed
    if not found:
        raise RequestError(f"No file matches {address}.", "Put quotation marks around a pattern, and check its folder.")
    return found


_READERS = {  # each loads what it needs: most records are text, and need nothing of the others
    "delimited": Later("records.sources.delimited", "DelimitedSource"),
    "json": Later("records.sources.json_lines", "JsonLinesSource"),
    "parquet": Later("records.sources.columnar", "ParquetSource"),
    "arrow": Later("records.sources.columnar", "ArrowSource"),
    "spreadsheet": Later("records.sources.spreadsheet", "SpreadsheetSource"),
    "sqlite": Later("records.sources.sqlite", "SqliteSource"),
    "survey": Later("records.sources.surveys", "triple_s_source"),
    "postgresql": Later("records.sources.postgresql", "PostgresqlSource"),
}
_DATA_BESIDE = Later("records.sources.surveys", "data_beside")


class _Part(Struct, frozen=True):
    """Which part of a file or database is wanted."""

    sheet: str | None
    header_row: int | None
    header_lines: int
    query: str | None
    allow_large: bool
    keep_totals: bool


def _one(address: str, part: _Part) -> Source:
    if is_remote(address):
        if address.startswith(("http://", "https://", "ftp://")):
            raise RequestError(
                f"{address} is no file here, and nothing is fetched from the web.", "Download it, and name the file."
            )
        return _by_format(RemoteBytes(address, allow_large=part.allow_large), "", part)
    if is_database(address):
        database: Source = _READERS["postgresql"](address, part.query)
        return database
    if address == "-":
        return _by_format(StreamBytes(sys.stdin.buffer, "standard input", allow_large=part.allow_large), "", part)
    path, _, table = address.partition("#")
    _check_path(path, whole=address)
    content: Bytes = FileBytes(Path(path), allow_large=part.allow_large)
    if not Path(path).is_file():
        with Path(path).open("rb") as stream:
            content = StreamBytes(stream, Path(path).name, allow_large=part.allow_large)
    return _by_format(content, table, part)


def _by_format(content: Bytes, table: str, part: _Part) -> Source:
    kind = _kind(content)
    if part.query and kind != "sqlite":
        raise RequestError(
            f"{content.name} is no database, so {option('query')} does not suit it.", f"Leave {option('query')} out."
        )
    if part.sheet and kind != "spreadsheet":
        raise RequestError(
            f"{content.name} has no sheets, so {option('sheet')} does not suit it.", f"Leave {option('sheet')} out."
        )
    about_header = "header_row" if part.header_row else "header_lines" if part.header_lines > 1 else ""
    if about_header and kind not in ("spreadsheet", "delimited"):
        raise RequestError(
            f"{content.name} has no header row, so {option(about_header)} does not suit it.",
            f"Leave {option(about_header)} out.",
        )
    source: Source
    if kind == "delimited":
        above = (part.header_row or 1) - 1
        if above or part.header_lines > 1:
            content = BelowLines(content, above, part.header_lines)
        above += part.header_lines - 1
        source = _READERS[kind](content, above, is_header=part.header_row is not None)
    else:
        more = {"spreadsheet": (part.sheet, part.header_row, part.header_lines), "sqlite": (table, part.query)}
        source = _READERS[kind](content, *more.get(kind, ()))
    if part.keep_totals or kind not in ("delimited", "spreadsheet") or content.size() > LARGEST:
        return source
    return without_totals(source)


def _kind(content: Bytes) -> str:
    """The format of some bytes: what they start with, else what their name ends with."""
    with content.open() as file:
        head = file.read(4096)
    for magic, kind in _MAGIC:
        if head.startswith(magic):
            return kind
    if Path(content.name).suffix.lower() in _PROGRAM_ENDINGS:
        raise RecordsError(
            f"{content.name} is a file of another program, in a form of its own.",
            "Export it from there as CSV, Parquet or .xlsx.",
        )
    if _is_binary(head) and not head.startswith((b"\xff\xfe", b"\xfe\xff")) and not _is_utf_16(head):
        raise RecordsError(
            f"{content.name} is no text and no format that is known: {', '.join(READABLE)}.",
            "Export the records as CSV or Parquet.",
        )
    if head.removeprefix(b"\xef\xbb\xbf").lstrip().startswith((b"<?xml", b"<sss", b"<codeBook")):
        return "survey"
    ending = Path(content.name.removesuffix(".gz").removesuffix(".zst")).suffix.lower()
    if ending in READABLE:
        return READABLE[ending]
    return "json" if head.lstrip()[:1] == b"{" else "delimited"


def _is_binary(head: bytes) -> bool:
    """Whether bytes are no text: one that is, wherever it stands, makes no difference to a file of thousands."""
    return len(head.translate(None, _TEXT)) > _STRAY * len(head)


def _is_utf_16(head: bytes) -> bool:
    """Whether every other byte is 0, as in Western text of two bytes a character."""
    return not any(head[1:200:2]) or not any(head[0:200:2])


_TEXT = bytes(byte for byte in range(256) if byte >= ord(" ") or byte in b"\t\n\r\f\x1b")
_STRAY = 0.05  # of the first bytes may be control characters in a text
_ENDLESS = ("/dev/zero", "/dev/full", "/dev/random", "/dev/urandom")


def _check_path(file: str, whole: str) -> None:
    path = Path(file)
    if path.is_dir():
        raise RequestError(f"{file} is a folder, not a file of records.", _files_in(path))
    if not path.exists():
        raise RequestError(f"There is no file {whole}.", _near_files(path))
    if path.is_char_device() and os.fspath(path.resolve()) in _ENDLESS:
        raise RequestError(f"{file} is a device that never ends, and holds no records.", "Name a file.")


def _files_in(folder: Path) -> str:
    files = sorted(item.name for item in folder.iterdir() if item.suffix.lower() in READABLE)
    return f"In it: {', '.join(files[:6])}." if files else ""


def _near_files(path: Path) -> str:
    if not path.parent.is_dir():
        return f"There is no folder {path.parent} either."
    names = [item.name for item in path.parent.iterdir() if item.is_file() and not item.name.startswith(".")]
    near = near_names(path.name, names)
    return did_you_mean(str(path.parent / name) for name in near) if near else ""
