"""Commands made from request models: every field that is a `word` becomes an option, grouped in the help."""

import inspect
import re
import shlex
import textwrap
from collections.abc import Mapping, Sequence
from difflib import SequenceMatcher
from typing import Annotated, Any

import typer
from typer.core import TyperCommand
from typer.exceptions import TyperException

from grainstack.cli.commands import COMMANDS, Command, Positional, command_named
from grainstack.cli.failing import TYPED, option_for, reported, say
from grainstack.errors import RequestError, did_you_mean, near_names
from grainstack.language import in_words
from grainstack.later import Later
from grainstack.option_fields import Entry, Request, entries, types_of
from grainstack.option_names import worded
from grainstack.other_words import option_meant, sentence_on
from grainstack.requests import filled

_STRICT = "strict"
_ALIKE = 0.72  # of two spellings of one option; less is another word
_MOST_ON_A_PAGE = 45  # options: more are looked up by heading
_EVERYTHING = "all"
_NAMES_START = 22  # the column: behind the longest heading
_USAGE = 2  # the exit code of what was typed wrongly
_RUN_WITH_DEFAULTS = Later("cli.defaults", "run_with_defaults")


class GroupedHelp(TyperCommand):
    """A command whose help lists its options under the headings of their words, and whose short help fits a screen."""

    def parse_args(self, ctx: Any, args: list[str]) -> Any:  # noqa: ANN401 - Typer's classes are not public
        """Reads what was typed; an option that is none is answered by what is meant."""
        typed = list(args)
        if "--help" in args:
            typer.echo(self._help_on(ctx, args[args.index("--help") + 1 :]))
            raise typer.Exit
        try:
            return super().parse_args(ctx, args)
        except TyperException as error:
            unknown = getattr(error, "option_name", "")
            if unknown and hasattr(error, "possibilities"):  # of one that lacks its value there are none
                say(_answer_to(str(self.name), unknown, typed))
                raise typer.Exit(_USAGE) from None
            raise

    def format_short_help(self, ctx: Any) -> str:  # noqa: ANN401 - Typer's classes are not public
        """What the command does, the options most used, and two examples."""
        command, formatter = command_named(str(self.name)), ctx.make_formatter()
        self.format_usage(ctx, formatter)
        self.format_help_text(ctx, formatter)
        by_name = {parameter.opts[0]: parameter for parameter in self.get_params(ctx)}
        records = [by_name[option_for(name)].get_help_record(ctx) for name in command.most_used]
        if records:
            with formatter.section("Most used"):
                formatter.write_dl([(record[0], _first_clause(record[1])) for record in records if record])
        with formatter.section("For example"):
            for example in command.examples:
                formatter.write_text(f"grainstack {example}")
        return f"{formatter.getvalue()}\nAll options: grainstack {self.name} --help\n"

    def _help_on(self, ctx: Any, topic: Sequence[str]) -> str:  # noqa: ANN401 - Typer's classes are not public
        """The help page: whole, or of the headings that a topic means; of many options a line for each heading."""
        groups, formatter = self._groups(ctx), ctx.make_formatter()
        many = sum(map(len, groups.values())) > _MOST_ON_A_PAGE
        wanted = list(groups) if topic == [_EVERYTHING] or not many else _headings_meant(topic, groups)
        self.format_usage(ctx, formatter)
        self.format_help_text(ctx, formatter)
        for heading in wanted:
            with formatter.section(heading):
                formatter.write_dl(groups[heading])
        if not many or wanted:
            return str(formatter.getvalue()).rstrip()
        about = f"There is no heading {' '.join(topic)}. " if topic else ""
        with formatter.section("Options, by heading"):
            for heading, records in groups.items():
                formatter.write(_line_of_names(heading, [name for name, _ in records], formatter.width))
        lines = f"{about}One heading: grainstack {self.name} --help colours. All: grainstack {self.name} --help all."
        return f"{formatter.getvalue()}\n{lines}"

    def _groups(self, ctx: Any) -> dict[str, list[tuple[str, str]]]:  # noqa: ANN401 - Typer's classes are not public
        """The options with their help by heading, in the order the headings first appear."""
        groups: dict[str, list[tuple[str, str]]] = {}
        for parameter in self.get_params(ctx):
            record = parameter.get_help_record(ctx)
            if record is not None:
                heading = getattr(parameter, "rich_help_panel", None) or "Other"
                groups.setdefault(heading, []).append(record)
        return groups


def _line_of_names(heading: str, options: Sequence[str], columns: int) -> str:
    """A heading with the options under it, none of them parted at a line's end."""
    names = " ".join(name.split()[0].rstrip(",") for name in options)
    start = f"  {heading}".ljust(_NAMES_START)
    lines = textwrap.wrap(
        names, columns, initial_indent=start, subsequent_indent=" " * _NAMES_START, break_on_hyphens=False
    )
    return "\n".join(lines) + "\n"


def _headings_meant(topic: Sequence[str], groups: Mapping[str, Sequence[tuple[str, str]]]) -> list[str]:
    """The headings that hold a word of a topic, or the option that is called or meant by it; none for no topic."""
    text = " ".join(topic).lower().replace("color", "colour").removesuffix("s")
    found = [heading for heading in groups if text and text in heading.lower()]
    if found or not text:
        return found
    fields = {
        name.split()[0].rstrip(",").strip("-").replace("-", "_"): one for one in groups for name, _ in groups[one]
    }
    meant = option_meant(" ".join(topic), fields)
    named = "_".join(topic).strip("-").replace("-", "_")
    return [fields[name] for name in (named, meant.field if meant else "") if name in fields][:1]


def _answer_to(command: str, unknown: str, typed: Sequence[str]) -> str:
    """What is meant by an option that is none, or is spelt like it, with the command as it can be pasted."""
    known = [entry.name for model in command_named(command).models for entry in entries(model)]
    if sentence := sentence_on(unknown):
        return f"grainstack: there is no {unknown}. {sentence}"
    meaning = option_meant(unknown, known)
    place = next(at for at, word in enumerate(typed) if word.partition("=")[0] == unknown)
    if meaning is None and (others := _commands_with(unknown)):
        return f"grainstack: {command} has no {unknown}; {in_words(others)} {'has' if len(others) == 1 else 'have'} it."
    if meaning is None:
        near = _spelt_alike(unknown, list(map(option_for, known)))
        if not near:
            return f"grainstack: there is no {unknown}.\n  Look for it: grainstack find {unknown.strip('-')}"
        instead = typed[place].replace(unknown, near[0], 1)
        whole = shlex.join(["grainstack", command, *typed[:place], instead, *typed[place + 1 :]])
        return f"grainstack: there is no {unknown}. {did_you_mean(near)}\n  {whole}"
    _, equals, value = typed[place].partition("=")
    after = place + 1
    while not equals and after < len(typed) and not typed[after].startswith("--"):
        after += 1  # its values
    values = [value] if equals else list(typed[place + 1 : after])
    if meaning.value is None and not values:
        values = ["…"]
    words = meaning.typed(values)
    whole = shlex.join(["grainstack", command, *typed[:place], *words, *typed[after:]])
    told = f"grainstack: there is no {unknown}; {shlex.join(words)} is that here:\n  {whole}"
    return told.replace("'…'", "…")


def _commands_with(option: str) -> list[str]:
    """The commands that have an option."""
    models = ((name, command_named(name).models) for name in COMMANDS)
    return [name for name, every in models if any(option_for(e.name) == option for one in every for e in entries(one))]


def _spelt_alike(unknown: str, known: Sequence[str]) -> list[str]:
    """Up to three options that are spelt nearly like one, those that begin with it first."""
    begin = [one for one in known if one.startswith(unknown)]
    near = [one for one in near_names(unknown, known) if SequenceMatcher(None, one, unknown).ratio() > _ALIKE]
    return list(dict.fromkeys([*begin, *near]))[:3]


def _first_clause(text: str) -> str:
    """A help text without its choices and finer points, so that it fits a line."""
    return re.split(r"[;:.](?: |$)| \[", text, maxsplit=1)[0].rstrip(".") + "."


def add_command(app: typer.Typer, command: Command, arguments: Sequence[str]) -> None:
    """Adds a command that builds its models from its options and hands them to `run`.

    Args:
        app: Where to.
        command: What.
        arguments: What was typed: a command has more than a hundred options, of which only those typed are made.
    """
    models, run, positional = command.models, command.run, command.positional
    parameters = [inspect.Parameter("context", inspect.Parameter.KEYWORD_ONLY, annotation=typer.Context)]
    parameters += [_argument(positional, models[0])] if positional else []
    parameters += [_option(entry, repeated=entry.name in command.repeated) for entry in _wanted(models, arguments)]
    if not command.without_defaults and any(entry.name == "codebook" for entry in entries(models[0])):
        parameters.append(_switch("no_defaults", "Leave the defaults of the codebook aside."))
        parameters.append(_switch(_STRICT, "Stop where an option makes no difference, in place of saying so."))
    parameters.append(_switch("debug", "Show where in the program an error came from."))
    parameters.append(_short_help())

    def called(**given: Any) -> None:  # noqa: ANN401 - as Typer gives them
        with reported(debug=given.pop("debug")):
            given.pop("short_help")
            without = given.pop("no_defaults", None)
            strict = without is not None and given.pop(_STRICT)
            typed = _typed(given.pop("context"), given)
            if without is None:
                run(filled(models, typed))
            else:
                _RUN_WITH_DEFAULTS(command, typed, wanted=not without, strict=strict)

    called.__doc__ = command.about
    called.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    called.__annotations__ = {parameter.name: parameter.annotation for parameter in parameters}
    app.command(command.name, cls=GroupedHelp)(called)


def typed_values(name: str, arguments: Sequence[str]) -> dict[str, Any]:
    """What was typed of a table or chart somewhere else than in a terminal, by field.

    Args:
        name: The kind.
        arguments: The words behind it.

    Raises:
        RequestError: An option that is none, or lacks its value.
    """
    alone = typer.Typer(add_completion=False, rich_markup_mode=None)
    command, words = command_named(name), [one for one in arguments if one != "--no-defaults"]
    known = {option_for(entry.name) for model in command.models for entry in entries(model)}
    if unknown := next((one for one in words if one.startswith("--") and one.partition("=")[0] not in known), ""):
        raise RequestError(_answer_to(name, unknown.partition("=")[0], words).removeprefix("grainstack: "))
    add_command(alone, command, words)
    try:
        context = typer.main.get_command(alone).make_context(name, list(words))
    except TyperException as error:
        raise RequestError(f"The command cannot be read: {error.format_message()}") from None
    return _typed(context, context.params)  # type: ignore[arg-type]  # Typer names its class otherwise in public


def _wanted(models: Sequence[type[Request]], arguments: Sequence[str]) -> list[Entry]:
    """The options that were typed; all of them for a help page, or for a message on one that is none."""
    every = {option_for(entry.name): entry for model in models for entry in entries(model)}
    typed = {argument.partition("=")[0] for argument in arguments if argument.startswith("-") and argument != "-"}
    unknown = typed - set(every) - {"--no-defaults", "--strict", "--debug"}
    return list(every.values()) if unknown else [entry for name, entry in every.items() if name in typed]


def _typed(context: typer.Context, given: Mapping[str, Any]) -> dict[str, Any]:
    """What was typed of all that a command can be given; the rest stands at its default."""
    sources = {name: context.get_parameter_source(name) for name in given}
    return {name: given[name] for name, source in sources.items() if source and source.name == "COMMANDLINE"}


def _switch(name: str, text: str) -> inspect.Parameter:
    """An option of every command, which no request knows of."""
    annotation = Annotated[bool, typer.Option(option_for(name), help=text, rich_help_panel="Other")]
    return inspect.Parameter(name, inspect.Parameter.KEYWORD_ONLY, default=False, annotation=annotation)


def _short_help() -> inspect.Parameter:
    """`-h`: one screen of help."""

    def shown(context: typer.Context, *, wanted: bool) -> None:
        if wanted:
            typer.echo(context.command.format_short_help(context), nl=False)  # type: ignore[attr-defined]
            raise typer.Exit

    option = typer.Option(
        "-h", help="Show the options most used.", is_eager=True, callback=shown, rich_help_panel="Other"
    )
    return inspect.Parameter(
        "short_help", inspect.Parameter.KEYWORD_ONLY, default=False, annotation=Annotated[bool, option]
    )


def _argument(positional: Positional, model: type) -> inspect.Parameter:
    kind: Any = list[str] if types_of(model)[positional.name] == tuple[str, ...] else str
    annotation = Annotated[kind, typer.Argument(help=positional.help, rich_help_panel="Arguments")]
    return inspect.Parameter(positional.name, inspect.Parameter.KEYWORD_ONLY, annotation=annotation)


def _option(entry: Entry, *, repeated: bool = False) -> inspect.Parameter:
    word = entry.word
    choices = f" [{' | '.join(word.choices)}]" if word.choices else ""
    option = typer.Option(
        option_for(entry.name),
        help=worded(word.help, TYPED) + choices,
        rich_help_panel=word.group,
        metavar=word.metavar or None,
        show_default=isinstance(entry.default, str | float) and not isinstance(entry.default, bool),
    )
    kind: Any = entry.type
    default: Any = entry.default
    if repeated or entry.type == tuple[str, ...]:
        kind, default = list[float] if entry.type is float else list[str], []
    return inspect.Parameter(
        entry.name, inspect.Parameter.KEYWORD_ONLY, default=default, annotation=Annotated[kind, option]
    )
