"""Charts composed straight from figures, and what must be true of every scene."""

import re
from collections.abc import Sequence
from itertools import combinations, pairwise, product
from typing import Any

import numpy as np
from msgspec.structs import replace

from grainstack.chart.annotation_request import AnnotationRequest
from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_picture import bar_scene
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_requests import AxisTitlesRequest, LegendRequest, WordsRequest
from grainstack.chart.look.color import PAPER, contrast
from grainstack.chart.look.vision import oklab
from grainstack.chart.marks import Line, Mark, Rect, Text
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.errors import ChartError
from grainstack.option_fields import Request
from grainstack.records.variable import Kind, Level, LevelOrder, Variable
from grainstack.summary.provenance import Origin, Provenance, Sampling
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.summary_request import Figure, Purpose
from grainstack.summary.table import Column, Dimension, Flag, Role, SummaryTable
from tests.chart.asking import chart_requests

EDGE = 0.01


def table_of(  # noqa: PLR0913 - a table is what a test varies
    labels: list[str],
    series: list[str],
    figures: list[float],
    statistic: str = "mean",
    reach: float | None = None,
    *,
    outer: tuple[str, ...] = (),
    panels: tuple[str, ...] = (),
    ordered: bool = False,
    letters: bool = False,
    flagged: int = 0,
    second: bool = False,
) -> SummaryTable:
    """A table with these figures, category by category, and limits `reach` either side of them.

    Args:
        labels: The categories.
        series: The series; empty for none.
        figures: One per panel, outer category, category and series.
        statistic: What they are.
        reach: Half the length of whiskers.
        outer: Outer categories, each with every category; empty for none.
        panels: The panels; empty for none.
        ordered: Whether the series run from low to high.
        letters: Whether cells have comparison letters.
        flagged: Every how manieth cell rests on a small base; 0 for none.
        second: Whether there is a second measure.
    """
    named = [(Role.PANEL, "where", panels), (Role.CATEGORY, "group", outer), (Role.CATEGORY, "place", labels)]
    dimensions = [_dimension(role, name, names) for role, name, names in named if names]
    if series:
        dimensions.append(_dimension(Role.SERIES, "kind", series, ordered=ordered))
    estimate = np.array(figures, dtype=float)
    keys = np.array(list(product(*(range(len(dimension.levels)) for dimension in dimensions))))
    nothing = np.full(len(estimate), np.nan)
    low, high = (nothing, nothing) if reach is None else (estimate - reach, estimate + reach)
    measured = STATISTICS[statistic].measured
    cells = np.arange(len(estimate))
    flags = np.where(cells % flagged == 0, Flag.SMALL_BASE, 0) if flagged else np.zeros(len(cells))
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
        nothing,
        nothing,
        flags.astype(np.uint8),
        "" if reach is None else "95 % confidence limits",
        cells // max(len(series), 1),
        tuple("abc"[: 1 + cell % 3] for cell in cells.tolist()) if letters else (),
    )
    columns = [column]
    if second:
        figure = Figure(STATISTICS["mean"], "age", purpose=Purpose.SECOND)
        columns.append(replace(column, figure=figure, measure=Variable("age", Kind.NUMBER), letters=()))
    provenance = Provenance(
        Origin("records.csv", 44, 0), "Mean size by place", (("place", 3),), (), 41, Sampling(), "", ()
    )
    values = {"size": tuple(_records_around(value) for value in estimate.tolist())} if measured else {}
    return SummaryTable(tuple(dimensions), keys, tuple(columns), provenance, values=values)


def _records_around(mean: float) -> "tuple[np.ndarray[Any, Any], np.ndarray[Any, Any], np.ndarray[Any, Any]]":
    """A few made-up records with their mean there."""
    if np.isnan(mean):
        return np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0)
    values = np.array(sorted({mean - abs(mean) / 2, mean, mean + abs(mean) / 2}))
    return values, np.full(len(values), 3), np.full(len(values), 3.0)


def scene_of(
    table: SummaryTable,
    size: str = "1280x800px",
    layout: str | None = None,
    *,
    bars: dict[str, Any] | None = None,
    style: str = "report",
    **words: Any,  # noqa: ANN401
) -> Scene:
    """The bars of the table's first column."""
    asked = BarRequest(
        layout=layout,
        direction=words.pop("direction", "auto"),
        label=words.pop("label", "value"),
        **(bars or {}),
    )
    request = chart_requests(asked, *word_models(**words), PictureRequest(style=style, size=size))
    return bar_scene(arranged_bars(table, asked), request)


def word_models(**words: Any) -> list[Request]:  # noqa: ANN401
    """The models that hold these words, each with its own."""
    models: tuple[type[Request], ...] = (WordsRequest, AxisTitlesRequest, LegendRequest, AnnotationRequest)
    return [model(**{name: words[name] for name in model.words if name in words}) for model in models]


def check(scene: Scene) -> None:
    """What no chart may break, whatever is asked of it.

    No two texts overlap, none leaves the picture or stands on a whisker, all can be read, bars stay in the plot, and
    what is written beside bars stands on none of them.
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
    grid = [_line_box(mark) for mark in scene.marks if isinstance(mark, Line) and mark.role == "grid"]
    bars = bars_of(scene)
    for bar in bars:
        assert bar.width >= 0
        assert bar.height >= 0
        box = bar.x, bar.y, bar.x + bar.width, bar.y + bar.height
        upright = all(one[1] == one[3] for one in grid)
        ends = [(one[1], one[3]) if upright else (one[0], one[2]) for one in grid]
        near, far = (box[1], box[3]) if upright else (box[0], box[2])
        if scene.alt.startswith("Diverging"):  # whose axis ends with its bars, and ticks before
            continue
        assert near >= min(first for first, _ in ends) - EDGE, bar
        assert far <= max(last for _, last in ends) + EDGE, bar
        across = (box[0], box[2]) if upright else (box[1], box[3])
        assert min(one[0] if upright else one[1] for one in grid) - EDGE <= across[0], bar
        assert across[1] <= max(one[2] if upright else one[3] for one in grid) + EDGE, bar
    for at, mark in enumerate(scene.marks):
        if isinstance(mark, Text) and mark.ground == PAPER:
            under = [place for place, one in enumerate(scene.marks) if one.role == "bar" and _covers(one, mark)]
            assert not under or _plated(scene, mark, max(under), at), mark


def check_grounds(scene: Scene) -> None:
    """No text stands on a pattern without a plain patch between them."""
    patterned = [(place, mark) for place, mark in enumerate(scene.marks) if isinstance(mark, Rect) and mark.hatch]
    for at, mark in enumerate(scene.marks):
        if isinstance(mark, Text):
            under = [place for place, other in patterned if _covers(other, mark)]
            assert not under or _plated(scene, mark, max(under), at), mark


def _covers(mark: Mark, text: Text) -> bool:
    """Whether a rectangle that can be seen lies under a text."""
    return isinstance(mark, Rect) and min(mark.width, mark.height) >= 0.02 and _overlap(text.box, _rect_box(mark))


def _plated(scene: Scene, text: Text, under: int, at: int) -> bool:
    """Whether a plain patch holds a text, painted after what lies under it and before the text."""
    between = [mark for mark in scene.marks[under + 1 : at] if isinstance(mark, Rect) and mark.role == "ground"]
    return any(_holds(_rect_box(mark), text.box) for mark in between)


def check_type(scene: Scene, style: str) -> None:
    """No type is too small to read, and none is black on a dark colour."""
    least = 7 if style == "slide" else 6
    for text in scene.marks:
        if isinstance(text, Text):
            assert text.size >= least - EDGE, text
            assert text.fill != "#000000" or oklab(text.ground)[0] > 0.5, text


def working_size(error: ChartError) -> str:
    """The size that a message says is large enough."""
    found = re.search(r"The smallest size of this shape that works is `?(?:--)?size (\S+?)`?;", str(error))
    assert found, error
    return found[1]


def bars_of(scene: Scene) -> list[Rect]:
    """The bars in painting order."""
    return [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "bar"]


def texts_of(scene: Scene, role: str) -> list[str]:
    """What the texts of a role say."""
    return [mark.content for mark in scene.marks if isinstance(mark, Text) and mark.role == role]


def rising(values: list[float]) -> bool:
    """Whether each is larger than the one before."""
    return all(one < other for one, other in pairwise(values))


def _dimension(role: Role, name: str, labels: Sequence[str], *, ordered: bool = False) -> Dimension:
    levels = tuple(Level(label, label) for label in labels)
    kind = Kind.ORDERED if ordered else Kind.CATEGORY
    variable = Variable(name, kind).with_levels(levels, LevelOrder.CODEBOOK)
    return Dimension(role, variable, "codebook", all_levels=levels)


def _rect_box(rect: Rect) -> tuple[float, float, float, float]:
    return rect.x, rect.y, rect.x + rect.width, rect.y + rect.height


def _holds(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    return (
        one[0] <= other[0] + EDGE
        and one[1] <= other[1] + EDGE
        and one[2] >= other[2] - EDGE
        and one[3] >= other[3] - EDGE
    )


def _line_box(line: Line) -> tuple[float, float, float, float]:
    return min(line.x1, line.x2), min(line.y1, line.y2), max(line.x1, line.x2), max(line.y1, line.y2)


def _overlap(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    return (
        one[0] < other[2] - EDGE and other[0] < one[2] - EDGE and one[1] < other[3] - EDGE and other[1] < one[3] - EDGE
    )
