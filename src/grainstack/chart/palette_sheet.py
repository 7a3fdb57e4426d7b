"""All palettes as seen in ordinary and three dichromatic visions, with the smallest distance between their colours."""

from itertools import combinations, pairwise

from grainstack.chart.colors_request import RAMPS
from grainstack.chart.look.color import INK, PAPER, text_on
from grainstack.chart.look.measures import MIDLINE
from grainstack.chart.look.palette import MUTED, NAMED
from grainstack.chart.look.style import Style
from grainstack.chart.look.vision import VISIONS, as_seen, distance
from grainstack.chart.marks import Key, Mark, MarkRole, Rect, Text, Weight
from grainstack.chart.scene import Scene
from grainstack.chart.writing.text import width, wrapped

_USES = {
    "fields": "categories; the first alone for a single series",
    "meadow": "from low to high, one hue",
    "kiln": "from low to high, warm",
    "furrow": "two sides and a middle",
    "slate": "black-and-white print, with patterns",
}
_TITLE = "Palettes as seen in four kinds of colour vision"
_NOTE = (
    "Distances are smallest distances in OKLab (black and white are 1 apart): of any two colours of a palette of "
    "categories, of neighbours in a ramp. Visions by the matrices of Machado, Oliveira and Fernandes (2009)."
)


def palette_rows() -> list[tuple[str, str, str, tuple[str, ...], float]]:
    """For every palette and vision: its name, its use, the vision, the colours as seen, and the smallest distance."""
    return [
        (name, use, vision, tuple(as_seen(color, vision) for color in NAMED[name]), smallest(name, vision))
        for name, use in _USES.items()
        for vision in VISIONS
    ]


def smallest(palette: str, vision: str) -> float:
    """The smallest distance of two colours that can stand side by side."""
    colors = NAMED[palette]
    pairs = pairwise(colors) if palette in RAMPS else combinations(colors, 2)
    return min(distance(one, other, vision) for one, other in pairs)


def palettes_scene(size: tuple[float, float], style: Style) -> Scene:
    """The picture of all palettes: a block per palette, a row per vision."""
    style = style.for_size(*size)
    margin, wide, tall = style.margin, *size
    marks: list[Mark] = [_text((margin, margin + style.title * 0.72), _TITLE, style.title, INK)]
    top = margin + style.title * 2.1
    rows = palette_rows()
    notes = wrapped(_NOTE, style.note, wide - 2 * margin, 3)
    bottom = tall - margin - len(notes) * style.note * 1.5
    for place, content in enumerate(notes):
        marks.append(_text((margin, bottom + (place + 1.3) * style.note * 1.5), content, style.note, MUTED))
    block = (bottom - top) / len(_USES)
    line = (block - style.category * 2.0) / len(VISIONS)
    left, right = margin + style.tick * 8.5, wide - margin - style.tick * 4
    for place, (name, use, vision, colors, gap) in enumerate(rows):
        group, row = divmod(place, len(VISIONS))
        y = top + group * block
        if row == 0:
            marks.append(_text((margin, y), name, style.category, INK))
            marks.append(_text((left, y), use, style.tick, MUTED))
        y += style.category * 0.6 + row * line
        base = y + line / 2 + style.tick * MIDLINE
        marks.append(_text((margin, base), vision, style.tick, MUTED))
        each = (right - left) / len(colors)
        for column, (seen, own) in enumerate(zip(colors, NAMED[name], strict=True)):
            x = left + column * each
            marks.append(
                Rect(x, y, each, line - 1, seen, MarkRole.SWATCH, Key(category=(name,), series=(vision,)), own)
            )
            if row == 0 and width(own, style.tick) < each - 4:
                marks.append(_text((x + 3, base), own, style.tick, text_on(seen), seen))
        marks.append(_text((right + style.gap * 1.5, base), f"{gap:.3f}", style.tick, INK))
    alt = f"{_TITLE}. {len(_USES)} palettes in {len(VISIONS)} rows each. {_NOTE}"
    return Scene(wide, tall, tuple(marks), alt, _TITLE)


def palettes_text(*, colors: bool) -> str:
    """The same for a terminal: coloured blocks, or the colours by name."""
    lines = []
    for name, use, vision, seen, gap in palette_rows():
        if vision == "ordinary":
            lines += ["", f"{name}: {use}", f"  {' '.join(NAMED[name])}"]
        shown = "".join(map(_block, seen)) if colors else " ".join(seen)
        lines.append(f"  {vision:13} {shown}  {gap:.3f}")
    return "\n".join([_TITLE, *lines, "", _NOTE]) + "\n"


def _block(color: str) -> str:
    red, green, blue = (int(color[place : place + 2], 16) for place in (1, 3, 5))
    return f"\x1b[48;2;{red};{green};{blue}m   \x1b[0m"


def _text(at: tuple[float, float], content: str, size: float, fill: str, ground: str = PAPER) -> Text:
    weight = Weight.SEMIBOLD if fill == INK and ground == PAPER and not content[:1].isdigit() else Weight.REGULAR
    return Text(*at, content, size, width(content, size, weight), fill, MarkRole.LABEL, weight, ground=ground)
