"""A picture made of pixels, on which marks are laid one over the other."""

from collections.abc import Sequence
from functools import lru_cache
from math import ceil, floor

import numpy as np
import numpy.typing as npt

from grainstack.chart.look.color import channels
from grainstack.chart.scene import WHITE, Dot, Image, Line, Mark, Rect, Scene, Sector, Text, arc_points
from grainstack.chart.writing.fonts import font
from grainstack.chart.writing.text import runs
from grainstack.paint.coverage import Coverage, Edges, Outline, Window, area, box, pattern_coverage, stroke

Planes = npt.NDArray[np.uint8]

_SEEN = 0.2  # pixels: a thinner rectangle is drawn for its tip in other formats, and is nothing here
_STRAIGHT = 0.01  # pixels: a line that leaves the pixels by less is meant to run along them
_FULL = 255  # of a channel
_PLACES = 8  # between two pixels in which a dot can stand: the next one is too near to be told from it
_WHOLE = 2_000  # pixels: the line around a smaller rectangle is drawn at once, that of a larger one side by side


def painted(scene: Scene, dpi: float) -> Planes:
    """A scene as planes of red, green and blue, shape (3, height, width).

    Args:
        scene: The picture.
        dpi: Pixels to the inch.
    """
    scale = dpi / 72
    sheet = _Sheet(round(scene.width * scale), round(scene.height * scale), scale, scene.paper or WHITE)
    for mark in scene.marks:
        sheet.add(mark, scene.outline * scale)
    return sheet.planes


class _Sheet:
    """The picture while it is painted; lengths that it is given are in pixels, those of marks in points."""

    def __init__(self, width: int, height: int, scale: float, paper: str) -> None:
        self.planes: Planes = np.empty((3, height, width), dtype=np.uint8)
        self.planes[...] = _ink(paper)
        self._width, self._height, self._scale = width, height, scale

    def add(self, mark: Mark, outline: float) -> None:
        """Lays a mark over what is there.

        Args:
            mark: The mark.
            outline: How thick the lines around marks are.
        """
        if isinstance(mark, Rect):
            self._rectangle(mark, outline)
        elif isinstance(mark, Text):
            self._letters(mark)
        elif isinstance(mark, Line):
            self._line(mark)
        elif isinstance(mark, Dot):
            self._dot(mark, outline)
        elif isinstance(mark, Sector):
            self._sector(mark, outline)
        else:
            self._picture(mark)

    def _window(self, edges: Edges) -> Window | None:
        """The pixels of the picture that an area touches; None where it touches none."""
        left, top, right, bottom = edges
        first, last = max(floor(left), 0), min(ceil(right), self._width)
        highest, lowest = max(floor(top), 0), min(ceil(bottom), self._height)
        return Window(first, highest, last, lowest) if first < last and highest < lowest else None

    def _lay(self, window: Window, color: str, covered: Coverage) -> None:
        """Mixes a colour into pixels, by how much of each is covered."""
        planes = self.planes[:, *window.place]
        mixed = planes.astype(np.float32)
        mixed += (_ink(color) - mixed) * covered
        planes[...] = np.rint(mixed, out=mixed)

    def _lay_shape(self, outlines: Sequence[Outline], color: str, opacity: float = 1.0, hatch: str = "") -> None:
        """Lays a shape of straight edges; of one with a pattern, the strokes alone."""
        across, down = zip(*(corner for outline in outlines for corner in outline), strict=True)
        window = self._window((min(across), min(down), max(across), max(down)))
        for band in window.bands() if window is not None else ():
            covered = area(band, outlines) * np.float32(opacity)
            self._lay(band, color, covered * pattern_coverage(hatch, band, self._scale) if hatch else covered)

    def _rectangle(self, mark: Rect, outline: float) -> None:
        """Fills a rectangle between whole pixels, so that equal ones look equal; one that is seen is a pixel wide."""
        scale = self._scale
        left, top = round(mark.x * scale), round(mark.y * scale)
        right = max(round((mark.x + mark.width) * scale), left + (mark.width * scale >= _SEEN))
        bottom = max(round((mark.y + mark.height) * scale), top + (mark.height * scale >= _SEEN))
        edges = (left, top, right, bottom)
        window = self._window(edges)
        if window is not None:
            if mark.opacity < 1:
                for band in window.bands():
                    self._lay(band, mark.fill, np.full((1, 1), mark.opacity, dtype=np.float32))
            else:
                self.planes[:, *window.place] = _ink(mark.fill)
            if mark.shown_hatch:
                for band in window.bands():
                    self._lay(band, mark.pattern, pattern_coverage(mark.hatch, band, scale))
        if mark.outline:
            self._frame(edges, outline, mark.outline)

    def _frame(self, edges: Edges, thickness: float, color: str) -> None:
        """Draws a line along the edges of a rectangle."""
        left, top, right, bottom = edges
        half = thickness / 2
        around = (left - half, top - half, right + half, bottom + half)
        inside = (left + half, top + half, right - half, bottom - half)
        x1, x2, y1, y2 = floor(around[0]), ceil(inside[0]), floor(around[1]), ceil(inside[1])
        x3, x4, y3, y4 = max(floor(inside[2]), x2), ceil(around[2]), max(floor(inside[3]), y2), ceil(around[3])
        sides = ((x1, y1, x4, y2), (x1, y3, x4, y4), (x1, y2, x2, y3), (x3, y2, x4, y3))
        for part in sides if (x4 - x1) * (y4 - y1) > _WHOLE else ((x1, y1, x4, y4),):
            window = self._window(part)
            if window is not None:
                self._lay(window, color, box(window, around) - box(window, inside))

    def _line(self, mark: Line) -> None:
        x1, y1, x2, y2, thick = (at * self._scale for at in (mark.x1, mark.y1, mark.x2, mark.y2, mark.thickness))
        level, upright = abs(y2 - y1) < _STRAIGHT, abs(x2 - x1) < _STRAIGHT
        if not level and not upright:
            self._lay_shape([stroke((x1, y1), (x2, y2), thick)], mark.stroke)
            return
        middle = _crisp(y1 if level else x1, thick)
        low, high = middle - thick / 2, middle + thick / 2
        across: Edges = (round(min(x1, x2)), low, round(max(x1, x2)), high)
        down: Edges = (low, round(min(y1, y2)), high, round(max(y1, y2)))
        edges = across if level else down
        window = self._window(edges)
        if window is not None:
            self._lay(window, mark.stroke, box(window, edges))

    def _dot(self, mark: Dot, outline: float) -> None:
        x, y = (round(at * self._scale * _PLACES) / _PLACES for at in (mark.x, mark.y))
        radius = mark.radius * self._scale
        self._lay_disc((x, y), 0, radius, mark.fill, mark.opacity)
        if mark.outline:
            self._lay_disc((x, y), max(radius - outline / 2, 0), radius + outline / 2, mark.outline, 1.0)

    def _lay_disc(self, centre: tuple[float, float], inner: float, outer: float, color: str, opacity: float) -> None:
        """Lays a disc, or a ring."""
        x, y = (floor(at) for at in centre)
        shape, covered = _disc(centre[0] - x, centre[1] - y, inner, outer)
        window = self._window((shape.left + x, shape.top + y, shape.right + x, shape.bottom + y))
        if window is not None:
            left, top = shape.left + x, shape.top + y
            seen = covered[window.top - top : window.bottom - top, window.left - left : window.right - left]
            self._lay(window, color, seen * np.float32(opacity))

    def _sector(self, mark: Sector, outline: float) -> None:
        x, y, radius, inner = (at * self._scale for at in (mark.x, mark.y, mark.radius, mark.inner))
        outer_arc = arc_points(x, y, radius, mark.start, mark.end)
        inner_arc = arc_points(x, y, inner, mark.end, mark.start) if inner else [(x, y)]
        shape = [[*outer_arc, *inner_arc]]
        self._lay_shape(shape, mark.fill)
        if mark.shown_hatch:
            self._lay_shape(shape, mark.pattern, hatch=mark.hatch)
        if mark.outline:
            half = outline / 2
            for at in (radius, inner) if inner else (radius,):
                wider = arc_points(x, y, at + half, mark.start, mark.end)
                self._lay_shape([[*wider, *arc_points(x, y, at - half, mark.end, mark.start)]], mark.outline)
            for side in (mark.start, mark.end) if mark.end - mark.start < 360 else ():
                near, far = (arc_points(x, y, at, side, side)[0] for at in (inner - half, radius + half))
                self._lay_shape([stroke(near, far, outline)], mark.outline)

    def _letters(self, mark: Text) -> None:
        """Fills the outlines of the letters, the very ones they were measured with."""
        import uharfbuzz  # noqa: PLC0415 - loaded by the measuring already

        pen = uharfbuzz.RasterDraw()
        size = mark.size * self._scale
        x, y = mark.x * self._scale, -mark.y * self._scale  # upwards, as letters have it
        start = -mark.before / mark.size
        for run in runs(mark.content, mark.weight):
            face = font(run.face)
            unit = size / face.face.upem
            for glyph, right, up in run.glyphs:
                along, above = (start + right) * size, up * size
                if mark.turned:
                    pen.transform = (0, unit, -unit, 0, x - above, y + along)
                else:
                    pen.transform = (unit, 0, 0, unit, x + along, y + above)
                pen.draw_glyph(face, glyph)
            start += run.width
        drawn = pen.render()
        wide, tall, below = drawn.extents.width, drawn.extents.height, drawn.extents.y_origin
        left, top = drawn.extents.x_origin, -below - tall
        window = self._window((left, top, left + wide, top + tall))
        if window is not None:
            upwards = np.frombuffer(drawn.buffer, dtype=np.uint8).reshape(tall, drawn.extents.stride)
            seen = upwards[::-1][window.top - top : window.bottom - top, window.left - left : window.right - left]
            self._lay(window, mark.fill, seen.astype(np.float32) / np.float32(_FULL))

    def _picture(self, mark: Image) -> None:
        """Lays a picture into its place."""
        import io  # noqa: PLC0415 - few charts carry a logo

        from PIL import Image as Pillow  # noqa: PLC0415

        left, top = round(mark.x * self._scale), round(mark.y * self._scale)
        size = (max(round(mark.width * self._scale), 1), max(round(mark.height * self._scale), 1))
        window = self._window((left, top, left + size[0], top + size[1]))
        if window is not None:
            fitted = Pillow.open(io.BytesIO(mark.data)).convert("RGBA").resize(size, Pillow.Resampling.LANCZOS)
            part = fitted.crop((window.left - left, window.top - top, window.right - left, window.bottom - top))
            *ink, covered = np.moveaxis(np.array(part, dtype=np.float32), 2, 0)
            planes = self.planes[:, *window.place]
            planes[...] = np.rint(planes + (np.array(ink) - planes) * (covered / _FULL))


def _crisp(at: float, thickness: float) -> float:
    """Where the middle of a line along the pixels stands: in that of a pixel if it is an odd number of them thick."""
    return floor(at) + 0.5 if round(thickness) % 2 or thickness < 1 else float(round(at))


@lru_cache(maxsize=1024)  # a picture has thousands of one size, in a few places between pixels
def _disc(x: float, y: float, inner: float, outer: float) -> tuple[Window, Coverage]:
    """A disc, or a ring: the pixels around it, and how much of each it covers."""
    window = Window(floor(x - outer), floor(y - outer), ceil(x + outer), ceil(y + outer))
    circles = [arc_points(x, y, outer, 0, 360)[:-1]]
    return window, area(window, [*circles, arc_points(x, y, inner, 360, 0)[:-1]] if inner else circles)


@lru_cache(maxsize=1024)
def _ink(color: str) -> npt.NDArray[np.float32]:
    """Red, green and blue, shape (3, 1, 1)."""
    return np.array([[[round(_FULL * part)]] for part in channels(color)], dtype=np.float32)
