"""A stretch of bytes of a delimited file, for a machine that reads no more than its part of it.

A part starts behind the first line end at or after its first byte, which is where a record starts unless that line end
stands within quotation marks; it goes on to the end of the record that its last byte belongs to. Where a part ended is
where the next has to start: whoever puts parts together compares the two, and has a part read again from there.
"""

from collections.abc import Iterator
from typing import TYPE_CHECKING, BinaryIO

from msgspec.structs import replace

from grainstack.errors import RecordsError
from grainstack.records.sources.decoding import CHUNK
from grainstack.records.sources.pieces import Cutting, Piece

if TYPE_CHECKING:
    from grainstack.records.sources.opening import Bytes


class ByteRange:
    """Which bytes of a file are read, and which were.

    Args:
        content: The file, in UTF-8, with lines that end in a line feed.
        start: The first byte.
        stop: The byte after the last.
        exact: Whether a record is known to start at `start`.

    Attributes:
        began: Where the first record started; known once it was read.
        ended: Where the record after the last one starts; likewise.
    """

    def __init__(self, content: "Bytes", start: int, stop: int, *, exact: bool = False) -> None:
        self._content = content
        self._start, self._stop = start, stop
        self._exact = exact or start == 0
        self.began = self.ended = start

    def starting_at(self, place: int) -> "ByteRange":
        """The same bytes from where a record is known to start."""
        return ByteRange(self._content, place, max(self._stop, place), exact=True)

    def pieces(self, cutting: Cutting) -> Iterator[Piece]:
        """The text, to be cut into columns.

        Raises:
            RecordsError: It is not UTF-8.
        """
        with self._content.open() as file:
            size = file.seek(0, 2)
            file.seek(self._start)
            if not self._exact:
                file.seek(self._start - 1)
                file.readline()
            self.began = self.ended = file.tell()
            cutting = replace(cutting, header=1 if self.began == 0 else 0)
            piece: Piece | None = None
            while self.ended < min(self._stop, size) or (piece is not None and piece.left.text and self.ended < size):
                text = self._lines(file)
                piece = Piece(text, piece, cutting, last=self.ended >= size)
                yield piece

    def lines_before(self) -> int:
        """How many line ends stand before it."""
        with self._content.open() as file:
            return file.read(self.began).count(b"\n")

    def text(self) -> str:
        """All text from its first record on: for telling a person where something is."""
        with self._content.open() as file:
            file.seek(self.began)
            return file.read().decode("utf-8", "replace")

    def _lines(self, file: BinaryIO) -> bytes:
        """The next whole lines."""
        text = file.read(max(min(CHUNK, self._stop - self.ended), 1))
        if not text.endswith(b"\n"):
            text += file.readline()
        self.ended = file.tell()
        try:
            if not text.isascii():
                text.decode("utf-8")
        except UnicodeDecodeError as reason:
            raise RecordsError(
                f"{self._content.name} is not UTF-8: byte 0x{text[reason.start]:02X} stands in it.",
                "Save it as UTF-8, or let one machine read it.",
            ) from reason
        return text.removeprefix(b"\xef\xbb\xbf") if self.ended == len(text) else text
