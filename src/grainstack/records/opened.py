"""Records that have been opened: their source, and the codebook that goes with them."""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from grainstack.endings import SURVEY_ENDINGS
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.codebook.file import read_codebook
from grainstack.records.records_request import RecordsRequest
from grainstack.records.source import Collected, Measured, Ordered, Source
from grainstack.records.sources import open_source
from grainstack.records.sources.choosing import input_files
from grainstack.records.sources.computed import computed


class Opened(Struct, frozen=True):
    """Records ready to be read.

    Attributes:
        source: Where they are.
        codebook: What is known of their columns.
        beside: The codebook that was found beside the records without being named; None when there was none.
        folder: The folder of the codebook, which files it names are in; None without one.
    """

    source: Source
    codebook: Codebook
    beside: Path | None = None
    folder: Path | None = None

    @property
    def noun(self) -> str:
        """What a record is, in the plural."""
        nouns = {self.codebook.noun(name) for name in self._files}
        return nouns.pop() if len(nouns) == 1 else self.codebook.noun("*")

    @property
    def is_complete(self) -> bool:
        """Whether the records are all there are, and no sample."""
        return all(self.codebook.is_complete(name) for name in self._files)

    @property
    def _files(self) -> tuple[str, ...]:
        return self.source.files if isinstance(self.source, Collected) else (self.source.name,)


def open_records(records: RecordsRequest) -> Opened:
    """Opens the records of a request with their codebook.

    Raises:
        RequestError: There is no such file, or an option does not suit it.
        RecordsError: Records or codebook cannot be read.
    """
    path = codebook_of(records.file, records.codebook)
    codebook = Codebook() if path is None else read_codebook(path)
    opened = opened_with(source_of(records), codebook, records)
    is_beside = not records.codebook and path is not None and str(path) not in records.file
    return replace(opened, beside=path if is_beside else None, folder=path.parent if path else None)


def opened_with(source: Source, codebook: Codebook, records: RecordsRequest) -> Opened:
    """A source and a codebook put together: the orders and units it stores, and the columns worked out from others.

    Args:
        source: Where the records are.
        codebook: What is known of their columns.
        records: What is asked of them.

    Raises:
        RequestError: A column cannot be worked out.
    """
    if isinstance(source, Ordered):
        codebook = codebook.with_orders(source.orders())
    if isinstance(source, Measured):
        codebook = codebook.with_units(source.units)
    if records.compute:
        source = computed(source, records, codebook)
    return Opened(source, codebook)


def source_of(records: RecordsRequest) -> Source:
    """The source that a request names, with the columns it has by itself.

    Raises:
        RequestError: There is no such file, or an option does not suit it.
        RecordsError: It cannot be read.
    """
    return open_source(
        records.file,
        sheet=records.sheet,
        header_row=records.header_row,
        header_lines=records.header_lines,
        query=records.query,
        allow_large=records.allow_large,
        keep_totals=records.keep_totals,
    )


def inputs_of(records: RecordsRequest) -> list[Path]:
    """The files a request reads, which nothing may write."""
    codebook = codebook_of(records.file, records.codebook)
    return [*input_files(records.file), *([codebook] if codebook else [])]


def codebook_of(files: Sequence[str], named: str | None) -> Path | None:
    """The codebook named, the first file if it describes its records, or one in its folder; None when there is none."""
    if named:
        return Path(named)
    first = files[0] if files else "-"
    if first.lower().endswith(SURVEY_ENDINGS):
        return Path(first)
    if first == "-" or "://" in first:
        return None
    path = Path(first.partition("#")[0]).parent / "codebook.toml"
    return path if path.is_file() else None
