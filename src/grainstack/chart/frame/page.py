"""The frame of every chart: title and subtitle on top, note and source at the bottom, the rest for the plot."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.frame.fallbacks import FallbackStep
from grainstack.chart.frame.plane import Box
from grainstack.chart.look.color import INK
from grainstack.chart.look.measures import NAME_GAP
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import ELLIPSIS, Anchor, Image, MarkRole, Text, Weight
from grainstack.chart.writing.text import width, wrapped
from grainstack.chart.writing.wording import Words

_MOST_HEADER = 0.36  # of the height: title and subtitle leave the plot more than half
_MOST_FOOTER = 0.24  # of the height: notes are less than the title
_SMALL_TITLE = 0.72  # of the usual size: still the largest type on the picture
_LINE, _TIGHT_LINE = 1.5, 1.25  # of the type size: lines of notes, and of short ones
_SHORT_NOTE = 2  # lines: the base, and what marks mean
_WRAPPED = 1.25  # type sizes: a line of a title
_TO_LINE = 0.72  # type sizes: from the top of a title to where its first line stands
_BELOW_LINE = 0.53  # type sizes: from its last line to what is under it
_AFTER = 0.4  # gaps: between a title and the subtitle
_BOTTOM = 0.65  # of the margin: small type needs less air below it
_NOTE_AIR = (1.6, 2.1)  # type sizes of the note, over it: a short one, a whole one
_WHOLE_NOTE = 6  # lines: a longer note would be a text of its own


class Page(Struct, frozen=True):
    """A picture with its words in place.

    Attributes:
        marks: The words.
        body: The room left for legend and plot.
    """

    marks: tuple[Text | Image, ...]
    body: Box


def page_of(
    words: Words, style: Style, size: tuple[float, float], kept: FallbackStep, logo: Image | None = None
) -> Page:
    """Sets the words of the frame; long ones are wrapped, and shortened once they take too much of the picture.

    Args:
        words: Every text around the plot.
        style: Sizes and strokes.
        size: Width and height of the picture, in points.
        kept: What there is room for.
        logo: A picture in a corner, beside which words stand.
    """
    picture_width, picture_height = size
    whole = picture_width - 2 * style.margin
    over = logo is not None and style.logo_place == "top-right"
    aside = logo.width + style.gap * 2 if logo else 0.0
    room = whole - aside * over
    marks: list[Text | Image] = [logo] if logo else []
    top = style.margin
    small = max(style.title * _SMALL_TITLE, style.least_type)
    if words.title and not kept.whole_title:  # smaller still where that keeps it whole
        small = max(min(small, room / width(words.title, 1.0, Weight.SEMIBOLD)), style.least_type)
    title, lines = (style.title, 2) if kept.whole_title else (small, 1)
    for content, role, kind, most_lines in (
        (words.title, MarkRole.TITLE, title, lines),
        (words.subtitle if kept.subtitle else "", MarkRole.SUBTITLE, style.subtitle, 2),
    ):
        weight = Weight.SEMIBOLD if role == MarkRole.TITLE else Weight.REGULAR
        limit = _lines_within(_MOST_HEADER * picture_height - top, kind * _WRAPPED, most_lines)
        for line in _set(content, kind, room, limit, weight):
            top += kind * _TO_LINE
            fill = INK if role == MarkRole.TITLE else MUTED
            tip = content if line.endswith(ELLIPSIS) else ""
            text = Text(style.margin, top, line, kind, width(line, kind, weight), fill, role, weight, tip=tip)
            marks.append(_placed(text, style.title_place, room))
            top += kind * _BELOW_LINE
        top += style.gap * _AFTER if content else 0.0
    if logo and over:
        top = max(top, logo.y + logo.height)
    under = aside * (logo is not None and not over)
    notes = _footer(words, style, whole - under, picture_height, kept)
    bottom = picture_height - style.margin * _BOTTOM
    line_height = style.note * (_LINE if kept.whole_note else _TIGHT_LINE)
    lowest = bottom - (len(notes) - 1) * line_height
    for place, (line, role, tip) in enumerate(notes):
        at = style.margin, lowest + place * line_height
        text = Text(*at, line, style.note, width(line, style.note), MUTED, role, tip=tip)
        marks.append(_placed(text, style.note_place, whole - under))
    if logo and not over:
        lowest = min(lowest, logo.y + style.note)
    end = (
        lowest - style.note * _NOTE_AIR[kept.whole_note]
        if notes or (logo and not over)
        else picture_height - style.margin
    )
    return Page(tuple(marks), Box(style.margin, top + style.gap * NAME_GAP, picture_width - style.margin, end))


def _placed(text: Text, place: str, room: float) -> Text:
    """A line of words at the left, in the middle or at the right of its room."""
    anchor = {"left": Anchor.START, "middle": Anchor.MIDDLE, "right": Anchor.END}[place]
    part = {"left": 0.0, "middle": 0.5, "right": 1.0}[place]
    return replace(text, x=text.x + part * room, anchor=anchor)


def _footer(
    words: Words, style: Style, room: float, height: float, kept: FallbackStep
) -> list[tuple[str, MarkRole, str]]:
    """The lines under the plot with their role and, when shortened, their full text; the source keeps a line."""
    limit = _lines_within(
        _MOST_FOOTER * height, style.note * _LINE, _WHOLE_NOTE if kept.whole_note else _SHORT_NOTE + 1
    )
    source = _set(words.source, style.note, room, 1)
    written = words.footnote if kept.whole_note else words.short_note
    note = _set(written, style.note, room, max(limit - len(source), 0))
    tips = [words.footnote if line.endswith(ELLIPSIS) else "" for line in note]
    if note and written != words.footnote:
        tips[-1] = words.footnote
    lines = [(line, MarkRole.FOOTNOTE, tip) for line, tip in zip(note, tips, strict=True)]
    return lines + [(line, MarkRole.SOURCE, words.source if line.endswith(ELLIPSIS) else "") for line in source]


def _set(content: str, size: float, room: float, limit: int, weight: Weight = Weight.REGULAR) -> tuple[str, ...]:
    return wrapped(content, size, room, limit, weight) if content and limit > 0 else ()


def _lines_within(height: float, line: float, most: int) -> int:
    return max(min(int(height / line), most), 0)


def spaced(wanted: Sequence[float], gap: float, low: float, high: float) -> list[float]:
    """Places as near as can be to those wanted, in the same order, at least `gap` apart and within a range.

    Neighbours that are too close form a block around their mean; blocks merge until none is too close (pool adjacent
    violators). Where the range is too short for all, they share it out evenly.

    Args:
        wanted: The places wanted, rising or not.
        gap: The least distance.
        low: The lowest place allowed.
        high: The highest.
    """
    if not wanted:
        return []
    room = max(high - low, 0.0)
    if gap * (len(wanted) - 1) > room:
        step = room / max(len(wanted) - 1, 1)
        return [low + place * step for place in range(len(wanted))]
    blocks: list[tuple[float, int]] = []  # the sum of wanted places less their offsets, and how many there are
    for place, value in enumerate(wanted):
        total, count = value - gap * place, 1
        while blocks and blocks[-1][0] / blocks[-1][1] > total / count:
            before = blocks.pop()
            total, count = total + before[0], count + before[1]
        blocks.append((total, count))
    flat = [total / count for total, count in blocks for _ in range(count)]
    top = high - gap * (len(wanted) - 1)
    return [min(max(value, low), top) + gap * place for place, value in enumerate(flat)]
