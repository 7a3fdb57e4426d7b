"""How expressions are worked out: a column at a time, with SQL's three-valued logic."""

import operator
from collections.abc import Sequence
from functools import partial, reduce

import numpy as np
import numpy.typing as npt
from sqlglot import exp

from grainstack.errors import RequestError
from grainstack.records.arrow import Numbers
from grainstack.records.dates import date_order, is_serial
from grainstack.records.expressions import comparisons
from grainstack.records.expressions.grammar import (
    ARITHMETIC,
    COMPARE,
    DATES,
    KNOWN,
    OF_ONE,
    OF_TEXT,
    constant,
    in_words,
    is_text,
)
from grainstack.records.expressions.operands import (
    OF_MANY,
    Columns,
    Compare,
    Operand,
    Truth,
    Words,
    chosen,
    joined,
    of_many,
    part_of_date,
    rounded_half_up,
)
from grainstack.records.expressions.parsed_text import ParsedText
from grainstack.records.expressions.text_functions import TextFunctions
from grainstack.records.expressions.texts import texts_of
from grainstack.records.numerals import parsed

_MIRRORED = {operator.lt: operator.gt, operator.gt: operator.lt, operator.le: operator.ge, operator.ge: operator.le}


class Evaluation:
    """An expression worked out for the records of a batch.

    Args:
        text: It as typed, for messages.
        columns: Gives a column of the batch by name.
    """

    def __init__(self, text: ParsedText, columns: Columns) -> None:
        self._text, self._columns = text, columns

    def truth(self, node: exp.Expr) -> Truth:
        """What is known of a condition for each record.

        Raises:
            RequestError: It is no condition, or compares what cannot be compared; points at the place.
        """
        if isinstance(node, exp.Paren):
            return self.truth(node.this)
        if isinstance(node, exp.And | exp.Or):
            return joined(self.truth(node.left), self.truth(node.right), both=isinstance(node, exp.And))
        if isinstance(node, exp.Not):
            inner = self.truth(node.this)
            return Truth(~inner.true & inner.known, inner.known)
        if isinstance(node, exp.Boolean):
            return Truth(np.array([bool(node.this)]), np.array([True]))
        return self._predicate(node)

    def value(self, node: exp.Expr) -> Operand:
        """A value for each record, or one for all: text in single quotes too.

        Raises:
            RequestError: It is no value; points at the place.
        """
        inner = node.this if isinstance(node, exp.Paren) else node
        if is_text(inner):
            return Words(np.zeros(1, dtype=np.int32), ((str(inner.this), str(inner.this)),))
        if isinstance(inner, exp.Null):
            return np.array([np.nan])
        return self._operand(inner)

    def _predicate(self, node: exp.Expr) -> Truth:
        """A single comparison or test."""
        if isinstance(node, exp.Binary) and type(node) in COMPARE:
            return self._compared(node.left, node.right, COMPARE[type(node)])
        if isinstance(node, exp.Between):
            low = self._compared(node.this, node.args["low"], operator.ge)
            return joined(low, self._compared(node.this, node.args["high"], operator.le), both=True)
        if isinstance(node, exp.In):
            if not node.expressions:
                raise self._wrong(node.this, "nothing stands between the brackets of `in`", "Write what it may be.")
            each = (self._compared(node.this, item, operator.eq) for item in node.expressions)
            return reduce(partial(joined, both=False), each)
        if isinstance(node, exp.Is):
            missing = ~_is_known(self._operand(node.this))
            return Truth(missing, np.ones_like(missing))
        if isinstance(node, exp.Like | exp.ILike):
            value = self._operand(node.this)
            if not isinstance(value, Words) or not is_text(node.expression):
                raise self._wrong(node, "LIKE compares a column of text with a pattern", "Write route LIKE 'Pell%'.")
            return comparisons.like(value, str(node.expression.this), any_case=isinstance(node, exp.ILike))
        raise self._wrong(node, f"{in_words(node)} is not true or false", "Compare it with something.")

    def _compared(self, left: exp.Expr, right: exp.Expr, compare: Compare) -> Truth:
        if is_text(left) and not is_text(right):
            left, right, compare = right, left, _MIRRORED.get(compare, compare)
        value = self._operand(left)
        if isinstance(value, Words):
            return self._words_compared(left, value, right, compare)
        if is_text(right):
            number = parsed(str(right.this))
            if number is None:
                raise self._wrong(right, f"'{right.this}' is text, but it is compared with numbers", "Write a number.")
            other: Operand = np.array([number])
        else:
            other = self._operand(right)
        if isinstance(other, Words):
            raise self._wrong(right, "numbers are compared with a column of text", "Compare like with like.")
        return comparisons.of_numbers(value, other, compare)

    def _words_compared(self, left: exp.Expr, value: Words, right: exp.Expr, compare: Compare) -> Truth:
        """A column of categories or text, compared."""
        if isinstance(right, exp.Column):
            other = self._operand(right)
            if not isinstance(other, Words) or compare not in (operator.eq, operator.ne):
                message = "these two columns cannot be compared so"
                raise self._wrong(right, message, "Use = or <> between columns of text.")
            return comparisons.of_columns(value, other, compare)
        fixed = constant(right)
        if fixed is None:
            message = "this column does not hold numbers"
            raise self._wrong(left, message, "Compare it with text in single quotes.")
        refuse = partial(self._wrong, right)
        return comparisons.with_constant(value, compare, str(fixed), refuse, text=is_text(right))

    def _operand(self, node: exp.Expr) -> Operand:
        fixed = constant(node)
        if isinstance(fixed, float):
            return np.array([fixed])
        if isinstance(node, exp.Paren):
            return self._operand(node.this)
        if isinstance(node, exp.Column):
            return self._columns(node.name)
        if isinstance(node, exp.Neg) or type(node) in ARITHMETIC:
            return self._arithmetic(node)
        return self._by_function(node)

    def _number(self, node: exp.Expr) -> Numbers:
        value = self._operand(node)
        if isinstance(value, Words):
            raise self._wrong(node, "arithmetic needs numbers", "Use columns that hold numbers.")
        return value

    def _arithmetic(self, node: exp.Expr) -> Numbers:
        if isinstance(node, exp.Neg):
            return -self._number(node.this)
        assert isinstance(node, exp.Binary)
        with np.errstate(divide="ignore", invalid="ignore"):
            result = ARITHMETIC[type(node)](self._number(node.left), self._number(node.right))
        return np.where(np.isfinite(result), result, np.nan)

    def _by_function(self, node: exp.Expr) -> Operand:
        if isinstance(node, exp.Case):
            return self._case(node)
        if isinstance(node, exp.Coalesce):
            return self._first_known([node.this, *node.expressions])
        if isinstance(node, OF_TEXT):
            return TextFunctions(self.value, self._wrong).value(node)
        if isinstance(node, exp.Func):
            return self._function(node)
        raise self._wrong(node, f"{in_words(node)} is no value here", KNOWN)

    def _case(self, node: exp.Case) -> Operand:
        """CASE WHEN condition THEN value … ELSE value END: of the first condition that is true, else of the last.

        Where a condition is unknown, for want of an answer, and no other is true, there is no value: whoever gave no
        age is not `30 and over`. `WHEN age IS NULL THEN …` gives those one.
        """
        if node.this is not None:
            raise self._wrong(node, "CASE needs a condition in each WHEN", "Write CASE WHEN x > 3 THEN … ELSE … END.")
        branches = [(self.truth(one.this), self.value(one.args["true"])) for one in node.args["ifs"]]
        last = node.args.get("default")
        if last is not None and not isinstance(last, exp.Null):
            every = [truth.known for truth, _ in branches]
            known = np.logical_and.reduce(np.broadcast_arrays(*every))
            branches.append((Truth(known, known), self.value(last)))
        conditions = [truth.true & truth.known for truth, _ in branches]
        return self._of_one_kind(node, [value for _, value in branches], conditions)

    def _first_known(self, nodes: Sequence[exp.Expr]) -> Operand:
        """COALESCE: the first of some values that is not missing."""
        values = [self.value(one) for one in nodes]
        return self._of_one_kind(nodes[0], values, [_is_known(one) for one in values])

    def _of_one_kind(
        self, node: exp.Expr, values: Sequence[Operand], conditions: Sequence[npt.NDArray[np.bool_]]
    ) -> Operand:
        """For each record the value of the first condition that holds."""
        if len({isinstance(value, Words) for value in values}) > 1:
            raise self._wrong(node, "numbers and text are mixed", "Give numbers only, or text in single quotes only.")
        return chosen(values, conditions)

    def _function(self, node: exp.Func) -> Numbers:
        if isinstance(node, exp.Anonymous):
            name = str(node.this).casefold()
            if name not in OF_MANY or not node.expressions:
                raise self._wrong(node, f"{in_words(node)} cannot be used here", KNOWN)
            return of_many(name, [self._number(one) for one in node.expressions])
        if isinstance(node, DATES):
            return self._part_of_date(node)
        if isinstance(node, exp.Round):
            decimals = constant(node.args["decimals"]) if node.args.get("decimals") is not None else 0.0
            if not isinstance(decimals, float):
                raise self._wrong(node, "ROUND needs a number of decimals", "Write ROUND(x, 1).")
            return rounded_half_up(self._number(node.this), decimals)
        with np.errstate(divide="ignore", invalid="ignore"):
            result = OF_ONE[type(node)](self._number(node.this))
        return np.where(np.isfinite(result), result, np.nan)

    def _part_of_date(self, node: exp.Func) -> Numbers:
        """The year, quarter, month or day of dates; those that are no column's are read as they settle themselves."""
        found = self.value(node.this)
        value = texts_of(found)
        if not isinstance(found, Words) and not all(is_serial(code) for _, code in value.names):
            raise self._wrong(node, "this needs dates such as 2025-01-31", "Use a column that holds dates.")
        order = value.dates or date_order(code for _, code in value.names)
        if order.doubtful:
            message = f"dates such as {order.doubtful} can be read in two ways"
            raise self._wrong(node, message, "Write them as 2025-01-31.")
        return part_of_date(value, type(node).__name__, day_first=order.day_first)

    def _wrong(self, node: exp.Expr, message: str, remedy: str) -> RequestError:
        return self._text.wrong(node, message, remedy)


def _is_known(value: Operand) -> npt.NDArray[np.bool_]:
    """Where there is a value."""
    return ~np.isnan(value) if isinstance(value, np.ndarray) else value.places >= 0
