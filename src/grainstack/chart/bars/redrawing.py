"""What a page needs to lay bars out anew by itself: the cells, where the plots lie, and the sizes of the style.

The script of a page has the same rules as `picture`, `frame.value_axis` and `frame.value_labels`; a test holds its
marks to those that are drawn here.
"""

from collections.abc import Mapping, Sequence
from dataclasses import fields
from itertools import product
from math import isnan
from typing import Any

from grainstack.chart.bars.arrangement import BarArrangement, whole_bars
from grainstack.chart.bars.request import BarRequest, SecondRequest
from grainstack.chart.cells import Cell
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import ValueLabel
from grainstack.chart.look.color import INK, PAPER, text_on
from grainstack.chart.look.inks import Inks
from grainstack.chart.request import AxisRequest, NumbersRequest
from grainstack.chart.scene import PATTERNED, MarkRole, Rect, Weight
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.text import width
from grainstack.language import phrase, raised, spoken
from grainstack.quick import dataclass
from grainstack.requests import Requests
from grainstack.summary.table import Dimension, Flag

_FIGURES = "0123456789.,  ’·%<>+−–—*†‡§…"  # what is written at bars that are laid out anew
_MOST_CELLS = 2_000  # more than that do not answer at once


@dataclass(frozen=True, slots=True)
class DrawnBars:
    """Bars as they were drawn.

    Attributes:
        bars: What goes where in data units.
        request: What was asked for.
        plots: Where the plots lie.
        axis: What the value axis has to show.
        figures: How figures are written.
        inks: The colours.
        kinds: What is written at each bar.
        labels: The figures written, one for each bar.
    """

    bars: BarArrangement
    request: Requests
    plots: Plots
    axis: AxisNeeds
    figures: FiguresAt
    inks: Inks
    kinds: tuple[str, ...]
    labels: Sequence[ValueLabel]

    @property
    def can_be_redrawn(self) -> bool:
        """Whether a page can lay them out by its own rules: those of plain bars on an axis of its own choosing."""
        axis, bars, cells = self.request[AxisRequest], self.request[BarRequest], self.bars.cells
        special = (
            *(bool(self.bars.beside), not isnan(self.bars.apart), bars.show_records, bars.label_place != "auto"),
            *(bool(self.request[SecondRequest].second_measure), self.request[NumbersRequest].format is not None),
            *(axis.value_range is not None, axis.ticks is not None, bool(axis.reference)),
            *("name" in self.kinds, bool(self.plots.second_planes), self.figures.first.style.power != 0),
            len(cells.cells) > _MOST_CELLS,
        )
        return not any(special) and all(cell.known or not cell.has_spread for cell in cells.cells)

    @property
    def forms(self) -> tuple[str, ...]:
        """How bars can stand, as they were drawn first: end to end only where that adds up."""
        layout, cells = self.bars.layout, self.bars.cells
        several = len(cells.series) > 1
        if layout in ("stacked", "percent"):
            return ("stacked", "grouped") if several else ("stacked",)
        if layout == "grouped" and several and not cells.column.is_share and self._adds_up(self._series):
            return ("grouped", "stacked")
        return (layout,)

    @property
    def wholes(self) -> tuple[str, ...]:
        """What figures can be shares of: their category, or all; of nothing that is shown in part."""
        cells = self.bars.cells
        if cells.column.is_share or self.bars.layout == "diverging":
            return ()
        of_category = len(cells.series) > 1 and self._adds_up(self._series)
        of_all = self._adds_up(cells.table.dimensions)
        return (*(("category",) if of_category else ()), *(("all",) if of_all else ()))

    @property
    def _of_category(self) -> bool:
        """Whether the figures of each bar are shares that make a whole."""
        return self.bars.layout == "percent" or (self.bars.layout == "diverging" and whole_bars(self.bars.cells))

    @property
    def _series(self) -> tuple[Dimension, ...]:
        series = self.bars.cells.dimension
        return () if series is None else (series,)

    def _adds_up(self, over: Sequence[Dimension]) -> bool:
        """Whether the figures of some dimensions are parts of a whole, each of them shown, and shown once."""
        cells = self.bars.cells
        parts = all(column.figure.statistic.additive and not column.letters for column in cells.columns)
        once = not any(one.several or one.dropped or one.nets or one.total is not None for one in over)
        shown = all(cell.estimate >= 0 if cell.known else Flag.HIDDEN not in cell.flags for cell in cells.cells)
        return parts and once and shown and cells.column.change is None

    def facts(self) -> Mapping[str, Any]:
        """All of it as JSON has it; lengths are points."""
        cells, plots, figures = self.bars.cells, self.plots, self.figures.first
        style, colors = plots.style, self.request[ColorsRequest]
        language, sides, ranks = spoken(), self.bars.sides, self._ranks
        return {
            "form": self.forms[0],
            "forms": self.forms,
            "of": "category" if self._of_category else "",
            "wholes": self.wholes,
            "ways": sides.ways if sides else [],
            "base": cells.table.provenance.based_on,
            "horizontal": plots.horizontal,
            "frames": [_box(plane.frame) for plane in plots.planes],
            "columns": plots.columns,
            "places": [slot.place for slot in cells.slots],
            "span": cells.span,
            "intervals": plots.intervals,
            "style": {one.name: getattr(style, one.name) for one in fields(style) if one.name in _SIZES},
            "ink": {"ink": style.ink, "muted": style.muted, "grid": style.grid_color, "paper": style.paper},
            "share": cells.column.is_share,
            "percent": self.axis.percent,
            "whole": self.axis.whole,
            "scale": figures.style.scale,
            "decimals": figures.style.decimals,
            "signed": figures.style.signed,
            "signs": [language.group, language.decimal],
            "labelled": bool(self.kinds),
            "width": self.request[BarRequest].bar_width,
            "gap": self.request[BarRequest].gap,
            "opacity": colors.opacity,
            "patterned": PATTERNED,
            "slots": [
                {"name": slot.name, "last": slot.rest or slot.total, "rank": rank}
                for slot, rank in zip(cells.slots, ranks, strict=True)
            ],
            "natural": self._natural if ranks != sorted(ranks) else "",
            "ordered": len(cells.slots) > 1 and all(slot.group == 0 for slot in cells.slots),
            "series": [
                {"name": name, "key": dict(cells.series_key(place).parts())} for place, name in enumerate(cells.series)
            ],
            "cells": sorted(map(self._cell, self._cells, self.labels), key=lambda cell: cell["at"]),
            "totals": self._totals(),
            "advances": {weight.value: _advances(weight) for weight in Weight},
        }

    @property
    def _ranks(self) -> list[int]:
        """Where each category stands in the order that its column has by itself; nets, rest and total after all."""
        slots, categories = self.bars.cells.slots, self.bars.cells.table.categories
        codes = [level.code for level in categories[-1].all_levels] if categories else []
        known = {code: place for place, code in enumerate(codes)}
        return [known.get("".join(slot.codes[-1:]), len(codes) + place) for place, slot in enumerate(slots)]

    @property
    def _natural(self) -> str:
        """What that order is called."""
        categories = self.bars.cells.table.categories
        return raised(phrase(categories[-1].variable.order.value)) if categories else ""

    @property
    def _cells(self) -> Sequence[Cell]:
        return [bar.cell for bar in self.bars.bars]

    def _cell(self, cell: Cell, label: ValueLabel) -> Mapping[str, Any]:
        """A figure with its colours, and what is written at its bar."""
        ink = self.inks.of(cell)
        outline = INK if self.request[ColorsRequest].outlined else ink.rim
        shape = Rect(0, 0, 0, 0, ink.fill, MarkRole.BAR, hatch=ink.hatch)
        found: dict[str, Any] = {
            "at": [cell.panel, cell.slot, cell.series],
            "value": cell.estimate if cell.known else None,
            "fill": ink.fill,
            "thin": text_on(self.inks.ground(ink)),
            "text": text_on(label.fill),
            "plate": label.fill == PAPER,
            "key": dict(self.bars.cells.key(cell).parts()),
        }
        found |= {"limits": [cell.low, cell.high]} if cell.has_spread else {}
        found |= {"pattern": f"{ink.hatch}-{shape.pattern[1:]}"} if ink.hatch else {}
        found |= {"outline": outline} if outline else {}
        if label.content:
            found |= {"label": label.content, "wide": round(width(label.content, 1.0, Weight.SEMIBOLD), 5)}
        found |= {"marks": marks} if (marks := self.figures.label(cell, ())) and cell.known else {}
        if label.letters:
            found |= {"letters": label.letters, "lettersWide": round(width(label.letters, 1.0), 5)}
        return found

    def _totals(self) -> Sequence[Mapping[str, Any]]:
        """The whole of each stack: its key, and its limits where it has any."""
        cells = self.bars.cells
        found: list[dict[str, Any]] = []
        for panel, slot in product(range(len(cells.panels)), range(len(cells.slots))):
            own = cells.total(panel, slot)
            one: dict[str, Any] = {"at": [panel, slot], "key": dict(cells.slot_key(panel, slot).parts())}
            found.append(one | ({"limits": [own.low, own.high]} if own and own.has_spread else {}))
        return found


_SIZES = (*("tick", "value", "gap", "grid", "part", "whisker", "cap", "bar_most", "least_type", "outline"),)


def _advances(weight: Weight) -> Mapping[str, float]:
    """The widths of the characters that figures are written with, by the size of the type."""
    return {one: round(width(one, 1.0, weight), 5) for one in _FIGURES}


def _box(box: Any) -> list[float]:  # noqa: ANN401 - of the frame
    return [box.left, box.top, box.right, box.bottom]
