"""What a picture had no room for: counted from its marks, and said in one line of advice."""

import unicodedata
from collections import defaultdict
from collections.abc import Mapping, Sequence
from itertools import combinations

from grainstack.advice import Advice
from grainstack.chart.look.palette import PALE
from grainstack.chart.look.vision import VISIONS, distance
from grainstack.chart.marks import Key, Mark, MarkRole, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.chart.writing.fonts import is_missing, set_in
from grainstack.errors import listed
from grainstack.language import in_words, phrase, phrases
from grainstack.option_names import option
from grainstack.visible import visible


def _words(role: MarkRole, count: int) -> str:
    """So many texts of a role, in the order of roles they are told in."""
    return {
        MarkRole.CATEGORY: phrases("{n} name", "{n} names", count),
        MarkRole.LEGEND: phrases("{n} series name", "{n} series names", count),
        MarkRole.SLICE_LABEL: phrases("{n} slice name", "{n} slice names", count),
        MarkRole.TILE: phrases("{n} tile name", "{n} tile names", count),
        MarkRole.PANEL_TITLE: phrases("{n} panel title", "{n} panel titles", count),
        MarkRole.VALUE: phrases("{n} figure", "{n} figures", count),
        MarkRole.LETTER: phrases("{n} comparison letter", "{n} comparison letters", count),
        MarkRole.BASE: phrases("{n} base", "{n} bases", count),
        MarkRole.ASIDE: phrases("{n} figure beside the bars", "{n} figures beside the bars", count),
        MarkRole.DIFFERENCE: phrases("{n} bracket", "{n} brackets", count),
        MarkRole.ANNOTATION: phrases("{n} annotation", "{n} annotations", count),
        MarkRole.REFERENCE_LABEL: phrases("{n} reference label", "{n} reference labels", count),
        MarkRole.TITLE: phrase("the title"),
        MarkRole.SUBTITLE: phrase("the subtitle"),
        MarkRole.VALUE_TITLE: phrases("the title of the value axis", "the titles of the axes", count),
        MarkRole.CATEGORY_TITLE: phrases("the title of the category axis", "the titles of the axes", count),
        MarkRole.SECOND_TITLE: phrases("the title of the second axis", "the titles of the axes", count),
        MarkRole.FOOTNOTE: phrase("part of the note"),
        MarkRole.SOURCE: phrase("the source"),
    }[role]


_TOLD = (  # the roles whose texts are told of, in their order
    *(MarkRole.CATEGORY, MarkRole.LEGEND, MarkRole.SLICE_LABEL, MarkRole.TILE, MarkRole.PANEL_TITLE, MarkRole.VALUE),
    *(
        MarkRole.LETTER,
        MarkRole.BASE,
        MarkRole.ASIDE,
        MarkRole.DIFFERENCE,
        MarkRole.ANNOTATION,
        MarkRole.REFERENCE_LABEL,
    ),
    *(MarkRole.TITLE, MarkRole.SUBTITLE, MarkRole.VALUE_TITLE, MarkRole.CATEGORY_TITLE, MarkRole.SECOND_TITLE),
    *(MarkRole.FOOTNOTE, MarkRole.SOURCE),
)


def lacking(marks: Sequence[Mark], wanted: Mapping[MarkRole, int]) -> tuple[tuple[MarkRole, int], ...]:
    """How many texts of each role are missing; a text on several lines is one.

    Args:
        marks: What is drawn.
        wanted: How many texts of each role there are to write.
    """
    written: defaultdict[MarkRole, set[Key | int]] = defaultdict(set)
    for place, mark in enumerate(marks):
        if isinstance(mark, Text):
            written[mark.role].add(place if mark.key == Key() else mark.key)
    missing = {role: count - len(written[role]) for role, count in wanted.items()}
    return tuple((role, count) for role, count in missing.items() if count > 0)


def advice_on_room(scene: Scene, *, tips: bool = False) -> list[Advice]:
    """One line on all that is cut or left out; nothing where a picture says everything.

    Args:
        scene: The picture.
        tips: Whether it is written in a format that shows the whole when pointed at.
    """
    missing = dict(scene.left_out)
    parts = [_words(role, missing[role]) for role in _TOLD if missing.get(role, 0)]
    sentences = []
    if parts:
        sentences.append(phrase("no room for {texts}", texts=in_words(parts)))
    if scene.cut:
        sentences.append(phrases("{n} text cut short", "{n} texts cut short", scene.cut))
    if scene.legend_moved:
        sentences.append(phrase("no room for the legend where it was asked for, so it stands at the top"))
    if not sentences:
        return []
    text = f"{in_words(sentences)}."
    if tips:
        text += phrase(" The whole is in the tips of the SVG or page.")
    if scene.larger_helps:
        text += phrase(" A larger {size} has room for more.", size=option("size"))
    return [Advice("left-out", text)]


# Any two colours of the palette for categories are 0.115 apart in every vision; less than half of that cannot be told
# apart in a small swatch. Steps of a ramp of many levels are nearer, but they stand in order and need no telling.
_NEAR = 0.05
_MOST = 8  # series that anybody tells apart by colour


def advice_on_scene(scene: Scene, *, tips: bool = False) -> list[Advice]:
    """The advice that a picture gives.

    Args:
        scene: The picture.
        tips: Whether it is written in a format that shows the whole when pointed at.
    """
    touches = [Advice("touch", sentence) for sentence in scene.touches_told]
    return [*advice_on_room(scene, tips=tips), *_advice_on_colors(scene), *_advice_on_characters(scene), *touches]


def _advice_on_characters(scene: Scene) -> list[Advice]:
    """The characters that no font has."""
    with set_in(scene.typefaces):
        characters = {one for mark in scene.marks if isinstance(mark, Text) for one in visible(mark.content)}
        missing = sorted(filter(is_missing, characters))
    if not missing:
        return []
    names = [f"{one} (U+{ord(one):04X} {unicodedata.name(one, '')}".rstrip() + ")" for one in missing]
    return [
        Advice(
            "missing-character",
            phrase(
                "no font here has {characters}: a box is drawn in its place. Install a font that has it, name one in a "
                "style file, or change the label.",
                characters=listed(names, 3),
            ),
        )
    ]


def _advice_on_colors(scene: Scene) -> list[Advice]:
    """Series of the legend whose colours some readers cannot tell apart."""
    names = {mark.key: mark.content for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.LEGEND}
    swatches = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.LEGEND_SWATCH]
    if len(swatches) > _MOST:
        return []
    found = []
    for one, other in combinations(swatches, 2):
        visions = [vision for vision in VISIONS if distance(one.fill, other.fill, vision) < _NEAR]
        if visions and one.hatch == other.hatch and not one.fill == other.fill == PALE:  # these are not highlighted
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
                pairs=in_words(found),
                color=option("color"),
                hatch=option("hatch"),
            ),
        )
    ]
