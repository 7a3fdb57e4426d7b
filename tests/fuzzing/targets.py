"""What is fed with anything at all: each target takes bytes and ends in a result or in an error a person can mend.

Anything else is a fault of the program: it is raised. Where a result can be wrong without failing, the target looks:
records add up, drawings are XML, control characters are gone.
"""

import io
import re
import tomllib
import xml.etree.ElementTree as ET
import zipfile
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.look.style_file import style_from
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.cli.build import known_formats
from grainstack.errors import GrainStackError, RequestError
from grainstack.making.kind import Product
from grainstack.making.kinds import kind_named
from grainstack.making.make import Made, make
from grainstack.paint.svg import paint
from grainstack.paint.terminal import paint as shown
from grainstack.plan.file.reading import plan_from
from grainstack.plan.file.references import literal, reference, references_in
from grainstack.records.codebook.file import read_codebook
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.report.output_formats import table_as
from grainstack.report.print_request import table_text
from grainstack.requests import filled
from tests.fuzzing.commands import command_line, ended
from tests.fuzzing.odd_requests import odd_records, odd_request

Target = Callable[[bytes, Path], None]
RECORDS = """route,ticket,age,wait,when,facilities
1,app,31,12.5,2025-01-31,cafe;deck
2,desk,999,3,2025-02-01,
1,,44,0,,deck
3,web,18,240,2024-12-24,cafe
"""
_RAW = re.compile(r"[\x00-\x08\x0b-\x1f\x7f\u202a-\u202e\u2066-\u2069]")  # what steers a terminal


def _text(data: bytes) -> str:
    return data.decode("utf-8", "replace")


def _made(kind: str, folder: Path, **fields: Any) -> Made:  # noqa: ANN401 - fields of any request
    chosen = kind_named(kind)
    requests = filled(chosen.models, {"file": (str(folder / "records.csv"),), **fields})
    return make(chosen, requests, open_records(requests[RecordsRequest]))


def _check(made: Made) -> None:
    """Every record is accounted for, and nothing that is written steers a terminal."""
    account = made.table.provenance.account()
    numbers = [int(one.replace(",", "")) for one in re.findall(r"(?:^|[=+] )([\d,]+) ", account)]
    assert numbers[0] == sum(numbers[1:]), account
    for ending in (".csv", ".json", ".md") if made.kind.product is Product.TABLE else (".md",):
        table_as(ending, made)
    assert not _RAW.search(table_text(made).replace("\n", "")), "a control character"


def _table_of(path: Path) -> None:
    """Counts the first column of a file."""
    kind = kind_named("table")
    opened = open_records(RecordsRequest(file=(str(path),)))
    requests = filled(kind.models, {"file": (str(path),), "by": opened.source.columns[:1]})
    _check(make(kind, requests, open_records(requests[RecordsRequest])))


def _file(ending: str) -> Target:
    def target(data: bytes, folder: Path) -> None:
        path = folder / f"fuzzed{ending}"
        path.write_bytes(data)
        _table_of(path)

    return target


def spreadsheet(data: bytes, folder: Path) -> None:
    """The bytes stand for the first sheet of a workbook."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as book:
        for name, content in _BOOK.items():
            book.writestr(name, data if name.endswith("sheet1.xml") else content)
    (folder / "fuzzed.xlsx").write_bytes(packed.getvalue())
    _table_of(folder / "fuzzed.xlsx")


def codebook(data: bytes, folder: Path) -> None:
    """A codebook, used for a table."""
    (folder / "fuzzed.toml").write_bytes(data)
    read_codebook(folder / "fuzzed.toml")
    _check(_made("table", folder, codebook=str(folder / "fuzzed.toml"), by=("route",)))


def style(data: bytes, folder: Path) -> None:  # noqa: ARG001 - as every target
    """A style."""
    try:
        content = tomllib.loads(_text(data))
    except tomllib.TOMLDecodeError:
        return
    style_from(content, "style.toml")


def plan(data: bytes, folder: Path) -> None:
    """A plan, checked."""
    plan_from(_text(data), folder / "plan.toml", known_formats()).check()


def condition(data: bytes, folder: Path) -> None:
    """A search condition."""
    _check(_made("table", folder, by=("ticket",), where=_text(data)))


def formula(data: bytes, folder: Path) -> None:
    """A column worked out from others."""
    _check(_made("table", folder, by=("ticket",), measure=("new",), stat=("mean",), compute=(f"new = {_text(data)}",)))


def pattern(data: bytes, folder: Path) -> None:  # noqa: ARG001 - as every target
    """A number pattern."""
    wanted = NumbersRequest(format=_text(data))
    for value in (0.0, 1234.5, -0.001, 1e15):
        NumberStyle(pattern=wanted.format or "")(value)


def references(data: bytes, folder: Path) -> None:  # noqa: ARG001 - as every target
    """References to figures in a text."""
    for raw in references_in(_text(data)):
        reference(raw)
    literal(_text(data))


def _option(name: str, kind: str = "table", **more: Any) -> Target:  # noqa: ANN401 - fields of any request
    def target(data: bytes, folder: Path) -> None:
        text = _text(data)
        _check(_made(kind, folder, **{"by": ("route",), **more, name: (text,) if name in _LISTED else text}))

    return target


def labels(data: bytes, folder: Path) -> None:
    """Text wherever a person may write some, in a picture and in a terminal."""
    text = _text(data)
    made = _made("bar", folder, by=("ticket",), recode=(f"ticket: app -> {text}",), title=text, footnote=text or "x")
    ET.fromstring(paint(made.picture()))  # noqa: S314 - our own
    assert not _RAW.search(re.sub(r"\x1b\[[0-9;]*m|\n", "", shown(made.rows(80), colors=True)))


def commands(data: bytes, folder: Path) -> None:
    """A command line with any options, its picture or table written too where it can be."""
    _run(command_line(data), folder)


def odd(data: bytes, folder: Path) -> None:
    """A request that somebody could mean, of few and odd records."""
    random = Random(data)  # noqa: S311 - nothing here is secret
    (folder / "records.csv").write_text(odd_records(random), "utf-8")
    try:
        _run(odd_request(random), folder)
    finally:
        (folder / "records.csv").write_text(RECORDS, "utf-8")


def _run(arguments: list[str], folder: Path) -> None:
    """Runs the program, with a file to write."""
    ending = ".svg" if arguments[0] != "table" else ".csv" if len(arguments) % 2 else ".xlsx"
    target = folder / f"made{ending}"
    target.unlink(missing_ok=True)
    code, told = ended([*arguments, "--out", target.name], folder)
    if "nobody foresaw" in told or code not in (0, 1, 2):
        raise ValueError(f"{' '.join(arguments)}: {told}")
    if target.exists() != (code == 0):
        raise ValueError(f"{' '.join(arguments)}: exit code {code}, and {target.name} is {'' if code else 'not '}there")
    if code:
        raise RequestError(told or "nothing told")
    if ending == ".svg":
        ET.fromstring(target.read_bytes())  # noqa: S314 - our own


_LISTED = ("band", "recode", "net", "only", "except_", "compute", "color", "reference")
TARGETS: dict[str, Target] = {
    "csv": _file(".csv"),
    "jsonl": _file(".jsonl"),
    "spreadsheet": spreadsheet,
    "codebook": codebook,
    "style": style,
    "plan": plan,
    "condition": condition,
    "formula": formula,
    "pattern": pattern,
    "references": references,
    "labels": labels,
    "commands": commands,
    "odd": odd,
    "band": _option("band", by=("age",)),
    "recode": _option("recode"),
    "net": _option("net"),
    "only": _option("only"),
    "items": _option("items"),
    "to_long": _option("to_long"),
    "order": _option("order"),
    "in_cell": _option("in_cell", split="ticket"),
    "color": _option("color", kind="bar", split="ticket"),
    "value_range": _option("value_range", kind="bar"),
}
_TYPES = "http://schemas.openxmlformats.org/package/2006/content-types"
_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_PACKAGE = "http://schemas.openxmlformats.org/package/2006/relationships"
_OFFICE = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_SHEET_TYPE = "application/vnd.openxmlformats-officedocument.spreadsheetml"
_BOOK = {
    "[Content_Types].xml": f'<Types xmlns="{_TYPES}">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    f'<Override PartName="/xl/workbook.xml" ContentType="{_SHEET_TYPE}.sheet.main+xml"/>'
    f'<Override PartName="/xl/worksheets/sheet1.xml" ContentType="{_SHEET_TYPE}.worksheet+xml"/></Types>',
    "_rels/.rels": f'<Relationships xmlns="{_PACKAGE}">'
    f'<Relationship Id="rId1" Type="{_OFFICE}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
    "xl/workbook.xml": f'<workbook xmlns="{_MAIN}" xmlns:r="{_OFFICE}"><sheets>'
    '<sheet name="One" sheetId="1" r:id="rId1"/></sheets></workbook>',
    "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{_PACKAGE}">'
    f'<Relationship Id="rId1" Type="{_OFFICE}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
    "xl/worksheets/sheet1.xml": "",
}


def fed(name: str, data: bytes, folder: Path) -> bool:
    """Feeds a target; whether it took what it was fed.

    Args:
        name: The target.
        data: What it is fed.
        folder: Where it may write.
    """
    if not (folder / "records.csv").exists():
        (folder / "records.csv").write_text(RECORDS, "utf-8")
    try:
        TARGETS[name](data, folder)
    except GrainStackError as error:
        if not error.message:
            raise ValueError("an error without a message") from error
        return False
    return True
