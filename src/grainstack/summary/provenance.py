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
        noun: What a record is, in the plural.
    """

    source: str
    read: int
    filtered: int
    filters: tuple[str, ...] = ()
    noun: str = "records"


@dataclass(frozen=True, slots=True)
class NoBand:
    """Records whose value falls in no band.

    Attributes:
        label: The column's label.
        records: How many there are.
        examples: A few of the values, as text.
    """

    label: str
    records: int
    examples: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Provenance:
    """How a table was worked out.

    Attributes:
        origin: Which records reached the summary.
        statistics: What is shown, in words: `Mean waiting time by route`.
        unanswered: Columns without an answer, with how many of the remaining records lack one.
        no_band: Columns with values in no band.
        used: Records that stand in the table.
        weighting: How records were weighted and drawn, in words; empty when they all count the same.
        base: What shares are shares of, in words; empty when there are none.
        intervals: What the limits of each figure are, in words.
        tests: What was compared and how, in words; empty when nothing was.
        rest: What became of levels that are not shown one by one, in words; empty when all are.
        hidden: How many figures were left out because of small bases.
        several: Whether shares may add to more than 100 % because a record may have several answers.
    """

    origin: Origin
    statistics: str
    unanswered: tuple[tuple[str, int], ...]
    no_band: tuple[NoBand, ...]
    used: int
    weighting: str
    base: str
    intervals: tuple[str, ...]
    tests: str = ""
    rest: str = ""
    hidden: str = ""
    several: bool = False

    def sentences(self) -> tuple[str, ...]:
        """Base, records left out and why, weighting, what shares add up to, what limits are, and what was tested."""
        noun = "record" if self.used == 1 and self.origin.noun == "records" else self.origin.noun
        said = [f"Base: {self.used:,} {noun}{self._left_out()}"]
        said += [self.weighting, "; ".join(self.origin.filters), self.rest, self.base]
        if self.several:
            said.append("Several answers were possible, so shares may add to more than 100 %")
        said += [*self.intervals, self.tests, self.hidden]
        return tuple(f"{sentence}." for sentence in said if sentence)

    def sentence(self) -> str:
        """Everything in one sentence: statistic, weighting, interval, base, left-out records, test and adjustment."""
        noun = "record" if self.used == 1 and self.origin.noun == "records" else self.origin.noun
        parts = [f"{self.statistics} of {self.origin.source}, {self._lower(self.weighting) or 'unweighted'}"]
        parts += [self._lower(interval) for interval in self.intervals] or ["without limits"]
        parts.append(f"base {self.used:,} {noun}{self._left_out()}")
        extra = ("; ".join(self.origin.filters), self.rest, self.base, self.tests, self.hidden)
        parts += [self._lower(part) for part in extra if part]
        return "; ".join(parts) + "."

    def account(self) -> str:
        """Where every record read has gone: the parts add up to the records read."""
        parts = [f"{self.used:,} used"]
        parts += [f"{count:,} without an answer on {label}" for label, count in self.unanswered if count]
        parts += [f"{item.records:,} in no band of {item.label}" for item in self.no_band]
        parts.append(f"{self.origin.filtered:,} filtered away")
        return f"{self.origin.read:,} {self.origin.noun} read = {' + '.join(parts)}"

    def _left_out(self) -> str:
        lacking = [(name, count) for name, count in self.unanswered if count]
        parts = []
        if lacking:
            (name, count), *others = lacking
            parts.append(f"{count:,} without an answer on {name}" + "".join(f", {n:,} on {what}" for what, n in others))
        for item in self.no_band:
            examples = f" ({', '.join(item.examples)})" if item.examples else ""
            parts.append(f"{item.records:,} in no band of {item.label}{examples}")
        if self.origin.filtered:
            parts.append(f"{self.origin.filtered:,} filtered away")
        return f"; left out: {', '.join(parts)}" if parts else ""

    @staticmethod
    def _lower(text: str) -> str:
        return text[:1].lower() + text[1:] if text[1:2].islower() else text
