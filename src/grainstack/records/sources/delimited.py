"""Records in delimited text: commas, semicolons, tabs or bars between the columns, one header line on top."""

import csv
import io
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import closing
from copy import copy

import pyarrow as pa

from grainstack.errors import RecordsError, listed
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.records.arrow import HEAD_ROWS, text_rows
from grainstack.records.numerals import parsed
from grainstack.records.source import Source, Stretch, ready
from grainstack.records.sources.byte_range import ByteRange
from grainstack.records.sources.decoding import Utf8Stream
from grainstack.records.sources.headers import (
    HEAD,
    PREAMBLE,
    SEPARATORS,
    BelowLines,
    header_remedy,
    hidden_header,
    separator_of,
    some_rows,
    units_line,
)
from grainstack.records.sources.opening import LONGEST_OF_ALL, Bytes, check_length, too_long
from grainstack.records.sources.pieces import Cutting, kernel, pieces_of

csv.field_size_limit(2**31 - 1)  # what a quotation mark that is never closed swallows must be read to be told of
_SEEN = 3  # values of a column without a name tell which it is
_LINES = 3  # that are looked at, at least: the header, a record, and a line that may be cut off
_LONGEST = 1 << 26  # bytes of a first line
_BLOCK = 1 << 22
_DECIMAL_COMMA = re.compile(r"[-+]?\d+,(\d{1,2}|\d{4,})")
_ENOUGH = 400  # rows that tell whether a column has many different values
_LEVELS = pa.dictionary(pa.int32(), pa.string())


class DelimitedSource:
    """A file of delimited text.

    Every column is given as text in dictionary form: what a value means is decided by what it is used for, never
    guessed from how it looks, so the code `00123` stays `00123`.
    """

    def __init__(self, content: Bytes, above: int = 0, *, is_header: bool = False) -> None:
        self._content = content
        self._above = above  # lines of the file over these bytes
        self.units = content.units if isinstance(content, BelowLines) else {}
        self.name = content.name
        self._encoding_note = ""
        self._range: ByteRange | None = None  # the part of the file that is read; None for all of it
        with closing(self._stream()) as stream:
            start = self._start_of(stream)
            self._starts_otherwise = not stream.is_utf8
        head = start.decode("utf-8", "ignore")
        if not head.strip():
            raise RecordsError(f"{self.name} is empty.", "It needs a header line with the names of the columns.")
        self.separator = separator_of(head)
        self._head = head
        self.columns = self._header(head)
        if len(self.columns) == 1 and not is_header:
            self._check_below(head)
        self.decimal = "," if self.separator == ";" and _has_decimal_commas(head, self.separator) else "."
        self._has_rows = len(start) >= HEAD or len(list(some_rows(head, self.separator, most=2))) > 1

    def _start_of(self, stream: Utf8Stream) -> bytes:
        """The first bytes: the whole header, and more of the records where it is short."""
        start = stream.read(HEAD)
        while start.count(b"\n") < _LINES and len(start) >= HEAD and (more := stream.read(max(len(start), HEAD))):
            start += more
            if len(start) > _LONGEST:
                if b"\n" in start:
                    break
                raise RecordsError(
                    f"{self.name} has a first line of more than {_LONGEST >> 20} MB: it is no table.",
                    "It needs a header line with the names of the columns.",
                )
        return start

    @property
    def notes(self) -> tuple[str, ...]:
        """The encoding, when it had to be assumed, and a first record that seems to hold units."""
        return (*((self._encoding_note,) if self._encoding_note else ()), *self._about_units())

    def _about_units(self) -> tuple[str, ...]:
        rows = list(some_rows(self._head, self.separator, most=HEAD_ROWS + 1))[1:]
        units = units_line(self.columns, rows, self.decimal) if not self.units else []
        if not units:
            return ()
        text = phrase(
            "The first record of {file} seems to hold units ({units}): {option} reads them as such.",
            file=self.name,
            units=listed(units),
            option=option("header_lines", "2"),
        )
        return (text,)

    def _check_below(self, head: str) -> None:
        """Refuses words above a table, where these would be taken for its only column.

        Raises:
            RecordsError: Names the line of the header.
        """
        line, separator = hidden_header(head)
        if line:
            words = "1 line" if line == 2 else f"{line - 1} lines"
            raise RecordsError(
                f"{self.name} begins with {words} without {SEPARATORS[separator]}, which stand between columns below.",
                f"Line {line + self._above} looks like the header: {option('header_row', str(line + self._above))}; "
                f"{option('header_row', str(1 + self._above))} takes the first one.",
            )

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, as dictionary-coded text; see `Source.batches`."""
        for stretch in self.stretches(columns):
            yield stretch()

    def stretches(self, columns: Sequence[str]) -> Iterator[Stretch]:
        """The rows in order, in stretches that can be read on several cores at once; see `Divisible`."""
        if kernel is None or len(self.columns) == 1:  # there an empty line is a record, but not at the end
            yield from ready(self._batches(columns))
            return
        varied = self._varied()
        wanted = [(place, name in varied) for place, name in enumerate(self.columns) if name in columns]
        cutting = Cutting(
            ord(self.separator), self.columns, wanted, self._explained, self._check_quotes, self._check_length
        )
        if self._range is not None:
            yield from self._range.pieces(cutting)
            return
        stream = self._stream()
        try:
            yield from pieces_of(stream.chunks(), cutting)
        finally:
            self._encoding_note = stream.note
            stream.close()

    def _batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The same rows, read by Arrow."""
        if not self._has_rows:
            return
        from pyarrow import csv as arrow_csv  # noqa: PLC0415 - seldom needed

        stream = self._stream()
        block = LONGEST_OF_ALL if self._content.allow_large else _BLOCK  # no record may be longer than a block
        varied = self._varied()
        names = {name: raw for name, raw in zip(self.columns, self._raw_columns, strict=True) if name in columns}
        try:
            reader = arrow_csv.open_csv(
                pa.PythonFile(stream, mode="r"),
                read_options=arrow_csv.ReadOptions(
                    block_size=block, skip_rows=self._blank_lines if len(self.columns) == 1 else 0
                ),
                parse_options=arrow_csv.ParseOptions(
                    delimiter=self.separator, newlines_in_values=True, ignore_empty_lines=len(self.columns) > 1
                ),
                convert_options=arrow_csv.ConvertOptions(
                    column_types={raw: pa.string() if name in varied else _LEVELS for name, raw in names.items()},
                    include_columns=list(names.values()),
                    strings_can_be_null=False,
                    check_utf8=False,
                ),
            )
            for batch in _without_blank_end(reader) if len(self.columns) == 1 else reader:
                if batch.num_rows:
                    yield batch.rename_columns(list(names))
            if stream.quotes % 2:
                self._check_quotes()
        except pa.ArrowInvalid as reason:
            if "straddling" in str(reason):
                raise too_long(block, self._content) from reason
            raise self._explained(reason) from reason
        finally:
            self._encoding_note = stream.note
            stream.close()

    def parts(self, size: int) -> "list[Source]":
        """Parts of about so many bytes; one alone where a part cannot be found without reading what is before it."""
        count = -(-self._content.size() // size)
        plain = self._content.is_plain() and "\n" in self._head and not self._starts_otherwise
        if kernel is None or len(self.columns) == 1 or not plain or count < 2:
            return [self]
        return [self._within(ByteRange(self._content, part * size, (part + 1) * size)) for part in range(count)]

    def span_read(self) -> tuple[int, int] | None:
        """The bytes at which its first record and the one after its last start; None where it is the whole file."""
        return None if self._range is None else (self._range.began, self._range.ended)

    def starting_at(self, place: int) -> "DelimitedSource":
        """The same part from where a record is known to start."""
        return self if self._range is None else self._within(self._range.starting_at(place))

    def _within(self, bytes_: ByteRange) -> "DelimitedSource":
        part = copy(self)
        part._range = bytes_  # noqa: SLF001 - of the same class
        return part

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns, as text."""
        rows = list(some_rows(self._head, self.separator, most=HEAD_ROWS + 1))
        return text_rows([row[: len(self.columns)] for row in rows[1:]], self.columns)

    def _varied(self) -> frozenset[str]:
        """The columns with so many different values that collecting these would cost more than it saves."""
        rows = list(some_rows(self._head, self.separator, most=HEAD_ROWS + 1))[1:]
        if len(rows) < _ENOUGH:
            return frozenset()
        kinds = [len(set(column)) for column in zip(*rows, strict=False)]
        return frozenset(name for name, count in zip(self.columns, kinds, strict=False) if count > len(rows) / 8)

    def place(self, record: int) -> str:
        """The line a record starts on; the header is line 1."""
        rows = ((line, row) for line, row in self._lines() if row or len(self.columns) == 1)
        before, header = (0, 1) if self._range is None or self._range.began == 0 else (self._range.lines_before(), 0)
        for index, (line, _) in enumerate(rows):
            if index == record + header:
                return f"line {before + line + self._above}"
        return f"record {record + 1}"

    def _stream(self) -> Utf8Stream:
        return Utf8Stream(self._content)

    def _check_length(self, size: int) -> None:
        check_length(size, self._content)

    def _check_quotes(self) -> None:
        """Refuses a quotation mark that is never closed: it would swallow all lines after it as one value."""
        line = 0
        try:
            for line, _ in self._lines(strict=True):  # noqa: B007 - the line is wanted after the loop
                pass
        except csv.Error as reason:
            if "unexpected end" in str(reason):
                raise RecordsError(
                    f"{self.name}: a quotation mark on line {line + 1 + self._above} or later is never closed.",
                    "Close it, or double it if it belongs to the text.",
                ) from None

    def _lines(self, *, strict: bool = False) -> Iterator[tuple[int, list[str]]]:
        """Every row with the line it starts on, read slowly: for telling a person where something is."""
        if self._range is not None:
            text = self._range.text()
        else:
            with closing(self._stream()) as stream:
                text = stream.read().decode("utf-8")
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=self.separator, strict=strict)
        while True:
            line = reader.line_num + 1
            row = next(reader, None)
            if row is None:
                return
            yield line, row

    def _header(self, head: str) -> tuple[str, ...]:
        """The names of the columns.

        Raises:
            RecordsError: A name is empty or stands twice.
        """
        reader = csv.reader(io.StringIO(head, newline=""), delimiter=self.separator)
        blank = 0
        for row in reader:
            if row:
                self._raw_columns = row
                break
            blank += 1
        self._blank_lines = blank  # before the header; where a line is one value, Arrow takes them for records
        names = [name.strip() for name in self._raw_columns]
        if not names[0] and "row" not in names and len(names) > 1:  # row numbers that a program wrote without a name
            names[0] = "row"
        empty = [number for number, name in enumerate(names) if not name]
        if empty:
            shown = [f"{number + 1}{self._seen_in(number)}" for number in empty]
            verb = "columns {} have" if len(empty) > 1 else "column {} has"
            raise RecordsError(
                f"{self.name}, line {blank + 1 + self._above}: {verb.format(listed(shown))} no name.",
                self.header_remedy or "Give every column a name.",
            )
        twice = [name for name, times in Counter(names).items() if times > 1]
        if twice:
            places = [
                f"`{name}` (columns {listed(str(i) for i, other in enumerate(names, 1) if other == name)})"
                for name in twice
            ]
            raise RecordsError(f"{self.name}: column names stand twice: {listed(places)}.", "Rename one of them.")
        return tuple(names)

    def _seen_in(self, number: int) -> str:
        """The first values of a column, for whoever looks for its name."""
        rows = list(some_rows(self._head, self.separator, most=_SEEN + 1))[1:]
        values = [row[number] for row in rows if number < len(row) and row[number].strip()]
        return f" ({listed(values)} …)" if values else ""

    @property
    def header_remedy(self) -> str:
        """What to do where the header seems to stand in other lines; empty where it does not."""
        lines = self._head.splitlines()[:PREAMBLE]
        return header_remedy([next(csv.reader([one], delimiter=self.separator), []) for one in lines], self._above)

    def _explained(self, reason: Exception) -> RecordsError:
        """What is wrong with the lines Arrow could not read, found by reading them again one by one."""
        expected = len(self.columns)
        before = self._range.lines_before() if self._range is not None else 0
        try:
            for line, row in self._lines():
                if row and len(row) != expected:
                    values = "1 value" if len(row) == 1 else f"{len(row)} values"
                    place = line + before + self._above
                    return RecordsError(
                        f"{self.name}, line {place}: {values}, but the header names {expected} columns.",
                        self.header_remedy or _ragged_remedy(row, self.separator),
                    )
        except csv.Error as other:
            return RecordsError(f"{self.name} cannot be read: {other}.")
        return RecordsError(f"{self.name} cannot be read: {reason}.")


def _without_blank_end(batches: Iterator[pa.RecordBatch]) -> Iterator[pa.RecordBatch]:
    """A single column, where an empty line is a record without an answer, except at the end of the file."""
    held: list[pa.RecordBatch] = []
    for batch in batches:
        texts = batch.column(0).to_pylist()
        filled = next((place for place in range(len(texts), 0, -1) if (texts[place - 1] or "").strip()), 0)
        if filled:
            yield from held
            held = [batch.slice(filled)]
            yield batch.slice(0, filled)
        else:
            held.append(batch)


def _ragged_remedy(row: list[str], separator: str) -> str:
    if any("\n" in value for value in row):
        return "A quotation mark that is never closed swallows the lines after it."
    return f"Put quotation marks around values that contain {SEPARATORS[separator]}, or add the missing ones."


def _has_decimal_commas(head: str, separator: str) -> bool:
    """Whether some column holds nothing but numbers of which some have a comma before one or two decimals or many.

    Three digits behind every comma could be thousands just as well, so they prove nothing.
    """
    rows = list(some_rows(head, separator, most=HEAD_ROWS))
    for column in range(len(rows[0])):
        texts = {text for row in rows[1:] if len(row) > column and (text := row[column].strip())}
        if any(_DECIMAL_COMMA.fullmatch(text) for text in texts) and all(
            parsed(text, ",") is not None for text in texts
        ):
            return True
    return False
