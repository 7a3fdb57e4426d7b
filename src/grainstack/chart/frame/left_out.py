"""What a picture had no room for: counted from its marks, and said in one line of advice."""

from collections import defaultdict
from collections.abc import Mapping, Sequence

from grainstack.advice import Advice
from grainstack.chart.scene import Key, Mark, MarkRole, Scene, Text
from grainstack.chart.writing.wording import in_words
from grainstack.speech import option

_WORDS = {  # one and several of each, in the order they are told in
    MarkRole.CATEGORY: ("name", "names"),
    MarkRole.LEGEND: ("series name", "series names"),
    MarkRole.SLICE_LABEL: ("slice name", "slice names"),
    MarkRole.TILE: ("tile name", "tile names"),
    MarkRole.PANEL_TITLE: ("panel title", "panel titles"),
    MarkRole.VALUE: ("figure", "figures"),
    MarkRole.LETTER: ("comparison letter", "comparison letters"),
    MarkRole.BASE: ("base", "bases"),
    MarkRole.ASIDE: ("figure beside the bars", "figures beside the bars"),
    MarkRole.REFERENCE_LABEL: ("reference label", "reference labels"),
    MarkRole.TITLE: ("the title", "the title"),
    MarkRole.SUBTITLE: ("the subtitle", "the subtitle"),
    MarkRole.VALUE_TITLE: ("the title of the value axis", "the titles of the axes"),
    MarkRole.CATEGORY_TITLE: ("the title of the category axis", "the titles of the axes"),
    MarkRole.SECOND_TITLE: ("the title of the second axis", "the titles of the axes"),
    MarkRole.FOOTNOTE: ("part of the note", "part of the note"),
    MarkRole.SOURCE: ("the source", "the source"),
}


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


def advice_on_room(scene: Scene) -> list[Advice]:
    """One line on all that is cut or left out; nothing where a picture says everything."""
    missing = dict(scene.left_out)
    parts = []
    for role, (one, several) in _WORDS.items():
        if count := missing.get(role, 0):
            words = one if count == 1 else several
            parts.append(words if words.startswith(("the ", "part ")) else f"{count:,} {words}")
    said = []
    if parts:
        said.append(f"no room for {in_words(parts)}")
    if scene.cut:
        said.append(f"{scene.cut:,} text{'' if scene.cut == 1 else 's'} cut short")
    if scene.legend_moved:
        said.append("no room for the legend where it was asked for, so it stands at the top")
    if not said:
        return []
    where = "the whole is in the tips of an SVG; a larger"
    return [Advice("left-out", f"{' and '.join(said)}: {where} {option('size')} has room for more.")]
