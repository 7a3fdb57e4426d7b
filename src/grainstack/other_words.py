"""What people call things, and what they are called here: options and values found by their meaning."""

import re
from collections.abc import Collection, Iterable

from msgspec import Struct

from grainstack.later import Later

_SYNONYMS = Later("catalogues.synonyms", "synonyms")  # read only for a word that is no option here
_LEAST_FIT = 1.05  # all of a synonym and a little more, or most of both
_ENDINGS = re.compile(r"(?<=\w{4})(?:ing|ed|es|s)$")  # words are told apart by what stands before
_USUAL = frozenset(  # words that every wish has
    (
        *("the", "a", "an", "of", "in", "on", "at", "to", "my", "with", "for", "and", "chart", "bars", "bar", "i"),
        *("want", "how", "can", "make", "put", "show"),
    )
)
_TYPED = "…"  # in the place of a value: what was typed behind the word


class Meaning(Struct, frozen=True):
    """What somebody means by a word of their own.

    Attributes:
        field: The field of the option that is meant.
        value: Its value where the word says it; None for what is typed behind the word, empty for a switch.
    """

    field: str
    value: str | None

    def typed(self, values: Iterable[str]) -> list[str]:
        """The option as words of a command line.

        Args:
            values: What was typed behind the word.
        """
        name = "--" + self.field.replace("_", "-")
        if self.value is None:
            return [name, ",".join(values)]
        return [name, self.value] if self.value else [name]


def plain(word: str) -> str:
    """A word as the table has it: `--Side-by-side` is `side by side`.

    Args:
        word: The word, or several.
    """
    return " ".join(re.split(r"[\s_-]+", word.strip().strip("-").lower())).strip()


def option_meant(word: str, known: Collection[str]) -> Meaning | None:
    """The option that is meant by a word; None where nobody knows.

    Args:
        word: What was typed.
        known: The fields there are.
    """
    wanted = plain(word)
    named = {name.rstrip("_") for name in known}  # `except_` is called so for Python alone
    for meaning, words in _SYNONYMS()["options"].items():
        field, _, value = meaning.partition(" ")
        field = field.replace("-", "_")
        if wanted in words and field in named:
            return Meaning(field, None if value == _TYPED else value.strip("'"))
    return None


def command_meant(word: str) -> str:
    """The command that is meant by a word, with its option where the word says it; empty where nobody knows.

    Args:
        word: What was typed.
    """
    wanted = plain(word)
    return next((command for command, words in _SYNONYMS()["commands"].items() if wanted in words), "")


def sentence_on(word: str) -> str:
    """What is to be known of a wish that no option meets; empty where there is nothing.

    Args:
        word: What was typed.
    """
    wanted = telling(word)
    sentences = _SYNONYMS()["sentences"].items()
    return next((text for text, words in sentences if any(telling(one) <= wanted for one in words)), "")


def value_meant(field: str, word: str, known: Collection[str]) -> str:
    """The value of an option that is meant by a word; empty where nobody knows.

    Args:
        field: The option.
        word: What was typed.
        known: The values there are.
    """
    wanted = word.strip().lower()
    for value, words in _SYNONYMS()["values"].get(field, {}).items():
        if value in known and wanted in words:
            return str(value)
    return ""


def every_meaning() -> list[tuple[str, list[str]]]:
    """Every command, option and value that other words lead to, as it is typed, with these words."""
    table = _SYNONYMS()
    found = [(f"grainstack {command}", words) for command, words in table["commands"].items()]
    found += [(f"--{meaning}", words) for meaning, words in table["options"].items()]
    for field, values in table["values"].items():
        found += [(f"--{field.replace('_', '-')} {value}", words) for value, words in values.items()]
    return found


def telling(words: str) -> frozenset[str]:
    """The words that tell something: without those that every wish has.

    Args:
        words: What somebody looks for.
    """
    every = plain(words).split()
    told = frozenset(stem(word) for word in every if word not in _USUAL and not word.isdigit())
    return told or frozenset(map(stem, every))


def stem(word: str) -> str:
    """A word without its ending, by which `sorted` and `sorting` are one.

    Args:
        word: In lower case.
    """
    return _ENDINGS.sub("", word.removesuffix("'s"))


def _fit(wanted: frozenset[str], synonym: str) -> float:
    """How well some words fit a synonym, up to 2."""
    own = telling(synonym)
    common = len(wanted & own)
    return common / len(own) + common / max(len(wanted), 1)


def meanings(words: str) -> list[tuple[float, Meaning]]:
    """What some words may mean, the nearest first, with how many of the words fit.

    Args:
        words: What somebody looks for.
    """
    wanted = telling(words)
    found = []
    for meaning, synonyms in _SYNONYMS()["options"].items():
        field, _, value = meaning.partition(" ")
        fits = max((_fit(wanted, one) for one in synonyms), default=0.0)
        if fits >= _LEAST_FIT:
            found.append((fits, Meaning(field.replace("-", "_"), None if value == _TYPED else value.strip("'"))))
    return sorted(found, key=lambda one: -one[0])
