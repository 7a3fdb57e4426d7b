"""What was asked for on the command line, added to a plan: comments and order of the file stay as they are."""

import re
import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import tomlkit
from msgspec import Struct

from grainstack.errors import RequestError, reason_of
from grainstack.making.kind import Kind
from grainstack.option_names import option
from grainstack.plan.file.entries import OF_ENTRIES
from grainstack.plan.file.history import keep
from grainstack.plan.file.plan import SECTIONS, PlanError
from grainstack.plan.file.replacing import replaced
from grainstack.plan.file.schema import line_for, write_with_schema
from grainstack.records.opened import inputs_of
from grainstack.records.records_request import SOURCE_FIELDS, RecordsRequest
from grainstack.records.sources.secrets import holds_password
from grainstack.records.variable import EVERYTHING
from grainstack.requests import Requests
from grainstack.summary.summary_request import SummaryRequest
from grainstack.whole_files import check_targets


class NewEntry(Struct, frozen=True):
    """What is to be kept in a plan.

    Attributes:
        kind: The kind of what was asked for.
        wanted: What was asked for.
        formats: The formats it was written in.
        name: Its name; None to derive one.
        opened: What the entry of that name was asked for when it was opened: what has not changed since stays as it is
            written, with its params and the plan's defaults; None where none was opened.
    """

    kind: Kind
    wanted: Requests
    formats: tuple[str, ...] = ()
    name: str | None = None
    opened: Requests | None = None


class Extended(Struct, frozen=True):
    """A plan with an entry more.

    Attributes:
        path: Its file.
        text: What the file is to hold.
        name: The name of the entry.
        changes: Where it replaces one of its name, what is different, key by key; None where it is added.
    """

    path: Path
    text: str
    name: str
    changes: tuple[str, ...] | None = None

    def write(self) -> list[str]:
        """Writes it, with its earlier version and, where it is new, its schema beside it.

        Returns:
            What is said of that.

        Raises:
            OutputError: It cannot be written.
        """
        keep(self.path, self.text)
        of_schema = write_with_schema(self.path, self.text, "plan")
        if self.changes is None:
            return [f"Added {self.name} to {self.path}.", *of_schema]
        changes = "; ".join(self.changes) or "nothing is different"
        return [f"Replaced {self.name} in {self.path}: {changes}.", *of_schema]


def extended(path: Path, entry: NewEntry) -> Extended:
    """A plan with an entry more, or in the place of the one of its name; all else stays as it is.

    Args:
        path: Its file, which there need not be yet.
        entry: What is added.

    Raises:
        RequestError: The plan cannot be read, is no TOML or no plan, or cannot be changed there.
    """
    check_targets([path], inputs_of(entry.wanted[RecordsRequest]), (".toml",))
    try:
        text = path.read_text("utf-8-sig") if path.exists() else ""
    except (OSError, UnicodeDecodeError) as error:
        what = f"{option('save_plan')} {path} cannot be read: {reason_of(error)}."
        raise RequestError(what, "Name another file.") from None
    return Extended(path, *_with_entry(text, path.parent, entry))


def first_plan(entry: NewEntry) -> str:
    """The text of a plan of one entry.

    Args:
        entry: The entry.
    """
    return _with_entry("", Path(), entry)[0]


def _with_entry(text: str, folder: Path, entry: NewEntry) -> tuple[str, str, tuple[str, ...] | None]:
    """The text of a plan with an entry, that entry's name, and what changed where it replaces another."""
    kind, wanted, name = entry.kind, entry.wanted, entry.name
    try:
        content = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise RequestError(
            f"{option('save_plan')}: the plan is no TOML: {error}.", "Mend it, or name another."
        ) from None
    if strange := next((key for key in content if key not in SECTIONS), None):
        raise RequestError(
            f"{option('save_plan')}: that file is no plan, as there is no [{strange}] in one.", "Name another."
        )
    taken = {
        str(one.get("name")): (key, place)
        for key in ("table", "chart")
        for place, one in enumerate(content.get(key, []))
    }
    name = name or _free(_derived(kind, wanted), set(taken))
    words = _words(wanted)
    source = {"file": wanted[RecordsRequest].file}
    _check_passwords(wanted[RecordsRequest])
    source |= {key: words.pop(key) for key in SOURCE_FIELDS if key in words}
    records, added = _records_of(content, source, folder)
    section: dict[str, Any] = {"name": name, "kind": kind.name, **({"records": records} if records else {})}
    section |= {key.rstrip("_"): _plain(value) for key, value in words.items()}
    section |= {"formats": list(entry.formats)} if entry.formats else {}
    if name in taken and not added:
        section_name, place = taken[name]
        if section_name != kind.product.value:
            raise RequestError(
                f"{option('name')}: the plan has a {section_name} `{name}` already.", "Choose another name."
            )
        old = content[section_name][place]
        same = (
            {} if entry.opened is None else {key.rstrip("_"): _plain(one) for key, one in _words(entry.opened).items()}
        )
        for key in [key for key, value in section.items() if key in same and same[key] == value]:
            section[key] = old.get(key)
        kept = {key: old[key] for key in OF_ENTRIES if key in old and key not in section}
        section = {key: value for key, value in {**section, **kept}.items() if value is not None}
        return _replacing(text, section_name, place, section, name)
    if name in taken:
        raise RequestError(
            f"{option('name')}: the plan has an entry `{name}` of other records already.", "Choose another name."
        )
    blocks = [(text if text.strip() else line_for("plan")).rstrip("\n")]
    blocks += [_block(f"[{heading}]", words) for heading, words in added.items()]
    return "\n\n".join([*blocks, _block(f"[[{kind.product.value}]]", section)]) + "\n", name, None


def _words(requests: Requests) -> dict[str, Any]:
    """What was asked for, by field."""
    words: dict[str, Any] = {}
    for request in requests:
        words.update(request.asked_for())
    return {name: value for name, value in words.items() if value is not None}


def _replacing(
    text: str, section: str, place: int, words: Mapping[str, Any], name: str
) -> tuple[str, str, tuple[str, ...] | None]:
    """The same where it stands in the place of the entry of its name."""
    try:
        found, changes = replaced(text, section, place, words)
    except PlanError as error:
        raise RequestError(f"{option('name')} {name}: {error.message}", error.remedy) from None
    return found, name, changes


def _block(heading: str, words: Mapping[str, Any]) -> str:
    return "\n".join([heading, *(f"{key} = {tomlkit.item(value).as_string()}" for key, value in words.items())])


def _check_passwords(records: RecordsRequest) -> None:
    if any(map(holds_password, records.file)):
        raise RequestError(
            f"{option('save_plan')}: a plan holds no passwords.", "Write ${NAME} in its place, and set NAME outside."
        )


def path_in_plan(folder: Path, file: str) -> str:
    """A path as a plan in a folder writes it.

    Args:
        folder: The folder of the plan.
        file: The path as it was typed.
    """
    if "://" in file or file == "-":
        return file
    path = Path(file).resolve()
    try:
        return path.relative_to(folder.resolve()).as_posix()
    except ValueError:
        return str(path)


def words_of_records(records: RecordsRequest, folder: Path) -> dict[str, Any]:
    """What a plan in a folder says of some records.

    Args:
        records: What was asked of them.
        folder: The folder of the plan.

    Raises:
        RequestError: An address holds a password.
    """
    _check_passwords(records)
    return _section_of({"file": records.file, **records.asked_for()}, folder)


def _section_of(source: Mapping[str, Any], folder: Path) -> dict[str, Any]:
    """Words of records as a plan in a folder writes them."""
    section: dict[str, Any] = {}
    for key, value in source.items():
        if key == "file":
            section[key] = _plain(tuple(path_in_plan(folder, one) for one in value))
        else:
            section[key.rstrip("_")] = path_in_plan(folder, str(value)) if key == "codebook" else _plain(value)
    return section


def _records_of(
    content: Mapping[str, Any], source: Mapping[str, Any], folder: Path
) -> tuple[str, dict[str, dict[str, Any]]]:
    """The name under which the plan has these records, empty for those without one; and what is added for them."""
    section = _section_of(source, folder)
    every = content.get("records", {})
    if not every:
        return "", {"records": section}
    if {key: value for key, value in every.items() if key in SOURCE_FIELDS} == section:
        return "", {}
    for key, value in every.items():
        if isinstance(value, dict) and {one: value[one] for one in value if one in SOURCE_FIELDS} == section:
            return key, {}
    first = section["file"] if isinstance(section["file"], str) else section["file"][0]
    name = _free(_slug(Path(first).stem) or "records", set(every))
    return name, {f"records.{name}": section}


def _plain(value: object) -> object:
    """A value as it is written most simply: one of a list alone, a whole number without its decimals."""
    if isinstance(value, tuple):
        return value[0] if len(value) == 1 else list(value)
    return int(value) if isinstance(value, float) and value.is_integer() else value


def _derived(kind: Kind, wanted: Requests) -> str:
    """A name from what is shown: `bar-mean-wait-by-route`."""
    summary = wanted[SummaryRequest]
    what = "-".join((*summary.stat, *summary.measure)) or summary.value or "count"
    by = "-".join(name for name in (*summary.by, summary.split or "") if name and name != EVERYTHING)
    if wanted[RecordsRequest].items and not by:
        by = "items"
    return _slug(f"{kind.name}-{what}{f'-by-{by}' if by else ''}")


def _slug(text: str) -> str:
    return re.sub(r"[^A-Za-z0-9]+", "-", text).strip("-").lower()


def _free(name: str, taken: set[str]) -> str:
    number = 2
    found = name
    while found in taken:
        found, number = f"{name}-{number}", number + 1
    return found
