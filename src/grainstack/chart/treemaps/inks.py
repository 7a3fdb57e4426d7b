"""The colours and patterns of the outermost categories of a treemap, the same in a picture and in a terminal."""

from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.look.coloring import HATCHES, MOST_COLORS, Ink, check_names, colors_of
from grainstack.chart.look.palette import PALE, colors_in, shades
from grainstack.chart.look.style import Style
from grainstack.chart.treemaps.tile_tree import Tree


def top_inks(tree: Tree, colors: ColorsRequest, style: Style) -> list[Ink]:
    """The ink of each outermost category, by the place `Node.top` gives it.

    Args:
        tree: The tiles.
        colors: What was asked for.
        style: The palettes to choose from.

    Raises:
        RequestError: A colour or highlight for a category that is not shown.
    """
    outer = [slot.labels[0] for slot in tree.cells.slots]
    check_names(colors, outer)
    dimension = tree.cells.table.categories[0]
    names = list(dict.fromkeys(outer))
    by_label: dict[str, str | None]
    if colors.one_color:
        ramp = "kiln" if colors.palette == "kiln" else style.ordered
        by_label = dict(zip(names, reversed(shades(ramp, len(names))), strict=False))
    elif tree.depth == 1 and not colors.palette:
        by_label = dict.fromkeys(names, colors_in(style.nominal)[0])
    else:
        chosen = colors_of(dimension.levels, dimension, shades(colors.palette or style.nominal, MOST_COLORS))
        by_label = {level.label: color for level, color in zip(dimension.levels, chosen, strict=True)}
    for level in dimension.levels:
        if level.is_special or level.color:
            by_label[level.label] = level.color
    by_label |= {name: color for name, color in colors.by_level.items() if name}
    if "" in colors.by_level:
        by_label = {name: colors.by_level.get(name, colors.by_level[""]) for name in by_label}
    if colors.highlighted:
        by_label = {name: color if name in colors.highlighted else PALE for name, color in by_label.items()}
    # names stand on the tiles, so that those without a colour can all be pale
    tops = {node.top: by_label.get(node.path[0]) or PALE for node in tree.root.children}
    patterned = colors.patterned or style.hatched
    return [
        Ink(tops.get(place, PALE), HATCHES[place % len(HATCHES)] if patterned else "") for place in range(max(tops) + 1)
    ]
