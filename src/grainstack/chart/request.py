"""How any chart is to look: its words, its picture, its numbers, its colours, its value axis."""

import re
from collections.abc import Mapping
from dataclasses import replace
from math import ceil, inf, isfinite
from typing import Any

from grainstack.errors import RequestError, nearest
from grainstack.quick import dataclass
from grainstack.speech import option
from grainstack.words import Medium, Request, names_in, switch, word

_PLOT = "Layout and labels"
_WORDS = "Words on the chart"
_PICTURE = "Picture"
_AXIS = "Value axis"
_NUMBERS = "Numbers"
_COLORS = "Colours"
DIRECTIONS = ("auto", "horizontal", "vertical")
LABELS = ("value", "share", "count", "base")
MARK_LABELS = ("name", *LABELS)  # names stand at marks only where axes would name them otherwise
LEGENDS = ("auto", "top", "right", "bottom", "inside", "direct", "none")
USUAL_SIZE = "1280x800px"
STYLES = ("report", "slide", "print", "mono")
PALETTES = ("fields", "meadow", "kiln", "furrow", "slate")
RAMPS = ("meadow", "kiln", "furrow")  # those that run from one end to another
SHOWN_IN = {"thousands": 1e3, "millions": 1e6, "billions": 1e9}
POINTS_PER = {"pt": 1.0, "in": 72.0, "cm": 72 / 2.54, "mm": 72 / 25.4}
_COLOR = re.compile(r"#(?:[0-9a-fA-F]{3}){1,2}")


@dataclass(frozen=True, slots=True)
class PlotRequest(Request):
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
    panel_columns: int | None = word(
        None,
        "How many panels stand side by side.",
        group=_PLOT,
        metavar="N",
        within=(1, 100),
        needs=("panel",),
        medium=Medium.PICTURE,
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.turn_names and self.direction == "horizontal":
            raise RequestError(
                f"{option('turn_names')} is for upright bars.", f"Leave it or {option('direction', 'horizontal')} out."
            )


@dataclass(frozen=True, slots=True)
class RecordDotsRequest(Request):
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


@dataclass(frozen=True, slots=True)
class WordsRequest(Request):
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
        if self.footnote == "none":
            raise RequestError(
                f"{option('footnote')} is a note of your own beside the written one.",
                f"Leave the written one out with {option('no_note')}.",
            )


@dataclass(frozen=True, slots=True)
class AxisTitlesRequest(Request):
    """The titles of the axes; what is not given is written from the request, `none` leaves it out."""

    value_title: str | None = word(None, "Title of the value axis.", group=_WORDS, metavar="TEXT")
    category_title: str | None = word(
        None, "Title of the category axis.", group=_WORDS, metavar="TEXT", medium=Medium.PICTURE
    )


@dataclass(frozen=True, slots=True)
class LegendRequest(Request):
    """Where the legend stands."""

    legend: str = word(
        "auto",
        "Where the legend stands.",
        group=_WORDS,
        metavar="PLACE",
        choices=LEGENDS,
        medium=Medium.PICTURE,
    )


@dataclass(frozen=True, slots=True)
class PictureRequest(Request):
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
        if self.style_named not in STYLES and not self.style_named.lower().endswith(".toml"):
            raise RequestError(
                f"{option('style')} {self.style} is not known: it is no .toml file and not one of {', '.join(STYLES)}.",
                nearest(self.style_named, STYLES),
            )
        if not all(100 <= side <= 5000 for side in self.asked):
            raise RequestError(
                f"{option('size')} {self.size} is too small or too large.", "Each side needs 36 mm to 1760 mm."
            )

    @property
    def style_named(self) -> str:
        """The style asked for, or the usual one."""
        return self.style or STYLES[0]

    @property
    def size_named(self) -> str:
        """The size asked for, or the usual one."""
        return self.size or USUAL_SIZE

    @property
    def points(self) -> tuple[float, float]:
        """Width and height in points."""
        wide, tall = self.asked
        return wide, self.height or tall

    @property
    def asked(self) -> tuple[float, float]:
        """Width and height asked for, in points; type and strokes follow these."""
        match = re.fullmatch(r"\s*([\d.]+)\s*(?:x|×)\s*([\d.]+)\s*(mm|cm|in|pt|px)\s*", self.size_named)
        if not match:
            raise RequestError(f"{option('size')} {self.size} is no size.", "Write it like 160x100mm or 1280x800px.")
        unit = 72 / self.dpi if match[3] == "px" else POINTS_PER[match[3]]
        try:
            return float(match[1]) * unit, float(match[2]) * unit
        except ValueError:
            raise RequestError(f"{option('size')} {self.size} is no size.", "Write it like 160x100mm.") from None

    def larger(self, factor: float) -> "PictureRequest":
        """A picture of the same shape that is so many times as wide, rounded up to whole units."""
        unit = re.sub(r"[^a-z]", "", self.size_named.replace("x", " ", 1))
        per_unit = 72 / self.dpi if unit == "px" else POINTS_PER[unit]
        places = 1 if unit in ("cm", "in") else 0
        sides = (ceil(side * factor / per_unit * 10**places) / 10**places for side in self.points)
        return replace(self, size="x".join(f"{side:g}" for side in sides) + unit)


@dataclass(frozen=True, slots=True)
class AxisRequest(Request):
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
        (), "A line across the plot with its label; repeatable.", group=_AXIS, metavar="VALUE=LABEL"
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
        parts = [text.partition("=") for text in self.reference]
        remedy = 'Write it like "12=Target".'
        return tuple((_numbers(value, "reference", remedy)[0], label.strip()) for value, _, label in parts)


@dataclass(frozen=True, slots=True)
class NumbersRequest(Request):
    """How figures are written.

    Raises:
        RequestError: An unknown locale or a pattern that cannot be read.
    """

    format: str | None = word(
        None, 'Number pattern as in Unicode CLDR: "#,##0.0", "€#,##0", "0 %".', group=_NUMBERS, metavar="PATTERN"
    )
    locale: str | None = word(None, "Signs of a language: de, fr_CH …", group=_NUMBERS, metavar="NAME")
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
        if self.format and not set("0#") & set(self.format):
            raise RequestError(f"{option('format')} {self.format} has no place for digits.", 'Write it like "#,##0.0".')

    @property
    def divisor(self) -> float:
        """What figures are divided by before they are written."""
        return SHOWN_IN.get(self.show_in or "", 1.0)


@dataclass(frozen=True, slots=True)
class ColorsRequest(Request):
    """Colours of levels.

    Raises:
        RequestError: A colour that cannot be read, or an opacity out of range.
    """

    palette: str | None = word(None, "Palette.", group=_COLORS, metavar="NAME", choices=PALETTES)
    color: tuple[str, ...] = word(
        (), "Colour of a level, or of all bars, as #RRGGBB or its CSS name.", group=_COLORS, metavar="LEVEL=COLOUR"
    )
    one_color: bool = switch("Every series in shades of one colour.", group=_COLORS)
    highlight: str | None = word(
        None, "Levels that keep their colour; all others turn pale.", group=_COLORS, metavar="LEVELS"
    )
    opacity: float = word(
        1.0,
        "How solid bars are, 0.1 to 1.",
        group=_COLORS,
        metavar="N",
        within=(0.1, 1.0),
        medium=Medium.PICTURE,
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        _ = self.by_level

    @property
    def patterned(self) -> bool:
        """Whether patterns tell levels apart too."""
        return False

    @property
    def outlined(self) -> bool:
        """Whether shapes have an outline."""
        return False

    @property
    def by_level(self) -> dict[str, str]:
        """Colours by the name of their level; under the empty name that of all bars."""
        colors = {}
        for text in self.color:
            level, _, typed = text.rpartition("=")
            color = color_named(typed.strip())
            if not color:
                raise RequestError(
                    f"{option('color')} {text}: `{typed.strip()}` is no colour.",
                    "Write it like App=#1a726a, or by its name in CSS: App=teal.",
                )
            colors[level.strip()] = color
        return colors

    @property
    def highlighted(self) -> tuple[str, ...]:
        """The levels that keep their colour; empty for all."""
        return names_in(self.highlight) if self.highlight else ()


@dataclass(frozen=True, slots=True)
class FillsRequest(ColorsRequest):
    """Colours, patterns and outlines of bars, slices and tiles."""

    hatch: bool = switch("Tell series apart by patterns too.", group=_COLORS, medium=Medium.PICTURE)
    outline: bool = switch("Draw a thin outline around bars.", group=_COLORS, medium=Medium.PICTURE)

    @property
    def patterned(self) -> bool:
        """Whether patterns tell levels apart too."""
        return self.hatch

    @property
    def outlined(self) -> bool:
        """Whether shapes have an outline."""
        return self.outline


@dataclass(frozen=True, slots=True)
class CategoryColorsRequest(Request):
    """Colours of categories where there are no series."""

    color_by_category: bool = switch("Each category in a colour of its own from the palette.", group=_COLORS)

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:
        """Categories that are to be their own series have colours of their own, and no second place on the chart."""
        by = values.get("by") or ()
        if by and values.get("split") == by[-1]:
            return {"split": None, "color_by_category": True}
        return {}


def color_named(text: str) -> str:
    """A colour as `#rrggbb`: from its digits, three or six of them, or its name in CSS; empty where it is none."""
    if _COLOR.fullmatch(text):
        digits = text[1:].lower()
        return "#" + ("".join(2 * digit for digit in digits) if len(digits) == 3 else digits)
    from PIL import ImageColor  # noqa: PLC0415 - few colours are typed by name

    named = ImageColor.colormap.get(text.lower())
    return named.lower() if isinstance(named, str) and _COLOR.fullmatch(named) else ""


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
        raise RequestError(
            f"{option('label')} {unknown[0]} is not known here.", f"Choose from {', '.join(kinds)}, or none."
        )
    return () if labels == ("none",) else tuple(kind for kind in labels if kind != "none")


def _numbers(text: str, field: str, remedy: str) -> tuple[float, ...]:
    try:
        numbers = tuple(float(part) for part in text.split(","))
    except ValueError:
        raise RequestError(f"{option(field)} {text} cannot be read.", remedy) from None
    if not all(isfinite(number) and abs(number) < inf for number in numbers):
        raise RequestError(f"{option(field)} {text} is no finite number.", remedy)
    return numbers
