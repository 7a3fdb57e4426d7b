"""The palettes, and so many shades of each.

Chosen in OKLCH and checked with the dichromacy matrices of Machado, Oliveira & Fernandes 2009: any two of `FIELDS` stay
at least 0.115 apart in OKLab in ordinary and in all three dichromatic visions, and white or ink stands on each with a
contrast of at least 4.5 : 1. The same holds for every shade of a ramp of levels: no shade stands in the narrow stretch
of middle tones on which neither is read. A ramp of values runs evenly through them, and text stands on a plate there.
"""

from collections.abc import Sequence
from functools import lru_cache
from itertools import combinations, pairwise

from grainstack.chart.colors_request import RAMPS
from grainstack.chart.look.color import PAPER, VISIBLE, contrast, is_between
from grainstack.chart.look.measures import ROUNDING
from grainstack.chart.look.vision import APART, between, distance, oklab, with_lightness

_FADED = 0.6  # of the way to the middle: still of its side
_FINE = 64  # places between two colours of a ramp: more than there are levels
_NEARLY_BLACK = 0.08  # of lightness: of tones below, nobody sees which colour they are
_NUDGE = 0.004  # of lightness: no step of it is seen

MUTED = "#5c6770"
GRID = "#e3e6e8"
PALE = "#c9ced2"

FIELDS = ("#1a726a", "#ddb227", "#414076", "#4bbde3", "#ac430e", "#68a17e", "#835cbe", "#7f2117")
MEADOW = ("#e3f4e6", "#b1dac0", "#79c0a2", "#43a48a", "#008575", "#01665f", "#024747")
KILN = ("#f8edd8", "#e8caa0", "#dba569", "#cd7e35", "#b65b13", "#943f16", "#6d2a1a")
FURROW = ("#7d3317", "#b16131", "#d8a173", "#eae8e2", "#77bcbf", "#0b8080", "#005351")
SLATE = ("#2b2f33", "#8a9096", "#d3d6d9", "#5a6066", "#b0b5ba")
NAMED = {"fields": FIELDS, "meadow": MEADOW, "kiln": KILN, "furrow": FURROW, "slate": SLATE}


def colors_in(palette: str) -> tuple[str, ...]:
    """The colours of a palette: of one that has a name, or of those listed, parted by spaces."""
    return NAMED.get(palette) or tuple(palette.split())


def shades(palette: str, count: int, *, on_paper: bool = False, ramp: bool = False) -> tuple[str, ...]:
    """So many colours of a palette: in its order for categories, from light to dark for a ramp.

    Few levels leave out the lightest shade, which is faint on paper; more than a ramp has are mixed between its shades.
    A two-sided ramp keeps its middle for an odd number only.

    Args:
        palette: Its name.
        count: How many; a palette of categories gives no more than it has.
        on_paper: Whether they are for dots and thin lines, which are lost on paper in the light shades of a ramp.
        ramp: Whether listed colours run from low to high.
    """
    colors = colors_in(palette)
    if palette not in NAMED:
        shown = tuple(color for color in colors if contrast(color, PAPER) >= VISIBLE) if on_paper and ramp else colors
        return _along(shown if len(shown) > 1 else colors, count) if ramp else colors[:count]
    if palette == "slate":
        ends = ("#8a9096" if on_paper else "#e9ebed", "#2b2f33")
        return _spread(ends, count) if count > (2 if on_paper else len(colors)) else colors[:count]
    if on_paper and palette in RAMPS:
        return _on_paper(palette, count)
    if palette not in RAMPS:
        return colors[:count]
    if palette == "furrow":
        side = count // 2
        if side > 3:
            left, right = _spread(colors[2::-1], side)[::-1], _spread(colors[4:], side)
        else:
            left, right = colors[:3][1 if side < 3 else 0 :][:side], colors[4:][: 2 if side < 3 else 3][-side:]
        return (*left, *(colors[3:4] if count % 2 else ()), *(right if side else ()))
    return _spread(colors, count) if count > len(colors) else _along(colors if count > 6 else colors[1:], count)


def are_apart(colors: Sequence[str]) -> bool:
    """Whether any two of some colours are told apart in a small swatch."""
    return all(distance(one, other) >= APART for one, other in combinations(colors, 2))


def two_sided(palette: str, most: int) -> tuple[str, ...]:
    """So many colours of each side with one between them, from the outer end of the first to that of the other.

    Args:
        palette: `furrow`, or listed colours: those of one side, maybe one between, those of the other.
        most: How many each side has, at least one.
    """
    if palette == "furrow":
        return shades(palette, 2 * most + 1)
    colors = colors_in(palette)
    half = len(colors) // 2
    middle = colors[half] if len(colors) % 2 else FURROW[3]

    def side(inwards: tuple[str, ...]) -> tuple[str, ...]:
        """The colours of a side from its outer end; a lone one fades towards the middle."""
        if most == 1:
            return inwards[:1]
        return _along(inwards if half > 1 else (inwards[0], between(inwards[0], middle, _FADED)), most)

    return (*side(colors[:half]), middle, *side(colors[-half:][::-1])[::-1])


def firm(color: str) -> str:
    """A colour, or the lightest tone of it that is seen on paper as a dot or a thin line."""
    lightness = oklab(color)[0]
    while contrast(color, PAPER) < VISIBLE:
        lightness -= _NUDGE
        color = with_lightness(color, lightness)
    return color


def _on_paper(palette: str, count: int) -> tuple[str, ...]:
    """So many shades of a ramp, none lighter than what is seen on paper as a dot or a thin line."""
    colors = NAMED[palette]
    if palette != "furrow":
        visible = tuple(color for color in colors if contrast(color, PAPER) >= VISIBLE)
        return _spread(visible, count, firm(colors[2]))
    side = count // 2
    middle = (firm(PALE),) * (count % 2)
    left, right = (
        _spread(ends[::-1], side) if side > 1 else ends[1:][:side] for ends in (colors[:2], colors[-1:-3:-1])
    )
    return (*left[::-1], *middle, *right)


@lru_cache(maxsize=64)
def _spread(colors: tuple[str, ...], count: int, light: str = "") -> tuple[str, ...]:
    """So many colours along a ramp that are told apart: where they are not, from a lighter to a darker end.

    Args:
        colors: The ramp, from light to dark.
        count: How many.
        light: A lighter tone of it, to start from where there are many; middle tones serve too then, as on dots and
            lines no text stands.
    """
    found = _along(colors, count)
    if count < 2 or are_apart(found):
        return found
    ramp = (light, *colors) if light else colors
    darkest = with_lightness(colors[-1], _NEARLY_BLACK)
    fine = [
        color
        for ends in pairwise((*ramp, darkest))
        for color in (between(*ends, place / _FINE) for place in range(_FINE))
        if light or not is_between(color)
    ]
    step = APART
    while len(walked := _walked(fine, step)) < count:
        step -= _NUDGE
    return walked[:count]


def _walked(colors: Sequence[str], step: float) -> tuple[str, ...]:
    """Those of many colours along a way that are a step or more from the last one."""
    found = [colors[0]]
    for color in colors:
        if distance(found[-1], color) >= step:
            found.append(color)
    return tuple(found)


@lru_cache(maxsize=64)
def _along(colors: tuple[str, ...], count: int) -> tuple[str, ...]:
    """So many colours evenly along a ramp; one is taken from past its middle.

    Where one of them were a middle tone that carries neither white nor ink, all are spread over the rest of the ramp.
    """
    if count == 1:
        return (colors[len(colors) * 3 // 5],)
    last = len(colors) - 1
    ramp = tuple(_at(colors, place * last / (count - 1)) for place in range(count))
    if not any(is_between(color) for color in ramp):
        return ramp
    fine = [_at(colors, place / _FINE) for place in range(last * _FINE + 1)]
    free = [color for color in fine if not is_between(color)]
    return tuple(free[round(place * (len(free) - 1) / (count - 1))] for place in range(count))


def _at(colors: tuple[str, ...], where: float) -> str:
    """The colour at a place along a ramp, counted in its own colours."""
    low = min(int(where), len(colors) - 2)
    part = where - low
    if part < ROUNDING or part > 1 - ROUNDING:
        return colors[low + round(part)]
    return between(colors[low], colors[low + 1], part)
