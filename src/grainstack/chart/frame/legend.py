"""The legend: one line above the bars where it fits, in the order of the segments; or at another side."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.frame.plane import Box
from grainstack.chart.look.color import INK
from grainstack.chart.look.coloring import Ink
from grainstack.chart.look.style import Style
from grainstack.chart.marks import ELLIPSIS, Key, Mark, MarkRole, Rect, Text
from grainstack.chart.writing.text import shortened, width

_SWATCH = 0.98  # of the type size: as tall as its name
_LINE = 2.0  # of the type size: entries on two lines are not read as one
_TIGHT = 0.9  # of a line: the largest type whose lines are still apart
_APART = 2.2  # of the type size: an entry is nearer to its own colour than to the next
_TIGHT_LINE, _TIGHT_APART = 1.5, 1.3  # the same where there is little room
_MOST_ASIDE = 0.28  # of the width: the plot keeps more than two thirds
_MOST_ABOVE = 0.36  # of the height: the plot keeps most of it
_SMALLER = 0.8  # of its size: the type of a legend that has no room otherwise; of a line: what its swatches stand in
_BELOW = 0.4  # type sizes: between a legend and the plot
_GAP_BELOW = 1.5  # gaps: between a legend at the foot and the plot
_TO_LINE = 0.85  # of a swatch: its name stands a little above its foot


class Legend(Struct, frozen=True):
    """What colours mean.

    Attributes:
        names: The series, in the order of the segments.
        inks: Their colours and patterns.
        place: Where it stands: `top`, `right`, `bottom`, `inside`, `direct` or `none`.
        keys: Which series each is.
        tight: Whether there is little room: lines and entries stand closer.
    """

    names: tuple[str, ...]
    inks: tuple[Ink, ...]
    place: str = "top"
    keys: tuple[Key, ...] = ()
    tight: bool = False

    @property
    def entries(self) -> list[tuple[str, Ink, Key]]:
        """Each series with its ink and key."""
        return list(zip(self.names, self.inks, self.keys, strict=True))

    def in_order(self, order: Sequence[int], place: str) -> "Legend":
        """The same with its series in another order, at a place."""
        entries = [self.entries[one] for one in order]
        names, inks, keys = zip(*entries, strict=True) if entries else ((), (), ())
        return replace(self, names=names, inks=inks, keys=keys, place=place)

    @property
    def line(self) -> float:
        """The height of a line, of the type size."""
        return _TIGHT_LINE if self.tight else _LINE

    @property
    def apart(self) -> float:
        """The distance between entries on one line, of the type size."""
        return _TIGHT_APART if self.tight else _APART

    @property
    def visible(self) -> bool:
        """Whether there is anything to show."""
        return bool(self.names) and self.place != "none"


def legend_marks(legend: Legend, style: Style, room: Box) -> tuple[list[Mark], float]:
    """Swatches with their names, in as many lines as they need.

    Args:
        legend: The series.
        style: Type sizes.
        room: Where it stands; it starts at the left, where the bars start, and grows downwards.

    Returns:
        The marks, and the y under the last line.
    """
    columns = 0
    if _lines(legend, style, room.width) * style.legend * legend.line > room.height * _MOST_ABOVE:
        style = replace(style, legend=min(style.legend, max(style.least_type, style.legend * _SMALLER)))
        lines = max(int(room.height * _MOST_ABOVE / (style.legend * legend.line)), 1)
        if _lines(legend, style, room.width) > lines:
            columns = -(-len(legend.names) // lines)
    size = style.legend
    marks: list[Mark] = []
    left, right = room.left, room.right
    if columns:
        return _in_columns(legend, style, room, columns)
    x, y = left, room.top
    for one in legend.entries:
        entry, taken = _entry(one, (x, y), right - left, style)
        if x > left and x + taken > right:
            x, y = left, y + size * legend.line
            entry, taken = _entry(one, (x, y), right - left, style)
        marks += entry
        x += taken + size * legend.apart
    return marks, y + size * legend.line


def _lines(legend: Legend, style: Style, room: float) -> int:
    """How many lines the entries take one after the other."""
    lines, x = 1, 0.0
    for name in legend.names:
        taken = style.legend * _SWATCH + style.gap + width(name, style.legend)
        if x and x + taken > room:
            lines, x = lines + 1, 0.0
        x += taken + style.legend * legend.apart
    return lines


def _in_columns(legend: Legend, style: Style, room: Box, columns: int) -> tuple[list[Mark], float]:
    """Entries in columns of one width, their names shortened: for more series than a small picture can name in full."""
    marks: list[Mark] = []
    each = room.width / columns
    line = style.legend * legend.line * _SMALLER
    for place, entry in enumerate(legend.entries):
        row, column = divmod(place, columns)
        marks += _entry(entry, (room.left + column * each, room.top + row * line), each - style.gap, style)[0]
    return marks, room.top + -(-len(legend.names) // columns) * line + style.legend * _BELOW


def legend_aside(legend: Legend, style: Style, body: Box) -> tuple[list[Mark], Box]:
    """A legend at the right or at the bottom, and the room it leaves; nothing when it stands elsewhere.

    Args:
        legend: The series and where they are to be named.
        style: Type sizes.
        body: The room under the title and above the notes.
    """
    if not legend.visible:
        return [], body
    if legend.place == "right":
        wide = column_width(legend, style, body.width)
        room = Box(body.right - wide, body.top, body.right, body.bottom)
        return column_marks(legend, style, room), replace(body, right=body.right - wide - style.gap * 4)
    if legend.place == "bottom":
        _, end = legend_marks(legend, style, body)
        room = replace(body, top=body.bottom - (end - body.top) + style.gap)
        return legend_marks(legend, style, room)[0], replace(body, bottom=room.top - style.gap * _GAP_BELOW)
    return [], body


def column_width(legend: Legend, style: Style, most: float) -> float:
    """The width of a legend in one column, in points.

    Args:
        legend: What it names.
        style: Sizes and strokes.
        most: The width of the picture, in points.
    """
    widest = max(width(name, style.legend) for name in legend.names)
    return min(style.legend * _SWATCH + style.gap + widest + 0.5, most * _MOST_ASIDE)


def column_marks(legend: Legend, style: Style, room: Box) -> list[Mark]:
    """One entry under the other, as many as fit.

    Args:
        legend: What it names.
        style: Sizes and strokes.
        room: Where it stands, in points.
    """
    marks: list[Mark] = []
    each = room.height / len(legend.names)
    size = max(min(style.legend, each * _TIGHT), style.least_type)
    line = max(min(style.legend * _LINE, each), size / _TIGHT)
    for place, entry in enumerate(legend.entries[: int((room.height + line - size) / line)]):
        y = room.top + place * line
        marks += _entry(entry, (room.left, y), room.width, replace(style, legend=size))[0]
    return marks


def _entry(entry: tuple[str, Ink, Key], at: tuple[float, float], room: float, style: Style) -> tuple[list[Mark], float]:
    """A swatch with its name, and the width of both."""
    name, ink, key = entry
    size = style.legend
    swatch = size * _SWATCH
    x, y = at
    content = shortened(name, size, room - swatch - style.gap)
    tip = name if content.endswith(ELLIPSIS) and content != name else ""
    wide = width(content, size)
    marks: list[Mark] = [Rect(x, y, swatch, swatch, ink.fill, MarkRole.LEGEND_SWATCH, key, hatch=ink.hatch)]
    if content:
        marks.append(
            Text(
                x + swatch + style.gap,
                y + swatch * _TO_LINE,
                content,
                size,
                wide,
                INK,
                MarkRole.LEGEND,
                key=key,
                tip=tip,
            )
        )
    return marks, swatch + style.gap + wide
