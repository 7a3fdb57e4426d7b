"""Reading a codebook: `codebook.toml`, or a description of open standards in JSON or XML."""

import re
import tomllib
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any

from grainstack.endings import DESCRIPTION_ENDINGS
from grainstack.errors import RecordsError, RequestError, nearest, reason_of
from grainstack.later import Later
from grainstack.option_names import command, option
from grainstack.records.codebook.codebook import (
    BY_SIZE,
    COMPLETE,
    LISTED,
    SAMPLE,
    STAGED,
    Codebook,
    CodebookVariable,
    Design,
)
from grainstack.records.codebook.keys import DESIGN, RECORDS, VARIABLE
from grainstack.records.dates import DAY_FIRST, MONTH_FIRST
from grainstack.records.readers.bands import band_rule
from grainstack.records.variable import Kind, Level

_FROM_DESCRIPTION = Later("records.codebook.descriptions", "codebook_from_description")  # which few codebooks are
_DESIGN_NUMBERS = ("fay_coefficient", "degrees")
_TABLES = ("records", "variables", "design", "defaults")
_COLOR = re.compile(r"#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})")


def read_codebook(path: Path) -> Codebook:
    """Reads a codebook from TOML, or from an open standard when the file ends in `.json`, `.xml` or `.sss`.

    Raises:
        RequestError: There is no such file.
        RecordsError: It says something that cannot be; names the line.
    """
    ending = path.suffix.lower()
    try:
        if ending in DESCRIPTION_ENDINGS:
            described: Codebook = _FROM_DESCRIPTION(path.read_bytes(), path.name, ending)
            return described
        text = path.read_text("utf-8-sig")
    except FileNotFoundError as reason:
        raise RequestError(
            f"There is no codebook {path}.", f"Draft one: {command('codebook')} FILE {option('out')} {path}"
        ) from reason
    except (OSError, UnicodeDecodeError) as reason:
        raise RecordsError(f"Cannot read the codebook {path}: {reason_of(reason)}.") from reason
    return codebook_from_toml(text, path.name)


def codebook_from_toml(text: str, name: str) -> Codebook:
    """A codebook from the text of a TOML file.

    Args:
        text: The file's text.
        name: The file's name, for messages.

    Raises:
        RecordsError: It is no TOML, or says something that cannot be; names the line.
    """
    try:
        content = tomllib.loads(text)
    except tomllib.TOMLDecodeError as reason:
        raise RecordsError(f"{name} is no TOML: {reason}.", "Text needs quotation marks; a key needs `=`.") from reason
    return _Reader(name, key_lines(text)).codebook(content)


def key_lines(text: str) -> dict[tuple[str, ...], int]:
    """The line of each key and table of a TOML text, by its path; keys of inline tables count for their table."""
    lines: dict[tuple[str, ...], int] = {}
    table: tuple[str, ...] = ()
    for number, line in enumerate(text.splitlines(), 1):
        if match := re.match(r"\s*\[+([^\]]+)\]", line):
            table = _path(match[1])
            lines.setdefault(table, number)
        elif match := re.match(
            r"\s*((?:\"[^\"]*\"|'[^']*'|[\w\-]+)(?:\s*\.\s*(?:\"[^\"]*\"|'[^']*'|[\w\-]+))*)\s*=", line
        ):
            lines.setdefault(table + _path(match[1]), number)
    return lines


def _path(text: str) -> tuple[str, ...]:
    parts = re.findall(r"\"([^\"]*)\"|'([^']*)'|([\w\-]+)", text)
    return tuple(next(part for part in match if part) if any(match) else "" for match in parts)


class _Reader:
    """Checks what a codebook says, piece by piece, and knows on which line each piece stands."""

    def __init__(self, name: str, lines: Mapping[tuple[str, ...], int]) -> None:
        self._name = name
        self._lines = lines

    def codebook(self, content: dict[str, Any]) -> Codebook:
        self._check_keys((), content, _TABLES)
        records = self._table(content, "records")
        self._check_keys(("records",), records, tuple(RECORDS))
        dates = self._text(("records", "dates"), records, "")
        if "dates" in records and dates not in (DAY_FIRST, MONTH_FIRST):
            raise self._wrong(("records", "dates"), f'`dates` must be "{DAY_FIRST}" or "{MONTH_FIRST}"')
        decimal = self._text(("records", "decimal"), records, "")
        if "decimal" in records and decimal not in (".", ","):
            raise self._wrong(("records", "decimal"), '`decimal` must be "." or ","')
        variables = self._table(content, "variables")
        return Codebook(
            name=self._name,
            nouns=MappingProxyType(self._by_file(records, "noun")),
            kinds=MappingProxyType(self._kinds_of_records(records)),
            dates=dates,
            decimal=decimal,
            variables=MappingProxyType({name: self._variable(name, given) for name, given in variables.items()}),
            design=self._design(self._table(content, "design")),
            defaults=MappingProxyType(self._table(content, "defaults")),
        )

    def _variable(self, name: str, given: object) -> CodebookVariable:
        path = ("variables", name)
        if not isinstance(given, dict):
            raise self._wrong(
                path, f"variable `{name}` must be a table", f"Write [variables.{name}] and its keys below."
            )
        self._check_keys(path, given, tuple(VARIABLE))
        low, high = self._range((*path, "range"), given.get("range"))
        return CodebookVariable(
            name=name,
            label=self._text((*path, "label"), given, ""),
            kind=self._kind((*path, "kind"), given),
            unit=self._text((*path, "unit"), given, ""),
            levels=self._levels((*path, "levels"), given.get("levels", {}), name),
            missing=frozenset(self._codes((*path, "missing"), given.get("missing", []))),
            bands=self._bands((*path, "bands"), given.get("bands"), name),
            low=low,
            high=high,
            separator=self._text((*path, "separator"), given, ""),
            columns=tuple(self._codes((*path, "columns"), given.get("columns", []))),
            question=self._text((*path, "question"), given, ""),
            note=self._text((*path, "note"), given, ""),
            good=self._one_of((*path, "good"), given, ("first", "last")),
            order=self._one_of((*path, "order"), given, (LISTED, BY_SIZE)) or LISTED,
            decimal=self._one_of((*path, "decimal"), given, (".", ",")),
            dates=self._one_of((*path, "dates"), given, (DAY_FIRST, MONTH_FIRST)),
        )

    def _one_of(self, path: tuple[str, ...], given: dict[str, Any], known: tuple[str, str]) -> str:
        found = self._text(path, given, "")
        if path[-1] in given and found not in known:
            raise self._wrong(path, f"`{path[-1]}` is no {found}", f"Write {known[0]} or {known[1]}.")
        return found

    def _by_file(self, records: dict[str, Any], key: str) -> dict[str, str]:
        """`noun = "visits"` for every file, or a table of nouns by file name."""
        given = records.get(key, {})
        if isinstance(given, dict):
            return {file: self._text(("records", key, file), given, "") for file in given}
        return {"*": self._text(("records", key), records, "")}

    def _kinds_of_records(self, records: dict[str, Any]) -> dict[str, str]:
        kinds = self._by_file(records, "kind")
        for file, kind in kinds.items():
            if kind not in (SAMPLE, COMPLETE):
                path = ("records", "kind", file) if isinstance(records["kind"], dict) else ("records", "kind")
                raise self._wrong(path, f'`kind` must be "{SAMPLE}" or "{COMPLETE}", all there are, not "{kind}"')
        return kinds

    def _kind(self, path: tuple[str, ...], given: dict[str, Any]) -> Kind | None:
        if path[-1] not in given:
            return None
        text = self._text(path, given, "")
        if text not in {kind.value for kind in Kind}:
            kinds = [kind.value for kind in Kind]
            raise self._wrong(path, f"there is no kind `{text}`", nearest(text, kinds))
        return Kind(text)

    def _levels(self, path: tuple[str, ...], given: object, name: str) -> tuple[Level, ...]:
        if not isinstance(given, dict):
            raise self._wrong(path, f"`levels` of `{name}` must be a table of codes and labels", 'Write 1 = "First" …')
        levels: list[Level] = []
        for code, value in given.items():
            place = (*path, code)
            if isinstance(value, str):
                levels.append(Level(code, value))
            elif isinstance(value, dict):
                self._check_keys(place, value, ("label", "color"))
                color = self._text((*place, "color"), value, "") or None
                if color and not _COLOR.fullmatch(color):
                    raise self._wrong((*place, "color"), f"`{color}` is no colour", "Write it like #1a726a.")
                levels.append(Level(code, self._text((*place, "label"), value, code), _full(color)))
            else:
                raise self._wrong(place, f"the label of level `{code}` of `{name}` must be text, not {_kind_of(value)}")
        for number, level in enumerate(levels):
            twin = next((other for other in levels[:number] if other.label == level.label), None)
            if twin is not None:
                raise self._wrong(
                    (*path, level.code),
                    f"levels `{twin.code}` and `{level.code}` of `{name}` have one label, {level.label!r}",
                    f"Give each its own; to merge levels use {option('recode')}.",
                )
        return tuple(levels)

    def _bands(self, path: tuple[str, ...], given: object, name: str) -> str:
        if given is None:
            return ""
        items = given if isinstance(given, list) else [given]
        if any(isinstance(item, bool) or not isinstance(item, int | float | str) for item in items):
            raise self._wrong(
                path, f"`bands` of `{name}` must be a width, a list of edges, or text", "Like [0, 18, 65]."
            )
        text = ",".join(str(item) for item in items)
        try:
            band_rule(f"{name}={text}", "left")
        except RequestError as reason:
            raise self._wrong(path, reason.message.rstrip("."), reason.remedy) from reason
        return text

    def _range(self, path: tuple[str, ...], given: object) -> tuple[float | None, float | None]:
        if given is None:
            return None, None
        pair = given if isinstance(given, list) else []
        if len(pair) != 2 or any(isinstance(end, bool) or not isinstance(end, int | float) for end in pair):
            raise self._wrong(path, "`range` must be two numbers, lowest and highest", "Write range = [0, 120].")
        if pair[0] > pair[1]:
            raise self._wrong(path, f"`range` runs backwards, from {pair[0]} to {pair[1]}")
        return float(pair[0]), float(pair[1])

    def _codes(self, path: tuple[str, ...], given: object) -> list[str]:
        items = given if isinstance(given, list) else [given]
        if any(isinstance(item, bool) or not isinstance(item, str | int | float) for item in items):
            raise self._wrong(path, f"`{path[-1]}` must be a list of text or numbers")
        return [str(item) for item in items]

    def _design(self, given: dict[str, Any]) -> Design:
        self._check_keys(("design",), given, tuple(DESIGN))
        found: dict[str, Any] = {key: tuple(self._names(("design", key), given[key])) for key in STAGED if key in given}
        found |= {key: self._number(("design", key), given[key]) for key in _DESIGN_NUMBERS if key in given}
        scale = given.get("replicate_scale", "")
        if not isinstance(scale, str):
            scales = scale if isinstance(scale, list) else [scale]
            scale = ",".join(f"{self._number(('design', 'replicate_scale'), one):.17g}" for one in scales)
        rest = [key for key in DESIGN if key not in (*STAGED, *_DESIGN_NUMBERS, "replicate_scale")]
        found |= {key: self._text(("design", key), given, "") for key in rest}
        return Design(**found, replicate_scale=scale)

    def _names(self, path: tuple[str, ...], given: object) -> list[str]:
        items = given if isinstance(given, list) else [given]
        if not all(isinstance(item, str) for item in items):
            raise self._wrong(path, f"`{path[-1]}` must be text, or a list of it", "Put it in quotation marks.")
        return [str(item) for item in items]

    def _number(self, path: tuple[str, ...], given: object) -> float:
        if isinstance(given, bool) or not isinstance(given, int | float) or given <= 0:
            raise self._wrong(path, f"`{path[-1]}` must be a number above 0")
        return float(given)

    def _table(self, content: dict[str, Any], key: str) -> dict[str, Any]:
        table = content.get(key, {})
        if not isinstance(table, dict):
            raise self._wrong((key,), f"`{key}` must be a table", f"Write [{key}] and its keys below.")
        return table

    def _text(self, path: tuple[str, ...], given: dict[str, Any], default: str) -> str:
        value = given.get(path[-1], default)
        if not isinstance(value, str):
            raise self._wrong(path, f"`{path[-1]}` must be text, not {_kind_of(value)}", "Put it in quotation marks.")
        return value

    def _check_keys(self, path: tuple[str, ...], given: dict[str, Any], known: tuple[str, ...]) -> None:
        for key in given:
            if key not in known:
                where = f" in [{'.'.join(path)}]" if path else ""
                raise self._wrong((*path, key), f"there is no key `{key}`{where}", nearest(key, known))

    def _wrong(self, path: tuple[str, ...], sentence: str, remedy: str = "") -> RecordsError:
        place = self._lines.get(path) or next(
            (line for key, line in self._lines.items() if key[: len(path)] == path), 0
        )
        while not place and path:
            path = path[:-1]
            place = self._lines.get(path, 0)
        line = f", line {place}" if place else ""
        return RecordsError(f"{self._name}{line}: {sentence}.", remedy)


def _kind_of(value: object) -> str:
    kinds = {bool: "true or false", int: "a number", float: "a number", list: "a list", dict: "a table", str: "text"}
    return kinds.get(type(value), "a date or time")


def _full(color: str | None) -> str | None:
    """`#abc` as `#aabbcc`, in lower case."""
    if color is None or len(color) == 7:
        return color and color.lower()
    return "#" + "".join(2 * digit for digit in color[1:]).lower()
