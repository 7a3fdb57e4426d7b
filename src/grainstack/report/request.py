"""What a command says besides its result."""

from dataclasses import dataclass

from grainstack.errors import RequestError, nearest
from grainstack.words import switch, word

_GROUP = "Messages"
ADVICE = (
    *("already-summarised", "many-zeros", "not-additive", "too-many", "area-limits", "second-axis", "unequal-groups"),
    *("hidden-shape", "nested-backwards", "axis-start"),
)


@dataclass(frozen=True, slots=True)
class MessagesRequest:
    """Advice and accounts.

    Raises:
        RequestError: There is no advice of a name.
    """

    no_advice: tuple[str, ...] = word(
        (), "Silence one kind of advice by its name; repeatable.", group=_GROUP, metavar="NAME"
    )
    account: bool = switch("Say where every record read has gone.", group=_GROUP)

    def __post_init__(self) -> None:
        for name in self.no_advice:
            if name not in ADVICE:
                raise RequestError(f"There is no advice `{name}`.", nearest(name, ADVICE))
