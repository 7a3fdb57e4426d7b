"""What a query may do: read, and nothing else."""

import sqlglot
from sqlglot import exp

from grainstack.errors import RequestError
from grainstack.option_names import option

_HARMLESS = ("clock_timestamp", "gen_random_uuid", "random", "timeofday")  # volatile for what they give, not do
_VOLATILE_SQL = "SELECT DISTINCT proname FROM pg_proc WHERE provolatile = 'v' AND proname IN ({names})"


def check_reads_only(query: str) -> None:
    """Refuses a query that is anything but one SELECT.

    Args:
        query: SQL.

    Raises:
        RequestError: It would write, or is not SQL.
    """
    try:
        statements = [statement for statement in sqlglot.parse(query) if statement is not None]
    except sqlglot.errors.SqlglotError as reason:
        errors = getattr(reason, "errors", ())  # none where it breaks off within a word or a comment
        place = errors[0] if errors else {}
        raise RequestError(
            f"{option('query')} is no SQL near column {place.get('col', 1)}: {place.get('description', reason)}."
        ) from reason
    writes = (exp.Insert, exp.Update, exp.Delete, exp.Create, exp.Drop, exp.Alter, exp.Merge, exp.Command, exp.Copy)
    if len(statements) != 1 or not isinstance(statements[0], exp.Query) or statements[0].find(*writes, exp.Into):
        raise RequestError(
            f"{option('query')} would do more than read.", "Give one SELECT; databases are never written."
        )


def functions_called(query: str) -> tuple[str, ...]:
    """The functions that a query calls beside those of the SQL standard, by their names in a PostgreSQL server.

    Args:
        query: SQL that `check_reads_only` lets through.

    Raises:
        RequestError: A function is named in a way that hides which one it is.
    """
    names = {one.name for tree in sqlglot.parse(query) if tree is not None for one in tree.find_all(exp.Anonymous)}
    for name in names:
        if not name.isidentifier():
            raise RequestError(f"{option('query')} calls a function named `{name}`.", "Call it by a plain name.")
    return tuple(sorted({name.casefold() for name in names} | names))


def volatile_sql(functions: tuple[str, ...]) -> str:
    """What asks a PostgreSQL server which of some functions may do more than read.

    Whatever a function does beside giving a value, it has to be volatile (PostgreSQL documentation, Function Volatility
    Categories); some of these act on files or on other servers, which a transaction that only reads does not forbid.

    Args:
        functions: Their names; at least one.
    """
    names = ", ".join(f"'{name}'" for name in functions if name not in _HARMLESS) or "''"
    return _VOLATILE_SQL.format(names=names)


def check_changes_nothing(volatile: list[str]) -> None:
    """Refuses functions that may do more than read.

    Args:
        volatile: What the server answered to `volatile_sql`.

    Raises:
        RequestError: There is one.
    """
    if volatile:
        raise RequestError(
            f"{option('query')} calls `{volatile[0]}`, which may do more than read.",
            "Call functions that are STABLE or IMMUTABLE in PostgreSQL; databases are never written.",
        )
