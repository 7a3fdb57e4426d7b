"""A stretch of records, typed for one task."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from msgspec import Struct

from grainstack.records.arrow import Codes, Numbers, list_offsets, numbers_of, places_of, valid_rows
from grainstack.records.readers.nets import Net
from grainstack.records.variable import MOST_BANDS, NO_BAND_CODE


class Needs(Struct, frozen=True):
    """The columns a task reads, by what it reads them as.

    Attributes:
        levels: As categories.
        numbers: As numbers, which may be missing.
        weights: As weights: numbers that are never missing or negative.
        times: As whole numbers of records that a row stands for.
        everyone: As categories of all records read, those filtered away too: a survey's strata and clusters.
        populations: As numbers of all records read that are never missing: population sizes.
        nets: Answers that count together, once a record, by column of questions with several answers.
        others: As text, for telling records apart: every other column of the source.
    """

    levels: tuple[str, ...] = ()
    numbers: tuple[str, ...] = ()
    weights: tuple[str, ...] = ()
    times: tuple[str, ...] = ()
    everyone: tuple[str, ...] = ()
    populations: tuple[str, ...] = ()
    nets: Mapping[str, Sequence[Net]] = {}
    others: bool = False


class Batch(Struct, frozen=True):
    """Some records as Arrow columns.

    `levels:NAME` holds dictionary codes, or lists of them for a question with several answers; `numbers:NAME` holds
    floats; `text:NAME` text in dictionary form, of columns that only tell records apart.

    Attributes:
        records: The columns.
        everyone: The design columns of all records read, those filtered away too; None when they are not needed.
        kept: Which of those records are kept, shape (records,); None when they are not needed.
        owners: Which record of the block each row was made of, shape (records,); None when each is a record itself.
        everyone_owners: The same for all records read.
        times: How many records each row stands for, shape (records,); None when each is one.
        everyone_times: The same for all records read.
    """

    records: pa.RecordBatch
    everyone: pa.RecordBatch | None = None
    kept: "np.ndarray[tuple[int], np.dtype[np.int64]] | None" = None
    owners: "np.ndarray[tuple[int], np.dtype[np.int64]] | None" = None
    everyone_owners: npt.NDArray[np.int64] | None = None
    times: npt.NDArray[np.int64] | None = None
    everyone_times: npt.NDArray[np.int64] | None = None

    def __len__(self) -> int:
        return int(self.records.num_rows)

    def codes(self, column: str) -> Codes:
        """Places in the column's global level list, shape (records,); -1 where there is no answer."""
        return places_of(self.records.column(f"levels:{column}"))

    def has_gaps(self, column: str) -> bool:
        """Whether a record has no answer there, where each has one level at most."""
        return bool(self.records.column(f"levels:{column}").indices.null_count)

    def in_no_band(self, column: str) -> npt.NDArray[np.bool_] | None:
        """Which records have a value that falls in no band of the column, shape (records,); None where none does."""
        levels = self.records.column(f"levels:{column}")
        if not pa.types.is_dictionary(levels.type) or len(levels.dictionary) > MOST_BANDS + 1:
            return None
        codes = levels.dictionary.to_pylist()
        if NO_BAND_CODE not in codes:
            return None
        return np.asarray(places_of(levels) == codes.index(NO_BAND_CODE), dtype=bool)

    def has_several(self, column: str) -> bool:
        """Whether a record may have several levels in this column."""
        return bool(pa.types.is_list(self.records.schema.field(f"levels:{column}").type))

    def answers(self, column: str) -> "Answers":
        """The levels of a question with several answers."""
        lists = self.records.column(f"levels:{column}")
        offsets = list_offsets(lists)
        owners = np.repeat(np.arange(len(lists)), np.diff(offsets))
        return Answers(owners, places_of(lists.values)[offsets[0] : offsets[-1]], valid_rows(lists))

    @property
    def everyone_count(self) -> int:
        """How many records were read."""
        return len(self) if self.everyone is None else int(self.everyone.num_rows)

    @property
    def everyone_once(self) -> npt.NDArray[np.int64] | None:
        """One row of each record read, where rows were made of records; None where each row is a record."""
        owners = self.everyone_owners
        return None if owners is None else np.flatnonzero(np.diff(owners, prepend=-1))

    def everyone_codes(self, column: str) -> Codes:
        """Places in a design column's level list, shape (records read,); never -1."""
        return places_of(self._everyone.column(f"levels:{column}"))

    def everyone_numbers(self, column: str) -> Numbers:
        """A design column of numbers, shape (records read,); never NaN."""
        return numbers_of(self._everyone.column(f"numbers:{column}"))

    @property
    def _everyone(self) -> pa.RecordBatch:
        if self.everyone is None:
            raise ValueError("the scan was not asked for the design columns of every record")
        return self.everyone

    @property
    def text_columns(self) -> tuple[str, ...]:
        """The columns that only tell records apart."""
        return tuple(name.removeprefix("text:") for name in self.records.schema.names if name.startswith("text:"))

    def texts(self, column: str) -> list[str]:
        """The text of each record in such a column, blank where there is none."""
        return [text or "" for text in self.records.column(f"text:{column}").to_pylist()]

    def numbers(self, column: str) -> Numbers:
        """Numbers, shape (records,); NaN where there is no answer."""
        return numbers_of(self.records.column(f"numbers:{column}"))


class Answers(Struct, frozen=True):
    """Several answers per record.

    Attributes:
        owners: The record of each answer, shape (answers,).
        codes: The place of each answer in the level list, shape (answers,).
        answered: Whether each record answered the question at all, shape (records,).
    """

    owners: "np.ndarray[tuple[int], np.dtype[np.int64]]"
    codes: Codes
    answered: "np.ndarray[tuple[int], np.dtype[np.bool_]]"
