"""Value labels: inside a bar that can hold them, otherwise at its end and clear of its whisker."""

from dataclasses import dataclass
from math import isnan

from grainstack.chart.arrange.bars import Bar
from grainstack.chart.compose.geometry import Box, Plane
from grainstack.chart.palette import INK, PAPER, text_on
from grainstack.chart.scene import Anchor, Key, Rect, Text, Weight
from grainstack.chart.style import Style
from grainstack.chart.text import width

_TALL = 0.92


@dataclass(frozen=True, slots=True)
class ValueLabel:
    """A figure to be written at a bar."""

    bar: Bar
    content: str
    key: Key
    fill: str

    def width(self, style: Style) -> float:
        """Its width in points."""
        return width(self.content, style.value, Weight.SEMIBOLD)

    def at(self, x: float, y: float, anchor: Anchor, style: Style, *, inside: bool = False) -> Text:
        """The label as a mark, in the colour that reads best where it stands."""
        ground = self.fill if inside else PAPER
        fill = text_on(ground) if inside else INK
        size, wide, key = style.value, self.width(style), self.key
        return Text(x, y, self.content, size, wide, fill, "value", Weight.SEMIBOLD, anchor, ground, key)


def room_beyond(labels: list[ValueLabel], style: Style, *, horizontal: bool) -> list[tuple[float, float]]:
    """For each label outside a bar: the value it stands beyond, and the points it needs there.

    Values below zero have their label on the low side, so their room counts from there.
    """
    needed = []
    for label in labels:
        length = label.width(style) if horizontal else style.value * _TALL
        needed.append((end_of(label.bar), length + style.gap))
    return needed


def end_of(bar: Bar) -> float:
    """The outermost value of a bar or its whisker, on the side it grows to."""
    if bar.end < 0:
        return bar.end if isnan(bar.low) else min(bar.low, bar.end)
    return bar.end if isnan(bar.high) else max(bar.high, bar.end)


def outside_marks(
    labels: list[ValueLabel], plane: Plane, middles: list[float], thickness: float, style: Style
) -> list[Text]:
    """Labels just beyond the ends of side-by-side bars; those too wide or tall for their place are left out.

    Args:
        labels: One per bar.
        plane: The plot.
        middles: Where each bar stands along the categories.
        thickness: The room across a bar in points, gaps included.
        style: Type sizes.
    """
    marks = []
    for label, middle in zip(labels, middles, strict=True):
        needed = style.value * _TALL if plane.horizontal else label.width(style) + 2
        if needed > thickness or not label.content:
            continue
        x, y = plane.point(middle, end_of(label.bar))
        down = -1 if label.bar.end < 0 else 1
        if plane.horizontal:
            x += down * style.gap
            y += style.value * 0.34
            anchor = Anchor.END if down < 0 else Anchor.START
        else:
            y -= style.gap * 0.75 if down > 0 else -style.gap * 0.75 - style.value * 0.70
            anchor = Anchor.MIDDLE
        marks.append(label.at(x, y, anchor, style))
    return marks


def grounds(labels: list[Text], style: Style) -> list[Rect]:
    """Patches of paper behind labels, so that no grid line runs through a figure."""
    rim = style.gap * 0.3
    patches = []
    for label in labels:
        left, top, right, bottom = label.box
        patches.append(
            Rect(left - rim, top - rim, right - left + 2 * rim, bottom - top + 2 * rim, PAPER, "ground", label.key)
        )
    return patches


def inside_mark(label: ValueLabel, box: Box, style: Style) -> Text | None:
    """A label in the middle of a segment, or None when the segment cannot hold it."""
    if label.width(style) + style.gap > box.width or style.value * 1.1 > box.height:
        return None
    middle_x, middle_y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
    return label.at(middle_x, middle_y + style.value * 0.34, Anchor.MIDDLE, style, inside=True)
