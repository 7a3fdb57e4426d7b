"""Every option of every kind makes a difference wherever it is accepted, or is refused with a reason.

The options come from the request models themselves: a new one without a value here fails, and so does one that is
accepted and changes nothing. Each is tried in a picture, in a terminal and as a table.
"""

import gzip
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from grainstack.errors import GrainStackError
from grainstack.language import speaking
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.making.make import Made, make
from grainstack.option_fields import Entry, Medium, entries
from grainstack.paint.painters import painted
from grainstack.paint.terminal import paint
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sources import opening
from grainstack.report.cells import as_csv
from grainstack.report.output_formats import table_as
from grainstack.report.print_request import table_text
from grainstack.report.table_files import figure_rows
from grainstack.requests import Requests, filled
from grainstack.summary.options import LanguageRequest

Fields = dict[str, Any]
Try = tuple[Fields, Fields]  # what is asked before, and what is asked besides

# Some kinds do by themselves what others have to be asked for.
ALREADY = {("bar", "direction", "vertical"), ("distribution", "label", "none")}

BY: dict[str, Fields] = {
    "table": {"by": ("route",)},
    "bar": {"by": ("route",)},
    "dot": {"by": ("route",)},
    "pie": {"by": ("ticket",)},
    "treemap": {"by": ("route", "ticket")},
    "distribution": {"by": ("route",), "measure": ("wait",)},
}
MEAN: Fields = {"measure": ("wait",), "stat": ("mean",)}
SPLIT: Fields = {"split": "ticket"}
PLAIN_MEAN: Fields = {**MEAN, "no_design": True}
DESIGN: Fields = {"no_design": True}
LIMITS: Fields = {**MEAN, "error_bars": "confidence"}
REPLICATES: Fields = {"replicates": "rep_*", "replicate_method": "brr"}
FAY: Fields = {"replicates": "rep_*", "replicate_method": "fay", "fay_coefficient": 0.1}

# For every option: what it is tried with. Several tries where it belongs to different kinds of figures.
TRIES: dict[str, list[Try]] = {
    "codebook": [({}, {"codebook": "other.toml"})],
    "only": [({}, {"only": ("route=1,2",)})],
    "except_": [({}, {"except_": ("route=1",)})],
    "where": [({}, {"where": "age > 40"})],
    "band": [({}, {"band": ("age=20",), "by": ("age",)}), ({"form": "histogram"}, {"band": ("wait=7",)})],
    "band_closed": [({"band": ("age=20",), "by": ("age",)}, {"band_closed": "right"}), ({}, {"band_closed": "right"})],
    "year_starts": [
        ({"file": ("dates.csv",), "by": ("day",), "band": ("day=year",), "dates": "day-first"}, {"year_starts": "may"}),
        ({}, {"year_starts": "april"}),
    ],
    "recode": [({}, {"recode": ("route: 1, 2 -> North",)}), ({}, {"recode": ("ticket: app, web -> Online",)})],
    "to_long": [({}, {"to_long": "which,minutes=wait,wait_before", "by": ("which",), "measure": ("minutes",)})],
    "in_cell": [(SPLIT, {"in_cell": "count (base)"})],
    "wide": [(SPLIT, {"wide": True})],
    "plain_csv": [({"by": ("route",), "recode": ("route: 1 -> =1+1",)}, {"plain_csv": True})],
    "compute": [({}, {"compute": ("late = CASE WHEN wait > 9 THEN 1 ELSE 0 END",), "by": ("late",)})],
    "items": [({}, {"items": "which=wait,wait_before", "by": ("which",), "measure": ("answer",)})],
    "net": [({}, {"net": ("route: North = 1, 2",)}), (SPLIT, {"net": ("ticket: Online = app, web",)})],
    "answers": [({"by": ("facilities",)}, {"answers": ("facilities",)})],
    "missing": [({"by": ("ticket",)}, {"missing": "show"})],
    "keep_empty": [({}, {"keep_empty": True})],
    "keep_totals": [({"file": ("totals.csv",), "missing": "show"}, {"keep_totals": True})],
    "dates": [({"file": ("dates.csv",), "by": ("day",), "band": ("day=month",)}, {"dates": "day-first"})],
    "decimal": [({"by": ("route",), "measure": ("paid",)}, {"decimal": "comma"})],
    "sheet": [({}, {"sheet": "One"})],
    "query": [({}, {"query": "SELECT 1"})],
    "header_row": [({}, {"header_row": 2})],
    "header_lines": [({"file": ("units.csv",), "missing": "show"}, {"header_lines": 2})],
    "allow_large": [({"file": ("packed.csv.gz",)}, {"allow_large": True})],
    "by": [({}, {"by": ("season",)})],
    "split": [({}, SPLIT)],
    "panel": [({}, {"panel": "season"})],
    "measure": [({}, {"measure": ("spend",)})],
    "stat": [({}, {"stat": ("share",)}), (MEAN, {"stat": ("median",)})],
    "per": [({}, {"per": "spend"}), ({"measure": ("wait",), "stat": ("mean",)}, {"per": "spend", "stat": ("rate",)})],
    "base": [
        ({**SPLIT, "stat": ("share",)}, {"base": "all"}),
        ({"panel": "season", "stat": ("share",)}, {"base": "all"}),
        ({}, {"base": "all"}),
        (MEAN, {"base": "category"}),
    ],
    "totals": [({}, {"totals": True})],
    "times": [({}, {"times": "copies"})],
    "value": [({"by": ("name",)}, {"value": "wait", "value_is": "sum"})],
    "value_is": [({"by": ("name",), "value": "wait", "keep_top": 3}, {"value_is": "sum"})],
    "error_size": [({"by": ("name",), "value": "wait"}, {"error_size": "spend"})],
    "error_low": [({"by": ("name",), "value": "wait"}, {"error_low": "zero", "error_high": "age"})],
    "error_high": [({"by": ("name",), "value": "wait"}, {"error_low": "zero", "error_high": "age"})],
    "weight": [(PLAIN_MEAN, {"weight": "weight"}), (DESIGN, {"weight": "weight"})],
    "strata": [({**LIMITS, **DESIGN}, {"strata": "stratum"}), (DESIGN, {"strata": "stratum"})],
    "cluster": [({**LIMITS, **DESIGN}, {"cluster": ("sailing",)}), (DESIGN, {"cluster": ("sailing",)})],
    "population": [
        ({**LIMITS, **DESIGN, "strata": "stratum", "cluster": ("sailing",)}, {"population": ("sailings",)}),
        ({**DESIGN, "strata": "stratum", "cluster": ("sailing",)}, {"population": ("sailings",)}),
    ],
    "replicates": [({**LIMITS, **DESIGN}, REPLICATES), (DESIGN, REPLICATES)],
    "replicate_method": [
        ({**LIMITS, **DESIGN, **REPLICATES}, {"replicate_method": "jk1"}),
        ({**DESIGN, **REPLICATES}, {"replicate_method": "jk1"}),
    ],
    "replicate_scale": [
        ({**LIMITS, **DESIGN, **REPLICATES}, {"replicate_scale": "2"}),
        ({**DESIGN, **REPLICATES}, {"replicate_scale": "2"}),
    ],
    "fay_coefficient": [
        ({**LIMITS, **DESIGN, **FAY}, {"fay_coefficient": 0.5}),
        ({**DESIGN, **FAY}, {"fay_coefficient": 0.5}),
    ],
    "replicate_center": [
        ({**LIMITS, **DESIGN, **REPLICATES}, {"replicate_center": "mean"}),
        ({**DESIGN, **REPLICATES}, {"replicate_center": "mean"}),
    ],
    "degrees": [
        ({**LIMITS, **DESIGN, **REPLICATES}, {"degrees": 9.0}),
        ({**DESIGN, **REPLICATES}, {"degrees": 9.0}),
    ],
    "single_cluster": [
        ({**LIMITS, **DESIGN, "strata": "lone", "cluster": ("sailing",)}, {"single_cluster": "centred"})
    ],
    "no_design": [({}, DESIGN)],
    "complete": [({}, {"complete": True})],
    "design_figures": [(MEAN, {"design_figures": True})],
    "error_bars": [
        (MEAN, {"error_bars": "standard-deviation"}),
        ({**PLAIN_MEAN, **SPLIT}, {"error_bars": "confidence"}),
        (DESIGN, {"error_bars": "confidence"}),
    ],
    "confidence": [(LIMITS, {"confidence": 80.0}), ({}, {"confidence": 80.0}), (DESIGN, {"confidence": 80.0})],
    "interval": [
        ({"stat": ("share",), **DESIGN, "error_bars": "confidence"}, {"interval": "exact"}),
        ({}, {"interval": "exact"}),
    ],
    "repeats": [
        ({**LIMITS, **DESIGN, "interval": "bootstrap"}, {"repeats": 60}),
        (LIMITS, {"repeats": 60}),
    ],
    "seed": [({**LIMITS, **DESIGN, "interval": "bootstrap"}, {"seed": 5}), (LIMITS, {"seed": 5})],
    "relative_to": [({**MEAN, "by": ("season",)}, {"relative_to": "first"}), ({}, {"relative_to": "1"})],
    "along": [
        (
            {
                **MEAN,
                "by": ("season",),
                "split": "spend_band",
                "band": ("spend_band: spend=5",),
                "relative_to": "first",
            },
            {"along": "season"},
        ),
        ({}, {"along": "season"}),
    ],
    "as_": [({**MEAN, "relative_to": "1"}, {"as_": "ratio"})],
    "compare": [(MEAN, {"compare": "pairs"})],
    "letters": [(MEAN, {"letters": True})],
    "banner": [({}, {"banner": ("ticket",)})],
    "family": [({**SPLIT, "stat": ("share",), "letters": True}, {"family": "table"})],
    "association": [(SPLIT, {"association": True}), ({}, {"association": True})],
    "min_base": [(MEAN, {"min_base": 25}), ({}, {"min_base": 25})],
    "hide_small": [({"min_base": 25}, {"hide_small": True})],
    "add_up": [
        ({"by": ("price",), "stat": ("share",), **DESIGN}, {"add_up": True}),
        ({"by": ("price",), "label": "share", **DESIGN}, {"add_up": True}),
        (MEAN, {"add_up": True}),
    ],
    "order": [({}, {"order": "alphabetical"})],
    "split_order": [(SPLIT, {"split_order": "smallest-first"}), ({}, {"split_order": "smallest-first"})],
    "panel_order": [({"panel": "season"}, {"panel_order": "smallest-first"}), ({}, {"panel_order": "smallest-first"})],
    "keep_top": [({}, {"keep_top": 2})],
    "split_keep_top": [(SPLIT, {"split_keep_top": 2}), ({}, {"split_keep_top": 2})],
    "rest_label": [({"keep_top": 2}, {"rest_label": "Elsewhere"}), ({}, {"rest_label": "Elsewhere"})],
    "drop_rest": [({"keep_top": 2}, {"drop_rest": True}), ({}, {"drop_rest": True})],
    "direction": [
        ({"swap": False}, {"direction": "vertical"}),
        ({"form": "box"}, {"direction": "horizontal"}),
        ({"form": "histogram"}, {"direction": "horizontal"}),
        ({"form": "points"}, {"direction": "horizontal"}),
        ({"layout": None}, {"direction": "horizontal"}),
    ],
    "color_by_category": [
        ({}, {"color_by_category": True}),
        ({"form": "points"}, {"color_by_category": True}),
        (SPLIT, {"color_by_category": True}),
    ],
    "turn_names": [
        ({}, {"turn_names": True}),
        ({"form": "box"}, {"turn_names": True}),
        ({"form": "points"}, {"turn_names": True}),
        ({"form": "histogram"}, {"turn_names": True}),
    ],
    "dot_size": [
        ({"show_records": True, **MEAN}, {"dot_size": 6.0}),
        ({"form": "points"}, {"dot_size": 6.0}),
        ({"form": "box"}, {"dot_size": 6.0}),
        ({"form": "histogram"}, {"dot_size": 6.0}),
        ({}, {"dot_size": 6.0}),
    ],
    "spread": [
        ({"show_records": True, **MEAN}, {"spread": 0.05}),
        ({"form": "points"}, {"spread": 0.05}),
        ({"form": "histogram"}, {"spread": 0.05}),
        ({}, {"spread": 0.05}),
    ],
    "panel_columns": [({"panel": "season"}, {"panel_columns": 1}), ({}, {"panel_columns": 1})],
    "swap": [(SPLIT, {"swap": True}), ({}, {"swap": True})],
    "label": [
        ({}, {"label": "none"}),
        ({}, {"label": "value, base"}),
        ({"form": "histogram"}, {"label": "value"}),
        ({"second_measure": "spend", **MEAN}, {"label": "none"}),
    ],
    "layout": [({**SPLIT}, {"layout": "percent"}), ({}, {"layout": "grouped"})],
    "opposite": [
        ({"split": "season", "layout": "diverging"}, {"opposite": "Winter"}),
        ({}, {"opposite": "Winter"}),
    ],
    "neutral": [({"split": "season", "layout": "diverging"}, {"neutral": "none"}), ({}, {"neutral": "none"})],
    "label_place": [({}, {"label_place": "inside"})],
    "show_records": [(PLAIN_MEAN, {"show_records": True}), ({}, {"show_records": True})],
    "bar_width": [({}, {"bar_width": 0.3})],
    "gap": [({"split": "season", "layout": "grouped"}, {"gap": 0.5}), ({}, {"gap": 0.5})],
    "second_measure": [({}, {"second_measure": "spend"})],
    "second_stat": [({"second_measure": "spend"}, {"second_stat": "max"}), ({}, {"second_stat": "max"})],
    "second_title": [({"second_measure": "age"}, {"second_title": "Years"})],
    "second_unit": [({"second_measure": "age"}, {"second_unit": "years"})],
    "second_format": [({"second_measure": "age"}, {"second_format": "#,##0.000"})],
    "second_color": [({"second_measure": "age"}, {"second_color": "purple"})],
    "second_range": [({"second_measure": "high"}, {"second_range": "fit"}), ({}, {"second_range": "fit"})],
    "value_range": [
        ({}, {"value_range": "2,20"}),
        ({"form": "histogram"}, {"value_range": "5,20"}),
        (MEAN, {"value_range": "3,14"}),
    ],
    "ticks": [({}, {"ticks": "2"}), ({"form": "histogram"}, {"ticks": "0, 7"}), (MEAN, {"ticks": "0, 3, 7"})],
    "touch": [({"by": ("route",)}, {"touch": ("title: bold, color=#555",)}), ({}, {"touch": ("title: color=#555",)})],
    "joined": [
        ({"by": ("season",)}, {"joined": True}),
        ({"by": ("season",), "split": "ticket", "layout": "percent"}, {"joined": True}),
    ],
    "span": [({"by": ("route",)}, {"span": ("Pell Isle, Dunmar: closed",)})],
    "panel_axes": [({"by": ("route",), "panel": "season"}, {"panel_axes": "free"})],
    "total_panel": [({"by": ("route",), "panel": "season"}, {"total_panel": True})],
    "bracket": [({"by": ("route",), "measure": ("wait",)}, {"bracket": ("Pell Isle, Dunmar",)})],
    "annotation": [
        ({"by": ("route",)}, {"annotation": ("top-left: seen",)}),
        ({"form": "histogram"}, {"annotation": ("top-left: seen",)}),
        ({"form": "points"}, {"annotation": ("top-left: seen",)}),
    ],
    "reference": [
        ({}, {"reference": ("11=Target",)}),
        ({"form": "histogram"}, {"reference": ("11=Target",)}),
        ({"form": "points"}, {"reference": ("11=Target",)}),
    ],
    "format": [
        ({}, {"format": "#,##0.000"}),
        ({"form": "histogram"}, {"format": "#,##0.000"}),
        (MEAN, {"format": "0.000"}),
    ],
    "locale": [
        (MEAN, {"locale": "de"}),
        ({"measure": ("high",), "stat": ("sum",), "label": "value"}, {"locale": "de"}),
        ({"form": "histogram", "measure": ("high",)}, {"locale": "de"}),
    ],
    "show_in": [
        ({"measure": ("high",), "stat": ("sum",), "label": "value"}, {"show_in": "thousands"}),
        ({"measure": ("high",)}, {"show_in": "thousands"}),
    ],
    "palette": [
        ({}, {"palette": "kiln"}),
        ({"form": "histogram"}, {"palette": "kiln"}),
        ({"form": "points"}, {"palette": "kiln"}),
    ],
    "color": [
        ({}, {"color": ("Dunmar=#cc0000",)}),
        ({}, {"color": ("App=#cc0000",)}),
        ({"form": "histogram"}, {"color": ("Dunmar=#cc0000",)}),
    ],
    "one_color": [
        ({}, {"one_color": True}),
        ({"split": "ticket"}, {"one_color": True}),
        ({"form": "points", "split": "ticket"}, {"one_color": True}),
    ],
    "highlight": [
        ({}, {"highlight": "Dunmar"}),
        ({}, {"highlight": "App"}),
        ({"form": "histogram"}, {"highlight": "Dunmar"}),
    ],
    "opacity": [
        ({}, {"opacity": 0.4}),
        ({"form": "histogram"}, {"opacity": 0.4}),
        ({"form": "points"}, {"opacity": 0.4}),
    ],
    "hatch": [
        ({}, {"hatch": True}),
        (SPLIT, {"hatch": True}),
        ({"form": "histogram"}, {"hatch": True}),
        ({"form": "points"}, {"hatch": True}),
        ({"outline": True}, {"hatch": True}),
    ],
    "outline": [
        ({}, {"outline": True}),
        ({"form": "histogram"}, {"outline": True}),
        ({"form": "points"}, {"outline": True}),
        ({"hatch": True}, {"outline": True}),
    ],
    "title": [({}, {"title": "Ours"})],
    "subtitle": [({}, {"subtitle": "Ours"})],
    "footnote": [({}, {"footnote": "Ours."})],
    "no_note": [({}, {"no_note": True})],
    "source": [({}, {"source": "Ours"})],
    "value_title": [({}, {"value_title": "Ours"}), ({"form": "histogram"}, {"value_title": "Ours"})],
    "category_title": [({}, {"category_title": "Ours"}), ({"form": "histogram"}, {"category_title": "Ours"})],
    "legend": [
        (SPLIT, {"legend": "right"}),
        ({}, {"legend": "right"}),
        ({}, {"legend": "inside"}),
        ({}, {"legend": "none"}),
        ({"panel": "season"}, {"legend": "bottom"}),
    ],
    "style": [({}, {"style": "mono"})],
    "size": [({}, {"size": "200x150mm"})],
    "dpi": [({}, {"dpi": 100.0})],
    "turn": [({}, {"turn": 45.0})],
    "ring": [({}, {"ring": True})],
    "set_apart": [({}, {"set_apart": "App"})],
    "root_label": [({}, {"root_label": "Everything"})],
    "color_by": [({}, {"color_by": "wait"})],
    "color_stat": [({"color_by": "wait"}, {"color_stat": "max"}), ({}, {"color_stat": "max"})],
    "color_middle": [({"color_by": "wait"}, {"color_middle": 10.0}), ({}, {"color_middle": 10.0})],
    "form": [({}, {"form": "points"}), ({}, {"form": "histogram"})],
    "language": [({}, {"language": "de"}), ({"form": "histogram"}, {"language": "de"})],
}

CODEBOOK = """
[variables.route]
label = "Route"
[variables.route.levels]
1 = "Pell Isle"
2 = "Dunmar"
3 = "Vey Sands"
4 = "Nowhere"
[variables.ticket.levels]
app = "App"
web = "Website"
desk = "Desk"
[variables.season]
kind = "ordered"
[variables.season.levels]
spring = "Spring"
summer = "Summer"
winter = "Winter"
[design]
weight = "weight"
"""


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Made-up records in which every option finds something to change."""
    folder = tmp_path_factory.mktemp("records")
    columns = "name,route,ticket,season,age,wait,wait_before,spend,zero,high,price,copies,facilities"
    columns += ",weight,stratum,sailing,lone,sailings"
    lines = [f"{columns},rep_1,rep_2,rep_3,paid"]
    for n in range(97):
        route = (1, 1, 1, 2, 2, 3)[n % 6] if n % 31 else 1
        ticket = ("app", "web", "desk", "app", "")[n % 5]
        season = ("spring", "summer", "winter", "summer")[(n // 3) % 4]
        wait = 2 + (7 * n) % 23 if n % 13 else ""
        stratum, sailing = "ab"[n % 2], n % 14
        facilities = ("cafe;deck", "deck", "cafe", "shop;deck", "")[(n // 2) % 5]
        replicates = ",".join(str(1 + ((n + r) % 3) / 2) for r in range(3))
        lone = "z" if sailing == 3 else stratum
        row = f"p{n:02},{route},{ticket},{season},{18 + (11 * n) % 60},{wait},{3 + (5 * n) % 17},{(n * 3) % 11 / 2},0"
        row += f',{100_000 + 999 * n},"{n % 7},5",{1 + n % 3},{facilities},{1 + n % 4},{stratum},{sailing},{lone}'
        lines.append(f"{row},{30 + 10 * (n % 2)},{replicates},{1 + n % 7}.{100 + n}")
    (folder / "records.csv").write_text("\n".join(lines) + "\n", "utf-8")
    (folder / "packed.csv.gz").write_bytes(gzip.compress("\n".join([*lines[:2], *lines[1:2] * 3_000]).encode()))
    (folder / "units.csv").write_text("route,age,wait\n,years,minutes\n1,20,5\n2,30,6\n3,40,7\n", "utf-8")
    (folder / "totals.csv").write_text("route,age,wait\n1,20,5\n2,30,6\n3,40,7\n,90,18\n", "utf-8")
    dates = "".join(f"{1 + n % 3},{1 + n % 9:02}/{1 + n % 7:02}/2025,{n}\n" for n in range(60))
    (folder / "dates.csv").write_text(f"route,day,wait\n{dates}", "utf-8")
    (folder / "codebook.toml").write_text(CODEBOOK, "utf-8")
    (folder / "other.toml").write_text(CODEBOOK.replace("Dunmar", "Lower Tarn").replace("App", "Tickets"), "utf-8")
    return folder


class Asking:
    """Makes a kind from plain fields, and remembers what came of it."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._outputs: dict[str, dict[str, bytes] | GrainStackError] = {}

    def requests(self, kind: Kind, fields: Fields) -> Requests:
        [name] = fields.get("file", ("records.csv",))
        whole = {**fields, "file": (str(self._folder / name),)}
        if "codebook" in whole:
            whole["codebook"] = str(self._folder / whole["codebook"])
        return filled(kind.models, whole)

    def outputs(self, kind: Kind, fields: Fields) -> dict[str, bytes] | GrainStackError:
        """What a request gives in every medium, or the reason why it gives nothing."""
        key = kind.name + json.dumps(fields, sort_keys=True)
        if key not in self._outputs:
            try:
                requests = self.requests(kind, fields)
                with speaking(requests[LanguageRequest].language):
                    self._outputs[key] = written(make(kind, requests, open_records(requests[RecordsRequest])))
            except GrainStackError as reason:
                self._outputs[key] = reason
        return self._outputs[key]


def written(made: Made) -> dict[str, bytes]:
    """A table or chart in every medium, with what is said of it."""
    messages = "\n".join([*made.notes, *map(str, made.advice)]).encode()
    if made.kind.product is Product.TABLE:
        return {medium: table_as(medium, made) + messages for medium in (".csv", ".json", ".md")} | {
            "terminal": table_text(made).encode() + messages
        }
    scene = made.picture()
    assert any(mark.tip for mark in scene.marks), "no mark tells its figure"
    return {
        "picture": painted(scene, ".svg", 96) + messages,
        "terminal": paint(made.rows(90), colors=True).encode() + messages,
        "table": as_csv(figure_rows(made)),
    }


def _options() -> Iterator[tuple[str, str]]:
    for name in KINDS:
        for model in kind_named(name).models:
            yield from ((name, entry.name) for entry in entries(model))


def _entry(kind: Kind, name: str) -> Entry:
    return next(entry for model in kind.models for entry in entries(model) if entry.name == name)


@pytest.fixture(scope="module")
def asking(folder: Path) -> Iterator[Asking]:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(opening, "_ROOMY", 1 << 16)  # so that a small file is a large one
        yield Asking(folder)


@pytest.mark.parametrize(("kind_name", "name"), list(_options()))
def test_it_changes_what_is_made_or_is_refused(asking: Asking, kind_name: str, name: str) -> None:
    kind = kind_named(kind_name)
    known = {"file", *(entry.name for model in kind.models for entry in entries(model))}
    tries = [
        (before, besides)
        for before, besides in TRIES[name]
        if (set(before) | set(besides)) <= known and (kind_name, name, str(besides.get(name))) not in ALREADY
    ]
    assert tries, f"{name} of {kind_name} is tried with nothing it has"
    changed = refused = 0
    for before, besides in tries:
        start = BY[kind_name] | before
        without, with_it = asking.outputs(kind, start), asking.outputs(kind, start | besides)
        if isinstance(with_it, GrainStackError):
            assert with_it.message
            refused += 1
            continue
        if isinstance(without, GrainStackError):
            changed += 1  # it makes possible what was not
            continue
        where = {medium: without[medium] != with_it[medium] for medium in with_it}
        if kind.product is Product.TABLE:
            assert any(where.values()), (before, besides)
        elif _entry(kind, name).word.medium is Medium.PICTURE:
            assert where["picture"], (before, besides)
        else:
            assert where["picture"], (before, besides)
            assert where["terminal"], (before, besides)
        changed += 1
    assert changed or refused


def test_every_try_makes_a_difference_somewhere(asking: Asking) -> None:
    for name, tries in TRIES.items():
        kinds = [kind_named(kind) for kind, option in _options() if option == name]
        worked = False
        for kind in kinds:
            known = {"file", *(entry.name for model in kind.models for entry in entries(model))}
            for before, besides in tries:
                if not worked and (set(before) | set(besides)) <= known:
                    worked |= not isinstance(asking.outputs(kind, BY[kind.name] | before | besides), GrainStackError)
        assert worked or name in ("sheet", "header_row", "query", "decimal", "dates"), name


def test_a_refusal_names_fields_that_there_are(asking: Asking) -> None:
    names = {name for _, name in _options()} | {"out"}
    for outcome in asking._outputs.values():  # noqa: SLF001 - whatever was refused on the way
        if isinstance(outcome, GrainStackError):
            assert set(outcome.fields) <= names
