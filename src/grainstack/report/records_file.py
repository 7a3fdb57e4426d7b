"""Records as files: CSV, JSON Lines, Parquet and Arrow IPC."""

import csv
import io
import json
from typing import BinaryIO

import pyarrow as pa
from pyarrow import parquet

from grainstack.records.derive import Derived
from grainstack.report.cells import harmless, is_formula


def write_records(derived: Derived, ending: str, file: BinaryIO, *, plain: bool = False) -> int:
    """Writes records in the format of a file ending; the same records give the same bytes.

    Args:
        derived: The records.
        ending: The ending.
        file: Where to.
        plain: Whether text in CSV stays as it is, even where a spreadsheet would take it for a formula.

    Returns:
        How many texts were written so that no spreadsheet runs them.
    """
    if ending == ".csv":
        return _write_csv(derived, file, plain=plain)
    {".jsonl": _write_json_lines, ".parquet": _write_parquet, ".arrow": _write_arrow}[ending](derived, file)
    return 0


def _write_csv(derived: Derived, file: BinaryIO, *, plain: bool) -> int:
    text = io.TextIOWrapper(file, encoding="utf-8", newline="", write_through=True)
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(derived.columns if plain else map(harmless, derived.columns))
    guarded = 0
    for batch in derived.batches(typed=False):
        columns = [["" if value is None else value for value in column.to_pylist()] for column in batch.columns]
        if not plain:
            guarded += sum(is_formula(value) for column in columns for value in column if isinstance(value, str))
            columns = [list(map(harmless, column)) for column in columns]
        writer.writerows(zip(*columns, strict=True))
    text.detach()
    return guarded


def _write_json_lines(derived: Derived, file: BinaryIO) -> None:
    for batch in derived.batches(typed=True):
        file.writelines(
            json.dumps({name: _plain(value) for name, value in row.items()}, ensure_ascii=False).encode() + b"\n"
            for row in batch.to_pylist()
        )


def _write_parquet(derived: Derived, file: BinaryIO) -> None:
    writer: parquet.ParquetWriter | None = None
    for batch in derived.batches(typed=True):
        writer = writer or parquet.ParquetWriter(file, batch.schema)
        writer.write_batch(batch)
    if writer is None:
        writer = parquet.ParquetWriter(file, _empty_schema(derived))
    writer.close()


def _write_arrow(derived: Derived, file: BinaryIO) -> None:
    writer: pa.RecordBatchFileWriter | None = None
    for batch in derived.batches(typed=True):
        writer = writer or pa.ipc.new_file(file, batch.schema)
        writer.write_batch(batch)
    writer = writer or pa.ipc.new_file(file, _empty_schema(derived))
    writer.close()


def _empty_schema(derived: Derived) -> pa.Schema:
    return pa.schema([(name, pa.string()) for name in derived.columns])


def _plain(value: object) -> object:
    return int(value) if isinstance(value, float) and value.is_integer() else value
