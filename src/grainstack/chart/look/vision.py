"""Colours as perceived: distances in OKLab, and how they look without one kind of cone."""

from functools import lru_cache

from grainstack.chart.look.color import linear
from grainstack.language import marked

APART = 0.09  # in OKLab: nearer colours are taken for one another in a small swatch
Triple = tuple[float, float, float]
Matrix = tuple[Triple, Triple, Triple]

# Machado GM, Oliveira MM, Fernandes LAF (2009), A physiologically-based model for simulation of color vision
# deficiency, IEEE Transactions on Visualization and Computer Graphics 15, 1291-1298: severity 1.0, on linear RGB.
VISIONS: dict[str, Matrix] = {
    "ordinary": ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)),
    marked("protanopia"): (
        (0.152286, 1.052583, -0.204868),
        (0.114503, 0.786281, 0.099216),
        (-0.003882, -0.048116, 1.051998),
    ),
    marked("deuteranopia"): (
        (0.367322, 0.860646, -0.227968),
        (0.280085, 0.672501, 0.047413),
        (-0.011820, 0.042940, 0.968881),
    ),
    marked("tritanopia"): (
        (1.255528, -0.076749, -0.178779),
        (-0.078411, 0.930809, 0.147602),
        (0.004733, 0.691367, 0.303900),
    ),
}
_TO_CONES: Matrix = (
    (0.4122214708, 0.5363325363, 0.0514459929),
    (0.2119034982, 0.6806995451, 0.1073969566),
    (0.0883024619, 0.2817188376, 0.6299787005),
)
_TO_LAB: Matrix = (
    (0.2104542553, 0.7936177850, -0.0040720468),
    (1.9779984951, -2.4285922050, 0.4505937099),
    (0.0259040371, 0.7827717662, -0.8086757660),
)
_FROM_LAB: Matrix = (
    (1.0, 0.3963377774, 0.2158037573),
    (1.0, -0.1055613458, -0.0638541728),
    (1.0, -0.0894841775, -1.2914855480),
)
_FROM_CONES: Matrix = (
    (4.0767416621, -3.3077115913, 0.2309699292),
    (-1.2684380046, 2.6097574011, -0.3413193965),
    (-0.0041960863, -0.7034186147, 1.7076147010),
)


def as_seen(color: str, vision: str) -> str:
    """The colour as `#rrggbb` as it looks in one of `VISIONS`.

    Args:
        color: A colour as `#rrggbb`.
        vision: The kind of colour vision, one of `VISIONS`.
    """
    return _hex(_times(VISIONS[vision], linear(color)))


def oklab(color: str) -> Triple:
    """Lightness from 0 to 1, green–red and blue–yellow (Ottosson 2020, A perceptual color space)."""
    cones = _times(_TO_CONES, linear(color))
    first, second, third = (max(value, 0.0) ** (1 / 3) for value in cones)
    return _times(_TO_LAB, (first, second, third))


@lru_cache(4096)  # the charts of a report have few colours in common, and ask for each pair again
def distance(one: str, other: str, vision: str = "ordinary") -> float:
    """How far two colours are apart in OKLab as seen in a vision; black and white are 1 apart.

    Args:
        one: A colour as `#rrggbb`.
        other: Another one.
        vision: The kind of colour vision, one of `VISIONS`.
    """
    pairs = zip(oklab(as_seen(one, vision)), oklab(as_seen(other, vision)), strict=True)
    return float(sum((a - b) ** 2 for a, b in pairs) ** 0.5)


def between(one: str, other: str, part: float) -> str:
    """A colour on the straight way between two in OKLab: the first at 0, the second at 1."""
    if one == other:
        return one
    first, second = oklab(one), oklab(other)
    lightness, red, yellow = (a + (b - a) * part for a, b in zip(first, second, strict=True))
    a, b, c = _times(_FROM_LAB, (lightness, red, yellow))
    return _hex(_times(_FROM_CONES, (a**3, b**3, c**3)))


def with_lightness(color: str, lightness: float) -> str:
    """The colour with another lightness from 0 to 1 in OKLab, as near as a screen can show it."""
    _, red, yellow = oklab(color)
    a, b, c = _times(_FROM_LAB, (lightness, red, yellow))
    return _hex(_times(_FROM_CONES, (a**3, b**3, c**3)))


def _times(matrix: Matrix, vector: Triple) -> Triple:
    x, y, z = vector
    first, second, third = (row[0] * x + row[1] * y + row[2] * z for row in matrix)
    return first, second, third


def _hex(light: Triple) -> str:
    coded = (
        12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055 for c in (min(max(v, 0), 1) for v in light)
    )
    return "#" + "".join(f"{round(255 * value):02x}" for value in coded)
