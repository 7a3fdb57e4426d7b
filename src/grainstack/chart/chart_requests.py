"""How any chart is to look: its words, its picture, its numbers, its colours, its value axis."""

import re
from math import inf, isfinite

from msgspec.structs import force_setattr

from grainstack.errors import RequestError
from grainstack.option_fields import Medium, Request, names_in, switch, word
from grainstack.option_names import option
from grainstack.other_words import value_meant
from grainstack.visible import visible, visible_lines

_PLOT = "Layout and labels"
_WORDS = "Words on the chart"
MEAN = "mean"
_AXIS = "Value axis"
_NUMBERS = "Numbers"
_DECIMALS = 15  # of a number that are not made up
_LONGEST_PATTERN = 60  # characters: digits, a few decimals, and a word or two
DIRECTIONS = ("auto", "horizontal", "vertical")
LABELS = ("value", "share", "count", "base")
MARK_LABELS = ("name", *LABELS)  # names stand at marks only where axes would name them otherwise
LEGENDS = ("auto", "top", "right", "bottom", "inside", "direct", "none")
SHOWN_IN = {"thousands": 1e3, "millions": 1e6, "billions": 1e9}


class PanelGridRequest(Request, frozen=True):
    """How panels stand on the page."""

    panel_columns: int | None = word(
        None,
        "How many panels stand side by side.",
        group=_PLOT,
        metavar="N",
        within=(1, 100),
        needs=("panel",),
        medium=Medium.PICTURE,
    )


class PlotRequest(PanelGridRequest, frozen=True):
    """Which way a plot lies, and how panels stand together.

    Raises:
        RequestError: Names turned under bars that lie.
    """

    direction: str = word(
        "auto",
        "Which way values grow; auto keeps labels whole.",
        group=_PLOT,
        metavar="WAY",
        choices=DIRECTIONS,
        medium=Medium.PICTURE,
    )
    turn_names: bool = switch(
        "Upright bars with the names of categories turned by a quarter.", group=_PLOT, medium=Medium.PICTURE
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.turn_names and self.direction == "horizontal":
            raise RequestError(
                f"{option('turn_names')} is for upright bars.", f"Leave it or {option('direction')} out."
            )


class RecordDotsRequest(Request, frozen=True):
    """How records are drawn as dots."""

    dot_size: float | None = word(
        None,
        "Diameter of the dots of records, in points.",
        group=_PLOT,
        metavar="PT",
        within=(1.2, 20.0),
        needs=("show_records",),
        medium=Medium.PICTURE,
    )
    spread: float | None = word(
        None,
        "How far dots of records spread, as a share of the room of their category.",
        group=_PLOT,
        metavar="N",
        within=(0.05, 1.0),
        needs=("show_records",),
        medium=Medium.PICTURE,
    )


class WordsRequest(Request, frozen=True):
    """The words around a chart; what is not given is written from the request, `none` leaves it out.

    Raises:
        RequestError: A footnote that is to be none: the written note has an option of its own.
    """

    title: str | None = word(None, "Title.", group=_WORDS, metavar="TEXT")
    subtitle: str | None = word(None, "Line under the title.", group=_WORDS, metavar="TEXT")
    footnote: str | None = word(None, "A note before the written one.", group=_WORDS, metavar="TEXT")
    no_note: bool = switch("Leave out the written note: the base, what was left out, limits, marks.", group=_WORDS)
    source: str | None = word(None, "Where the records come from.", group=_WORDS, metavar="TEXT")

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        for name in ("title", "subtitle", "footnote", "source"):
            if (text := getattr(self, name)) is not None:
                force_setattr(self, name, visible_lines(text))
        if self.footnote == "none":
            raise RequestError(
                f"{option('footnote')} is a note of your own beside the written one.",
                f"Leave the written one out with {option('no_note')}.",
            )


class AxisTitlesRequest(Request, frozen=True):
    """The titles of the axes; what is not given is written from the request, `none` leaves it out."""

    value_title: str | None = word(None, "Title of the value axis.", group=_WORDS, metavar="TEXT")
    category_title: str | None = word(
        None, "Title of the category axis.", group=_WORDS, metavar="TEXT", medium=Medium.PICTURE
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        for name in ("value_title", "category_title"):
            if (text := getattr(self, name)) is not None:
                force_setattr(self, name, visible(text))


class LegendRequest(Request, frozen=True):
    """Where the legend stands."""

    legend: str = word(
        "auto",
        "Where the legend stands.",
        group=_WORDS,
        metavar="PLACE",
        choices=LEGENDS,
        medium=Medium.PICTURE,
    )


class AxisRequest(Request, frozen=True):
    """The value axis.

    Raises:
        RequestError: A range, tick or reference that cannot be read.
    """

    value_range: str | None = word(None, "From where to where the value axis runs.", group=_AXIS, metavar="LOW,HIGH")
    ticks: str | None = word(
        None,
        "How many ticks about, or their values.",
        group=_AXIS,
        metavar="N|'0, 20, 40'",
        medium=Medium.PICTURE,
    )
    reference: tuple[str, ...] = word(
        (),
        "A line across the plot with its label: at a value, the figure of a level, or the mean; repeatable.",
        group=_AXIS,
        metavar="VALUE|LEVEL|mean=LABEL",
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.limits is not None and not self.limits[0] < self.limits[1]:
            raise RequestError(
                f"{option('value_range')} {self.value_range}: the first must be below the second.",
                "Write it like 0,100.",
            )
        _ = self.tick_values, self.references

    @property
    def limits(self) -> tuple[float, float] | None:
        """The ends asked for."""
        if self.value_range is None:
            return None
        numbers = _numbers(self.value_range, "value_range", "Write it like 0,100.")
        if len(numbers) != 2:
            raise RequestError(f"{option('value_range')} {self.value_range} needs two numbers.", "Write it like 0,100.")
        return numbers[0], numbers[1]

    @property
    def tick_values(self) -> tuple[float, ...]:
        """The ticks asked for one by one; a single number is how many there should be about."""
        return () if self.ticks is None else _numbers(self.ticks, "ticks", "Write 5, or 0,20,40.")

    @property
    def references(self) -> tuple[tuple[float, str], ...]:
        """Reference values with their labels, which may be empty."""
        parts = [text.partition("=") for text in self.reference if not self.is_named(text)]
        remedy = 'Write it like "12=Target".'
        return tuple((_numbers(value, "reference", remedy)[0], label.strip()) for value, _, label in parts)

    @property
    def named_references(self) -> tuple[tuple[str, str], ...]:
        """The levels, or `mean`, at whose figures lines stand, with their labels."""
        parts = [text.partition("=") for text in self.reference if self.is_named(text)]
        return tuple((name.strip(), label.strip()) for name, _, label in parts)

    @staticmethod
    def is_named(text: str) -> bool:
        """Whether a reference names a figure, and gives no number."""
        name = text.partition("=")[0].strip()
        return (
            any(map(str.isalpha, name)) and name.casefold() not in ("nan", "inf", "infinity") and not _is_number(name)
        )

    def check_no_names(self) -> None:
        """Refuses named figures where there are none of their own.

        Raises:
            RequestError: Names the first.
        """
        if self.named_references:
            name = self.named_references[0][0]
            raise RequestError(f"{option('reference')} {name} cannot be read.", 'Write it like "12=Target".')


class PanelAxesRequest(Request, frozen=True):
    """Whether panels share a value axis."""

    panel_axes: str = word(
        "shared",
        "Whether panels share a value axis, so that their marks compare, or each has its own.",
        group=_PLOT,
        metavar="HOW",
        choices=("shared", "free"),
        needs=("panel",),
        medium=Medium.PICTURE,
    )


class NumbersRequest(Request, frozen=True):
    """How figures are written.

    Raises:
        RequestError: An unknown locale or a pattern that cannot be read.
    """

    format: str | None = word(
        None, 'Number pattern as in Unicode CLDR: "#,##0.0", "€#,##0", "0 %".', group=_NUMBERS, metavar="PATTERN"
    )
    locale: str | None = word(
        None,
        "Signs of numbers as in a language or region: de, fr_CH …; those of the language if not given.",
        group=_NUMBERS,
        metavar="NAME",
    )
    show_in: str | None = word(
        None,
        "Write figures in thousands, millions or billions.",
        group=_NUMBERS,
        metavar="UNIT",
        choices=tuple(SHOWN_IN),
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.locale is None and self.format is None:
            return
        from babel import Locale, UnknownLocaleError  # noqa: PLC0415 - few charts need another language
        from babel.numbers import parse_pattern  # noqa: PLC0415

        try:
            Locale.parse(self.locale or "en")
        except (UnknownLocaleError, ValueError):
            raise RequestError(
                f"{option('locale')} {self.locale} is not known.", "Write it like de or fr_CH."
            ) from None
        try:
            parse_pattern(self.format or "#")
        except (ValueError, AttributeError):
            raise RequestError(
                f"{option('format')} {self.format} is no number pattern.", 'Write it like "#,##0.0".'
            ) from None
        if self.format and "@" in re.sub("'[^']*'", "", self.format):
            raise RequestError(
                f"{option('format')} {self.format} asks for significant digits.", 'Say how many decimals: "#,##0.0".'
            )
        if self.format and max(*parse_pattern(self.format).frac_prec, len(self.format) - _LONGEST_PATTERN) > _DECIMALS:
            raise RequestError(
                f"{option('format')} {self.format} has more decimals than a number holds.", 'Write it like "#,##0.0".'
            )
        if self.format and not set("0#") & set(self.format):
            raise RequestError(f"{option('format')} {self.format} has no place for digits.", 'Write it like "#,##0.0".')

    @property
    def divisor(self) -> float:
        """What figures are divided by before they are written."""
        return SHOWN_IN.get(self.show_in or "", 1.0)


def labels_in(label: str, kinds: tuple[str, ...] = LABELS) -> tuple[str, ...]:
    """What is written at a mark, in order; nothing for `none`.

    Args:
        label: The kinds, parted by commas.
        kinds: Those a chart has.

    Raises:
        RequestError: An unknown kind of label.
    """
    labels = names_in(label)
    unknown = [kind for kind in labels if kind not in (*kinds, "none")]
    if unknown:
        meant = value_meant("label", unknown[0], (*kinds, "none"))
        raise RequestError(
            f"{option('label')} {unknown[0]} is not known here.",
            f"`{unknown[0]}` is that here: {option('label', meant)}."
            if meant
            else f"Choose from {', '.join(kinds)}, or none.",
        )
    return () if labels == ("none",) else tuple(kind for kind in labels if kind != "none")


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _numbers(text: str, field: str, remedy: str) -> tuple[float, ...]:
    try:
        numbers = tuple(float(part) for part in text.split(","))
    except ValueError:
        raise RequestError(f"{option(field)} {text} cannot be read.", remedy) from None
    if not all(isfinite(number) and abs(number) < inf for number in numbers):
        raise RequestError(f"{option(field)} {text} is no finite number.", remedy)
    return numbers
