"""Treemaps: titled frames around near-square tiles, labels only where they are whole, a colour bar for a measure."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from math import isnan

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.frame.fallbacks import Draft, FallbackStep, composed
from grainstack.chart.frame.frame import framed, style_of
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.signs_drawn import explaining
from grainstack.chart.frame.value_axis import AxisNeeds, value_axis
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.color import INK, PAPER, is_between, over, text_on
from grainstack.chart.look.coloring import Ink
from grainstack.chart.look.measures import FIGURE_LINE, LINE, MIDLINE
from grainstack.chart.look.palette import GRID, MUTED, NAMED, PALE, shades, two_sided
from grainstack.chart.look.style import Style
from grainstack.chart.look.vision import between
from grainstack.chart.marks import Anchor, Key, Mark, MarkRole, Rect, Text, Weight
from grainstack.chart.scene import Scene
from grainstack.chart.treemaps.inks import top_inks
from grainstack.chart.treemaps.tile_tree import Node, Tree
from grainstack.chart.treemaps.tiling import squarified
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.numbers import written
from grainstack.chart.writing.text import balanced, width
from grainstack.chart.writing.wording import Place, Words, default_title, titled_with_unit, words_for
from grainstack.errors import ChartError
from grainstack.language import phrase, phrases
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose

_LEAST_SIDE = 2.4  # a tile whose sides would be smaller, in points, is not seen: it goes into the rest
_MOST_ROUNDS = 4  # of laying out: the note grows by a line at most, and then stays
_MOST_PARENTS = 300  # that a page can open: drawing more would take longer than the page is worth
_STEPS = 48  # of the colour bar: seen as one ramp
_SHADES = 7  # of a ramp: as many as the eye tells apart
_BLENDS = 64  # between two of them: colours that are as good as equal are one
_SCALE_ROOM = 3.2  # type sizes of ticks: the colour bar with its numbers
_SCALE_GAP = 1.5  # gaps: above it
_MANY_SMALL = 40  # small tiles: fewer go into the rest at once, of more the smallest first
_PARTING = (0.9, 1.6)  # parts: between tiles, and between the groups they are in
_LEAST_RIM = 6  # of a side: rims on both sides leave two thirds of a narrow tile
_HEAD = 1.75  # type sizes: the line with a group's name
_HEAD_FITS = (2.2, 4)  # heads high and type sizes wide: smaller groups have no name
_PALE = (0.85, 0.30)  # how strong a group is behind its tiles: with shades for figures, and without
_RIM = 0.9  # gaps: between a tile's edge and its label
_LEAST_LINE = 1.5  # type sizes: a tile that is narrower has no label
_LARGEST = 1.25  # type sizes of categories: the label of a large tile
_FIGURE = 0.85  # of the label's size: the figure under it
_FIGURE_BELOW = 1.2  # type sizes of the figure: from the label to where it stands
_DESCENT = (0.3, 0.25)  # of the type size: what letters, and figures, reach below their line
_BAR_ROOM = (0.42, 220.0)  # of the width, and points: the colour bar is no wider
_BAR_GAP = 2.5  # gaps: between its title and it
_BAR_HIGH = 0.95  # type sizes: it is as high as a line
_TITLE_LINE = 0.9  # of that: where its title stands


def treemap_scene(tree: Tree, request: Requests) -> Scene:
    """A treemap as a scene.

    Args:
        tree: The tiles.
        request: Labels, what colours stand for, words, numbers, colours and size.

    Raises:
        RequestError: A colour for a level that is not shown.
    """
    scene = composed(lambda wanted: _Treemap(tree, wanted), request)
    parents = [node for node in _parents(tree.root) if node.path]
    if tree.depth < 2 or not 0 < len(parents) <= _MOST_PARENTS:
        return scene
    return replace(scene, others=lambda: _opened(tree, request, parents))


def _parents(node: Node) -> Iterator[Node]:
    """A parent, and all parents in it."""
    if node.children:
        yield node
        for child in node.children:
            yield from _parents(child)


def _opened(tree: Tree, request: Requests, parents: Sequence[Node]) -> Mapping[str, Scene]:
    """The chart with each parent alone in all the room, by the codes of its path; one that has no room is left out."""

    def chart_of(node: Node) -> Callable[[Requests], _Treemap]:
        return lambda wanted: _Treemap(tree, wanted, node)

    found = {}
    for node in parents:
        with suppress(ChartError):
            scene = composed(chart_of(node), request)
            found[dict(node.key.parts())["category"]] = replace(scene, opened=node.label)
    return found


class Shades(Struct, frozen=True):
    """What colours stand for where a measure gives them.

    Attributes:
        low: The value at the lower end of the ramp.
        high: The value at its upper end.
        middle: The value at the middle of a two-sided ramp; NaN for a one-sided one.
        colors: The ramp, from low to high.
    """

    low: float
    high: float
    middle: float
    colors: tuple[str, ...]

    def of(self, value: float) -> str:
        """The colour of a value; pale where there is none."""
        if isnan(value):
            return PALE
        if isnan(self.middle):
            part = (value - self.low) / ((self.high - self.low) or 1.0)
        else:
            reach = max(self.high - self.middle, self.middle - self.low) or 1.0
            part = 0.5 + 0.5 * (value - self.middle) / reach
        where = min(max(part, 0.0), 1.0) * (len(self.colors) - 1)
        low = min(int(where), len(self.colors) - 2)
        return between(self.colors[low], self.colors[low + 1], round((where - low) * _BLENDS) / _BLENDS)


def shades_of(tree: Tree, wanted: TreemapRequest, palette: str | None, style: Style) -> Shades | None:
    """The ramp for the measure that gives colours: two-sided where it has both signs or a middle was asked for.

    Args:
        tree: The tiles.
        wanted: The middle of a two-sided ramp.
        palette: The palette asked for.
        style: The palettes where none was.
    """
    column = tree.cells.table.column_for(Purpose.SECOND)
    if column is None:
        return None
    values = [value for value in column.estimate.tolist() if not isnan(value)]
    if not values:
        return Shades(0.0, 1.0, float("nan"), shades(style.ordered, _SHADES, ramp=True))
    low, high = min(values), max(values)
    middle = wanted.color_middle
    if middle is None and low < 0 < high:
        middle = 0.0
    if middle is not None and palette in (None, "furrow"):
        reach = max(high - middle, middle - low)
        sides = two_sided("furrow" if palette or style.sides in NAMED else style.sides, 3)
        return Shades(middle - reach, middle + reach, middle, sides)
    return Shades(low, high, float("nan"), shades(palette or style.ordered, _SHADES, ramp=True))


class _Treemap:
    """One chart while it is being composed."""

    def __init__(self, tree: Tree, request: Requests, opened: Node | None = None) -> None:
        self._tree, self._opened = tree, opened
        self._request = request
        self._treemap_request = request[TreemapRequest]
        self._colors = request[ColorsRequest]
        self._style = style_of(request)
        self._figures = FiguresAt(tree.cells, request, self._treemap_request.labels)
        self._column = tree.cells.table.column_for(Purpose.SECOND)
        self._color_figures: Figures | None = figures_of(self._column) if self._column else None
        self._shades = shades_of(tree, self._treemap_request, self._colors.palette, self._style)
        self._tops = top_inks(tree, self._colors, self._style)
        self._marks: list[Mark] = []
        self._texts: list[Mark] = []
        self._hidden = self._named = 0
        self._untitled: list[str] = []
        self._shade_fills: dict[float, str] = {}

    def draft(self, kept: FallbackStep) -> Draft:
        """The scene with as much around it as there is room for.

        Which tiles are too small to see, and which signs are drawn, is known only once all are laid out, and the note
        on them takes room; so they are laid out again until the note says what is drawn.
        """
        hidden, signs = 0, None
        for _ in range(_MOST_ROUNDS):
            words = self._words(hidden)
            frame = framed(words if signs is None else words.explaining(signs), self._request, kept)
            body = frame.body
            room = replace(body, bottom=body.bottom - self._style.tick * _SCALE_ROOM) if self._shades else body
            self._marks, self._texts, self._hidden, self._untitled, self._named = [], [], 0, [], 0
            self._tile(self._root(), room, 0)
            drawn = {sign for sign, _ in explaining(words, self._texts).meanings}
            if hidden == self._hidden and drawn == {sign for sign, _ in frame.words.meanings}:
                break
            hidden, signs = self._hidden, drawn
        bar = self._color_bar(replace(body, top=room.bottom + self._style.gap * _SCALE_GAP)) if self._shades else []
        alt = treemap_alt(self._tree, frame.words.title or default_title(self._tree.cells.table), self._figures)
        figures = self._named if self._treemap_request.labels else 0
        wanted = {MarkRole.TILE: self._named + len(self._untitled), MarkRole.VALUE: figures}
        scene = frame.scene([*self._marks, *self._texts, *bar], alt, wanted)
        return Draft(lambda: scene, room.height / frame.size[1])

    def _words(self, hidden: int) -> Words:
        notes = []
        if hidden:
            notes = [phrase("{count} tiles too small to see are drawn together, with a pattern.", count=hidden)]
        if self._tree.empty:
            notes.append(phrase("{count} without a figure or at zero have no tile.", count=self._tree.empty))
        if self._column is not None:
            notes.append(phrase("The colour of a frame is the mean of its tiles, weighted by their size."))
        words = words_for(self._tree.cells.table, self._request, notes, Place.SUBTITLE)
        return replace(words, subtitle=words.subtitle or words.value_title, value_title="")

    def _root(self) -> Node:
        if self._opened is not None:
            return self._opened
        root = self._tree.root
        return replace(root, label=self._treemap_request.root_label) if self._treemap_request.root_label else root

    def _ink(self, node: Node) -> Ink:
        """The colour of a tile as it stands on paper, and its pattern."""
        if self._shades is None:
            ink = self._tops[node.top]
        else:
            if node.shade not in self._shade_fills:
                self._shade_fills[node.shade] = self._shades.of(node.shade)
            ink = Ink(self._shade_fills[node.shade])
        return Ink(over(ink.fill, PAPER, self._colors.opacity), ink.hatch) if self._colors.opacity < 1 else ink

    def _tile(self, node: Node, room: Box, depth: int) -> None:
        """A frame with its children, or a leaf."""
        style = self._style
        inner = room
        if node.path or node.label:
            inner = self._framed(node, room, depth)
        shown = [child for child in node.children if child.size > 0]
        area = max(inner.width * inner.height, 0.0)
        small = [child for child in shown if child.size / node.size * area < _LEAST_SIDE**2]
        if len(small) > 1:
            shown = (
                [child for child in shown if child not in small]
                if len(small) < _MANY_SMALL
                else _without(shown, len(small))
            )
            gone = sum(_leaves(child) for child in small)
            self._hidden += gone
            name = phrase("{count} smaller", count=gone)
            rest = Node(
                name,
                (*node.path, name),
                _rest_key(node),
                node.top,
                sum(c.size for c in small),
            )
            shown = sorted([*shown, rest], key=lambda child: -child.size)
        sizes = [child.size for child in shown]
        places = squarified(sizes, (inner.left, inner.top, inner.width, inner.height))
        gap = style.part * _PARTING[depth + 1 < self._tree.depth]
        for child, (left, top, wide, tall) in zip(shown, places, strict=True):
            rim = min(gap / 2, wide / _LEAST_RIM, tall / _LEAST_RIM)
            box = Box(left + rim, top + rim, left + wide - rim, top + tall - rim)
            if child.children:
                self._tile(child, box, depth + 1)
            else:
                self._leaf(child, box)

    def _framed(self, node: Node, room: Box, depth: int) -> Box:
        """A title bar with the total, where there is room for one, and the room left for the children."""
        style = self._style
        size = style.category if depth <= 1 else style.value
        high = size * _HEAD
        if room.height < high * _HEAD_FITS[0] or room.width < size * _HEAD_FITS[1]:
            self._untitled.append(node.label)
            return room
        pale = GRID if not node.path else over(self._ink(node).fill, PAPER, _PALE[not self._shades])
        key = node.key
        total = self._figures.first.number(node.size)
        tip = f"{' · '.join(node.path) or node.label}: {f'{total} {self._unit}'.rstrip()}{self._share(node)}"
        self._marks.append(Rect(room.left, room.top, room.width, high, pale, MarkRole.FRAME, key, tip))
        base = room.top + high / 2 + size * MIDLINE
        fill = text_on(pale)
        wide = width(node.label, size, Weight.SEMIBOLD)
        figure = width(total, size)
        left, right = room.left + style.gap, room.right - style.gap
        if wide + style.gap * 2 <= room.width:
            text = Text(left, base, node.label, size, wide, fill, MarkRole.TILE, Weight.SEMIBOLD, ground=pale, key=key)
            self._texts.append(text)
            self._named += 1
            if wide + figure + style.gap * 4 <= room.width:
                text = Text(right, base, total, size, figure, fill, MarkRole.VALUE, ground=pale, key=key)
                self._texts.append(replace(text, anchor=Anchor.END))
        else:
            self._untitled.append(node.label)
        return replace(room, top=room.top + high + style.part)

    def _leaf(self, node: Node, box: Box) -> None:
        rest = node.cell is None
        self._named += not rest
        ink = Ink(PALE, "rising") if rest else self._ink(node)
        fill = ink.fill
        key = node.key
        figure = self._figures.first.number(node.size) if node.cell is None else self._figures.text(node.cell)
        shade = ""
        if self._column is not None and self._color_figures is not None and not isnan(node.shade):
            shade = f"; {self._column.title}: {self._color_figures.number(node.shade)} {self._column.unit}".rstrip()
        tip = f"{' · '.join(node.path)}: {figure}{self._share(node)}{shade}"
        outline = INK if self._colors.outlined else ""
        self._marks.append(
            Rect(box.left, box.top, box.width, box.height, fill, MarkRole.TILE, key, tip, ink.hatch, outline)
        )
        texts = self._written(node, box, PAPER if ink.hatch or is_between(fill) else fill, key)
        self._texts += [*grounds(texts, self._style), *texts]

    @property
    def _unit(self) -> str:
        """The unit of the figures, unless they carry one."""
        column = self._tree.cells.column
        return "" if self._figures.first.style.carries_unit or column.is_share else column.unit

    def _share(self, node: Node) -> str:
        """The part of everything that a tile is, for its tip; nothing where its figure says that already."""
        if self._tree.cells.column.is_share:
            return ""
        return f" ({written(100 * node.size / self._tree.root.size, 1)} %)"

    def _written(self, node: Node, box: Box, fill: str, key: Key) -> list[Mark]:
        """The name with its figure beneath, in the largest type at which both are whole; else the name alone."""
        style = self._style
        rim = style.gap * _RIM
        wide, tall = box.width - 2 * rim, box.height - 2 * rim
        if wide < style.least_type * _LEAST_LINE or tall < style.least_type or (node.cell is None and node.size == 0):
            return []
        sizes = (style.category * _LARGEST, style.category, style.value, style.tick, style.base, style.least_type)
        without: list[Mark] = []
        for size in (one for one in sizes if one >= style.least_type):
            lines = balanced(node.label, size, wide, max(int(tall / (size * LINE)), 1))
            whole = " ".join(lines) == " ".join(node.label.split())
            if whole and len(lines) * size * LINE <= tall:
                marks = self._lines(lines, (box.left + rim, box.top + rim), size, fill, key)
                figure = self._figure_beneath(node, box, len(lines), size, fill)
                if figure or not self._treemap_request.labels:
                    return marks + figure
                without = without or marks
        return without

    @staticmethod
    def _lines(lines: Sequence[str], at: tuple[float, float], size: float, fill: str, key: Key) -> list[Mark]:
        x, top = at
        bases = [top + size * (LINE * (place + 1) - _DESCENT[0]) for place in range(len(lines))]
        ink = text_on(fill)
        return [
            Text(x, base, line, size, width(line, size), ink, MarkRole.TILE, ground=fill, key=key)
            for base, line in zip(bases, lines, strict=True)
        ]

    def _figure(self, node: Node) -> str:
        """What is written at a tile besides its name."""
        kinds = self._figures.kinds
        if kinds and node.cell is None:
            return self._figures.first.number(node.size)
        return self._figures.label(node.cell, kinds) if node.cell and kinds else ""

    def _figure_beneath(self, node: Node, box: Box, lines: int, size: float, fill: str) -> list[Mark]:
        """The figure under a name, where it fits."""
        style = self._style
        rim = style.gap * _RIM
        figure = self._figure(node)
        small = max(size * _FIGURE, style.least_type)
        wide = width(figure, small, Weight.SEMIBOLD)
        base = box.top + rim + size * (LINE * lines - _DESCENT[0]) + small * _FIGURE_BELOW
        if not figure or base + small * _DESCENT[1] > box.bottom - rim * 0.5 or wide > box.width - 2 * rim:
            return []
        key = node.key
        x, ink = box.left + rim, text_on(fill)
        return [Text(x, base, figure, small, wide, ink, MarkRole.VALUE, Weight.SEMIBOLD, ground=fill, key=key)]

    def _color_bar(self, room: Box) -> list[Mark]:
        """What colours stand for: a bar of them with round numbers beneath and the measure beside."""
        shading, column = self._shades, self._column
        if shading is None or column is None or self._color_figures is None:
            return []
        style = self._style
        measure = titled_with_unit((column,), NumbersRequest())
        title = phrase("Colour: {measure}, of frames weighted by size", measure=measure)
        size = style.tick
        wide = min(room.width * _BAR_ROOM[0], _BAR_ROOM[1])
        title_width = min(width(title, size), room.width - wide - style.gap * 3)
        left = room.left + title_width + style.gap * _BAR_GAP
        high = size * _BAR_HIGH
        marks: list[Mark] = []
        lines = balanced(title, size, title_width + 1, 1)
        marks.append(
            Text(
                room.left,
                room.top + high * _TITLE_LINE,
                lines[0],
                size,
                width(lines[0], size),
                MUTED,
                MarkRole.LEGEND,
                tip=title,
            )
        )
        each = wide / _STEPS
        for step in range(_STEPS):
            value = shading.low + (step + 0.5) / _STEPS * (shading.high - shading.low)
            fill = shading.of(value)  # each step reaches to the end under the next ones: no paper shows between them
            marks.append(Rect(left + step * each, room.top, wide - step * each, high, fill, MarkRole.COLOR_BAR))
        write = self._color_figures.style
        needs = AxisNeeds(shading.low, shading.high, column.is_share, column.unit == "%", whole=False, write=write)
        axis = value_axis(needs, 4)
        span = shading.high - shading.low or 1.0
        for value, label in zip(axis.ticks, axis.labels, strict=True):
            if not shading.low <= value <= shading.high:
                continue
            x = left + (value - shading.low) / span * wide
            y = room.top + high + size * FIGURE_LINE
            marks.append(Text(x, y, label, size, width(label, size), MUTED, MarkRole.TICK, anchor=Anchor.MIDDLE))
        return marks


def _rest_key(node: Node) -> Key:
    return Key(category=(*node.key.category, "*smaller"))


def treemap_alt(tree: Tree, title: str, figures: FiguresAt) -> str:
    """What a treemap shows, in words."""
    leaves = _leaves(tree.root)
    unit = f" {figures.first.unit}" if figures.first.unit and figures.first.unit != "%" else ""
    parts = [f"{node.label} ({figures.first.number(node.size)}{unit})" for node in tree.root.children[:3]]
    return phrase(
        "Treemap. {title}. {tiles} in {levels}; largest: {largest}.",
        title=title,
        tiles=phrases("{n} tile", "{n} tiles", leaves),
        levels=phrases("{n} level", "{n} levels", tree.depth),
        largest=", ".join(parts),
    )


def _leaves(node: Node) -> int:
    return 1 if not node.children else sum(_leaves(child) for child in node.children)


def _without(shown: Sequence[Node], small: int) -> list[Node]:
    """All but the smallest, which stand at the end."""
    return list(sorted(shown, key=lambda child: -child.size)[: len(shown) - small])
