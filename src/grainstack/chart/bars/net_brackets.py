"""Brackets over the parts of a net: what levels side by side in a bar add up to."""

from collections.abc import Sequence

from msgspec import Struct

from grainstack.chart.bars.bar_arrangement import Bar, BarArrangement
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.side_columns import SideColumn
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Line, Mark, MarkRole, Text
from grainstack.chart.writing.text import width

_TICK = 0.35  # of the gap: how far a bracket's ends reach down
_ROOM = 1.75  # of the type's size: a bracket and its figure over a bar


class Brackets(Struct, frozen=True):
    """The nets of a chart that can stand over their parts.

    Attributes:
        parts: The series each net adds up, as places.
        side_columns: The nets' figures.
    """

    parts: tuple[tuple[int, ...], ...]
    side_columns: tuple[SideColumn, ...]

    def fit(self, plots: Plots, thickness: float, style: Style) -> bool:
        """Whether there is room over every bar of lying ones."""
        free = plots.planes[0].slot - thickness
        return plots.horizontal and free >= style.value * _ROOM


def brackets_of(bars: BarArrangement, side_columns: Sequence[SideColumn]) -> Brackets | None:
    """The nets of stacked bars, where the parts of each stand side by side and are in no other net; else None.

    Args:
        bars: The bars.
        side_columns: What would stand beside them, nets first.
    """
    dimension = bars.cells.table.series
    if dimension is None or dimension.several or not dimension.nets or bars.layout not in ("percent", "stacked"):
        return None
    apart = all(parts == tuple(range(parts[0], parts[-1] + 1)) for parts in dimension.nets)
    every = [place for parts in dimension.nets for place in parts]
    if not apart or len(every) != len(set(every)):
        return None
    return Brackets(dimension.nets, tuple(side_columns[: len(dimension.nets)]))


def bracket_marks(brackets: Brackets, bars: Sequence[Bar], plots: Plots, thickness: float, style: Style) -> list[Mark]:
    """A line over the parts of each net in each bar, with its name and figure; the figure alone where it is short.

    Args:
        brackets: The nets.
        bars: All segments.
        plots: Where the bars lie.
        thickness: That of a bar in points.
        style: Sizes.
    """
    marks: list[Mark] = []
    segments = {(bar.cell.panel, bar.cell.slot, bar.cell.series): bar for bar in bars}
    for panel, slot in sorted({(bar.cell.panel, bar.cell.slot) for bar in bars}):
        plane = plots.planes[panel]
        y = plane.middle(slot) - thickness / 2 - style.gap * 0.6
        for parts, aside in zip(brackets.parts, brackets.side_columns, strict=True):
            mine = [segments[panel, slot, place] for place in parts]
            if not any(bar.cell.known and bar.cell.estimate for bar in mine):
                continue
            left, right = (plane.value(value) for value in (mine[0].start, mine[-1].end))
            left, right = left + style.part, right - style.part
            foot = y + style.gap * _TICK
            ends = [(left, y, right, y), (left, y, left, foot), (right, y, right, foot)]
            marks += [Line(*line, MUTED, style.grid, MarkRole.BRACKET) for line in ends]
            figure = aside.texts[panel][slot]
            for content in (f"{aside.heading} {figure}", figure):
                wide = width(content, style.tick)
                if wide <= right - left or content == figure:
                    middle = (left + right) / 2
                    marks.append(
                        Text(
                            *(middle, y - style.gap * 0.5, content, style.tick, wide, MUTED, MarkRole.ASIDE),
                            anchor=Anchor.MIDDLE,
                        )
                    )
                    break
    return marks
