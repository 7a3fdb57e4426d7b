"""Which way each series of a diverging chart points."""

from msgspec import Struct

from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.cells import ChartCells
from grainstack.errors import RequestError, nearest
from grainstack.option_fields import names_in
from grainstack.option_names import option


class Sides(Struct, frozen=True):
    """The two sides of a diverging chart.

    Attributes:
        ways: For each series -1 (the opposite side), 0 (neutral) or 1.
        apart: The neutral series that stand apart instead of straddling the middle.
    """

    ways: tuple[int, ...]
    apart: tuple[int, ...] = ()


def sides_of(cells: ChartCells, request: BarRequest) -> Sides:
    """The sides asked for; for levels that run from low to high the lower half is opposite and an odd middle neutral.

    What is no step of the scale, such as no answer, stands apart.

    Raises:
        RequestError: The sides cannot be told, or name a series there is not.
    """
    names = cells.series
    wanted = request.neutral or ""
    apart = wanted.partition(":")[0].strip() == "apart"
    neutral = wanted.partition(":")[2] if apart else wanted
    opposite = _places(request.opposite or "", names, "opposite")
    middle = [] if neutral == "none" else _places(neutral, names, "neutral")
    both = [names[place] for place in opposite if place in middle]
    if both:
        raise RequestError(f"`{both[0]}` cannot be opposite and neutral.", "Name it once.")
    named = tuple(middle)
    levels = cells.dimension.levels[: len(names)] if cells.dimension else ()
    aside = [n for n, level in enumerate(levels) if level.is_special and n not in opposite and n not in middle]
    scale = [place for place in range(len(names)) if place not in aside]
    ordered = cells.dimension is not None and cells.dimension.variable.is_ordered
    if not opposite:
        if not ordered and len(scale) != 2:
            raise RequestError(
                "Which series point to the other side?",
                f"Name them: {option('opposite')} {names[0] if names else 'LEVELS'}.",
            )
        steps = [place for place in scale if not (levels and levels[place].is_special)]
        between = [place for place in middle if place in steps]
        half = steps.index(min(between)) if between else len(steps) // 2
        if not between and len(steps) % 2 and neutral != "none":
            middle.append(steps[half])
        opposite = [place for place in steps[:half] if place not in middle]
    middle += aside
    ways = tuple(-1 if place in opposite else 0 if place in middle else 1 for place in range(len(names)))
    if apart and not set(middle) - set(aside):
        raise RequestError(
            f"{option('neutral')} apart needs a middle level.", f"Name it: {option('neutral')} 'apart: LEVEL'."
        )
    return Sides(ways, tuple(sorted({*(named or middle if apart else ()), *aside})))


def _places(text: str, names: tuple[str, ...], field: str) -> list[int]:
    found = []
    for name in names_in(text) if text else ():
        if name not in names:
            raise RequestError(f"{option(field)}: there is no series `{name}`.", nearest(name, list(names)))
        found.append(names.index(name))
    return found
