"""What tiles a treemap has: leaves with their figures, and parents around them."""

from collections.abc import Sequence
from math import isnan, nan

from msgspec import Struct

from grainstack.chart.cells import Cell, ChartCells, chart_cells
from grainstack.chart.marks import Key
from grainstack.chart.pies.pie_arrangement import check_parts
from grainstack.errors import ChartError
from grainstack.option_names import command
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import SummaryTable


class Node(Struct, frozen=True):
    """A tile: a leaf, or a parent with its children.

    Attributes:
        label: Its label.
        path: The labels from the outermost parent down to it.
        key: Which category it is: the codes of the same path.
        top: The place of its outermost parent among all of them, which decides its colour.
        size: Its figure, or the sum of its children's.
        shade: The value its colour stands for: of a parent the mean of its children by size; NaN where there is none.
        cell: The figure of a leaf; None of a parent.
        children: Its children, from the largest.
    """

    label: str
    path: tuple[str, ...]
    key: Key
    top: int
    size: float
    shade: float = nan
    cell: Cell | None = None
    children: tuple["Node", ...] = ()


class Tree(Struct, frozen=True):
    """All tiles of a chart.

    Attributes:
        cells: The figures; each leaf is a slot.
        root: The tile of everything.
        empty: Leaves without a figure, or with a figure of zero.
    """

    cells: ChartCells
    root: Node
    empty: int

    @property
    def depth(self) -> int:
        """How many levels there are below the root."""
        return len(self.cells.table.categories)


def arranged_tree(table: SummaryTable) -> Tree:
    """The tiles of a table, one per combination of its categories.

    Raises:
        ChartError: Figures that are no parts of a whole, or nothing to draw.
    """
    cells = chart_cells(table)
    check_parts(table, cells)
    color = table.column_for(Purpose.SECOND)
    leaves = []
    tops: dict[str, int] = {}
    for cell in cells.cells:
        path = cells.slots[cell.slot].labels
        if cell.known and cell.estimate != 0:
            shade = float(color.estimate[cell.row]) if color is not None else nan
            key = Key(category=cells.slots[cell.slot].codes)
            top = tops.setdefault(path[0], len(tops))
            leaves.append(Node(path[-1], path, key, top, cell.estimate, shade, cell))
    if not leaves:
        raise ChartError("All tiles are zero.", f"Look at the table: {command('table')}.")
    return Tree(cells, _parent("", (), -1, leaves), len(cells.cells) - len(leaves))


def _parent(label: str, path: tuple[str, ...], top: int, leaves: Sequence[Node]) -> Node:
    """A tile around leaves, with a tile for each level between; its colour is their mean by size."""
    groups: dict[str, list[Node]] = {}
    depth = len(path)
    for leaf in leaves:
        groups.setdefault(leaf.path[depth], []).append(leaf)
    children = [
        members[0] if len(members[0].path) == depth + 1 else _parent(name, (*path, name), members[0].top, members)
        for name, members in groups.items()
    ]
    shaded = [child for child in children if not isnan(child.shade)]
    weight = sum(child.size for child in shaded)
    shade = sum(child.size * child.shade for child in shaded) / weight if weight else nan
    size = sum(child.size for child in children)
    key = Key(category=leaves[0].key.category[:depth])
    return Node(label, path, key, top, size, shade, None, tuple(sorted(children, key=lambda child: -child.size)))


def tree_of(table: SummaryTable, requests: Requests) -> Tree:  # noqa: ARG001 - as every kind
    """The tiles of a table; raises as `arranged_tree`."""
    return arranged_tree(table)
