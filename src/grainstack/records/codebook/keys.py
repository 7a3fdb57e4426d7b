"""The keys of a codebook file: what each says, and what it may hold. Reading, schema and reference page go by them."""

from collections.abc import Mapping

from grainstack.records.codebook.codebook import BY_SIZE, COMPLETE, LISTED, SAMPLE
from grainstack.records.dates import DAY_FIRST, MONTH_FIRST
from grainstack.records.variable import Kind
from grainstack.toml_schema import CODES, COLOR, NUMBER, TEXT, TEXTS, Key, one_of, table_of

_BY_FILE = "; for every file, or a table by file name"
_LEVEL = {
    "anyOf": [
        TEXT,
        {"type": "object", "properties": {"label": TEXT, "color": COLOR}, "additionalProperties": False},
    ]
}

RECORDS: Mapping[str, Key] = {
    "noun": Key(f"What a record is, in the plural: passengers{_BY_FILE}.", {"anyOf": [TEXT, table_of(TEXT)]}),
    "kind": Key(
        f"{SAMPLE}, or {COMPLETE}: the records are all there are, without sampling error{_BY_FILE}.",
        {"anyOf": [one_of(SAMPLE, COMPLETE), table_of(one_of(SAMPLE, COMPLETE))]},
    ),
    "dates": Key("What stands first in dates such as 01/02/2025.", one_of(DAY_FIRST, MONTH_FIRST)),
    "decimal": Key("The sign before the decimals of numbers in text.", one_of(".", ",")),
}
VARIABLE: Mapping[str, Key] = {
    "label": Key("The words shown for the column.", TEXT),
    "kind": Key("How its values are understood.", one_of(*(kind.value for kind in Kind))),
    "unit": Key("What its numbers are measured in: min, €.", TEXT),
    "levels": Key(
        'Codes with their labels, in their order: 1 = "North", or 1 = { label = "North", color = "#1a726a" }.',
        table_of(_LEVEL),
    ),
    "order": Key("In which order levels stand: as they are listed here, or by size.", one_of(LISTED, BY_SIZE)),
    "good": Key("Which end of the levels is the good one, for charts with two sides.", one_of("first", "last")),
    "missing": Key("Codes that stand for no answer.", CODES),
    "decimal": Key("The sign before the decimals of its numbers, where it is not that of all.", one_of(".", ",")),
    "dates": Key("What stands first in its dates, where it is not what does in all.", one_of(DAY_FIRST, MONTH_FIRST)),
    "bands": Key("How its numbers are cut into bands, as after --band: a width, edges, or a rule.", CODES),
    "range": Key(
        "The lowest and the highest value that can be right.",
        {"type": "array", "items": NUMBER, "minItems": 2, "maxItems": 2},
    ),
    "separator": Key("What parts several answers in one value.", TEXT),
    "columns": Key("The 0/1 columns that make up a question with several answers together.", CODES),
    "question": Key("The words in which it was asked.", TEXT),
    "note": Key("Anything else worth knowing, for people.", TEXT),
}
_SCALE = {"anyOf": [TEXT, NUMBER, {"type": "array", "items": NUMBER}]}
DESIGN: Mapping[str, Key] = {
    "weight": Key("The column of weights: how many people a record stands for.", TEXT),
    "strata": Key("The column of the groups that were sampled on their own.", TEXT),
    "cluster": Key("The column of the units that were drawn; several where units were drawn within them.", TEXTS),
    "population": Key("The column of how many such units there were; one for each stage.", TEXTS),
    "replicates": Key("Columns of replicate weights: a list, or a pattern such as rep_*.", TEXT),
    "replicate_method": Key("How these were made: jk1, jkn, brr, fay or bootstrap.", TEXT),
    "replicate_scale": Key("What the squared differences of the replicates are multiplied by.", _SCALE),
    "fay_coefficient": Key("By how much Fay's method perturbed weights.", NUMBER),
    "replicate_center": Key("What replicates are compared with.", TEXT),
    "degrees": Key("Degrees of freedom of the replicate weights.", NUMBER),
    "targets": Key("Known totals that the weights were made to meet, as after --target.", TEXTS),
}
