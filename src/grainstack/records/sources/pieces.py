"""Delimited text in pieces that several cores cut into columns at once.

A piece ends at a line end, which is the end of a record unless it stands within quotation marks. Looking through all
that comes before would tell, but only one core could do that. So each piece is cut as if a record started with it, and
what the piece before has left over, which is known by the time, decides: nothing, as good as always; or a record that
goes on, with which the piece is cut again.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from threading import Event

import pyarrow as pa
from msgspec import Struct

from grainstack.compiled import compiled
from grainstack.errors import RecordsError
from grainstack.records.arrow import Codes, texts_from_bytes

kernel = compiled("grainstack.records.kernel")


class Cutting(Struct, frozen=True):
    """How text is cut.

    Attributes:
        separator: The byte between values.
        columns: The names of all columns.
        wanted: The places of the columns wanted, and whether their values are varied.
        explained: Makes an error that says what is wrong with records that cannot be cut.
        check_quotes: Raises an error where a quotation mark is never closed.
        check_length: Raises an error where a record, of which so many bytes are known, is too long.
        header: How many records at the start of the first piece are passed over.
    """

    separator: int
    columns: Sequence[str]
    wanted: Sequence[tuple[int, bool]]
    explained: Callable[[Exception], RecordsError]
    check_quotes: Callable[[], None]
    check_length: Callable[[int], None]
    header: int = 1


def pieces_of(chunks: Iterable[bytes], cutting: Cutting) -> "Iterator[Piece]":
    """Text that comes in chunks as pieces that end at line ends; the header is part of the first."""
    piece, text = None, b""
    left: list[bytes] = []
    for chunk in chunks:
        end = chunk.rfind(b"\n") + 1 or chunk.rfind(b"\r", 0, -1) + 1
        if not end:
            left.append(chunk)
            cutting.check_length(sum(map(len, left)))
            continue
        if text:
            piece = Piece(text, piece, cutting, last=False)
            yield piece
        text = b"".join((*left, memoryview(chunk)[:end]))
        left = [chunk[end:]]
    yield Piece(b"".join((text, *left)), piece, cutting, last=True)


class _Left(Struct, frozen=True):
    """What a piece leaves to the next.

    Attributes:
        text: The start of a record that goes on there.
        header: How many records are still to be passed over.
    """

    text: bytes = b""
    header: int = 0


class _Cut(Struct, frozen=True):
    """What cutting a piece gave.

    Attributes:
        columns: For each column wanted the places, offsets and bytes of its values.
        left: What is left to the next piece.
        failure: Why it could not be cut.
    """

    columns: Sequence[tuple[Codes | None, Codes, bytes]] = ()
    left: _Left = _Left()
    failure: Exception | None = None


class Piece:
    """A piece of text that is cut into columns when it is called.

    Args:
        text: The text.
        before: The piece before it; None for the first.
        cutting: How it is cut.
        last: Whether no other comes after it.
    """

    def __init__(self, text: bytes, before: "Piece | None", cutting: Cutting, *, last: bool) -> None:
        self._text = text
        self._before = before
        self._cutting = cutting
        self._last = last
        self._left = _Left()
        self._is_cut = Event()

    def __call__(self) -> pa.RecordBatch:
        """The records that end in it.

        Raises:
            RecordsError: They cannot be cut.
        """
        before, cutting, nothing = self._before, self._cutting, _Left()
        try:
            early = None if before is None or before.is_cut else self._cut(nothing)
            left = _Left(header=cutting.header) if before is None else before.left
            cut = early if early is not None and left == nothing else self._cut(left)
            if cut.failure is not None:
                raise cutting.explained(cut.failure) from cut.failure
            if cut.left.text and self._last:
                cutting.check_quotes()
            cutting.check_length(len(cut.left.text))
            self._left = cut.left
        finally:
            self._before, self._text = None, b""
            self._is_cut.set()
        arrays = [texts_from_bytes(*column) for column in cut.columns]
        return pa.RecordBatch.from_arrays(arrays, names=[cutting.columns[place] for place, _ in cutting.wanted])

    @property
    def is_cut(self) -> bool:
        """Whether it has been cut."""
        return self._is_cut.is_set()

    @property
    def left(self) -> _Left:
        """What it leaves to the next piece, once it has been cut."""
        self._is_cut.wait()
        return self._left

    def _cut(self, left: _Left) -> _Cut:
        """Cuts it behind what the piece before has left."""
        cutting, text = self._cutting, left.text + self._text if left.text else self._text
        try:
            columns, rest, passed = kernel.split(
                text, cutting.separator, len(cutting.columns), cutting.wanted, left.header, self._last
            )
        except (kernel.RaggedError, MemoryError) as failure:
            return _Cut(failure=failure)
        return _Cut(columns, _Left(text[rest:], left.header - passed))
