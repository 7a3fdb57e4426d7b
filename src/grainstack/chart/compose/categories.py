"""The labels of categories: level, whole wherever there is room, each with its base when that is shown."""

from collections.abc import Sequence
from dataclasses import dataclass

from grainstack.chart.compose.geometry import Plane
from grainstack.chart.palette import INK, MUTED
from grainstack.chart.scene import ELLIPSIS, Anchor, Key, Text
from grainstack.chart.style import Style
from grainstack.chart.text import balanced, shortened, width

_LINE = 1.18


@dataclass(frozen=True, slots=True)
class Category:
    """What is written for one category."""

    label: str
    base: str = ""


@dataclass(frozen=True, slots=True)
class CategoryLabels:
    """Category labels, set.

    Attributes:
        lines: The lines of each category's label.
        size: Their type size.
        bases: Whether the base stands under the label.
        step: Every how manieth category is labelled; 1 unless there is no room for all.
        room: Width beside horizontal bars, height under vertical ones.
    """

    lines: tuple[tuple[str, ...], ...]
    size: float
    bases: bool
    step: int
    room: float


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
    whole = all(
        " ".join(lines) == " ".join(category.label.split())
        for lines, category in zip(set_lines, categories, strict=True)
    )
    if not whole or (bases and max(width(category.base, style.base) for category in categories) > room):
        return None
    height = max(len(lines) for lines in set_lines) * style.category * _LINE + (style.base * 1.35 if bases else 0.0)
    return CategoryLabels(tuple(set_lines), style.category, bases, 1, height + style.gap)


def beside(categories: Sequence[Category], slot: float, most: float, style: Style) -> CategoryLabels:
    """Labels to the left of horizontal bars: smaller type, then a shorter label, then fewer of them, as room runs out.

    Args:
        categories: What to write.
        slot: The height of a category in points.
        most: The width they may take, in points.
        style: Type sizes.
    """
    size = max(min(style.category, slot / 1.05), style.least_type)
    step = max(1, -(-int(size * 1.05 * 100) // max(int(slot * 100), 1)))
    room = slot * step
    bases = any(category.base for category in categories) and room >= size * _LINE + style.base * 1.5
    lines_fit = max(1, min(2, int((room - (style.base * 1.5 if bases else 0.0)) / (size * _LINE))))
    lines = tuple(
        balanced(category.label, size, most, lines_fit) if place % step == 0 else ()
        for place, category in enumerate(categories)
    )
    widest = max((width(line, size) for label in lines for line in label), default=0.0)
    if bases:
        widest = max(
            widest, *(width(shortened(category.base, style.base, most), style.base) for category in categories)
        )
    return CategoryLabels(lines, size, bases, step, widest + style.gap * 1.75)


def category_marks(categories: Sequence[Category], labels: CategoryLabels, plane: Plane, style: Style) -> list[Text]:
    """The labels as text marks beside or under their slots."""
    marks: list[Text] = []
    for slot, (category, lines) in enumerate(zip(categories, labels.lines, strict=True)):
        if not lines:
            continue
        tip = category.label if lines[-1].endswith(ELLIPSIS) else ""
        rows = [(line, labels.size, INK, "category") for line in lines]
        if labels.bases and category.base:
            rows.append((category.base, style.base, MUTED, "base"))
        if plane.horizontal:
            x, anchor = plane.frame.left - style.gap * 1.75, Anchor.END
            height = len(lines) * labels.size * _LINE + (len(rows) - len(lines)) * style.base * 1.3
            baseline = plane.middle(slot) - height / 2 - labels.size * 0.29
        else:
            x, anchor = plane.middle(slot), Anchor.MIDDLE
            baseline = plane.frame.bottom + style.gap * 1.1 - labels.size * 0.12
        for content, size, fill, role in rows:
            baseline += size * (_LINE if role == "category" else 1.3)
            key = Key(category=category.label)
            marks.append(
                Text(x, baseline, content, size, width(content, size), fill, role, anchor=anchor, key=key, tip=tip)
            )
    return marks
