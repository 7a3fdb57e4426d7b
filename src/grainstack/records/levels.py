"""The global level list of a column: it grows while records stream by, and every batch is coded against it."""

from collections.abc import Mapping, Sequence

import numpy as np
import pyarrow as pa

from grainstack.errors import RecordsError
from grainstack.records.arrow import Codes, places_of
from grainstack.records.codebook import CodebookVariable, trimmed
from grainstack.records.variable import NO_ANSWER, Level, LevelOrder

MOST_LEVELS = 50_000


class LevelList:
    """The levels of one column in the order they were found.

    Args:
        said: What the codebook says of the column: labels, missing codes.
        renamed: New names by old label or code.
        show_missing: Whether missing answers are a level of their own.
        listed: Where the order of the levels in `said` comes from.
    """

    def __init__(
        self,
        said: CodebookVariable,
        renamed: Mapping[str, str] | None = None,
        *,
        show_missing: bool = False,
        listed: LevelOrder = LevelOrder.CODEBOOK,
    ) -> None:
        self._listed = listed
        self._said = said
        self._renamed = renamed or {}
        self._show_missing = show_missing
        self._places: dict[str, int] = {}
        self._levels: list[Level] = []
        self._used_names: set[str] = set()
        self._unlabelled: dict[str, None] = {}

    @property
    def name(self) -> str:
        """The column."""
        return self._said.name

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes of the levels found so far."""
        return tuple(level.code for level in self._levels)

    @property
    def found(self) -> Sequence[Level]:
        """The levels found so far, in the order found."""
        return self._levels

    @property
    def unlabelled(self) -> tuple[str, ...]:
        """Codes found that a codebook with levels does not list."""
        return tuple(self._unlabelled)

    @property
    def unused_names(self) -> tuple[str, ...]:
        """Names in the recode that no record and no codebook level has."""
        self.ordered()
        return tuple(name for name in self._renamed if name not in self._used_names)

    def encode(self, values: pa.DictionaryArray) -> Codes:
        """Places in this list, shape (records,); -1 for values that are missing.

        Args:
            values: Text in dictionary form. White space around a value does not make another level.

        Raises:
            RecordsError: There are so many levels that the column must be an identifier or free text.
        """
        places = places_of(values)
        texts = values.dictionary.to_pylist()
        used = np.bincount(places + 1, minlength=len(texts) + 1)[1:].tolist()
        own = [self.place(text or "") if times else -1 for text, times in zip(texts, used, strict=True)]
        if len(self._levels) > MOST_LEVELS:
            raise RecordsError(
                f"`{self._said.name}` has more than {MOST_LEVELS:,} different values: it seems to be free text or an "
                "identifier, not a category.",
                "Choose another column, or cut numbers into bands.",
            )
        missing = self.place("") if (places < 0).any() else -1
        lookup = np.array([*own, missing], dtype=np.int32)
        return np.asarray(lookup[places], dtype=np.int32)

    def place(self, text: str) -> int:
        """The place of one stored value, added if it is new; -1 when it is missing."""
        code = text.strip()
        level = self._level(code)
        if level is None:
            return -1
        place = self._places.setdefault(level.code, len(self._levels))
        if place == len(self._levels):
            self._levels.append(level)
        return place

    def names(self, place: int) -> tuple[str, str]:
        """The label and code a person may call a level by."""
        return self._levels[place].label, self._levels[place].code

    def ordered(self) -> tuple[tuple[Level, ...], LevelOrder]:
        """The levels in natural order: the codebook's, else the one everybody knows, else by number, else as found."""
        levels = [level for level in self._levels if level != NO_ANSWER]
        last = tuple(level for level in self._levels if level == NO_ANSWER)
        if self._said.levels:
            return (*self._in_codebook_order(levels), *last), self._listed
        from grainstack.records.known_orders import known_order  # noqa: PLC0415 - a codebook makes it needless

        known = known_order([level.label for level in levels])
        if known is not None and not all(_is_number(level.code) for level in levels):
            return (*(levels[place] for place in known), *last), LevelOrder.KNOWN
        if levels and all(_is_number(level.code) for level in levels):
            return (*sorted(levels, key=lambda level: float(level.code)), *last), LevelOrder.NUMBERS
        return (*levels, *last), LevelOrder.AS_FOUND

    def _level(self, code: str) -> Level | None:
        if not code or self._said.is_missing(code):
            return NO_ANSWER if self._show_missing else None
        listed = self._said.level(code)
        if listed is None and self._said.levels:
            self._unlabelled.setdefault(code)
        level = listed or Level(code, code)
        for name in (level.label, code, trimmed(code)):
            if name in self._renamed:
                self._used_names.add(name)
                return self._named(self._renamed[name])
        return level

    def _named(self, name: str) -> Level:
        """The level of a new name: one of the codebook's when it has that label, so that it keeps its colour."""
        same = next((level for level in self._said.levels if level.label == name), None)
        return same or Level(name, name)

    def _in_codebook_order(self, levels: Sequence[Level]) -> list[Level]:
        """Codebook levels in its order, found or not; merged ones where their first part stood; unlisted ones last."""
        ranked: dict[Level, None] = {}
        for listed in self._said.levels:
            new = self._renamed.get(listed.label) or self._renamed.get(listed.code)
            if new is not None:
                self._used_names.update(name for name in (listed.label, listed.code) if name in self._renamed)
            ranked.setdefault(self._named(new) if new is not None else listed)
        ranked.update(dict.fromkeys(levels))
        return list(ranked)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
