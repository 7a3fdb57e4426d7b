"""Which records a person wants: the file and what is kept of it."""

from dataclasses import dataclass

from grainstack.errors import RequestError
from grainstack.words import names_in, word

_GROUP = "Records"


@dataclass(frozen=True, slots=True)
class RecordsRequest:
    """Where the records are and which of them count.

    Attributes:
        file: A path, or `-` for standard input.
    """

    file: str = ""
    only: tuple[str, ...] = word(
        (), "Keep only records with these levels; repeat for more columns.", group=_GROUP, metavar="COLUMN=A,B"
    )
    except_: tuple[str, ...] = word(
        (), "Leave out records with these levels; repeat for more columns.", group=_GROUP, metavar="COLUMN=A,B"
    )

    def level_choices(self) -> tuple["LevelChoice", ...]:
        """The `--only` and `--except` options, taken apart.

        Raises:
            RequestError: An option is not of the form `COLUMN=A,B`.
        """
        kept = tuple(_level_choice(text, "--only", keep=True) for text in self.only)
        return kept + tuple(_level_choice(text, "--except", keep=False) for text in self.except_)

    def filters_in_words(self) -> tuple[str, ...]:
        """What is kept and left out, as a note says it."""
        return tuple(
            f"{'Only' if choice.keep else 'Without'} {choice.column}: {', '.join(choice.names)}"
            for choice in self.level_choices()
        )


@dataclass(frozen=True, slots=True)
class LevelChoice:
    """Levels of a column that are kept, or left out."""

    column: str
    names: tuple[str, ...]
    keep: bool


def _level_choice(text: str, option: str, *, keep: bool) -> LevelChoice:
    column, equals, levels = text.partition("=")
    names = names_in(levels)
    if not equals or not column.strip() or not names:
        raise RequestError(f"`{option} {text}` names no levels.", f"Write `{option} COLUMN=A,B`.")
    return LevelChoice(column.strip(), names, keep)
