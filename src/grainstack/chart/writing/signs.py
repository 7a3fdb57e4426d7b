"""The signs at figures that should not be taken as solid, and what each says."""

from collections.abc import Sequence
from functools import cache

from grainstack.chart.chart_requests import WordsRequest
from grainstack.language import phrase
from grainstack.summary.figures.small import FEW_DEGREES
from grainstack.summary.table import Column, Flag

SIGNS = {
    Flag.SMALL_BASE: "*",
    Flag.WIDE_INTERVAL: "†",
    Flag.NO_INTERVAL: "‡",
    Flag.FEW_DEGREES: "§",
    Flag.HIDDEN: "…",
}


@cache  # there are few flags, and each label asks
def signs_of(flags: Flag) -> str:
    """The signs of a flagged figure; a small base says enough of few degrees of freedom too."""
    if not flags:
        return ""
    if Flag.HIDDEN in flags:
        return SIGNS[Flag.HIDDEN]
    passed_over = Flag.FEW_DEGREES if Flag.SMALL_BASE in flags else Flag(0)
    return "".join(sign for flag, sign in SIGNS.items() if flag in flags & ~passed_over)


def drawn_signs(flags: Flag, words: WordsRequest) -> str:
    """The signs of a figure in a picture: where there is no note of ours, those that the typed one explains.

    Args:
        flags: Why the figure is not solid.
        words: The footnote, and whether there is a note of ours.
    """
    signs = signs_of(flags)
    return signs if not words.no_note else "".join(sign for sign in signs if sign in (words.footnote or ""))


def sign_meanings(columns: Sequence[Column], least: int) -> tuple[tuple[str, str], ...]:
    """Each sign that figures of some columns have, with what it says.

    Args:
        columns: The columns.
        least: The base below which figures have a sign.
    """
    meanings = {
        Flag.SMALL_BASE: phrase("base below {least}", least=least),
        Flag.WIDE_INTERVAL: phrase("interval too wide to rely on"),
        Flag.NO_INTERVAL: phrase(
            "no interval: too few records or clusters, all values equal, or nothing left to chance"
        ),
        Flag.FEW_DEGREES: phrase("interval from fewer than {degrees} degrees of freedom", degrees=FEW_DEGREES),
        Flag.HIDDEN: phrase("left out"),
    }
    found = "".join(signs_of(Flag(flags)) for column in columns for flags in set(column.flags.tolist()))
    return tuple((sign, meanings[flag]) for flag, sign in SIGNS.items() if sign in found)


def sign_note(columns: Sequence[Column], least: int) -> list[str]:
    """What the signs at the figures of a table say, as one sentence; nothing where there are none.

    Args:
        columns: The columns.
        least: The base below which figures have a sign.
    """
    meanings = [f"{sign} {meaning}" for sign, meaning in sign_meanings(columns, least)]
    return [f"{'; '.join(meanings)}."] if meanings else []
