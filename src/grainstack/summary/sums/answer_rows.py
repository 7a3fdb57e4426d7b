"""The records of a batch as rows of the table: one each, or one per answer."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.records.arrow import Codes
from grainstack.records.batch import Batch
from grainstack.summary.sums.exact import Integers
from grainstack.summary.sums.factors import Column


class Rows(Struct, frozen=True):
    """The records of a batch as rows of the table: one each, or one per answer.

    Attributes:
        owners: The record of each row, shape (rows,); None when every record is one row.
        codes: For each dimension the level of each row.
        answered: Whether a record has an answer in every dimension, shape (records,).
    """

    owners: Integers | None
    codes: list[npt.NDArray[np.int32]]
    answered: npt.NDArray[np.bool_]

    def of(self, column: npt.NDArray[np.generic]) -> npt.NDArray[np.generic]:
        """A column of the records, row by row."""
        return column if self.owners is None else column[self.owners]

    def records(self, owners: Integers | None) -> Integers | None:
        """The record each row comes from, rising, shape (rows,); None where each record is one row.

        Args:
            owners: The record of each row of the batch, where these were made of records themselves.
        """
        if self.owners is None or owners is None:
            return owners if self.owners is None else self.owners
        return owners[self.owners]

    def column_of(self, column: Column) -> Column:
        """A column of the records, row by row; the same where each record is one row."""
        return column if self.owners is None else column.at(self.owners)

    def column(self, numbers: npt.NDArray[np.generic] | None) -> Column | None:
        """The same for numbers that may be absent."""
        return None if numbers is None else self.column_of(Column(np.asarray(numbers, dtype=np.float64)))


def coded(
    batch: Batch, names: Sequence[str], axes: Sequence[int], several: Sequence[int]
) -> tuple[Integers | None, list[Codes]]:
    """The records of a batch, once for each of their answers in some dimensions, and their level in each.

    Args:
        batch: The records.
        names: The dimensions.
        axes: Which of them.
        several: Those of questions with several answers.

    Returns:
        The record of each row, None where each record is one row; and the levels of the rows.
    """
    owners: Integers | None = None
    codes: list[Codes] = []
    for axis in axes:
        name = names[axis]
        if axis in several:
            answers = batch.answers(name)
            every = np.arange(len(batch)) if owners is None else owners
            owners, (old, which) = _exploded(every, answers.owners)
            codes = [*(column[old] for column in codes), answers.codes[which]]
        else:
            codes.append(batch.codes(name) if owners is None else batch.codes(name)[owners])
    return owners, codes


def _exploded(owners: Integers, answer_owners: Integers) -> tuple[Integers, tuple[Integers, Integers]]:
    """Rows multiplied by the answers of their record.

    Returns:
        The record of each new row; and for each the old row and the answer it comes from.
    """
    starts = np.searchsorted(answer_owners, owners, side="left")
    counts = np.searchsorted(answer_owners, owners, side="right") - starts
    old_rows = np.repeat(np.arange(len(owners)), counts)
    within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    return owners[old_rows], (old_rows, np.repeat(starts, counts) + within)
