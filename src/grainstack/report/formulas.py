"""Text in CSV that spreadsheets would take for a formula: it is written so that none of them runs it."""

import re

_BEGINNINGS = "=+-@\t\r"  # what a spreadsheet takes for the start of a formula
_NUMBER = re.compile(r"[-+]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?")


def is_formula(text: str) -> bool:
    """Whether a spreadsheet would run a text; a number with its sign is none.

    Args:
        text: The text.
    """
    return text[:1] in _BEGINNINGS and text != "" and not _NUMBER.fullmatch(text)


def harmless(value: object) -> object:
    """A value as a spreadsheet shows it and does not run it: text with an apostrophe before it, if need be.

    Args:
        value: What a cell holds.
    """
    return f"'{value}" if isinstance(value, str) and is_formula(value) else value
