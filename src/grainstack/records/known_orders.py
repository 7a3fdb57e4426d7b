"""Words that have an order everybody knows: months, weekdays, agreement, yes and no.

A set of levels follows a known order when every one of them is among its words.
"""

import re
from collections.abc import Callable, Sequence
from itertools import takewhile

from grainstack.records.time_words import MONTHS, is_ambiguous, time_order

_WEEKDAYS = (
    ("monday", "mon", "montag", "mo", "lundi", "lunes", "lunedì"),
    ("tuesday", "tue", "tues", "dienstag", "di", "mardi", "martes", "martedì"),
    ("wednesday", "wed", "mittwoch", "mi", "mercredi", "miércoles", "mercoledì"),
    ("thursday", "thu", "thur", "thurs", "donnerstag", "do", "jeudi", "jueves", "giovedì"),
    ("friday", "fri", "freitag", "fr", "vendredi", "viernes", "venerdì"),
    ("saturday", "sat", "samstag", "sonnabend", "sa", "samedi", "sábado", "sabato"),
    ("sunday", "sun", "sonntag", "so", "dimanche", "domingo", "domenica"),
)
_NEITHER = ("neither", "neutral", "neither agree nor disagree", "undecided", "mixed", "teils teils", "teils/teils")
_Scale = tuple[tuple[str, ...], ...]
_JUDGING: tuple[_Scale, ...] = (  # from bad to good
    (
        ("strongly disagree", "disagree strongly", "completely disagree", "stimme gar nicht zu"),
        ("disagree", "stimme nicht zu"),
        ("somewhat disagree", "slightly disagree", "tend to disagree", "stimme eher nicht zu"),
        _NEITHER,
        ("somewhat agree", "slightly agree", "tend to agree", "stimme eher zu"),
        ("agree", "stimme zu"),
        ("strongly agree", "agree strongly", "completely agree", "stimme voll zu"),
    ),
    (
        ("very dissatisfied", "sehr unzufrieden"),
        ("dissatisfied", "unzufrieden"),
        ("somewhat dissatisfied", "fairly dissatisfied", "slightly dissatisfied"),
        ("neither satisfied nor dissatisfied", *_NEITHER),
        ("somewhat satisfied", "fairly satisfied", "slightly satisfied"),
        ("satisfied", "zufrieden"),
        ("very satisfied", "sehr zufrieden"),
    ),
    (
        ("very poor", "very bad", "terrible"),
        ("poor", "bad"),
        ("fair", "average", "acceptable", "ok", "neutral"),
        ("good",),
        ("very good",),
        ("excellent",),
    ),
    (("much worse",), ("worse",), ("the same", "same", "unchanged"), ("better",), ("much better",)),
    (
        ("fail", "failed", "insufficient", "nicht bestanden"),
        ("pass", "passed", "sufficient", "bestanden"),
        ("merit", "credit"),
        ("distinction", "high distinction", "with distinction"),
    ),
)
_SCALES: tuple[_Scale, ...] = (
    MONTHS,
    _WEEKDAYS,
    (("spring",), ("summer",), ("autumn", "fall"), ("winter",)),
    (("morning",), ("noon", "midday"), ("afternoon",), ("evening",), ("night",)),
    (("q1",), ("q2",), ("q3",), ("q4",)),
    (("yes", "ja", "oui", "sí", "true"), ("no", "nein", "non", "false"), ("don't know", "not sure", "unsure")),
    *_JUDGING,
    (
        ("never", "nie"),
        ("rarely", "seldom", "selten"),
        ("sometimes", "occasionally", "manchmal"),
        ("often", "frequently", "oft"),
        ("very often", "usually"),
        ("always", "immer"),
    ),
    (
        ("not at all important", "very unimportant"),
        ("not important", "unimportant", "slightly important"),
        ("moderately important", "neutral"),
        ("important",),
        ("very important",),
        ("extremely important",),
    ),
    (
        ("very unlikely",),
        ("unlikely", "somewhat unlikely"),
        ("neutral", "neither likely nor unlikely"),
        ("likely", "somewhat likely"),
        ("very likely",),
    ),
    (
        ("very low", "very small"),
        ("low", "lower", "small"),
        ("medium", "middle", "middling", "moderate"),
        ("high", "higher", "large"),
        ("very high", "very large"),
    ),
    (("primary", "elementary"), ("secondary",), ("tertiary", "higher")),
    (("none", "no"), ("a little", "some"), ("a lot", "much"), ("everything", "all")),
)
_NUMBERED = re.compile(
    r"^[(\[]?(?:under|below|less than|up to|over|above|more than|from|<|>|≤|≥)?\s*[€$£]?\s*(\d[\d,]*\.?\d*)"
)
_SIGNS = {"*": 0, "+": 1, "": 2, "-": 3, "−": 3}  # behind a grade, from the best
_GRADE = re.compile(r"([a-f])([*+\-−]?)")
_DATED = re.compile(r"^\d{4}-\d{2}(-\d{2})?")


def known_order(names: Sequence[str]) -> list[int] | None:
    """The places of some level names in the order everybody knows, or None when there is none.

    Args:
        names: Level names, at least two; case and white space do not matter.
    """
    if len(names) < 2:
        return None
    plain = [_plain(name) for name in names]
    for scale in _SCALES:
        if ranks := _ranks(plain, scale):
            return sorted(range(len(names)), key=ranks.__getitem__)
    if by_itself := _by_grade(plain) or time_order(plain):
        return by_itself
    if any(map(is_ambiguous, plain)):  # which nobody can tell whether days or months come first
        return None
    if all(_DATED.match(name) for name in plain):
        return sorted(range(len(names)), key=plain.__getitem__)
    return _by_leading_number(plain)


def good_end(names: Sequence[str]) -> str:
    """At which end of some levels the good one is: `first` or `last`; empty where nobody knows.

    Args:
        names: Level names in their order, of steps of a scale only.
    """
    plain = [_plain(name) for name in names]
    for scale in _JUDGING if len(plain) > 1 else ():
        if ranks := _ranks(plain, scale):
            rising = sorted(ranks)
            return "last" if ranks == rising else "first" if ranks == rising[::-1] else ""
    return ""


def _plain(name: str) -> str:
    return " ".join(name.casefold().split())


def _ranks(names: Sequence[str], scale: _Scale) -> list[int]:
    """The step of each name on a scale; empty where one is on none, or two are on one."""
    if not any(names[0] in words for words in scale):
        return []
    rank = {word: place for place, words in reversed(list(enumerate(scale))) for word in words}
    ranks = [rank[name] for name in names if name in rank]
    return ranks if len(set(ranks)) == len(names) else []


def _matched(match: Callable[[str], re.Match[str] | None], names: Sequence[str]) -> list[re.Match[str]]:
    """The matches of some names; none where a name has none, and then no further name is looked at."""
    found = list(takewhile(bool, map(match, names)))
    return [one for one in found if one] if len(found) == len(names) else []


def _by_grade(names: Sequence[str]) -> list[int] | None:
    """Letters given as grades, the best first: some have a sign, as in `b+`; plain letters may be anything."""
    matches = _matched(_GRADE.fullmatch, names)
    if not any(match[2] for match in matches):
        return None
    keys = [(match[1], _SIGNS[match[2]]) for match in matches]
    return sorted(range(len(names)), key=keys.__getitem__)


def _by_leading_number(names: Sequence[str]) -> list[int] | None:
    """Ranges such as `under 18`, `18–34`, `65 and over`, by the number they start with."""
    matches = _matched(_NUMBERED.match, names)
    below = ("under", "below", "less", "up", "<", "≤")
    keys = [(float(match[1].replace(",", "") or 0), int(not match.string.startswith(below))) for match in matches]
    return sorted(range(len(names)), key=keys.__getitem__) if keys and len(set(keys)) == len(keys) else None
