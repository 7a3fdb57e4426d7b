"""Charts for a terminal: one row per bar, aligned, never wider than the window."""

from itertools import groupby

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_requests import AxisRequest, WordsRequest
from grainstack.chart.distributions.distribution_arrangement import distribution_of
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.dots.dot_arrangement import arranged_dots
from grainstack.chart.pies.pie_arrangement import arranged_pies
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.terminal.screen import Bar, Screen
from grainstack.chart.terminal.terminal_bars import bar_rows, dot_rows
from grainstack.chart.terminal.terminal_distributions import distribution_rows, histogram_columns
from grainstack.chart.terminal.terminal_parts import pie_rows, tree_rows
from grainstack.chart.treemaps.tile_tree import arranged_tree
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.chart.writing.character_columns import columns_wide
from grainstack.paint.terminal import paint
from grainstack.summary.table import SummaryTable
from tests.chart.asking import chart_requests
from tests.chart.scenes import table_of
from tests.chart.test_bars import requests
from tests.soak import SOAK

QUIET = WordsRequest(no_note=True, source="none")
EIGHTHS = " ▏▎▍▌▋▊▉"
ROUTES = ["Pell Isle", "Osk Harbour", "Dunmar"]


def lines(screen: Screen) -> list[str]:
    return paint(screen, colors=False).splitlines()


def bars(table: SummaryTable, columns: int = 60, words: WordsRequest = QUIET, **asked: object) -> list[str]:
    request = chart_requests(BarRequest(**asked), words)  # type: ignore[arg-type]
    return lines(bar_rows(arranged_bars(table, request[BarRequest]), request, columns))


def length(line: str) -> float:
    """The length of the bars in a line, in characters."""
    return line.count("█") + sum(EIGHTHS.index(sign) / 8 for sign in line if sign in EIGHTHS[1:])


def test_bars_are_in_proportion_and_aligned() -> None:
    found = [line for line in bars(table_of(ROUTES, [], [40, 20, 10])) if "█" in line]
    assert [line.split("█")[0].strip() for line in found] == ROUTES
    lengths = [length(line) for line in found]
    assert lengths[0] == pytest.approx(2 * lengths[1], abs=0.25) == pytest.approx(4 * lengths[2], abs=0.5)
    assert len({line.index("█") for line in found}) == 1
    assert [line.split()[-1] for line in found] == ["40", "20", "10"]


def test_series_have_a_legend_and_patterns() -> None:
    found = bars(table_of(["a", "b"], ["x", "y", "z"], [0.2, 0.3, 0.5, 0.5, 0.25, 0.25], "share"), layout="percent")
    assert "██ x   ░░ y   ▓▓ z" in found[3]
    assert all(sign in found[5] for sign in "█░▓")
    assert "50" in found[5]


def test_diverging_bars_share_a_zero_and_carry_the_sums_of_their_sides() -> None:
    table = table_of(["a", "b"], ["no", "mid", "yes"], [0.2, 0.2, 0.6, 0.4, 0.4, 0.2], "share", ordered=True)
    found = [line for line in bars(table, layout="diverging") if line.lstrip().startswith(("a ", "b "))]
    assert found[0].split()[1] == "20"
    assert found[0].split()[-1] == "60"
    assert found[1].split()[1] == "40"
    assert found[1].split()[-1] == "20"


def test_negative_bars_grow_the_other_way() -> None:
    found = [line for line in bars(table_of(["up", "down"], [], [30, -10])) if "█" in line]
    assert found[1].index("−10") < found[1].index("█")
    assert found[1].rindex("█") < found[0].rindex("█")


def test_whiskers_have_ends() -> None:
    found = [line for line in bars(table_of(["a", "b"], [], [20, 10], "mean", 4)) if "█" in line]
    assert all("├" in line and "┤" in line for line in found)
    assert found[0].index("├") > found[1].index("├")


def test_nested_categories_stand_under_their_group() -> None:
    found = bars(table_of(["x", "y"], [], [1, 2, 3, 4], outer=("North", "South")))
    place = found.index("North")
    assert found[place + 1].startswith("  x")
    assert found[place + 3] == "South"


def test_panels_stand_one_under_the_other_on_one_scale() -> None:
    found = bars(table_of(["x"], [], [10, 20], panels=("One", "Two")))
    drawn = [line for line in found if "█" in line]
    assert length(drawn[1]) == pytest.approx(2 * length(drawn[0]), abs=0.25)
    assert "One" in found
    assert "Two" in found


def test_a_second_measure_is_written_beside_its_bar() -> None:
    found = [line for line in bars(table_of(["a", "b"], [], [10, 20], second=True)) if "█" in line]
    assert [line.split("●")[1].strip() for line in found] == ["10", "20"]


def test_letters_and_flags_follow_the_figure() -> None:
    quiet = WordsRequest(title="none", footnote="* few")  # which explains the sign
    found = [
        line for line in bars(table_of(["a", "b"], [], [10, 20], letters=True, flagged=2), words=quiet) if "█" in line
    ]
    assert found[0].endswith("10* a")
    assert found[1].endswith("20 ab")


@settings(max_examples=60 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(requests(), st.integers(40, 120))
def test_no_line_is_wider_than_the_window(drawn: dict[str, object], columns: int) -> None:
    wanted = dict(drawn["bars"])  # type: ignore[call-overload]
    wanted.pop("show_records", None)
    request = chart_requests(BarRequest(layout=drawn["layout"], **wanted), QUIET)  # type: ignore[arg-type]
    scene = bar_rows(arranged_bars(drawn["table"], request[BarRequest]), request, columns)  # type: ignore[arg-type]
    assert max(columns_wide(line) for line in lines(scene)) <= columns + 1


def test_dots_stand_on_stems_with_their_whisker() -> None:
    table = table_of(ROUTES, [], [40, 20, 10], "mean", 3)
    found = [line for line in lines(dot_rows(arranged_dots(table), chart_requests(QUIET), 70)) if "●" in line]
    assert [line.split()[-1] for line in found] == ["40", "20", "10"]
    places = [line.index("●") for line in found]
    assert places == sorted(places, reverse=True)
    assert all(line.index("├") < line.index("●") < line.index("┤") for line in found)


def test_boxes_show_median_mean_and_base() -> None:
    distribution = distribution_of(table_of(["a", "b"], [], [10.0, 40.0]))
    found = lines(distribution_rows(distribution, chart_requests(QUIET), 70))
    drawn = [line for line in found if "n = 44" in line]
    assert len(drawn) == 2
    assert all("▒" in line and ("┃" in line or "◉" in line) for line in drawn)
    assert found[0] == "Distribution of size by place"


def spread_of(values: dict[float, int], request: DistributionRequest, axis: AxisRequest | None = None) -> list[str]:
    """The rows of one group with these values and their records."""
    table = table_of(["a"], [], [float(np.average(list(values), weights=list(values.values())))])
    held = np.array(sorted(values), dtype=float)
    counts = np.array([values[value] for value in sorted(values)])
    table = replace(table, values={"size": ((held, counts, counts.astype(float)),)})
    asked = chart_requests(QUIET, axis or AxisRequest(), request)
    return lines(distribution_rows(distribution_of(table), asked, 70))


def blocks_in(found: list[str]) -> str:
    """The characters of the drawn row."""
    [drawn] = [line for line in found if "n = 44" in line]
    return drawn.partition("n = 44")[0].removeprefix("a").strip()


def test_histograms_rise_and_fall_with_the_records() -> None:
    rising = {float(n): n + 1 for n in range(8)}
    blocks = blocks_in(spread_of(rising, DistributionRequest(form="histogram", bands="1")))
    heights = ["▁▂▃▄▅▆▇█".index(sign) for sign in blocks]
    assert heights == sorted(heights)
    assert heights[0] == 0
    assert heights[-1] == 7


def test_bands_of_a_histogram_are_as_wide_as_their_values() -> None:
    blocks = blocks_in(
        spread_of({5.0: 10, 20.0: 10, 70.0: 40}, DistributionRequest(form="histogram", bands="0,10,40,100"))
    )
    runs = [len(list(run)) for _, run in groupby(blocks)]
    assert [length / len(blocks) for length in runs] == pytest.approx([0.1, 0.3, 0.6], abs=0.03)


@given(
    st.lists(st.floats(0, 1), min_size=1, max_size=150).filter(sum),
    st.integers(5, 120),
    st.floats(0.01, 1000),
)
def test_columns_hold_all_bands_in_their_places(shares: list[float], width: int, step: float) -> None:
    bands = len(shares)
    edges, densities = np.arange(bands + 1) * step, np.array([share / step for share in shares])
    heights = histogram_columns(densities, np.asarray(edges, dtype=np.float64), width)
    assert len(heights) == width
    if bands > width:
        assert float(heights.sum()) * bands * step / width == pytest.approx(sum(shares))
    for column, height in enumerate(heights.tolist()):
        first, last = (int(np.floor(place * bands / width + shift)) for place, shift in ((column, 0), (column + 1, 1)))
        near = densities[max(first - 1, 0) : min(last + 1, bands)]
        assert near.min() * (1 - 1e-6) - 1e-9 <= height <= near.max() * (1 + 1e-6) + 1e-9


def test_points_stand_where_their_records_are_and_are_denser_where_there_are_more() -> None:
    found = spread_of(
        {0.0: 1, 50.0: 1, 100.0: 30}, DistributionRequest(form="points"), AxisRequest(value_range="0,100")
    )
    [drawn] = [line for line in found if "n = 44" in line]
    row = drawn[2 : drawn.index("n = 44")].rstrip()
    assert [sign for sign in row if sign not in " │"] == ["·", "·", "●"]
    assert row.index("·") < row.rindex("·") == pytest.approx(len(row) / 2, abs=1)
    assert row.index("●") == len(row) - 1
    assert "│" in row


def test_a_range_and_a_reference_are_kept_to_in_characters() -> None:
    table = table_of(ROUTES, [], [40, 20, 10])
    asked = AxisRequest(value_range="0,80", reference=("60=Target",))
    request = chart_requests(BarRequest(), QUIET, asked)
    found = lines(bar_rows(arranged_bars(table, request[BarRequest]), request, 60))
    drawn = [line for line in found if "█" in line]
    start, full = drawn[0].index("█"), length(drawn[0])
    [post] = {line.index("┆") for line in found if "┆" in line}
    assert post == pytest.approx(start + full * 60 / 40, abs=1)
    assert any("Target" in line for line in found)
    [usual, *_] = (line for line in bars(table) if "█" in line)
    assert length(usual) > 1.5 * full


@pytest.mark.parametrize("count", [6, 8, 12])
def test_many_series_stay_apart_without_colour(count: int) -> None:
    names = [f"s{n}" for n in range(count)]
    found = bars(table_of(["x"], names, [1 / count] * count, "share"), 110, layout="percent")
    [drawn] = [line for line in found if line.startswith("x")]
    signs = [sign for sign, _ in groupby(sign for sign in drawn[1:] if sign not in f"{EIGHTHS}.0123456789%")]
    assert len(set(signs)) == count
    for name, sign in zip(names, signs, strict=True):
        assert any(f"{sign * 2} {name}" in line for line in found)


def test_tiles_have_the_colour_of_their_top_level_or_of_their_measure() -> None:
    def fills(request: TreemapRequest) -> dict[str, str]:
        shaded, figures = request.color_by is not None, [1.0, 2.0, 3.0, 4.0]
        table = table_of(["x", "y"], [], figures, "sum", outer=("North", "South"), second=shaded)
        screen = tree_rows(arranged_tree(table), chart_requests(QUIET, request), 70)
        return {"/".join(sign.key.category): sign.fill for sign in screen.marks if isinstance(sign, Bar)}

    shaded = fills(TreemapRequest(color_by="age"))
    assert len({shaded[name] for name in ("North/x", "North/y", "South/x", "South/y")}) == 4
    tops = fills(TreemapRequest())
    assert tops["North"] == tops["North/x"] != tops["South"] == tops["South/x"]


def test_a_pie_is_one_bar_with_its_slices_listed() -> None:
    table = table_of(["big", "small"], [], [3.0, 1.0], "sum")
    wishes = PieRequest(label="value")
    found = lines(pie_rows(arranged_pies(table, wishes), chart_requests(QUIET, wishes), 41))
    bar = next(line for line in found if line.count("█") > 5)
    assert bar.count("█") == pytest.approx(30, abs=1)
    assert bar.count("░") == pytest.approx(10, abs=1)
    assert any(line.startswith("██ big") and line.endswith("3") for line in found)


def test_a_treemap_is_an_indented_list_with_totals() -> None:
    table = table_of(["x", "y"], [], [1.0, 2.0, 3.0, 4.0], "sum", outer=("North", "South"))
    request = chart_requests(QUIET, TreemapRequest(root_label="All of it"))
    found = lines(tree_rows(arranged_tree(table), request, 70))
    drawn = [line for line in found if "%" in line or "All of it" in line]
    assert drawn[0].split()[-1] == "10"
    assert [line.split()[0] for line in drawn[1:]] == ["South", "y", "x", "North", "y", "x"]
    assert drawn[1].endswith("7   70 %")
    assert drawn[2].startswith("  y")
