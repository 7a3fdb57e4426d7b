"""What is wanted of a chart besides its layout: axis, numbers, colours, a second measure."""

import re
from dataclasses import dataclass

from grainstack.errors import RequestError
from grainstack.words import names_in, switch, word

_AXIS = "Value axis"
_NUMBERS = "Numbers"
_COLORS = "Colours"
_SECOND = "Second measure"
PALETTES = ("fields", "meadow", "kiln", "furrow", "slate")
SHOWN_IN = {"thousands": 1e3, "millions": 1e6, "billions": 1e9}
SECOND_STATS = ("count", "sum", "mean", "median", "min", "max", "sd")
_COLOR = re.compile(r"#(?:[0-9a-fA-F]{3}){1,2}")


@dataclass(frozen=True, slots=True)
class AxisRequest:
    """The value axis.

    Raises:
        RequestError: A range, tick or reference that cannot be read.
    """

    value_range: str | None = word(None, "From where to where the value axis runs.", group=_AXIS, metavar="LOW,HIGH")
    ticks: str | None = word(None, "How many ticks about, or their values.", group=_AXIS, metavar="N|'0, 20, 40'")
    reference: tuple[str, ...] = word(
        (), "A line across the plot with its label; repeatable.", group=_AXIS, metavar="VALUE=LABEL"
    )

    def __post_init__(self) -> None:
        if self.limits is not None and not self.limits[0] < self.limits[1]:
            raise RequestError(f"--value-range {self.value_range}: the first must be below the second.", "")
        _ = self.tick_values, self.references

    @property
    def limits(self) -> tuple[float, float] | None:
        """The ends asked for."""
        if self.value_range is None:
            return None
        numbers = _numbers(self.value_range, "--value-range", "Write it like 0,100.")
        if len(numbers) != 2:
            raise RequestError(f"--value-range {self.value_range} needs two numbers.", "Write it like 0,100.")
        return numbers[0], numbers[1]

    @property
    def tick_values(self) -> tuple[float, ...]:
        """The ticks asked for one by one; a single number is how many there should be about."""
        return () if self.ticks is None else _numbers(self.ticks, "--ticks", "Write 5, or 0,20,40.")

    @property
    def references(self) -> tuple[tuple[float, str], ...]:
        """Reference values with their labels, which may be empty."""
        found = []
        for text in self.reference:
            value, _, label = text.partition("=")
            found.append((_numbers(value, "--reference", 'Write it like "12=Target".')[0], label.strip()))
        return tuple(found)


@dataclass(frozen=True, slots=True)
class NumbersRequest:
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
        if self.locale is None and self.format is None:
            return
        from babel import Locale, UnknownLocaleError  # noqa: PLC0415 - few charts need another language
        from babel.numbers import parse_pattern  # noqa: PLC0415

        try:
            Locale.parse(self.locale or "en")
        except (UnknownLocaleError, ValueError):
            raise RequestError(f"--locale {self.locale} is not known.", "Write it like de or fr_CH.") from None
        try:
            parse_pattern(self.format or "#")
        except (ValueError, AttributeError):
            raise RequestError(f"--format {self.format} is no number pattern.", 'Write it like "#,##0.0".') from None
        if self.format and not set("0#") & set(self.format):
            raise RequestError(f"--format {self.format} has no place for digits.", 'Write it like "#,##0.0".')

    @property
    def divisor(self) -> float:
        """What figures are divided by before they are written."""
        return SHOWN_IN.get(self.show_in or "", 1.0)


@dataclass(frozen=True, slots=True)
class ColorsRequest:
    """Colours, patterns and outlines.

    Raises:
        RequestError: A colour that cannot be read, or an opacity out of range.
    """

    palette: str | None = word(None, "Palette.", group=_COLORS, metavar="NAME", choices=PALETTES)
    color: tuple[str, ...] = word(
        (), "Colour of a level, or of all bars; repeatable.", group=_COLORS, metavar="LEVEL=#RRGGBB"
    )
    one_color: bool = switch("Every series in shades of one colour.", group=_COLORS)
    highlight: str | None = word(
        None, "Levels that keep their colour; all others turn pale.", group=_COLORS, metavar="LEVELS"
    )
    hatch: bool = switch("Tell series apart by patterns too.", group=_COLORS)
    outline: bool = switch("Draw a thin outline around bars.", group=_COLORS)
    opacity: float = word(1.0, "How solid bars are, 0.1 to 1.", group=_COLORS, metavar="N")

    def __post_init__(self) -> None:
        if not 0.1 <= self.opacity <= 1:
            raise RequestError(f"--opacity {self.opacity:g} is out of range.", "Choose 0.1 to 1.")
        _ = self.by_level

    @property
    def by_level(self) -> dict[str, str]:
        """Colours by the name of their level; under the empty name that of all bars."""
        found = {}
        for text in self.color:
            level, _, color = text.rpartition("=")
            if not _COLOR.fullmatch(color.strip()):
                raise RequestError(f"--color {text}: `{color.strip()}` is no colour.", "Write it like App=#1a726a.")
            digits = color.strip()[1:].lower()
            found[level.strip()] = "#" + ("".join(2 * digit for digit in digits) if len(digits) == 3 else digits)
        return found

    @property
    def highlighted(self) -> tuple[str, ...]:
        """The levels that keep their colour; empty for all."""
        return names_in(self.highlight) if self.highlight else ()


@dataclass(frozen=True, slots=True)
class SecondRequest:
    """A second measure as line and dots on an axis of its own.

    Raises:
        RequestError: A statistic or range without a measure.
    """

    second_measure: str | None = word(
        None, "A second number, drawn as line and dots on its own axis.", group=_SECOND, metavar="COLUMN"
    )
    second_stat: str = word("mean", "What is shown of it.", group=_SECOND, metavar="STAT", choices=SECOND_STATS)
    second_range: str = word(
        "from-zero", "Where its axis starts.", group=_SECOND, metavar="HOW", choices=("from-zero", "fit")
    )

    def __post_init__(self) -> None:
        if not self.second_measure and (self.second_stat != "mean" or self.second_range != "from-zero"):
            raise RequestError("--second-stat and --second-range need a second measure.", "Name it: --second-measure.")


def _numbers(text: str, option: str, remedy: str) -> tuple[float, ...]:
    try:
        return tuple(float(part) for part in text.split(","))
    except ValueError:
        raise RequestError(f"{option} {text} cannot be read.", remedy) from None
