"""Columns that are multiplied row by row and summed up exactly, per cell.

Most columns hold decimal numbers: money, minutes, weights of a few decimals. A number that is the nearest double to one
with at most four decimals is taken for that decimal number, and so are products of such numbers: they are summed up as
whole numbers of a power of ten, which is exact and takes one pass. Products of other numbers are cut into parts that
are exact (Dekker 1971).

There are two ways to the same sums: compiled (`compiled_factors`), and with numpy alone (`plain_factors`) where nothing
was compiled.
"""

from collections.abc import Sequence
from typing import Any, Protocol

from grainstack.compiled import compiled
from grainstack.summary.sums.exact import ExactSums, Floats, Integers

Factor = Any  # a column as the way chosen keeps it: nobody else looks inside


class Way(Protocol):
    """How products are summed up."""

    def factored(self, columns: Sequence[Floats]) -> list[tuple[Integers | None, list[Factor]]]:
        """Columns as factors: rows in which all are decimal apart from the others, whichever rows come together.

        Args:
            columns: Numbers, shape (rows,) each, finite.

        Returns:
            For each kind of rows that occurs which they are, None for all, and the columns there.
        """

    def whole_factor(self, numbers: Integers) -> Factor:
        """Whole numbers as a factor."""

    def add_products(self, sums: ExactSums, cells: Integers, factors: Sequence[Factor], count: int) -> None:
        """Adds the products of some columns, row by row.

        Args:
            sums: What they are added to.
            cells: The cell of each row, shape (rows,), from 0; at most `CHUNK` of them.
            factors: The columns, shape (rows,) each, at least one and at most six; all of them decimal or none.
            count: How many cells there are by now.
        """


def _fastest() -> Way:
    if compiled("grainstack.summary.sums.kernel") is not None:
        from grainstack.summary.sums import compiled_factors  # noqa: PLC0415 - it is not there everywhere

        return compiled_factors
    from grainstack.summary.sums import plain_factors  # noqa: PLC0415 - loaded where it is needed

    return plain_factors


way = _fastest()
