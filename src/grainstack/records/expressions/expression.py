"""SQL expressions: conditions such as `"year = 2025 and route <> 'Dunmar'"`, formulas such as `"cash + card"`.

Three-valued logic is SQL's: a comparison with a missing value is unknown, and only what is true is kept.
"""

from collections.abc import Callable, Iterable, Sequence

import numpy as np
import numpy.typing as npt
from sqlglot import exp

from grainstack.errors import nearest
from grainstack.records.expressions.evaluation import Evaluation
from grainstack.records.expressions.grammar import DATES, is_reckoned_with, is_text
from grainstack.records.expressions.operands import Columns, Operand, Words
from grainstack.records.expressions.parsed_text import ParsedText


class _Expression:
    """What conditions and formulas have in common: the columns they use."""

    def __init__(self, parsed: ParsedText) -> None:
        self._parsed = parsed

    @property
    def text(self) -> str:
        """It as typed."""
        return self._parsed.text

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns it uses, in the order of the text."""
        found = self._parsed.root.find_all(exp.Column)
        return _names(sorted(found, key=lambda node: self._parsed.place(node)[0]))

    def number_columns(self) -> tuple[str, ...]:
        """The columns it does arithmetic with, which must hold numbers."""
        return _names(column for column in self._parsed.root.find_all(exp.Column) if is_reckoned_with(column))

    def date_columns(self) -> tuple[str, ...]:
        """The columns it takes years, months or days of."""
        return _names(column for node in self._parsed.root.find_all(*DATES) for column in node.find_all(exp.Column))

    def check_columns(self, known: tuple[str, ...]) -> None:
        """Refuses columns the records do not have, and numbers alone where columns are called like them.

        Raises:
            RequestError: Points at the column and names the nearest ones.
        """
        numbers = [node for node in self._parsed.root.find_all(exp.Literal) if not node.is_string]
        called = next((node for node in numbers if node.name in known), None)
        if called is not None and not self.columns:
            raise self._parsed.wrong(
                called,
                f"`{called.name}` is a number here, and a column of the records is called so",
                f'Write "{called.name}" in double quotes for the column.',
            )
        for node in self._parsed.root.find_all(exp.Column):
            dotted = f"{node.table}.{node.name}"
            if node.table and dotted in known:
                text = self._parsed.text.replace(dotted, f'"{dotted}"')
                quoted = text.replace('"', '\\"')
                raise self._parsed.wrong(node, f"`{dotted}` has a dot in its name", f'Quote it: "{quoted}".')
            if node.name not in known:
                raise self._parsed.wrong(node, f"there is no column `{node.name}`", nearest(node.name, known))


class Condition(_Expression):
    """A parsed condition."""

    def __init__(self, text: str) -> None:
        super().__init__(ParsedText(text, "where", "a condition", "SELECT 1 WHERE ", _condition_of))

    def holds(self, columns: Columns, records: int) -> npt.NDArray[np.bool_]:
        """For which records it is true, shape (records,).

        Args:
            columns: Gives a column of the batch by name.
            records: How many records the batch has.
        """
        truth = Evaluation(self._parsed, columns).truth(self._parsed.root)
        return np.broadcast_to(truth.true & truth.known, (records,))

    def rename_levels(self, wanted: Callable[[str], bool], levels: Callable[[str, str], Sequence[str]]) -> bool:
        """Puts levels in the place of texts that stand for some; whether there were any.

        Args:
            wanted: Whether a text stands for levels.
            levels: Gives the levels of a column that a text stands for.
        """
        found = False
        for node in list(self._parsed.root.find_all(exp.EQ, exp.NEQ, exp.In)):
            sides = [node.this, *(node.expressions if isinstance(node, exp.In) else [node.expression])]
            column = next((side for side in sides if isinstance(side, exp.Column)), None)
            texts = [side.name for side in sides if is_text(side)]
            if column is None or not any(map(wanted, texts)):
                continue
            named = [name for text in texts for name in (levels(column.name, text) if wanted(text) else [text])]
            inside = exp.In(this=column.copy(), expressions=[exp.Literal.string(name) for name in named])
            self._parsed.replace(node, exp.Not(this=inside) if isinstance(node, exp.NEQ) else inside)
            found = True
        return found

    def in_words(self) -> str:
        """It as SQL, with levels in the place of what stood for them."""
        return self._parsed.root.sql()


class Formula(_Expression):
    """A parsed formula: the value of a column that is worked out from others."""

    def __init__(self, text: str) -> None:
        super().__init__(ParsedText(text, "compute", "a formula", "SELECT ", _formula_of))

    def values(self, columns: Columns, records: int) -> Operand:
        """Its value for each record, shape (records,); NaN, or a place of -1, where there is none.

        Args:
            columns: Gives a column of the batch by name.
            records: How many records the batch has.
        """
        found = Evaluation(self._parsed, columns).value(self._parsed.root)
        if isinstance(found, Words):
            return Words(np.broadcast_to(found.places, (records,)), found.names)
        return np.broadcast_to(found, (records,))


def _names(nodes: Iterable[exp.Column]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(node.name for node in nodes))


def _condition_of(select: exp.Select) -> exp.Expr | None:
    alone = len(select.expressions) == 1 and "where" in select.args and select.args["where"] is not None
    return select.args["where"].this if alone else None


def _formula_of(select: exp.Select) -> exp.Expr | None:
    return select.expressions[0] if len(select.expressions) == 1 and not select.args.get("where") else None
