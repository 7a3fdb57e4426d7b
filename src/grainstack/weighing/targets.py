"""Known totals, as typed or in a file."""

import csv
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from grainstack.errors import RequestError, reason_of
from grainstack.option_names import option

_LONG_HEADINGS = ("variable", "level", "total")


class Target(Struct, frozen=True):
    """The known totals of a column, or of several together.

    Attributes:
        columns: The columns.
        totals: The total of each combination of their levels.
    """

    columns: tuple[str, ...]
    totals: dict[tuple[str, ...], float]

    @property
    def name(self) -> str:
        """What it is called in messages."""
        return " × ".join(self.columns)


def targets_of(texts: Sequence[str]) -> list[Target]:
    """The targets that were asked for.

    Args:
        texts: Each as typed: `route: Pell Isle=5400, Osk Harbour=4100`, or the name of a CSV file.

    Raises:
        RequestError: One cannot be read, or two are about the same columns.
    """
    found = [target for text in texts for target in (_in_file(text) if _is_file(text) else [_typed(text)])]
    if not found:
        raise RequestError(
            "There is nothing to weigh by.",
            f'Give known totals: {option("target")} "COLUMN: LEVEL=TOTAL, …" or FILE.csv.',
        )
    names = [target.columns for target in found]
    twice = next((target.name for target in found if names.count(target.columns) > 1), None)
    if twice:
        raise RequestError(f"There are two targets for `{twice}`.", "Leave one of them out.")
    return found


def _is_file(text: str) -> bool:
    return text.casefold().endswith(".csv") and ":" not in text.removeprefix(text[:2])


def _typed(text: str) -> Target:
    column, colon, rule = text.partition(":")
    pairs = [pair for row in csv.reader([rule], skipinitialspace=True) for pair in row]
    totals: dict[tuple[str, ...], float] = {}
    for pair in pairs or [""]:
        level, equals, number = pair.rpartition("=")
        if not (colon and equals and column.strip() and level.strip()):
            raise RequestError(
                f"`{option('target')} {text}` is incomplete.", f'Write {option("target")} "COLUMN: LEVEL=TOTAL, …".'
            )
        _add(totals, (level.strip(),), number, f"{option('target')} {text}")
    return Target((column.strip(),), totals)


def _in_file(name: str) -> list[Target]:
    """The targets of a file: `variable,level,total`, or columns of the records and their total."""
    try:
        with Path(name).open(encoding="utf-8-sig", newline="") as file:
            heading, *rows = [[cell.strip() for cell in row] for row in csv.reader(file) if any(row)] or [[]]
    except (OSError, UnicodeDecodeError) as reason:
        raise RequestError(
            f"{option('target')} {name} cannot be read.", f"Is there such a file of text? {reason_of(reason)}."
        ) from None
    if len(heading) < 2 or not rows:
        raise RequestError(
            f"{option('target')} {name} holds no totals.",
            f"Its first line names the columns: {','.join(_LONG_HEADINGS)}, or columns of the records and a total.",
        )
    for number, row in enumerate(rows, 2):
        if len(row) != len(heading):
            raise RequestError(f"{name}, line {number}: {len(row)} cells under {len(heading)} headings.", "Correct it.")
    found: dict[tuple[str, ...], dict[tuple[str, ...], float]] = {}
    for number, row in enumerate(rows, 2):
        is_long = tuple(part.casefold() for part in heading) == _LONG_HEADINGS
        columns, levels = ((row[0],), (row[1],)) if is_long else (tuple(heading[:-1]), tuple(row[:-1]))
        _add(found.setdefault(columns, {}), levels, row[-1], f"{name}, line {number}")
    return [Target(columns, totals) for columns, totals in found.items()]


def _add(totals: dict[tuple[str, ...], float], levels: tuple[str, ...], text: str, where: str) -> None:
    try:
        total = float(text)
    except ValueError:
        raise RequestError(f"{where}: `{text.strip()}` is no number.", "Give a total, such as 5400.") from None
    if not 0 < total < float("inf"):
        raise RequestError(f"{where}: the total of `{', '.join(levels)}` must be above 0.", "Leave the level out.")
    if levels in totals:
        raise RequestError(f"{where}: `{', '.join(levels)}` has two totals.", "Leave one of them out.")
    totals[levels] = total
