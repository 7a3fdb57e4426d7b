"""JSON Schemas of the files a person writes, by which editors complete and check them; made of what reads them."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from grainstack.advice import NAMES
from grainstack.chart.look.style_file import SECTIONS, TOP
from grainstack.earlier_names import EARLIER
from grainstack.endings import CHART_ENDINGS
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import entries
from grainstack.option_names import worded
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.report import PART, REPORT
from grainstack.records.codebook.keys import DESIGN, RECORDS, VARIABLE
from grainstack.records.records_request import SOURCE_FIELDS, RecordsRequest
from grainstack.summary.options import DesignRequest
from grainstack.toml_schema import CODES, TEXT, TEXTS, Key, Schema, key_of, one_of, section_of, table_of
from grainstack.whole_files import write_whole

FOLDER = Path(__file__).parent / "schemas"  # where they are shipped
FILES = ("plan", "codebook", "style")
_DRAFT = "http://json-schema.org/draft-07/schema#"


def schema_of(file: str, table_endings: tuple[str, ...]) -> Schema:
    """The JSON Schema of a kind of file.

    Args:
        file: One of `FILES`.
        table_endings: The endings of the files that tables are written into.
    """
    made = {"plan": lambda: _plan(table_endings), "codebook": _codebook, "style": _style}[file]()
    schema: Schema = _in_words({"$schema": _DRAFT, "title": _title(file), **made})
    return schema


def _in_words(part: Any) -> Any:  # noqa: ANN401 - whatever JSON holds
    """A part of a schema whose descriptions name fields as the file does, and not as tokens."""
    if isinstance(part, Mapping):
        return {
            key: worded(value, PLANNED) if key == "description" and isinstance(value, str) else _in_words(value)
            for key, value in part.items()
        }
    return [_in_words(one) for one in part] if isinstance(part, list | tuple) else part


def line_for(file: str) -> str:
    """The first line of a file by which editors find its schema beside it.

    Args:
        file: One of `FILES`.
    """
    return f"#:schema {file}.schema.json\n"


def write_with_schema(target: Path, text: str, file: str) -> list[str]:
    """Writes a file that a person may change, before it the schema beside it if the file names it.

    Args:
        target: The file.
        text: Its content.
        file: What it is, one of `FILES`.

    Returns:
        What is said of the schema; nothing where none was written.

    Raises:
        OutputError: One of them cannot be written; then the file is not there either.
    """
    schema = _write_beside(target, file) if text.startswith(line_for(file)) else None
    write_whole(target, text.encode())
    return [f"Wrote {schema}, by which editors complete and check {target.name}."] if schema else []


def _write_beside(target: Path, file: str) -> Path | None:
    """Writes the schema of a file; gives where, or None where that very schema or somebody else's is there."""
    schema = target.parent / f"{file}.schema.json"
    content = (FOLDER / schema.name).read_bytes()
    before = schema.read_bytes() if schema.exists() else None
    if before == content or (before is not None and _title(file).encode() not in before):
        return None
    write_whole(schema, content)
    return schema


def _title(file: str) -> str:
    return f"A {file} of Grain Stack"


def as_json(schema: Schema) -> str:
    """A schema as the content of its file."""
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"


def _style() -> Schema:
    top = {name: one.key for name, one in TOP.items()}
    sections = {name: {one: setting.key for one, setting in keys.items()} for name, keys in SECTIONS.items()}
    return _with_sections(top, {name: section_of(keys) for name, keys in sections.items()})


def _codebook() -> Schema:
    sections = {
        "records": section_of(RECORDS),
        "variables": table_of(section_of(VARIABLE)),
        "design": section_of(DESIGN),
        "defaults": _defaults({}),
    }
    return {**_with_sections({}, sections), "definitions": _definitions()}


def _plan(table_endings: tuple[str, ...]) -> Schema:
    source = section_of(records_keys())
    endings = {Product.TABLE: table_endings, Product.CHART: CHART_ENDINGS}
    sections: dict[str, Schema] = {
        "params": table_of({"type": ["string", "number", "boolean"]}),
        "records": {**source, "additionalProperties": source},
        "defaults": _defaults({"no_advice": _own_keys()["no_advice"]}),
        "style": _style(),
        "engine": section_of({entry.name: key_of(entry) for entry in entries(EngineRequest)}),
    }
    parts = {"part": {"type": "array", "items": section_of(PART)}}
    sections["report"] = _with_sections(REPORT, parts)
    for product in Product:
        kinds = [kind_named(one) for one in KINDS if kind_named(one).product is product]
        each = [_entry(kind, endings[product]) for kind in kinds]
        sections[product.value] = {"type": "array", "items": each[0] if len(each) == 1 else {"oneOf": each}}
    return {**_with_sections({}, sections), "definitions": _definitions()}


def _defaults(more: Mapping[str, Key]) -> Schema:
    """What counts for all kinds, and for one of them."""
    kinds = {name: kind_named(name) for name in KINDS}
    every = {name: _reference(name) for kind in kinds.values() for name in _words_in_file(kind)}
    special = {
        name: {**section_of({}), "properties": {word: _reference(word) for word in _words_in_file(kind)}}
        for name, kind in kinds.items()
    }
    return _with_sections(more, {**every, **special})


def _definitions() -> dict[str, Schema]:
    """Every word once, for all kinds that have it; where they say different things of it, what the first one says."""
    found: dict[str, Schema] = {}
    for kind in map(kind_named, KINDS):
        for name, schema in section_of(_words_in_file(kind))["properties"].items():
            found.setdefault(name, schema)
    return found


def _reference(name: str) -> Schema:
    return {"$ref": f"#/definitions/{name}"}


def records_keys() -> dict[str, Key]:
    """The keys of `[records]` in a plan."""
    file = Key("Paths, patterns or a database address; paths start from the folder of the plan.", TEXTS)
    words = (*entries(RecordsRequest), *entries(DesignRequest))
    return {"file": file, **{entry.name.rstrip("_"): key_of(entry) for entry in words}}


def words_of(kind: Kind) -> dict[str, Key]:
    """The words of a kind as keys."""
    return {entry.name.rstrip("_"): key_of(entry) for model in kind.models for entry in entries(model)}


def _words_in_file(kind: Kind) -> dict[str, Key]:
    """The same, with the names that some of them had before."""
    found = words_of(kind)
    return {**found, **{name: found[now] for name, now in EARLIER.items() if now in found}}


def own_keys(endings: tuple[str, ...]) -> dict[str, Key]:
    """The keys of an entry that are no words of its kind.

    Args:
        endings: The endings of the files it can be written into.
    """
    names = [ending.lstrip(".") for ending in endings]
    formats = {"anyOf": [one_of(*names), {"type": "array", "items": one_of(*names)}]}
    keys = {**_own_keys(), "formats": Key("The formats it is written in.", formats)}
    if endings != CHART_ENDINGS:
        return keys
    filters = {"anyOf": [TEXT, {"type": "array", "items": TEXT}]}
    return {
        **keys,
        "filters": Key("Columns by whose levels readers of a page may choose.", filters),
        "like": Key("Another chart of the plan whose looks it takes: size, style, colours, labels.", TEXT),
    }


def _own_keys() -> dict[str, Key]:
    advice = {"anyOf": [one_of(*NAMES), {"type": "array", "items": one_of(*NAMES)}]}
    return {
        "name": Key("What its files are called.", {"type": ["string", "number"]}),
        "records": Key("Which [records.NAME] it is made of; those without a name if not given.", TEXT),
        "for_each": Key("Make it for each level of this column, which stands in texts as {column}.", TEXT),
        "no_advice": Key("Advice it is spared, by its name.", advice),
    }


def _entry(kind: Kind, endings: tuple[str, ...]) -> Schema:
    keys = {"kind": Key("The kind.", {"const": kind.name}), **own_keys(endings)}
    keys |= {name: Key(_words_in_file(kind)[name].help, CODES) for name in kind.repeated}
    words = {name: _reference(name) for name in _words_in_file(kind) if name not in (*SOURCE_FIELDS, *keys)}
    schema = {**_with_sections(keys, words), "title": kind.summary}
    return schema if kind.product is Product.TABLE else {**schema, "required": ["kind"]}


def _with_sections(keys: Mapping[str, Key], sections: Mapping[str, Schema]) -> dict[str, Any]:
    whole = dict(section_of(keys))
    return {**whole, "properties": {**whole["properties"], **sections}}
