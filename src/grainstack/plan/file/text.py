"""The text of a plan while it is read: where its keys stand, what is wrong with it, and values with params in them."""

import re
from pathlib import Path
from typing import TYPE_CHECKING, Any

from grainstack.errors import GrainStackError
from grainstack.option_fields import Entry
from grainstack.option_names import worded
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.params import filled
from grainstack.records.codebook.file import key_lines
from grainstack.toml_schema import value_of

if TYPE_CHECKING:
    from collections.abc import Mapping


class PlanText:
    """A plan's text, and the faults found in it.

    Args:
        path: The file it is, or would be, in; paths in it start from its folder.
        text: What the file holds.

    Attributes:
        path: The same.
        text: The same.
        params: What may stand in its texts as `{name}`; set once they are read.
        faults: What is wrong with it, a line each.
        starts: The line on which each entry and part of a report starts, by the heading and its place among those.
    """

    def __init__(self, path: Path, text: str) -> None:
        self.path, self.text = path, text
        self.params: Mapping[str, Any] = {}
        self.faults: list[str] = []
        self.starts = _entry_lines(text)
        self._lines = key_lines(text)

    def fault(self, where: str, sentence: str) -> None:
        """Notes a fault.

        Args:
            where: Its place.
            sentence: What is wrong, and what to do.
        """
        self.faults.append(f"{where}: {sentence.rstrip()}")

    def refused(self, where: str, error: GrainStackError) -> None:
        """Notes what a request was refused for, in the words of a plan.

        Args:
            where: Its place.
            error: Why it cannot be.
        """
        self.fault(where, worded(f"{error.message} {error.remedy}", PLANNED))

    def line(self, *path: str) -> int:
        """The line a key stands on; 0 where it stands on none."""
        return self._lines.get(path, 0)

    def at(self, *path: str) -> str:
        """The place of a key, for messages."""
        return f"{self.path.name}, line {self.line(*path)}"

    def filled(self, value: Any, where: str, level_of: str = "") -> Any:  # noqa: ANN401 - whatever TOML holds
        """A value with the params in its texts.

        Args:
            value: The value.
            where: Its place, for faults.
            level_of: The column whose level is put in later.
        """
        return filled(value, self.params, lambda sentence: self.fault(where, sentence), level_of)

    def value(self, entry: Entry, value: object, where: str, level_of: str = "") -> object:
        """A value as that of an option; its default where it cannot be, which is noted.

        Args:
            entry: The option.
            value: What the plan says.
            where: Its place.
            level_of: As `filled`.
        """
        try:
            return value_of(entry, self.filled(value, where, level_of))
        except ValueError as error:
            self.fault(where, f"{entry.name.rstrip('_')} {error}.")
            return entry.default

    def beside(self, file: str) -> str:
        """A file that is named in the plan, found from where it is."""
        return file if "://" in file or Path(file).is_absolute() else str(self.path.parent / file)


def _entry_lines(text: str) -> dict[tuple[str, int], int]:
    """The line on which each [[table]], [[chart]] and [[report.part]] starts."""
    found: dict[tuple[str, int], int] = {}
    counts: dict[str, int] = {}
    for number, line in enumerate(text.splitlines(), 1):
        if match := re.match(r"\s*\[\[\s*([\w.]+)\s*\]\]", line):
            place = counts.get(match[1], 0)
            found[match[1], place], counts[match[1]] = number, place + 1
    return found
