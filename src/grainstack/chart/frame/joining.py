"""Whether categories follow one another, so that what joins them means something; and where it breaks."""

from grainstack.chart.cells import Cell, ChartCells
from grainstack.errors import ChartError
from grainstack.option_names import option


def in_order(cells: ChartCells) -> bool:
    """Whether the categories have an order and stand in it.

    Args:
        cells: The figures of the chart.
    """
    dimension = cells.table.categories[-1]
    natural = {level.code: place for place, level in enumerate(dimension.all_levels)}
    places = [natural[level.code] for level in dimension.levels if level.code in natural]
    return dimension.variable.is_ordered and places == sorted(places)


def check_order(cells: ChartCells) -> None:
    """Refuses to join categories that have no order, or do not stand in theirs.

    Args:
        cells: The figures of the chart.

    Raises:
        ChartError: Nothing could be joined along them.
    """
    if not in_order(cells):
        raise ChartError(
            f"{option('joined')} joins categories in their order, and these have none.",
            f"Leave it out, or show times, bands or ordered levels in their order: {option('order', 'codebook')}.",
        )


def stretches(cells: ChartCells, panel: int, series: int, *, stacked: bool = False) -> list[list[Cell]]:
    """The figures of a series in a panel that are joined: without one that is missing, or another group, between them.

    Where nothing was recorded in any series, a sum or count of 0 is no figure, and is in no stretch.

    Args:
        cells: The figures of the chart.
        panel: The panel.
        series: The series.
        stacked: Whether the series stand on each other, so that each needs the figures of all.
    """
    found: list[list[Cell]] = []
    before: Cell | None = None
    for slot in range(len(cells.slots)):
        stack = cells.stack(panel, slot)
        cell = stack[series]
        recorded = any(cells.columns[one.column].records[one.row] for one in stack)
        if not recorded or not all(one.known for one in (stack if stacked else (cell,))):
            before = None
            continue
        if before is not None and cells.slots[before.slot].group == cells.slots[slot].group:
            found[-1].append(cell)
        else:
            found.append([cell])
        before = cell
    return found
