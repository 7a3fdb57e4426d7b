"""How large a picture is, and in which style."""

import re
from math import ceil

from msgspec.structs import replace

from grainstack.errors import RequestError, nearest
from grainstack.option_fields import Medium, Request, word
from grainstack.option_names import option

_PICTURE = "Picture"
USUAL_SIZE = "1280x800px"
STYLES = ("report", "slide", "print", "mono")
POINTS_PER = {"pt": 1.0, "in": 72.0, "cm": 72 / 2.54, "mm": 72 / 25.4}


class PictureRequest(Request, frozen=True):
    """The size of a picture, and its style.

    Attributes:
        height: The height its content needs, in points, where no size was asked for; None for that of `size`.

    Raises:
        RequestError: The size cannot be read, or is too small or too large to draw.
    """

    style: str | None = word(
        None,
        f"Type sizes, colours and spacing: {', '.join(STYLES)}, or a style file.",
        group=_PICTURE,
        metavar="NAME|FILE.toml",
    )
    size: str | None = word(
        None,
        f"Width x height in mm, cm, in, pt or px; {USUAL_SIZE} or as tall as the content.",
        group=_PICTURE,
        metavar="WxH",
        medium=Medium.PICTURE,
    )
    dpi: float = word(
        144.0,
        "Pixels per inch of a PNG.",
        group=_PICTURE,
        metavar="N",
        within=(20, 1200),
        medium=Medium.PICTURE,
    )

    height: float | None = None

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.in_file and not self.style_named.lower().endswith(".toml"):
            raise RequestError(
                f"{option('style')} {self.style} is not known: it is no .toml file and not one of {', '.join(STYLES)}.",
                nearest(self.style_named, STYLES),
            )
        if not all(100 <= side <= 5000 for side in self.dimensions):
            name = f"{option('size')} {self.size}" if self.size else f"The usual size of {USUAL_SIZE}"
            sides = " x ".join(f"{side / POINTS_PER['mm']:.4g}" for side in self.dimensions)
            in_pixels = self._unit == "px"
            measured = f" at {self.dpi:g} pixels per inch ({sides} mm)" if in_pixels else ""
            advice = " A size in mm does not depend on the pixels per inch." if in_pixels else ""
            raise RequestError(
                f"{name}{measured} is too small or too large to draw.", f"Each side needs 36 mm to 1760 mm.{advice}"
            )

    @property
    def style_named(self) -> str:
        """The style asked for, or the usual one."""
        return self.style or STYLES[0]

    @property
    def in_file(self) -> bool:
        """Whether the style is named by its file."""
        return self.style_named not in STYLES

    @property
    def size_named(self) -> str:
        """The size asked for, or the usual one."""
        return self.size or USUAL_SIZE

    @property
    def points(self) -> tuple[float, float]:
        """Width and height in points."""
        wide, tall = self.dimensions
        return wide, self.height or tall

    @property
    def dimensions(self) -> tuple[float, float]:
        """Width and height asked for, in points; type and strokes follow these."""
        match = re.fullmatch(r"\s*([\d.]+)\s*(?:x|×)\s*([\d.]+)\s*(mm|cm|in|pt|px)\s*", self.size_named)
        if not match:
            raise RequestError(f"{option('size')} {self.size} is no size.", "Write it like 160x100mm or 1280x800px.")
        try:
            return float(match[1]) * self._points_per_unit, float(match[2]) * self._points_per_unit
        except ValueError:
            raise RequestError(f"{option('size')} {self.size} is no size.", "Write it like 160x100mm.") from None

    def larger(self, factor: float) -> "PictureRequest":
        """A picture of the same shape that is so many times as wide, rounded up to whole units."""
        places = 1 if self._unit in ("cm", "in") else 0
        sides = (ceil(side * factor / self._points_per_unit * 10**places) / 10**places for side in self.points)
        return replace(self, size="x".join(f"{side:g}" for side in sides) + self._unit)

    @property
    def _unit(self) -> str:
        """What its size is given in."""
        return self.size_named.strip()[-2:]

    @property
    def _points_per_unit(self) -> float:
        return 72 / self.dpi if self._unit == "px" else POINTS_PER[self._unit]
