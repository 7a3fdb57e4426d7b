"""One option, one definition.

The request models (`RecordsRequest`, `SummaryRequest`, `ChartRequest` …) are the only place where an option is
described. Each of their fields is made by `word`, which keeps the help text, the group it stands in and the values it
takes beside the default. Command-line options, plan keys and the reference pages are all made from these fields.
"""

from dataclasses import dataclass, field, fields
from typing import Any


@dataclass(frozen=True, slots=True)
class Word:
    """What a person needs to know about one option.

    Attributes:
        help: One sentence for the help page.
        group: The heading the option stands under.
        metavar: What to type after the option, in capitals; empty for a switch.
        choices: The only values allowed; empty when anything goes.
    """

    help: str
    group: str
    metavar: str = ""
    choices: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Entry:
    """A word with the field it belongs to."""

    name: str
    type: Any
    default: Any
    word: Word

    @property
    def option(self) -> str:
        """The option as typed: `keep_top` is `--keep-top`, `except_` is `--except`."""
        return "--" + self.name.rstrip("_").replace("_", "-")


def word(default: Any, text: str, *, group: str, metavar: str = "", choices: tuple[str, ...] = ()) -> Any:  # noqa: ANN401
    """A dataclass field that is also an option."""
    return field(default=default, metadata={"word": Word(text, group, metavar, choices)})


def switch(text: str, *, group: str) -> Any:  # noqa: ANN401
    """A dataclass field that is off until it is named as an option."""
    return word(False, text, group=group)  # noqa: FBT003 - the default, not an argument


def entries(model: type) -> tuple[Entry, ...]:
    """The options of a request model, in the order of its fields."""
    return tuple(
        Entry(item.name, item.type, item.default, item.metadata["word"])
        for item in fields(model)
        if "word" in item.metadata
    )


def names_in(text: str) -> tuple[str, ...]:
    """The names in a list typed as one option: `A, B` or `"A, with a comma", B`."""
    import csv  # noqa: PLC0415 - few commands list names

    return tuple(name.strip() for row in csv.reader([text], skipinitialspace=True) for name in row if name.strip())
