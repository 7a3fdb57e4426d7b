"""What the commands can be asked for besides the records, kinds and looks."""

from math import inf

from grainstack.endings import CHART_ENDINGS, TABLE_ENDINGS, TOPLINE_FORMATS
from grainstack.errors import RequestError
from grainstack.making.kind import Product
from grainstack.option_fields import Request, switch, word
from grainstack.option_names import option
from grainstack.records.records_request import computed_columns, header_lines, large_files, plain_csv

CLIPBOARD_TYPES = {"png": "image/png", "svg": "image/svg+xml", "html": "text/html", "tsv": "text/plain"}
_CLIPBOARD_FORMS = {Product.CHART: ("png", "svg"), Product.TABLE: ("html", "tsv")}


class PictureOutput(Request, frozen=True):
    """Where a picture goes."""

    out: tuple[str, ...] = word(
        (),
        f"Write a picture; its ending picks the format: {', '.join(CHART_ENDINGS)}. Repeatable.",
        group="Output",
        metavar="FILE",
    )


class TableOutput(Request, frozen=True):
    """Where a table goes."""

    out: tuple[str, ...] = word(
        (),
        f"Write a file; its ending picks the format: {', '.join(TABLE_ENDINGS)}. Repeatable.",
        group="Output",
        metavar="FILE",
    )


class OpenRequest(Request, frozen=True):
    """Whether what was written is opened."""

    open_: bool = switch("Open what was written in the system's viewer.", group="Output")


class SavePlanRequest(Request, frozen=True):
    """A plan to which what was asked for is added."""

    save_plan: str | None = word(
        None, "Add this to a plan, to be made again with build.", group="Output", metavar="FILE.toml"
    )
    name: str | None = word(
        None, "Its name in the plan; derived if not given.", group="Output", metavar="NAME", needs=("save_plan",)
    )


class LikeRequest(Request, frozen=True):
    """Another chart whose looks are taken over."""

    like: str | None = word(
        None,
        "Take the looks of another chart: size, style, colours, labels. A picture it was written into, or an entry of "
        "a plan as plan.toml:NAME.",
        group="Picture",
        metavar="PICTURE|PLAN:NAME",
    )


class EditRequest(Request, frozen=True):
    """What the page is opened with."""

    file: tuple[str, ...] = ()
    codebook: str | None = word(
        None, "Codebook to apply; one beside the records is found by itself.", group="Records", metavar="FILE"
    )
    no_browser: bool = switch("Only print the address of the page.", group="Output")


class UndoRequest(Request, frozen=True):
    """The plan whose last change is taken back."""

    plan: str = ""


class CopyRequest(Request, frozen=True):
    """What is put on the clipboard."""

    copy: str | None = word(
        None,
        "Put it on the clipboard: a chart as png or svg, a table as html or tsv.",
        group="Output",
        metavar="FORM",
        choices=tuple(CLIPBOARD_TYPES),
    )

    def form_for(self, product: Product) -> str:
        """The form that was asked for; empty for none.

        Args:
            product: What is made.

        Raises:
            RequestError: It has no such form.
        """
        if self.copy is not None and self.copy not in _CLIPBOARD_FORMS[product]:
            raise RequestError(
                f"{option('copy')} {self.copy} is no form of a {product.value}.",
                f"Choose {' or '.join(_CLIPBOARD_FORMS[product])}.",
            )
        return self.copy or ""


class LookRequest(Request, frozen=True):
    """What of a file is shown."""

    file: tuple[str, ...] = ()
    codebook: str | None = word(
        None, "Codebook to apply; a codebook.toml beside the records is found by itself.", group="Look", metavar="FILE"
    )
    sheet: str | None = word(None, "The sheet of a spreadsheet file.", group="Look", metavar="NAME")
    header_row: int | None = word(
        None,
        "The row of a sheet, or line of a text, that names the columns.",
        group="Look",
        metavar="N",
        within=(1, inf),
    )
    header_lines: int = header_lines("Look")
    query: str | None = word(None, "Rows of a database.", group="Look", metavar="SQL")
    allow_large: bool = large_files("Look")
    compute: tuple[str, ...] = computed_columns()
    rows: int = word(5, "How many of the first rows to show.", group="Look", metavar="N", within=(0, 1_000_000))


class CodebookRequest(Request, frozen=True):
    """What is done with a codebook."""

    file: tuple[str, ...] = ()
    codebook: str | None = word(None, "Check this codebook against the records.", group="Codebook", metavar="FILE")
    sheet: str | None = word(None, "The sheet of a spreadsheet file.", group="Codebook", metavar="NAME")
    header_row: int | None = word(
        None,
        "The row of a sheet, or line of a text, that names the columns.",
        group="Codebook",
        metavar="N",
        within=(1, inf),
    )
    header_lines: int = header_lines("Codebook")
    query: str | None = word(None, "Rows of a database.", group="Codebook", metavar="SQL")
    allow_large: bool = large_files("Codebook")
    ask: bool = switch("Ask what the file does not tell, one question at a time.", group="Codebook")
    decisions: str | None = word(
        None,
        'Answers to these questions: a .toml file with lines such as "kind of age" = "number".',
        group="Codebook",
        metavar="FILE",
    )
    out: str | None = word(
        None,
        "Write it: .toml, or in an open standard: .xml (DDI-Codebook), .sss (Triple-S), -metadata.json (CSV on the "
        "Web), other .json (Table Schema). A file that exists is kept.",
        group="Output",
        metavar="FILE",
    )


class DeriveOutput(Request, frozen=True):
    """What is added and where it goes."""

    labels: bool = switch("Add a column of labels for each column the codebook labels.", group="Output")
    out: str | None = word(
        None,
        "File to write; its ending picks the format: .csv, .parquet, .arrow or .jsonl.",
        group="Output",
        metavar="FILE",
    )
    plain_csv: bool = plain_csv()


class ToplineRequest(Request, frozen=True):
    """What a topline shows, and where it is written."""

    split: tuple[str, ...] = word(
        (), "Columns that all tables are split by, side by side; repeatable.", group="Topline", metavar="COLUMN"
    )
    question: tuple[str, ...] = word((), "This question only; repeatable.", group="Topline", metavar="COLUMN")
    leave_out: tuple[str, ...] = word(
        (), "A column that is no question; repeatable.", group="Topline", metavar="COLUMN"
    )
    title: str | None = word(None, "The title of the document.", group="Topline", metavar="TEXT")
    template: str | None = word(
        None, "A DOCX or PPTX whose styles and layouts the document takes.", group="Output", metavar="FILE"
    )
    out: tuple[str, ...] = word(
        (), f"Write it: {', '.join(f'.{one}' for one in TOPLINE_FORMATS)}; repeatable.", group="Output", metavar="FILE"
    )
    save_plan: str | None = word(
        None, "Write the plan behind it, to be changed and built.", group="Output", metavar="PLAN"
    )


class PlanRequest(Request, frozen=True):
    """A plan file, and which of it counts.

    Raises:
        RequestError: A param that is not written `name=value`.
    """

    plan: str = ""
    only: tuple[str, ...] = word((), "This entry only; repeatable.", group="Plan", metavar="NAME")
    param: tuple[str, ...] = word(
        (), "A value for a param of the plan; repeatable.", group="Plan", metavar="NAME=VALUE"
    )
    for_each: str | None = word(
        None, "Make every entry once for each level of this column.", group="Plan", metavar="COLUMN"
    )
    allow: tuple[str, ...] = word(
        (), "A database or network address the plan may read; repeatable.", group="Plan", metavar="ADDRESS"
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        for text in self.param:
            if "=" not in text:
                raise RequestError(f"{option('param')} {text} has no value.", "Write it like year=2026.")

    @property
    def params(self) -> dict[str, str]:
        """The params typed, by name."""
        return {text.partition("=")[0].strip(): text.partition("=")[2].strip() for text in self.param}


class BuildRequest(Request, frozen=True):
    """How a plan is built, and where to."""

    list: bool = switch("Show entries and params, and make nothing.", group="Plan")
    watch: bool = switch("Build again whenever a change is saved.", group="Plan")
    fresh: bool = switch("Make all entries, whatever is there already.", group="Plan")
    out: str | None = word(
        None, "The folder for what is made; `out` beside the plan.", group="Output", metavar="FOLDER"
    )
    quiet: bool = switch("Say nothing but what went wrong.", group="Output")
    workers: int | None = word(
        None,
        "How many processes draw at once; as many as there are cores where that is faster.",
        group="Output",
        metavar="N",
        within=(1, 64),
    )


class FindingRequest(Request, frozen=True):
    """How findings are told."""

    strict: bool = switch("Fail if anything is found: exit code 1 for changes and trace, 3 for check.", group="Output")
    json: bool = switch("Print JSON.", group="Output")


class ChangesRequest(Request, frozen=True):
    """Two folders that were built."""

    folders: tuple[str, ...] = ()


class TraceRequest(Request, frozen=True):
    """A file, and the plan it may come from."""

    file: str = ""
    plan: str | None = word(
        None, "The plan it comes from; one of its name near the file if not given.", group="Trace", metavar="PLAN"
    )


class WeighRequest(Request, frozen=True):
    """What weights are to add to.

    Raises:
        RequestError: Bounds that leave no room for the starting weights.
    """

    target: tuple[str, ...] = word(
        (),
        "Known totals: 'route: Pell Isle=5400, Dunmar=3100', or a CSV file (variable,level,total, or columns and a "
        "total); repeatable. Shares that add to 100 are taken of the starting weights.",
        group="Weights",
        metavar="TOTALS|FILE",
    )
    lowest: float | None = word(
        None,
        "The least a starting weight may be multiplied by, totals being equal.",
        group="Weights",
        metavar="N",
        within=(0.0, 0.999),
        needs=("highest",),
        decides=True,
    )
    highest: float | None = word(
        None,
        "The most a starting weight may be multiplied by.",
        group="Weights",
        metavar="N",
        within=(1.001, inf),
        needs=("lowest",),
        decides=True,
    )
    weight_name: str = word("weight_calibrated", "What the new column is called.", group="Weights", metavar="NAME")
    out: str | None = word(
        None,
        "File to write; its ending picks the format: .csv, .parquet, .arrow or .jsonl.",
        group="Output",
        metavar="FILE",
    )
    plain_csv: bool = plain_csv()


class PalettesOutput(Request, frozen=True):
    """Where the picture goes."""

    out: tuple[str, ...] = word((), "Write a picture: .png, .svg or .pdf. Repeatable.", group="Output", metavar="FILE")
    style_draft: str | None = word(None, "Write a style file to change and use.", group="Output", metavar="FILE.toml")


class FindRequest(Request, frozen=True):
    """What somebody looks for, in words of their own."""

    text: tuple[str, ...] = ()


class DemoRequest(Request, frozen=True):
    """The folder the demo goes to."""

    folder: str = ""
