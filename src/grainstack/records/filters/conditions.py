"""SQL search conditions: `"year = 2025 and route <> 'Dunmar'"`.

A condition is parsed by a real SQL parser and worked out column by column on numpy arrays; nothing in it is ever run as
code. Three-valued logic is SQL's: a comparison with a missing value is unknown, and only what is true is kept.
"""

import operator
import re
from collections.abc import Callable

import numpy as np
import numpy.typing as npt
import sqlglot
from sqlglot import exp

from grainstack.errors import RequestError, nearest
from grainstack.quick import dataclass
from grainstack.records.arrow import Codes, Numbers
from grainstack.records.numerals import parsed
from grainstack.speech import option

_PREFIX = "SELECT 1 WHERE "
_ISO_DATE = re.compile(r"\d{4}(-\d{2}(-\d{2}([ T].*)?)?)?")
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


@dataclass(frozen=True, slots=True)
class Truth:
    """What is known of a condition for each record; both arrays have shape (records,)."""

    true: npt.NDArray[np.bool_]
    known: npt.NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Words:
    """A column of categories or text.

    Attributes:
        places: The place of each record's value in `names`, shape (records,); -1 where there is none.
        names: For each place, the label and code it may be called by.
    """

    places: Codes
    names: tuple[tuple[str, str], ...]


Operand = Numbers | Words
Columns = Callable[[str], Operand]


class Condition:
    """A parsed condition.

    Raises:
        RequestError: It is no SQL condition, or uses something that cannot be; points at the place.
    """

    def __init__(self, text: str) -> None:
        self.text = text
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
        found = [
            column.name for node in self._root.find_all(*_ARITHMETIC, exp.Neg) for column in node.find_all(exp.Column)
        ]
        return tuple(dict.fromkeys(found))

    def check_columns(self, known: tuple[str, ...]) -> None:
        """Refuses columns the records do not have.

        Raises:
            RequestError: Points at the column and names the nearest ones.
        """
        for node in self._root.find_all(exp.Column):
            if node.name not in known:
                remedy = nearest(node.name, known)
                raise self._wrong(node, f"there is no column `{node.name}`", remedy)

    def holds(self, columns: Columns, records: int) -> npt.NDArray[np.bool_]:
        """For which records it is true, shape (records,).

        Args:
            columns: Gives a column of the batch by name.
            records: How many records the batch has.
        """
        truth = self._truth(self._root, columns)
        return np.broadcast_to(truth.true & truth.known, (records,))

    def _parsed(self) -> exp.Expr:
        try:
            statements = sqlglot.parse(_PREFIX + self.text)
        except sqlglot.errors.SqlglotError as reason:
            place, said = self._error_place(reason)
            raise self._pointed(place, 1, said) from reason
        select = statements[0]
        extra = {key for key, value in (select.args if select else {}).items() if value} - {
            "expressions",
            "where",
            "kind",
        }
        if len(statements) != 1 or not isinstance(select, exp.Select) or extra or "where" not in select.args:
            raise RequestError(
                f"{option('where')} {self.text!r} is more than a condition.", "Write only what a record must meet."
            )
        return select.args["where"].this  # type: ignore[no-any-return]

    def _truth(self, node: exp.Expr, columns: Columns) -> Truth:
        if isinstance(node, exp.Paren):
            return self._truth(node.this, columns)
        if isinstance(node, exp.And | exp.Or):
            return _joined(node, self._truth(node.left, columns), self._truth(node.right, columns))
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
            result = _joined(exp.And(), low, high)
        elif isinstance(node, exp.In):
            result, *others = (self._compared(node.this, item, operator.eq, columns) for item in node.expressions)
            for other in others:
                result = _joined(exp.Or(), result, other)
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
            elif _ISO_DATE.fullmatch(constant) and _ISO_DATE.fullmatch(names[1]):
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
        if isinstance(node, exp.Paren):
            return self._operand(node.this, columns)
        if isinstance(node, exp.Column):
            return columns(node.name)
        constant = _constant(node)
        if isinstance(constant, float):
            return np.array([constant])
        if isinstance(node, exp.Neg):
            return -self._number(node.this, columns)
        if isinstance(node, exp.Binary) and type(node) in _ARITHMETIC:
            with np.errstate(divide="ignore", invalid="ignore"):
                result = _ARITHMETIC[type(node)](self._number(node.left, columns), self._number(node.right, columns))
            return np.where(np.isfinite(result), result, np.nan)
        raise self._wrong(node, f"{_what(node)} is no value to compare", _KNOWN)

    def _number(self, node: exp.Expr, columns: Columns) -> Numbers:
        value = self._operand(node, columns)
        if isinstance(value, Words):
            raise self._wrong(node, "arithmetic needs numbers", "Use columns that hold numbers.")
        return value

    def _place(self, node: exp.Expr) -> tuple[int, int]:
        """Where a node stands in the text: its start and length."""
        found = [
            (part.meta["start"] - len(_PREFIX), part.meta["end"] - len(_PREFIX))
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
            return len(self.text), "this is no SQL condition"
        context = f"{errors[0].get('start_context') or ''}"
        highlight = errors[0].get("highlight") or ""
        start = (_PREFIX + self.text).find(context + highlight) + len(context) - len(_PREFIX)
        if "Required keyword" in errors[0].get("description", ""):
            return max(start, 0), f"something is missing around `{highlight}`"
        return max(start, 0), f"`{highlight}` is not expected here" if highlight else "this is no SQL condition"

    def _wrong(self, node: exp.Expr, said: str, remedy: str = "") -> RequestError:
        return self._pointed(*self._place(node), said, remedy)

    def _pointed(self, start: int, length: int, said: str, remedy: str = "") -> RequestError:
        mark = " " * start + "^" * max(length, 1)
        return RequestError(f"{option('where')}: {said}.\n    {self.text}\n    {mark}", remedy)


_PLAIN: tuple[type[exp.Expr], ...] = (
    *(exp.And, exp.Or, exp.Not, exp.Paren, exp.In, exp.Between, exp.Like, exp.ILike, exp.Is, exp.Null, exp.Neg),
    *(exp.Column, exp.Identifier, exp.Literal, exp.Boolean),
)
_ALLOWED = (*_PLAIN, *_COMPARE, *_ARITHMETIC)
_KNOWN = "Known are = <> < > <= >=, AND, OR, NOT, IN, BETWEEN, LIKE, IS NULL, + - * / % and parentheses."
_MIRRORED = {operator.lt: operator.gt, operator.gt: operator.lt, operator.le: operator.ge, operator.ge: operator.le}


def _joined(node: exp.Expr, one: Truth, other: Truth) -> Truth:
    """SQL's AND and OR: unknown unless one side decides by itself."""
    if isinstance(node, exp.And):
        true = one.true & one.known & other.true & other.known
        false = (~one.true & one.known) | (~other.true & other.known)
        return Truth(true, true | false)
    true = (one.true & one.known) | (other.true & other.known)
    return Truth(true, true | (one.known & other.known))


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
    return str(node.this) if node.is_string else float(node.this)


def _what(node: exp.Expr) -> str:
    if isinstance(node, exp.Anonymous):
        return f"the function {node.this}"
    if isinstance(node, exp.Func):
        return f"the function {node.sql_name().lower()}"
    if isinstance(node, exp.Query | exp.Subquery):
        return "a query"
    return f"`{node.sql()}`"
