"""An expression as typed, parsed by a real SQL parser, and the places of its parts for messages."""

from collections.abc import Callable

import sqlglot
from sqlglot import exp

from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.records.expressions.grammar import ALLOWED, KNOWN, in_words


class ParsedText:
    """The text of an expression with its tree; nothing in it is ever run as code.

    Args:
        text: It as typed.
        field: The option it was typed for, for messages.
        what: What it is, for messages: `a condition`.
        prefix: What makes a query of it, for the parser.
        root_of: Finds the expression in that query; None where there is more.

    Attributes:
        text: It as typed.
        root: The tree.

    Raises:
        RequestError: It is no SQL, or uses something that cannot be; points at the place.
    """

    def __init__(
        self, text: str, field: str, what: str, prefix: str, root_of: Callable[[exp.Select], exp.Expr | None]
    ) -> None:
        self.text = text
        self._field, self._what, self._prefix = field, what, prefix
        self.root = self._parsed(root_of)
        for node in self.root.walk():
            if not isinstance(node, ALLOWED):
                raise self.wrong(node, f"{in_words(node)} cannot be used here", KNOWN)

    def place(self, node: exp.Expr) -> tuple[int, int]:
        """Where a node stands in the text: its start and length."""
        found = [
            (part.meta["start"] - len(self._prefix), part.meta["end"] - len(self._prefix))
            for part in node.walk()
            if "start" in part.meta
        ]
        if not found:
            return 0, len(self.text)
        start, end = min(begin for begin, _ in found), max(last for _, last in found)
        return start, end - start + 1

    def replace(self, node: exp.Expr, other: exp.Expr) -> None:
        """Puts another node in the place of one."""
        node.replace(other)
        if node is self.root:
            self.root = other

    def wrong(self, node: exp.Expr, message: str, remedy: str) -> RequestError:
        """An error that points at a node.

        Args:
            node: What is wrong.
            message: What of it.
            remedy: What to do.
        """
        return self._pointed(*self.place(node), message, remedy)

    def _parsed(self, root_of: Callable[[exp.Select], exp.Expr | None]) -> exp.Expr:
        try:
            statements = sqlglot.parse(self._prefix + self.text)
        except RecursionError:
            raise RequestError(
                f"{option(self._field)} is nested too deeply to be read.", "Write it with fewer brackets, or in steps."
            ) from None
        except sqlglot.errors.SqlglotError as reason:
            place, message = self._error_place(reason)
            raise self._pointed(place, 1, message) from reason
        select = statements[0]
        given = {key for key, value in (select.args if select else {}).items() if value}
        root = None
        if len(statements) == 1 and isinstance(select, exp.Select) and given <= {"expressions", "where", "kind"}:
            root = root_of(select)
        if root is None:
            raise RequestError(f"{option(self._field)} {self.text!r} is more than {self._what}.", "Write that alone.")
        return root

    def _error_place(self, reason: Exception) -> tuple[int, str]:
        """Where the parser stopped, and what is wrong there."""
        errors = getattr(reason, "errors", None)
        no_sql = f"this is not {self._what} in SQL"
        if not errors:
            return len(self.text), no_sql
        context = f"{errors[0].get('start_context') or ''}"
        highlight = errors[0].get("highlight") or ""
        start = (self._prefix + self.text).find(context + highlight) + len(context) - len(self._prefix)
        if "Required keyword" in errors[0].get("description", ""):
            return max(start, 0), f"something is missing around `{highlight}`"
        return max(start, 0), f"`{highlight}` is not expected here" if highlight else no_sql

    def _pointed(self, start: int, length: int, message: str, remedy: str = "") -> RequestError:
        mark = " " * start + "^" * max(length, 1)
        return RequestError(f"{option(self._field)}: {message}.\n    {self.text}\n    {mark}", remedy)
