"""Which records a person wants: the files, what is kept of them, and how columns are read."""

from math import inf

from grainstack.errors import RequestError
from grainstack.quick import dataclass
from grainstack.speech import option
from grainstack.words import Request, names_in, switch, word

_GROUP = "Records"


@dataclass(frozen=True, slots=True)
class RecordsRequest(Request):
    """Where the records are, which of them count, and how their columns are read.

    Attributes:
        file: Paths, patterns, `-` for standard input, or one database address.

    Raises:
        RequestError: A column is cut into bands twice.
    """

    file: tuple[str, ...] = ()
    codebook: str | None = word(
        None, "Codebook to apply; a codebook.toml beside the records is found by itself.", group=_GROUP, metavar="FILE"
    )
    only: tuple[str, ...] = word(
        (), "Keep only records with these levels; repeat for more columns.", group=_GROUP, metavar="COLUMN=A,B"
    )
    except_: tuple[str, ...] = word(
        (), "Leave out records with these levels; repeat for more columns.", group=_GROUP, metavar="COLUMN=A,B"
    )
    where: str | None = word(
        None,
        "Keep records that meet an SQL condition: \"year = 2025 and route <> 'Dunmar'\".",
        group=_GROUP,
        metavar="SQL",
    )
    band: tuple[str, ...] = word(
        (),
        "Cut numbers into bands by a width (age=10), edges (age=under,18,65,over) or rule (age=auto); dates by month, "
        "quarter, year or weekday. 'NAME: COLUMN=HOW' keeps the column and calls its bands NAME.",
        group=_GROUP,
        metavar="COLUMN=HOW",
    )
    band_closed: str = word(
        "left", "Which end of a band belongs to it.", group=_GROUP, metavar="END", choices=("left", "right")
    )
    recode: tuple[str, ...] = word(
        (), 'Merge or rename levels: "route: A, B -> C; D -> E".', group=_GROUP, metavar="RULES"
    )
    to_long: str | None = word(
        None, "Turn columns side by side into rows.", group=_GROUP, metavar="NAME,VALUE=COL1,COL2"
    )
    answers: tuple[str, ...] = word(
        (),
        "A question with several answers: a column of values such as a;b, or NAME=COL1,COL2 for 0/1 columns.",
        group=_GROUP,
        metavar="COLUMN",
    )
    missing: str = word(
        "leave-out",
        "What happens to records without an answer.",
        group=_GROUP,
        metavar="HOW",
        choices=("leave-out", "show"),
    )
    keep_empty: bool = switch("Keep levels of the codebook that no record has.", group=_GROUP)
    decimal: str | None = word(
        None, "The sign before decimals in text.", group=_GROUP, metavar="SIGN", choices=("point", "comma")
    )
    sheet: str | None = word(None, "The sheet of a spreadsheet file.", group=_GROUP, metavar="NAME")
    header_row: int | None = word(
        None,
        "The row of a spreadsheet that names the columns; the first filled one without it.",
        group=_GROUP,
        metavar="N",
        within=(1, inf),
    )
    query: str | None = word(None, "Rows of a database.", group=_GROUP, metavar="SQL")

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        targets = [text.partition("=")[0].partition(":")[0].strip() for text in self.band]
        for target in targets:
            if targets.count(target) > 1:
                raise RequestError(
                    f"`{target}` is cut into bands twice.",
                    f"Give the bands names of their own: {option('band', f'wide: {target}=10')}.",
                )

    def level_choices(self) -> tuple["LevelChoice", ...]:
        """The `--only` and `--except` options, taken apart.

        Raises:
            RequestError: An option is not of the form `COLUMN=A,B`.
        """
        kept = tuple(_level_choice(text, "only", keep=True) for text in self.only)
        return kept + tuple(_level_choice(text, "except_", keep=False) for text in self.except_)


@dataclass(frozen=True, slots=True)
class LevelChoice:
    """Levels of a column that are kept, or left out."""

    column: str
    names: tuple[str, ...]
    keep: bool


def _level_choice(text: str, field: str, *, keep: bool) -> LevelChoice:
    column, equals, levels = text.partition("=")
    names = names_in(levels)
    if not equals or not column.strip() or not names:
        raise RequestError(f"`{option(field)} {text}` names no levels.", f"Write `{option(field)} COLUMN=A,B`.")
    return LevelChoice(column.strip(), names, keep)
