"""What stands at each category of a chart: its name, the base under it, and the signs of figures not written."""

from collections.abc import Sequence

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.frame.category_axis import Category
from grainstack.chart.frame.sign_places import SignPlaces
from grainstack.chart.marks import Key
from grainstack.language import phrase


def categories_of(cells: ChartCells, names: Sequence[str], bases: Sequence[str]) -> tuple[Category, ...]:
    """The categories, as the axis needs them.

    Args:
        cells: The figures of the chart.
        names: What each is called on the axis; empty for nothing.
        bases: What stands under each name; empty for nothing.
    """
    return tuple(
        Category(name, base, slot.outer, slot.group, Key(category=slot.codes))
        for slot, name, base in zip(cells.slots, names, bases, strict=True)
    )


def names_of(cells: ChartCells, bases: Sequence[str], signs: SignPlaces) -> list[str]:
    """The name of each category with the signs at it.

    Args:
        cells: The figures of the chart.
        bases: What stands under each name; empty for nothing.
        signs: The signs at categories.
    """
    return [f"{slot.label}{signs.at_name(place, bases[place])}" for place, slot in enumerate(cells.slots)]


def bases_of(cells: ChartCells, signs: SignPlaces) -> list[str]:
    """The base of each category in words, with the signs at it.

    Args:
        cells: The figures of the chart.
        signs: The signs at categories.
    """
    panels = range(len(cells.panels))
    stacks = [[cell for panel in panels for cell in cells.stack(panel, slot)] for slot in range(len(cells.slots))]
    return [
        f"{phrase('n = {base}', base=_in_words(stack))}{signs.at_base(place)}" for place, stack in enumerate(stacks)
    ]


def _in_words(stack: Sequence[Cell]) -> str:
    """The base of a category: one number, or from the smallest to the largest of its series."""
    bases = sorted(stack, key=lambda cell: cell.base)
    smallest, largest = bases[0].base_in_words, bases[-1].base_in_words
    return smallest if smallest == largest else f"{smallest}–{largest}"
