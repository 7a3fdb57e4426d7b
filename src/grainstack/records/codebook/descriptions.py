"""Open descriptions of surveys as codebooks, and the other way round: which standard a file follows."""

import json
from collections.abc import Sequence
from pathlib import Path

from grainstack.endings import METADATA_ENDING
from grainstack.errors import RecordsError
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.codebook.csv_on_the_web import codebook_from_metadata, metadata_from_codebook
from grainstack.records.codebook.ddi import codebook_from_ddi, ddi_from_codebook
from grainstack.records.codebook.table_schema import codebook_from_schema, schema_from_codebook
from grainstack.records.codebook.triple_s import codebook_from_triple_s, triple_s_from_codebook
from grainstack.records.codebook.xml_tree import called, root_of


def codebook_from_description(content: bytes, name: str, ending: str) -> Codebook:
    """A codebook from a description of an open standard.

    Args:
        content: The file.
        name: What it is called.
        ending: Its ending, in lower case.

    Raises:
        RecordsError: It follows none of these standards, or says what cannot be.
    """
    if ending == ".json":
        text = content.decode("utf-8-sig")
        try:
            found = json.loads(text)
        except (ValueError, RecursionError):
            found = None  # which is told with what a Table Schema needs
        if isinstance(found, dict) and {"tableSchema", "tables"} & set(found):
            return codebook_from_metadata(found, name)
        return codebook_from_schema(text, name)
    root = root_of(content, name)
    standards = {"codeBook": codebook_from_ddi, "sss": codebook_from_triple_s}
    if called(root) not in standards:
        raise RecordsError(
            f"{name} begins with `{called(root)}`, which is no description of a survey.",
            "DDI-Codebook begins with `codeBook`, Triple-S with `sss`.",
        )
    return standards[called(root)](root, name)


def description_of(codebook: Codebook, target: Path, file: str, columns: Sequence[str]) -> bytes:
    """A codebook as the description that the name of a file says: DDI-Codebook, Triple-S, CSV on the Web, Table Schema.

    Args:
        codebook: What to write.
        target: The file to write: `.xml`, `.sss`, `-metadata.json` or `.json`.
        file: What the file of the records is called.
        columns: Its columns in order; empty where they are not known.
    """
    if target.suffix.lower() == ".xml":
        return ddi_from_codebook(codebook, file, columns)
    if target.suffix.lower() == ".sss":
        return triple_s_from_codebook(codebook, file, columns)
    if target.name.lower().endswith(METADATA_ENDING):
        return metadata_from_codebook(codebook, file, columns)
    return schema_from_codebook(codebook)
