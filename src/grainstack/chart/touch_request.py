"""Single marks and parts of a chart made different from the rest: what of them, and how."""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import force_setattr

from grainstack.chart.colors_request import color_named
from grainstack.chart.marks import MarkRole
from grainstack.errors import RequestError, nearest
from grainstack.option_fields import Medium, Request, names_in, word
from grainstack.option_names import option
from grainstack.visible import visible

PARTS: Mapping[str, tuple[MarkRole, ...]] = {
    "bars": (MarkRole.BAR,),
    "dots": (MarkRole.DOT,),
    "areas": (MarkRole.AREA,),
    "slices": (MarkRole.SLICE,),
    "tiles": (MarkRole.TILE,),
    "boxes": (MarkRole.BOX,),
    "stems": (MarkRole.STEM,),
    "whiskers": (MarkRole.WHISKER,),
    "records": (MarkRole.RECORD,),
    "medians": (MarkRole.MEDIAN,),
    "means": (MarkRole.MEAN,),
    "figures": (MarkRole.VALUE, MarkRole.TOTAL),
    "letters": (MarkRole.LETTER,),
    "names": (MarkRole.CATEGORY, MarkRole.GROUP_LABEL),
    "bases": (MarkRole.BASE,),
    "legend": (MarkRole.LEGEND, MarkRole.LEGEND_SWATCH),
    "panel titles": (MarkRole.PANEL_TITLE,),
    "axis": (MarkRole.TICK, MarkRole.TICK_MARK),
    "axis titles": (MarkRole.VALUE_TITLE, MarkRole.CATEGORY_TITLE),
    "grid": (MarkRole.GRID,),
    "reference": (MarkRole.REFERENCE, MarkRole.REFERENCE_LABEL),
    "annotations": (MarkRole.ANNOTATION, MarkRole.LEADER),
    "second": (MarkRole.SECOND, MarkRole.SECOND_DOT, MarkRole.SECOND_VALUE),
    "title": (MarkRole.TITLE,),
    "subtitle": (MarkRole.SUBTITLE,),
    "note": (MarkRole.FOOTNOTE,),
    "source": (MarkRole.SOURCE,),
}
# What a level stands for where no part is named: its marks, and the swatch in the legend that tells their colour.
MARKS = (MarkRole.BAR, MarkRole.AREA, MarkRole.DOT, MarkRole.SLICE, MarkRole.TILE, MarkRole.BOX, MarkRole.LEGEND_SWATCH)
_OWN_OPTION = {"whiskers": ("error_bars", "none"), "figures": ("label", "none"), "legend": ("legend", "none")}
_PATTERNS = ("rising", "falling", "crossed", "dots", "level", "upright", "dashes", "none")
_SWITCHES = ("bold", "hidden")
_NUMBERS = {"width": (0.1, 20.0), "size": (1.0, 72.0), "opacity": (0.1, 1.0)}
_OTHERS = ("color", "outline", "pattern", "offset")
CHANGES = (*_OTHERS, *_NUMBERS, *_SWITCHES)


class Touch(Struct, frozen=True):
    """What is made different of some marks.

    Attributes:
        text: As it was asked for.
        parts: The parts of the chart that are meant; empty for the marks of the levels.
        levels: The names of the levels whose marks are meant; empty for all.
        color: Of areas, lines and texts; empty for the usual one.
        outline: The colour of an outline; `none` for no outline, empty for the usual one.
        pattern: A pattern over areas, likewise.
        width: Of lines, in points; None for the usual one.
        size: Of texts, or across dots, in points; likewise.
        opacity: How solid areas are.
        offset: How far texts move to the right and down, in points.
        bold: Whether texts are set heavier.
        hidden: Whether the marks are left out.
    """

    text: str
    parts: tuple[str, ...] = ()
    levels: tuple[str, ...] = ()
    color: str = ""
    outline: str = ""
    pattern: str = ""
    width: float | None = None
    size: float | None = None
    opacity: float | None = None
    offset: tuple[float, float] = (0.0, 0.0)
    bold: bool = False
    hidden: bool = False

    @property
    def roles(self) -> tuple[MarkRole, ...]:
        """What the marks are that are meant."""
        return tuple(role for part in self.parts for role in PARTS[part]) or MARKS


def touch_from_table(table: Mapping[str, Any]) -> str:
    """A touch as a plan writes it in a table of its own, in one line.

    Args:
        table: `of`, and what is different: `color`, `bold` …

    Raises:
        ValueError: It does not say what is touched; says so as the end of a sentence.
    """
    of = table.get("of")
    if not isinstance(of, str | list):
        raise ValueError(  # noqa: TRY004 - as other wrong values of a file are told
            "must say `of` what: a level, or one of " + ", ".join(PARTS)
        )
    whole = of if isinstance(of, str) else ", ".join(f'"{one}"' for one in of)
    changes = []
    for key, value in table.items():
        if key != "of" and value is not False:
            number = " ".join(map(str, value)) if isinstance(value, list) else value
            changes.append(key if value is True else f"{key}={number}")
    return f"{whole}: {', '.join(changes)}"


class TouchRequest(Request, frozen=True):
    """Single marks and parts made different.

    Raises:
        RequestError: A touch that says neither of what nor how, or something there is not.
    """

    touch: tuple[str, ...] = word(
        (),
        "Make a level, a part or a level's part different: color, outline, pattern, width, size, opacity, offset, bold "
        "or hidden; repeatable: 'whiskers: color=#555', 'Dunmar, figures: bold'.",
        group="Colours",
        metavar="'WHAT: HOW'",
        medium=Medium.PICTURE,
        from_table=touch_from_table,
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        force_setattr(self, "touch", tuple(map(visible, self.touch)))
        _ = self.touches

    @property
    def touches(self) -> tuple[Touch, ...]:
        """The touches, taken apart."""
        return tuple(map(_touch, self.touch))


def _touch(text: str) -> Touch:
    of, colon, how = text.rpartition(":")
    names = names_in(of)
    if not colon or not names or not how.strip():
        raise RequestError(
            f"`{option('touch')} {text}` does not say what is to be different, and how.",
            "Write it like 'whiskers: color=#555' or 'Dunmar: bold'.",
        )
    parts = tuple(name for name in names if name in PARTS)
    levels = tuple(name for name in names if name not in PARTS)
    changes = dict(_change(text, one) for one in how.split(","))
    if "hidden" in changes and (not parts or any(role in MARKS[:-1] for one in parts for role in PARTS[one])):
        raise RequestError(
            f"{option('touch')} {text} leaves a figure out, and nothing would tell of it.",
            f"Leave records out with {option('except_')} COLUMN=LEVEL, which the note tells.",
        )
    if "hidden" in changes and not levels and (own := next((one for one in parts if one in _OWN_OPTION), "")):
        raise RequestError(
            f"{option('touch')} hides all {own}, and what is written about them would stay.",
            f"Use {option(*_OWN_OPTION[own])}.",
        )
    return Touch(text, parts, levels, **changes)


def _change(text: str, one: str) -> tuple[str, Any]:
    """One thing that is different, by its field."""
    name, equals, value = (part.strip() for part in one.partition("="))
    name = {"colour": "color", "fill": "color"}.get(name, name)
    if name not in CHANGES:
        raise RequestError(
            f"{option('touch')} {text}: there is no `{name}`.",
            nearest(name, CHANGES) or f"Choose from {', '.join(CHANGES)}.",
        )
    if bool(equals) == (name in _SWITCHES):
        how = f"`{name}` takes no value" if equals else f"`{name}` needs a value"
        raise RequestError(f"{option('touch')} {text}: {how}.", f"Write {name}{'' if equals else '=…'}.")
    return name, True if name in _SWITCHES else _value(text, name, value)


def _value(text: str, name: str, value: str) -> Any:  # noqa: ANN401 - of the field
    """What follows the sign."""
    if name == "pattern":
        if value in _PATTERNS:
            return value
        raise RequestError(f"{option('touch')} {text}: {value} is no pattern.", f"Choose from {', '.join(_PATTERNS)}.")
    if name in ("color", "outline"):
        if name == "outline" and value == "none":
            return value
        if color := color_named(value):
            return color
        raise RequestError(f"{option('touch')} {text}: `{value}` is no colour.", "Write it like #1a726a, or teal.")
    try:
        numbers = tuple(map(float, value.split()))
    except ValueError:
        numbers = ()
    low, high = _NUMBERS.get(name, (-500.0, 500.0))
    if len(numbers) != (2 if name == "offset" else 1) or not all(low <= one <= high for one in numbers):
        wanted = (
            "two numbers: points to the right and down" if name == "offset" else f"a number from {low:g} to {high:g}"
        )
        raise RequestError(
            f"{option('touch')} {text}: `{name}` is {wanted}.", f"Write {name}={'4 -2' if name == 'offset' else '1'}."
        )
    return numbers if name == "offset" else numbers[0]
