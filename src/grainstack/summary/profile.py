"""What is in a column: how much of it is missing, its levels, its range. One pass, mergeable."""

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np
import pyarrow as pa
from msgspec import Struct, field

from grainstack.records.arrow import places_of
from grainstack.records.codebook.codebook import CodebookVariable
from grainstack.records.kinds import guessed_kind, likely_missing
from grainstack.records.numerals import form_of, parsed
from grainstack.records.values import as_texts
from grainstack.records.variable import Kind

_MOST_DIFFERENT = 1_000_000


class Spread(Struct, frozen=True):
    """Range and quartiles of a number (Hyndman & Fan 1996, definition 7)."""

    low: float
    lower_quartile: float
    median: float
    upper_quartile: float
    high: float


class Profile(Struct, frozen=True):
    """What is known of one column.

    Attributes:
        name: The column.
        kind: What its values suggest.
        missing: Records without an answer.
        different: How many different codes it holds.
        complete: Whether all codes were kept; a column with more than a million is cut short.
        levels: The codes with their records, most frequent first.
        no_answer: Codes that probably mean `no answer`.
        spread: Range and quartiles of a number, without the codes of `no_answer`.
        decimal: The sign before decimals, and behind it the one that parts thousands where that is settled.
        doubtful: A number that can be read in two ways, where nothing settles which; empty otherwise.
    """

    name: str
    kind: Kind
    missing: int
    different: int
    complete: bool
    levels: tuple[tuple[str, int], ...]
    no_answer: tuple[str, ...]
    spread: Spread | None
    decimal: str = "."
    doubtful: str = ""


class Looked(Struct, frozen=True):
    """What one pass over some records has shown.

    Attributes:
        records: How many there are.
        profiles: What is in each column.
        rows: The first rows as text, in the order of the columns.
    """

    records: int
    profiles: list[Profile]
    rows: list[tuple[str, ...]]


def profiled(columns: Sequence[str], batches: Iterable[pa.RecordBatch], rows: int = 0, decimal: str = ".") -> Looked:
    """What is in some records.

    Args:
        columns: The columns.
        batches: Raw batches that hold them.
        rows: How many of the first rows are wanted as they are.
        decimal: The sign before decimals.
    """
    profiles = [ColumnProfile(name, decimal) for name in columns]
    first: list[tuple[str, ...]] = []
    for batch in batches:
        texts = [as_texts(batch.column(profile.name), profile.name) for profile in profiles]
        for profile, column in zip(profiles, texts, strict=True):
            profile.absorb(column)
        if len(first) < rows:
            head = [column.slice(0, rows - len(first)).to_pylist() for column in texts]
            first += list(zip(*head, strict=True))
    return Looked(profiles[0].records, [profile.finish() for profile in profiles], first)


def profile_with(found: Profile, codebook_variable: CodebookVariable) -> Profile:
    """A profile in the words of a codebook: its kind, labels for codes, and its missing codes counted as missing."""
    several = Kind.MULTI in (codebook_variable.kind, None if codebook_variable.kind else found.kind)
    separator = codebook_variable.separator_in([code for code, _ in found.levels]) if several else ""
    missing = found.missing
    levels: dict[str, int] = {}
    plain = not (
        separator or codebook_variable.missing or codebook_variable.levels
    )  # as with names and numbers, of which there may be millions
    if plain:
        levels = dict(found.levels)
    for code, count in () if plain else found.levels:
        if codebook_variable.is_missing(code):
            missing += count
            continue
        for part in code.split(separator) if separator else (code,):
            level = codebook_variable.level(part.strip())
            label = level.label if level else part.strip()
            levels[label] = levels.get(label, 0) + count
    ordered = list(found.levels) if plain else sorted(levels.items(), key=lambda item: -item[1])
    if codebook_variable.levels:
        ranks = {level.label: place for place, level in enumerate(codebook_variable.levels)}
        ordered = sorted(levels.items(), key=lambda item: ranks.get(item[0], len(ranks)))
    kind = codebook_variable.kind or (Kind.CATEGORY if codebook_variable.levels else found.kind)
    no_answer = (
        tuple(code for code in found.no_answer if not codebook_variable.is_missing(code))
        if not codebook_variable.levels
        else ()
    )
    spread = None
    if kind is Kind.NUMBER and found.complete:
        spread = _spread(
            {
                code: count
                for code, count in found.levels
                if not codebook_variable.is_missing(code) and code not in no_answer
            },
            found.decimal,
        )
    different = len(levels) - len(no_answer)
    form = found.decimal, found.doubtful
    return Profile(found.name, kind, missing, different, found.complete, tuple(ordered), no_answer, spread, *form)


class ColumnProfile(Struct):
    """Counts the codes of one column."""

    name: str
    decimal: str = "."
    records: int = 0
    missing: int = 0
    complete: bool = True
    counts: Counter[str] = field(default_factory=Counter)

    def absorb(self, values: pa.DictionaryArray) -> None:
        """Adds a batch of text in dictionary form."""
        codes = [text or "" for text in values.dictionary.to_pylist()]
        times = np.bincount(places_of(values) % (len(codes) + 1), minlength=len(codes) + 1)
        self.records += len(values)
        self.missing += int(times[-1])
        for code, count in zip(codes, times.tolist(), strict=False):
            plain = code.strip()
            if not plain:
                self.missing += count
            elif plain in self.counts or len(self.counts) < _MOST_DIFFERENT:
                self.counts[plain] += count
            else:
                self.complete = False

    def merge(self, other: "ColumnProfile") -> None:
        """Adds what another profile of the same column has counted."""
        self.records += other.records
        self.missing += other.missing
        self.complete &= other.complete
        self.counts.update(other.counts)

    def finish(self) -> Profile:
        """What was found."""
        kind = guessed_kind(self.counts, self.decimal)
        levels = tuple(sorted(self.counts.items(), key=lambda item: -item[1]))
        form = form_of(self.counts, self.decimal)
        no_answer = likely_missing(self.counts, form.signs)
        spread = None
        if kind is Kind.NUMBER and self.complete:
            answered = {code: count for code, count in self.counts.items() if code not in no_answer}
            spread = None if form.doubtful else _spread(answered, form.signs)
        different = len(self.counts)
        found = (self.name, kind, self.missing, different, self.complete, levels, no_answer, spread)
        return Profile(*found, form.signs, form.doubtful)


def _spread(counts: dict[str, int], decimal: str) -> Spread | None:
    pairs = sorted((value, count) for code, count in counts.items() if (value := parsed(code, decimal)) is not None)
    if not pairs:
        return None
    values = np.array([value for value, _ in pairs])
    reach = np.cumsum([count for _, count in pairs])
    points = np.array([0, 0.25, 0.5, 0.75, 1]) * (reach[-1] - 1)
    below, above = np.floor(points).astype(int), np.ceil(points).astype(int)
    lower, upper = (values[np.searchsorted(reach, place, side="right")] for place in (below, above))
    return Spread(*(lower + (points - below) * (upper - lower)).tolist())
