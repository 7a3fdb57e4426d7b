"""Styles as data: what a style file may say, each of it checked when it is read, and the styles that come along."""

import tomllib
from collections.abc import Callable, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.colors_request import color_named
from grainstack.chart.look.color import READABLE, contrast
from grainstack.chart.look.palette import NAMED
from grainstack.chart.look.style import TYPE, Style
from grainstack.chart.marks import Face, Typeface
from grainstack.chart.picture_request import STYLES, PictureRequest
from grainstack.errors import RequestError, nearest
from grainstack.option_fields import Request
from grainstack.requests import Requests
from grainstack.toml_schema import COLOR, TEXT, Key, one_of

Read = Callable[[object, str], Any]  # a value of the file, checked; what it is, for messages
LEAST_TYPE = 6.0  # points: smaller type is not read in print
_APART = 0.05  # in OKLab: nearer colours are taken for one another


@cache
def style_named(name: str) -> Style:
    """One of the styles that come along, from its own file.

    Args:
        name: One of `STYLES`.
    """
    return style_from(tomllib.loads(style_text(name)), f"{name}.toml")


def style_text(name: str) -> str:
    """The file of a style that comes along.

    Args:
        name: One of `STYLES`.
    """
    return (Path(__file__).parent / "styles" / f"{name}.toml").read_text("utf-8")


def style_from(content: Mapping[str, Any], where: str) -> Style:
    """A style of what its file says, over the one it is based on.

    Args:
        content: The file, read.
        where: Its name, for messages.

    Raises:
        RequestError: A key there is not, a value it cannot have, colours that cannot be told apart or text that cannot
            be read on them.
    """
    _known(content, (*TOP, *SECTIONS), where, "")
    style = style_named(_base(content["base"], where)) if "base" in content else Style()
    values = {one.field: one.read(content[key], f"{where}: {key}") for key, one in TOP.items() if key in content}
    values.pop("base", None)
    for section, keys in SECTIONS.items():
        section_values = content.get(section, {})
        if not isinstance(section_values, Mapping):
            raise RequestError(f"{where}: [{section}] is a section with keys of its own.", f"Write [{section}].")
        _known(section_values, tuple(keys), where, f"[{section}] ")
        for key, value in section_values.items():
            values[keys[key].field] = keys[key].read(value, f"{where}: [{section}] {key}")
    style = replace(style, **values)
    _check_colors(style, where)
    return style


def _check_colors(style: Style, where: str) -> None:
    """Refuses colours of text that is not read on paper; colours of bars are the house's own choice."""
    for name in ("ink", "muted"):
        ratio = contrast(getattr(style, name), style.paper)
        if ratio < READABLE:
            raise RequestError(
                f"{where}: [colors] {name} {getattr(style, name)} on {style.paper} has a contrast of {ratio:.1f}.",
                f"Text needs {READABLE}.",
            )


def _known(content: Mapping[str, Any], keys: Sequence[str], where: str, section: str) -> None:
    for key in content:
        if key not in keys:
            raise RequestError(f"{where}: there is no key {section}{key}.", nearest(key, list(keys)))


def _size(value: object, what: str, least: float = 0.0) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or value < least:
        raise RequestError(f"{what} {value} is no size in points.", f"Give a number of {least:g} or more.")
    return float(value)


def _type(value: object, what: str) -> float:
    return _size(value, what, LEAST_TYPE)


def _color(value: object, what: str) -> str:
    color = color_named(str(value))
    if not color:
        raise RequestError(f"{what}: `{value}` is no colour.", "Write it like #1a726a, or by its name in CSS.")
    return color


def _palette(value: object, what: str) -> str:
    if isinstance(value, str) and value in NAMED:
        return value
    if isinstance(value, Sequence) and not isinstance(value, str) and len(value) > 1:
        return " ".join(_color(color, what) for color in value)
    raise RequestError(f"{what}: `{value}` is no palette.", f"Name one of {', '.join(NAMED)}, or list colours.")


def _one_of(*choices: str) -> Read:
    def read(value: object, what: str) -> str:
        if value not in choices:
            raise RequestError(f"{what}: `{value}` is not known.", nearest(str(value), choices))
        return str(value)

    return read


def _text(value: object, what: str) -> str:
    if not isinstance(value, str):
        raise RequestError(f"{what}: `{value}` is no text.", "Write it in quotation marks.")
    return value


def _texts(value: object, what: str) -> tuple[str, ...]:
    if not isinstance(value, list):
        raise RequestError(f"{what}: `{value}` is no list.", 'Write it like ["one.ttf", "other.ttf"].')
    return tuple(_text(item, what) for item in value)


def _switch(value: object, what: str) -> bool:
    if not isinstance(value, bool):
        raise RequestError(f"{what}: `{value}` is neither true nor false.", "Write true or false.")
    return value


def _base(value: object, where: str) -> str:
    return str(_one_of(*STYLES)(value, f"{where}: base"))


class Setting(Struct, frozen=True):
    """What a key of a style file sets.

    Attributes:
        field: The field of `Style`.
        read: Checks its value.
        key: What it says and may hold.
    """

    field: str
    read: Read
    key: Key


def _measure(field: str, text: str) -> Setting:
    return Setting(field, _size, Key(text, {"type": "number", "minimum": 0}))


def _type_size(field: str, text: str) -> Setting:
    return Setting(field, _type, Key(f"Type size of {text}, in points.", {"type": "number", "minimum": LEAST_TYPE}))


def _ink(field: str, text: str) -> Setting:
    return Setting(field, _color, Key(text, COLOR))


def _colors(field: str, text: str) -> Setting:
    listed = {"type": "array", "items": TEXT, "minItems": 2}
    return Setting(field, _palette, Key(text, {"anyOf": [one_of(*NAMED), listed]}))


def _choice(field: str, text: str, *choices: str) -> Setting:
    return Setting(field, _one_of(*choices), Key(text, one_of(*choices)))


def _words(field: str, text: str) -> Setting:
    return Setting(field, _text, Key(text, TEXT))


TOP: dict[str, Setting] = {
    "base": Setting("base", _base, Key("The style that comes along which this one changes.", one_of(*STYLES))),
    "size": _words("size", "The size of pictures where none is asked for: 160x100mm."),
    "patterns": Setting("hatched", _switch, Key("Tell series apart by patterns too.", {"type": "boolean"})),
}
_TYPE_OF = {
    "title": "titles",
    "subtitle": "subtitles",
    "legend": "legends",
    "category": "names of categories",
    "base": "bases",
    "value": "figures",
    "tick": "figures of axes",
    "note": "notes",
}
SECTIONS: dict[str, dict[str, Setting]] = {
    "type": {
        **{name: _type_size(name, _TYPE_OF[name]) for name in TYPE},
        "least": _type_size("least_type", "the smallest text that may be used to make things fit"),
    },
    "strokes": {
        "margin": _measure("margin", "Empty rim of the picture, in points."),
        "gap": _measure("gap", "Distance between a mark and its text, in points."),
        "grid": _measure("grid", "Thickness of grid lines, in points."),
        "part": _measure("part", "Thickness of the line between neighbours, in points."),
        "outline": _measure("outline", "Thickness of outlines, in points."),
        "whisker": _measure("whisker", "Thickness of whiskers, in points."),
        "cap": _measure("cap", "Half the width of the caps of whiskers, in points."),
        "line": _measure("line", "Thickness of a line that joins figures, in points."),
        "dot": _measure("dot", "Radius of a dot that stands for a figure, in points."),
        "record": _measure("record", "Radius of a dot that stands for a record, in points."),
        "bar": _measure("bar_most", "The thickest a bar may be, in points."),
    },
    "colors": {
        "ink": _ink("ink", "The colour of titles, names and figures."),
        "muted": _ink("muted", "The colour of notes and axes."),
        "paper": _ink("paper", "The colour of what is behind them."),
        "grid": _ink("grid_color", "The colour of grid lines."),
    },
    "palettes": {
        "categories": _colors("nominal", "The palette of series without an order."),
        "ordered": _colors("ordered", "The palette of series that run from low to high."),
        "sides": _colors("sides", "The palette of series on two sides of a middle."),
    },
    "places": {
        "title": _choice("title_place", "Where title and subtitle stand.", "left", "middle", "right"),
        "note": _choice("note_place", "Where notes stand.", "left", "right"),
    },
    "fonts": {
        "regular": _words("font", "The file of a typeface, beside the style."),
        "semibold": _words("font_semibold", "The file of its heavier weight."),
        "fallback": Setting(
            "fallback", _texts, Key("Files of typefaces for what it lacks.", {"type": "array", "items": TEXT})
        ),
    },
    "logo": {
        "file": _words("logo", "The file of a picture, beside the style."),
        "place": _choice("logo_place", "Where it stands.", "top-right", "bottom-right"),
        "height": _measure("logo_height", "How tall it is, in points."),
    },
    "numbers": {
        "format": _words("format", "How figures are written: #,##0.0."),
        "locale": _words("locale", "The language whose decimal signs they have: de."),
    },
}


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
    return request.usual(HouseStyle).style or style_named(request[PictureRequest].style_named)
