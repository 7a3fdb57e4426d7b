"""How a chart is to look: what is typed for bars, words, numbers and the picture."""

import re
from dataclasses import dataclass, field, fields

from grainstack.chart.wishes import AxisRequest, ColorsRequest, NumbersRequest, SecondRequest
from grainstack.errors import RequestError
from grainstack.summary.wishes import SmallBaseRequest
from grainstack.words import names_in, switch, word

_BARS = "Layout and labels"
_WORDS = "Words on the chart"
_PICTURE = "Picture"
LAYOUTS = ("stacked", "grouped", "percent", "diverging")
DIRECTIONS = ("auto", "horizontal", "vertical")
LABELS = ("value", "share", "count", "base")
PLACES = ("auto", "inside", "end", "outside")
LEGENDS = ("auto", "top", "right", "bottom", "inside", "direct", "none")
STYLES = ("report", "slide", "print", "mono")
POINTS_PER = {"pt": 1.0, "in": 72.0, "cm": 72 / 2.54, "mm": 72 / 25.4}


@dataclass(frozen=True, slots=True)
class PlacingRequest:
    """Where plots and what is in them go.

    Raises:
        RequestError: A number of columns that makes no sense.
    """

    direction: str = word(
        "auto", "Which way values grow; auto keeps labels whole.", group=_BARS, metavar="WAY", choices=DIRECTIONS
    )
    panel_columns: int | None = word(None, "How many panels stand side by side.", group=_BARS, metavar="N")

    def __post_init__(self) -> None:
        if self.panel_columns is not None and self.panel_columns < 1:
            raise RequestError(f"--panel-columns {self.panel_columns} is below 1.", "Choose 1 or more.")


@dataclass(frozen=True, slots=True)
class DotRequest(PlacingRequest):
    """What is written at a dot or bar.

    Raises:
        RequestError: An unknown kind of label.
    """

    swap: bool = switch("Exchange --by and --split: the same figures, the other question.", group=_BARS)
    label: str = word(
        "value", f"What is written there: {', '.join(LABELS)}, a list of them, or none.", group=_BARS, metavar="WHAT"
    )

    def __post_init__(self) -> None:
        PlacingRequest.__post_init__(self)
        unknown = [kind for kind in self.labels if kind not in LABELS]
        if unknown:
            raise RequestError(f"--label {unknown[0]} is not known.", f"Choose from {', '.join(LABELS)}, or none.")

    @property
    def labels(self) -> tuple[str, ...]:
        """What is written at a bar, in order."""
        return () if self.label == "none" else names_in(self.label)


@dataclass(frozen=True, slots=True)
class BarRequest(DotRequest):
    """How bars are laid out.

    Raises:
        RequestError: A width out of range, or sides without a diverging layout.
    """

    layout: str | None = word(
        None, "How the series of a category stand together.", group=_BARS, metavar="LAYOUT", choices=LAYOUTS
    )
    opposite: str | None = word(
        None, "Series of a diverging chart that point to the other side.", group=_BARS, metavar="LEVELS"
    )
    neutral: str | None = word(
        None,
        "Series that straddle the middle; `apart` sets them apart at the end, `none` has no middle.",
        group=_BARS,
        metavar="LEVELS|apart|none",
    )
    label_place: str = word("auto", "Where figures are written.", group=_BARS, metavar="PLACE", choices=PLACES)
    show_records: bool = switch("Draw the records as dots over the bar of their mean.", group=_BARS)
    bar_width: float | None = word(None, "Width of bars as a share of their room, 0.1 to 1.", group=_BARS, metavar="N")
    gap: float | None = word(
        None, "Gap between neighbours as a share of a bar's width, 0 to 1.", group=_BARS, metavar="N"
    )

    def __post_init__(self) -> None:
        DotRequest.__post_init__(self)
        if self.layout != "diverging" and (self.opposite or self.neutral):
            raise RequestError("--opposite and --neutral belong to diverging bars.", "Add --layout diverging.")
        if self.bar_width is not None and not 0.1 <= self.bar_width <= 1:
            raise RequestError(f"--bar-width {self.bar_width:g} is out of range.", "Choose 0.1 to 1.")
        if self.gap is not None and not 0 <= self.gap <= 1:
            raise RequestError(f"--gap {self.gap:g} is out of range.", "Choose 0 to 1.")


def as_bars(placing: PlacingRequest) -> BarRequest:
    """The same wishes in the form every chart of values by category reads them."""
    return BarRequest(**{item.name: getattr(placing, item.name) for item in fields(placing)})


@dataclass(frozen=True, slots=True)
class WordsRequest:
    """The words on a chart; what is not given is written from the request, `none` leaves it out."""

    title: str | None = word(None, "Title.", group=_WORDS, metavar="TEXT")
    subtitle: str | None = word(None, "Line under the title.", group=_WORDS, metavar="TEXT")
    value_title: str | None = word(None, "Title of the value axis.", group=_WORDS, metavar="TEXT")
    category_title: str | None = word(None, "Title of the category axis.", group=_WORDS, metavar="TEXT")
    footnote: str | None = word(None, "Note under the chart.", group=_WORDS, metavar="TEXT")
    source: str | None = word(None, "Where the records come from.", group=_WORDS, metavar="TEXT")
    legend: str = word("auto", "Where the legend stands.", group=_WORDS, metavar="PLACE", choices=LEGENDS)


@dataclass(frozen=True, slots=True)
class PictureRequest:
    """The size of a picture, and its style.

    Raises:
        RequestError: The size cannot be read, or is too small or too large to draw.
    """

    style: str = word("report", "Type sizes, colours and spacing.", group=_PICTURE, metavar="NAME", choices=STYLES)
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

    bars: BarRequest = field(default_factory=BarRequest)
    words: WordsRequest = field(default_factory=WordsRequest)
    picture: PictureRequest = field(default_factory=PictureRequest)
    axis: AxisRequest = field(default_factory=AxisRequest)
    numbers: NumbersRequest = field(default_factory=NumbersRequest)
    colors: ColorsRequest = field(default_factory=ColorsRequest)
    second: SecondRequest = field(default_factory=SecondRequest)
    small: SmallBaseRequest = field(default_factory=SmallBaseRequest)
