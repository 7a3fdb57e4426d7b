"""Which colour and pattern a level has: the same in every chart, and never one colour for two of them."""

from collections.abc import Sequence
from functools import cache

from msgspec import Struct

from grainstack.chart.colors_request import RAMPS, ColorsRequest
from grainstack.chart.look.color import is_between
from grainstack.chart.look.palette import MUTED, NAMED, PALE, are_apart, firm, shades, two_sided
from grainstack.chart.look.style import Style
from grainstack.chart.look.vision import APART, distance, oklab, with_lightness
from grainstack.errors import RequestError, nearest
from grainstack.option_names import option
from grainstack.records.variable import Level
from grainstack.summary.table import Dimension

_TONES = 0.17  # of lightness: between two neutral levels, which keep clear of the pale level too
_GREYS_OF_A_SIDE = 2  # beside a neutral one, and as many of the other side
_DARKEST = 0.3  # of lightness: a darker grey is taken for black
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
    levels = series.levels[:count] if series else (None,) * count
    if sides is not None and (count > 2 or 0 in sides):
        scale: Sequence[Ink] = ()
        inks = _two_sided(sides, colors.palette or style.sides)
    else:
        inks, scale = _one_sided(series, count, colors, style)
    hatched = count > 1 and (colors.patterned or style.hatched)
    for place, level in enumerate(levels):
        if level and level.color:
            inks[place] = Ink(level.color, (inks[place] or Ink("")).hatch)
        elif level and level.is_special:
            inks[place] = None
        elif inks[place] is None and hatched and scale:
            inks[place] = scale[place % len(scale)]
        elif inks[place] is None and not style.slender:
            inks[place] = _beyond_the_palette(level, series, inks)
    if hatched:
        inks = _hatched(inks)
    return with_greys(inks, scale, slender=style.slender)


def _hatched(inks: Sequence[Ink | None]) -> list[Ink | None]:
    """Inks with a pattern each: the one of its place, or the next with which it is told from those before it."""
    found: list[Ink | None] = []
    for place, ink in enumerate(inks):
        patterns = [HATCHES[(place + step) % len(HATCHES)] for step in range(len(HATCHES))]
        options = [Ink(ink.fill, pattern) for pattern in patterns] if ink else []
        found.append(next((one for one in options if all(_differ(one, other) for other in found)), ink))
    return found


def _beyond_the_palette(level: Level | None, series: Dimension | None, inks: Sequence[Ink | None]) -> Ink:
    """Pale, with a pattern that is free: where charts share their colours, the one all of them give the level."""
    order = series.color_order if series else ()
    first = order.index(level.code) if level and level.code in order else 0
    patterns = [HATCHES[1 + (first + step) % (len(HATCHES) - 1)] for step in range(len(HATCHES) - 1)]
    inks_left = (Ink(fill, pattern) for fill in (PALE, MUTED) for pattern in patterns)
    return next((ink for ink in inks_left if all(_differ(ink, other) for other in inks)), Ink(PALE, patterns[0]))


def _differ(ink: Ink, other: Ink | None) -> bool:
    return other is None or ink.hatch != other.hatch or distance(ink.fill, other.fill) >= APART


def with_greys(inks: Sequence[Ink | None], beside: Sequence[Ink] = (), *, slender: bool = False) -> tuple[Ink, ...]:
    """Inks of which those that are missing are grey: the first pale, each further one a tone of its own.

    Greys are told from the other inks and from one another; where no further one is, they are pale and patterned.

    Args:
        inks: One for each level; None for a level that has no colour.
        beside: The inks of all levels, also of those that are not shown here.
        slender: Whether they are for dots and thin lines, which are seen on paper in darker tones only.
    """
    found = [ink and (Ink(firm(ink.fill), ink.hatch) if slender else ink) for ink in inks]
    absent = {firm(ink.fill) if slender else ink.fill for ink in beside}
    pale = firm(PALE) if slender else PALE
    for place, known in enumerate(found):
        if known is None:
            shown = {ink.fill for ink in found if ink and not ink.hatch}
            grey = _grey_beside(shown | absent, pale) or _grey_beside(shown, pale)
            found[place] = Ink(grey) if grey else _beyond_the_palette(None, None, found)
    return tuple(ink for ink in found if ink)


def _grey_beside(others: set[str], pale: str) -> str | None:
    """The lightest grey, from a pale one on, that is told from other colours."""
    return next((grey for grey in _greys(pale) if all(distance(grey, other) >= APART for other in others)), None)


@cache
def _greys(pale: str) -> tuple[str, ...]:
    """Greys from the pale one to dark ones, on each of which white or ink is read."""
    lightness = oklab(pale)[0]
    tones = (with_lightness(pale, lightness - step / 100) for step in range(1, round(100 * (lightness - _DARKEST))))
    return (pale, *(tone for tone in tones if not is_between(tone)))


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


def colors_of(levels: Sequence[Level], column: Dimension, palette: Sequence[str]) -> list[str | None]:
    """A colour for each level by its place among all; where two would share one, the next that is free.

    Levels beyond the palette have none: no ninth colour is made up. Where other charts show the column too, each level
    has the colour they all give it.

    Args:
        levels: Some levels of the column.
        column: The column.
        palette: The colours.
    """
    if column.color_order:
        by_code = dict(zip(column.color_order, palette, strict=False))
        return [None if level.is_special else by_code.get(level.code) for level in levels]
    places = {level.code: place for place, level in enumerate(column.all_levels)}
    taken: dict[str, str] = {}
    ordinary = [level for level in levels if not level.is_special]
    if len(ordinary) > len(palette):  # too many to be told apart: the first ones shown get the colours
        places = {level.code: place for place, level in enumerate(ordinary)}
    for level in sorted(ordinary, key=lambda one: places.get(one.code, len(places)))[: len(palette)]:
        first = places.get(level.code, 0)
        options = [palette[(first + step) % len(palette)] for step in range(len(palette))]
        taken[level.code] = next(color for color in options if color not in taken.values())
    return [taken.get(level.code) for level in levels]


def _one_sided(
    series: Dimension | None, count: int, colors: ColorsRequest, style: Style
) -> tuple[list[Ink | None], Sequence[Ink]]:
    """The ink of each level shown, and the inks of all."""
    if colors.one_color:
        return list(_steps("kiln" if colors.palette == "kiln" else style.ordered, count, style)), ()
    if series is None:
        palette = shades(colors.palette or style.nominal, max(count, 2), on_paper=style.slender)
        return [Ink(palette[place]) if place < len(palette) else None for place in range(count)], ()
    levels, every = series.levels[:count], series.all_levels
    ordered = series.variable.is_ordered
    name = colors.palette or (style.ordered if ordered else style.nominal)
    if name not in RAMPS and not (ordered and (name == "slate" or name not in NAMED)):
        palette = shades(name, 99 if name != "slate" else 5, on_paper=style.slender)
        return [Ink(fill) if fill else None for fill in colors_of(levels, series, palette)], [*map(Ink, palette)]
    steps = [*every, *levels] if ordered else [*levels, *every]  # without an order of its own, the one shown
    whole = list(dict.fromkeys(level.code for level in steps if not level.is_special))
    shown = [level.code for level in levels if not level.is_special]
    scale = tuple(Ink(fill) for fill in shades(name, len(whole), on_paper=style.slender, ramp=True))
    by_code = dict(zip(whole, scale, strict=False))  # a house ramp may have fewer
    if not are_apart([by_code[code].fill for code in shown if code in by_code]):
        scale = _steps(name, len(shown), style)
        by_code = dict(zip(shown, scale, strict=False))
    return [by_code.get(level.code) for level in levels], scale


def _steps(palette: str, count: int, style: Style) -> tuple[Ink, ...]:
    """So many steps of a ramp that are told apart.

    Of more steps than its tones can tell apart, neighbours have one tone and patterns of their own; dots and thin
    lines, which have no patterns, run from one colour over grey to another.
    """
    fills = shades(palette, count, on_paper=style.slender, ramp=True)
    if are_apart(fills) or palette not in NAMED:
        return tuple(Ink(fill) for fill in fills)
    if style.slender:
        return tuple(Ink(fill) for fill in shades("furrow", count, on_paper=True, ramp=True))
    together = range(2, len(HATCHES) + 1)
    ramps = {each: shades(palette, -(-count // each), ramp=True) for each in together}
    each = next((each for each in together if are_apart(ramps[each])), len(HATCHES))
    return tuple(Ink(ramps[each][place // each], HATCHES[place % each]) for place in range(count))


def _two_sided(sides: Sequence[int], palette: str) -> list[Ink | None]:
    """Inks from the outer end of one side over the middle to the outer end of the other."""
    left, middle, right = (sum(side == which for side in sides) for which in (-1, 0, 1))
    most = max(left, right)
    hatch = ""
    if palette == "slate" and most > _GREYS_OF_A_SIDE:  # there are not so many greys: one side is patterned
        neutral, *tones = shades("slate", most + 1, ramp=True)
        lefts, rights, hatch = tones[:left][::-1], tones[:right], HATCHES[1]
    elif palette == "slate":
        greys = ("#2b2f33", "#8a9096", "#e3e5e7", "#b0b5ba", "#5a6066")
        lefts, neutral, rights = list(greys[:2][2 - left :]), greys[2], list(greys[3:][:right])
    else:
        ramp = two_sided("furrow" if palette in NAMED else palette, most)
        lefts, rights, neutral = list(ramp[:most][:left]), list(ramp[most + 1 :][most - right :]), ramp[most]
    lightness = oklab(neutral)[0]
    middles = [with_lightness(neutral, lightness - _TONES * place) if place else neutral for place in range(middle)]
    inks = {-1: iter([Ink(fill, hatch) for fill in lefts]), 0: map(Ink, middles), 1: map(Ink, rights)}
    return [next(inks[side]) for side in sides]
