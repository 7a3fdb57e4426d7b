"""The `grainstack` command."""

import typer

from grainstack.cli import bar, codebook, demo, derive, look, table
from grainstack.cli.options import add_command

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["--help", "-h"], "max_content_width": 110},
)


@app.callback()
def about(
    version: bool = typer.Option(False, "--version", help="Print the version and stop.", is_eager=True),  # noqa: FBT001, FBT003
) -> None:
    """From categorical records to honest, report-ready charts."""
    if version:
        from grainstack import __version__  # noqa: PLC0415 - seldom asked

        typer.echo(f"grainstack {__version__}")
        raise typer.Exit


add_command(app, "look", look.MODELS, look.run)
add_command(app, "codebook", codebook.MODELS, codebook.run)
add_command(app, "derive", derive.MODELS, derive.run)
add_command(app, "table", table.MODELS, table.run)
add_command(app, "bar", bar.MODELS, bar.run)
add_command(app, "demo", demo.MODELS, demo.run, positional=("folder",))


def main() -> None:
    """Runs the command line."""
    app()
