"""What a page needs to open a treemap's parents by itself: the tiles as a tree, the room they have, and their words.

The script of a page has the same rules as `picture` and `tiling`; a test holds its marks to those that are drawn here.
"""

from collections.abc import Callable, Mapping
from typing import Any

from grainstack.chart.frame.plane import Box
from grainstack.chart.look.color import PAPER, over, text_on
from grainstack.chart.look.coloring import Ink
from grainstack.chart.look.palette import GRID, PALE
from grainstack.chart.look.style import Style
from grainstack.chart.scene import PATTERNED, MarkRole, Rect, Weight
from grainstack.chart.treemaps.arrangement import Node
from grainstack.chart.writing.text import width
from grainstack.language import phrase, spoken
from grainstack.quick import dataclass

_MOST_TILES = 5_000  # more than that do not answer at once
_DIGITS = "0123456789.,’  "


@dataclass(frozen=True, slots=True)
class DrawnTiles:
    """Tiles as they were drawn.

    Attributes:
        root: The tile of everything.
        depth: How many levels there are.
        room: The room of all tiles, in points.
        style: Sizes and strokes.
        ink: The colour of a tile.
        shaded: Whether colours stand for a measure.
        outline: The colour of a line around each tile; empty for none.
        labelled: Whether figures are written at tiles.
        figure: What is written at a tile.
        total: The figure of a tile, as a number.
    """

    root: Node
    depth: int
    room: Box
    style: Style
    ink: Callable[[Node], Ink]
    shaded: bool
    outline: str
    labelled: bool
    figure: Callable[[Node], str]
    total: Callable[[Node], str]

    @property
    def can_be_redrawn(self) -> bool:
        """Whether there is anything to open, and not too much of it."""
        return self.depth > 1 and _tiles(self.root) <= _MOST_TILES

    def facts(self) -> Mapping[str, Any]:
        """All of it as JSON has it; lengths are points."""
        room, style = self.room, self.style
        names = ("gap", "part", "category", "value", "tick", "base", "least_type", "outline")
        rest = Rect(0, 0, 0, 0, PALE, MarkRole.TILE, hatch="rising")
        return {
            "kind": "tiles",
            "depth": self.depth,
            "room": [room.left, room.top, room.right, room.bottom],
            "style": {name: getattr(style, name) for name in names},
            "paper": style.paper,
            "outline": self.outline,
            "patterned": PATTERNED,
            "labelled": self.labelled,
            "space": round(width("a a", 1.0) - width("aa", 1.0), 5),
            "rest": {"fill": PALE, "pattern": f"rising-{rest.pattern[1:]}", **_words_of(phrase("{count} smaller"))},
            "digits": {one: [round(width(one, 1.0, weight), 5) for weight in Weight] for one in _DIGITS},
            "signs": [spoken().group, spoken().decimal],
            "root": self._node(self.root),
        }

    def _node(self, node: Node) -> Mapping[str, Any]:
        """A tile with its colours and words, and its children."""
        ink, total = self.ink(node), self.total(node)
        pale = GRID if not node.path else over(ink.fill, PAPER, 0.85 if self.shaded else 0.30)
        ground = PAPER if ink.hatch else ink.fill
        found: dict[str, Any] = {
            "key": dict(node.key.parts()).get("category", ""),
            "size": node.size,
            **_words_of(node.label),
            "bold": round(width(node.label, 1.0, Weight.SEMIBOLD), 5),
            "total": total,
            "totalWide": round(width(total, 1.0), 5),
        }
        if node.children:
            found |= {"pale": pale, "paleInk": text_on(pale)}
            return found | {"kids": [self._node(child) for child in node.children if child.size > 0]}
        figure = self.figure(node)
        found |= {"fill": ink.fill, "ink": text_on(ground), "figure": figure}
        found |= {"figureWide": round(width(figure, 1.0, Weight.SEMIBOLD), 5)}
        shape = Rect(0, 0, 0, 0, ink.fill, MarkRole.TILE, hatch=ink.hatch)
        return found | ({"pattern": f"{ink.hatch}-{shape.pattern[1:]}"} if ink.hatch else {})


def _words_of(label: str) -> Mapping[str, Any]:
    """A label, and the widths of its words by the size of the type."""
    return {"label": label, "words": [[word, round(width(word, 1.0), 5)] for word in label.split()]}


def _tiles(node: Node) -> int:
    return 1 + sum(map(_tiles, node.children))
