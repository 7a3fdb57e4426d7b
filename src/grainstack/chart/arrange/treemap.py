"""Nested tiles in the unit of the page: near-square, parents around their children, nothing lost.

Tiling by Bruls, Huizing & van Wijk (2000), Squarified treemaps: rows are filled from the largest child on, each for as
long as the worst proportion in it gets better. A parent's children are laid out from its own rectangle alone, so a
change in one parent does not shuffle the tiles of another.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

from grainstack.chart.arrange.cells import Cell, ChartCells, chart_cells
from grainstack.chart.arrange.pie import check_parts
from grainstack.errors import ChartError
from grainstack.summary.request import Purpose
from grainstack.summary.table import SummaryTable

Rectangle = tuple[float, float, float, float]


@dataclass(slots=True)
class Node:
    """A tile: a leaf, or a parent with its children.

    Attributes:
        label: Its label.
        path: The labels from the outermost parent down to it.
        top: The place of its outermost parent among all of them, which decides its colour.
        size: Its figure, or the sum of its children's.
        shade: The value its colour stands for: of a parent the mean of its children by size; NaN where there is none.
        cell: The figure of a leaf; None of a parent.
        children: Its children, from the largest.
    """

    label: str
    path: tuple[str, ...]
    top: int
    size: float = 0.0
    shade: float = float("nan")
    cell: Cell | None = None
    children: "list[Node]" = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Tree:
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
    root = Node("", (), -1)
    nodes: dict[tuple[str, ...], Node] = {(): root}
    tops: dict[str, int] = {}
    empty = 0
    for cell in cells.cells:
        path = cells.slots[cell.slot].labels
        if not cell.known or cell.estimate == 0:
            empty += 1
            continue
        top = tops.setdefault(path[0], len(tops))
        parent = root
        for depth in range(1, len(path)):
            node = nodes.get(path[:depth])
            if node is None:
                node = nodes[path[:depth]] = Node(path[depth - 1], path[:depth], top)
                parent.children.append(node)
            parent = node
        shade = float(color.estimate[cell.row]) if color is not None else float("nan")
        parent.children.append(Node(path[-1], path, top, cell.estimate, shade, cell))
    if not root.children:
        raise ChartError("All tiles are zero.", "Look at the table: grainstack table.")
    _summed(root)
    return Tree(cells, root, empty)


def squarified(sizes: Sequence[float], room: Rectangle) -> list[Rectangle]:
    """Rectangles in proportion to sizes, as near to squares as the rows allow.

    Args:
        sizes: All above 0, from the largest.
        room: Left, top, width and height of what they fill.

    Returns:
        Left, top, width and height of each, in the order of the sizes.
    """
    left, top, width, height = room
    total = sum(sizes)
    if not sizes or width <= 0 or height <= 0 or total <= 0:
        return [(left, top, 0.0, 0.0) for _ in sizes]
    scale = width * height / total
    areas = [size * scale for size in sizes]
    found: list[Rectangle] = []
    start = 0
    while start < len(areas):
        side = min(width, height)
        end, row = start + 1, areas[start]
        worst = _worst(areas[start], areas[start], row, side)
        while end < len(areas):
            longer = row + areas[end]
            next_worst = _worst(areas[start], areas[end], longer, side)
            if next_worst > worst:
                break
            row, worst, end = longer, next_worst, end + 1
        last = end == len(areas)
        thick = (max(width, height)) if last else row / side if side else 0.0
        at = top if width >= height else left
        for area in areas[start:end]:
            long = area / row * side if row else 0.0
            found.append((left, at, thick, long) if width >= height else (at, top, long, thick))
            at += long
        if width >= height:
            left, width = left + thick, max(width - thick, 0.0)
        else:
            top, height = top + thick, max(height - thick, 0.0)
        start = end
    return found


def _worst(largest: float, smallest: float, row: float, side: float) -> float:
    """The worst proportion in a row: its thickness against its longest or shortest member."""
    if smallest < 1e-100 or row < 1e-100 or not side:
        return float("inf")
    return max(side * side * largest / (row * row), row * row / (side * side * smallest))


def _summed(node: Node) -> None:
    """Adds sizes up and averages shades from the leaves on, and puts the largest child first, the rest last."""
    if node.cell is not None:
        return
    for child in node.children:
        _summed(child)
    node.size = sum(child.size for child in node.children)
    shaded = [child for child in node.children if child.shade == child.shade]
    weight = sum(child.size for child in shaded)
    if weight:
        node.shade = sum(child.size * child.shade for child in shaded) / weight
    node.children.sort(key=lambda child: -child.size)
