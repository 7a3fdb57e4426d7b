"""Advice on treemaps: whether the nesting runs from the particular to the general."""

from grainstack.advice import Advice
from grainstack.chart.treemaps.arrangement import Tree
from grainstack.language import phrase
from grainstack.requests import Requests
from grainstack.speech import option


def advice_on_tree(tree: Tree, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """Levels that each lie in one level of the column inside them."""
    advice = []
    table = tree.cells.table
    for place in range(tree.depth - 1):
        outer, inner = table.categories[place], table.categories[place + 1]
        pairs = {(slot.codes[place], slot.codes[place + 1]) for slot in tree.cells.slots}
        outers, inners = {pair[0] for pair in pairs}, {pair[1] for pair in pairs}
        if len(outers) == len(pairs) > len(inners) > 1:
            by = f"{option('by', inner.variable.name)} {option('by', outer.variable.name)}"
            names = outer.variable.in_sentence, inner.variable.in_sentence
            text = phrase(
                "each {outer} lies in one {inner}: nest them the other way, {by}.",
                outer=names[0],
                inner=names[1],
                by=by,
            )
            advice.append(Advice("nested-backwards", text))
    return advice
