"""What else stands in the rows of ready-made figures, so that several rows of one cell can be told apart."""

from collections.abc import Mapping, Sequence

from msgspec import Struct, field

from grainstack.records.numerals import parsed
from grainstack.summary.sums.exact import Integers

_MOST_ROWS = 20_000  # ready-made figures are few; with more rows nobody is helped by a list of columns
_LAST_YEAR = 2200  # a larger number is a measurement, not a year


class RowTexts(Struct):
    """The texts of every column that has no part in a figure, cell by cell.

    Attributes:
        columns: For each column and cell the different texts.
        rows: How many rows there were.
    """

    columns: dict[str, dict[int, set[str]]] = field(default_factory=dict)
    rows: int = 0

    def absorb(self, cells: Integers, texts: Mapping[str, Sequence[str]]) -> None:
        """Adds rows: their cells, shape (rows,), negative ones passed over, and the text of each in every column."""
        self.rows += len(cells)
        if self._too_many():
            return
        for name, column in texts.items():
            by_cell = self.columns.setdefault(name, {})
            for cell, text in zip(cells.tolist(), column, strict=True):
                if cell >= 0:
                    by_cell.setdefault(cell, set()).add(text)

    def merge(self, other: "RowTexts", places: Integers) -> None:
        """Adds others; `places` says where each of their cells stands here."""
        self.rows += other.rows
        if self._too_many():
            return
        for name, by_cell in other.columns.items():
            mine = self.columns.setdefault(name, {})
            for cell, texts in by_cell.items():
                mine.setdefault(int(places[cell]), set()).update(texts)

    def differing(self, cells: Sequence[int]) -> list[str]:
        """The columns in which the rows of some cells together differ, measurements left aside."""
        different = []
        for name, by_cell in self.columns.items():
            texts = set().union(*(by_cell.get(cell, set()) for cell in cells))
            if len(texts) > 1 and not _measured(texts):
                different.append(name)
        return different

    def _too_many(self) -> bool:
        if self.rows > _MOST_ROWS:
            self.columns = {}
        return self.rows > _MOST_ROWS


def _measured(texts: set[str]) -> bool:
    """Whether a few values look like measurements rather than like codes or years."""
    numbers = [value for text in texts if (value := parsed(text)) is not None and value == value]  # noqa: PLR0124 - NaN
    return len(numbers) == len(texts) and (max(numbers) > _LAST_YEAR or any(value % 1 for value in numbers))
