"""Text of unknown encoding as UTF-8, while it streams by.

UTF-8 (with or without a byte order mark) and UTF-16 are recognised. Where some bytes are no UTF-8 the whole text is
looked at: if they are few beside the letters that are, only their values suffer, and they are counted; else all of it
is taken for Windows-1252, the superset of Latin-1 that office programs write. The reader is told either.
"""

import codecs
import io
from collections.abc import Iterator
from contextlib import closing
from encodings import utf_8
from typing import BinaryIO

from grainstack.errors import RecordsError
from grainstack.language import phrase, phrases
from grainstack.records.sources.opening import Bytes

_MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
CHUNK = 1 << 21  # read at once: few enough for 120 MB in all, many enough that a call costs nothing
_FIRST = 1 << 18  # read to tell the encoding
_RARE = 0.01  # of the letters beyond ASCII: fewer are mistakes in a text of UTF-8, more another encoding
_REPLACED, _REPLACED_BYTES = "\ufffd", "\ufffd".encode()


class Utf8Stream:
    """A binary stream that gives UTF-8 whatever the encoding of the stream behind it.

    Args:
        content: What is read.

    Attributes:
        note: What had to be assumed, in words; empty when all was certain.
        quotes: How many quotation marks were read so far.
    """

    def __init__(self, content: Bytes) -> None:
        self._content = content
        self._raw = _unbuffered(content.open())
        self._ready = b""
        self._taken = 0  # bytes behind the stream that are in no chunk any more
        self.note = ""
        self._replaces = False
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
        plain = self._decoder is None or isinstance(self._decoder, utf_8.IncrementalDecoder)
        return plain and not self._replaces

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
                self._ready = self._decoded(self._decoder, chunk, last=last)
            except UnicodeDecodeError as reason:
                decoder = self._forgiving()
                if decoder is None:
                    raise self._mixed(reason) from None
                decoder.setstate(self._decoder.getstate())
                self._decoder = decoder
                self._ready = self._decoded(decoder, chunk, last=last)
        self._taken += len(chunk)

    def _guess(self, chunk: bytes) -> bytes:
        """Decides between UTF-8 and Windows-1252 at the first bytes beyond ASCII."""
        decoder: codecs.IncrementalDecoder = codecs.getincrementaldecoder("utf-8")()
        try:
            ready = self._decoded(decoder, chunk, last=False)
        except UnicodeDecodeError:
            forgiving = self._forgiving()
            if forgiving is None:
                self.note = phrase(
                    "{file} is not UTF-8: read as {encoding}.", file=self._content.name, encoding="Windows-1252"
                )
                forgiving = codecs.getincrementaldecoder("cp1252")("replace")
            decoder = forgiving
            ready = self._decoded(decoder, chunk, last=False)
        self._decoder = decoder
        return ready

    def _forgiving(self) -> codecs.IncrementalDecoder | None:
        """A decoder that puts a sign in the place of the few bytes that are no UTF-8; None where they are not few."""
        good, bad = _tally(self._content)
        if not isinstance(self._decoder, utf_8.IncrementalDecoder | None) or bad >= _RARE * good:
            return None
        self._replaces = True
        name = self._content.name
        count = phrases("{n} byte of {file} is no UTF-8", "{n} bytes of {file} are no UTF-8", bad, file=name)
        self.note = phrase("{count}; {sign} stands in the place of each.", count=count, sign=_REPLACED)
        return codecs.getincrementaldecoder("utf-8")("replace")

    def _decoded(self, decoder: codecs.IncrementalDecoder, chunk: bytes, *, last: bool) -> bytes:
        """A chunk as UTF-8, without the bytes of a character that ends in the next chunk."""
        if self._replaces or not isinstance(decoder, utf_8.IncrementalDecoder):
            return decoder.decode(chunk, last).encode("utf-8")
        before = decoder.getstate()[0]
        decoder.decode(chunk, last)
        whole = before + chunk if before else chunk
        return whole[: len(whole) - len(decoder.getstate()[0])]

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


def _tally(content: Bytes) -> tuple[int, int]:
    """How many letters beyond ASCII are UTF-8 in all of a text, and how many bytes are none."""
    decoder = codecs.getincrementaldecoder("utf-8")("replace")
    good = bad = 0
    with closing(content.open()) as file:
        while True:
            chunk = file.read(CHUNK)
            text = decoder.decode(chunk, not chunk)
            beyond = len(text) - len(text.encode("ascii", "ignore"))
            wrong = text.count(_REPLACED) - chunk.count(_REPLACED_BYTES)
            good, bad = good + beyond - wrong, bad + wrong
            if not chunk:
                return good, bad


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
