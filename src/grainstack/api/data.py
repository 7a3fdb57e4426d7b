"""What a caller hands over as records: paths, addresses, tables of any library, or columns."""

import os
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol, runtime_checkable

import tomlkit
from msgspec.structs import replace

from grainstack.errors import RecordsError, RequestError
from grainstack.option_names import option
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.codebook.file import codebook_from_toml, read_codebook
from grainstack.records.opened import Opened, open_records, opened_with, source_of
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests

if TYPE_CHECKING:
    import pyarrow as pa

    from grainstack.records.source import Source

IN_MEMORY = "data"  # how messages and notes call records that have no file


@runtime_checkable
class ArrowStream(Protocol):
    """A table of any library that speaks the Arrow PyCapsule interface."""

    def __arrow_c_stream__(self, requested_schema: object = None) -> object:
        """Its record batches, as a capsule."""


Data = str | os.PathLike[str] | Sequence[str | os.PathLike[str]] | ArrowStream | Mapping[str, Sequence[Any]]
CodebookLike = str | os.PathLike[str] | Mapping[str, Any]


def files_of(data: Data) -> tuple[str, ...]:
    """The files or addresses that are handed over; a name of their own for records in memory."""
    if isinstance(data, str | os.PathLike):
        return (os.fspath(data),)
    if isinstance(data, Sequence) and not isinstance(data, ArrowStream):
        return tuple(os.fspath(one) for one in data)
    return (IN_MEMORY,)


def opened_of(data: Data, requests: Requests, codebook: CodebookLike | None) -> Opened:
    """The records ready to be read.

    Args:
        data: What was handed over.
        requests: What is asked of them.
        codebook: A codebook, as a path or as what its file would hold; None for one beside the file, or none.

    Raises:
        RequestError: It is nothing that records can be read from.
        RecordsError: It cannot be read.
    """
    request = requests[RecordsRequest]
    if are_files(data, codebook):
        return open_records(request)
    source = _source_of(data) if files_of(data) == (IN_MEMORY,) else source_of(request)
    folder = Path(os.fspath(codebook)).parent if isinstance(codebook, str | os.PathLike) else None
    return replace(opened_with(source, codebook_of(codebook), request), folder=folder)


def are_files(data: Data, codebook: CodebookLike | None) -> bool:
    """Whether records and codebook are files, so that a command can read the same."""
    return files_of(data) != (IN_MEMORY,) and not isinstance(codebook, Mapping)


def codebook_of(codebook: CodebookLike | None) -> Codebook:
    """A codebook as it was handed over."""
    if codebook is None:
        return Codebook()
    if isinstance(codebook, Mapping):
        return codebook_from_toml(tomlkit.dumps(dict(codebook)), option("codebook"))
    return read_codebook(Path(os.fspath(codebook)))


def _array_of(name: str, values: Iterable[object]) -> "pa.Array":
    """A column of a dictionary.

    Raises:
        RecordsError: Its values are no values, or of different kinds.
    """
    import pyarrow as pa  # noqa: PLC0415 - as below

    try:
        return pa.array(list(values))
    except (pa.ArrowException, TypeError) as reason:
        raise RecordsError(f"The values of `{name}` are no column: {reason}.", "Give a list of one kind.") from reason


def _source_of(data: Data) -> "Source":
    import pyarrow as pa  # noqa: PLC0415 - heavy, and needed by the first call only

    from grainstack.records.sources.memory import MemorySource  # noqa: PLC0415 - as above

    table: pa.Table
    if isinstance(data, ArrowStream):
        table = pa.table(data)
    elif isinstance(data, Mapping):
        arrays = {str(name): _array_of(str(name), values) for name, values in data.items()}
        lengths = {name: len(array) for name, array in arrays.items()}
        if len(set(lengths.values())) > 1:
            counts = ", ".join(f"`{name}` {length:,}" for name, length in lengths.items())
            raise RecordsError(f"The columns have different lengths: {counts}.", "Give each a value for every record.")
        table = pa.table(arrays)
    else:
        raise RequestError(
            f"Records cannot be read from a {type(data).__name__}.",
            "Hand over a path, a table of an Arrow-speaking library, or a dictionary of columns.",
        )
    return MemorySource(table, IN_MEMORY)
