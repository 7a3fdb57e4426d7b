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


def _annotation(text: str) -> Annotation:
    quoted = text.startswith('"') and '":' in text
    at, colon, note = text.partition('":' if quoted else ":")
    names = names_in(f'{at}"' if quoted else at)
    if not colon or not names or not note.strip():
        raise RequestError(
            f"`{option('annotation')} {text}` does not say what is noted where.",
            f"Write LEVEL: TEXT, or one of {', '.join(CORNERS)} in place of LEVEL.",
        )
    return Annotation(names, " ".join(note.split()))
