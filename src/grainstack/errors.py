"""Everything a person can get wrong, as exceptions.

    GrainStackError
    ├── RequestError     a request that cannot be: unknown column, contradicting options   exit 2
    │   └── IdleError    an option that would make no difference                           exit 2
    ├── RecordsError     a file that cannot be read as records: ragged rows, stray text    exit 1
    ├── ChartError       a chart that cannot be drawn from these figures                   exit 2
    └── OutputError      a file that cannot be written                                     exit 1

Each says what is wrong, where, and what to do next, naming fields by `option`. Only `cli/` turns them into text
and exit codes.
"""

from collections.abc import Callable, Iterable
from difflib import get_close_matches

from grainstack.option_names import fields_named, plain


def reason_of(error: Exception) -> str:
    """What the system says of a file, without its number.

    Args:
        error: What it raised.
    """
    return error.strerror if isinstance(error, OSError) and error.strerror else str(error)


class GrainStackError(Exception):
    """A failure a person can cause and mend.

    Args:
        message: What is wrong and where (file, line, column), in one sentence.
        remedy: What to do about it, in one sentence; may be empty. One that takes long to work out is given as what
            works it out, which is done once somebody reads it.
    """

    exit_code = 1

    def __init__(self, message: str, remedy: str | Callable[[], str] = "") -> None:
        super().__init__(message)
        self.message = message
        self._remedy = remedy

    @property
    def remedy(self) -> str:
        """What to do about it, in one sentence; may be empty."""
        if not isinstance(self._remedy, str):
            self._remedy = self._remedy()
        return self._remedy

    @property
    def fields(self) -> tuple[str, ...]:
        """The fields it is about, those of the message before those of the remedy."""
        return fields_named(f"{self.message} {self.remedy}")

    def __reduce__(self) -> tuple[type["GrainStackError"], tuple[str, str]]:
        """It goes between processes whole."""
        return type(self), (self.message, self.remedy)

    def __str__(self) -> str:
        return plain(f"{self.message}\n{self.remedy}" if self.remedy else self.message)


class RequestError(GrainStackError):
    """A request that cannot be met whatever the records hold."""

    exit_code = 2


class IdleError(RequestError):
    """A request with an option that would make no difference."""


class RecordsError(GrainStackError):
    """A source that cannot be read as records."""


class ChartError(GrainStackError):
    """A chart that cannot be drawn from these figures."""

    exit_code = 2


class OutputError(GrainStackError):
    """A file that cannot be written."""


def listed(names: Iterable[str], limit: int = 8, joint: str = ", ") -> str:
    """Joins names for a message: all of them when few, else the first ones and how many more.

    Args:
        names: The names.
        limit: How many are shown.
        joint: What stands between them.
    """
    every = list(names)
    text = joint.join(every[:limit])
    return text if len(every) <= limit else f"{text} and {len(every) - limit} more"


def nearest(name: str, names: Iterable[str]) -> str:
    """A remedy for an unknown name: the nearest known ones, or all when none is near."""
    known = list(names)
    if near := near_names(name, known):
        return did_you_mean(near)
    return f"There are: {listed(known)}." if known else ""


def did_you_mean(names: Iterable[str]) -> str:
    """The question whether one of these was meant."""
    return f"Did you mean {' or '.join(f'`{candidate}`' for candidate in names)}?"


def near_names(name: str, names: Iterable[str]) -> list[str]:
    """Up to three known names that are spelt nearly the same, or hold what was typed."""
    known = list(names)
    folded = {candidate.casefold(): candidate for candidate in reversed(known)}
    near = [folded[match] for match in get_close_matches(name.casefold(), folded, n=3, cutoff=0.6)]
    near += [candidate for candidate in known if len(name) > 1 and name.casefold() in candidate.casefold()]
    return list(dict.fromkeys(near))[:3]
