"""The labels of categories: level, whole wherever there is room, each with its base when that is shown."""

from collections.abc import Sequence
from itertools import groupby

from msgspec import Struct, field
from msgspec.structs import replace

from grainstack.chart.frame.plane import Plane
from grainstack.chart.look.color import INK
from grainstack.chart.look.measures import FIGURE_LINE, LINE, LOOSE_LINE, MIDLINE, NAME_GAP
from grainstack.chart.look.palette import GRID, MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import ELLIPSIS, Anchor, Key, Line, Mark, MarkRole, Text, Weight
from grainstack.chart.writing.text import balanced, shortened, width

_OUTER_GAP = 1.4  # gaps: between names and the names of the groups they are in
_OUTER_BESIDE = 0.45  # of the room for names: the names of groups take no more of it
_BASE_LINE = 1.5  # type sizes of bases: their line below the names, where it fits
_OTHER_LINE = 1.3  # of the type size: lines that are no name, such as bases, stand a little apart
_FIRST_LINE = 0.29  # of the type size: lines in the middle of a slot hang so far above it
_NAMES_BELOW = 1.1  # gaps: between the plot and the names below it
_AIR_ABOVE = 0.12  # of the type size: the air that is over letters already
_GROUP_LINE = 1.4  # grid lines: the line over a group's name is a little stronger than the grid
_GROUP_NAME = (0.6, 0.1)  # gaps below that line, less a part of the type size
_BESIDE = 2.5  # gaps: around names beside the plot


class Category(Struct, frozen=True):
    """What is written for one category.

    Attributes:
        label: Its label.
        base: Its base; empty when none is shown.
        outer: The label of its group; empty where categories are not nested.
        group: The number of its group.
        key: Which category it is.
    """

    label: str
    base: str = ""
    outer: str = ""
    group: int = 0
    key: Key = field(default_factory=Key)


class CategoryLabels(Struct, frozen=True):
    """Category labels, set.

    Attributes:
        lines: The lines of each category's label.
        size: Their type size.
        bases: Whether the base stands under the label.
        step: Every how manieth category is labelled; 1 unless there is no room for all.
        room: Width beside horizontal bars, height under vertical ones; outer labels counted.
        outer: The lines of each group's label, by group; empty where categories are not nested.
        outer_room: The part of `room` that outer labels take.
        turned: Whether the labels are turned by a quarter.
    """

    lines: tuple[tuple[str, ...], ...]
    size: float
    bases: bool
    step: int
    room: float
    outer: tuple[tuple[str, ...], ...] = ()
    outer_room: float = 0.0
    turned: bool = False

    @property
    def cut(self) -> bool:
        """Whether any label is shortened or has no room at all."""
        return any(not lines or not all(lines) or lines[-1].endswith(ELLIPSIS) for lines in self.lines)


def beneath(categories: Sequence[Category], slot: float, style: Style) -> CategoryLabels | None:
    """Labels under vertical bars, or None when they would not all be whole.

    Args:
        categories: What to write.
        slot: The width of a category in points.
        style: Type sizes.
    """
    room = slot - style.gap
    set_lines = [balanced(category.label, style.category, room, 2) for category in categories]
    bases = any(category.base for category in categories)
    whole = all(_whole(lines, category.label) for lines, category in zip(set_lines, categories, strict=True))
    if not whole or (bases and max(width(category.base, style.base) for category in categories) > room):
        return None
    outer: tuple[tuple[str, ...], ...] = ()
    outer_room = 0.0
    groups = _groups(categories)
    if any(label for label, _ in groups):
        outer = tuple(balanced(label, style.category, slot * len(members) - style.gap, 2) for label, members in groups)
        if not all(_whole(lines, label) for lines, (label, _) in zip(outer, groups, strict=True)):
            return None
        outer_room = max(len(lines) for lines in outer) * style.category * LINE + style.gap * _OUTER_GAP
    height = max(len(lines) for lines in set_lines) * style.category * LINE + (
        style.base * LOOSE_LINE if bases else 0.0
    )
    room = height + style.gap + outer_room
    return CategoryLabels(tuple(set_lines), style.category, bases, 1, room, outer, outer_room)


def turned_beneath(categories: Sequence[Category], slot: float, most: float, style: Style) -> CategoryLabels:
    """Labels under vertical bars turned by a quarter: they need no more width than lying bars need height.

    Args:
        categories: The categories, in order.
        slot: The width of one, in points.
        most: The height they may take, in points.
        style: Sizes and strokes.
    """
    turned = beside(categories, slot, most, style, nested=False)
    groups = _groups(categories)
    if not any(label for label, _ in groups):
        return replace(turned, turned=True)
    outer = tuple(balanced(label, style.category, slot * len(members) - style.gap, 2) for label, members in groups)
    outer_room = max(len(one) for one in outer) * style.category * LINE + style.gap * _OUTER_GAP
    return replace(turned, turned=True, room=turned.room + outer_room, outer=outer, outer_room=outer_room)


def beside(
    categories: Sequence[Category], slot: float, most: float, style: Style, *, nested: bool = True
) -> CategoryLabels:
    """Labels to the left of horizontal bars: smaller type, then a shorter label, then fewer of them, as room runs out.

    Args:
        categories: What to write.
        slot: The height of a category in points.
        most: The width they may take, in points.
        style: Type sizes.
        nested: Whether outer labels are wanted.
    """
    outer, outer_room = _outer_beside(categories, slot, most * _OUTER_BESIDE, style) if nested else ((), 0.0)
    most -= outer_room
    size = max(min(style.category, slot / FIGURE_LINE), style.least_type)
    step = max(1, -(-int(size * FIGURE_LINE * 100) // max(int(slot * 100), 1)))
    room = slot * step
    bases = any(category.base for category in categories) and room >= size * LINE + style.base * _BASE_LINE
    lines_fit = max(1, min(2, int((room - (style.base * _BASE_LINE if bases else 0.0)) / (size * LINE))))
    lines = tuple(
        balanced(category.label, size, most, lines_fit) if place % step == 0 else ()
        for place, category in enumerate(categories)
    )
    widest = max((width(line, size) for label in lines for line in label), default=0.0)
    if bases:
        bases_set = (shortened(category.base, style.base, most) for category in categories)
        widest = max(widest, *(width(base, style.base) for base in bases_set))
    gap = style.gap * NAME_GAP if widest or outer_room else 0.0
    return CategoryLabels(lines, size, bases, step, widest + gap + outer_room, outer, outer_room)


def category_marks(categories: Sequence[Category], labels: CategoryLabels, plane: Plane, style: Style) -> list[Mark]:
    """The labels as text marks beside or under their slots.

    Args:
        categories: The categories, in order.
        labels: Their lines, as `beneath` or `beside` set them.
        plane: Where the plot lies, in points.
        style: Sizes and strokes.
    """
    marks: list[Mark] = []
    lying = plane.horizontal or labels.turned
    for slot, (category, lines) in enumerate(zip(categories, labels.lines, strict=True)):
        if not lines:
            continue
        tip = category.label if lines[-1].endswith(ELLIPSIS) else ""
        rows = [(line, labels.size, INK, MarkRole.CATEGORY) for line in lines if line]
        if labels.bases and category.base:
            rows.append((category.base, style.base, MUTED, MarkRole.BASE))
        if lying:
            end, anchor = plane.frame.left - style.gap * NAME_GAP, Anchor.END
            end = plane.frame.bottom + style.gap if labels.turned else end
            height = sum(size * (LINE if role == MarkRole.CATEGORY else _OTHER_LINE) for _, size, _, role in rows)
            baseline = plane.middle(slot) - height / 2 - labels.size * _FIRST_LINE
        else:
            end, anchor = plane.middle(slot), Anchor.MIDDLE
            baseline = plane.frame.bottom + style.gap * _NAMES_BELOW - labels.size * _AIR_ABOVE
        for content, size, fill, role in rows:
            baseline += size * (LINE if role == MarkRole.CATEGORY else _OTHER_LINE)
            at = (baseline, end) if labels.turned else (end, baseline)
            text = Text(*at, content, size, width(content, size), fill, role, anchor=anchor, key=category.key, tip=tip)
            marks.append(replace(text, turned=labels.turned))
    return marks + _outer_marks(categories, labels, plane, style)


def _outer_marks(categories: Sequence[Category], labels: CategoryLabels, plane: Plane, style: Style) -> list[Mark]:
    """Each group's label once: at its first bar on the far left, or centred under the group with a line above."""
    marks: list[Mark] = []
    size = labels.size if plane.horizontal else style.category
    for lines, (label, members) in zip(labels.outer, _groups(categories), strict=False):
        if not label:
            continue
        first, last = plane.middle(members[0]), plane.middle(members[-1])
        half = plane.slot / 2
        tip = label if lines[-1].endswith(ELLIPSIS) else ""
        if plane.horizontal:
            x, anchor = plane.frame.left - labels.room, Anchor.START
            baseline = first - size * LINE + size * MIDLINE
        else:
            x, anchor = (first + last) / 2, Anchor.MIDDLE
            top = plane.frame.bottom + labels.room - labels.outer_room
            marks.append(
                Line(
                    first - half + style.gap,
                    top,
                    last + half - style.gap,
                    top,
                    GRID,
                    style.grid * _GROUP_LINE,
                    MarkRole.GROUP,
                )
            )
            baseline = top + style.gap * _GROUP_NAME[0] - size * _GROUP_NAME[1]
        for line in lines:
            baseline += size * LINE
            wide = width(line, size, Weight.SEMIBOLD if plane.horizontal else Weight.REGULAR)
            weight = Weight.SEMIBOLD if plane.horizontal else Weight.REGULAR
            marks.append(Text(x, baseline, line, size, wide, INK, MarkRole.GROUP_LABEL, weight, anchor, tip=tip))
    return marks


def _outer_beside(
    categories: Sequence[Category], slot: float, most: float, style: Style
) -> tuple[tuple[tuple[str, ...], ...], float]:
    """The outer labels in a column of their own, and its width."""
    groups = _groups(categories)
    if not any(label for label, _ in groups):
        return (), 0.0
    size = max(min(style.category, slot / FIGURE_LINE), style.least_type)
    found = []
    for label, members in groups:
        lines = max(1, min(3, int((slot * (len(members) + 0.5)) / (size * LINE))))
        found.append(balanced(label, size, most, lines, Weight.SEMIBOLD))
    widest = max(width(line, size, Weight.SEMIBOLD) for lines in found for line in lines)
    return tuple(found), widest + style.gap * _BESIDE


def _groups(categories: Sequence[Category]) -> list[tuple[str, list[int]]]:
    """Each group's label and the slots in it."""
    numbered = groupby(enumerate(categories), key=lambda pair: (pair[1].group, pair[1].outer))
    return [(outer, [slot for slot, _ in members]) for (_, outer), members in numbered]


def _whole(lines: Sequence[str], label: str) -> bool:
    return " ".join(lines) == " ".join(label.split())
