"""SQL search conditions: `"year = 2025 and route <> 'Dunmar'"`.

Three-valued logic is SQL's: a comparison with a missing value is unknown, and only what is true is kept.
"""

import numpy as np
import numpy.typing as npt
from sqlglot import exp

from grainstack.records.expressions.expression import Expression
from grainstack.records.expressions.operands import Columns, Operand, Words


class Condition(Expression):
    """A parsed condition."""

    def __init__(self, text: str) -> None:
        super().__init__(text, "where", "a condition", "SELECT 1 WHERE ")

    def holds(self, columns: Columns, records: int) -> npt.NDArray[np.bool_]:
        """For which records it is true, shape (records,).

        Args:
            columns: Gives a column of the batch by name.
            records: How many records the batch has.
        """
        truth = self._truth(self._root, columns)
        return np.broadcast_to(truth.true & truth.known, (records,))

    def _root_of(self, select: exp.Select) -> exp.Expr | None:
        alone = len(select.expressions) == 1 and "where" in select.args and select.args["where"] is not None
        return select.args["where"].this if alone else None


class Formula(Expression):
    """A parsed formula: the value of a column that is worked out from others."""

    def __init__(self, text: str) -> None:
        super().__init__(text, "compute", "a formula", "SELECT ")

    def values(self, columns: Columns, records: int) -> Operand:
        """Its value for each record, shape (records,); NaN, or a place of -1, where there is none.

        Args:
            columns: Gives a column of the batch by name.
            records: How many records the batch has.
        """
        found = self._value(self._root, columns)
        if isinstance(found, Words):
            return Words(np.broadcast_to(found.places, (records,)), found.names)
        return np.broadcast_to(found, (records,))

    def _root_of(self, select: exp.Select) -> exp.Expr | None:
        return select.expressions[0] if len(select.expressions) == 1 and not select.args.get("where") else None
