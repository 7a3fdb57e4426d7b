"""What only the finished picture tells: what had no room, and colours that are hard to tell apart."""

from itertools import combinations

from grainstack.advice import Advice
from grainstack.chart.frame.left_out import advice_on_room
from grainstack.chart.look.vision import VISIONS, distance
from grainstack.chart.scene import MarkRole, Rect, Scene, Text
from grainstack.errors import listed
from grainstack.language import phrase
from grainstack.speech import option

# Any two colours of the palette for categories are 0.115 apart in every vision; less than half of that cannot be told
# apart in a small swatch. Steps of a ramp of many levels are nearer, but they stand in order and need no telling.
_NEAR = 0.05
_MOST = 8  # series that anybody tells apart by colour


def advice_on_scene(scene: Scene) -> list[Advice]:
    """The advice that a picture gives.

    Args:
        scene: The picture.
    """
    return [*advice_on_room(scene), *_advice_on_colors(scene)]


def _advice_on_colors(scene: Scene) -> list[Advice]:
    """Series of the legend whose colours some readers cannot tell apart."""
    names = {mark.key: mark.content for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.LEGEND}
    swatches = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.LEGEND_SWATCH]
    if len(swatches) > _MOST:
        return []
    found = []
    for one, other in combinations(swatches, 2):
        visions = [vision for vision in VISIONS if distance(one.fill, other.fill, vision) < _NEAR]
        if visions and one.hatch == other.hatch:
            reader = phrase("to anybody")
            if visions[0] != "ordinary":
                reader = phrase("with {vision}", vision=listed(map(phrase, visions), joint=phrase(" or ")))
            pair = {"one": names.get(one.key, ""), "other": names.get(other.key, "")}
            found.append(phrase("{one} and {other} ({reader})", reader=reader, **pair))
    if not found:
        return []
    return [
        Advice(
            "colors-alike",
            phrase(
                "colours that look alike: {pairs}. Choose others with {color}, or add {hatch}.",
                pairs=listed(found, 3),
                color=option("color"),
                hatch=option("hatch"),
            ),
        )
    ]
