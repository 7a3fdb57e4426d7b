"""How several plots stand together on a page, and how large things are in them."""

from math import ceil, sqrt

from grainstack.chart.frame.plane import Box
from grainstack.chart.look.style import Style


def grid_of_panels(count: int, wanted: int | None, body: Box) -> tuple[int, int]:
    """Columns and rows of panels: as asked, else so that each is a little wider than tall.

    Args:
        count: How many panels there are.
        wanted: How many stand side by side; None to choose.
        body: The room for all, in points.
    """
    columns = wanted or max(1, min(count, round(sqrt(count * body.width / max(body.height, 1.0) / 1.35))))
    rows = ceil(count / min(columns, count))
    columns = min(columns, count) if wanted else ceil(count / rows)
    return columns, rows


def panel_style(style: Style, columns: int, rows: int) -> Style:
    """The sizes used inside plots: smaller the more of them there are.

    Args:
        style: That of the whole picture.
        columns: How many panels stand side by side.
        rows: How many stand under each other.
    """
    most = max(columns, rows)
    return style if most == 1 else style.smaller(max(0.7, 1.15 / sqrt(most)))
