"""Inputs made of others: bytes and words changed, doubled, cut and mixed, the same ones for the same seed."""

from collections.abc import Iterator, Sequence
from random import Random

_WORDS = (
    *(b"\x00", b"\xff\xfe", b"\xef\xbb\xbf", b"\n", b"\r\n", b'"', b"'", b"\\", b"\x1b[31m", b"\xed\xa0\x80"),
    *(b"%", b"{", b"}}", b"()", b",", b"=", b"*", b"..", b"[[", b"true", b"null", b"1e400", b"-0", b"NaN"),
    *(b"999999999999999999999", b"0x", b"\xe2\x80\xae"),
)
_LONG = 200  # times a piece is repeated at most


def mutated(seeds: Sequence[bytes], random: Random, count: int) -> Iterator[bytes]:
    """Inputs near the seeds, and further and further away.

    Args:
        seeds: What to begin with.
        random: What chooses.
        count: How many are made.
    """
    known = list(seeds)
    for _ in range(count):
        data = random.choice(known)
        for _ in range(random.choice((1, 1, 2, 3, 8))):
            data = _changed(data, random, known)
        if len(data) < 4_000 and random.random() < 0.1:
            known.append(data)
        yield data


def _changed(data: bytes, random: Random, known: Sequence[bytes]) -> bytes:
    """One change."""
    at = random.randint(0, len(data))
    to = min(len(data), at + random.choice((1, 1, 2, 5, 20)))
    other = random.choice(known)
    words = data.split(b" ")
    random.shuffle(words)
    return random.choice(
        (
            data[:at] + bytes([random.randrange(256)]) + data[to:],
            data[:at] + data[to:],
            data[:at] + random.choice(_WORDS) + data[at:],
            data[:at] + data[at:to] * random.randint(2, _LONG) + data[to:],
            data[:at] + other[random.randint(0, len(other)) :],
            data[:at] + random.choice(_WORDS) + data[to:],
            b" ".join(words),
        )
    )
