"""Text of unknown encoding as UTF-8, while it streams by.

UTF-8 (with or without a byte order mark) and UTF-16 are recognised. Bytes that are neither are taken for Windows-1252,
the superset of Latin-1 that office programs write, and the reader is told so.
"""

import codecs
import io
from collections.abc import Iterator
from encodings import utf_8
from typing import BinaryIO

from grainstack.errors import RecordsError
from grainstack.records.sources.opening import Bytes

_MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
CHUNK = 1 << 21  # read at once: few enough for 120 MB in all, many enough that a call costs nothing
_FIRST = 1 << 18  # read to tell the encoding


class Utf8Stream:
    """A binary stream that gives UTF-8 whatever the encoding of the stream behind it.

    Args:
        content: What is read.

    Attributes:
        assumed: The encoding that had to be assumed, or empty when it was certain.
        quotes: How many quotation marks were read so far.
    """

    def __init__(self, content: Bytes) -> None:
        self._content = content
        self._raw = _unbuffered(content.open())
        self._ready = b""
        self._taken = 0  # bytes behind the stream that are in no chunk any more
        self.assumed = ""
        self.quotes = 0
        self.closed = False
        try:
            head = self._raw.read(_FIRST)
            self._decoder, head = _decoder_for(head)
            self._absorb(head, last=len(head) == 0)
        except BaseException:  # whoever asked has no stream to close
            self._raw.close()
            raise

    @property
    def is_utf8(self) -> bool:
        """Whether it is UTF-8 as it stands, as far as it was read."""
        return self._decoder is None or isinstance(self._decoder, utf_8.IncrementalDecoder)

    def chunks(self) -> Iterator[bytes]:
        """All that is left, in pieces as they come."""
        while True:
            if self._ready:
                yield self._ready
            chunk = self._raw.read(CHUNK)
            self._absorb(chunk, last=not chunk)
            if not chunk:
                break
        if self._ready:
            yield self._ready
            self._ready = b""

    def read(self, size: int = -1) -> bytes:
        """Up to `size` bytes of UTF-8; all that is left when negative; empty at the end."""
        taken = self._read(size)
        self.quotes += taken.count(b'"')
        return taken

    def _read(self, size: int) -> bytes:
        parts = [self._ready]
        have = len(self._ready)
        while size < 0 or have < size:
            chunk = self._raw.read(CHUNK)
            self._absorb(chunk, last=not chunk)
            parts.append(self._ready)
            have += len(self._ready)
            if not chunk:
                break
        everything = b"".join(parts)
        if size < 0 or size >= len(everything):
            self._ready = b""
            return everything
        self._ready = everything[size:]
        return everything[:size]

    def close(self) -> None:
        """Closes the stream behind it."""
        self.closed = True
        self._raw.close()

    def _absorb(self, chunk: bytes, *, last: bool) -> None:
        if self._decoder is None:
            self._ready = chunk if chunk.isascii() else self._guess(chunk)
        else:
            try:
                self._ready = _decoded(self._decoder, chunk, last=last)
            except UnicodeDecodeError as reason:
                raise self._mixed(reason) from None
        self._taken += len(chunk)

    def _guess(self, chunk: bytes) -> bytes:
        """Decides between UTF-8 and Windows-1252 at the first bytes beyond ASCII."""
        decoder: codecs.IncrementalDecoder = codecs.getincrementaldecoder("utf-8")()
        try:
            ready = _decoded(decoder, chunk, last=False)
        except UnicodeDecodeError:
            self.assumed = "Windows-1252"
            decoder = codecs.getincrementaldecoder("cp1252")("replace")
            ready = _decoded(decoder, chunk, last=False)
        self._decoder = decoder
        return ready

    def _mixed(self, reason: UnicodeDecodeError) -> RecordsError:
        """Says where another encoding begins; the lines before it are counted now that they matter."""
        with self._content.open() as again:
            line = 1 + again.read(self._taken + reason.start).count(b"\n")
        return RecordsError(
            f"{self._content.name} starts as {reason.encoding.upper()}, but near line {line} it is not: "
            f"byte 0x{reason.object[reason.start]:02X} ({reason.reason}).",
            "Save the file again in one encoding, best UTF-8.",
        )


def _unbuffered(raw: BinaryIO) -> BinaryIO | io.RawIOBase:
    """A file without the buffer before it, which only costs time where much is read at once."""
    if isinstance(raw, io.BufferedReader) and isinstance(raw.raw, io.FileIO):
        plain = raw.detach()
        plain.seek(0)
        return plain
    return raw


def _decoded(decoder: codecs.IncrementalDecoder, chunk: bytes, *, last: bool) -> bytes:
    """A chunk as UTF-8, without the bytes of a character that ends in the next chunk."""
    if not isinstance(decoder, utf_8.IncrementalDecoder):
        return decoder.decode(chunk, last).encode("utf-8")
    before = decoder.getstate()[0]
    decoder.decode(chunk, last)
    whole = before + chunk if before else chunk
    return whole[: len(whole) - len(decoder.getstate()[0])]


def _decoder_for(head: bytes) -> tuple[codecs.IncrementalDecoder | None, bytes]:
    """The decoder a file's first bytes ask for (none while they are plain ASCII), and the bytes after the mark."""
    for mark, encoding in _MARKS:
        if head.startswith(mark):
            while head.startswith(mark):  # programs that do not look add another one
                head = head[len(mark) :]
            return codecs.getincrementaldecoder(encoding)(), head
    sample = head[:2000]
    if sample[1::2].count(0) > 0.4 * len(sample) / 2:
        return codecs.getincrementaldecoder("utf-16-le")(), head
    if sample[0::2].count(0) > 0.4 * len(sample) / 2:
        return codecs.getincrementaldecoder("utf-16-be")(), head
    return None, head
