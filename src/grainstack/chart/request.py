"""How a chart is to look."""

import re
from dataclasses import dataclass, replace

from grainstack.errors import RequestError
from grainstack.summary.request import SummaryRequest
from grainstack.words import word

_BARS = "Bars"
_WORDS = "Words on the chart"
_PICTURE = "Picture"
LAYOUTS = ("stacked", "grouped", "percent")
DIRECTIONS = ("auto", "horizontal", "vertical")
LABELS = ("value", "none")
POINTS_PER = {"pt": 1.0, "in": 72.0, "cm": 72 / 2.54, "mm": 72 / 25.4}


@dataclass(frozen=True, slots=True)
class BarRequest:
    """How bars are laid out and labelled."""

    layout: str | None = word(
        None, "How the series of a category stand together.", group=_BARS, metavar="LAYOUT", choices=LAYOUTS
    )
    direction: str = word(
        "auto", "Which way bars grow; auto keeps labels whole.", group=_BARS, metavar="WAY", choices=DIRECTIONS
    )
    label: str = word("value", "What is written at a bar.", group=_BARS, metavar="WHAT", choices=LABELS)

    def settled(self, summary: SummaryRequest) -> SummaryRequest:
        """The summary this layout shows: percent bars show each category's shares, whatever was counted."""
        if self.layout != "percent" or summary.stat not in ((), ("count",), ("share",)) or summary.measure:
            return summary
        return replace(summary, stat=("share",), base="category")


@dataclass(frozen=True, slots=True)
class WordsRequest:
    """The words on a chart; what is not given is written from the request, `none` leaves it out."""

    title: str | None = word(None, "Title.", group=_WORDS, metavar="TEXT")
    subtitle: str | None = word(None, "Line under the title.", group=_WORDS, metavar="TEXT")
    value_title: str | None = word(None, "Title of the value axis.", group=_WORDS, metavar="TEXT")
    category_title: str | None = word(None, "Title of the category axis.", group=_WORDS, metavar="TEXT")
    footnote: str | None = word(None, "Note under the chart.", group=_WORDS, metavar="TEXT")
    source: str | None = word(None, "Where the records come from.", group=_WORDS, metavar="TEXT")


@dataclass(frozen=True, slots=True)
class PictureRequest:
    """The size of a picture.

    Raises:
        RequestError: The size cannot be read, or is too small or too large to draw.
    """

    size: str = word("1280x800px", "Width x height in mm, cm, in, pt or px.", group=_PICTURE, metavar="WxH")
    dpi: float = word(144.0, "Pixels per inch of a PNG.", group=_PICTURE, metavar="N")

    def __post_init__(self) -> None:
        if not 20 <= self.dpi <= 1200:
            raise RequestError(
                f"--dpi {self.dpi:g} is out of range.", "Choose 20 to 1200; 144 suits a screen, 300 print."
            )
        if not all(100 <= side <= 5000 for side in self.points):
            raise RequestError(f"--size {self.size} is too small or too large.", "Each side needs 36 mm to 1760 mm.")

    @property
    def points(self) -> tuple[float, float]:
        """Width and height in points."""
        match = re.fullmatch(r"\s*([\d.]+)\s*(?:x|×)\s*([\d.]+)\s*(mm|cm|in|pt|px)\s*", self.size)
        if not match:
            raise RequestError(f"--size {self.size} is no size.", "Write it like 160x100mm or 1280x800px.")
        unit = 72 / self.dpi if match[3] == "px" else POINTS_PER[match[3]]
        try:
            return float(match[1]) * unit, float(match[2]) * unit
        except ValueError:
            raise RequestError(f"--size {self.size} is no size.", "Write it like 160x100mm.") from None


@dataclass(frozen=True, slots=True)
class ChartRequest:
    """Everything a chart needs to know besides its figures."""

    bars: BarRequest
    words: WordsRequest
    picture: PictureRequest
