"""The reference pages, and the schemas that are shipped: made of the models, so that they say what the program does.

`python -m grainstack.cli.reference docs/reference` writes both; a test holds them current.
"""

import sys
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path

from grainstack.chart.look.style_file import SECTIONS, TOP
from grainstack.cli.commands import COMMANDS, command_named
from grainstack.cli.failing import TYPED, option_for
from grainstack.endings import CHART_ENDINGS, TABLE_ENDINGS
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import Entry, entries
from grainstack.option_names import worded
from grainstack.other_words import every_meaning
from grainstack.plan.file.report import PART, REPORT
from grainstack.plan.file.schema import FILES, FOLDER, as_json, own_keys, records_keys, schema_of, words_of
from grainstack.records.codebook.keys import DESIGN, RECORDS, VARIABLE
from grainstack.records.records_request import SOURCE_FIELDS
from grainstack.toml_schema import Key, Schema

_MADE = "<!-- Made by `python -m grainstack.cli.reference docs/reference`; changes belong into the models. -->"


def schemas() -> dict[str, str]:
    """The schemas that are shipped, by the names of their files."""
    return {f"{file}.schema.json": as_json(schema_of(file, TABLE_ENDINGS)) for file in FILES}


def pages() -> dict[str, str]:
    """The reference pages, by the names of their files."""
    made = {
        "commands": _commands(),
        "plan": _plan(),
        "codebook": _codebook(),
        "style": _style(),
        "words": _other_words(),
    }
    return {f"{name}.md": f"{_MADE}\n\n" + "\n".join(lines) + "\n" for name, lines in made.items()}


def _other_words() -> Iterator[str]:
    yield "# What people call it, and what it is here"
    yield "\n`grainstack find WORDS` answers the same; an unknown option or value is answered with the one meant.\n"
    yield "| people say | here |"
    yield "|---|---|"
    for here, words in every_meaning():
        yield f"| {', '.join(words)} | `{here}` |"


def _commands() -> Iterator[str]:
    yield "# Commands"
    yield "\nWhat each command is called, what it does, and its options: those that several share are explained below."
    shared: dict[str, tuple[Entry, list[str]]] = {}
    for name, about in COMMANDS.items():
        command = command_named(name)
        options = [entry for model in command.models for entry in entries(model)]
        yield f"\n## {name}\n\n{about}\n"
        positional = command.positional
        yield "```console"
        yield f"$ grainstack {name}{f' {positional.name.upper()}' if positional else ''} [options]"
        yield from (f"$ grainstack {example}" for example in command.examples)
        yield "```"
        if positional:
            yield f"\n{positional.name.upper()}: {positional.help}"
        if options:
            yield "\n" + " ".join(f"`{option_for(entry.name)}`" for entry in options)
        for entry in options:
            shared.setdefault(option_for(entry.name), (entry, []))[1].append(name)
    groups: dict[str, list[tuple[Entry, list[str]]]] = {}
    for entry, names in shared.values():
        groups.setdefault(entry.word.group, []).append((entry, names))
    yield "\n# Options"
    for group, of_it in groups.items():
        yield f"\n## {group}\n"
        yield from _table(
            ("option", "what it does", "commands"),
            ((f"`{_typed(entry)}`", _help(entry), ", ".join(names)) for entry, names in of_it),
        )


def _typed(entry: Entry) -> str:
    return f"{option_for(entry.name)} {entry.word.metavar}".strip()


def _help(entry: Entry) -> str:
    choices = f" One of {', '.join(entry.word.choices)}." if entry.word.choices else ""
    return worded(entry.word.help, TYPED) + choices


def _plan() -> Iterator[str]:
    yield "# The plan file"
    yield "\n`plan.toml`: [a guide](../plan.md). `[params]` holds names and values of one's own."
    yield "\n## [records] and [records.NAME]\n"
    yield from _keys(records_keys())
    yield "\n## [engine]\n"
    yield "What `--engine` and `--scheduler` say, see [commands](commands.md)."
    yield "\n## [style]\n"
    yield "What a [style file](style.md) says."
    yield "\n## [defaults], and [defaults.KIND] for one kind\n"
    yield "Any words of the kinds below, and `no_advice`: they count for every entry that can use them."
    endings = {Product.TABLE: TABLE_ENDINGS, Product.CHART: CHART_ENDINGS}
    for product in Product:
        kinds = [kind_named(name) for name in KINDS if kind_named(name).product is product]
        yield f"\n## [[{product.value}]]\n"
        if len(kinds) > 1:
            yield f"`kind` is one of {', '.join(f'`{kind.name}`' for kind in kinds)}.\n"
        yield from _keys(own_keys(endings[product]))
        words = _words(kinds)
        yield ""
        yield from _table(
            ("key", "what it says", "kinds"),
            ((f"`{name}`", _with_choices(key), ", ".join(of_it)) for name, (key, of_it) in words.items()),
        )
    yield "\n## [report]\n"
    yield from _keys(REPORT)
    yield "\n## [[report.part]]\n"
    yield from _keys(PART)


def _words(kinds: Iterable[Kind]) -> dict[str, tuple[Key, list[str]]]:
    """The words of some kinds, each with those that have it."""
    found: dict[str, tuple[Key, list[str]]] = {}
    for kind in kinds:
        for name, key in words_of(kind).items():
            if name not in SOURCE_FIELDS:
                found.setdefault(name, (key, []))[1].append(kind.name)
    return found


def _codebook() -> Iterator[str]:
    yield "# The codebook file"
    yield "\n`codebook.toml` beside the records is found by itself."
    yield "`grainstack codebook FILE --out codebook.toml` drafts one."
    for heading, keys in (("[records]", RECORDS), ("[variables.NAME]", VARIABLE), ("[design]", DESIGN)):
        yield f"\n## {heading}\n"
        yield from _keys(keys)
    yield "\n## [defaults], and [defaults.KIND] for one kind\n"
    yield "Options of commands, such as `locale`, which count unless they are typed; see [commands](commands.md)."


def _style() -> Iterator[str]:
    yield "# The style file"
    yield "\n`style.toml` beside the records is found by itself; `grainstack palettes --style-draft FILE` drafts one.\n"
    yield from _keys({name: one.key for name, one in TOP.items()})
    for section, keys in SECTIONS.items():
        yield f"\n## [{section}]\n"
        yield from _keys({name: one.key for name, one in keys.items()})


def _keys(keys: Mapping[str, Key]) -> Iterator[str]:
    return _table(("key", "what it says"), ((f"`{name}`", _with_choices(key)) for name, key in keys.items()))


def _with_choices(key: Key) -> str:
    choices = _choices(key.schema)
    return worded(key.help, TYPED) + (f" One of {', '.join(choices)}." if choices else "")


def _choices(schema: Schema) -> list[str]:
    """The texts a key may hold, where there are some only."""
    found = list(map(str, schema.get("enum", [])))
    for one in schema.get("anyOf", []):
        found += [choice for choice in _choices(one) if choice not in found]
    return found


def _table(heading: tuple[str, ...], rows: Iterable[tuple[str, ...]]) -> Iterator[str]:
    yield f"| {' | '.join(heading)} |"
    yield f"|{'---|' * len(heading)}"
    for row in rows:
        yield f"| {' | '.join(cell.replace('|', chr(92) + '|') for cell in row)} |"


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    FOLDER.mkdir(exist_ok=True)
    for directory, files in ((folder, pages()), (FOLDER, schemas())):
        for name, text in files.items():
            (directory / name).write_text(text, "utf-8")
