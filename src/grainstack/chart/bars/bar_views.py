"""What the readers of a page may do with bars: see them in other forms, drawn in advance, and move them about."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from math import isnan, nan

import numpy as np
from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import BarArrangement, arranged_bars, whole_bars
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.cells import ChartCells
from grainstack.chart.chart_requests import AxisRequest, NumbersRequest
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.scene import Movable, Scene
from grainstack.chart.second_request import SecondRequest
from grainstack.errors import GrainStackError
from grainstack.language import phrase, raised
from grainstack.requests import Requests
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.table import Dimension, Flag, SummaryTable

_MOST_CELLS = 2_000  # more than that do not answer at once
Draw = Callable[[BarArrangement, Requests], Scene]


def movable(bars: BarArrangement, request: Requests, plots: Plots) -> Movable | None:
    """Where the bars of a chart stand, for a page that moves them; None where they cannot be moved.

    Args:
        bars: The bars.
        request: What was asked for.
        plots: Where the plots lie.
    """
    if not _can_change(bars, request) or plots.second_planes:
        return None
    cells, first = bars.cells, plots.planes[0]
    keys = [dict(cells.slot_key(0, slot).parts()).get("category", "") for slot in range(len(cells.slots))]
    zeros = [dict(cells.slot_key(panel, 0).parts()).get("panel", "") for panel in range(len(cells.panels))]
    alone = len(cells.slots) > 1 and all(slot.group == 0 for slot in cells.slots)
    return Movable(
        form=_form_of(bars),
        of=_whole_of(bars),
        horizontal=plots.horizontal,
        stacked=bars.stacked,
        middles={key: first.middle(slot) for slot, key in enumerate(keys)},
        zeros={panel: plane.value(0.0) for panel, plane in zip(zeros, plots.planes, strict=True)},
        orders={name: [keys[slot] for slot in order] for name, order in _orders(cells).items()} if alone else {},
        natural=_natural(cells),
    )


def other_views(bars: BarArrangement, request: Requests, draw: Draw) -> Mapping[str, Scene]:
    """The bars in every other form, by form and whole: `grouped~category`; those that have no room are left out.

    Args:
        bars: The bars.
        request: What was asked for.
        draw: Draws bars.
    """
    if not _can_change(bars, request):
        return {}
    found = {}
    for name, table, wanted in _others(bars, request):
        with suppress(GrainStackError):  # a reader is not offered what cannot be drawn
            found[name] = draw(arranged_bars(table, wanted[BarRequest]), wanted)
    return found


def _others(bars: BarArrangement, request: Requests) -> Iterator[tuple[str, SummaryTable, Requests]]:
    axis, numbers = request[AxisRequest], request[NumbersRequest]
    own_axis = axis.value_range is not None or axis.ticks is not None or bool(axis.reference)
    forms = (_form_of(bars),) if own_axis else _forms(bars)
    wholes = () if own_axis or numbers.format is not None else _wholes(bars)
    drawn = (_form_of(bars), _whole_of(bars))
    for of in (_whole_of(bars), *(one for one in wholes if one != _whole_of(bars))):
        table = bars.table if of == _whole_of(bars) else _shares(bars.cells, of)
        for form in forms:
            if (form, of) == drawn:
                continue
            layout = "percent" if form == "stacked" and of == "category" else None if form == "simple" else form
            wanted = request.having(replace(request[BarRequest], layout=layout))
            yield f"{form}~{of}", table, wanted


def _can_change(bars: BarArrangement, request: Requests) -> bool:
    """Whether anything of a chart can be changed: it has one figure, and no more bars than answer at once."""
    wanted, second = request[BarRequest], request[SecondRequest]
    special = bars.beside or not isnan(bars.apart) or wanted.show_records or second.second_measure
    return not special and len(bars.cells.cells) <= _MOST_CELLS


def _form_of(bars: BarArrangement) -> str:
    return "stacked" if bars.layout == "percent" else bars.layout


def _whole_of(bars: BarArrangement) -> str:
    """What the figures are shares of, where each bar is a whole: its category."""
    whole = bars.layout == "percent" or (bars.layout == "diverging" and whole_bars(bars.cells))
    return "category" if whole else ""


def _forms(bars: BarArrangement) -> tuple[str, ...]:
    """How bars can stand, as they are drawn first: end to end only where that adds up."""
    layout, cells = bars.layout, bars.cells
    several = len(cells.series) > 1
    if layout in ("stacked", "percent"):
        return ("stacked", "grouped") if several else ("stacked",)
    if layout == "grouped" and several and not cells.column.is_share and _adds_up(cells, _series(cells)):
        return ("grouped", "stacked")
    return (layout,)


def _wholes(bars: BarArrangement) -> tuple[str, ...]:
    """What figures can be shares of: their category, or all; of nothing that is shown in part."""
    cells = bars.cells
    if cells.column.is_share or bars.layout == "diverging" or bars.cells.column.figure.statistic.name == "rate":
        return ()
    of_category = len(cells.series) > 1 and _adds_up(cells, _series(cells))
    return (*(("category",) * of_category), *(("all",) * _adds_up(cells, cells.table.dimensions)))


def _series(cells: ChartCells) -> tuple[Dimension, ...]:
    return () if cells.dimension is None else (cells.dimension,)


def _adds_up(cells: ChartCells, over: Sequence[Dimension]) -> bool:
    """Whether the figures of some dimensions are parts of a whole, each of them shown, and shown once."""
    parts = all(column.figure.statistic.additive and not column.letters for column in cells.columns)
    once = not any(one.several or one.dropped or one.nets or one.total is not None for one in over)
    shown = all(cell.estimate >= 0 if cell.known else Flag.HIDDEN not in cell.flags for cell in cells.cells)
    return parts and once and shown and cells.column.change is None


def _shares(cells: ChartCells, of: str) -> SummaryTable:
    """The table with shares of each bar, or of all, in place of its figures; their limits are not known.

    Args:
        cells: Figures that add up.
        of: `category` or `all`.
    """
    column = cells.column
    estimate = np.full(len(column.estimate), nan)
    wholes: dict[tuple[int, int] | None, float] = {}
    for cell in cells.cells:
        of_it = None if of == "all" else (cell.panel, cell.slot)
        wholes[of_it] = wholes.get(of_it, 0.0) + (cell.estimate if cell.known else 0.0)
    for cell in cells.cells:
        whole = wholes[None if of == "all" else (cell.panel, cell.slot)]
        if cell.known:
            estimate[cell.row] = cell.estimate / whole if whole else 0.0
    nothing = np.full(len(estimate), nan)
    share = replace(column.figure, statistic=STATISTICS["share"], measure=None)
    shares = replace(column, figure=share, measure=None, estimate=estimate, low=nothing, high=nothing, interval="")
    note = phrase("Shares of all.") if of == "all" else phrase("Shares of each bar.")
    provenance = replace(cells.table.provenance, base=note)
    columns = tuple(shares if one is column else one for one in cells.table.columns)
    return replace(cells.table, columns=columns, provenance=provenance)


def _orders(cells: ChartCells) -> Mapping[str, Sequence[int]]:
    """The orders of categories that readers may ask for, by name; what is lumped together, and totals, stay last."""
    every = range(len(cells.slots))
    last = [slot for slot in every if cells.slots[slot].rest or cells.slots[slot].total]
    plain = [slot for slot in every if slot not in last]

    def by_size(series: int | None) -> list[int]:
        sizes = dict.fromkeys(every, 0.0)
        for cell in cells.cells:
            if cell.known and series in (None, cell.series):
                sizes[cell.slot] += cell.estimate
        return sorted(plain, key=lambda slot: -sizes[slot])

    ranks = _ranks(cells)
    found = {
        "": plain,
        "value": by_size(None),
        "name": sorted(plain, key=lambda slot: cells.slots[slot].name.casefold()),
        "natural": sorted(plain, key=ranks.__getitem__),
    }
    if whole_bars(cells):
        del found["value"]  # all are of one length
    if len(cells.series) > 1:
        found |= {f"series:{place}": by_size(place) for place in range(len(cells.series))}
    return {name: [*order, *last] for name, order in found.items()}


def _ranks(cells: ChartCells) -> list[int]:
    """Where each category stands in the order that its column has by itself; nets, rest and total after all."""
    categories = cells.table.categories
    codes = [level.code for level in categories[-1].all_levels] if categories else []
    known = {code: place for place, code in enumerate(codes)}
    return [known.get("".join(slot.codes[-1:]), len(codes) + place) for place, slot in enumerate(cells.slots)]


def _natural(cells: ChartCells) -> str:
    """What that order is called; empty where the chart is in it."""
    ranks, categories = _ranks(cells), cells.table.categories
    return raised(phrase(categories[-1].variable.order.value)) if categories and ranks != sorted(ranks) else ""
