"""Records as JSON Lines: one object a line. Numbers keep the text they are written with."""

import json
from collections.abc import Iterator, Sequence
from contextlib import closing
from itertools import islice
from typing import Any

import pyarrow as pa

from grainstack.errors import RecordsError
from grainstack.records.arrow import HEAD_ROWS, text_column
from grainstack.records.codebook.codebook import trimmed
from grainstack.records.sources.decoding import Utf8Stream
from grainstack.records.sources.opening import Bytes, check_length

_ROWS = 50_000
_NESTED = pa.struct([("value", pa.string())])  # the type of what is no single value, which nobody reads


class JsonLinesSource:
    """A file with one JSON object a line; lists of plain values become several answers parted by semicolons."""

    decimal = "."

    def __init__(self, content: Bytes) -> None:
        self._content = content
        self.name = content.name
        self.notes: tuple[str, ...] = ()
        names: dict[str, None] = {}
        self._first = list(islice(self._records(), HEAD_ROWS))
        for _, record in self._first:
            names.update(dict.fromkeys(record))
        if not names:
            raise RecordsError(f"{self.name} is empty.", "It needs one JSON object a line.")
        self.columns = tuple(names)
        self._nested = {name for _, record in self._first for name, value in record.items() if _is_nested(value)}

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, as text."""
        rows: list[dict[str, Any]] = []
        for line, record in self._records():
            if not record.keys() <= set(self.columns):
                new = next(name for name in record if name not in self.columns)
                raise RecordsError(
                    f"{self.name}, line {line}: `{new}` is not among the names of the lines before.",
                    "Give the first lines every name, with null where there is no value.",
                )
            rows.append({name: _text(record.get(name), self.name, line, name) for name in columns})
            if len(rows) == _ROWS:
                yield _batch(rows, columns)
                rows = []
        if rows:
            yield _batch(rows, columns)

    def head(self) -> pa.RecordBatch:
        """The first rows with all names, as text; names of nested values have structures without anything in them."""
        plain = [name for name in self.columns if name not in self._nested]
        rows = [
            {name: _text(record.get(name), self.name, line, name) for name in plain} for line, record in self._first
        ]
        arrays = dict(zip(plain, _batch(rows, plain).columns, strict=True))
        nested = pa.nulls(len(rows), _NESTED)
        return pa.RecordBatch.from_arrays([arrays.get(name, nested) for name in self.columns], names=list(self.columns))

    def place(self, record: int) -> str:
        """The line of a record."""
        for place, (line, _) in enumerate(self._records()):
            if place == record:
                return f"line {line}"
        return f"record {record + 1}"

    def _records(self) -> Iterator[tuple[int, dict[str, Any]]]:
        with closing(Utf8Stream(self._content)) as stream:
            line, rest = 0, b""
            while part := stream.read(1 << 20):
                *whole, rest = (rest + part).split(b"\n")
                check_length(len(rest), self._content)
                for text in whole:
                    line += 1
                    if text.strip():
                        yield line, self._parsed(text, line)
            if rest.strip():
                yield line + 1, self._parsed(rest, line + 1)
            self.notes = (stream.note,) if stream.note else ()

    def _parsed(self, text: bytes, line: int) -> dict[str, Any]:
        try:
            record = json.loads(text, parse_int=str, parse_float=trimmed)
            if b"\\u" in text:
                json.dumps(record, ensure_ascii=False).encode()
        except UnicodeEncodeError:
            raise RecordsError(
                f"{self.name}, line {line} holds half a character, written \\ud8… alone.", "Mend it there."
            ) from None
        except ValueError as reason:
            raise RecordsError(f"{self.name}, line {line} is no JSON: {reason}.") from reason
        except RecursionError:
            raise RecordsError(
                f"{self.name}, line {line} is nested too deeply.", "Flatten it first: one plain value a name."
            ) from None
        if not isinstance(record, dict):
            raise RecordsError(f"{self.name}, line {line} is no JSON object.", "Each line needs to be like {…}.")
        return record


def _batch(rows: list[dict[str, Any]], columns: Sequence[str]) -> pa.RecordBatch:
    arrays = [text_column([row[name] for row in rows]) for name in columns]
    return pa.RecordBatch.from_arrays(arrays, names=list(columns))


def _is_nested(value: object) -> bool:
    return isinstance(value, dict) or (isinstance(value, list) and not all(isinstance(item, str) for item in value))


def _text(value: object, source: str, line: int, name: str) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str):
        return value
    if isinstance(value, list) and all(isinstance(item, str) for item in value):
        return ";".join(value)
    raise RecordsError(
        f"{source}, line {line}: `{name}` holds {'a list' if isinstance(value, list) else 'an object'}, not a value.",
        "Flatten it first: one plain value a name.",
    )
