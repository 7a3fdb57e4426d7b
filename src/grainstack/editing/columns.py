"""The columns of some records as the page lists them: what each is, its levels, and how its records are spread."""

from collections.abc import Iterator

import numpy as np
import pyarrow as pa
from msgspec import Struct

from grainstack.records.opened import Opened
from grainstack.records.sample import columns_of_values
from grainstack.records.variable import Kind
from grainstack.summary.profile import Profile, profile_with, profiled

_LOOKED_AT = 100_000  # records: enough to tell columns apart, and read in a moment
_MOST_LEVELS = 400  # of a column: the page offers them by name
_BARS = 12  # beside a column: as many as can be told apart there


class ColumnListed(Struct, frozen=True):
    """A column.

    Attributes:
        name: The column.
        label: As it is called.
        kind: How its values are understood.
        about: What is in it, in a few words.
        levels: Codes with labels, in their order; none of a number or text.
        bars: How many records stand behind each level, or in each tenth of a number's range.
    """

    name: str
    label: str
    kind: str
    about: str
    levels: tuple[tuple[str, str], ...]
    bars: tuple[int, ...]


class Listing(Struct, frozen=True):
    """All of them.

    Attributes:
        records: How many records were looked at.
        complete: Whether these are all there are.
        columns: The columns.
    """

    records: int
    complete: bool
    columns: tuple[ColumnListed, ...]


def listing_of(opened: Opened) -> Listing:
    """The columns of some records, by the first hundred thousand of them.

    Args:
        opened: The records.

    Raises:
        RecordsError: They cannot be read.
    """
    names, _ = columns_of_values(opened.source)
    first = _First(opened.source.batches(names))
    looked = profiled(names, first, decimal=opened.codebook.decimal_in(opened.source.decimal))
    listed = tuple(_listed(one, opened) for one in looked.profiles)
    return Listing(looked.records, first.complete, listed)


class _First:
    """The first batches, until there are enough records."""

    def __init__(self, batches: Iterator[pa.RecordBatch]) -> None:
        self._batches = batches
        self.complete = True

    def __iter__(self) -> Iterator[pa.RecordBatch]:
        seen = 0
        for batch in self._batches:
            if seen >= _LOOKED_AT:
                self.complete = False
                return
            yield batch
            seen += batch.num_rows


def _listed(found: Profile, opened: Opened) -> ColumnListed:
    known = opened.codebook.variable(found.name)
    profile = profile_with(found, known)
    kind = profile.kind
    label = known.label or found.name
    if kind is Kind.NUMBER and profile.spread is not None:
        about = f"{profile.spread.low:.6g}–{profile.spread.high:.6g} {known.unit}".strip()  # years have no thousands
        return ColumnListed(found.name, label, kind.value, about, (), _tenths(found, profile))
    if kind is Kind.TEXT:
        return ColumnListed(found.name, label, kind.value, f"{profile.different:,} different", (), ())
    codes = {level.label: level.code for level in known.levels}
    levels = tuple((codes.get(name, name), name) for name, _ in profile.levels[:_MOST_LEVELS])
    bars = tuple(count for _, count in profile.levels[:_BARS])
    return ColumnListed(found.name, label, kind.value, str(profile.different), levels, bars)


def _tenths(found: Profile, profile: Profile) -> tuple[int, ...]:
    """How many records are in each twelfth of a number's range."""
    if profile.spread is None:
        return ()
    values, counts = [], []
    for code, count in found.levels:
        try:
            values.append(float(code.replace(found.decimal[:1], ".") if found.decimal[:1] == "," else code))
        except ValueError:
            continue  # no answer, or text in a column of numbers
        counts.append(count)
    span = (profile.spread.low, profile.spread.high)
    if not values or span[0] == span[1]:
        return ()
    return tuple(np.histogram(values, bins=_BARS, range=span, weights=counts)[0].astype(int).tolist())
