"""Notes of one's own within a plot, each at a mark or in a corner."""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import force_setattr

from grainstack.errors import RequestError
from grainstack.option_fields import Medium, Request, names_in, word
from grainstack.option_names import option
from grainstack.visible import visible

CORNERS = ("top-left", "top-right", "bottom-left", "bottom-right")


class Annotation(Struct, frozen=True):
    """A note.

    Attributes:
        at: The names of the levels of the mark it is about, in any order, or one of `CORNERS`.
        text: What it says.
    """

    at: tuple[str, ...]
    text: str

    @property
    def corner(self) -> str:
        """The corner of the plot it stands in; empty where it is at a mark."""
        return self.at[0] if len(self.at) == 1 and self.at[0] in CORNERS else ""


def annotation_from_table(table: Mapping[str, Any]) -> str:
    """A note as a plan writes it in a table of its own, in one line.

    Args:
        table: `at` and `text`.

    Raises:
        ValueError: It says something else; says so as the end of a sentence.
    """
    at, text = table.get("at"), table.get("text")
    if not isinstance(at, str | list) or not isinstance(text, str) or set(table) != {"at", "text"}:
        raise ValueError("must say `at` what, and `text`")
    return f"{at if isinstance(at, str) else ', '.join(at)}: {text}"


def span_from_table(table: Mapping[str, Any]) -> str:
    """A span as a plan writes it in a table of its own, in one line.

    Args:
        table: `from`, `to` and perhaps `text`.

    Raises:
        ValueError: It says something else; says so as the end of a sentence.
    """
    start, end, text = table.get("from"), table.get("to"), table.get("text", "")
    if not all(isinstance(one, str | int) for one in (start, end, text)) or set(table) - {"from", "to", "text"}:
        raise ValueError("must say `from`, `to` and perhaps `text`")
    return f"{start}, {end}{f': {text}' if text else ''}"


class AnnotationRequest(Request, frozen=True):
    """Notes within the plot.

    Raises:
        RequestError: A note that does not say where it belongs, or says nothing.
    """

    annotation: tuple[str, ...] = word(
        (),
        "A note in the plot, at a bar, at one of its series or panels, or in a corner; repeatable.",
        group="Words on the chart",
        metavar="'LEVEL: TEXT'",
        medium=Medium.PICTURE,
        from_table=annotation_from_table,
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        force_setattr(self, "annotation", tuple(map(visible, self.annotation)))
        _ = self.annotations

    @property
    def annotations(self) -> tuple[Annotation, ...]:
        """The notes, taken apart."""
        return tuple(map(_annotation, self.annotation))


class SpanRequest(Request, frozen=True):
    """Stretches of the category axis that are shaded.

    Raises:
        RequestError: A span that does not say from where to where.
    """

    span: tuple[str, ...] = word(
        (),
        "Shade the plot from one category to another, with a note: a closure, a strike; repeatable.",
        group="Words on the chart",
        metavar="'FROM, TO: TEXT'",
        medium=Medium.PICTURE,
        from_table=span_from_table,
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        force_setattr(self, "span", tuple(map(visible, self.span)))
        _ = self.spans

    @property
    def spans(self) -> tuple[Annotation, ...]:
        """The spans, taken apart: `at` holds the first and the last category."""
        return tuple(map(_span, self.span))


def _span(text: str) -> Annotation:
    names, colon, note = _parts(text)
    if len(names) not in (1, 2) or (colon and not note.strip()):
        raise RequestError(
            f"`{option('span')} {text}` does not say from which category to which.",
            "Write it like 'Spring, Summer: Strike'.",
        )
    return Annotation((names[0], names[-1]), " ".join(note.split()))


def _parts(text: str) -> tuple[tuple[str, ...], str, str]:
    """The names before the colon, the colon, and what follows it."""
    quoted = text.startswith('"') and '":' in text
    at, colon, note = text.partition('":' if quoted else ":")
    return names_in(f'{at}"' if quoted else at), colon, note


def _annotation(text: str) -> Annotation:
    names, colon, note = _parts(text)
    if not colon or not names or not note.strip():
        raise RequestError(
            f"`{option('annotation')} {text}` does not say what is noted where.",
            f"Write LEVEL: TEXT, or one of {', '.join(CORNERS)} in place of LEVEL.",
        )
    return Annotation(names, " ".join(note.split()))
