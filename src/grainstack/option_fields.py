"""One option, one definition; and its name in messages, whoever asked.

The request models (`RecordsRequest`, `SummaryRequest`, `BarRequest` …) are the only place where an option is described.
Each of their fields is made by `word`, which gives beside the default the help text, the group it stands in, the values
it takes and what it is of no use without; the class keeps these. Command-line options, plan keys and the reference
pages are all made of them.
"""

import csv
import io
import re
from collections.abc import Callable, Mapping
from enum import StrEnum
from math import isfinite
from typing import Any

from msgspec import Struct, StructMeta

from grainstack.errors import IdleError, RequestError, listed, nearest
from grainstack.option_names import option
from grainstack.other_words import value_meant


class Medium(StrEnum):
    """Where an option makes a difference."""

    EVERYWHERE = "everywhere"
    PICTURE = "pictures"
    CSV = "CSV"


class Word(Struct, frozen=True):
    """What a person needs to know about one option.

    Attributes:
        help: One sentence for the help page.
        group: The heading the option stands under.
        metavar: What to type after the option, in capitals; empty for a switch.
        choices: The only values allowed; empty when anything goes.
        within: The lowest and the highest number allowed; None when any finite number goes.
        needs: Fields of which at least one must be given too; empty when it makes sense by itself.
        medium: Whether it makes a difference everywhere, or in pictures only.
        decides: Whether figures are others without it, so that a request is refused rather than met without it.
        from_table: Writes what a file says in a table of its own as the option takes it; raises `ValueError`. None
            where a file has no such table.
    """

    help: str
    group: str
    metavar: str = ""
    choices: tuple[str, ...] = ()
    within: tuple[float, float] | None = None
    needs: tuple[str, ...] = ()
    medium: Medium = Medium.EVERYWHERE
    decides: bool = False
    from_table: Callable[[Mapping[str, Any]], str] | None = None


class Entry(Struct, frozen=True):
    """A word with the field it belongs to."""

    name: str
    type: Any
    default: Any
    word: Word


def word(  # noqa: PLR0913 - one argument for each thing an option is described by
    default: Any,  # noqa: ANN401 - a field of any type
    text: str,
    *,
    group: str,
    metavar: str = "",
    choices: tuple[str, ...] = (),
    within: tuple[float, float] | None = None,
    needs: tuple[str, ...] = (),
    medium: Medium = Medium.EVERYWHERE,
    decides: bool = False,
    from_table: Callable[[Mapping[str, Any]], str] | None = None,
) -> Any:  # noqa: ANN401 - it stands for the value of a field
    """The default of a field that is also an option; see `Word` for the arguments."""
    return _Described(default, Word(text, group, metavar, choices, within, needs, medium, decides, from_table))


def switch(
    text: str,
    *,
    group: str,
    needs: tuple[str, ...] = (),
    medium: Medium = Medium.EVERYWHERE,
    decides: bool = False,
) -> Any:  # noqa: ANN401
    """The default of a field that is off until it is named as an option."""
    return word(False, text, group=group, needs=needs, medium=medium, decides=decides)  # noqa: FBT003 - the default


_known: dict[type, tuple[Entry, ...]] = {}  # every request looks at the options of its models several times


def entries(model: type) -> tuple[Entry, ...]:
    """The options of a request model, in the order of its fields."""
    if model not in _known:
        _known[model] = _entries(model)
    return _known[model]


def _entries(model: type) -> tuple[Entry, ...]:
    types, defaults, words = types_of(model), values_unsaid(model), model.words  # type: ignore[attr-defined]
    return tuple(Entry(name, types[name], defaults[name], words[name]) for name in types if name in words)


def types_of(model: type) -> Mapping[str, Any]:
    """The types of the fields of a class of values, in their order."""
    annotated = {
        name: kind for base in reversed(model.__mro__) for name, kind in vars(base).get("__annotations__", {}).items()
    }
    return {name: annotated[name] for name in model.__struct_fields__}  # type: ignore[attr-defined]


def values_unsaid(model: type) -> Mapping[str, Any]:
    """The defaults of those fields of a class of values that have one."""
    names, defaults = model.__struct_fields__, model.__struct_defaults__  # type: ignore[attr-defined]
    return dict(zip(names[len(names) - len(defaults) :], defaults, strict=True))


class _Described(Struct, frozen=True):
    """A default with the word that belongs to it, until the class of its field is made."""

    default: Any
    word: Word


class _RequestClass(StructMeta):
    """The class of request models: it takes the words of their fields from the defaults and keeps them."""

    words: Mapping[str, Word]

    def __new__(cls, name: str, bases: tuple[type, ...], namespace: dict[str, Any], **options: Any) -> "_RequestClass":  # noqa: ANN401
        described = {field: value for field, value in namespace.items() if isinstance(value, _Described)}
        namespace.update({field: value.default for field, value in described.items()})
        made: _RequestClass = super().__new__(cls, name, bases, namespace, **options)
        inherited = {field: word for base in bases for field, word in getattr(base, "words", {}).items()}
        made.words = {**inherited, **{field: value.word for field, value in described.items()}}
        return made


class Request(Struct, frozen=True, metaclass=_RequestClass):
    """What every request model does at birth: it checks choices, ranges and that numbers are finite.

    Raises:
        RequestError: A value that cannot be; names its field.
    """

    def __post_init__(self) -> None:
        for entry in entries(type(self)):
            check_value(entry, getattr(self, entry.name))

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:  # noqa: ARG003 - most models imply nothing
        """What goes without saying once other fields have values.

        Args:
            values: What was asked, by field name.

        Raises:
            RequestError: A value that cannot be.
        """
        return {}

    def asked_for(self) -> Mapping[str, Any]:
        """What was asked for by field name, as it would be asked for again."""
        return {name: getattr(self, name) for name in self.given()}

    def given(self) -> tuple[str, ...]:
        """The names of the fields that hold something else than their default."""
        return tuple(entry.name for entry in entries(type(self)) if getattr(self, entry.name) != entry.default)


def check_value(entry: Entry, value: object) -> None:
    """Refuses what an option cannot be, whatever else is asked for.

    Args:
        entry: The option.
        value: What it is to be; None for nothing.

    Raises:
        RequestError: Names the option.
    """
    if value is None:
        return
    if entry.word.choices and value not in entry.word.choices:
        raise RequestError(
            f"{option(entry.name)} {value} is not known: it is not one of {', '.join(entry.word.choices)}.",
            f"`{meant}` is that here: {option(entry.name, meant)}."
            if (meant := value_meant(entry.name.rstrip("_"), str(value), entry.word.choices))
            else nearest(str(value), entry.word.choices),
        )
    if isinstance(value, float | int) and not isinstance(value, bool):
        _check_number(entry, value)


def _check_number(entry: Entry, value: float) -> None:
    if not isfinite(value):
        raise RequestError(f"{option(entry.name)} {value} is no finite number.", "Give a plain number.")
    low, high = entry.word.within or (value, value)
    if not low <= value <= high:
        reach = f"from {low:,.10g} to {high:,.10g}" if isfinite(high) else f"{low:,.10g} or more"
        raise RequestError(f"{option(entry.name)} {value:g} is out of range.", f"Give a number {reach}.")


def check_needs(requests: "list[Request]") -> None:
    """Refuses a field that makes no difference without another that was not given.

    Args:
        requests: All models of one request.

    Raises:
        IdleError: Names both fields.
    """
    given = {name for request in requests for name in request.given()}
    known = {entry.name for request in requests for entry in entries(type(request))}
    for request in requests:
        for entry in entries(type(request)):
            needs = [name for name in entry.word.needs if name in known]
            if entry.name in given and needs and not given & set(needs):
                listed_needs = listed([option(name) for name in needs], joint=" or ")
                raise IdleError(
                    f"{option(entry.name)} makes no difference without {listed_needs}.",
                    f"Add {listed_needs}, or leave {option(entry.name)} out.",
                )


def names_in(text: str) -> tuple[str, ...]:
    """The names in a list typed as one option: `A, B` or `"A, with a comma", B`; a line break parts them too."""
    rows = csv.reader(io.StringIO(text, newline=""), skipinitialspace=True)
    return tuple(name.strip() for row in rows for name in row if name.strip())


def names_in_pattern(pattern: str) -> tuple[str, ...]:
    """The names in a pattern such as `share (count)`, in their order."""
    return tuple(re.findall(r"[a-z]+[a-z0-9.-]*", pattern))
