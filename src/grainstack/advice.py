"""Advice: one line each, with a short name by which it can be silenced."""

from msgspec import Struct

from grainstack.errors import RequestError, nearest
from grainstack.language import phrase
from grainstack.option_fields import Request, switch, word

_GROUP = "Messages"
NAMES = (
    *("already-summarised", "many-zeros", "not-additive", "too-many", "area-limits", "second-axis", "unequal-groups"),
    *("hidden-shape", "nested-backwards", "axis-start", "same-people", "left-out", "limits-in-stack"),
    *("clusters-across-strata", "clusters-numbered-anew", "sampled-within", "skewed-mean", "colors-alike"),
    *("unlike-scales", "missing-character", "good-end", "colors-spent", "unlike-strata"),
    *("no-answer-level", "touch"),
)


class Advice(Struct, frozen=True):
    """One piece of advice.

    Attributes:
        name: By which it can be silenced.
        text: What was noticed, with the figure that gave it away, and what to do.

    Raises:
        ValueError: Nobody could silence it by its name.
    """

    name: str
    text: str

    def __post_init__(self) -> None:
        if self.name not in NAMES:
            raise ValueError(self.name)

    def __str__(self) -> str:
        return phrase("Advice ({name}): {text}", name=self.name, text=self.text)


class MessagesRequest(Request, frozen=True):
    """Advice and accounts.

    Raises:
        RequestError: There is no advice of a name.
    """

    no_advice: tuple[str, ...] = word(
        (), "Silence one kind of advice by its name; repeatable.", group=_GROUP, metavar="NAME"
    )
    account: bool = switch("Say where every record read has gone.", group=_GROUP)

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        for name in self.no_advice:
            if name not in NAMES:
                raise RequestError(f"There is no advice `{name}`.", nearest(name, NAMES))
