"""The report of a plan: its parts in order, each a heading, a text, and what is shown."""

import re
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct, field
from msgspec.structs import force_setattr

from grainstack.advice import MessagesRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.endings import REPORT_FORMATS
from grainstack.errors import RequestError, nearest
from grainstack.language import ENGLISH
from grainstack.option_names import worded
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.references import entry_of, reference, references_in
from grainstack.plan.file.text_pictures import with_pictures
from grainstack.toml_schema import BOOLEAN, TEXT, TEXTS, Key, one_of
from grainstack.visible import visible_lines

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._-]*")  # of an entry or a report: what every file system takes
NAME_RULE = "a name has letters, digits, blanks, dots, hyphens and underscores only."
PAPERS = {"A4": (595.28, 841.89), "letter": (612.0, 792.0)}  # width and height in points
SLIDES = {  # what a slide may hold, and the usual name of its layout
    "title": "Title Slide",
    "section": "Section Header",
    "text": "Title and Content",
    "chart": "Title Only",
    "table": "Title Only",
}
_NAMES = ("template", "no_advice")
_SWITCHES = ("chart_pages", "same_scale", "appendix")
_TEMPLATES = {".docx": "docx", ".dotx": "docx", ".pptx": "pptx", ".potx": "pptx"}  # endings, and what they are for
_FORMATS = {"anyOf": [one_of(*REPORT_FORMATS), {"type": "array", "items": one_of(*REPORT_FORMATS)}]}
_SIDE_BY_SIDE = {"type": "array", "items": {"anyOf": [TEXT, {"type": "array", "items": TEXT}]}}
REPORT: Mapping[str, Key] = {
    "title": Key("Its title.", TEXT),
    "language": Key("The language it is written in: de, or de-AT; that of its entries if not given.", TEXT),
    "name": Key("What its file is called; report if not given.", TEXT),
    "formats": Key("The formats it is written in; html if not given.", _FORMATS),
    "template": Key(
        "A DOCX or PPTX, beside the plan, whose styles, headers, page and layouts the report takes; a list for both.",
        {"anyOf": [TEXT, TEXTS]},
    ),
    "paper": Key("The paper of a PDF; A4 if not given.", one_of(*PAPERS)),
    "chart_pages": Key("Whether every row of charts begins a page of a PDF.", BOOLEAN),
    "no_advice": Key("Advice on its pictures that was heard: a name, or a list.", TEXTS),
    "appendix": Key("Whether it ends in how its figures were made, and of which records.", BOOLEAN),
    "layouts": Key(
        "The layouts of a presentation by their names in the template, for " + ", ".join(SLIDES) + ".",
        {"type": "object", "properties": dict.fromkeys(SLIDES, TEXT), "additionalProperties": False},
    ),
}
PART: Mapping[str, Key] = {
    "heading": Key("A heading before it.", TEXT),
    "level": Key("How deep the heading stands: 2 for a section, 3 for one within it …", {"enum": [2, 3, 4]}),
    "text": Key("Text in CommonMark; its pictures are PNG or JPEG files in the folder of the plan.", TEXT),
    "show": Key(
        "Entries below the text: a name, or a list in which names in a list of their own stand side by side.",
        {"anyOf": [TEXT, _SIDE_BY_SIDE]},
    ),
    "size": Key("The size its charts are drawn in: 160x90mm.", TEXT),
    "same_scale": Key("Whether charts that stand side by side share the scale of their value axes.", BOOLEAN),
    "caption": Key("What stands below what is shown.", TEXT),
}


class Part(Struct, frozen=True):
    """A part of a report.

    Attributes:
        heading: Its heading; empty for none.
        level: How deep that stands, from 2.
        text: Text in CommonMark; may be empty.
        rows: The names of the entries shown, those of one row side by side.
        size: The size its charts are drawn in; empty for that of their row.
        caption: What stands below them; may be empty.
        same_scale: Whether charts side by side share the scale of their value axes.
    """

    heading: str = ""
    level: int = 2
    text: str = ""
    rows: tuple[tuple[str, ...], ...] = ()
    size: str = ""
    caption: str = ""
    same_scale: bool = False

    def __post_init__(self) -> None:
        for name in ("heading", "text", "caption"):
            force_setattr(self, name, visible_lines(getattr(self, name)))

    @property
    def texts(self) -> tuple[str, ...]:
        """Every text of it that figures may stand in."""
        return self.heading, self.text, self.caption


class Report(Struct, frozen=True):
    """A report.

    Attributes:
        title: Its title.
        language: The language it is written in, as BCP 47 writes it, which goes by its entries where it is not said.
        name: What its file is called.
        formats: The endings of its files, without the dot.
        parts: Its parts, in their order.
        templates: The files whose styles and layouts documents take.
        layouts: The names of layouts, by what a slide holds.
        paper: One of `PAPERS`.
        chart_pages: Whether every row of charts begins a page.
        appendix: What an appendix on how its figures were made says of the plan; empty for no appendix.
        places: Where each reference to a figure stands in the plan, for messages.
        trace: Where it comes from, as its files carry it; empty for nothing.
        no_advice: The advice it asks to be spared.
        of_everything: Whether it has no parts of its own, and shows every entry in their order.
    """

    title: str
    language: str = ENGLISH
    name: str = "report"
    formats: tuple[str, ...] = ("html",)
    parts: tuple[Part, ...] = ()
    templates: tuple[str, ...] = ()
    layouts: Mapping[str, str] = field(default_factory=dict)
    paper: str = "A4"
    chart_pages: bool = False
    appendix: str = ""
    places: Mapping[str, str] = field(default_factory=dict)
    trace: str = ""
    no_advice: tuple[str, ...] = ()
    of_everything: bool = False

    def __post_init__(self) -> None:
        force_setattr(self, "title", visible_lines(self.title))

    def template_for(self, form: str) -> str:
        """The template of a format; empty for none.

        Args:
            form: `docx` or `pptx`.
        """
        return next((one for one in self.templates if _template_for(one) == form), "")

    @property
    def texts(self) -> tuple[str, ...]:
        """Every text that figures may stand in."""
        return (self.title, *(text for part in self.parts for text in part.texts))

    @property
    def shown(self) -> tuple[str, ...]:
        """The names of all entries it shows, or names figures of, each once."""
        shown = [name for part in self.parts for row in part.rows for name in row]
        named = [name for part in (Part(heading=self.title), *self.parts) for name in self.named_in(part)]
        return tuple(dict.fromkeys([*shown, *named]))

    @staticmethod
    def named_in(part: Part) -> tuple[str, ...]:
        """The names of entries that the texts of a part name figures of.

        Args:
            part: The part.
        """
        return tuple(entry_of(one) for text in part.texts for one in references_in(text))


class ReportReader:
    """A report while it is being checked.

    Args:
        at: The place of the report, or of a part by its number, and of some words in it, for messages.
        fault: Told of what is wrong: where, and a sentence.
        filled: A text with the params in it; where it stands is told.
        beside: The path of a file that is named from the folder of the plan.
        about: What tells the plan from any other, in words.
    """

    def __init__(
        self,
        at: Callable[[int | None, str], str],
        fault: Callable[[str, str], None],
        filled: Callable[[Any, str], Any],
        beside: Callable[[str], str],
        about: str,
    ) -> None:
        self._at, self._fault, self._filled, self._beside = at, fault, filled, beside
        self._places: dict[str, str] = {}
        self._about = about

    def report(self, content: Mapping[str, Any], names: Sequence[str]) -> Report:
        """What a plan says of its report; what is wrong with it is told.

        Args:
            content: What stands under `[report]`.
            names: The names of the entries there are.
        """
        where = self._at(None, "")
        self._check_references(None, content.get("title"), names)
        section = self._sound({key: value for key, value in content.items() if key != "part"}, REPORT, where)
        texts = {key: section[key] for key in ("title", "language", "name") if key in section}
        formats = section.get("formats", REPORT_FORMATS[0])
        parts = content.get("part", [])
        if not isinstance(parts, list) or not all(isinstance(part, dict) for part in parts):
            self._fault(where, "parts are a list of tables. Write [[report.part]].")
            parts = []
        if not NAME.fullmatch(texts.get("name", "report")):
            self._fault(where, NAME_RULE)
        if texts.get("name", "report").lower() in [name.lower() for name in names]:
            self._fault(where, f"there is an entry `{texts.get('name', 'report')}` too. Give the report another name.")
        made = tuple(self._part(part, number, names) for number, part in enumerate(parts))
        made = made or tuple(Part(rows=((name,),)) for name in names)
        endings = tuple(formats) if isinstance(formats, list) else (formats,)
        named = section.get("template", [])
        templates = tuple(self._beside(one) for one in (named if isinstance(named, list) else [named]))
        wrong = next((one for one in templates if not _template_for(one)), None)
        if wrong is not None:
            self._fault(where, f"the template {wrong} is no {' or '.join(_TEMPLATES)}. Name another.")
        return Report(
            **{"title": "", "language": "", **texts},
            formats=endings,
            parts=made,
            of_everything=not parts,
            templates=templates,
            layouts=section.get("layouts", {}),
            paper=section.get("paper", "A4"),
            chart_pages=section.get("chart_pages", False),
            appendix=self._about if section.get("appendix", False) else "",
            places=dict(self._places),
            no_advice=self._no_advice(section.get("no_advice", []), where),
        )

    def _no_advice(self, named: Sequence[str] | str, where: str) -> tuple[str, ...]:
        """The advice a report is spared."""
        names = (named,) if isinstance(named, str) else tuple(named)
        try:
            return MessagesRequest(no_advice=names).no_advice
        except RequestError as error:
            self._fault(where, f"{error.message} {error.remedy}")
            return ()

    def _check_references(self, part: int | None, text: object, names: Sequence[str]) -> None:
        """Takes down where the references of a text stand, and notes those of no entry."""
        for raw in references_in(text) if isinstance(text, str) else ():
            where = self._at(part, f"{{{{{raw}}}}}")
            written = self._filled(raw, where)
            self._places[written] = where
            try:
                entry = reference(written).entry
            except RequestError as error:
                self._fault(where, f"{error.message} {error.remedy}")
                continue
            if entry not in names:
                self._fault(where, f"{{{{{raw}}}}}: there is no entry `{entry}`. {nearest(entry, list(names))}")

    def _part(self, section: Mapping[str, Any], number: int, names: Sequence[str]) -> Part:
        where = self._at(number, "")
        for key in ("heading", "text", "caption"):
            self._check_references(number, section.get(key), names)
        filled = self._sound(section, PART, where)
        shown = filled.get("show", [])
        rows = [row if isinstance(row, list) else [row] for row in (shown if isinstance(shown, list) else [shown])]
        for name in (name for row in rows for name in row):
            if name not in names:
                self._fault(where, f"there is no entry `{name}` to show. {nearest(str(name), list(names))}")
        size = filled.get("size", "")
        try:
            PictureRequest(size=size or None)
        except RequestError as error:
            self._fault(where, worded(f"{error.message} {error.remedy}", PLANNED))
        texts = {key: filled[key] for key in ("heading", "text", "caption") if key in filled}
        if "text" in texts:
            folder = Path(self._beside(""))
            texts["text"] = with_pictures(texts["text"], folder, self._beside, lambda text: self._fault(where, text))
        same_scale = filled.get("same_scale", False)
        rows_shown = tuple(map(tuple, rows))
        return Part(**texts, level=filled.get("level", 2), rows=rows_shown, size=size, same_scale=same_scale)

    def _sound(self, section: Mapping[str, Any], known: Mapping[str, Key], where: str) -> dict[str, Any]:
        """What is said, without what is wrong, which is told."""
        found = {}
        for key, value in section.items():
            if key not in known:
                self._fault(where, f"there is no key {key}. {nearest(key, list(known))}")
                continue
            wrong = _wrong(key, value, _choices(known[key].schema))
            if wrong:
                self._fault(where, wrong)
            else:
                found[key] = self._filled(value, where)
        return found


def _wrong(key: str, value: object, choices: Sequence[object]) -> str:
    """What is wrong with a value; empty for nothing."""
    if key == "show":
        rows = value if isinstance(value, list) else [value]
        names = [name for row in rows for name in (row if isinstance(row, list) else [row])]
        return "" if all(isinstance(name, str) for name in names) else "show must be a name, or a list of names."
    if key in _NAMES:
        texts = value if isinstance(value, list) else [value]
        return "" if all(isinstance(one, str) for one in texts) else f"{key} must be a name, or a list of names."
    if key == "layouts":
        return _wrong_layouts(value)
    if key in _SWITCHES:
        return "" if isinstance(value, bool) else f"{key} must be true or false."
    if not choices:
        return "" if isinstance(value, str) else f"{key} must be text."
    items = value if isinstance(value, list) and value else [value]
    wrong = next((item for item in items if isinstance(item, bool) or item not in choices), None)
    return "" if wrong is None else f"{key} {wrong} is not known. Choose from {', '.join(map(str, choices))}."


def _wrong_layouts(value: object) -> str:
    if not isinstance(value, dict):
        return 'layouts must be a table, as in { chart = "Title Only" }.'
    unknown = next((one for one in value if one not in SLIDES), None)
    if unknown is not None:
        return f"layouts has no {unknown}. {nearest(str(unknown), list(SLIDES))}"
    return "" if all(isinstance(one, str) for one in value.values()) else "layouts must be names of layouts."


def _template_for(name: str) -> str:
    """The format that a file is a template for; empty for none."""
    return next((form for ending, form in _TEMPLATES.items() if name.lower().endswith(ending)), "")


def _choices(schema: Mapping[str, Any]) -> list[Any]:
    found = list(schema.get("enum", []))
    for one in schema.get("anyOf", []):
        found += [choice for choice in _choices(one) if choice not in found]
    return found
