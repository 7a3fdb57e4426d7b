"""The style of one chart: that of a file which was read, or one that comes along."""

from grainstack.chart.look.style import Style
from grainstack.chart.look.style_file import style_named
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Face, Typeface
from grainstack.requests import Requests
from grainstack.words import Request


class HouseStyle(Request, frozen=True):
    """A style read from a file.

    Attributes:
        style: The style; None where none was read.
        logo: The bytes of its logo, a PNG; empty for none.
        ratio: The width of the logo by its height.
    """

    style: Style | None = None
    logo: bytes = b""
    ratio: float = 1.0


def typefaces_of(style: Style) -> tuple[Typeface, ...]:
    """The typefaces a style names, the first one first; none where it names none.

    Args:
        style: The style, with the paths of its files.
    """
    named = [(style.font, style.font_semibold or style.font)] if style.font else []
    named += [(path, path) for path in style.fallback]
    return tuple(Typeface(Face(_stem(regular), regular), Face(_stem(heavy), heavy)) for regular, heavy in named)


def _stem(path: str) -> str:
    return path.replace("\\", "/").rpartition("/")[2].rpartition(".")[0]


def look_of(request: Requests) -> Style:
    """The style a request is drawn in, before it is fitted to the size of the picture."""
    return request[HouseStyle].style or style_named(request[PictureRequest].style_named)
