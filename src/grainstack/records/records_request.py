"""Which records a person wants: the files, what is kept of them, and how columns are read."""

from collections.abc import Mapping
from math import inf
from typing import Any

from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.option_fields import Medium, Request, names_in, switch, word
from grainstack.option_names import option
from grainstack.records.dates import DAY_FIRST, MONTH_FIRST
from grainstack.records.time_words import MONTHS_BY_NAME

_GROUP = "Records"
ANSWER = "answer"  # the column of what was answered to questions put together


def large_files(group: str) -> Any:  # noqa: ANN401 - as `word`
    """The field that lets files be larger than they should.

    Args:
        group: Under which heading of a help page it stands.
    """
    return switch("Read files that unpack to over 200 times their size, and records over 64 MiB.", group=group)


def header_lines(group: str) -> Any:  # noqa: ANN401 - as `word`
    """The field that says how many lines name the columns.

    Args:
        group: Under which heading of a help page it stands.
    """
    return word(
        1,
        "How many lines the header has: names in several lines are joined; below a line that names every column stand "
        "units.",
        group=group,
        metavar="N",
        within=(1, 5),
    )


def computed_columns() -> Any:  # noqa: ANN401 - as `word`
    """The option `--compute` of every command that reads records."""
    return word(
        (),
        "A column worked out from others: 'total = cash + card', 'vehicles = sum(1980..2013)', "
        "\"young = CASE WHEN age < 30 THEN 'yes' ELSE 'no' END\"; repeatable.",
        group=_GROUP,
        metavar="'NAME = FORMULA'",
        decides=True,
    )


# The fields that say where records are and how they are opened.
SOURCE_FIELDS = ("file", "codebook", "sheet", "header_row", "header_lines", "query", "allow_large", "compute")


class RecordsRequest(Request, frozen=True):
    """Where the records are, which of them count, and how their columns are read.

    Attributes:
        file: Paths, patterns, `-` for standard input, or one database address.
        for_several: Whether several tables are made of it side by side, so that one may leave what others use.

    Raises:
        RequestError: A column is cut into bands twice.
    """

    file: tuple[str, ...] = ()
    for_several: bool = False
    codebook: str | None = word(
        None, "Codebook to apply; a codebook.toml beside the records is found by itself.", group=_GROUP, metavar="FILE"
    )
    only: tuple[str, ...] = word(
        (),
        "Keep only records with these levels; repeat for more columns.",
        group=_GROUP,
        metavar="COLUMN=A,B",
        decides=True,
    )
    except_: tuple[str, ...] = word(
        (),
        "Leave out records with these levels; repeat for more columns.",
        group=_GROUP,
        metavar="COLUMN=A,B",
        decides=True,
    )
    where: str | None = word(
        None,
        "Keep records that meet an SQL condition: \"year = 2025 and route <> 'Dunmar'\".",
        group=_GROUP,
        metavar="SQL",
        decides=True,
    )
    band: tuple[str, ...] = word(
        (),
        "Cut numbers into bands by a width (age=10), edges (age=under,18,65,over) or rule (age=auto); dates by week, "
        "month, quarter, half-year, year or weekday. 'NAME: COLUMN=HOW' keeps the column and calls its bands NAME.",
        group=_GROUP,
        metavar="COLUMN=HOW",
        decides=True,
    )
    band_closed: str = word(
        "left", "Which end of a band belongs to it.", group=_GROUP, metavar="END", choices=("left", "right")
    )
    year_starts: str | None = word(
        None,
        "The month with which the years, half-years and quarters of --band begin: years are then 2024/25.",
        group=_GROUP,
        metavar="MONTH",
        choices=MONTHS_BY_NAME,
        decides=True,
    )
    recode: tuple[str, ...] = word(
        (), 'Merge or rename levels: "route: A, B -> C; D -> E".', group=_GROUP, metavar="RULES", decides=True
    )
    to_long: str | None = word(
        None, "Turn columns side by side into rows.", group=_GROUP, metavar="NAME,VALUE=COL1,COL2"
    )
    items: str | None = word(
        None,
        "Questions with the same answers, together: one row each. The questions become the column NAME, what was "
        "answered the column answer: 'question=cleanliness,staff'.",
        group=_GROUP,
        metavar="NAME=COL1,COL2",
    )
    compute: tuple[str, ...] = computed_columns()
    answers: tuple[str, ...] = word(
        (),
        "A question with several answers: a column of values such as a;b, or "
        "NAME=COL1,COL2 for 0/1 columns: facilities, where café;shop names two.",
        group=_GROUP,
        metavar="COLUMN",
        decides=True,
    )
    missing: str = word(
        "leave-out",
        "What happens to records without an answer.",
        group=_GROUP,
        metavar="HOW",
        choices=("leave-out", "show"),
    )
    keep_empty: bool = switch("Keep levels of the codebook that no record has.", group=_GROUP)
    keep_totals: bool = switch(
        "Keep a last row that adds up all others; it is left out otherwise.", group=_GROUP, decides=True
    )
    dates: str | None = word(
        None,
        "What stands first in dates such as 01/02/2025.",
        group=_GROUP,
        metavar="ORDER",
        choices=(DAY_FIRST, MONTH_FIRST),
        decides=True,
    )
    decimal: str | None = word(
        None, "The sign before decimals in text.", group=_GROUP, metavar="SIGN", choices=("point", "comma")
    )
    sheet: str | None = word(None, "The sheet of a spreadsheet file.", group=_GROUP, metavar="NAME")
    header_row: int | None = word(
        None,
        "The row of a sheet, or line of a text file, that names the columns; the first filled one without it.",
        group=_GROUP,
        metavar="N",
        within=(1, inf),
    )
    header_lines: int = header_lines(_GROUP)
    query: str | None = word(None, "Rows of a database.", group=_GROUP, metavar="SQL")
    allow_large: bool = large_files(_GROUP)

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.items and self.to_long:
            raise RequestError(
                f"{option('items')} and {option('to_long')} both turn columns into rows.", "Leave one of them out."
            )
        targets = [text.partition("=")[0].partition(":")[0].strip() for text in self.band]
        for target in targets:
            if targets.count(target) > 1:
                raise RequestError(
                    f"`{target}` is cut into bands twice.",
                    f"Give the bands names of their own: {option('band', f'wide: {target}=10')}.",
                )

    @property
    def first_month(self) -> int:
        """The month with which years begin, from 1."""
        return MONTHS_BY_NAME.index(self.year_starts) + 1 if self.year_starts else 1

    @property
    def item_columns(self) -> tuple[str, str] | None:
        """The columns that questions put together become: their name, and what was answered.

        Raises:
            RequestError: The option is not of the form `NAME=COL1,COL2`.
        """
        return _item_columns(self.items) if self.items else None

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:
        """Questions put together are the categories, and what was answered the series or the measure, unless said.

        Args:
            values: What was asked, by field name.

        Raises:
            RequestError: The questions are not of the form `NAME=COL1,COL2`.
        """
        if not values.get("items"):
            return {}
        name, answer = _item_columns(values["items"])
        by, split, measure = (values.get(field) or () for field in ("by", "split", "measure"))
        splits = (split,) if isinstance(split, str) else split  # tables may have several
        used = {*by, *splits, values.get("panel"), *measure}
        found: dict[str, Any] = {} if by or name in used else {"by": (name,)}
        plain = {"count", "share"}
        wanted = set(values.get("stat") or plain)
        if measure:
            return found
        if wanted - plain:
            found["measure"] = (answer,)
        if answer not in used and not split and plain.intersection(wanted):
            found["split"] = answer
        return found

    def level_choices(self) -> tuple["LevelChoice", ...]:
        """The `--only` and `--except` options, taken apart.

        Raises:
            RequestError: An option is not of the form `COLUMN=A,B`.
        """
        kept = tuple(_level_choice(text, "only", keep=True) for text in self.only)
        return kept + tuple(_level_choice(text, "except_", keep=False) for text in self.except_)


class LevelChoice(Struct, frozen=True):
    """Levels of a column that are kept, or left out."""

    column: str
    names: tuple[str, ...]
    keep: bool


def _item_columns(text: str) -> tuple[str, str]:
    new, equals, old = text.partition("=")
    names = names_in(new)
    if not equals or not 1 <= len(names) <= 2 or not names_in(old):
        raise RequestError(
            f"`{option('items')} {text}` is incomplete.", f'Write {option("items")} "NAME=QUESTION1,QUESTION2,…".'
        )
    return names[0], (*names[1:], ANSWER)[0]


def _level_choice(text: str, field: str, *, keep: bool) -> LevelChoice:
    column, equals, levels = text.partition("=")
    names = names_in(levels)
    if not equals or not column.strip() or not names:
        raise RequestError(f"`{option(field)} {text}` names no levels.", f"Write `{option(field)} COLUMN=A,B`.")
    return LevelChoice(column.strip(), names, keep)


def records_of(request: Request) -> RecordsRequest:
    """Where records are and how they are opened, as a request says it that has some of the fields for that.

    Args:
        request: The request.
    """
    return RecordsRequest(**{name: getattr(request, name) for name in SOURCE_FIELDS if hasattr(request, name)})


def plain_csv() -> bool:
    """The option of commands that write text to CSV."""
    help_text = "Write text to .csv as it is, even where spreadsheets would take it for a formula."
    field: bool = switch(help_text, group="Output", medium=Medium.CSV)
    return field
