"""Formulas: `"cash + card"`, the value of a column that is worked out from others."""

import numpy as np
from sqlglot import exp

from grainstack.records.expressions.expression import Expression
from grainstack.records.expressions.operands import Columns, Operand, Words


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
