"""Charts composed straight from figures, and what must be true of every scene."""

from itertools import combinations, pairwise
from typing import Any

import numpy as np

from grainstack.chart.arrange.bars import arranged_bars
from grainstack.chart.compose.bars import bar_scene
from grainstack.chart.palette import contrast
from grainstack.chart.request import BarRequest, ChartRequest, PictureRequest, WordsRequest
from grainstack.chart.scene import Line, Rect, Scene, Text
from grainstack.records.variable import Kind, Level, LevelOrder, Variable
from grainstack.summary.provenance import Origin, Provenance
from grainstack.summary.request import Figure
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.table import Column, Dimension, Role, SummaryTable

EDGE = 0.01


def table_of(
    labels: list[str], series: list[str], figures: list[float], statistic: str = "mean", reach: float | None = None
) -> SummaryTable:
    """A table with these figures, category by category, and limits `reach` either side of them."""
    dimensions = [_dimension(Role.CATEGORY, "place", labels)]
    if series:
        dimensions.append(_dimension(Role.SERIES, "kind", series))
    estimate = np.array(figures, dtype=float)
    keys = np.array([[place] for place in range(len(labels))])
    if series:
        keys = np.array([[place, one] for place in range(len(labels)) for one in range(len(series))])
    nothing = np.full(len(estimate), np.nan)
    low, high = (nothing, nothing) if reach is None else (estimate - reach, estimate + reach)
    measured = STATISTICS[statistic].measured
    column = Column(
        Figure(STATISTICS[statistic], "size" if measured else None),
        Variable("size", Kind.NUMBER) if measured else None,
        "records",
        estimate,
        low,
        high,
        nothing,
        np.full(len(estimate), 44),
        np.full(len(estimate), 44),
        np.full(len(estimate), 44.0),
        nothing,
        np.zeros(len(estimate), dtype=np.uint8),
        "" if reach is None else "95 % confidence limits",
        np.arange(len(estimate)) // max(len(series), 1),
    )
    provenance = Provenance(Origin("records.csv", 44, 0), "Mean size by place", (("place", 3),), (), 41, "", "", ())
    return SummaryTable(tuple(dimensions), keys, (column,), provenance)


def scene_of(table: SummaryTable, size: str = "1280x800px", layout: str | None = None, **words: Any) -> Scene:  # noqa: ANN401
    """The bars of the table's first column."""
    bars = BarRequest(layout=layout, direction=words.pop("direction", "auto"), label=words.pop("label", "value"))
    request = ChartRequest(bars, WordsRequest(**words), PictureRequest(size=size))
    return bar_scene(arranged_bars(table, bars), request)


def check(scene: Scene) -> None:
    """What no chart may break, whatever is asked of it.

    No two texts overlap, none leaves the picture or stands on a whisker, all can be read, and bars stay in the picture.
    """
    texts = [mark for mark in scene.marks if isinstance(mark, Text)]
    for text in texts:
        left, top, right, bottom = text.box
        assert left >= -EDGE, text
        assert top >= -EDGE, text
        assert right <= scene.width + EDGE, text
        assert bottom <= scene.height + EDGE, text
        assert contrast(text.fill, text.ground) >= 4.5, text
    for one, other in combinations(texts, 2):
        assert not _overlap(one.box, other.box), (one, other)
    whiskers = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role == "whisker"]
    for text in texts:
        for line in whiskers:
            assert not _overlap(text.box, _line_box(line)), (text, line)
    for mark in scene.marks:
        if isinstance(mark, Rect) and mark.role == "bar":
            assert mark.x >= -EDGE
            assert mark.y >= -EDGE
            assert mark.x + mark.width <= scene.width + EDGE
            assert mark.y + mark.height <= scene.height + EDGE
            assert mark.width >= 0
            assert mark.height >= 0


def bars_of(scene: Scene) -> list[Rect]:
    """The bars in painting order."""
    return [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "bar"]


def texts_of(scene: Scene, role: str) -> list[str]:
    """What the texts of a role say."""
    return [mark.content for mark in scene.marks if isinstance(mark, Text) and mark.role == role]


def rising(values: list[float]) -> bool:
    """Whether each is larger than the one before."""
    return all(one < other for one, other in pairwise(values))


def _dimension(role: Role, name: str, labels: list[str]) -> Dimension:
    levels = tuple(Level(str(place), label) for place, label in enumerate(labels))
    return Dimension(role, Variable(name).with_levels(levels, LevelOrder.CODEBOOK), "codebook")


def _line_box(line: Line) -> tuple[float, float, float, float]:
    return min(line.x1, line.x2), min(line.y1, line.y2), max(line.x1, line.x2), max(line.y1, line.y2)


def _overlap(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    return (
        one[0] < other[2] - EDGE and other[0] < one[2] - EDGE and one[1] < other[3] - EDGE and other[1] < one[3] - EDGE
    )
