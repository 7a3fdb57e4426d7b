"""The global level list of a column: it grows while records stream by, and every batch is coded against it."""

import numpy as np
import pyarrow as pa

from grainstack.errors import RecordsError
from grainstack.records.arrow import Codes, level_column, places_of
from grainstack.records.variable import Level, LevelOrder

MOST_LEVELS = 50_000


class LevelList:
    """The levels of one column in the order they were found."""

    def __init__(self, column: str) -> None:
        self._column = column
        self._places: dict[str, int] = {}

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes found so far."""
        return tuple(self._places)

    def encode(self, values: pa.DictionaryArray) -> Codes:
        """Places in this list, shape (records,); -1 for values that are missing.

        Args:
            values: Text in dictionary form. White space around a value does not make another level.

        Raises:
            RecordsError: There are so many levels that the column must be an identifier or free text.
        """
        places = self._places
        own = [places.setdefault(code, len(places)) if (code := text.strip()) else -1 for text in _texts(values)]
        if len(places) > MOST_LEVELS:
            raise RecordsError(
                f"`{self._column}` has more than {MOST_LEVELS:,} different values: it seems to be free text or an "
                "identifier, not a category.",
                "Choose another column, or cut numbers into bands.",
            )
        lookup = np.array([*own, -1], dtype=np.int32)
        return np.asarray(lookup[places_of(values)], dtype=np.int32)

    def as_arrow(self, codes: Codes) -> pa.DictionaryArray:
        """Codes from `encode` as an Arrow column over this list."""
        return level_column(codes, self.codes)


def _texts(values: pa.DictionaryArray) -> list[str]:
    return [text or "" for text in values.dictionary.to_pylist()]


def ordered(codes: tuple[str, ...]) -> tuple[tuple[Level, ...], LevelOrder]:
    """The levels in their natural order: numbers by size, anything else as it was found."""
    levels = tuple(Level(code, code) for code in codes)
    try:
        return tuple(sorted(levels, key=lambda level: float(level.code))), LevelOrder.NUMERIC
    except ValueError:
        return levels, LevelOrder.AS_FOUND
