"""Text of unknown encoding as UTF-8, while it streams by.

UTF-8 (with or without a byte order mark) and UTF-16 are recognised. Bytes that are neither are taken for Windows-1252,
the superset of Latin-1 that office programs write, and the reader is told so.
"""

import codecs
from typing import BinaryIO

from grainstack.errors import RecordsError

_MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_CHUNK = 1 << 20


class Utf8Stream:
    """A binary stream that gives UTF-8 whatever the encoding of the stream behind it.

    Attributes:
        assumed: The encoding that had to be assumed, or empty when it was certain.
        quotes: How many quotation marks went by so far.
    """

    def __init__(self, raw: BinaryIO, name: str) -> None:
        self._raw = raw
        self._name = name
        self._ready = b""
        self._lines = 1
        self.assumed = ""
        self.quotes = 0
        self.closed = False
        head = raw.read(_CHUNK)
        self._decoder, head = _decoder_for(head)
        self._absorb(head, last=len(head) == 0)

    def read(self, size: int = -1) -> bytes:
        """Up to `size` bytes of UTF-8; all that is left when negative; empty at the end."""
        parts = [self._ready]
        have = len(self._ready)
        while size < 0 or have == 0:
            chunk = self._raw.read(_CHUNK)
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
                self._ready = self._decoder.decode(chunk, last).encode("utf-8")
            except UnicodeDecodeError as reason:
                self._ready = self._fall_back(reason, chunk)
        self._lines += self._ready.count(b"\n")
        self.quotes += self._ready.count(b'"')

    def _guess(self, chunk: bytes) -> bytes:
        """Decides between UTF-8 and Windows-1252 at the first bytes beyond ASCII."""
        decoder = codecs.getincrementaldecoder("utf-8")()
        try:
            text = decoder.decode(chunk)
        except UnicodeDecodeError:
            self.assumed = "Windows-1252"
            self._decoder = codecs.getincrementaldecoder("cp1252")("replace")
            return self._decoder.decode(chunk).encode("utf-8")
        self._decoder = decoder
        return text.encode("utf-8")

    def _fall_back(self, reason: UnicodeDecodeError, chunk: bytes) -> bytes:
        line = self._lines + chunk[: reason.start].count(b"\n")
        raise RecordsError(
            f"{self._name} starts as {reason.encoding.upper()}, but near line {line} it is not: "
            f"byte 0x{reason.object[reason.start]:02X} ({reason.reason}).",
            "Save the file again in one encoding, best UTF-8.",
        )


def _decoder_for(head: bytes) -> tuple[codecs.IncrementalDecoder | None, bytes]:
    """The decoder a file's first bytes ask for (none while they are plain ASCII), and the bytes after the mark."""
    for mark, encoding in _MARKS:
        if head.startswith(mark):
            return codecs.getincrementaldecoder(encoding)(), head[len(mark) :]
    sample = head[:2000]
    if sample[1::2].count(0) > 0.4 * len(sample) / 2:
        return codecs.getincrementaldecoder("utf-16-le")(), head
    if sample[0::2].count(0) > 0.4 * len(sample) / 2:
        return codecs.getincrementaldecoder("utf-16-be")(), head
    return None, head
