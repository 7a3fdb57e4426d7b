"""What may stand in an expression, and what its parts are."""

import operator
from collections.abc import Callable
from math import inf, isfinite

import numpy as np
from sqlglot import exp

from grainstack.errors import RequestError
from grainstack.records.arrow import Numbers
from grainstack.records.expressions.operands import Compare

COMPARE: dict[type[exp.Expr], Compare] = {
    exp.EQ: operator.eq,
    exp.NEQ: operator.ne,
    exp.LT: operator.lt,
    exp.LTE: operator.le,
    exp.GT: operator.gt,
    exp.GTE: operator.ge,
}
ARITHMETIC: dict[type[exp.Expr], Callable[..., Numbers]] = {
    exp.Add: np.add,
    exp.Sub: np.subtract,
    exp.Mul: np.multiply,
    exp.Div: np.divide,
    exp.Mod: np.fmod,
}
OF_ONE: dict[type[exp.Expr], Callable[[Numbers], Numbers]] = {
    exp.Abs: np.abs,
    exp.Floor: np.floor,
    exp.Ceil: np.ceil,
    exp.Sqrt: np.sqrt,
    exp.Ln: np.log,
}
_PLAIN: tuple[type[exp.Expr], ...] = (
    *(exp.And, exp.Or, exp.Not, exp.Paren, exp.In, exp.Between, exp.Like, exp.ILike, exp.Is, exp.Null, exp.Neg),
    *(exp.Column, exp.Identifier, exp.Literal, exp.Boolean),
)
DATES: tuple[type[exp.Expr], ...] = (exp.Year, exp.Month, exp.Day, exp.Quarter, exp.Date)
OF_TEXT: tuple[type[exp.Expr], ...] = (
    *(exp.Lower, exp.Upper, exp.Trim, exp.Substring, exp.Left, exp.Right, exp.Replace, exp.RegexpExtract),
    *(exp.StrToDate, exp.Length, exp.Cast, exp.Concat, exp.DPipe),
)
_CHOICES: tuple[type[exp.Expr], ...] = (exp.Case, exp.If, exp.Coalesce)
_OF_NUMBERS: tuple[type[exp.Expr], ...] = (*ARITHMETIC, *OF_ONE, exp.Neg, exp.Round, exp.Anonymous)
ALLOWED: tuple[type[exp.Expr], ...] = (
    *_PLAIN,
    *COMPARE,
    *_OF_NUMBERS,
    *DATES,
    *OF_TEXT,
    *_CHOICES,
    exp.DataType,
    exp.DataTypeParam,
)
KNOWN = (
    "Known are = <> < > <= >=, AND, OR, NOT, IN, BETWEEN, LIKE, IS NULL, + - * / %, CASE, COALESCE, ROUND, ABS, FLOOR, "
    "CEIL, SQRT, LN, YEAR, QUARTER, MONTH, DAY, DATE, CAST, LOWER, UPPER, TRIM, SUBSTRING, LEFT, RIGHT, REPLACE, "
    "LENGTH, REGEXP_EXTRACT, || and parentheses."
)


def is_reckoned_with(column: exp.Column) -> bool:
    """Whether a column stands in arithmetic itself, and not in a function of dates or a condition within it."""
    node = column.parent
    while isinstance(node, exp.Paren | exp.Coalesce):
        node = node.parent
    return isinstance(node, _OF_NUMBERS)


def is_text(node: exp.Expr) -> bool:
    """Whether a node is text in single quotes."""
    return isinstance(node, exp.Literal) and node.is_string


def constant(node: exp.Expr) -> float | str | None:
    """A literal number or text, also in parentheses or behind a minus; None for anything else.

    Raises:
        RequestError: A number that none can be worked with.
    """
    if isinstance(node, exp.Paren):
        return constant(node.this)
    if isinstance(node, exp.Neg):
        inner = constant(node.this)
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


def in_words(node: exp.Expr) -> str:
    """What a node is called in a message."""
    if isinstance(node, exp.Anonymous):
        return f"the function {node.this}"
    if isinstance(node, exp.Func):
        return f"the function {node.sql_name().lower()}"
    if isinstance(node, exp.Query | exp.Subquery):
        return "a query"
    return f"`{node.sql()}`"
