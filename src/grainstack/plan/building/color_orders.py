"""The colours of levels through a whole plan: each level has one, in this build and in those to come."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from msgspec.structs import replace

from grainstack.advice import Advice
from grainstack.chart.colored_column import colored_column, told_apart
from grainstack.chart.look.coloring import MOST_COLORS
from grainstack.language import in_words, phrase
from grainstack.making.kind import Product
from grainstack.making.make import Made
from grainstack.plan.building.pieces import Built
from grainstack.records.variable import Level, LevelOrder
from grainstack.summary.table import Dimension

ColorOrders = Mapping[str, tuple[str, ...]]  # codes by column, in the order in which they were given colours


def in_plan_colors(built: Sequence[Built], before: ColorOrders) -> tuple[list[Built], ColorOrders]:
    """Charts in which each level has the colour that every chart of the plan gives it.

    A column of few levels gives them colours in its own order, as a chart alone does. Of a column with more levels
    than there are colours, those get one that most charts show, then in its order; what was given before stays.

    Args:
        built: The tables and charts.
        before: What earlier builds gave.

    Returns:
        The tables and charts, and what is given now.
    """
    columns: dict[str, list[Dimension]] = {}
    for one in built:
        for made in _every(one.made):
            column = _colored(made)
            if column is not None:
                columns.setdefault(column.variable.name, []).append(column)
    orders = {**before, **{name: _order(of_it, before.get(name, ())) for name, of_it in columns.items()}}
    return [replace(one, made=_colored_by(one.made, orders)) for one in built], orders


def _order(column: Sequence[Dimension], before: Sequence[str]) -> tuple[str, ...]:
    """The codes of a column in the order in which they are given colours."""
    every = _plain(level for one in column for level in one.all_levels)
    listed = all(one.variable.order is LevelOrder.CODEBOOK for one in column)
    if len(every) <= MOST_COLORS:
        return tuple(dict.fromkeys([*(() if listed else before), *every]))
    charts = Counter(code for one in column for code in _plain(one.levels))
    shown = sorted(charts, key=lambda code: (-charts[code], every.index(code)))
    return tuple(dict.fromkeys([*before, *shown]))


def _plain(levels: Iterable[Level]) -> list[str]:
    """The codes of levels that are steps or kinds of their own, each once."""
    return list(dict.fromkeys(level.code for level in levels if not level.is_special))


def _every(made: Made) -> list[Made]:
    """A chart, and what readers of a page may choose instead."""
    return [made, *made.choices.values()]


def _colored(made: Made) -> Dimension | None:
    return colored_column(made.table, made.requests) if made.kind.product is Product.CHART else None


def _colored_by(made: Made, orders: ColorOrders) -> Made:
    """A chart in the colours of the plan; what does not have one there is told."""
    column = _colored(made)
    if column is None:
        return made
    name = column.variable.name
    dimensions = tuple(
        replace(one, color_order=orders[name]) if one.variable.name == name else one for one in made.table.dimensions
    )
    table = replace(made.table, dimensions=dimensions)
    pale = [one.label for one in told_apart(column, made.requests) if one.code in orders[name][MOST_COLORS:]]
    advice = made.advice
    if pale:
        text = phrase(
            "drawn pale: {levels} of {column}, as eight other levels have the colours through the whole plan. Give "
            "them one with color = in the codebook, or keep fewer.",
            levels=in_words(pale),
            column=column.variable.label,
        )
        advice = (*advice, Advice("colors-spent", text))
    return replace(
        made,
        table=table,
        arrangement=made.kind.arrange(table, made.requests),
        advice=advice,
        choices={places: _colored_by(one, orders) for places, one in made.choices.items()},
    )
