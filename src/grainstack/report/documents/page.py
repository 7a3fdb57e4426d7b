"""A report as a page: one file that needs nothing else, read in a browser, on a phone and on paper."""

import json
import zlib
from base64 import b64encode
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from hashlib import sha256
from html import escape, unescape
from importlib.resources import files
from typing import TYPE_CHECKING, Any

import minify
from msgspec import Struct
from msgspec.structs import replace

from grainstack.advice import Advice
from grainstack.chart.scene import Movable, Scene
from grainstack.chart.writing.fonts import characters, set_in
from grainstack.chart.writing.fonts import typefaces as fonts_in_use
from grainstack.errors import ChartError
from grainstack.language import marked, phrase, spoken
from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.making.trace import KEYWORD
from grainstack.paint.svg import content as drawing_content
from grainstack.paint.svg import drawing, font_styles, view_box
from grainstack.plan.file.report import Part, Report
from grainstack.report.documents import assets
from grainstack.report.documents.commonmark import as_html
from grainstack.report.documents.composed_charts import advice_in, composed, size_of, title_of
from grainstack.report.print_request import behind_printed, table_printed
from grainstack.report.printing import Printed

if TYPE_CHECKING:
    from grainstack.chart.marks import Mark

SCRIPTS = ("linking.js", "views.js", "filters.js", "page.js")  # each uses those before it
SCRIPT_WORDS = (  # what they say
    marked("Arrow keys go through the figures."),
    marked("Copied the table."),
    marked("Copy the table"),
    marked("Save as PNG"),
    marked("Save as SVG"),
    marked("Saved {name}."),
    marked("Shown: {names}."),
    marked("All"),
    marked("As drawn"),
    marked("By name"),
    marked("By {series}"),
    marked("Drawn anew."),
    marked("Figures"),
    marked("Form"),
    marked("Largest first"),
    marked("Left out: {names}; the other figures stay as they are."),
    marked("Only this"),
    marked("Order"),
    marked("Path"),
    marked("Percent of all"),
    marked("Percent of each bar"),
    marked("Reset"),
    marked("Side by side"),
    marked("Stacked"),
)
_LESS = "\\u003c"  # a `<` in JSON, which no markup can begin with
_WIDTH = 680.0  # points of text and pictures: about ninety characters, and the usual picture at its full size
_PHONE, _PHONE_SHAPE = 320.0, 1.05  # points of a picture on a phone, and its height by its width
_GAP = 16.0  # points between pictures side by side


class _Block(Struct, frozen=True):
    """A piece of the page, the pictures in it, the first of which is seen, and the advice that gives."""

    html: str
    scenes: tuple[Scene, ...] = ()
    advice: tuple[Advice, ...] = ()


def page(report: Report, made: Mapping[str, Made]) -> Outputs:
    """The report as HTML, with the advice that its pictures give.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.

    Raises:
        RequestError: Something that cannot be shown.
        ChartError: A picture that cannot be drawn in its size.
    """
    return _assembled(report, list(_blocks(report, made)))


def chart_page(made: Made, scene: Scene) -> bytes:
    """A chart as a page of its own: the picture as it is, its figures, and a table of them.

    Args:
        made: The chart.
        scene: Its picture.
    """
    report = Report(title=scene.title or made.kind.name, language=spoken().name, trace=scene.trace)
    heading = _Block(f'<h1 class="status">{escape(report.title)}</h1>')  # the picture shows it to those who see
    part = Part(rows=(("chart",),))
    blocks = [heading, *_row(part, ("chart",), {"chart": made}, "part-1-1")]
    return _assembled(report, blocks).contents[0]


def table_page(made: Made) -> bytes:
    """A table as a page of its own.

    Args:
        made: The table.
    """
    trace = str(made.trace) if made.trace else ""
    report = Report(title=title_of(made), language=spoken().name, trace=trace)
    heading = _Block(f"<h1>{escape(report.title)}</h1>")
    part = Part(rows=(("table",),))
    return _assembled(report, [heading, *_row(part, ("table",), {"table": made}, "part-1-1")]).contents[0]


def _assembled(report: Report, blocks: Sequence[_Block]) -> Outputs:
    """The pieces of a page with their fonts, style and script."""
    scenes = [scene for block in blocks for scene in block.scenes]
    marks: list[Mark] = [mark for scene in scenes for mark in scene.marks]
    body = "\n".join(block.html for block in blocks)
    said = unescape(body) + "".join(map(phrase, SCRIPT_WORDS))
    typefaces = scenes[0].typefaces if scenes else ()
    with set_in(typefaces):
        known = characters(fonts_in_use()[0].regular)  # other letters are left to the reader's own fonts
        letters = "".join(sorted(letter for letter in set(said) if ord(letter) in known))
        fonts = font_styles(marks, letters)
    trace = f'<meta name="{KEYWORD.lower()}" content="{escape(report.trace)}">\n' if report.trace else ""
    answers, style = script(), files(assets).joinpath("page.css").read_text("utf-8")
    style = style.replace("WIDTH", f"{_WIDTH:g}").replace("GAP", f"{_GAP:g}")
    known_by = b64encode(sha256(answers.encode()).digest()).decode()  # nothing else may run
    policy = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:"
    policy += f"; script-src 'sha256-{known_by}'"
    content = (
        f'<!DOCTYPE html>\n<html lang="{escape(report.language)}">\n<head>\n<meta charset="utf-8">\n'
        f'<meta name="viewport" content="width=device-width, initial-scale=1">\n'
        f'<meta http-equiv="Content-Security-Policy" content="{policy}">\n'
        f"{trace}<title>{escape(report.title)}</title>\n<style>{fonts}{style}</style>\n</head>\n<body{_words()}>\n<main>\n"
        f"{body}\n</main>\n<script>{answers}</script>\n</body>\n</html>\n"
    )
    return Outputs((content.encode(),), tuple(advice for block in blocks for advice in block.advice))


@cache
def script() -> str:
    """The scripts of a page as one, without what is there for those who read them."""
    texts = (files(assets).joinpath(name).read_text("utf-8") for name in SCRIPTS)
    return ";\n".join(minify.string("text/javascript", text) for text in texts)


def _facts(scene: Scene, others: Mapping[str, Scene], name: str) -> str:
    """What the script needs to move marks, and the other drawings it may put in place of the first, packed."""
    about: dict[str, Any] = {}
    if scene.movable is not None:
        about["movable"] = _as_json(scene.movable)
    elif others:
        about["parents"] = {key: one.opened for key, one in others.items()}
    if not about:
        return ""
    views = "".join(
        f'<script type="application/octet-stream" class="view" data-view="{escape(key)}">{_packed(one, name)}</script>'
        for key, one in others.items()
    )
    content = json.dumps(about, ensure_ascii=False, separators=(",", ":"))
    return f'<script type="application/json" class="facts">{content.replace("<", _LESS)}</script>{views}'


def _as_json(movable: Movable) -> dict[str, Any]:
    return {name: getattr(movable, name) for name in movable.__struct_fields__}


def _packed(scene: Scene, name: str) -> str:
    """A drawing as the script unpacks it."""
    movable = _as_json(scene.movable) if scene.movable else None
    view = {"box": view_box(scene), "marks": drawing_content(scene, name), "movable": movable}
    return b64encode(zlib.compress(json.dumps(view, ensure_ascii=False).encode(), 9)).decode()


def _words() -> str:
    """What the script says, in the language spoken, for it to find; nothing where it speaks English."""
    said = {text: phrase(text) for text in SCRIPT_WORDS}
    if all(text == other for text, other in said.items()):
        return ""
    return f' data-words="{escape(json.dumps(said, ensure_ascii=False))}"'


def _blocks(report: Report, made: Mapping[str, Made]) -> Iterator[_Block]:
    """The pieces of the page in their order."""
    if report.title:
        yield _Block(f"<h1>{escape(report.title)}</h1>")
    headed = [(number, part) for number, part in enumerate(report.parts, 1) if part.heading and part.level == 2]
    if len(headed) > 2:  # fewer sections are seen at once
        items = "".join(f'<li><a href="#part-{number}">{escape(part.heading)}</a></li>' for number, part in headed)
        yield _Block(f'<nav aria-label="{escape(phrase("Contents"))}"><ul>{items}</ul></nav>')
    for number, part in enumerate(report.parts, 1):
        if part.heading:
            yield _Block(f'<h{part.level} id="part-{number}">{escape(part.heading)}</h{part.level}>')
        if part.text:
            yield _Block(as_html(part.text))
        for place, row in enumerate(part.rows, 1):
            yield from _row(part, row, made, f"part-{number}-{place}")
        if part.caption:
            yield _Block(f'<p class="notes">{escape(part.caption)}</p>')


def _row(part: Part, row: Sequence[str], made: Mapping[str, Made], name: str) -> Iterator[_Block]:
    """What stands side by side, between the tags that hold it together."""
    yield _Block('<div class="row">')
    for place, entry in enumerate(row, 1):
        one = made[entry]
        if one.kind.product is Product.TABLE:
            yield _Block(f"<div>{''.join(table_html(printed) for printed in table_printed(one))}</div>")
            continue
        size = part.size or (size_of((_WIDTH - _GAP * (len(row) - 1)) / len(row)) if len(row) > 1 else "")
        yield _Block(_opened(entry, one))
        yield from _chart(entry, one, size, f"{name}-{place}")
        for number, (places, choice) in enumerate(one.choices.items(), 1):
            chosen = [of_it.levels[at - 1] for of_it, at in zip(one.filters, places, strict=True) if at]
            blocks = _chart(f"{entry} {', '.join(chosen)}", choice, size, f"{name}-{place}-{number}")
            yield _Block(f'</div><div data-places="{".".join(map(str, places))}" hidden>')
            yield from (replace(block, advice=()) for block in blocks)
        yield _Block("</div></div>" if one.filters else "</div>")
    yield _Block("</div>")


def _chart(entry: str, one: Made, size: str, name: str) -> Iterator[_Block]:
    """A chart with its table, and composed for phones where it has no size of its own."""
    scene = composed(one, size) if size else one.picture()
    advice = advice_in(entry, scene) if size else ()  # in its own size, its file told it
    with set_in(scene.typefaces):
        narrow = None if size else _for_phones(one)
        for one_scene, kind in ((scene, "wide" if narrow else "only"), (narrow, "narrow")):
            if one_scene is not None:
                own = f"{name}{'-narrow' if kind == 'narrow' else ''}"
                others = one_scene.others() if one_scene.others else {}
                about = f'class="{kind}" data-name="{escape(entry)}"{_columns(one)}'
                content = f"<figure {about}>{drawing(one_scene, own)}{_facts(one_scene, others, own)}</figure>"
                yield _Block(content, (one_scene, *others.values()), () if kind == "narrow" else advice)
        tables = "".join(map(table_html, [*behind_printed(one), *table_printed(one)]))
        yield _Block(f"<details><summary>{escape(phrase('Show as table'))}</summary>{tables}</details>")


def _opened(entry: str, made: Made) -> str:
    """The tags around a chart, with what readers may choose of it."""
    if not made.filters:
        return "<div>"
    said = [{"label": one.label, "levels": one.levels} for one in made.filters]
    about = f'data-filtered="{escape(entry)}" data-filters="{escape(json.dumps(said, ensure_ascii=False))}"'
    return f'<div {about}><div data-places="{".".join("0" for _ in made.filters)}">'


def _columns(made: Made) -> str:
    """The columns of a chart, by what they do in it: so the script knows a level of one in another chart."""
    table = made.table
    named = {"panel": table.panel, "category": next(iter(table.categories[::-1]), None), "series": table.series}
    return "".join(f' data-{part}="{escape(one.variable.name)}"' for part, one in named.items() if one is not None)


def _for_phones(made: Made) -> Scene | None:
    """A chart composed for a phone, where one for a desk would be too small to read; None where it cannot be."""
    try:
        return composed(made, size_of(_PHONE, _PHONE_SHAPE))
    except ChartError:
        return None


def table_html(printed: Printed) -> str:
    """A table with its headings, and its notes below.

    Args:
        printed: Its texts.
    """
    caption = f"<caption>{escape(printed.title)}</caption>" if printed.title else ""
    rows = "".join(f"<tr>{_cells(printed, number)}</tr>" for number in range(len(printed.rows)))
    notes = "".join(f'<p class="notes">{escape(note)}</p>' for note in printed.notes)
    content = f"{caption}<thead>{_heading(printed)}</thead><tbody>{rows}</tbody>"
    return f'<div class="table" tabindex="0"><table>{content}</table></div>{notes}'


def _heading(printed: Printed) -> str:
    """The rows of the heading."""
    above = ""
    if printed.above:
        starts = [*(start for start, _ in printed.above), len(printed.heading)]
        spans = [(title, end - start) for (start, title), end in zip(printed.above, starts[1:], strict=True)]
        empty = f'<td colspan="{starts[0]}"></td>' if starts[0] else ""
        above = "".join(f'<th scope="colgroup" colspan="{wide}">{escape(title)}</th>' for title, wide in spans)
        above = f"<tr>{empty}{above}</tr>"
    cells = "".join(
        f'<th scope="col"{_figure(right)}>{escape(title.strip())}</th>'
        for title, right in zip(printed.heading, printed.right, strict=True)
    )
    return f"{above}<tr>{cells}</tr>"


def _cells(printed: Printed, number: int) -> str:
    """The cells of a row; names are its headings."""
    cells = []
    for place, (cell, is_figure) in enumerate(zip(printed.rows[number], printed.right, strict=True)):
        names = [*(["figure"] if is_figure else []), *(["sum"] if printed.is_apart(number, place) else [])]
        looks = f' class="{" ".join(names)}"' if names else ""
        cells.append(f"<td{looks}>{escape(cell)}</td>" if is_figure else f'<th scope="row"{looks}>{escape(cell)}</th>')
    return "".join(cells)


def _figure(right: bool) -> str:  # noqa: FBT001 - one side or the other
    return ' class="figure"' if right else ""
