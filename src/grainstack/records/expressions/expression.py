"""SQL expressions: conditions such as `"year = 2025 and route <> 'Dunmar'"`, formulas such as `"cash + card"`.

They are parsed by a real SQL parser and worked out column by column on numpy arrays; nothing in them is ever run as
code. Three-valued logic is SQL's: a comparison with a missing value is unknown, and only what is true is kept.
"""

import operator
import re
from collections.abc import Callable, Sequence
from math import inf, isfinite

import numpy as np
import numpy.typing as npt
import sqlglot
from sqlglot import exp

from grainstack.errors import RequestError, nearest
from grainstack.option_names import option
from grainstack.records.arrow import Numbers
from grainstack.records.dates import settled_order
from grainstack.records.expressions.operands import (
    ISO_DATE,
    OF_MANY,
    Columns,
    Operand,
    Truth,
    Words,
    chosen,
    joined,
    of_many,
    part_of_date,
    rounded_half_up,
)
from grainstack.records.numerals import parsed

_COMPARE: dict[type[exp.Expr], Callable[..., npt.NDArray[np.bool_]]] = {
    exp.EQ: operator.eq,
    exp.NEQ: operator.ne,
    exp.LT: operator.lt,
    exp.LTE: operator.le,
    exp.GT: operator.gt,
    exp.GTE: operator.ge,
}
_ARITHMETIC: dict[type[exp.Expr], Callable[..., Numbers]] = {
    exp.Add: np.add,
    exp.Sub: np.subtract,
    exp.Mul: np.multiply,
    exp.Div: np.divide,
    exp.Mod: np.fmod,
}
_OF_ONE: dict[type[exp.Expr], Callable[[Numbers], Numbers]] = {
    exp.Abs: np.abs,
    exp.Floor: np.floor,
    exp.Ceil: np.ceil,
    exp.Sqrt: np.sqrt,
    exp.Ln: np.log,
}


class Expression:
    """A parsed expression: true or false for each record, or a value.

    Args:
        text: It as typed.
        field: The option it was typed for, for messages.
        what: What it is, for messages: `a condition`.
        prefix: What makes a query of it, for the parser.

    Raises:
        RequestError: It is no SQL, or uses something that cannot be; points at the place.
    """

    def __init__(self, text: str, field: str, what: str, prefix: str) -> None:
        self.text = text
        self._field, self._called, self._prefix = field, what, prefix
        self._root = self._parsed()
        for node in self._root.walk():
            if not isinstance(node, _ALLOWED):
                raise self._wrong(node, f"{_what(node)} cannot be used here", _KNOWN)

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns it uses, in the order of the text."""
        found = sorted(self._root.find_all(exp.Column), key=lambda node: self._place(node)[0])
        return tuple(dict.fromkeys(node.name for node in found))

    def number_columns(self) -> tuple[str, ...]:
        """The columns it does arithmetic with, which must hold numbers."""
        found = [column.name for column in self._root.find_all(exp.Column) if _is_reckoned_with(column)]
        return tuple(dict.fromkeys(found))

    def check_columns(self, known: tuple[str, ...]) -> None:
        """Refuses columns the records do not have, and numbers alone where columns are called like them.

        Raises:
            RequestError: Points at the column and names the nearest ones.
        """
        numbers = [node for node in self._root.find_all(exp.Literal) if not node.is_string and node.name in known]
        if numbers and not self.columns:
            name = numbers[0].name
            raise self._wrong(
                numbers[0],
                f"`{name}` is a number here, and a column of the records is called so",
                f'Write "{name}" in double quotes for the column.',
            )
        for node in self._root.find_all(exp.Column):
            if node.name not in known:
                remedy = nearest(node.name, known)
                raise self._wrong(node, f"there is no column `{node.name}`", remedy)

    def _parsed(self) -> exp.Expr:
        try:
            statements = sqlglot.parse(self._prefix + self.text)
        except RecursionError:
            raise self._too_deep() from None
        except sqlglot.errors.SqlglotError as reason:
            place, message = self._error_place(reason)
            raise self._pointed(place, 1, message) from reason
        select = statements[0]
        given = {key for key, value in (select.args if select else {}).items() if value}
        root = None
        if len(statements) == 1 and isinstance(select, exp.Select) and given <= {"expressions", "where", "kind"}:
            root = self._root_of(select)
        if root is None:
            raise RequestError(f"{option(self._field)} {self.text!r} is more than {self._called}.", "Write that alone.")
        return root

    def _too_deep(self) -> RequestError:
        return RequestError(
            f"{option(self._field)} is nested too deeply to be read.", "Write it with fewer brackets, or in steps."
        )

    def _root_of(self, select: exp.Select) -> exp.Expr | None:
        """The expression in the query made of it; None where there is more."""
        raise NotImplementedError

    def _truth(self, node: exp.Expr, columns: Columns) -> Truth:
        if isinstance(node, exp.Paren):
            return self._truth(node.this, columns)
        if isinstance(node, exp.And | exp.Or):
            return joined(
                self._truth(node.left, columns), self._truth(node.right, columns), both=isinstance(node, exp.And)
            )
        if isinstance(node, exp.Not):
            inner = self._truth(node.this, columns)
            return Truth(~inner.true & inner.known, inner.known)
        if isinstance(node, exp.Boolean):
            return Truth(np.array([bool(node.this)]), np.array([True]))
        return self._predicate(node, columns)

    def _predicate(self, node: exp.Expr, columns: Columns) -> Truth:
        """A single comparison or test."""
        result: Truth
        if isinstance(node, exp.Binary) and type(node) in _COMPARE:
            result = self._compared(node.left, node.right, _COMPARE[type(node)], columns)
        elif isinstance(node, exp.Between):
            low = self._compared(node.this, node.args["low"], operator.ge, columns)
            high = self._compared(node.this, node.args["high"], operator.le, columns)
            result = joined(low, high, both=True)
        elif isinstance(node, exp.In):
            if not node.expressions:
                raise self._wrong(node.this, "nothing stands between the brackets of `in`", "Write what it may be.")
            result, *others = (self._compared(node.this, item, operator.eq, columns) for item in node.expressions)
            for other in others:
                result = joined(result, other, both=False)
        elif isinstance(node, exp.Is):
            value = self._operand(node.this, columns)
            missing = np.isnan(value) if isinstance(value, np.ndarray) else value.places < 0
            result = Truth(missing, np.ones_like(missing))
        elif isinstance(node, exp.Like | exp.ILike):
            result = self._like(node, columns)
        else:
            raise self._wrong(node, f"{_what(node)} is not true or false", "Compare it with something.")
        return result

    def _compared(
        self, left: exp.Expr, right: exp.Expr, compare: Callable[..., npt.NDArray[np.bool_]], columns: Columns
    ) -> Truth:
        if _is_text(left) and not _is_text(right):
            left, right, compare = right, left, _MIRRORED.get(compare, compare)
        value = self._operand(left, columns)
        if isinstance(value, Words):
            if isinstance(right, exp.Column):
                return self._two_columns(right, value, self._operand(right, columns), compare)
            if _constant(right) is not None:
                return self._by_level(right, value, compare, str(_constant(right)), text=_is_text(right))
            raise self._wrong(left, "this column does not hold numbers", "Compare it with text in single quotes.")
        if _is_text(right):
            number = parsed(str(right.this))
            if number is None:
                raise self._wrong(right, f"'{right.this}' is text, but it is compared with numbers", "Write a number.")
            other: Operand = np.array([number])
        else:
            other = self._operand(right, columns)
        if isinstance(other, Words):
            raise self._wrong(right, "numbers are compared with a column of text", "Compare like with like.")
        with np.errstate(invalid="ignore"):
            true = compare(value, other)
        return Truth(true, ~(np.isnan(value) | np.isnan(other)))

    def _by_level(
        self,
        node: exp.Expr,
        value: Words,
        compare: Callable[..., npt.NDArray[np.bool_]],
        constant: str,
        *,
        text: bool,
    ) -> Truth:
        """Compares each level once: for equality by label or code, for order as numbers or dates."""
        number = parsed(constant)
        truths = []
        for names in value.names:
            if compare in (operator.eq, operator.ne):
                same = constant in names or (not text and any(parsed(name) == number for name in names))
                truths.append(same == (compare is operator.eq))
                continue
            own = parsed(names[1])
            if own is not None and number is not None:
                truths.append(bool(compare(own, number)))
            elif ISO_DATE.fullmatch(constant) and ISO_DATE.fullmatch(names[1]):
                truths.append(bool(compare(names[1], constant)))
            else:
                raise self._wrong(
                    node,
                    f"`{names[0]}` and `{constant}` have no order",
                    "Categories can be compared with = and <>; only numbers and dates with < and >.",
                )
        lookup = np.array([*truths, False])
        return Truth(lookup[value.places], value.places >= 0)

    def _two_columns(
        self, node: exp.Expr, one: Words, other: Operand, compare: Callable[..., npt.NDArray[np.bool_]]
    ) -> Truth:
        if not isinstance(other, Words) or compare not in (operator.eq, operator.ne):
            raise self._wrong(node, "these two columns cannot be compared so", "Use = or <> between columns of text.")
        first, second = (np.array([*(names[0] for names in words.names), ""]) for words in (one, other))
        return Truth(compare(first[one.places], second[other.places]), (one.places >= 0) & (other.places >= 0))

    def _like(self, node: exp.Like | exp.ILike, columns: Columns) -> Truth:
        value = self._operand(node.this, columns)
        if not isinstance(value, Words) or not _is_text(node.expression):
            raise self._wrong(node, "LIKE compares a column of text with a pattern", "Write route LIKE 'Pell%'.")
        pattern = "".join(
            ".*" if mark == "%" else "." if mark == "_" else re.escape(mark) for mark in str(node.expression.this)
        )
        flags = re.DOTALL | (re.IGNORECASE if isinstance(node, exp.ILike) else re.NOFLAG)
        truths = [any(re.fullmatch(pattern, name, flags) for name in names) for names in value.names]
        return Truth(np.array([*truths, False])[value.places], value.places >= 0)

    def _operand(self, node: exp.Expr, columns: Columns) -> Operand:
        constant = _constant(node)
        if isinstance(constant, float):
            return np.array([constant])
        if isinstance(node, exp.Paren):
            return self._operand(node.this, columns)
        if isinstance(node, exp.Column):
            return columns(node.name)
        if isinstance(node, exp.Neg) or type(node) in _ARITHMETIC:
            return self._arithmetic(node, columns)
        return self._by_function(node, columns)

    def _arithmetic(self, node: exp.Expr, columns: Columns) -> Numbers:
        if isinstance(node, exp.Neg):
            return -self._number(node.this, columns)
        assert isinstance(node, exp.Binary)
        with np.errstate(divide="ignore", invalid="ignore"):
            result = _ARITHMETIC[type(node)](self._number(node.left, columns), self._number(node.right, columns))
        return np.where(np.isfinite(result), result, np.nan)

    def _by_function(self, node: exp.Expr, columns: Columns) -> Operand:
        if isinstance(node, exp.Case):
            return self._case(node, columns)
        if isinstance(node, exp.Coalesce):
            return self._first_known([node.this, *node.expressions], columns)
        if isinstance(node, exp.Func):
            return self._function(node, columns)
        raise self._wrong(node, f"{_what(node)} is no value here", _KNOWN)

    def _case(self, node: exp.Case, columns: Columns) -> Operand:
        """CASE WHEN condition THEN value … ELSE value END: of the first condition that is true, else of the last.

        Where a condition is unknown, for want of an answer, and no other is true, there is no value: whoever gave no
        age is not `30 and over`. `WHEN age IS NULL THEN …` gives those one.
        """
        if node.this is not None:
            raise self._wrong(node, "CASE needs a condition in each WHEN", "Write CASE WHEN x > 3 THEN … ELSE … END.")
        branches = [
            (self._truth(one.this, columns), self._value(one.args["true"], columns)) for one in node.args["ifs"]
        ]
        last = node.args.get("default")
        if last is not None and not isinstance(last, exp.Null):
            every = [truth.known for truth, _ in branches]
            known = np.logical_and.reduce(np.broadcast_arrays(*every))
            branches.append((Truth(known, known), self._value(last, columns)))
        conditions = [truth.true & truth.known for truth, _ in branches]
        return self._of_one_kind(node, [value for _, value in branches], conditions)

    def _first_known(self, nodes: Sequence[exp.Expr], columns: Columns) -> Operand:
        """COALESCE: the first of some values that is not missing."""
        values = [self._value(one, columns) for one in nodes]
        known = [~np.isnan(one) if isinstance(one, np.ndarray) else one.places >= 0 for one in values]
        return self._of_one_kind(nodes[0], values, known)

    def _of_one_kind(
        self, node: exp.Expr, values: Sequence[Operand], conditions: Sequence[npt.NDArray[np.bool_]]
    ) -> Operand:
        """For each record the value of the first condition that holds."""
        if len({isinstance(value, Words) for value in values}) > 1:
            raise self._wrong(node, "numbers and text are mixed", "Give numbers only, or text in single quotes only.")
        return chosen(values, conditions)

    def _function(self, node: exp.Func, columns: Columns) -> Numbers:
        if isinstance(node, exp.Anonymous):
            name = str(node.this).casefold()
            if name not in OF_MANY or not node.expressions:
                raise self._wrong(node, f"{_what(node)} cannot be used here", _KNOWN)
            return of_many(name, [self._number(one, columns) for one in node.expressions])
        if isinstance(node, exp.Year | exp.Month | exp.Day | exp.Quarter | exp.Date):
            value = self._value(node.this, columns)
            if not isinstance(value, Words):
                raise self._wrong(node, "this needs dates such as 2025-01-31", "Use a column that holds dates.")
            codes = [code for _, code in value.names]
            if settled_order(codes) is None:
                doubtful = next(code for code in codes if settled_order([code]) is None)
                raise self._wrong(
                    node,
                    f"dates such as {doubtful} can be read in two ways",
                    f"Write them as 2025-01-31, or cut them into bands and say {option('dates', 'day-first')}.",
                )
            return part_of_date(value, type(node).__name__)
        if isinstance(node, exp.Round):
            decimals = _constant(node.args["decimals"]) if node.args.get("decimals") is not None else 0.0
            if not isinstance(decimals, float):
                raise self._wrong(node, "ROUND needs a number of decimals", "Write ROUND(x, 1).")
            return rounded_half_up(self._number(node.this, columns), decimals)
        with np.errstate(divide="ignore", invalid="ignore"):
            result = _OF_ONE[type(node)](self._number(node.this, columns))
        return np.where(np.isfinite(result), result, np.nan)

    def _value(self, node: exp.Expr, columns: Columns) -> Operand:
        """A value: text in single quotes too."""
        inner = node.this if isinstance(node, exp.Paren) else node
        if _is_text(inner):
            return Words(np.zeros(1, dtype=np.int32), ((str(inner.this), str(inner.this)),))
        if isinstance(inner, exp.Null):
            return np.array([np.nan])
        return self._operand(inner, columns)

    def _number(self, node: exp.Expr, columns: Columns) -> Numbers:
        value = self._operand(node, columns)
        if isinstance(value, Words):
            raise self._wrong(node, "arithmetic needs numbers", "Use columns that hold numbers.")
        return value

    def _place(self, node: exp.Expr) -> tuple[int, int]:
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

    def _error_place(self, reason: Exception) -> tuple[int, str]:
        errors = getattr(reason, "errors", None)
        if not errors:
            return len(self.text), f"this is not {self._called} in SQL"
        context = f"{errors[0].get('start_context') or ''}"
        highlight = errors[0].get("highlight") or ""
        start = (self._prefix + self.text).find(context + highlight) + len(context) - len(self._prefix)
        if "Required keyword" in errors[0].get("description", ""):
            return max(start, 0), f"something is missing around `{highlight}`"
        return max(
            start, 0
        ), f"`{highlight}` is not expected here" if highlight else f"this is not {self._called} in SQL"

    def _wrong(self, node: exp.Expr, message: str, remedy: str = "") -> RequestError:
        return self._pointed(*self._place(node), message, remedy)

    def _pointed(self, start: int, length: int, message: str, remedy: str = "") -> RequestError:
        mark = " " * start + "^" * max(length, 1)
        return RequestError(f"{option(self._field)}: {message}.\n    {self.text}\n    {mark}", remedy)


_PLAIN: tuple[type[exp.Expr], ...] = (
    *(exp.And, exp.Or, exp.Not, exp.Paren, exp.In, exp.Between, exp.Like, exp.ILike, exp.Is, exp.Null, exp.Neg),
    *(exp.Column, exp.Identifier, exp.Literal, exp.Boolean),
)
_DATES: tuple[type[exp.Expr], ...] = (exp.Year, exp.Month, exp.Day, exp.Quarter, exp.Date)
_CHOICES: tuple[type[exp.Expr], ...] = (exp.Case, exp.If, exp.Coalesce)
_OF_NUMBERS: tuple[type[exp.Expr], ...] = (*_ARITHMETIC, *_OF_ONE, exp.Neg, exp.Round, exp.Anonymous)
_ALLOWED: tuple[type[exp.Expr], ...] = (*_PLAIN, *_COMPARE, *_OF_NUMBERS, *_DATES, *_CHOICES)
_KNOWN = (
    "Known are = <> < > <= >=, AND, OR, NOT, IN, BETWEEN, LIKE, IS NULL, + - * / %, CASE, COALESCE, ROUND, ABS, FLOOR, "
    "CEIL, SQRT, LN, YEAR, QUARTER, MONTH, DAY, DATE and parentheses."
)
_MIRRORED = {operator.lt: operator.gt, operator.gt: operator.lt, operator.le: operator.ge, operator.ge: operator.le}


def _is_reckoned_with(column: exp.Column) -> bool:
    """Whether a column stands in arithmetic itself, and not in a function of dates or a condition within it."""
    node = column.parent
    while isinstance(node, exp.Paren | exp.Coalesce):
        node = node.parent
    return isinstance(node, _OF_NUMBERS)


def _is_text(node: exp.Expr) -> bool:
    return isinstance(node, exp.Literal) and node.is_string


def _constant(node: exp.Expr) -> float | str | None:
    """A literal number or text, also in parentheses or behind a minus; None for anything else."""
    if isinstance(node, exp.Paren):
        return _constant(node.this)
    if isinstance(node, exp.Neg):
        inner = _constant(node.this)
        return -inner if isinstance(inner, float) else None
    if isinstance(node, exp.Boolean):
        return "true" if node.this else "false"
    if not isinstance(node, exp.Literal):
        return None
    return str(node.this) if node.is_string else _number(str(node.this))


def _number(text: str) -> float:
    """A number as it stands in an expression.

    Raises:
        RequestError: It is none, or none that can be.
    """
    try:
        number = float(text)
    except ValueError:
        number = inf
    if not isfinite(number):
        raise RequestError(f"`{text}` is no number that can be worked with.", "Write it like 2.5 or 1e3.")
    return number


def _what(node: exp.Expr) -> str:
    if isinstance(node, exp.Anonymous):
        return f"the function {node.this}"
    if isinstance(node, exp.Func):
        return f"the function {node.sql_name().lower()}"
    if isinstance(node, exp.Query | exp.Subquery):
        return "a query"
    return f"`{node.sql()}`"
