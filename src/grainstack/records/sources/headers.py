"""The header of a table: the lines that name its columns, the units below them, and where it seems to stand."""

import csv
import io
from collections.abc import Iterator, Sequence
from typing import Any, BinaryIO

from msgspec import Struct

from grainstack.option_names import option
from grainstack.records.kinds import says_no_answer
from grainstack.records.numerals import form_of, parsed
from grainstack.records.sources.opening import Bytes

SEPARATORS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
HEAD = 1 << 18  # bytes of a text that are looked at first
PREAMBLE = 50  # lines in which the header of a table is looked for
_LONGEST_UNIT = 16  # letters: what is longer is an answer
_FEWEST = 2  # rows of numbers below a text that make a unit of it


class Header(Struct, frozen=True):
    """What the lines of a header say.

    Attributes:
        names: The columns; empty where one has no name.
        units: Their units, where the last line gives these.
    """

    names: tuple[str, ...]
    units: dict[str, str]


def header_of(lines: Sequence[Sequence[str]]) -> Header:
    """Names of columns from one line or several.

    Below a line that names every column stand units. Else a name is what stands above each other, where a text reaches
    over the empty cells right of it, as merged cells are written.

    Args:
        lines: The cells of each line.
    """
    width = max(map(len, lines))
    first, *others = ([cell.strip() for cell in line] + [""] * (width - len(line)) for line in lines)
    if len(others) == 1 and all(first) and len(set(first)) == width:
        units = {name: unit.strip("()[] ") for name, unit in zip(first, others[0], strict=True) if unit.strip("()[] ")}
        return Header(tuple(first), units)
    upper = [first, *others]
    for line in upper[:-1]:
        for place in range(1, width):
            if not line[place] and upper[-1][place]:
                line[place] = line[place - 1]
    names = (" ".join(part for part in parts if part) for parts in zip(*upper, strict=True))
    return Header(tuple(names), {})


class _Rest(io.RawIOBase):
    """A text, and behind it what is left of a stream that was read in part."""

    def __init__(self, file: BinaryIO, text: bytes) -> None:
        self._file, self._text = file, text

    def readable(self) -> bool:
        """True."""
        return True

    def readinto(self, room: Any) -> int:  # noqa: ANN401 - any buffer
        """Fills a buffer; gives how many bytes there were."""
        found = self._text[: len(room)] or self._file.read(len(room))
        self._text = self._text[len(room) :]
        room[: len(found)] = found
        return len(found)

    def close(self) -> None:
        """Closes the stream too."""
        self._file.close()
        super().close()


class BelowLines:
    """Bytes of a text below what stands above its header, with that in one line where it has several.

    Args:
        content: All bytes.
        above: How many lines stand above the header.
        lines: How many lines the header has.

    Attributes:
        units: The units of columns, where the last line of the header gives these.
    """

    def __init__(self, content: Bytes, above: int, lines: int = 1) -> None:
        self.name, self.allow_large = content.name, content.allow_large
        self._content, self._left_out, self._text = content, above, b""
        self.units: dict[str, str] = {}
        if lines > 1:
            with content.open() as file:
                head = [file.readline() for _ in range(above + lines + _FEWEST)][above:]
            texts = [line.decode("latin-1") for line in head]  # bytes of any encoding keep their places there
            separator = separator_of("".join(texts))
            header = header_of(list(csv.reader(texts[:lines], delimiter=separator)))
            text = io.StringIO(newline="")
            csv.writer(text, delimiter=separator).writerow(header.names)
            self._text = text.getvalue().encode("latin-1")
            self.units = {_decoded(name): _decoded(unit) for name, unit in header.units.items()}
            self._left_out += lines

    def open(self) -> BinaryIO:
        """The header and the bytes below it; raises as those of the whole."""
        file = self._content.open()
        for _ in range(self._left_out):
            if not file.readline():
                break
        return io.BufferedReader(_Rest(file, self._text))

    def size(self) -> int:
        """How many bytes the whole has, packed or not."""
        return self._content.size()

    def is_plain(self) -> bool:
        """False: where it starts is known only once it was read."""
        return False


def _decoded(text: str) -> str:
    """A text that was read byte by byte, in the encoding it seems to have."""
    try:
        return text.encode("latin-1").decode("utf-8-sig")
    except UnicodeDecodeError:
        return text.encode("latin-1").decode("cp1252", "replace")


def separator_of(head: str) -> str:
    """The separator that cuts the first lines into the same number of columns, more than one; most columns win."""
    best, best_score = ",", (0.0, 0)
    for candidate in SEPARATORS:
        rows = list(some_rows(head, candidate))
        width = len(rows[0])
        if width < 2:
            continue
        even = sum(len(row) == width for row in rows) / len(rows)
        if (even, width) > best_score:
            best, best_score = candidate, (even, width)
    return best


def some_rows(head: str, separator: str, most: int = 50) -> Iterator[list[str]]:
    """The first rows of a text that may break off in the middle of its last line."""
    whole = head if len(head) < HEAD // 4 else head[: head.rfind("\n") + 1] or head
    rows = (row for row in csv.reader(io.StringIO(whole, newline=""), delimiter=separator) if row)
    try:
        for _, row in zip(range(most), rows, strict=False):
            yield row
    except csv.Error:
        return


def header_remedy(rows: Sequence[Sequence[str]], above: int) -> str:
    """What to do where the header seems to stand in other lines; empty where it does not.

    Args:
        rows: The first lines of a table, cell by cell; blank lines are empty.
        above: How many lines are above them already.
    """
    if names_in_two_lines(rows):
        return f"Lines {1 + above} and {2 + above} look like one header: {option('header_lines', '2')}."
    line = header_line(rows)
    if line == 1:
        return ""
    return f"Line {line + above} looks like the header: {option('header_row', str(line + above))}."


def header_line(rows: Sequence[Sequence[str]]) -> int:
    """The line that looks like the header of a table below other words, counted from 1; 1 where none does.

    It is the first of the widest lines, if it holds no number and no text twice, those above it are narrower and the
    one below is as wide.

    Args:
        rows: The first lines, cell by cell.
    """
    widths = [sum(bool(value.strip()) for value in row) for row in rows]
    widest = max(widths, default=0)
    first = widths.index(widest) if widest > 1 else 0
    return first + 1 if widths[first + 1 : first + 2] == [widest] and _names_columns(rows[first]) else 1


def hidden_header(head: str) -> tuple[int, str]:
    """The line, counted from 1, where a table begins below words without a separator, and its separator; 0 for none.

    Args:
        head: The first lines, of which none but the first is looked at where it has a separator.
    """
    lines = head.splitlines()[:PREAMBLE]
    for separator in SEPARATORS:
        rows = [next(csv.reader([line], delimiter=separator), []) for line in lines]
        line = header_line(rows)
        blank = any(not text.strip() for text in lines[: line - 1])
        if line > 1 and (separator != "," or blank) and len({len(row) for row in rows[line - 1 :] if row}) == 1:
            return line, separator
    return 0, ""


def names_in_two_lines(rows: Sequence[Sequence[str]]) -> bool:
    """Whether the first line names groups of columns and the second these columns, as merged cells are written."""
    filled = [row for row in rows if any(value.strip() for value in row)]
    if len(filled) <= _FEWEST or all(value.strip() for value in filled[0]):
        return False
    first, second, *others = filled
    names = header_of([first, second]).names
    alone = all(value.strip() for value in second) and len(set(second)) == len(second)  # then the first is a title
    complete = all(names) and len(set(names)) == len(names) == len(others[0]) and not alone
    texts = all(parsed(value) is None for value in second if value.strip())
    return complete and texts and sum(bool(value.strip()) for value in second) > 1


def units_line(header: Sequence[str], rows: Sequence[Sequence[str]], decimal: str) -> list[str]:
    """The units in the first row below a header; nothing where it is a record.

    Such a row holds short texts, some of them above numbers only, and no number of its own.

    Args:
        header: The names of the columns.
        rows: The first rows below it.
        decimal: The sign before decimals.
    """
    if len(rows) <= _FEWEST:
        return []
    first, *others = rows
    found = []
    for place, value in enumerate(first[: len(header)]):
        unit = value.strip()
        if not unit:
            continue
        below_it = [row[place] for row in others if place < len(row) and row[place].strip()]
        signs = form_of(below_it, decimal).signs
        if parsed(unit, signs) is not None or len(unit) > _LONGEST_UNIT or says_no_answer(unit):
            return []
        if len(below_it) >= _FEWEST and all(parsed(text, signs) is not None for text in below_it):
            found.append(unit)
    return found


def _names_columns(row: Sequence[str]) -> bool:
    cells = [value.strip() for value in row if value.strip()]
    return len(set(cells)) == len(cells) and all(parsed(cell) is None for cell in cells)
