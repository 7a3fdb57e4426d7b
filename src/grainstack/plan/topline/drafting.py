"""A plan of every question: its chart, its tables by each split, and a report of them all."""

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import tomlkit
from msgspec import Struct

from grainstack.errors import listed
from grainstack.language import phrase
from grainstack.plan.file.references import literal
from grainstack.plan.file.schema import line_for
from grainstack.plan.topline.questions import Form, Question

_MOST_BARS = 12  # of a chart of categories: more are drawn as the largest and the rest
_MOST_SIDE_BY_SIDE = 12  # columns of figures with letters that a page has room for
_ITEMS = "question"  # what the column of items is called
_BRACE = "brace"  # the param that stands for an opening brace


class Topline(Struct, frozen=True):
    """What a topline is made of.

    Attributes:
        records: The words of the records, as a plan has them.
        questions: The questions, in their order.
        splits: The columns that tables are split by, and how many levels each has.
        title: The title of the report.
        formats: The formats of the report.
        noun: What a record is, in the plural.
        left_out: What is no question, with the reason.
        sampled: Whether the records are a sample, whose figures have limits.
        report: What else is said of the report.
    """

    records: Mapping[str, Any]
    questions: Sequence[Question]
    splits: Mapping[str, int]
    title: str
    formats: Sequence[str]
    noun: str
    left_out: Sequence[tuple[str, str]]
    sampled: bool
    report: Mapping[str, Any]


def plan_text(topline: Topline) -> str:
    """The plan of a topline as TOML.

    Args:
        topline: What it is made of.
    """
    drafter = _Drafter(topline)
    sections = [(_Part(question), drafter.entries(question)) for question in topline.questions]
    blocks = [line_for("plan").rstrip("\n")]
    if any("{" in text for text in (topline.title, *(label for one in topline.questions for label in one.labels))):
        blocks.append(_block("[params]", {_BRACE: "{"}))
    blocks.append(_block("[records]", topline.records))
    blocks += [_block(f"[[{entry.product}]]", entry.words) for _, entries in sections for entry in entries]
    report = {"title": _braced(topline.title), "formats": list(topline.formats), **topline.report}
    blocks.append(_block("[report]", report))
    for part, entries in sections:
        blocks.append(_block("[[report.part]]", part.section(entries, topline.noun)))
    if topline.left_out:
        blocks.append(_block("[[report.part]]", {"text": left_out_text(topline.left_out)}))
    return "\n\n".join(blocks) + "\n"


def left_out_text(left_out: Sequence[tuple[str, str]]) -> str:
    """What is no question, in a sentence.

    Args:
        left_out: The columns, each with the reason.
    """
    reasons: dict[str, list[str]] = {}
    for name, reason in left_out:
        reasons.setdefault(reason, []).append(name)
    columns = "; ".join(f"{listed(names)} ({reason})" for reason, names in reasons.items())
    return phrase("Not shown: {columns}.", columns=columns)


class _Entry(Struct, frozen=True):
    """An entry of the plan.

    Attributes:
        product: `chart` or `table`.
        words: What it says.
        shown: Whether the report shows it, or names figures of it alone.
    """

    product: str
    words: Mapping[str, Any]
    shown: bool = True

    @property
    def name(self) -> str:
        """Its name."""
        return str(self.words["name"])


class _Part(Struct, frozen=True):
    """The part of the report that a question has."""

    question: Question

    def section(self, entries: Sequence[_Entry], noun: str) -> dict[str, Any]:
        """What it says.

        Args:
            entries: The entries of the question.
            noun: What a record is, in the plural.
        """
        question = self.question
        text = [literal(question.wording)] if question.wording else []
        if question.form is Form.TEXT:
            base = f"{{{{{entries[0].name}: base}}}}"
            text.append(phrase("{base} {noun} answered in words of their own.", base=base, noun=literal(noun)))
        shown = [one.name for one in entries if one.shown]
        found: dict[str, Any] = {"heading": _braced(listed(question.labels, 5))}
        if text:
            found["text"] = "\n\n".join(text)
        if shown:
            found["show"] = shown
        return found


class _Drafter:
    """Makes entries, each with a name of its own."""

    def __init__(self, topline: Topline) -> None:
        self._topline = topline
        self._taken: set[str] = set()

    def entries(self, question: Question) -> list[_Entry]:
        """The chart and the tables of a question."""
        column = question.columns[0]
        if question.form is Form.TEXT:
            counted = {"name": self._name(column), "stat": "count", "where": f"{_quoted(column)} IS NOT NULL"}
            return [_Entry("table", counted, shown=False)]
        if question.form is Form.SCALE:
            return [self._items(question), *(one for name in question.columns for one in self._shares(name))]
        if question.form is Form.NUMBER:
            histogram = {"kind": "distribution", "form": "histogram", "measure": column}
            return [self._chart(column, histogram), *self._means(column)]
        several = {"answers": f"{column}={','.join(question.answers)}"} if question.answers else {}
        words: dict[str, Any] = {"kind": "bar", "by": column, "stat": "share", **several, **self._limits()}
        if question.levels > _MOST_BARS and not question.ordered and question.form is Form.CATEGORIES:
            words |= {"keep_top": _MOST_BARS, "order": "largest-first"}
        tables = self._shares(column, several)
        return [self._chart(column, words), *tables, *(self._means(column) if question.form is Form.BANDS else ())]

    def _items(self, question: Question) -> _Entry:
        """Items of one scale in one chart."""
        layout = "diverging" if question.ordered else "percent"
        items = f"{_ITEMS}={','.join(question.columns)}"
        return self._chart(question.columns[0], {"kind": "bar", "items": items, "layout": layout, "stat": "share"})

    def _shares(self, column: str, more: Mapping[str, str] | None = None) -> list[_Entry]:
        """The shares of each answer by every split, side by side as long as a page has room for them."""
        splits = [name for name in self._topline.splits if name != column]
        common: dict[str, Any] = {"by": column, **(more or {})}
        if not splits:
            return [self._table(column, {**common, "stat": ["share", "count"], **self._limits()})]
        if not self._topline.sampled:
            words = common | {"split": splits if len(splits) > 1 else splits[0], "stat": "share", "base": "series"}
            return [self._table(column, words | {"totals": True})]
        return [self._table(column, common | {"banner": group}) for group in self._banners(splits)]

    def _banners(self, splits: Sequence[str]) -> list[list[str]]:
        """The splits of each banner table: as many side by side as a page has room for."""
        found: list[list[str]] = [[]]
        for name in splits:
            wide = sum(self._topline.splits[one] for one in [*found[-1], name])
            if found[-1] and wide > _MOST_SIDE_BY_SIDE:
                found.append([])
            found[-1].append(name)
        return found

    def _means(self, column: str) -> Iterator[_Entry]:
        """The mean of a number by each split, or mean and median of all."""
        common = {"measure": column, **self._limits()}
        splits = [name for name in self._topline.splits if name != column]
        if not splits:
            yield self._table(column, {**common, "stat": ["mean", "median"]})
        if not self._topline.sampled:
            for split in splits:
                yield self._table(column, {"by": split, **common, "stat": "mean", "totals": True})
        elif splits:
            for group in self._banners(splits):
                yield self._table(column, {"measure": column, "banner": group})

    def _limits(self) -> dict[str, str]:
        return {"error_bars": "confidence"} if self._topline.sampled else {}

    def _chart(self, column: str, words: Mapping[str, Any]) -> _Entry:
        return _Entry("chart", {"name": self._name(column), **words, "formats": "svg"})

    def _table(self, column: str, words: Mapping[str, Any]) -> _Entry:
        return _Entry("table", {"name": self._name(f"{column} table"), **words, "formats": "csv"})

    def _name(self, column: str) -> str:
        """A name for an entry that no other has."""
        stem = re.sub(r"[^A-Za-z0-9._-]+", "_", column).strip("._-") or "question"
        name, number = stem, 1
        while name.lower() in self._taken:
            number += 1
            name = f"{stem}_{number}"
        self._taken.add(name.lower())
        return name


def _block(heading: str, words: Mapping[str, Any]) -> str:
    return "\n".join([heading, *(f"{key} = {tomlkit.item(value).as_string()}" for key, value in words.items())])


def _braced(text: str) -> str:
    """Text in which a brace is the param of that name: braces stand for params and figures."""
    return " ".join(text.split()).replace("{{", "{ {").replace("{", f"{{{_BRACE}}}")


def _quoted(column: str) -> str:
    """The name of a column in a condition."""
    return '"' + column.replace('"', '""') + '"'
