"""SVG, written from the scene: tagged marks, real text, and the letters of the fonts used inside the file."""

import base64
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from html import escape

import uharfbuzz
from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.marks import (
    BROKEN,
    Anchor,
    Area,
    Dot,
    Face,
    Image,
    Key,
    Line,
    Mark,
    Rect,
    Sector,
    Text,
    Weight,
    arc_points,
)
from grainstack.chart.scene import Scene
from grainstack.chart.writing.fonts import font, typefaces, with_boxes
from grainstack.chart.writing.text import runs
from grainstack.chart.writing.text import width as text_width
from grainstack.visible import visible, visible_lines

_LATIN = (b"kern", b"mark", b"mkmk", b"ccmp")
_JOINING = (b"init", b"medi", b"fina", b"isol", b"rlig", b"calt")  # without them Arabic letters do not join
_KEPT_FEATURES = [int.from_bytes(tag, "big") for tag in (*_LATIN, *_JOINING)]
_LEFTWARDS, _RIGHTWARDS, _AS_BEFORE = "\u202e", "\u202d", "\u202c"  # Unicode Standard Annex 9: overrides, and their end
STROKE = 0.5  # points: thinner than the stems of the smallest type on it
SPACING = 5.0  # points: wide enough to be seen as lines at arm's length, narrow enough for a small segment
SHORT = {"dots": 0.8, "dashes": 2.4}  # points: how long the strokes of patterns of short ones are
_RIM = STROKE / 2  # points: half a stroke, which is not missed
WEIGHTS = {Weight.REGULAR: 400, Weight.SEMIBOLD: 600}


class FontName(Struct, frozen=True):
    """What a typesetter knows a font by.

    Attributes:
        family: Its family.
        weight: How heavy it is, from 100 to 900.
        style: `normal`, `italic` or `oblique`.
    """

    family: str
    weight: int
    style: str


def paint(scene: Scene, dpi: float = 72.0) -> bytes:
    """The scene as an SVG document. Every mark carries its role and the codes of its cell as `data-` attributes.

    An SVG is measured in points, so `dpi` makes no difference.
    """
    del dpi
    size = f'width="{_number(scene.width)}pt" height="{_number(scene.height)}pt"'
    trace = f"<metadata>{escape(scene.trace, quote=False)}</metadata>\n" if scene.trace else ""
    return f"{_drawing(scene, size, '', f'{trace}<style>{font_styles(scene.marks)}</style>{chr(10)}')}\n".encode()


def drawing(scene: Scene, name: str) -> str:
    """The scene as a part of a page: as wide as there is room, without fonts, and with ids of its own.

    Args:
        scene: The picture.
        name: What no other drawing of the page is called.
    """
    return _drawing(scene, f'class="chart" style="max-width:{_number(scene.width)}pt"', f"{name}-", "")


def typeset_drawing(scene: Scene, fonts: Mapping[Face, FontName]) -> str:
    """The scene as an SVG for a typesetter that has the fonts itself: each stretch of a text in the font it has here.

    Args:
        scene: The picture.
        fonts: What the typesetter knows each font by.
    """
    body = "".join(
        _set_in_fonts(mark, fonts) if isinstance(mark, Text) else _element(mark, scene.outline, "", scene.pattern)
        for mark in scene.marks
    )
    width, height = _number(scene.width), _number(scene.height)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}pt" height="{height}pt" viewBox="{view_box(scene)}">'
        f'{_patterns(scene, "")}<rect width="{width}" height="{height}" fill="{scene.paper}"/>{body}</svg>'
    )


def _set_in_fonts(mark: Text, fonts: Mapping[Face, FontName]) -> str:
    """A text as stretches of one font and direction each, each in its place."""
    start = -mark.before
    stretches = []
    every = runs(mark.content, mark.weight)
    mixed = any(run.leftwards for run in every)
    for run in every:
        # A space at the end of a stretch would go to its other side, where directions are mixed: it is left out.
        content = with_boxes(run.content.strip(" ") if mixed else run.content)
        trimmed = run.content.rstrip(" ") if run.leftwards else run.content.lstrip(" ")
        spaces = run.width * mark.size - text_width(trimmed, mark.size, mark.weight) if mixed and content else 0
        place = _attributes(x=mark.x + start + spaces, y=mark.y)
        start += run.width * mark.size
        if content and run.face in fonts:
            name = fonts[run.face]
            look = f'font-family="{escape(name.family)}" font-weight="{name.weight}"'
            look += "" if name.style == "normal" else f' font-style="{name.style}"'
            # Each stretch stands by itself, and would lose what it is to its neighbours: its direction is told.
            before, behind = (_LEFTWARDS if run.leftwards else _RIGHTWARDS, _AS_BEFORE) if mixed else ("", "")
            stretches.append(f"<tspan {place} {look}>{before}{escape(content, quote=False)}{behind}</tspan>")
    turned = f' transform="rotate(-90 {_number(mark.x)} {_number(mark.y)})"' if mark.turned else ""
    size = _attributes(**{"font-size": mark.size})
    return f'<text xml:space="preserve" {size}{turned} fill="{mark.fill}">{"".join(stretches)}</text>'


def _drawing(scene: Scene, size: str, prefix: str, styles: str) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} '
        f'viewBox="{view_box(scene)}" role="img" aria-labelledby="{prefix}title {prefix}desc">\n'
        f"{_content(scene, prefix, styles)}\n</svg>"
    )


def view_box(scene: Scene) -> str:
    """The room of a scene, as SVG writes it."""
    return f"0 0 {_number(scene.width)} {_number(scene.height)}"


def content(scene: Scene, name: str) -> str:
    """What stands in a drawing of a page; see `drawing`.

    Args:
        scene: The picture.
        name: What the drawing is called.
    """
    return _content(scene, f"{name}-", "")


def _content(scene: Scene, prefix: str, styles: str) -> str:
    body = "\n".join(_element(mark, scene.outline, prefix, scene.pattern) for mark in scene.marks)
    width, height = _number(scene.width), _number(scene.height)
    return (
        f'<title id="{prefix}title">{_written(scene.title)}</title>\n'
        f'<desc id="{prefix}desc">{_written(scene.alt)}</desc>\n'
        f"{styles}"
        f"{_patterns(scene, prefix)}"
        f'<rect width="{width}" height="{height}" fill="{scene.paper}"/>\n{body}'
    )


def _element(mark: Mark, outline: float, prefix: str, scale: float = 1.0) -> str:
    data = f'data-role="{mark.role}"{_data(mark.key)}'
    tip = f"<title>{_written(mark.tip)}</title>" if mark.tip else ""
    if isinstance(mark, Rect):
        place = _attributes(x=mark.x, y=mark.y, width=mark.width, height=mark.height)
        return _filled(
            "rect", place + _edge(mark.outline, outline, mark.opacity, broken=mark.broken), mark.fill, data, tip
        ) + _pattern(mark, _within(mark, scale), prefix)
    if isinstance(mark, Dot):
        place = _attributes(cx=mark.x, cy=mark.y, r=mark.radius) + _edge(mark.outline, outline, mark.opacity)
        return _filled("circle", place, mark.fill, data, tip)
    if isinstance(mark, Sector | Area):
        place = f'd="{_slice(mark) if isinstance(mark, Sector) else _shape(mark)}"'
        edge = _edge(mark.outline, outline, 1.0) if isinstance(mark, Sector) else _edge("", outline, mark.opacity)
        return _filled("path", place + edge, mark.fill, data, tip) + _pattern(mark, place, prefix)
    if isinstance(mark, Line):
        place = _attributes(x1=mark.x1, y1=mark.y1, x2=mark.x2, y2=mark.y2)
        start = f'<line {place} stroke="{mark.stroke}" stroke-width="{_number(mark.thickness)}" {data}'
        return f"{start}>{tip}</line>" if tip else f"{start}/>"
    if isinstance(mark, Image):
        place = _attributes(x=mark.x, y=mark.y, width=mark.width, height=mark.height)
        return f'<image {place} href="data:image/png;base64,{base64.b64encode(mark.data).decode()}" {data}/>'
    anchor = "" if mark.anchor is Anchor.START else f' text-anchor="{mark.anchor.value}"'
    weight = "" if mark.weight is Weight.REGULAR else f' font-weight="{WEIGHTS[mark.weight]}"'
    place = _attributes(x=mark.x, y=mark.y, **{"font-size": mark.size}, textLength=mark.width)
    place += f' transform="rotate(-90 {_number(mark.x)} {_number(mark.y)})"' if mark.turned else ""
    content = escape(visible(mark.content), quote=False)
    return f'<text {place}{anchor}{weight} fill="{mark.fill}" {data}>{tip}{content}</text>'


def _filled(shape: str, place: str, fill: str, data: str, tip: str) -> str:
    start = f'<{shape} {place} fill="{fill}" {data}'
    return f"{start}>{tip}</{shape}>" if tip else f"{start}/>"


def _edge(color: str, thickness: float, opacity: float, *, broken: bool = False) -> str:
    stroke = f' stroke="{color}" stroke-width="{_number(thickness)}"' if color else ""
    if color and broken:
        stroke += f' stroke-dasharray="{" ".join(_number(part * thickness) for part in BROKEN)}"'
    return stroke + (f' fill-opacity="{_number(opacity)}"' if opacity < 1 else "")


def _pattern(mark: Rect | Sector | Area, place: str, prefix: str) -> str:
    """A second shape over the first, filled with its pattern; `place` is where both lie."""
    if not mark.shown_hatch:
        return ""
    shape = "rect" if isinstance(mark, Rect) else "path"
    return f'<{shape} {place} fill="url(#{prefix}{mark.hatch}-{mark.pattern[1:]})" data-role="pattern"/>'


def _within(mark: Rect, scale: float) -> str:
    """Where the pattern of a rectangle lies: programs that lay tiles as pixels would have it stand out a little."""
    rim = _RIM * scale
    return _attributes(x=mark.x + rim, y=mark.y + rim, width=mark.width - 2 * rim, height=mark.height - 2 * rim)


def _patterns(scene: Scene, prefix: str) -> str:
    """The patterns used, as tiles of their strokes."""
    used = {
        (mark.hatch, mark.pattern)
        for mark in scene.marks
        if isinstance(mark, Rect | Sector | Area) and mark.shown_hatch
    }
    side, scale = 2 * SPACING, "" if scene.pattern == 1 else f' patternTransform="scale({_number(scene.pattern)})"'
    tiles = []
    for hatch, color in sorted(used):
        lines = "".join(
            f"M{_number(x1)},{_number(y1)}L{_number(x2)},{_number(y2)}"
            for x1, y1, x2, y2 in strokes_over(hatch, 0, 0, side, side)
        )
        tiles.append(
            f'<pattern id="{prefix}{hatch}-{color[1:]}" width="{side:g}" height="{side:g}" '
            f'patternUnits="userSpaceOnUse"{scale}>'
            f'<path d="{lines}" stroke="{color}" stroke-width="{STROKE}" fill="none"/></pattern>'
        )
    return f"<defs>{''.join(tiles)}</defs>\n" if tiles else ""


def _shape(mark: Area) -> str:
    """The way around an area."""
    return f"M{'L'.join(f'{_number(x)} {_number(y)}' for x, y in mark.corners)}Z"


def _slice(mark: Sector) -> str:
    """A path around a slice of a disc or ring, in true arcs; a whole turn is drawn in two halves."""
    if mark.end - mark.start >= 359.999:
        half = mark.start + 180
        first, second = replace(mark, end=half), replace(mark, start=half, end=mark.start + 359.999)
        return _slice(first) + _slice(second)
    (x1, y1), (x2, y2) = (arc_points(mark.x, mark.y, mark.radius, at, at)[0] for at in (mark.start, mark.end))
    large = int(mark.end - mark.start > 180)
    arc = f"A{_number(mark.radius)},{_number(mark.radius)} 0 {large} 1 {_number(x2)},{_number(y2)}"
    if not mark.inner:
        return f"M{_number(mark.x)},{_number(mark.y)}L{_number(x1)},{_number(y1)}{arc}Z"
    (x3, y3), (x4, y4) = (arc_points(mark.x, mark.y, mark.inner, at, at)[0] for at in (mark.end, mark.start))
    back = f"A{_number(mark.inner)},{_number(mark.inner)} 0 {large} 0 {_number(x4)},{_number(y4)}"
    return f"M{_number(x1)},{_number(y1)}{arc}L{_number(x3)},{_number(y3)}{back}Z"


def _attributes(**values: float) -> str:
    return " ".join([f'{name}="{_number(value)}"' for name, value in values.items()])


def _data(key: Key) -> str:
    return "".join([_code(name, value) for name, value in key.parts()])


@lru_cache(maxsize=4096)  # each code is a part of many keys
def _code(name: str, value: str) -> str:
    return f' data-{name}="{escape(visible(value))}"'


def _number(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def font_styles(marks: Iterable[Mark], more: str = "") -> str:
    """The fonts used, cut down to the letters used, so that the picture looks the same on every machine.

    Args:
        marks: The marks whose texts are set in them.
        more: Other text set in them, in both weights.
    """
    letters: defaultdict[tuple[Face, Weight], set[str]] = defaultdict(set)
    for mark in marks:
        if isinstance(mark, Text):
            for run in runs(mark.content, mark.weight):
                letters[run.face, mark.weight].update(run.content)
    for weight in Weight:
        for run in runs(more, weight):
            letters[run.face, weight].update(run.content)
    used = sorted(letters, key=lambda one: (one[0].name, one[1], one[0].path))
    faces = "".join(
        f"@font-face{{font-family:'{face.name}';font-weight:{WEIGHTS[weight]};"
        f"src:url(data:font/ttf;base64,{_subset(face, letters[face, weight])})}}"
        for face, weight in used
    )
    names = dict.fromkeys([family.regular.name for family in typefaces()] + [face.name for face, _ in used])
    return f"{faces}text{{font-family:{','.join(repr(name) for name in names)},sans-serif;white-space:pre}}"


def _subset(face: Face, letters: set[str]) -> str:
    wanted = uharfbuzz.SubsetInput()
    wanted.unicode_set.update(ord(letter) for letter in letters)
    wanted.layout_feature_tag_set.clear()
    wanted.layout_feature_tag_set.update(_KEPT_FEATURES)
    wanted.flags = uharfbuzz.SubsetFlags.NO_HINTING
    return base64.b64encode(wanted.subset(font(face).face).blob.data).decode("ascii")


def _written(text: str) -> str:
    """Text as XML can hold it, on its lines."""
    return escape(visible_lines(text))


Stroke = tuple[float, float, float, float]


def strokes_over(hatch: str, left: float, top: float, right: float, bottom: float) -> Iterator[Stroke]:
    """The strokes of a pattern that cross a rectangle, to be clipped to the shape inside it.

    They lie on one grid for the whole picture, so that neighbours continue each other, and end just beyond the
    rectangle: a hair of some length would be crossed by diagonals of that length, and drawing them takes as long.

    Args:
        hatch: Its name; an unknown one has no strokes.
        left: The rectangle, in points; likewise the other sides.
        top: Its top.
        right: Its right side.
        bottom: Its bottom.
    """
    if hatch in ("rising", "crossed"):
        for at in _multiples(left + top, right + bottom):  # x + y
            low, high = min(bottom, at - left) + STROKE, max(top, at - right) - STROKE
            yield at - low, low, at - high, high
    if hatch in ("falling", "crossed"):
        for at in _multiples(left - bottom, right - top):  # x − y
            high, low = max(top, left - at) - STROKE, min(bottom, right - at) + STROKE
            yield at + high, high, at + low, low
    if hatch == "level":
        yield from ((left, at, right, at) for at in _multiples(top, bottom))
    if hatch == "upright":
        yield from ((at, top, at, bottom) for at in _multiples(left, right))
    if hatch in SHORT:
        yield from _short(SHORT[hatch], left, top, right, bottom)


def _short(long: float, left: float, top: float, right: float, bottom: float) -> Iterator[Stroke]:
    """Rows of short strokes, every other row shifted."""
    for y in _multiples(top, bottom):
        shift = SPACING / 2 if round(y / SPACING) % 2 else 0.0
        yield from ((x + shift, y, x + shift + long, y) for x in _multiples(left - SPACING, right))


def _multiples(low: float, high: float) -> Iterator[float]:
    place = -(-low // SPACING) * SPACING
    while place <= high:
        yield place
        place += SPACING
