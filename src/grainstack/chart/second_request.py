"""A second measure, drawn as dots on an axis of its own: its title, unit, range, numbers and colour."""

from grainstack.chart.chart_requests import AxisRequest, NumbersRequest
from grainstack.chart.colors_request import color_named
from grainstack.errors import RequestError
from grainstack.option_fields import Medium, Request, word
from grainstack.option_names import option

_GROUP = "Second measure"
_NEEDED = ("second_measure",)
_RANGES = ("from-zero", "fit")
SECOND_STATS = ("count", "sum", "mean", "median", "min", "max", "sd")


class SecondRequest(Request, frozen=True):
    """A second measure as line and dots on an axis of its own.

    Raises:
        RequestError: A range, number pattern or colour that cannot be read.
    """

    second_measure: str | None = word(
        None, "A second number, drawn as line and dots on its own axis.", group=_GROUP, metavar="COLUMN"
    )
    second_stat: str = word(
        "mean", "What is shown of it.", group=_GROUP, metavar="STAT", choices=SECOND_STATS, needs=_NEEDED
    )
    second_range: str = word(
        "from-zero",
        "From where to where its axis runs: from-zero, fit, or LOW,HIGH.",
        group=_GROUP,
        metavar="HOW",
        needs=_NEEDED,
        medium=Medium.PICTURE,
    )
    second_title: str | None = word(
        None, "The title of its axis.", group=_GROUP, metavar="TEXT", needs=_NEEDED, medium=Medium.PICTURE
    )
    second_unit: str | None = word(
        None, "Its unit, behind the title.", group=_GROUP, metavar="TEXT", needs=_NEEDED, medium=Medium.PICTURE
    )
    second_format: str | None = word(
        None, "Its number pattern, as --format.", group=_GROUP, metavar="PATTERN", needs=_NEEDED, medium=Medium.PICTURE
    )
    second_color: str | None = word(
        None, "Its colour.", group=_GROUP, metavar="COLOUR", needs=_NEEDED, medium=Medium.PICTURE
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        _ = self.axis, self.numbers
        if self.second_color is not None and not self.color:
            raise RequestError(
                f"{option('second_color')}: `{self.second_color}` is no colour.", "Write it like #1a726a, or teal."
            )

    @property
    def axis(self) -> AxisRequest:
        """The range of its axis, where numbers say it."""
        if self.second_range in _RANGES:
            return AxisRequest()
        try:
            return AxisRequest(value_range=self.second_range)
        except RequestError:
            raise RequestError(
                f"{option('second_range')} {self.second_range} is not known.", "Write from-zero, fit, or 0,100."
            ) from None

    @property
    def numbers(self) -> NumbersRequest:
        """How its figures are written."""
        return NumbersRequest(format=self.second_format)

    @property
    def color(self) -> str:
        """Its colour as `#rrggbb`; empty where none was asked for."""
        return color_named(self.second_color) if self.second_color else ""
