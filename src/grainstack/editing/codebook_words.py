"""A level or column called otherwise in the codebook; comments and order of the file stay as they are."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import tomlkit
from tomlkit.exceptions import TOMLKitError

from grainstack.editing.history import FileChange
from grainstack.errors import RequestError, reason_of
from grainstack.plan.file.history import keep
from grainstack.records.codebook.file import codebook_from_toml
from grainstack.whole_files import write_whole


def relabelled(path: Path, column: str, levels: Sequence[tuple[str, str]], label: str | None = None) -> FileChange:
    """A codebook with other words, written with its earlier version kept.

    Args:
        path: The codebook, which there need not be yet.
        column: The column.
        levels: Codes with their labels: of a column that has none in the codebook all, in their order.
        label: What the column is to be called; None for as before.

    Returns:
        What was written.

    Raises:
        RequestError: It cannot be read, or is no TOML.
        RecordsError: It would be no codebook.
        OutputError: It cannot be written.
    """
    if path.suffix.lower() != ".toml":
        raise RequestError(
            f"{path} is no codebook of Grain Stack, and is not changed.", "Rename it in this chart only."
        )
    try:
        before = path.read_text("utf-8") if path.exists() else None
        document = tomlkit.parse(before or "")
    except (OSError, UnicodeDecodeError) as error:
        raise RequestError(f"{path} cannot be read: {reason_of(error)}.", "Look at the file.") from None
    except TOMLKitError as error:
        raise RequestError(f"{path} is no TOML: {error}.", "Mend it first.") from None
    variable = _table(_table(document, "variables"), column)
    if label is not None:
        variable["label"] = label
    if levels:
        known = _table(variable, "levels")
        for code, text in levels:
            known[code] = text
    after = tomlkit.dumps(document)
    codebook_from_toml(after, path.name)
    keep(path, after)
    write_whole(path, after.encode())
    return FileChange(str(path), before, after)


def levels_called(listed: Sequence[tuple[str, str]], code: str, name: str) -> list[tuple[str, str]]:
    """The levels to write where one is called otherwise.

    Args:
        listed: Codes with labels of a column that has none in the codebook, in their order: a codebook
            that named one alone would put it first. None where it has.
        code: The level.
        name: What it is to be called.
    """
    if all(one != code for one, _ in listed):
        return [*listed, (code, name)]
    return [(one, name if one == code else label) for one, label in listed]


def restored(change: FileChange, *, undone: bool) -> str:
    """Gives a codebook the words it had before a change, or has since.

    Args:
        change: The change.
        undone: Whether it is taken back; else it is made again.

    Returns:
        What is told of it: nothing, or that somebody else has changed the file.

    Raises:
        OutputError: It cannot be written.
    """
    path = Path(change.path)
    there = path.read_text("utf-8") if path.exists() else None
    from_text, to_text = (change.after, change.before) if undone else (change.before, change.after)
    if there != from_text:
        return f"{path.name} was changed by somebody else since, and stays as it is."
    if to_text is None:
        path.unlink()
    else:
        write_whole(path, to_text.encode())
    return ""


def _table(parent: Any, key: str) -> Any:  # noqa: ANN401 - tables and documents of TOML alike
    """A table within another, added where there is none."""
    if key not in parent:
        parent[key] = tomlkit.table(is_super_table=key == "variables")
    return parent[key]
