"""Records as dots: thinned where there are too many, spread without chance so that equal ones stand side by side.

Where records share a few values, such as scores from 0 to 10, each value is one disc whose area is their number; a
value that a great part of all records holds, such as a heap of zeros, is one disc with its share written beside it.
"""

from collections.abc import Sequence
from math import sqrt

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import RecordDotsRequest
from grainstack.chart.frame.plane import CellPosition
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.measures import CAP_HEIGHT, MIDLINE
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Dot, Mark, MarkRole, Text
from grainstack.chart.writing.text import width
from grainstack.language import phrase
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.sums.exact import Floats

MOST_DOTS = 3000  # more would print as one dark shape
_COARSE = 15  # different values of all records: up to a scale from 0 to 10, or two weeks of days
_SHARED = 5.0  # records for each different value, on average: below it, dots side by side tell more than discs
_HEAP = 0.15  # of the records of a cell: more than any value of a measure has that is not apart from the rest
_LEAST_HEAP = 20  # records: fewer stand side by side
_HEAP_SIZE = 3.2  # of the radius of a dot: seen to be something else
_LEAST_RADIUS = 1.2  # points: a smaller dot is dust in print
_LEAST_OPENNESS = 0.5  # of the opacity: a lone dot beside a crowd is still seen
_ROW = 1.7  # of the radius: dots nearer than that along the axis stand side by side
_DIAMETER = 2.1  # radii: dots side by side keep a hair between them


class CellDots(Struct, frozen=True):
    """The values of one cell as dots and discs.

    Attributes:
        dots: The values drawn as a dot each, rising.
        discs: On a coarse scale, each value with its records.
        heaps: Values that a great part of the records hold, with that part.
    """

    dots: Floats
    discs: tuple[tuple[float, int], ...] = ()
    heaps: tuple[tuple[float, float], ...] = ()


class RecordDots(Struct, frozen=True):
    """The values of some cells as dots.

    Attributes:
        cells: What is drawn of each cell.
        drawn: How many dots there are.
        records: How many records they stand for.
        most: The most records of one disc; 0 without discs.
        step: The smallest distance between two values drawn as discs.
    """

    cells: tuple[CellDots, ...]
    drawn: int
    records: int
    most: int = 0
    step: float = 0.0

    @property
    def note(self) -> str:
        """What is said of dots and discs."""
        if self.most:
            return phrase("The area of a disc is the number of records with that value.")
        note = phrase("Each dot is one record.")
        if self.drawn != self.records:
            note = phrase(
                "Dots: {drawn} of {records} records, evenly from the lowest to the highest of each group.",
                drawn=self.drawn,
                records=self.records,
            )
        if any(cell.heaps for cell in self.cells):
            note += phrase(" A value that many records share is one marked disc.")
        return note


def record_dots(cells: Sequence[Counted], most: int = MOST_DOTS) -> RecordDots:
    """The records of each cell; where there are too many, as many at even ranks with the lowest and highest kept.

    Args:
        cells: The different values of each cell with how many records hold each.
        most: How many dots there may be in all, about.
    """
    total = sum(int(records.sum()) for _, records, _ in cells)
    different = np.unique(np.concatenate([values for values, _, _ in cells])) if cells else np.zeros(0)
    if 1 < len(different) <= _COARSE and total >= _SHARED * len(different) * len(cells):
        discs = tuple(tuple(zip(values.tolist(), records.tolist(), strict=True)) for values, records, _ in cells)
        largest = max(int(records.max(initial=0)) for _, records, _ in cells)
        drawn = tuple(CellDots(np.zeros(0), one) for one in discs)
        return RecordDots(drawn, total, total, largest, float(np.diff(different).min()))
    heaped = [_heaps(cell) for cell in cells]
    factor = min(1.0, most / (total - sum(gone for _, gone in heaped) or 1))
    found = []
    for (values, records, _), (heaps, _) in zip(cells, heaped, strict=True):
        apart = np.isin(values, [value for value, _ in heaps])
        found.append(CellDots(_thinned(values[~apart], records[~apart], factor), heaps=heaps))
    return RecordDots(tuple(found), sum(len(one.dots) for one in found), total - sum(gone for _, gone in heaped))


def record_marks(  # noqa: PLR0913 - each says one thing about the same dots
    cell: CellDots,
    every: RecordDots,
    position: CellPosition,
    style: Style,
    request: RecordDotsRequest,
    *,
    fill: str,
    opacity: float,
) -> list[Mark]:
    """Dots and discs of one cell in place.

    Args:
        cell: What is drawn of it.
        every: What is drawn of all cells, which share the scale of their discs.
        position: Where it stands; its thickness is the room across.
        style: Sizes and strokes.
        request: The size of dots and how far they spread.
        fill: Their colour.
        opacity: How solid they are.
    """
    plane, key, room = position.plane, position.key, position.thickness
    spots = [(plane.value(value), 0.0, _disc(every, position, records)) for value, records in cell.discs]
    places = sorted(plane.value(value) for value in cell.dots.tolist())
    radius = request.dot_size / 2 if request.dot_size else dot_radius(places, style.record, room)
    shifts = offsets(places, radius, room)
    opacity *= 1.0 if cell.discs else _openness(places, shifts, radius)
    spots += [(place, shift, radius) for place, shift in zip(places, shifts, strict=True)]
    spots += [(plane.value(value), 0.0, min(radius * _HEAP_SIZE, room / 2)) for value, _ in cell.heaps]
    marks: list[Mark] = []
    for place, shift, size in spots:
        at = position.middle + shift
        x, y = (place, at) if plane.horizontal else (at, place)
        marks.append(Dot(x, y, size, fill, MarkRole.RECORD, key, opacity=opacity))
    heaps = len(cell.heaps)
    for dot, (value, share) in zip(marks[len(marks) - heaps :], cell.heaps, strict=True):
        if isinstance(dot, Dot):
            marks.append(replace(dot, opacity=1.0, outline=PAPER))
            marks += _heap_label(dot, (value, share), position, style, every)
    return marks


def _of_heap(share: float, value: float) -> tuple[str, str]:
    """What is written at a heap, and the same in short."""
    percent = f"{100 * share:.0f}"
    return phrase("{percent} % at {value}", percent=percent, value=value), f"{percent} %"


def _heap_label(
    dot: Dot, heap: tuple[float, float], position: CellPosition, style: Style, every: RecordDots
) -> list[Mark]:
    """The share of a heap: right of its disc, or over it on lying plots; short in all where it has to be in one."""
    value, share = heap
    size, plane, gap = max(style.tick, style.least_type), position.plane, style.gap * 0.5
    room = max(plane.slot, position.thickness) / 2 - dot.radius - gap
    texts = [_of_heap(part, at) for one in every.cells for at, part in one.heaps]
    short = not plane.horizontal and max(width(full, size) for full, _ in texts) > room
    content = _of_heap(share, value)[short]
    wide = width(content, size)
    if plane.horizontal:
        x, y = max(dot.x, plane.frame.left + wide / 2), dot.y - dot.radius - gap
        text = Text(x, y, content, size, wide, INK, MarkRole.VALUE, anchor=Anchor.MIDDLE, key=dot.key)
        fits = y - size * CAP_HEIGHT >= position.middle - plane.slot / 2
    else:
        x, y = dot.x + dot.radius + gap, min(dot.y + size * MIDLINE, plane.frame.bottom)
        text = Text(x, y, content, size, wide, INK, MarkRole.VALUE, key=dot.key)
        fits = wide <= room
    return [*grounds([text], style), text] if fits else []


def _disc(every: RecordDots, position: CellPosition, records: int) -> float:
    """The radius of a disc for so many records: the largest fills its room, and neighbours stay apart."""
    plane = position.plane
    step = abs(plane.value(plane.low + every.step) - plane.value(plane.low))
    largest = max(min(position.thickness / 2, step * 0.5), _LEAST_RADIUS)
    return max(largest * sqrt(records / every.most), _LEAST_RADIUS / 2)


def _heaps(cell: Counted) -> tuple[tuple[tuple[float, float], ...], int]:
    """The values that a great part of a cell's records hold, with that part by weight; and how many records that is."""
    values, records, weights = cell
    total = records.sum()
    heaped = (records >= _HEAP * total) & (records >= _LEAST_HEAP)
    shares = weights[heaped] / weights.sum() if heaped.any() else np.zeros(0)
    return tuple(zip(values[heaped].tolist(), shares.tolist(), strict=True)), int(records[heaped].sum())


def _thinned(values: Floats, records: "np.ndarray[tuple[int], np.dtype[np.int64]]", factor: float) -> Floats:
    """The values of a cell, each as often as it occurs, or at even ranks so many times as few."""
    n = int(records.sum())
    if not n:
        return np.zeros(0)
    keep = n if factor == 1.0 else min(n, max(int(np.ceil(n * factor)), 2))
    ranks = np.arange(n) if keep == n else np.unique(np.round(np.linspace(0, n - 1, keep)).astype(np.int64))
    return values[np.searchsorted(np.cumsum(records), ranks, side="right")]


def evenly_open(marks: Sequence[Mark]) -> list[Mark]:
    """The marks of a chart with all dots of records as see-through as those of the fullest group.

    Args:
        marks: All marks of the chart.
    """
    dots = [mark for mark in marks if isinstance(mark, Dot) and mark.role is MarkRole.RECORD and not mark.outline]
    least = min((dot.opacity for dot in dots), default=1.0)
    single = {id(dot) for dot in dots if dot.opacity != least}
    return [replace(mark, opacity=least) if id(mark) in single else mark for mark in marks]


def _openness(places: Sequence[float], shifts: Sequence[float], radius: float) -> float:
    """How much of its usual opacity a dot has: the more of them lie over each other, the less, so that none is lost."""
    rows: dict[int, list[float]] = {}
    for place, shift in zip(places, shifts, strict=True):
        rows.setdefault(int(place // (_ROW * radius)), []).append(shift)
    fullest = max(rows.values(), key=len, default=[])
    if len(fullest) < 2:
        return 1.0
    spread = (max(fullest) - min(fullest)) / (len(fullest) - 1)
    return max(min(spread / (2 * radius), 1.0), _LEAST_OPENNESS)


def dot_radius(places: Sequence[float], most: float, room: float) -> float:
    """The radius at which the fullest row of dots fits side by side, but never so small that dots are dust.

    Args:
        places: Where dots stand along the value axis in points, rising.
        most: The largest radius in points.
        room: The room across in points.
    """
    if not len(places):
        return most
    row = np.floor((np.array(places) - places[0]) / (_ROW * most)).astype(np.int64)
    return max(min(most, room / (_DIAMETER * int(np.bincount(row).max()))), _LEAST_RADIUS)


def offsets(places: Sequence[float], radius: float, room: float) -> list[float]:
    """How far each dot stands aside from the middle, in points.

    Dots that would overlap stand side by side, the first in the middle and the others to both sides in turn; where the
    fullest row has no room, all rows draw together alike, so the shape still tells where records are dense.

    Args:
        places: Where dots stand along the value axis in points, rising.
        radius: The radius of a dot in points.
        room: The room across in points.
    """
    if not len(places):
        return []
    row = np.floor((np.array(places) - places[0]) / (_ROW * radius)).astype(np.int64)
    first = np.searchsorted(row, row, side="left")
    order = np.arange(len(places)) - first
    steps = (order + 1) // 2 * np.where(order % 2, 1, -1)
    widest = int(np.abs(steps).max())
    spacing = min(_DIAMETER * radius, max(room / 2 - radius, 0.0) / widest) if widest else 0.0
    return [float(step) for step in steps * spacing]
