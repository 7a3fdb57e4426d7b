"""Whether categories follow one another, so that what joins them means something; and where it breaks."""

from grainstack.chart.cells import Cell, ChartCells
from grainstack.errors import ChartError
from grainstack.option_names import option


def check_order(cells: ChartCells) -> None:
    """Refuses to join categories that have no order, or do not stand in theirs.

    Args:
        cells: The figures of the chart.

    Raises:
        ChartError: Nothing could be joined along them.
    """
    dimension = cells.table.categories[-1]
    natural = {level.code: place for place, level in enumerate(dimension.all_levels)}
    places = [natural[level.code] for level in dimension.levels if level.code in natural]
    if not dimension.variable.is_ordered or places != sorted(places):
        raise ChartError(
            f"{option('joined')} joins categories in their order, and these have none.",
            f"Leave it out, or show times, bands or ordered levels in their order: {option('order', 'codebook')}.",
        )


def is_gap(cell: Cell, cells: ChartCells) -> bool:
    """Whether nothing was recorded at the category of a cell, in no series: its sum or count of 0 is no figure.

    Args:
        cell: The figure.
        cells: All figures of the chart.
    """
    return all(cells.columns[one.column].records[one.row] == 0 for one in cells.stack(cell.panel, cell.slot))
