"""What colours, patterns and outlines are asked for."""

import re
from collections.abc import Mapping
from typing import Any

from grainstack.errors import RequestError
from grainstack.option_fields import Medium, Request, names_in, switch, word
from grainstack.option_names import option

_COLORS = "Colours"
PALETTES = ("fields", "meadow", "kiln", "furrow", "slate")
RAMPS = ("meadow", "kiln", "furrow")  # those that run from one end to another
_COLOR = re.compile(r"#(?:[0-9a-fA-F]{3}){1,2}")


class ColorsRequest(Request, frozen=True):
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


class FillsRequest(ColorsRequest, frozen=True):
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


class CategoryColorsRequest(Request, frozen=True):
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
