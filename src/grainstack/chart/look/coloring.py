"""Which colour and pattern a level has: the same in every chart, and never one colour for two of them."""

from collections.abc import Mapping, Sequence
from itertools import combinations

from msgspec import Struct

from grainstack.chart.colors_request import RAMPS, ColorsRequest
from grainstack.chart.look.palette import NAMED, PALE, firm, shades, two_sided
from grainstack.chart.look.style import Style
from grainstack.chart.look.vision import APART, distance, oklab, with_lightness
from grainstack.errors import RequestError, nearest
from grainstack.option_names import option
from grainstack.records.variable import Level
from grainstack.summary.table import Dimension

_TONES = 0.17  # of lightness: between two neutral levels, which keep clear of the pale level too
MOST_COLORS = 8  # palettes have no ninth colour that colour-blind readers could tell from the others
HATCHES = ("", "rising", "dots", "level", "falling", "crossed", "upright", "dashes")


class Ink(Struct, frozen=True):
    """How a mark is filled.

    Attributes:
        fill: Its colour.
        hatch: Its pattern, one of `HATCHES`.
    """

    fill: str
    hatch: str = ""


def inks_of_series(
    series: Dimension | None, count: int, colors: ColorsRequest, style: Style, *, sides: Sequence[int] | None = None
) -> tuple[Ink, ...]:
    """The ink of each series.

    A level's place among all levels of its column decides, so it keeps its colour when others are filtered away. The
    codebook's colours come first, and those typed before them.

    Args:
        series: The column of the series; None where figures are the series.
        count: How many series there are.
        colors: What was asked for.
        style: The palettes to choose from.
        sides: For a diverging chart, for each series -1 (opposite), 0 (neutral) or 1.

    Raises:
        RequestError: A colour for a level there is not.
    """
    levels = series.levels[:count] if series else ()
    if sides is not None and (count > 2 or 0 in sides):
        fills = list(_two_sided(sides, colors.palette or style.sides))
    else:
        fills = list(_one_sided(series, count, colors, style))
    hatched = colors.patterned or style.hatched
    spare = iter(HATCHES[1:] * (count // 7 + 1))
    inks = [
        Ink(fill, HATCHES[place % len(HATCHES)] if hatched and count > 1 else "") for place, fill in enumerate(fills)
    ]
    for place, level in enumerate(levels):
        if level.is_special:
            inks[place] = Ink(PALE, next(spare) if Ink(PALE) in inks[:place] else "")
        elif inks[place].fill == PALE:
            inks[place] = Ink(PALE, next(spare))
        if level.color:
            inks[place] = Ink(level.color, inks[place].hatch)
    return tuple(Ink(firm(ink.fill), ink.hatch) for ink in inks) if style.slender else tuple(inks)


def recolored(inks: Sequence[Ink], names: Sequence[str], colors: ColorsRequest) -> tuple[Ink, ...]:
    """The inks with typed colours, and pale where other levels are highlighted.

    Args:
        inks: One per name.
        names: Labels of the series or categories.
        colors: What was asked for.
    """
    by_level = colors.by_level
    kept = colors.highlighted
    found = []
    for ink, name in zip(inks, names, strict=True):
        fill = by_level.get(name, by_level.get("", ink.fill))
        found.append(Ink(PALE) if kept and name not in kept and any(k in names for k in kept) else Ink(fill, ink.hatch))
    return tuple(found)


def check_names(colors: ColorsRequest, names: Sequence[str]) -> None:
    """Refuses a colour or highlight for a level that is not shown.

    Raises:
        RequestError: Names the nearest levels.
    """
    for field, wanted in (("color", colors.by_level), ("highlight", colors.highlighted)):
        for name in wanted:
            if name and name not in names:
                raise RequestError(f"{option(field)}: no level `{name}` is shown.", nearest(name, list(names)))


def colors_of(levels: Sequence[Level], column: Dimension, palette: Sequence[str]) -> list[str]:
    """A colour for each level by its place among all; where two would share one, the next that is free.

    Levels beyond the palette stay pale: no ninth colour is made up. Where other charts show the column too, each level
    has the colour they all give it.

    Args:
        levels: Some levels of the column.
        column: The column.
        palette: The colours.
    """
    if column.color_order:
        by_code = dict(zip(column.color_order, palette, strict=False))
        return [PALE if level.is_special else by_code.get(level.code, PALE) for level in levels]
    places = {level.code: place for place, level in enumerate(column.all_levels)}
    taken: dict[str, str] = {}
    ordinary = [level for level in levels if not level.is_special]
    if len(ordinary) > len(palette):  # too many to be told apart: the first ones shown get the colours
        places = {level.code: place for place, level in enumerate(ordinary)}
    for level in sorted(ordinary, key=lambda one: places.get(one.code, len(places))):
        first = places.get(level.code, 0)
        options = [palette[(first + step) % len(palette)] for step in range(len(palette))]
        taken[level.code] = next((color for color in options if color not in taken.values()), PALE)
    return [taken.get(level.code, PALE) for level in levels]


def _one_sided(series: Dimension | None, count: int, colors: ColorsRequest, style: Style) -> Sequence[str]:
    if colors.one_color:
        return shades("kiln" if colors.palette == "kiln" else style.ordered, count, on_paper=style.slender, ramp=True)
    if series is None:
        palette = shades(colors.palette or style.nominal, max(count, 2))
        return [palette[place] if place < len(palette) else PALE for place in range(count)]
    levels, every = series.levels[:count], series.all_levels
    ordered = series.variable.is_ordered
    name = colors.palette or (style.ordered if ordered else style.nominal)
    if name not in RAMPS and not (ordered and (name == "slate" or name not in NAMED)):
        return colors_of(levels, series, shades(name, 99 if name != "slate" else 5))
    steps = [*every, *levels] if ordered else [*levels, *every]  # without an order of its own, the one shown
    whole = list(dict.fromkeys(level.code for level in steps if not level.is_special))
    ramp = shades(name, max(len(whole), 1), on_paper=style.slender, ramp=True)
    by_code: Mapping[str, str] = dict(zip(whole, ramp, strict=False))
    shown = [level.code for level in levels if not level.is_special]
    if any(distance(by_code[one], by_code[other]) < APART for one, other in combinations(shown, 2)):
        by_code = dict(zip(shown, shades(name, len(shown), on_paper=style.slender, ramp=True), strict=True))
    return [by_code.get(level.code, PALE) for level in levels]


def _two_sided(sides: Sequence[int], palette: str) -> Sequence[str]:
    """Colours from the outer end of one side over the middle to the outer end of the other."""
    left, middle, right = (sum(side == which for side in sides) for which in (-1, 0, 1))
    most = max(left, right)
    if palette == "slate":
        ramp = (
            shades("slate", 2 * most + 1)
            if 2 * most + 1 > 5
            else ("#2b2f33", "#8a9096", "#e3e5e7", "#b0b5ba", "#5a6066")
        )
        most_half = len(ramp) // 2
        lefts, rights = ramp[:most_half][most_half - left :], ramp[most_half + 1 :][:right]
        neutral = ramp[most_half]
    else:
        ramp = two_sided("furrow" if palette in NAMED else palette, most)
        lefts, rights, neutral = ramp[:most][:left], ramp[most + 1 :][most - right :], ramp[most]
    lightness = oklab(neutral)[0]
    tones = [with_lightness(neutral, lightness - _TONES * place) if place else neutral for place in range(middle)]
    fills = {-1: iter(lefts), 0: iter(tones), 1: iter(rights)}
    return [next(fills[side]) for side in sides]
