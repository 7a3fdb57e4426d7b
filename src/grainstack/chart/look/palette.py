"""The palettes, and so many shades of each.

Chosen in OKLCH and checked with the dichromacy matrices of Machado, Oliveira & Fernandes 2009: any two of `FIELDS` stay
at least 0.115 apart in OKLab in ordinary and in all three dichromatic visions, and white or ink stands on each with a
contrast of at least 4.5 : 1.
"""

from grainstack.chart.look.vision import between
from grainstack.chart.request import RAMPS

MUTED = "#5c6770"
GRID = "#e3e6e8"
PALE = "#c9ced2"

FIELDS = ("#1a726a", "#ddb227", "#414076", "#4bbde3", "#ac430e", "#68a17e", "#835cbe", "#7f2117")
MEADOW = ("#e3f4e6", "#b1dac0", "#79c0a2", "#43a48a", "#058676", "#01665f", "#024747")
KILN = ("#f8edd8", "#e8caa0", "#dba569", "#cd7e35", "#b65b13", "#943f16", "#6d2a1a")
FURROW = ("#7d3317", "#b26232", "#d8a173", "#eae8e2", "#77bcbf", "#1e8888", "#005351")
SLATE = ("#2b2f33", "#8a9096", "#d3d6d9", "#5a6066", "#b0b5ba")
NAMED = {"fields": FIELDS, "meadow": MEADOW, "kiln": KILN, "furrow": FURROW, "slate": SLATE}


def shades(palette: str, count: int) -> tuple[str, ...]:
    """So many colours of a palette: in its order for categories, from light to dark for a ramp.

    Few levels leave out the lightest shade, which is faint on paper; more than a ramp has are mixed between its shades.
    A two-sided ramp keeps its middle for an odd number only.

    Args:
        palette: Its name.
        count: How many; a palette of categories gives no more than it has.
    """
    colors = NAMED[palette]
    if palette == "slate":
        return _along(("#e3e5e7", "#2b2f33"), count) if count > len(colors) else colors[:count]
    if palette not in RAMPS:
        return colors[:count]
    if palette == "furrow":
        side = count // 2
        if side > 3:
            left, right = _along(colors[:3], side), _along(colors[4:], side)
        else:
            left, right = colors[:3][1 if side < 3 else 0 :][:side], colors[4:][: 2 if side < 3 else 3][-side:]
        return (*left, *(colors[3:4] if count % 2 else ()), *(right if side else ()))
    return _along(colors if count > 6 else colors[1:], count)


def _along(colors: tuple[str, ...], count: int) -> tuple[str, ...]:
    """So many colours evenly along a ramp; one is taken from past its middle."""
    if count == 1:
        return (colors[len(colors) * 3 // 5],)
    found = []
    for place in range(count):
        where = place * (len(colors) - 1) / (count - 1)
        low = min(int(where), len(colors) - 2)
        part = where - low
        found.append(
            colors[low]
            if part < 1e-9
            else colors[low + 1]
            if part > 1 - 1e-9
            else between(colors[low], colors[low + 1], part)
        )
    return tuple(found)
