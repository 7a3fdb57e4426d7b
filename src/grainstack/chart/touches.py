"""Single marks and parts of a finished picture made different: found by what they are, so they outlive new data."""

from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from grainstack.chart.look.color import text_on
from grainstack.chart.marks import Area, Dot, Key, Line, Mark, MarkRole, Rect, Sector, Text, Weight
from grainstack.chart.scene import Scene
from grainstack.chart.touch_request import PARTS, Touch
from grainstack.chart.writing.fonts import set_in
from grainstack.chart.writing.text import width
from grainstack.errors import nearest
from grainstack.language import phrase
from grainstack.summary.table import Dimension, SummaryTable

_NONE = "none"
_WRITTEN_ON = (MarkRole.VALUE, MarkRole.SLICE_LABEL, MarkRole.TILE, MarkRole.LABEL)  # texts that may stand on an area
_RIM = 1.5  # points: of the plate under a text, around it
_OVER = 0.5  # points that two texts may reach into each other before they are told to


def touched(scene: Scene, touches: Sequence[Touch], table: SummaryTable) -> Scene:
    """A picture with some of its marks different.

    Args:
        scene: The picture.
        touches: What is different, in the order asked: a later one goes over an earlier one.
        table: The figures it shows, by whose levels marks are found.
    """
    if not touches:
        return scene
    names = _Names(table)
    marks: Sequence[Mark] = scene.marks
    told: list[str] = []
    with set_in(scene.typefaces):
        for one in touches:
            places = {place for place, mark in enumerate(marks) if _is_meant(one, mark, names)}
            if not places:
                told.append(_lost(one, marks, names))
            elif one.hidden:
                marks = [mark for place, mark in enumerate(marks) if place not in places]
            else:
                after = [_changed(one, mark) if place in places else mark for place, mark in enumerate(marks)]
                told += _told_of(one, marks, after, scene)
                marks = _with_readable_texts(marks, after)
    others = scene.others
    views = None if others is None else lambda: {name: touched(one, touches, table) for name, one in others().items()}
    return replace(scene, marks=tuple(marks), others=views, touches_told=(*scene.touches_told, *dict.fromkeys(told)))


class _Names:
    """The labels of the levels of marks, by the codes in their keys."""

    def __init__(self, table: SummaryTable) -> None:
        self._panel, self._series = _labels(table.panel), _labels(table.series)
        self._categories = list(map(_labels, table.categories))
        self._figures = {column.title: column.title for column in table.shown}
        self.every = [label for one in (self._panel, self._series, *self._categories) for label in one.values()]

    def of(self, key: Key) -> set[str]:
        """The labels of a mark."""
        found = {self._panel.get(code, "") for code in key.panel}
        found |= {labels.get(code, "") for labels, code in zip(self._categories, key.category, strict=False)}
        for code in key.series:
            found.add(self._series.get(code) or self._figures.get(code) or self._of_innermost(code))
        return found - {""}

    def _of_innermost(self, code: str) -> str:
        """The label of a category that stands for a series, as in a single bar cut into its categories."""
        return self._categories[-1].get(code, "") if self._categories else ""


def _labels(dimension: Dimension | None) -> dict[str, str]:
    """The labels of the levels of a column, by code; none for no column."""
    return {} if dimension is None else {level.code: level.label for level in dimension.levels}


def _is_meant(one: Touch, mark: Mark, names: _Names) -> bool:
    return mark.role in one.roles and (not one.levels or set(one.levels) <= names.of(mark.key))


def _changed(one: Touch, mark: Mark) -> Mark:
    """A mark with those changes that it can have."""
    new: dict[str, Any] = {}
    if isinstance(mark, Text):
        weight = Weight.SEMIBOLD if one.bold else mark.weight
        size = one.size or mark.size
        new = {"weight": weight, "size": size, "x": mark.x + one.offset[0], "y": mark.y + one.offset[1]}
        if (weight, size) != (mark.weight, mark.size):
            new["width"] = width(mark.content, size, weight)
        if one.color:
            new["fill"] = one.color
    elif isinstance(mark, Line):
        new = {"stroke": one.color or mark.stroke, "thickness": one.width or mark.thickness}
    elif isinstance(mark, Rect | Dot | Sector | Area):
        new["fill"] = one.color or mark.fill
        if one.outline and not isinstance(mark, Area):
            new["outline"] = "" if one.outline == _NONE else one.outline
        if one.pattern and not isinstance(mark, Dot):
            new["hatch"] = "" if one.pattern == _NONE else one.pattern
        if one.opacity is not None and not isinstance(mark, Sector):
            new["opacity"] = one.opacity
        if isinstance(mark, Dot) and one.size:
            new["radius"] = one.size / 2
    return replace(mark, **new) if new else mark


def _with_readable_texts(before: Sequence[Mark], after: Sequence[Mark]) -> list[Mark]:
    """The marks with texts on areas whose colour has changed in a colour that can be read on the new one."""
    fills: dict[tuple[Key, str], str] = {}
    patterned = set()
    for old, new in zip(before, after, strict=True):
        if isinstance(old, Rect | Sector) and isinstance(new, Rect | Sector) and old.fill != new.fill:
            fills[old.key, old.fill] = new.fill
        if isinstance(old, Rect | Sector) and isinstance(new, Rect | Sector) and new.hatch and not old.hatch:
            patterned.add((new.key, new.fill))
    found: list[Mark] = []
    for mark in after:
        fill = fills.get((mark.key, mark.ground)) if isinstance(mark, Text) and mark.role in _WRITTEN_ON else None
        text = replace(mark, ground=fill, fill=text_on(fill)) if fill else mark
        if isinstance(text, Text) and (text.key, text.ground) in patterned:
            found.append(_plate(text))
        found.append(text)
    return found


def _plate(text: Text) -> Rect:
    """The colour of an area under a text, where a pattern would run through it."""
    left, top, right, bottom = text.box
    wide, tall = right - left + 2 * _RIM, bottom - top + 2 * _RIM
    return Rect(left - _RIM, top - _RIM, wide, tall, text.ground, MarkRole.GROUND)


def _lost(one: Touch, marks: Sequence[Mark], names: _Names) -> str:
    """What is told of a touch that finds no mark."""
    unknown = next((level for level in one.levels if level not in names.every), "")
    there = [part for part, roles in PARTS.items() if any(mark.role in roles for mark in marks)]
    hint = nearest(unknown, [*names.every, *there]) if unknown else ""
    told = phrase("the touch “{touch}” finds nothing in this picture.", touch=one.text)
    if not unknown and one.parts:
        hint = phrase("Its parts are {parts}.", parts=", ".join(there))
    return f"{told} {hint}".rstrip()


def _told_of(one: Touch, before: Sequence[Mark], after: Sequence[Mark], scene: Scene) -> list[str]:
    """What is told of a touch: that it changes nothing, or which text now leaves the picture or stands over another."""
    changed = [new for old, new in zip(before, after, strict=True) if old != new]
    if not changed:
        return [phrase("the touch “{touch}” changes nothing of what it names.", touch=one.text)]
    if not (one.size or one.bold or one.offset != (0.0, 0.0)):
        return []
    texts = [mark for mark in after if isinstance(mark, Text)]
    for mark in changed:
        if not isinstance(mark, Text):
            continue
        left, top, right, bottom = mark.box
        if left < 0 or top < 0 or right > scene.width or bottom > scene.height:
            return [phrase("the touch “{touch}” moves “{text}” out of the picture.", touch=one.text, text=mark.content)]
        for other in texts:
            if other is not mark and _overlap(mark.box, other.box):
                both = {"text": mark.content, "other": other.content}
                return [phrase("the touch “{touch}” lets “{text}” stand over “{other}”.", touch=one.text, **both)]
    return []


def _overlap(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    across = min(one[2], other[2]) - max(one[0], other[0])
    return across > _OVER and min(one[3], other[3]) - max(one[1], other[1]) > _OVER
