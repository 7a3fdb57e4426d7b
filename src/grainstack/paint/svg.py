"""SVG, written from the scene: tagged marks, real text, and the letters of the fonts used inside the file."""

import base64
from collections import defaultdict
from collections.abc import Iterable
from html import escape

from grainstack.chart.scene import Anchor, Key, Line, Mark, Rect, Scene, Text, Weight
from grainstack.chart.text import FAMILIES, font, runs

_KEPT_FEATURES = [int.from_bytes(tag, "big") for tag in (b"kern", b"mark", b"mkmk", b"ccmp")]
_WEIGHTS = {Weight.REGULAR: 400, Weight.SEMIBOLD: 600}


def paint(scene: Scene) -> bytes:
    """The scene as an SVG document. Every mark carries its role and the names of its cell as `data-` attributes."""
    body = "\n".join(_element(mark) for mark in scene.marks)
    width, height = _number(scene.width), _number(scene.height)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}pt" height="{height}pt" '
        f'viewBox="0 0 {width} {height}" role="img" aria-labelledby="title desc">\n'
        f'<title id="title">{escape(scene.title)}</title>\n<desc id="desc">{escape(scene.alt)}</desc>\n'
        f"<style>{_font_faces(scene.marks)}text{{font-family:{_families()};white-space:pre}}</style>\n"
        f'<rect width="{width}" height="{height}" fill="#ffffff"/>\n{body}\n</svg>\n'
    ).encode()


def _element(mark: Mark) -> str:
    data = f'data-role="{escape(mark.role)}"{_data(mark.key)}'
    tip = f"<title>{escape(mark.tip)}</title>" if mark.tip else ""
    if isinstance(mark, Rect):
        place = _attributes(x=mark.x, y=mark.y, width=mark.width, height=mark.height)
        return (
            f'<rect {place} fill="{mark.fill}" {data}>{tip}</rect>'
            if tip
            else f'<rect {place} fill="{mark.fill}" {data}/>'
        )
    if isinstance(mark, Line):
        place = _attributes(x1=mark.x1, y1=mark.y1, x2=mark.x2, y2=mark.y2)
        return f'<line {place} stroke="{mark.stroke}" stroke-width="{_number(mark.thickness)}" {data}/>'
    anchor = "" if mark.anchor is Anchor.START else f' text-anchor="{mark.anchor.value}"'
    weight = "" if mark.weight is Weight.REGULAR else f' font-weight="{_WEIGHTS[mark.weight]}"'
    place = _attributes(x=mark.x, y=mark.y, font_size=mark.size, textLength=mark.width)
    return f'<text {place}{anchor}{weight} fill="{mark.fill}" {data}>{tip}{escape(mark.content, quote=False)}</text>'


def _attributes(**values: float) -> str:
    return " ".join(f'{name.replace("_", "-")}="{_number(value)}"' for name, value in values.items())


def _data(key: Key) -> str:
    return "".join(f' data-{name}="{escape(value)}"' for name, value in key.parts())


def _number(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def _families() -> str:
    return ",".join(f"'{name}'" for name in FAMILIES) + ",sans-serif"


def _font_faces(marks: Iterable[Mark]) -> str:
    """The fonts used, cut down to the letters used, so that the picture looks the same on every machine."""
    letters: defaultdict[tuple[int, Weight], set[str]] = defaultdict(set)
    for mark in marks:
        if isinstance(mark, Text):
            for run in runs(mark.content, mark.weight):
                letters[run.family, mark.weight].update(run.content)
    return "".join(
        f"@font-face{{font-family:'{FAMILIES[family]}';font-weight:{_WEIGHTS[weight]};"
        f"src:url(data:font/ttf;base64,{_subset(family, weight, letters[family, weight])})}}"
        for family, weight in sorted(letters)
    )


def _subset(family: int, weight: Weight, letters: set[str]) -> str:
    import uharfbuzz  # noqa: PLC0415 - loaded by the measuring already

    wanted = uharfbuzz.SubsetInput()
    wanted.unicode_set.update(ord(letter) for letter in letters)
    wanted.layout_feature_tag_set.clear()
    wanted.layout_feature_tag_set.update(_KEPT_FEATURES)
    wanted.flags = uharfbuzz.SubsetFlags.NO_HINTING
    return base64.b64encode(wanted.subset(font(family, weight).face).blob.data).decode("ascii")
