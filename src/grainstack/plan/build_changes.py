"""What is different between two builds of a plan, as an analyst looks for it before sending the new one."""

from collections.abc import Iterator, Sequence
from enum import StrEnum
from math import isclose

from msgspec import Struct

from grainstack.errors import listed
from grainstack.plan.building.record import BuildRecord, EntryRecord, FigureRecord

_DUST = 1e-9  # relative: two sums of the same numbers in another order may differ by so much


class Difference(StrEnum):
    """What differs."""

    NEW_ENTRY = "new entry"
    ENTRY_GONE = "entry gone"
    NEW_LEVEL = "new level"
    LEVEL_GONE = "level gone"
    FIGURE = "figure"
    BASE_FELL = "base fell"
    NEW_FLAG = "new flag"


class Found(Struct, frozen=True):
    """One difference.

    Attributes:
        entry: The entry of the plan.
        what: What differs.
        where: The cell or level, in words; empty for a whole entry.
        figure: Which figure; empty where it is none.
        before: What it was; empty where there was nothing.
        after: What it is; likewise.
    """

    entry: str
    what: Difference
    where: str = ""
    figure: str = ""
    before: str = ""
    after: str = ""

    def __str__(self) -> str:
        change = " → ".join(part for part in (self.before, self.after) if part)
        sentences = {
            Difference.NEW_ENTRY: "the entry is new",
            Difference.ENTRY_GONE: "the entry is gone",
            Difference.NEW_LEVEL: f"{self.where} is new",
            Difference.LEVEL_GONE: f"{self.where} is gone",
            Difference.FIGURE: f"{self.where}: {self.figure} {change}",
            Difference.BASE_FELL: f"{self.where}: base {change}",
            Difference.NEW_FLAG: f"{self.where}: {self.figure} is now flagged {self.after}",
        }
        return sentences[self.what]


Cell = tuple[tuple[str, str], ...]
_NONE = "none"


def changes_between(before: BuildRecord, after: BuildRecord) -> list[Found]:
    """What differs, entry by entry in the order of the new plan, entries that are gone last.

    Figures count as changed if they are written otherwise; levels that came or went are named once, and not again for
    each of their figures.

    Args:
        before: The record of the old build.
        after: That of the new one.
    """
    found = []
    for name, entry in after.entries.items():
        old = before.entries.get(name)
        found += [Found(name, Difference.NEW_ENTRY)] if old is None else list(_in_entry(name, old, entry))
    gone = [name for name in before.entries if name not in after.entries]
    return found + [Found(name, Difference.ENTRY_GONE) for name in gone]


def _in_entry(name: str, before: EntryRecord, after: EntryRecord) -> Iterator[Found]:
    old, new = _levels(before), _levels(after)
    for what, some, others in ((Difference.NEW_LEVEL, new, old), (Difference.LEVEL_GONE, old, new)):
        for column, level in some:
            if (column, level) not in others:
                yield Found(name, what, f"{column} {level}".strip())
    known = {(_cell(one), one.figure): one for one in before.figures}
    both = [(known[_cell(one), one.figure], one) for one in after.figures if (_cell(one), one.figure) in known]
    for was, figure in both:
        yield from _in_figure(name, was, figure)
    yield from _bases(name, both)
    yield from _without_counterpart(name, after, before, is_new=True)
    yield from _without_counterpart(name, before, after, is_new=False)


def _without_counterpart(name: str, some: EntryRecord, others: EntryRecord, *, is_new: bool) -> Iterator[Found]:
    """Figures that only one of two builds has, though both have all of their levels."""
    there, levels = {(_cell(one), one.figure) for one in others.figures}, _levels(others)
    for figure in some.figures:
        cell = _cell(figure)
        if (cell, figure.figure) not in there and all(level in levels for level in cell):
            shown = figure.shown or _NONE
            change = (_NONE, shown) if is_new else (shown, _NONE)
            yield Found(name, Difference.FIGURE, _in_words(cell), figure.figure, *change)


def _in_figure(name: str, was: FigureRecord, figure: FigureRecord) -> Iterator[Found]:
    """What differs in a figure that both builds have."""
    where = _in_words(_cell(figure))
    if figure.shown != was.shown and not _is_dust(was.estimate, figure.estimate):
        yield Found(name, Difference.FIGURE, where, figure.figure, was.shown or _NONE, figure.shown or _NONE)
    flags = [flag for flag in figure.flags if flag not in was.flags]
    if flags:
        yield Found(name, Difference.NEW_FLAG, where, figure.figure, "", ", ".join(flags))


def _bases(name: str, both: Sequence[tuple[FigureRecord, FigureRecord]]) -> Iterator[Found]:
    """Bases that fell; that of the shares of one whole is named once."""
    fell: dict[tuple[int, int], dict[Cell, None]] = {}
    for was, figure in both:
        if figure.base is not None and was.base is not None and figure.base < was.base:
            fell.setdefault((was.base, figure.base), {})[_cell(figure)] = None
    for (many, fewer), cells in fell.items():
        yield Found(name, Difference.BASE_FELL, _together(list(cells)), "", f"{many:,}", f"{fewer:,}")


def _levels(entry: EntryRecord) -> dict[tuple[str, str], None]:
    """The levels of an entry with their columns, in the order they are met in."""
    return dict.fromkeys(level for figure in entry.figures for level in figure.cell.items())


def _cell(figure: FigureRecord) -> Cell:
    return tuple(figure.cell.items())


def _in_words(cell: Cell) -> str:
    return ", ".join(level for _, level in cell)


def _together(cells: Sequence[Cell]) -> str:
    """Cells of one base: what they have in common, as the shares of one whole do; else each of them."""
    common = tuple(level for level in cells[0] if all(level in cell for cell in cells))
    return _in_words(common) if common else listed(map(_in_words, cells)) if len(cells[0]) > 0 else "all"


def _is_dust(one: float | None, other: float | None) -> bool:
    return one is not None and other is not None and isclose(one, other, rel_tol=_DUST)
