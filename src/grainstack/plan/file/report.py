"""The report of a plan: its parts in order, each a heading, a text, and what is shown."""

import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from grainstack.chart.picture_request import PictureRequest
from grainstack.errors import RequestError, nearest
from grainstack.plan.file.speech import PLANNED
from grainstack.quick import dataclass
from grainstack.speech import worded
from grainstack.toml_values import TEXT, Key, one_of

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._-]*")  # of an entry or a report: what every file system takes
NAME_RULE = "a name has letters, digits, blanks, dots, hyphens and underscores only."
REPORT_FORMATS = ("html", "md", "docx")
_FORMATS = {"anyOf": [one_of(*REPORT_FORMATS), {"type": "array", "items": one_of(*REPORT_FORMATS)}]}
_SIDE_BY_SIDE = {"type": "array", "items": {"anyOf": [TEXT, {"type": "array", "items": TEXT}]}}
REPORT: Mapping[str, Key] = {
    "title": Key("Its title.", TEXT),
    "language": Key("The language it is written in, for browsers and screen readers: en.", TEXT),
    "name": Key("What its file is called; report if not given.", TEXT),
    "formats": Key("The formats it is written in; html if not given.", _FORMATS),
    "template": Key("A DOCX whose styles, headers and page the document takes, beside the plan.", TEXT),
}
PART: Mapping[str, Key] = {
    "heading": Key("A heading before it.", TEXT),
    "level": Key("How deep the heading stands: 2 for a section, 3 for one within it …", {"enum": [2, 3, 4]}),
    "text": Key("Text in CommonMark.", TEXT),
    "show": Key(
        "Entries below the text: a name, or a list in which names in a list of their own stand side by side.",
        {"anyOf": [TEXT, _SIDE_BY_SIDE]},
    ),
    "size": Key("The size its charts are drawn in: 160x90mm.", TEXT),
    "caption": Key("What stands below what is shown.", TEXT),
}


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a report.

    Attributes:
        heading: Its heading; empty for none.
        level: How deep that stands, from 2.
        text: Text in CommonMark; may be empty.
        rows: The names of the entries shown, those of one row side by side.
        size: The size its charts are drawn in; empty for that of their row.
        caption: What stands below them; may be empty.
    """

    heading: str = ""
    level: int = 2
    text: str = ""
    rows: tuple[tuple[str, ...], ...] = ()
    size: str = ""
    caption: str = ""


@dataclass(frozen=True, slots=True)
class Report:
    """A report.

    Attributes:
        title: Its title.
        language: The language it is written in, as BCP 47 writes it.
        name: What its file is called.
        formats: The endings of its files, without the dot.
        parts: Its parts, in their order.
        template: The file whose styles a document takes; empty for none.
    """

    title: str
    language: str = "en"
    name: str = "report"
    formats: tuple[str, ...] = ("html",)
    parts: tuple[Part, ...] = ()
    template: str = ""

    @property
    def shown(self) -> tuple[str, ...]:
        """The names of all entries it shows, each once."""
        return tuple(dict.fromkeys(name for part in self.parts for row in part.rows for name in row))


class ReportReader:
    """A report while it is being checked.

    Args:
        at: The place of the report, or of a part by its number, for messages.
        fault: Told of what is wrong: where, and a sentence.
        filled: A text with the params in it; where it stands is told.
        beside: The path of a file that is named from the folder of the plan.
    """

    def __init__(
        self,
        at: Callable[[int | None], str],
        fault: Callable[[str, str], None],
        filled: Callable[[Any, str], Any],
        beside: Callable[[str], str],
    ) -> None:
        self._at, self._fault, self._filled, self._beside = at, fault, filled, beside

    def report(self, content: Mapping[str, Any], names: Sequence[str]) -> Report:
        """What a plan says of its report; what is wrong with it is told.

        Args:
            content: What stands under `[report]`.
            names: The names of the entries there are.
        """
        where = self._at(None)
        said = self._sound({key: value for key, value in content.items() if key != "part"}, REPORT, where)
        texts = {key: said[key] for key in ("title", "language", "name") if key in said}
        formats = said.get("formats", REPORT_FORMATS[0])
        parts = content.get("part", [])
        if not isinstance(parts, list) or not all(isinstance(part, dict) for part in parts):
            self._fault(where, "parts are a list of tables. Write [[report.part]].")
            parts = []
        if not NAME.fullmatch(texts.get("name", "report")):
            self._fault(where, NAME_RULE)
        if texts.get("name", "report").lower() in [name.lower() for name in names]:
            self._fault(where, f"there is an entry `{texts.get('name', 'report')}` too. Give the report another name.")
        made = tuple(self._part(part, number, names) for number, part in enumerate(parts))
        endings = tuple(formats) if isinstance(formats, list) else (formats,)
        template = self._beside(said["template"]) if "template" in said else ""
        return Report(**{"title": "", **texts}, formats=endings, parts=made, template=template)

    def _part(self, said: Mapping[str, Any], number: int, names: Sequence[str]) -> Part:
        where = self._at(number)
        filled = self._sound(said, PART, where)
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
        return Part(**texts, level=filled.get("level", 2), rows=tuple(map(tuple, rows)), size=size)

    def _sound(self, said: Mapping[str, Any], known: Mapping[str, Key], where: str) -> dict[str, Any]:
        """What is said, without what is wrong, which is told."""
        found = {}
        for key, value in said.items():
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
    if not choices:
        return "" if isinstance(value, str) else f"{key} must be text."
    items = value if isinstance(value, list) and value else [value]
    wrong = next((item for item in items if isinstance(item, bool) or item not in choices), None)
    return "" if wrong is None else f"{key} {wrong} is not known. Choose from {', '.join(map(str, choices))}."


def _choices(schema: Mapping[str, Any]) -> list[Any]:
    found = list(schema.get("enum", []))
    for one in schema.get("anyOf", []):
        found += [choice for choice in _choices(one) if choice not in found]
    return found
