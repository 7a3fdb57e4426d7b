"""A stretch of records, typed for one task."""

from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from grainstack.records.arrow import Codes, Numbers, list_offsets, numbers_of, places_of, valid_rows


@dataclass(frozen=True, slots=True)
class Needs:
    """The columns a task reads, by what it reads them as.

    Attributes:
        levels: As categories.
        numbers: As numbers, which may be missing.
        weights: As weights: numbers that are never missing or negative.
        times: As whole numbers of records that a row stands for.
    """

    levels: tuple[str, ...] = ()
    numbers: tuple[str, ...] = ()
    weights: tuple[str, ...] = ()
    times: tuple[str, ...] = ()

    def __or__(self, other: "Needs") -> "Needs":
        """What two tasks need together."""
        return Needs(
            levels=tuple(dict.fromkeys(self.levels + other.levels)),
            numbers=tuple(dict.fromkeys(self.numbers + other.numbers)),
            weights=tuple(dict.fromkeys(self.weights + other.weights)),
            times=tuple(dict.fromkeys(self.times + other.times)),
        )


@dataclass(frozen=True, slots=True)
class Batch:
    """Some records as Arrow columns.

    `levels:NAME` holds dictionary codes, or lists of them for a question with several answers; `numbers:NAME` holds
    floats.

    Attributes:
        records: The columns.
        first: The number of its first record, counted from 0 over all records kept.
    """

    records: pa.RecordBatch
    first: int = 0

    def __len__(self) -> int:
        return int(self.records.num_rows)

    def codes(self, column: str) -> Codes:
        """Places in the column's global level list, shape (records,); -1 where there is no answer."""
        return places_of(self.records.column(f"levels:{column}"))

    def has_several(self, column: str) -> bool:
        """Whether a record may have several levels in this column."""
        return bool(pa.types.is_list(self.records.schema.field(f"levels:{column}").type))

    def answers(self, column: str) -> "Answers":
        """The levels of a question with several answers."""
        lists = self.records.column(f"levels:{column}")
        offsets = list_offsets(lists)
        owners = np.repeat(np.arange(len(lists)), np.diff(offsets))
        return Answers(owners, places_of(lists.values)[offsets[0] : offsets[-1]], valid_rows(lists))

    def numbers(self, column: str) -> Numbers:
        """Numbers, shape (records,); NaN where there is no answer."""
        return numbers_of(self.records.column(f"numbers:{column}"))


@dataclass(frozen=True, slots=True)
class Answers:
    """Several answers per record.

    Attributes:
        owners: The record of each answer, shape (answers,).
        codes: The place of each answer in the level list, shape (answers,).
        answered: Whether each record answered the question at all, shape (records,).
    """

    owners: "np.ndarray[tuple[int], np.dtype[np.int64]]"
    codes: Codes
    answered: "np.ndarray[tuple[int], np.dtype[np.bool_]]"
