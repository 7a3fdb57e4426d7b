"""The language of what is written: notes, titles, statistics, the words of axes, and the signs of numbers.

Every sentence passes `phrase`, which looks it up in the catalogue of the language spoken; English needs none. A run
speaks one language from its beginning to its end: `speaking` sets it, and nothing that writes has to be told.
"""

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from pathlib import Path

from msgspec import Struct, field
from msgspec.structs import force_setattr

from grainstack.later import Later

_CATALOGUES = Path(__file__).parent / "catalogues"
ENGLISH = "en"
LANGUAGES = (ENGLISH, *sorted(path.stem for path in _CATALOGUES.glob("*.po")))


class Language(Struct, frozen=True):
    """A language with its words and signs.

    Attributes:
        name: As a catalogue is named: `de`.
        translate: An English phrase in it; the phrase itself where it has no other.
        translate_some: An English phrase for one and for several in it, for a number of things.
        group: What stands between thousands.
        decimal: What stands before decimals.
        lowers: Whether labels start small within a sentence.
        months: The months, short.
        weekdays: The days of the week, from Monday.
    """

    name: str
    translate: Callable[[str], str]
    translate_some: Callable[[str, str, int], str]
    group: str = ","
    decimal: str = "."
    lowers: bool = True
    months: tuple[str, ...] = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
    weekdays: tuple[str, ...] = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
    signs: Mapping[int, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        force_setattr(self, "signs", str.maketrans(",.", self.group + self.decimal))


def _same(text: str) -> str:
    return text


def _one_or_many(one: str, many: str, count: int) -> str:
    return one if count == 1 else many


_ENGLISH = Language(ENGLISH, _same, _one_or_many)
_usual = [_ENGLISH]  # of this process, in every thread
_SPOKEN: ContextVar[Language] = ContextVar("language")


def speak(name: str) -> None:
    """Has all phrases of this process made in a language from now on.

    Args:
        name: One of `LANGUAGES`.
    """
    _usual[:] = [language_named(name)]


@contextmanager
def speaking(language: str | Language | None) -> Iterator[None]:
    """Has all phrases made within it in a language.

    Args:
        language: One of `LANGUAGES`, or a language that was made elsewhere; English for None.
    """
    chosen = language if isinstance(language, Language) else language_named(language or ENGLISH)
    token = _SPOKEN.set(chosen)
    try:
        yield
    finally:
        _SPOKEN.reset(token)


def spoken() -> Language:
    """The language spoken."""
    return _SPOKEN.get(_usual[0])


def language_of(tag: str) -> str:
    """The catalogue for a language tag such as `de-AT`; English where there is none.

    Args:
        tag: As BCP 47 or Unicode CLDR write it.
    """
    first = tag.replace("_", "-").partition("-")[0].lower()
    return first if first in LANGUAGES else ENGLISH


@cache
def language_named(name: str) -> Language:
    """The language of a name, its catalogue read.

    Args:
        name: One of `LANGUAGES`.
    """
    if name == ENGLISH:
        return _ENGLISH
    made: Language = Later("catalogues.reading", "language_from")(name, _LOWERED)
    return made


def marked(text: str) -> str:
    """A text that stands in the catalogues although it becomes a phrase only later.

    Args:
        text: The text, in English.
    """
    return text


_LOWERED = marked("labels start small within a sentence")  # a language in which they do not says anything else here


def phrase(text: str, /, **facts: object) -> str:
    """What is said, in the language spoken.

    Args:
        text: In English; it names facts in braces.
        facts: What to put there; numbers are written with the signs of the language, texts as they are.
    """
    translation = spoken().translate(text)
    return translation.format_map({name: _put(fact) for name, fact in facts.items()}) if facts else translation


def phrases(one: str, many: str, count: int, /, **facts: object) -> str:
    """What is said of a number of things, in the language spoken.

    Args:
        one: In English, of one.
        many: In English, of several.
        count: How many there are, which both may name as `{n}`.
        facts: As for `phrase`.
    """
    translation = spoken().translate_some(one, many, count)
    return translation.format_map({"n": _put(count), **{name: _put(fact) for name, fact in facts.items()}})


def with_signs(number: str) -> str:
    """A number with the signs of the language spoken.

    Args:
        number: As English writes it.
    """
    language = spoken()
    return number if language is _ENGLISH else number.translate(language.signs)


def _put(fact: object) -> str:
    if isinstance(fact, int) and not isinstance(fact, bool):
        return with_signs(f"{fact:,}")
    return with_signs(f"{fact:g}") if isinstance(fact, float) else str(fact)


def lowered(text: str) -> str:
    """A text as it stands within a sentence: `Waiting time` becomes `waiting time`, `GP visits` stays.

    Args:
        text: As it stands alone.
    """
    if not spoken().lowers:
        return text
    return text[:1].lower() + text[1:] if text[1:2].islower() or not text[1:] else text


def raised(text: str) -> str:
    """A text as it stands at the beginning of a sentence.

    Args:
        text: As it stands within one.
    """
    return text[:1].upper() + text[1:]


def in_words(names: "tuple[str, ...] | list[str]") -> str:
    """Names as they stand in a sentence: `a, b and c`.

    Args:
        names: At least one.
    """
    return names[0] if len(names) == 1 else phrase("{names} and {last}", names=", ".join(names[:-1]), last=names[-1])
