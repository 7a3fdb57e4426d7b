"""`grainstack find`: which option, plan key or style key does what somebody has in mind."""

import re
import shlex
from collections.abc import Iterator, Mapping

import typer

from grainstack.chart.look.style_file import SECTIONS, TOP
from grainstack.cli.command_requests import FindRequest
from grainstack.cli.commands import COMMANDS, command_named
from grainstack.cli.failing import TYPED, option_for, say, show
from grainstack.option_fields import Entry, entries
from grainstack.option_names import worded
from grainstack.other_words import meanings, plain, sentence_on, stem, telling
from grainstack.plan.file.report import PART, REPORT
from grainstack.records.codebook.keys import DESIGN, RECORDS, VARIABLE
from grainstack.requests import Requests

_MOST = 8  # answers: more are not read
_SHORT = 2  # letters: a name as short as `by` stands in any wish
_MOST_WORDS = 0.5  # of those of a wish: an option that holds fewer is about something else
_NOTHING = 1  # the exit code where nothing is found


def run(requests: Requests) -> None:
    """Prints what fits the words, the nearest first."""
    words = " ".join(requests[FindRequest].text)
    found = list(dict.fromkeys(_answers(words)))[:_MOST]
    if sentence := sentence_on(words):
        found.insert(0, sentence)
    if not found:
        say(f"Nothing is called `{words}` here. Try another word, or read grainstack bar --help.")
        raise typer.Exit(_NOTHING)
    show("\n".join(found))


def _answers(words: str) -> list[str]:
    """What fits, the nearest first: what the words are other words for, then names, help, and keys of files."""
    return [*_by_meaning(words), *_by_name(words), *_by_help(words), *_in_files(words)]


def _options() -> Mapping[str, tuple[Entry, list[str]]]:
    """Every option by its field, with the commands that have it."""
    found: dict[str, tuple[Entry, list[str]]] = {}
    for name in COMMANDS:
        for model in command_named(name).models:
            for entry in entries(model):
                found.setdefault(entry.name, (entry, []))[1].append(name)
    return found


def _by_meaning(words: str) -> Iterator[str]:
    """The options that the words are other words for."""
    known = {name.rstrip("_"): one for name, one in _options().items()}
    for _, meaning in meanings(words):
        if meaning.field in known:
            value = "" if meaning.value is None else meaning.value
            yield _line(*known[meaning.field], shlex.join(meaning.typed([value or "…"])).replace("'…'", "…"))


def _by_name(words: str) -> Iterator[str]:
    """The options whose whole names are in the words, with the value that the words name besides."""
    wanted = telling(words)
    for entry, commands in _options().values():
        name = {stem(word) for word in plain(entry.name).split()}
        if name <= wanted and len("".join(name)) > _SHORT:
            value = next((one for one in entry.word.choices if telling(one) <= wanted - name), "")
            yield _line(entry, commands, f"{option_for(entry.name)} {value}".strip())


def _by_help(words: str) -> list[str]:
    """The options whose names or help hold most of the words, those that hold more of them first."""
    wanted = telling(words)
    found = []
    for entry, commands in _options().values():
        text = f"{plain(entry.name)} {worded(entry.word.help, TYPED)} {' '.join(entry.word.choices)}".casefold()
        held = sum(bool(re.search(rf"\b{re.escape(word)}", text)) for word in wanted)
        if held > len(wanted) * _MOST_WORDS:
            found.append((-held, _line(entry, commands, option_for(entry.name))))
    return [line for _, line in sorted(found, key=lambda one: one[0])]


def _line(entry: Entry, commands: list[str], typed: str) -> str:
    where = ", ".join(commands[:4]) + (" …" if len(commands) > 4 else "")
    first = re.split(r"(?<=[.])\s", worded(entry.word.help, TYPED), maxsplit=1)[0]
    return f"{typed}\n    {first} ({where}; in a plan: {entry.name.rstrip('_')})"


def _in_files(words: str) -> Iterator[str]:
    """The keys of plans, codebooks and styles that the words are about."""
    wanted = telling(words)
    sections = {
        "plan, [report]": REPORT,
        "plan, [[report.part]]": PART,
        "codebook, [records]": RECORDS,
        "codebook, [variables.NAME]": VARIABLE,
        "codebook, [design]": DESIGN,
    }
    for where, keys in sections.items():
        for name, key in keys.items():
            if all(word in f"{plain(name)} {key.help}".casefold() for word in wanted):
                yield f"{name}\n    {key.help} ({where})"
    for section, settings in {"": TOP, **SECTIONS}.items():
        for name, setting in settings.items():
            if all(word in f"{section} {plain(name)} {setting.key.help}".casefold() for word in wanted):
                yield f"{name}\n    {setting.key.help} (style{f', [{section}]' if section else ''})"
