"""The global level list of a column: it grows while records stream by, and every batch is coded against it."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from msgspec import Struct

from grainstack.compiled import compiled
from grainstack.errors import RecordsError
from grainstack.records.arrow import Codes, places_of, strings
from grainstack.records.codebook.codebook import BY_SIZE, CodebookVariable, trimmed
from grainstack.records.known_orders import known_order
from grainstack.records.numerals import is_number
from grainstack.records.variable import Level, LevelOrder, LevelRole, no_answer

kernel = compiled("grainstack.records.kernel")

MOST_LEVELS = 50_000


class Rows(Struct, frozen=True):
    """Which records of a source the rows of a batch are.

    Attributes:
        first: The number of the batch's first record before any were left out.
        kept: Which of its records are left, shape (rows,); None for all.
    """

    first: int
    kept: npt.NDArray[np.int64] | None = None

    def number(self, row: int) -> int:
        """The number of the record in a row, counted from 0 over the whole source."""
        return self.first + (row if self.kept is None else int(self.kept[row]))

    def kept_of(self, count: int) -> npt.NDArray[np.int64]:
        """Which of so many records are left, shape (rows,)."""
        return np.arange(count) if self.kept is None else self.kept


class LevelList:
    """The levels of one column, each with the record that has it first.

    A level is known by its code; where it stands in this list depends on the order in which batches came, but the order
    in which records have levels first does not.

    Args:
        variable: What the codebook says of the column: labels, missing codes.
        renamed: New names by old label or code.
        show_missing: Whether missing answers are a level of their own.
        listed: Where the order of the levels in `variable` comes from.

    Attributes:
        met: The levels that records have.
        positions: For each of them the first record that has it, and which of its answers it is there.
        names_used: The names in the recode that some level had.
        not_listed: Codes that a codebook with levels does not list, each with its position.
    """

    def __init__(
        self,
        variable: CodebookVariable,
        renamed: Mapping[str, str] | None = None,
        *,
        show_missing: bool = False,
        listed: LevelOrder = LevelOrder.CODEBOOK,
    ) -> None:
        self._listed = listed
        self._variable = variable
        self._renamed = renamed or {}
        self._show_missing = show_missing
        self._places: dict[str, int] = {}
        self._read: dict[str | None, int] = {}  # the place of each value read, as it is written
        self._first_read: dict[str | None, int] = {}  # the first record that has it
        self._latest = -1  # the last of these records
        self._looked_up: tuple[pa.StringArray, Codes] | None = None  # the last dictionary, if all of it was read before
        self._column: pa.StringArray | None = None
        self.met: list[Level] = []
        self.positions: list[tuple[int, int]] = []
        self.names_used: set[str] = set()
        self.not_listed: dict[str, tuple[int, int]] = {}

    def __getstate__(self) -> dict[str, Any]:
        """What it has learnt, without what is only kept to be fast."""
        return self.__dict__ | {"_looked_up": None, "_column": None}

    @property
    def name(self) -> str:
        """The column."""
        return self._variable.name

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes of the levels found so far."""
        return tuple(level.code for level in self.met)

    @property
    def column(self) -> pa.StringArray:
        """The same as an Arrow column, made when a level is new."""
        if self._column is None or len(self._column) < len(self.met):
            self._column = strings(self.codes)
        return self._column

    @property
    def unlabelled(self) -> tuple[str, ...]:
        """Codes of records that a codebook with levels does not list, in the order in which records have them first."""
        return tuple(sorted(self.not_listed, key=self.not_listed.__getitem__))

    @property
    def unused_names(self) -> tuple[str, ...]:
        """Names in the recode that no record and no codebook level has."""
        if not self._renamed:
            return ()
        self.ordered()
        return tuple(name for name in self._renamed if name not in self.names_used)

    def encode(self, values: pa.DictionaryArray, rows: Rows) -> Codes:
        """Places in this list, shape (records,); -1 for values that are missing.

        Args:
            values: Text in dictionary form. White space around a value does not make another level.
            rows: Which records they belong to.

        Raises:
            RecordsError: There are so many levels that the column must be an identifier or free text.
        """
        places = places_of(values)
        lookup = self._lookup(values.dictionary, places, rows)
        if self._show_missing and (places < 0).any():
            lookup[-1] = self.place("", (rows.number(int(np.argmax(places < 0))), 0))
        return np.asarray(lookup[places] if kernel is None else kernel.look_up(places, lookup), dtype=np.int32)

    def _lookup(self, dictionary: pa.StringArray, places: Codes, rows: Rows) -> Codes:
        """The place of each value of a dictionary that some row has; the last one, for no value, is -1."""
        in_order = rows.first > self._latest
        if in_order and self._looked_up is not None and dictionary.equals(self._looked_up[0]):
            return self._looked_up[1].copy()
        texts = dictionary.to_pylist()
        if in_order:
            mine = list(map(self._read.get, texts))
        else:  # blocks come out of order: what was read further on has to be looked at again
            first_read = self._first_read
            mine = [self._read.get(text) if first_read.get(text, rows.first) < rows.first else None for text in texts]
        complete = None not in mine
        if not complete:
            first = first_rows_of(places, len(texts)).tolist()
            for number, (text, row) in enumerate(zip(texts, first, strict=True)):
                if mine[number] is None and row >= 0:
                    record = rows.number(row)
                    mine[number] = self._read[text] = self.place(text or "", (record, 0))
                    self._first_read[text] = record
                    self._latest = max(self._latest, record)
        lookup = np.array([-1 if one is None else one for one in (*mine, -1)], dtype=np.int32)
        self._looked_up = (dictionary, lookup.copy()) if complete else None
        return lookup

    def place(self, text: str, position: tuple[int, int]) -> int:
        """The place of one stored value, added if it is new; -1 when it is missing.

        Args:
            text: The value.
            position: The record that has it, and which of its answers it is.
        """
        code = text.strip()
        level = self._level(code, position)
        if level is None:
            return -1
        return self._add(level, position)

    def net_place(self, name: str, position: tuple[int, int]) -> int:
        """The place of a net of levels, added if it is new.

        Args:
            name: What the net is called.
            position: A record that is in it.
        """
        return self._add(Level(f"\x00net {name}", name, role=LevelRole.NET), position)

    def merge(self, other: "LevelList") -> npt.NDArray[np.int64]:
        """Learns the levels of another list; gives the place here of each of its places, shape (its places,)."""
        self.names_used |= other.names_used
        for code, position in other.not_listed.items():
            self.not_listed[code] = min(position, self.not_listed.get(code, position))
        pairs = zip(other.met, other.positions, strict=True)
        return np.array([self._add(level, position) for level, position in pairs], dtype=np.int64)

    def as_found(self) -> tuple[int, ...]:
        """The places in the order in which records have their levels first."""
        return tuple(sorted(range(len(self.met)), key=self.positions.__getitem__))

    def names(self, place: int) -> tuple[str, str]:
        """The label and code a person may call a level by."""
        return self.met[place].label, self.met[place].code

    def ordered(self) -> tuple[tuple[Level, ...], LevelOrder]:
        """The levels in natural order: the codebook's, else the one everybody knows, else by number, else as found.

        No answer and nets stand last.
        """
        met = [self.met[place] for place in self.as_found()]
        levels = [level for level in met if not (level.is_no_answer or level.is_net)]
        last = tuple(sorted((level for level in met if level.is_no_answer or level.is_net), key=lambda one: one.is_net))
        if self._variable.levels:
            listed = self._in_codebook_order(levels)
            if self._variable.order == BY_SIZE:
                return (*dict.fromkeys([*levels, *listed]), *last), LevelOrder.AS_FOUND
            return (*listed, *last), self._listed

        known = known_order([level.label for level in levels])
        if known is not None and not all(is_number(level.code) for level in levels):
            return (*(levels[place] for place in known), *last), LevelOrder.KNOWN
        if levels and all(is_number(level.code) for level in levels):
            return (*sorted(levels, key=lambda level: float(level.code)), *last), LevelOrder.NUMBERS
        return (*levels, *last), LevelOrder.AS_FOUND

    def __len__(self) -> int:
        return len(self.met)

    def labels(self) -> Iterator[str]:
        """The labels of the levels met so far, in the order in which records have them first."""
        return (self.met[place].label for place in self.as_found())

    def _add(self, level: Level, position: tuple[int, int]) -> int:
        place = self._places.setdefault(level.code, len(self.met))
        if place == len(self.met):
            if place == MOST_LEVELS:
                raise RecordsError(
                    f"`{self._variable.name}` has more than {MOST_LEVELS:,} different values: it seems to be free text "
                    "or an identifier, not a category.",
                    "Choose another column, or cut numbers into bands.",
                )
            self.met.append(level)
            self.positions.append(position)
        elif position < self.positions[place]:
            self.positions[place] = position
        return place

    def _level(self, code: str, position: tuple[int, int]) -> Level | None:
        if not code or self._variable.is_missing(code):
            return no_answer() if self._show_missing else None
        listed = self._variable.level(code)
        if listed is None and self._variable.levels:
            self.not_listed[code] = min(position, self.not_listed.get(code, position))
        level = listed or Level(code, code)
        for name in (level.label, code, trimmed(code)):
            if name in self._renamed:
                self.names_used.add(name)
                return self._named(self._renamed[name])
        return level

    def _named(self, name: str) -> Level:
        """The level of a new name: one of the codebook's when it has that label, so that it keeps its colour."""
        same = next((level for level in self._variable.levels if level.label == name), None)
        return same or Level(name, name)

    def _in_codebook_order(self, levels: Sequence[Level]) -> list[Level]:
        """Codebook levels in its order, found or not; merged ones where their first part stood; unlisted ones last."""
        ranked: dict[Level, None] = {}
        for listed in self._variable.levels:
            new = self._renamed.get(listed.label) or self._renamed.get(listed.code)
            if new is not None:
                self.names_used.update(name for name in (listed.label, listed.code) if name in self._renamed)
            ranked.setdefault(self._named(new) if new is not None else listed)
        ranked.update(dict.fromkeys(levels))
        return list(ranked)


def first_rows_of(places: Codes, count: int) -> npt.NDArray[np.int64]:
    """The first row that has each dictionary place, shape (count,); -1 for places no row has."""
    first = np.full(count + 1, -1, dtype=np.int64)
    first[places[::-1]] = np.arange(len(places) - 1, -1, -1)  # the last write wins, so the first row stays
    return first[:count]
