"""Value labels: inside a bar that can hold them, otherwise at its end and clear of its whisker."""

from collections.abc import Sequence

from msgspec import Struct

from grainstack.chart.frame.plane import Box, CellPosition
from grainstack.chart.look.color import INK, PAPER, text_on
from grainstack.chart.look.measures import CAP_HEIGHT, FIGURE_LINE, MIDLINE
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Dot, Key, Mark, MarkRole, Rect, Text, Weight, descent
from grainstack.chart.writing.text import width

_TALL = 0.92  # of the type size: a figure from its foot to the top of its digits, and a hair
_UNDER = 1.15  # of the type size: a figure under a lying bar, and a hair
_LETTER_GAP = 0.45  # of the type size: letters are read with their figure and not as a part of it
_OUTSIDE = 0.75  # gaps: between the end of a bar and the figure beyond it
_HALF_UNDER = 0.82  # of the room under a figure that a line crosses: the figure stands clear of it
_CLEAR = 1.1  # heights of a label: it touches no edge of its bar
_INSIDE = 0.6  # gaps: between the end of a bar and the figure within it
_BASELINE = (0.72, 0.1)  # of a label's height: from its top to its line, and from its line to its bottom
_SLACK = 0.02  # of the type size: so that rounding does not drop a label that just fits


class ValueLabel(Struct, frozen=True):
    """A figure to be written at a bar.

    Attributes:
        content: What is written.
        key: The cell it belongs to.
        fill: The colour of the bar.
        letters: Comparison letters that follow it.
        size: Type size in points.
        role: What it is.
    """

    content: str
    key: Key
    fill: str
    letters: str = ""
    size: float = 8.0
    role: MarkRole = MarkRole.VALUE

    def width(self) -> float:
        """The width of the figure in points."""
        return width(self.content, self.size, Weight.SEMIBOLD) if self.content else 0.0

    def sized(self, size: float) -> "ValueLabel":
        """The same in another size of type, in points."""
        return ValueLabel(self.content, self.key, self.fill, self.letters, size, self.role)

    def needs(self, gap: float) -> tuple[float, float]:
        """The room it takes beyond a bar: its width when it lies, its height when it stands over the bar."""
        wide, tall = self.width(), self.size * _TALL if self.content else 0.0
        if self.letters:
            wide += width(self.letters, self.size) + (self.size * _LETTER_GAP if self.content else 0.0)
            tall += self.size * (FIGURE_LINE if self.content else _TALL)
        return wide + gap, tall + gap

    def at(self, x: float, y: float, anchor: Anchor, ground: str = PAPER) -> Text:
        """The label as a mark, in the colour that reads best where it stands."""
        fill = INK if ground == PAPER else text_on(ground)
        return Text(
            x, y, self.content, self.size, self.width(), fill, self.role, Weight.SEMIBOLD, anchor, ground, self.key
        )

    def letters_at(self, x: float, y: float, anchor: Anchor) -> Text:
        """Its letters as a mark."""
        wide = width(self.letters, self.size)
        return Text(x, y, self.letters, self.size, wide, MUTED, MarkRole.LETTER, anchor=anchor, key=self.key)


def overflow_of_marks(
    label: ValueLabel, position: CellPosition, value: float, style: Style, *, down: bool
) -> list[Text]:
    """A figure and its letters just beyond a value.

    Args:
        label: The figure.
        position: Where its bar stands.
        value: The outermost value of the bar, its whisker and its records.
        style: Type sizes.
        down: Whether it stands on the low side.
    """
    plane = position.plane
    x, y = plane.point(position.middle, value)
    size = label.size
    marks: list[Text] = []
    if plane.horizontal:
        way = -1 if down else 1
        anchor = Anchor.END if down else Anchor.START
        x, y = x + way * style.gap, y + size * MIDLINE
        if label.content:
            marks.append(label.at(x, y, anchor))
            x += way * (label.width() + size * _LETTER_GAP)
        if label.letters:
            marks.append(label.letters_at(x, y, anchor))
        return marks
    step = size * FIGURE_LINE
    y = y + style.gap * _OUTSIDE + size * CAP_HEIGHT if down else y - style.gap * _OUTSIDE
    if label.content:
        marks.append(label.at(x, y, Anchor.MIDDLE))
        y += step if down else -step
    if label.letters:
        marks.append(label.letters_at(x, y, Anchor.MIDDLE))
    return marks


def room_beside(label: ValueLabel, style: Style, *, horizontal: bool) -> float:
    """The room a figure with its letters takes beside a bar, across it, in points.

    Args:
        label: The figure.
        style: Type sizes.
        horizontal: Whether the bar lies.
    """
    if not label.content and not label.letters:
        return 0.0
    return label.size * _UNDER if horizontal else label.needs(style.gap * 2)[0]


def beside_marks(
    label: ValueLabel, position: CellPosition, end: float, style: Style, records: Sequence[Mark] = ()
) -> list[Text]:
    """A figure and its letters beside the end of a bar and its records: right of an upright one, under a lying one.

    Args:
        label: The figure.
        position: Where the bar stands.
        end: The value at which it ends.
        style: Type sizes.
        records: The dots over the bar: it stands beside those that are level with it.
    """
    plane, size = position.plane, label.size
    wide = label.needs(0.0)[0]
    side = position.middle + position.thickness / 2
    dots = [mark for mark in records if isinstance(mark, Dot)]
    if plane.horizontal:
        x = min(max(plane.value(end) - wide / 2, plane.frame.left), plane.frame.right - wide)
        level = [dot for dot in dots if x - dot.radius < dot.x < x + wide + dot.radius]
        y = max([side, *(dot.y + dot.radius for dot in level)]) + size * _UNDER * _HALF_UNDER
    else:
        y = min(plane.value(end) + size * MIDLINE, plane.frame.bottom)
        level = [dot for dot in dots if y - size - dot.radius < dot.y < y + dot.radius]
        x = max([side, *(dot.x + dot.radius for dot in level)]) + style.gap * _OUTSIDE
    marks = [label.at(x, y, Anchor.START)] if label.content else []
    if label.letters:
        marks.append(label.letters_at(x + (label.width() + size * _LETTER_GAP) * bool(label.content), y, Anchor.START))
    return marks


def inside_mark(label: ValueLabel, box: Box, style: Style, *, at_end: str = "") -> Text | None:
    """A label within a bar or segment, or None when it cannot hold it.

    Args:
        label: The figure.
        box: The bar.
        style: Type sizes.
        at_end: The side of the bar it stands at: `right`, `left`, `top` or `bottom`; empty for its middle.
    """
    tall = label.size
    if not label.content or tall * _CLEAR > box.height or label.width() + style.gap > box.width:
        return None
    x, y = (box.left + box.right) / 2, (box.top + box.bottom) / 2 + tall * MIDLINE
    anchor = Anchor.MIDDLE
    if at_end == "right":
        x, anchor = box.right - style.gap, Anchor.END
    elif at_end == "left":
        x, anchor = box.left + style.gap, Anchor.START
    elif at_end == "top":
        y = box.top + style.gap * _INSIDE + tall * _BASELINE[0]
    elif at_end == "bottom":
        y = box.bottom - style.gap * _INSIDE - tall * _BASELINE[1]
    return label.at(x, y, anchor, label.fill)


def fitting_size(labels: Sequence[ValueLabel], room: float, style: Style, *, horizontal: bool) -> float | None:
    """The largest type at which labels beyond bars fit side by side, or None when none down to the least does.

    Args:
        labels: What is written, at the style's size.
        room: The room across a bar in points, gaps included.
        style: Type sizes.
        horizontal: Whether bars grow to the right.
    """
    if horizontal:
        deep = max((descent(label.content + label.letters) for label in labels), default=0.0)
        factor = min(1.0, room / (style.value * max(_TALL, 2 * (MIDLINE + deep) + _SLACK)))
    else:
        wide = max((max(label.width(), width(label.letters, label.size)) for label in labels), default=0.0) + 2
        factor = min(1.0, room / wide) if wide > 2 else 1.0
    size = style.value * factor
    return size if size >= min(style.least_type, style.value) else None


_RIM = 0.4  # of the gap between a mark and its text: the patch is seen to belong to the text


def grounds(marks: Sequence[Mark], style: Style) -> list[Rect]:
    """A patch of paper behind each text on paper; texts in a colour of their own stand on that already.

    Args:
        marks: The texts in place.
        style: Sizes and strokes.
    """
    rim = style.gap * _RIM
    patches = []
    for mark in marks:
        if isinstance(mark, Text) and mark.ground == PAPER:
            left, top, right, bottom = mark.box
            size = right - left + 2 * rim, bottom - top + 2 * rim
            patches.append(Rect(left - rim, top - rim, *size, PAPER, MarkRole.GROUND, mark.key))
    return patches
