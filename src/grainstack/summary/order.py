"""The order of levels: one rule for tables and charts, and always said."""

from collections.abc import Mapping, Sequence
from math import inf, isnan

from grainstack.errors import RequestError, nearest
from grainstack.language import marked, phrase
from grainstack.option_fields import Request, names_in, switch, word
from grainstack.option_names import option
from grainstack.other_words import value_meant
from grainstack.records.variable import Level, LevelOrder, Variable

_GROUP = "Order"
RULES = ("largest-first", "smallest-first", "alphabetical", "codebook", "as-found", "reverse")
_REST = marked("Other")
_RULES_IN_WORDS = {
    "largest-first": marked("largest first"),
    "smallest-first": marked("smallest first"),
    "alphabetical": marked("alphabetical"),
}
_TURNED = {"largest-first": "smallest-first", "smallest-first": "largest-first"}


class KeepRequest(Request, frozen=True):
    """How many categories are shown, and what becomes of the others."""

    keep_top: int | None = word(
        None,
        "Show the N largest categories; all others become one, so nothing is lost.",
        group=_GROUP,
        metavar="N",
        within=(1, inf),
    )
    rest_label: str = word(
        _REST,
        "What the others together are called.",
        group=_GROUP,
        metavar="TEXT",
        needs=("keep_top", "split_keep_top"),
    )
    drop_rest: bool = switch(
        "Leave the others out, and say so; shares keep their full base.",
        group=_GROUP,
        needs=("keep_top", "split_keep_top"),
    )

    @property
    def rest_name(self) -> str:
        """What the others together are called, in the language spoken where nobody chose another name."""
        return phrase(_REST) if self.rest_label == _REST else self.rest_label


class OrderRequest(KeepRequest, frozen=True):
    """In which order categories and series stand, and how many categories are shown."""

    order: str | None = word(
        None,
        f"Order of the categories: {', '.join(RULES)} ('reverse: RULE'), 'largest-first: SERIES', or a list of levels; "
        "of nested ones 'route: largest-first; season: Winter, Spring'.",
        group=_GROUP,
        metavar="RULE|'A, B'",
    )
    split_order: str | None = word(
        None, "The same for the series.", group=_GROUP, metavar="RULE|'A, B'", needs=("split",)
    )
    split_keep_top: int | None = word(
        None,
        "Show the N largest series; all others become one.",
        group=_GROUP,
        metavar="N",
        within=(1, inf),
        needs=("split",),
    )
    panel_order: str | None = word(
        None, "The same for the panels.", group=_GROUP, metavar="RULE|'A, B'", needs=("panel",)
    )

    def rule_for(self, column: str, labels: Mapping[str, str]) -> str | None:
        """The rule that `order` has for a column: the one under its name, or for the first one without any name.

        Args:
            column: The column.
            labels: What the columns of the categories are called, by their names, outermost first.

        Raises:
            RequestError: Parts under names beside one without, or a name twice.
        """
        parts = [part.strip() for part in (self.order or "").split(";")]
        called = {text: name for name, label in labels.items() for text in (name, label)}
        named: dict[str, str] = {}
        for part in parts:
            head, colon, rule = part.partition(":")
            if colon and head.strip() in called and rule.strip():
                named[called[head.strip()]] = rule.strip()
        if not named:
            return self.order if column == next(iter(labels), column) else None
        if len(named) != len(parts):
            raise RequestError(
                f"{option('order')} {self.order}: each part is for a column of its own.",
                f"Write it like '{next(iter(labels))}: largest-first'.",
            )
        return named.get(column)


def by_series(rule: str | None) -> tuple[str, str] | None:
    """The rule and the series of an order such as `largest-first: Web`; None for any other.

    Args:
        rule: The order.
    """
    name, colon, series = (rule or "").partition(":")
    return (name.strip(), series.strip()) if colon and name.strip() in RULES[:2] and series.strip() else None


def order_of(kept: KeepRequest) -> OrderRequest:
    """The order of something that may only be asked how many categories it shows."""
    if isinstance(kept, OrderRequest):
        return kept
    return OrderRequest(keep_top=kept.keep_top, rest_label=kept.rest_label, drop_rest=kept.drop_rest)


def rule_meant(variable: Variable, rule: str | None) -> str | None:
    """A rule as it is called here, for one in other words: `desc` is `largest-first`, unless a level is called so.

    Args:
        variable: The column with its levels.
        rule: As it was typed.
    """
    if rule is None or any(rule in (level.label, level.code) for level in variable.levels):
        return rule
    return value_meant("order", rule, RULES) or rule


def ordered_levels(variable: Variable, rule: str | None, sizes: Sequence[float]) -> tuple[tuple[int, ...], str]:
    """The places of a variable's levels in the order they are shown.

    Args:
        variable: The column with its levels.
        rule: One of `RULES`, a list of level names, or None for the natural order, or largest first without one.
        sizes: What largest and smallest go by, shape (levels,); NaN stands last. Ties keep the natural order.

    Levels that are none of their own, such as no answer, stand last unless a list names them.

    Returns:
        The places, and the rule in words.

    Raises:
        RequestError: A name in the list is no level of the variable.
    """
    plain = [place for place, level in enumerate(variable.levels) if not level.is_special]
    aside = [place for place, level in enumerate(variable.levels) if level.is_special]
    reverse, rule = _reversed(rule)
    wording = ""
    if rule is None and not variable.has_natural_order:
        rule = "largest-first"
    if reverse and rule in _TURNED:
        rule, reverse = _TURNED[rule], False  # a level without a figure stands last either way
    if rule in (None, "codebook", "as-found"):
        wording = phrase((LevelOrder.AS_FOUND if rule == "as-found" else variable.order).value)
    elif rule in ("largest-first", "smallest-first"):
        sign = -1 if rule == "largest-first" else 1
        plain.sort(key=lambda place: _last_if_missing(sign * sizes[place]))
        wording = phrase(_RULES_IN_WORDS[rule])
    elif rule == "alphabetical":
        plain.sort(key=lambda place: variable.levels[place].label.casefold())
        wording = phrase(_RULES_IN_WORDS[rule])
    else:
        named = [place_of(variable, name, also=RULES) for name in names_in(rule)]
        return tuple(dict.fromkeys([*named, *plain, *aside])), phrase(LevelOrder.LISTED.value)
    if reverse:
        return (*reversed(plain), *aside), phrase("{rule}, reversed", rule=wording)
    return (*plain, *aside), wording


def goes_by_size(variable: Variable, rule: str | None) -> bool:
    """Whether a rule puts the levels of a variable in the order of their figures."""
    rule = _reversed(rule)[1]
    return rule in RULES[:2] or (rule is None and not variable.has_natural_order)


def _reversed(rule: str | None) -> tuple[bool, str | None]:
    """Whether a rule is to be turned round, and the rule: `reverse` of the natural order, or `reverse: RULE`."""
    word, _, inner = (rule or "").partition(":")
    return (True, inner.strip() or None) if word.strip() == "reverse" else (False, rule)


def place_of(variable: Variable, name: str, also: Sequence[str] = ()) -> int:
    """The place of a level by its label or code.

    Raises:
        RequestError: There is no such level; names the nearest ones, among `also` too.
    """
    for place, level in enumerate(variable.levels):
        if name in (level.label, level.code):
            return place
    names = [*(level.label for level in variable.levels), *also]
    meant = value_meant("order", name, also)
    remedy = f"That is `{meant}` here." if meant else nearest(name, names)
    raise RequestError(f"`{variable.name}` has no level `{name}`.", remedy)


def chosen(levels: Sequence[Level], places: Sequence[int]) -> tuple[Level, ...]:
    """The levels at these places."""
    return tuple(levels[place] for place in places)


def _last_if_missing(size: float) -> tuple[bool, float]:
    return (True, 0.0) if isnan(size) else (False, size)
