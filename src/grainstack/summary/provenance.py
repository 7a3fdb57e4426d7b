"""Where figures come from, in plain words: the sentences under a table and in a chart's footnote."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Origin:
    """Which records reached the summary.

    Attributes:
        source: The file they were read from.
        read: Records read.
        filtered: Records left out on request.
        filters: What was kept or left out, in words.
    """

    source: str
    read: int
    filtered: int
    filters: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Provenance:
    """How a table was worked out.

    Attributes:
        origin: Which records reached the summary.
        unanswered: Columns without an answer, with how many of the remaining records lack one.
        used: Records that stand in the table.
        base: What shares are shares of, in words; empty when there are none.
        intervals: What the limits of each figure are, in words.
    """

    origin: Origin
    unanswered: tuple[tuple[str, int], ...]
    used: int
    base: str
    intervals: tuple[str, ...]

    def sentences(self) -> tuple[str, ...]:
        """Base, records left out and why, what shares add up to, and what the limits are."""
        said = [f"Base: {self.used:,} {'record' if self.used == 1 else 'records'}{self._left_out()}."]
        if self.origin.filters:
            said.append(f"{'; '.join(self.origin.filters)}.")
        if self.base:
            said.append(f"{self.base}.")
        return (*said, *(f"{interval}." for interval in self.intervals))

    def _left_out(self) -> str:
        parts = [f"{count:,} without {name}" for name, count in self.unanswered if count]
        if self.origin.filtered:
            parts.append(f"{self.origin.filtered:,} filtered away")
        return f"; left out: {', '.join(parts)}" if parts else ""
