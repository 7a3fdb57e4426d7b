"""Functions of text in expressions: SUBSTRING, LOWER, REPLACE, REGEXP_EXTRACT, CAST and others."""

import re
from collections.abc import Callable

import numpy as np
from sqlglot import exp

from grainstack.errors import RequestError
from grainstack.records.expressions import texts
from grainstack.records.expressions.grammar import constant, in_words, is_text
from grainstack.records.expressions.operands import Operand, Words

_NUMBERS = ("INT", "BIGINT", "SMALLINT", "DOUBLE", "FLOAT", "DECIMAL")  # types that CAST knows
_TEXTS = ("TEXT", "VARCHAR", "CHAR")


class TextFunctions:
    """The functions of one expression; values are taken as they stand in the records, and not by their labels.

    Args:
        value: Works an inner expression out.
        wrong: Makes an error that points at a node, from what is wrong and a remedy.
    """

    def __init__(
        self, value: Callable[[exp.Expr], Operand], wrong: Callable[[exp.Expr, str, str], RequestError]
    ) -> None:
        self._value, self._wrong = value, wrong

    def value(self, node: exp.Expr) -> Operand:
        """What a function makes of text.

        Raises:
            RequestError: Its arguments are not what it takes; points at it.
        """
        if isinstance(node, exp.Concat | exp.DPipe):
            parts = node.expressions if isinstance(node, exp.Concat) else [node.left, node.right]
            return texts.side_by_side([texts.texts_of(self._value(one)) for one in parts])
        value = self._value(node.this)
        if isinstance(node, exp.Cast):
            return self._cast(node, value)
        words = texts.texts_of(value)
        return texts.lengths(words) if isinstance(node, exp.Length) else self._mapped(node, words)

    def _mapped(self, node: exp.Expr, words: Words) -> Words:
        """Text of text."""
        if isinstance(node, exp.StrToDate):
            return self._dates(node, words)
        if isinstance(node, exp.Substring | exp.Left | exp.Right):
            named = ("start", "length") if isinstance(node, exp.Substring) else ("expression",)
            counts = [self._whole(node, node.args.get(name)) for name in named]
            return texts.mapped(words, lambda text: texts.part_of_text(node, text, counts))
        if isinstance(node, exp.Replace):
            old, new = (self._text(node, node.args.get(name)) for name in ("expression", "replacement"))
            return texts.mapped(words, lambda text: text.replace(old, new) if old else text)
        if isinstance(node, exp.RegexpExtract):
            pattern = self._pattern(node)
            return texts.mapped(words, lambda text: texts.extracted(pattern, text))
        if isinstance(node, exp.Trim) and (node.args.get("position") or node.args.get("expression")):
            raise self._wrong(node, "TRIM takes white space off both ends only", "Use REPLACE for other signs.")
        if isinstance(node, exp.Trim):
            return texts.mapped(words, str.strip)
        return texts.mapped(words, str.lower if isinstance(node, exp.Lower) else str.upper)

    def _pattern(self, node: exp.RegexpExtract) -> re.Pattern[str]:
        if node.args.get("position") is not None:
            raise self._wrong(node, "REGEXP_EXTRACT takes a text and a pattern", "Put brackets round what is wanted.")
        try:
            return re.compile(self._text(node, node.expression))
        except re.error as reason:
            raise self._wrong(node, f"this pattern cannot be read: {reason.msg}", "Mend it.") from reason

    def _cast(self, node: exp.Cast, value: Operand) -> Operand:
        """A number as text, or text as a number."""
        wanted = node.to.this.value
        if wanted in _TEXTS:
            return texts.texts_of(value)
        if wanted not in _NUMBERS:
            how = "Known are INTEGER, DOUBLE, DECIMAL and TEXT; dates are CAST(x AS DATE FORMAT 'DD.MM.YYYY')."
            raise self._wrong(node, f"there is no CAST to {wanted.lower()} here", how)
        try:
            numbers = texts.numbers_of(value) if isinstance(value, Words) else value
        except ValueError as reason:
            raise self._wrong(node, f"`{reason}` is no number", "Leave it out first: CASE WHEN … END.") from reason
        return np.trunc(numbers) if wanted.endswith("INT") else numbers

    def _dates(self, node: exp.StrToDate, words: Words) -> Words:
        form = self._text(node, node.args.get("format"))
        try:
            pattern = texts.date_form(form)
        except ValueError as reason:
            raise self._wrong(node, f"`{form}` is no form of dates", "Write it like DD.MM.YYYY.") from reason
        try:
            return texts.mapped(words, lambda text: texts.as_iso(pattern, text))
        except ValueError as reason:
            raise self._wrong(node, f"`{reason}` is no date of the form {form}", "Mend it.") from reason

    def _text(self, node: exp.Expr, part: exp.Expr | None) -> str:
        if part is None or not is_text(part):
            raise self._wrong(node, f"{in_words(node)} needs text in single quotes here", "Write 'text'.")
        return str(part.this)

    def _whole(self, node: exp.Expr, part: exp.Expr | None) -> int | None:
        """A whole number as it stands there; None where nothing does."""
        number = None if part is None else constant(part)
        if part is None or (isinstance(number, float) and number.is_integer()):
            return None if number is None else int(number)
        raise self._wrong(node, f"{in_words(node)} needs whole numbers of letters", "Write SUBSTRING(x, 1, 3).")
