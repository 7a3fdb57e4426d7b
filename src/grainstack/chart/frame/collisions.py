"""The last word on collisions: texts that may be dropped give way, in a fixed order of importance.

The layout is made so that texts have room; where a picture is too small for all of them, a value label is dropped
before a tick, a tick before a label. Nothing ever stands on something else.
"""

from collections.abc import Iterable, Sequence

from grainstack.chart.frame.plane import Box
from grainstack.chart.marks import Line, Mark, MarkRole, Rect, Text

_ORDER = (  # from the text that stays longest to the one that gives way first
    MarkRole.TITLE,
    MarkRole.SOURCE,
    MarkRole.CATEGORY,
    MarkRole.GROUP_LABEL,
    MarkRole.PANEL_TITLE,
    MarkRole.LEGEND,
    MarkRole.ANNOTATION,
    MarkRole.SUBTITLE,
    MarkRole.FOOTNOTE,
    MarkRole.SLICE_LABEL,
    MarkRole.VALUE_TITLE,
    MarkRole.SECOND_TITLE,
    MarkRole.CATEGORY_TITLE,
    MarkRole.TICK,
    MarkRole.SECOND_TICK,
    MarkRole.TOTAL,
    MarkRole.LETTER,
    MarkRole.TILE,
    MarkRole.BASE,
    MarkRole.REFERENCE_LABEL,
    MarkRole.SECOND_VALUE,
    MarkRole.VALUE,
)
_RANK = {role: place for place, role in enumerate(_ORDER)}
_FIXED_GROUND = (MarkRole.LEGEND_SWATCH,)


def cleared(scene_size: tuple[float, float], marks: Sequence[Mark]) -> tuple[Mark, ...]:
    """The marks without texts that would leave the picture, or stand on another text, a whisker or a legend's colour.

    Args:
        scene_size: Width and height of the picture in points.
        marks: All marks; patches of ground under a dropped text go with it.
    """
    width, height = scene_size
    picture = Box(0, 0, width, height)
    obstacles = [box for mark in marks for box in _obstacle(mark)]
    texts = [(place, mark) for place, mark in enumerate(marks) if isinstance(mark, Text)]
    texts.sort(key=lambda pair: (_RANK.get(pair[1].role, len(_ORDER)), pair[0]))
    index = _Index(obstacles)
    dropped: set[int] = set()
    for place, mark in texts:
        box = Box(*mark.box)
        if not mark.content or not picture.holds(box, 0.005) or index.meets(box):
            dropped.add(place)
            continue
        index.add(box)
    if not dropped:
        return tuple(marks)
    gone = [Box(*mark.box) for place, mark in texts if place in dropped]
    kept = [Box(*mark.box) for place, mark in texts if place not in dropped]
    return tuple(mark for place, mark in enumerate(marks) if place not in dropped and not _orphaned(mark, gone, kept))


def _orphaned(mark: Mark, gone: Iterable[Box], kept: Iterable[Box]) -> bool:
    """Whether a patch of ground lost the text on it, and no other stands there."""
    if not isinstance(mark, Rect) or mark.role != MarkRole.GROUND:
        return False
    patch = Box(mark.x, mark.y, mark.x + mark.width, mark.y + mark.height)
    return any(patch.holds(box, 0.01) for box in gone) and not any(patch.holds(box, 0.01) for box in kept)


def _obstacle(mark: Mark) -> list[Box]:
    if isinstance(mark, Line) and mark.role in (MarkRole.WHISKER, MarkRole.SECOND, MarkRole.LEADER, MarkRole.REFERENCE):
        half = mark.thickness / 2
        left, right = sorted((mark.x1, mark.x2))
        top, bottom = sorted((mark.y1, mark.y2))
        if mark.role != MarkRole.WHISKER and right - left > 1 and bottom - top > 1:
            return _along(mark)
        return [Box(left - half, top - half, right + half, bottom + half)]
    if isinstance(mark, Rect) and mark.role in _FIXED_GROUND:
        return [Box(mark.x, mark.y, mark.x + mark.width, mark.y + mark.height)]
    return []


def _along(line: Line) -> list[Box]:
    """A slanted line as a row of small boxes."""
    steps = max(2, int(max(abs(line.x2 - line.x1), abs(line.y2 - line.y1)) / 4))
    boxes = []
    for step in range(steps):
        parts = (step / steps, (step + 1) / steps)
        xs = sorted(line.x1 + (line.x2 - line.x1) * part for part in parts)
        ys = sorted(line.y1 + (line.y2 - line.y1) * part for part in parts)
        boxes.append(Box(xs[0], ys[0], xs[1], ys[1]))
    return boxes


class _Index:
    """Boxes by the cells of a coarse grid they touch, so that a crowded chart is searched quickly."""

    _CELL = 24.0

    def __init__(self, boxes: Iterable[Box]) -> None:
        self._cells: dict[tuple[int, int], list[Box]] = {}
        for box in boxes:
            self.add(box)

    def add(self, box: Box) -> None:
        for key in self._keys(box):
            self._cells.setdefault(key, []).append(box)

    def meets(self, box: Box) -> bool:
        return any(box.meets(other, 0.01) for key in self._keys(box) for other in self._cells.get(key, ()))

    def _keys(self, box: Box) -> list[tuple[int, int]]:
        size = self._CELL
        columns = range(int(box.left // size), int(box.right // size) + 1)
        rows = range(int(box.top // size), int(box.bottom // size) + 1)
        return [(column, row) for column in columns for row in rows]
