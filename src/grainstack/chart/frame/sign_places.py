"""Where signs of unsure figures stand that are not written themselves, and which of them the note explains."""

from collections.abc import Collection, Mapping, Sequence

from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.second_axis import SECOND_CODE, second_points
from grainstack.chart.frame.signs_drawn import signs_drawn
from grainstack.chart.marks import Key, Mark, MarkRole
from grainstack.chart.writing.signs import SIGNS, signs_of
from grainstack.chart.writing.wording import Words


class SignPlaces:
    """The signs at the categories of one chart, settled from one draft of it to the next.

    A figure that is not solid and is not written has its sign at the base of its category, or at its name.

    Args:
        cells: The figures of the chart.
    """

    def __init__(self, cells: ChartCells) -> None:
        self._cells = cells
        self._meant: frozenset[str] = frozenset()  # signs that figures have and the note explains
        self._at: dict[int, str] = {}  # by slot
        self._on_bases = True  # rather than on names; both stand together
        self._explained: Collection[str] | None = None  # the signs that the note explains; None for all there may be

    @property
    def expected(self) -> bool:
        """Whether there may be signs at all."""
        return bool(self._meant)

    def forget_room(self) -> None:
        """Forgets what an earlier draft had no room for."""
        self._on_bases, self._explained = True, None

    def explaining(self, words: Words) -> Words:
        """Words with the meaning of the signs that are drawn, as far as that is known.

        Args:
            words: The words with the meaning of every sign there may be.
        """
        words = words if self._explained is None else words.explaining(self._explained)
        self._meant = frozenset(sign for sign, _ in words.meanings)
        return words

    def at_base(self, slot: int) -> str:
        """The signs at the base of a category.

        Args:
            slot: Its place.
        """
        return self._at.get(slot, "") if self._on_bases else ""

    def at_name(self, slot: int, base: str) -> str:
        """The signs at the name of a category.

        Args:
            slot: Its place.
            base: What stands under the name; empty for nothing.
        """
        return "" if base and self._on_bases else self._at.get(slot, "")

    def changed(self, marks: Sequence[Mark]) -> bool:
        """Whether the picture has to be drawn again for each sign to be explained, and each explained one drawn.

        Args:
            marks: Everything that is drawn.
        """
        if not self._meant:
            return False
        drawn = signs_drawn(marks, (MarkRole.CATEGORY,))
        needed = self._needed(drawn)
        if needed != self._at:
            self._at = needed
            return True
        if self._on_bases and needed and not any(drawn.get(Key(category=slot.codes)) for slot in self._cells.slots):
            self._on_bases = False  # these have no room
            return True
        seen = frozenset[str]().union(*drawn.values())
        if self._meant - seen:  # a name was cut with its sign
            self._explained = seen
            return True
        return False

    def _needed(self, drawn: Mapping[Key, frozenset[str]]) -> dict[int, str]:
        """The signs at categories, by slot: those that are there, and those that are drawn nowhere."""
        needed = dict(self._at)
        for slot, key, signs in self._flagged():
            at_name = Key(category=self._cells.slots[slot].codes)
            missing = self._meant.intersection(signs) - drawn.get(key, frozenset()) - drawn.get(at_name, frozenset())
            needed[slot] = "".join(sign for sign in SIGNS.values() if sign in missing or sign in needed.get(slot, ""))
        return {slot: signs for slot, signs in needed.items() if signs}

    def _flagged(self) -> list[tuple[int, Key, str]]:
        """The slot, key and signs of each figure that is not solid."""
        cells = self._cells
        drawn = [cell for cell in cells.cells if cell.flags and (cell.estimate != 0 or cells.count == 1)]  # or no mark
        found = [(cell.slot, cells.key(cell), signs_of(cell.flags)) for cell in drawn]
        for panel, slot, _, flags in second_points(cells):
            found.append((slot, cells.slot_key(panel, slot, SECOND_CODE), signs_of(flags)))
        return [one for one in found if one[2]]
