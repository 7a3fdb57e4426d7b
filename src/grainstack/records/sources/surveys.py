"""Records of a survey with their description in Triple-S: rows of commas, or lines with everything at its place."""

import csv
import io
from collections.abc import Sequence
from pathlib import Path

import pyarrow as pa

from grainstack.errors import RecordsError
from grainstack.option_names import option
from grainstack.records.codebook.triple_s import Field, answers_in, layout_of
from grainstack.records.codebook.xml_tree import called, root_of
from grainstack.records.sources.decoding import Utf8Stream
from grainstack.records.sources.memory import MemorySource
from grainstack.records.sources.opening import Bytes, FileBytes

_ENDINGS = (".csv", ".asc", ".dat", ".txt")  # of data that a description does not name


def triple_s_source(content: Bytes) -> MemorySource:
    """The records that a Triple-S description goes with, as text.

    Args:
        content: The description; a file, as its data lie beside it.

    Raises:
        RecordsError: There are no such data, or they do not fit the description.
    """
    with content.open() as file:
        root = root_of(file.read(), content.name)
    if called(root) != "sss" or not isinstance(content, FileBytes):
        name = f"codebook {content.name} {option('out', 'codebook.toml')}"
        raise RecordsError(f"{content.name} holds no records.", f"A description becomes a codebook: grainstack {name}.")
    layout = layout_of(root, content.name)
    data = _data_of(content.path, layout.href)
    stream = Utf8Stream(FileBytes(data, allow_large=content.allow_large))
    try:
        text = stream.read().decode("utf-8")
    finally:
        stream.close()
    rows = list(csv.reader(io.StringIO(text, newline=""))) if layout.is_csv else text.splitlines()
    columns: dict[str, list[str]] = {field.name: [] for field in layout.fields}
    for number, row in enumerate(rows, 1):
        if number > layout.skipped and row:
            for field in layout.fields:
                columns[field.name].append(_value(field, row, f"{data.name}, line {number}"))
    source = MemorySource(
        pa.table({name: pa.array(values, pa.string()) for name, values in columns.items()}), data.name
    )
    source.notes = (f"Read the records of {content.name} from {data.name}.", *((stream.note,) if stream.note else ()))
    return source


def data_beside(description: Path) -> list[Path]:
    """The file of the data that a description goes with; none for a description that goes with none.

    Raises:
        RecordsError: It is no XML, or its data are not there.
    """
    root = root_of(description.read_bytes(), description.name)
    return [_data_of(description, layout_of(root, description.name).href)] if called(root) == "sss" else []


def _data_of(description: Path, href: str) -> Path:
    """The file of the data beside a description.

    Args:
        description: The description.
        href: What it calls its data; empty where it does not name them.

    Raises:
        RecordsError: There is none.
    """
    if href:
        found = description.parent / Path(href).name
        wanted = found.name
    else:
        beside = [description.with_suffix(ending) for ending in _ENDINGS]
        found = next((path for path in beside if path.is_file()), beside[0])
        wanted = " or ".join(path.name for path in beside)
    if not found.is_file():
        raise RecordsError(
            f"{description.name} describes the records of {wanted}, which is not there.", "Put it there."
        )
    return found


def _value(field: Field, row: Sequence[str], where: str) -> str:
    """The value of a variable in a row of fields or a line.

    Raises:
        RecordsError: The row ends before it.
    """
    if len(row) < field.start:
        what = f"column {field.start}" if isinstance(row, str) else f"field {field.start}"
        raise RecordsError(f"{where} ends before {what}, where `{field.name}` stands.", "Export the survey again.")
    text = "".join(row[field.start - 1 : field.end])
    return answers_in(field, text) if field.codes else text.strip()
