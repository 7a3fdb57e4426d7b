"""A colour as numbers: channels, luminance, contrast, and which of white and ink reads better on it."""

from functools import cache

INK = "#1f2a33"
PAPER = "#ffffff"
READABLE = 4.5  # contrast of text as in the Web Content Accessibility Guidelines, level AA
VISIBLE = 3.0  # contrast of a mark with what is around it, as there (success criterion 1.4.11)


@cache
def channels(color: str) -> tuple[float, float, float]:
    """Red, green and blue of `#rrggbb`, each from 0 to 1."""
    return int(color[1:3], 16) / 255, int(color[3:5], 16) / 255, int(color[5:7], 16) / 255


def linear(color: str) -> tuple[float, float, float]:
    """The same as amounts of light (the sRGB transfer function, IEC 61966-2-1)."""
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels(color))
    return red, green, blue


@cache
def luminance(color: str) -> float:
    """Relative luminance from 0 to 1 (WCAG 2.2, definition of relative luminance)."""
    red, green, blue = linear(color)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    """Contrast from 1 to 21 (WCAG 2.2, definition of contrast ratio).

    Args:
        one: A colour as `#rrggbb`.
        other: Another one.
    """
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


@cache
def over(color: str, ground: str, opacity: float) -> str:
    """What a see-through colour looks like on a ground, blended as screens do it.

    Args:
        color: A colour as `#rrggbb`.
        ground: The one behind it.
        opacity: How solid the first is, from 0 to 1.
    """
    mixed = (o * opacity + g * (1 - opacity) for o, g in zip(channels(color), channels(ground), strict=True))
    return "#" + "".join(f"{round(255 * value):02x}" for value in mixed)


@cache
def text_on(ground: str) -> str:
    """White or ink, whichever reads better on a colour; where neither does (`is_between`), text has a plate."""
    return max((PAPER, INK), key=lambda color: contrast(color, ground))


def is_between(ground: str) -> bool:
    """Whether neither white nor ink can be read on a colour: too light for one, too dark for the other."""
    return max(contrast(PAPER, ground), contrast(INK, ground)) < READABLE
