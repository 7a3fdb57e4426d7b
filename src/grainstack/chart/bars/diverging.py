"""Which way each series of a diverging chart points."""

from dataclasses import dataclass

from grainstack.chart.bars.request import BarRequest
from grainstack.chart.cells import ChartCells
from grainstack.errors import RequestError, nearest
from grainstack.speech import option
from grainstack.words import names_in


@dataclass(frozen=True, slots=True)
class Sides:
    """The two sides of a diverging chart.

    Attributes:
        ways: For each series -1 (the opposite side), 0 (neutral) or 1.
        apart: Whether neutral series stand apart instead of straddling the middle.
    """

    ways: tuple[int, ...]
    apart: bool = False


def sides_of(cells: ChartCells, request: BarRequest) -> Sides:
    """The sides asked for; for levels that run from low to high the lower half is opposite and an odd middle neutral.

    Raises:
        RequestError: The sides cannot be told, or name a series there is not.
    """
    names = cells.series
    asked = request.neutral or ""
    apart = asked.partition(":")[0].strip() == "apart"
    neutral = asked.partition(":")[2] if apart else asked
    opposite = _places(request.opposite or "", names, "opposite")
    middle = [] if neutral == "none" else _places(neutral, names, "neutral")
    both = [names[place] for place in opposite if place in middle]
    if both:
        raise RequestError(f"`{both[0]}` cannot be opposite and neutral.", "Name it once.")
    ordered = cells.dimension is not None and cells.dimension.variable.is_ordered
    if not opposite:
        if not ordered and len(names) != 2:
            raise RequestError(
                "Which series point to the other side?",
                f"Name them: {option('opposite')} {names[0] if names else 'LEVELS'}.",
            )
        half = len(names) // 2
        if middle:
            half = min(middle)
        elif len(names) % 2 and neutral != "none":
            middle = [half]
        opposite = [place for place in range(half) if place not in middle]
    ways = tuple(-1 if place in opposite else 0 if place in middle else 1 for place in range(len(names)))
    if apart and 0 not in ways:
        raise RequestError(
            f"{option('neutral')} apart needs a middle level.", f"Name it: {option('neutral')} 'apart: LEVEL'."
        )
    return Sides(ways, apart)


def _places(text: str, names: tuple[str, ...], field: str) -> list[int]:
    found = []
    for name in names_in(text) if text else ():
        if name not in names:
            raise RequestError(f"{option(field)}: there is no series `{name}`.", nearest(name, list(names)))
        found.append(names.index(name))
    return found
