"""Colours, and which of white and ink reads better on them.

Chosen in OKLCH and checked with the dichromacy matrices of Machado, Oliveira & Fernandes 2009: any two of `FIELDS` stay
at least 0.115 apart in OKLab in ordinary and in all three dichromatic visions, and white or ink stands on each with a
contrast of at least 4.5 : 1.
"""

INK = "#1f2a33"
MUTED = "#5c6770"
GRID = "#e3e6e8"
PALE = "#c9ced2"
PAPER = "#ffffff"
READABLE = 4.5

FIELDS = ("#1a726a", "#ddb227", "#414076", "#4bbde3", "#ac430e", "#68a17e", "#835cbe", "#7f2117")
MEADOW = ("#e3f4e6", "#b1dac0", "#79c0a2", "#43a48a", "#058676", "#01665f", "#024747")
KILN = ("#f8edd8", "#e8caa0", "#dba569", "#cd7e35", "#b65b13", "#943f16", "#6d2a1a")
FURROW = ("#7d3317", "#b26232", "#d8a173", "#eae8e2", "#77bcbf", "#1e8888", "#005351")
SLATE = ("#2b2f33", "#8a9096", "#d3d6d9", "#5a6066", "#b0b5ba")
NAMED = {"fields": FIELDS, "meadow": MEADOW, "kiln": KILN, "furrow": FURROW, "slate": SLATE}
RAMPS = ("meadow", "kiln", "furrow")


def channels(color: str) -> tuple[float, float, float]:
    """Red, green and blue of `#rrggbb`, each from 0 to 1."""
    return int(color[1:3], 16) / 255, int(color[3:5], 16) / 255, int(color[5:7], 16) / 255


def linear(color: str) -> tuple[float, float, float]:
    """The same as amounts of light (the sRGB transfer function, IEC 61966-2-1)."""
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels(color))
    return red, green, blue


def luminance(color: str) -> float:
    """Relative luminance from 0 to 1 (WCAG 2.2, definition of relative luminance)."""
    red, green, blue = linear(color)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    """Contrast from 1 to 21 (WCAG 2.2, definition of contrast ratio)."""
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


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
    from grainstack.chart.vision import between  # noqa: PLC0415 - it builds on this module

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


def over(color: str, ground: str, opacity: float) -> str:
    """What a see-through colour looks like on a ground, blended as screens do it."""
    mixed = (o * opacity + g * (1 - opacity) for o, g in zip(channels(color), channels(ground), strict=True))
    return "#" + "".join(f"{round(255 * value):02x}" for value in mixed)


def text_on(ground: str) -> str:
    """White or ink, whichever reads better on a colour; black on the few in between where neither reaches 4.5 : 1."""
    best = max((PAPER, INK), key=lambda color: contrast(color, ground))
    return best if contrast(best, ground) >= READABLE else max((best, "#000000"), key=lambda c: contrast(c, ground))
