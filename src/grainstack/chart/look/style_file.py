"""Styles as data: what a style file may say, each of it checked when it is read, and the styles that come along."""

import tomllib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cache
from itertools import combinations
from pathlib import Path
from typing import Any

from grainstack.chart.colors_request import color_named
from grainstack.chart.look.color import READABLE, contrast, is_between
from grainstack.chart.look.palette import NAMED
from grainstack.chart.look.style import TYPE, Style
from grainstack.chart.look.vision import VISIONS, distance
from grainstack.chart.picture_request import STYLES
from grainstack.errors import RequestError, nearest

Read = Callable[[object, str], Any]  # a value of the file, checked; what it is, for messages
LEAST_TYPE = 6.0  # points: smaller type is not read in print
_APART = 0.05  # in OKLab: nearer colours are taken for one another
_PALETTES = {"categories": "nominal", "ordered": "ordered", "sides": "sides"}


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
    _known(content, (*_TOP, *_SECTIONS), where, "")
    style = style_named(_base(content["base"], where)) if "base" in content else Style()
    values = {field: read(content[key], f"{where}: {key}") for key, (field, read) in _TOP.items() if key in content}
    values.pop("base", None)
    for section, keys in _SECTIONS.items():
        said = content.get(section, {})
        if not isinstance(said, Mapping):
            raise RequestError(f"{where}: [{section}] is a section with keys of its own.", f"Write [{section}].")
        _known(said, tuple(keys), where, f"[{section}] ")
        for key, value in said.items():
            field, read = keys[key]
            values[field] = read(value, f"{where}: [{section}] {key}")
    style = replace(style, **values)
    _check_colors(style, where)
    return style


def _check_colors(style: Style, where: str) -> None:
    """Refuses colours in which text is not read, or which are taken for one another."""
    for name in ("ink", "muted"):
        ratio = contrast(getattr(style, name), style.paper)
        if ratio < READABLE:
            raise RequestError(
                f"{where}: [colors] {name} {getattr(style, name)} on {style.paper} has a contrast of {ratio:.1f}.",
                f"Text needs {READABLE}.",
            )
    for key, field in _PALETTES.items():
        colors = () if getattr(style, field) in NAMED else getattr(style, field).split()
        unread = next((color for color in colors if is_between(color)), None)
        if unread:
            raise RequestError(
                f"{where}: [palettes] {key}: neither white nor ink is read on {unread}.",
                "Make it a little lighter or darker.",
            )
        for one, other in combinations(colors, 2) if key == "categories" else ():
            near = min((distance(one, other, vision), vision) for vision in VISIONS)
            if near[0] < _APART:
                raise RequestError(
                    f"{where}: [palettes] {key}: {one} and {other} look alike in {near[1]} vision.",
                    "Change one of them; `grainstack palettes` shows how colours are seen.",
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


_TOP: dict[str, tuple[str, Read]] = {"base": ("base", _base), "size": ("size", _text), "patterns": ("hatched", _switch)}
_STROKES = ("margin", "gap", "grid", "part", "outline", "whisker", "cap", "line", "dot", "record")
_SECTIONS: dict[str, dict[str, tuple[str, Read]]] = {
    "type": {**{name: (name, _type) for name in TYPE}, "least": ("least_type", _type)},
    "strokes": {**{name: (name, _size) for name in _STROKES}, "bar": ("bar_most", _size)},
    "colors": {
        **{name: (name, _color) for name in ("ink", "muted", "paper")},
        "grid": ("grid_color", _color),
    },
    "palettes": {key: (field, _palette) for key, field in _PALETTES.items()},
    "places": {
        "title": ("title_place", _one_of("left", "middle", "right")),
        "note": ("note_place", _one_of("left", "right")),
    },
    "fonts": {"regular": ("font", _text), "semibold": ("font_semibold", _text), "fallback": ("fallback", _texts)},
    "logo": {
        "file": ("logo", _text),
        "place": ("logo_place", _one_of("top-right", "bottom-right")),
        "height": ("logo_height", _size),
    },
    "numbers": {"format": ("format", _text), "locale": ("locale", _text)},
}
