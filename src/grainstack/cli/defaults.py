"""The `[defaults]` of a codebook: options that count wherever they can and nothing else was typed."""

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from grainstack.cli.commands import COMMANDS, Command, command_named
from grainstack.cli.failing import option_for, say
from grainstack.earlier_names import with_current_names
from grainstack.errors import ChartError, IdleError, RecordsError, RequestError, nearest
from grainstack.later import Later
from grainstack.option_fields import Entry, Request, entries
from grainstack.option_names import option
from grainstack.records.codebook.file import key_lines, read_codebook
from grainstack.records.opened import codebook_of
from grainstack.requests import Requests, filled
from grainstack.toml_schema import value_of

_LOOKS_OF = Later("report.like", "looks_of")  # few charts take those of another
_TYPED_ONLY = ("file", "codebook", "out", "save_plan", "name", "like")  # what is read and written is typed each time


def run_with_defaults(command: Command, typed: Mapping[str, Any], *, wanted: bool, strict: bool) -> None:
    """Runs a command with what was typed and, of the codebook's defaults, those that this request can use.

    A default that the request refuses is left aside, and said unless it would merely make no difference. So is a typed
    option that makes none, which is always said.

    Args:
        command: The command.
        typed: The options that were typed, by field name.
        wanted: Whether the codebook's defaults count.
        strict: Whether an option that makes no difference is an error.

    Raises:
        RequestError: The request cannot be met without any default either.
        RecordsError: A default that no command has, or a value it cannot have; names the line.
    """
    path = _codebook_of(command, typed) if wanted else None
    defaults = _Defaults(command, path, dict(typed), strict=strict)
    while True:
        try:
            command.run(defaults.requests())
        except (RequestError, ChartError) as error:
            defaults.leave_aside(error)
            continue
        break
    defaults.say()


def _codebook_of(command: Command, typed: Mapping[str, Any]) -> Path | None:
    if not any(entry.name == "codebook" for entry in entries(command.models[0])):
        return None

    return codebook_of(typed.get("file", ()), typed.get("codebook"))


class _Defaults(Struct):
    """The defaults of one run: those that count, and those that were left aside."""

    command: Command
    path: Path | None
    typed: dict[str, Any]
    strict: bool = False
    counted: dict[str, Any] = field(default_factory=dict)
    aside: dict[str, RequestError | ChartError] = field(default_factory=dict)
    looks: frozenset[str] = frozenset()  # those of them that are of another chart
    idle: list[str] = field(default_factory=list)  # what is to be told of typed options without effect

    def __post_init__(self) -> None:
        self.counted = {name: value for name, value in self._of_codebook().items() if name not in self.typed}
        if like := self.typed.get("like"):
            looks = {name: one for name, one in _LOOKS_OF(like, self.command.models).items() if name not in self.typed}
            self.counted |= looks
            self.looks = frozenset(looks)

    def _of_codebook(self) -> Mapping[str, Any]:
        """The defaults of the codebook."""
        if self.path is None or self.path.suffix.lower() != ".toml":
            return {}
        content = read_codebook(self.path).defaults
        return _checked(content, self.path).get(self.command.name, {}) if content else {}

    @property
    def deciding(self) -> set[str]:
        """The options without which figures would be others than those asked for, by field name."""
        return {entry.name for model in self.command.models for entry in entries(model) if entry.word.decides}

    def requests(self) -> Requests:
        """What is asked for."""
        return filled(self.command.models, {**self.counted, **self.typed})

    def leave_aside(self, error: RequestError | ChartError) -> None:
        """Does without the default that an error is about.

        Raises:
            RequestError: The error itself, when it is about none.
        """
        culprit = next((name for name in error.fields if name in self.counted), None)
        if culprit is None and isinstance(error, IdleError) and not self.strict:
            idle = next(iter(error.fields), "")
            if idle in self.typed and idle not in self.deciding:
                del self.typed[idle]
                self.idle.append(error.message)
                return
        if culprit is None:
            raise error
        del self.counted[culprit]
        self.aside[culprit] = error

    def say(self) -> None:
        """Says which defaults counted, which could not and why, and which typed options had no effect."""
        for message in self.idle:
            say(f"No effect: {message}")
        for start, of, names in self._sources():
            counted = [
                f"{option(name)} {_shown(self.counted[name])}".rstrip() for name in self.counted if name in names
            ]
            if counted:
                say(f"{start}s of {of}: {', '.join(counted)}.")
            for name, error in self.aside.items():
                if name in names and not isinstance(error, IdleError):
                    say(f"{start} {option(name)} of {of} left aside: {error.message}")

    def _sources(self) -> list[tuple[str, str, set[str]]]:
        """What they are called, where they come from and which they are."""
        every = {*self.counted, *self.aside}
        return [
            ("Default", str(self.path), every - self.looks),
            ("Look", str(self.typed.get("like")), every & self.looks),
        ]


def _shown(value: object) -> str:
    if isinstance(value, tuple):
        return ", ".join(value)
    return "" if value is True else "off" if value is False else str(value)


def _checked(content: Mapping[str, Any], path: Path) -> dict[str, dict[str, Any]]:
    """The defaults of each command by field name, those of `[defaults.COMMAND]` before those of all.

    Raises:
        RecordsError: An option there is not, or a value it cannot have.
    """
    content = {
        key: with_current_names(value) if isinstance(value, dict) else value
        for key, value in with_current_names(content).items()
    }
    commands = {name: command_named(name) for name in COMMANDS}
    shared = {key: value for key, value in content.items() if not (key in commands and isinstance(value, dict))}
    checked: dict[str, dict[str, Any]] = {}
    for key in shared:
        if not any(_entry(command, key) for command in commands.values()):
            raise _wrong(path, (key,), f"there is no option `{key}`", _nearest(key, commands.values()))
    for name, command in commands.items():
        special = content.get(name, {}) if isinstance(content.get(name), dict) else {}
        for key in special:
            if not _entry(command, key):
                raise _wrong(path, (name, key), f"{name} has no option `{key}`", _nearest(key, [command]))
        values: dict[str, Any] = {}
        for key, value in {**shared, **special}.items():
            place = (name, key) if key in special else (key,)
            if entry := _entry(command, key):
                try:
                    values[entry.name] = value_of(entry, value)
                except ValueError as error:
                    raise _wrong(path, place, f"`{place[-1]}` {error}") from None
        for model in command.models:
            _check_model(model, values, path)
        checked[name] = values
    return checked


def _check_model(model: type[Request], values: Mapping[str, Any], path: Path) -> None:
    held = {entry.name: values[entry.name] for entry in entries(model) if entry.name in values}
    try:
        model(**held)
    except IdleError:
        return  # another request may use it
    except RequestError as error:
        named = next((name for name in error.fields if name in held), next(iter(held), ""))
        raise _wrong(path, (named.rstrip("_"),), error.message.rstrip("."), error.remedy) from error


def _entry(command: Command, key: str) -> Entry | None:
    """The option of a command that a key stands for; None when it has none, or one that is always typed."""
    for model in command.models:
        for entry in entries(model):
            if entry.name.rstrip("_") == key and key not in _TYPED_ONLY:
                return entry
    return None


def _nearest(key: str, commands: Iterable[Command]) -> str:
    if key in _TYPED_ONLY:
        return f"What is read and written is typed each time ({option_for(key)})."
    names = {
        entry.name.rstrip("_") for command in commands for model in command.models for entry in entries(model)
    } - set(_TYPED_ONLY)
    return nearest(key, sorted(names))


def _wrong(path: Path, place: tuple[str, ...], sentence: str, remedy: str = "") -> RecordsError:

    lines = key_lines(path.read_text("utf-8-sig"))
    line = lines.get(("defaults", *place)) or next((lines[key] for key in lines if key[-1:] == place[-1:]), 0)
    where = f", line {line}" if line else ""
    return RecordsError(f"{path}{where}: {sentence}.", remedy)
