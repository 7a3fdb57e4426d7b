"""Charts for a terminal: one row per bar, aligned, never wider than the window."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainstack.chart.bars.arrangement import arranged_bars
from grainstack.chart.bars.request import BarRequest
from grainstack.chart.bars.rows import bar_rows
from grainstack.chart.distributions.arrangement import distribution_of
from grainstack.chart.distributions.request import DistributionRequest
from grainstack.chart.distributions.rows import distribution_rows
from grainstack.chart.dots.arrangement import arranged_dots
from grainstack.chart.dots.rows import dot_rows
from grainstack.chart.pies.arrangement import arranged_pies
from grainstack.chart.pies.request import PieRequest
from grainstack.chart.pies.rows import pie_rows
from grainstack.chart.request import WordsRequest
from grainstack.chart.screen import Screen
from grainstack.chart.treemaps.arrangement import arranged_tree
from grainstack.chart.treemaps.request import TreemapRequest
from grainstack.chart.treemaps.rows import tree_rows
from grainstack.chart.writing.columns import columns_wide
from grainstack.paint.terminal import paint
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable
from tests.chart.scenes import table_of
from tests.chart.test_bars import requests

QUIET = WordsRequest(footnote="none", source="none")
ROUTES = ["Pell Isle", "Osk Harbour", "Dunmar"]


def lines(screen: Screen) -> list[str]:
    return paint(screen, colors=False).splitlines()


def bars(table: SummaryTable, columns: int = 60, **asked: object) -> list[str]:
    request = Requests(BarRequest(**asked), QUIET)  # type: ignore[arg-type]
    return lines(bar_rows(arranged_bars(table, request[BarRequest]), request, columns))


def length(line: str) -> float:
    """The length of the bars in a line, in characters."""
    eighths = " ▏▎▍▌▋▊▉"
    return line.count("█") + sum(eighths.index(sign) / 8 for sign in line if sign in eighths[1:])


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
    found = [line for line in bars(table_of(["a", "b"], [], [10, 20], letters=True, flagged=2)) if "█" in line]
    assert found[0].endswith("10* a")
    assert found[1].endswith("20 ab")


@settings(max_examples=120, deadline=None, suppress_health_check=list(HealthCheck))
@given(requests(), st.integers(40, 120))
def test_no_line_is_wider_than_the_window(drawn: dict[str, object], columns: int) -> None:
    wanted = dict(drawn["bars"])  # type: ignore[call-overload]
    wanted.pop("show_records", None)
    request = Requests(BarRequest(layout=drawn["layout"], **wanted), QUIET)  # type: ignore[arg-type]
    scene = bar_rows(arranged_bars(drawn["table"], request[BarRequest]), request, columns)  # type: ignore[arg-type]
    assert max(columns_wide(line) for line in lines(scene)) <= columns + 1


def test_dots_stand_on_stems_with_their_whisker() -> None:
    table = table_of(ROUTES, [], [40, 20, 10], "mean", 3)
    found = [line for line in lines(dot_rows(arranged_dots(table), Requests(QUIET), 70)) if "●" in line]
    assert [line.split()[-1] for line in found] == ["40", "20", "10"]
    places = [line.index("●") for line in found]
    assert places == sorted(places, reverse=True)
    assert all(line.index("├") < line.index("●") < line.index("┤") for line in found)


def test_boxes_show_median_mean_and_base() -> None:
    distribution = distribution_of(table_of(["a", "b"], [], [10.0, 40.0]))
    found = lines(distribution_rows(distribution, Requests(QUIET), 70))
    drawn = [line for line in found if "n = 44" in line]
    assert len(drawn) == 2
    assert all("▒" in line and ("┃" in line or "◉" in line) for line in drawn)
    assert found[0] == "Distribution of size by place"


def test_histograms_are_columns_of_eighths() -> None:
    distribution = distribution_of(table_of(["a"], [], [10.0]))
    found = lines(
        distribution_rows(distribution, Requests(QUIET, DistributionRequest(form="histogram", bands="5")), 70)
    )
    [drawn] = [line for line in found if "n = 44" in line]
    assert "█" in drawn


def test_a_pie_is_one_bar_with_its_slices_listed() -> None:
    table = table_of(["big", "small"], [], [3.0, 1.0], "sum")
    wishes = PieRequest(label="value")
    found = lines(pie_rows(arranged_pies(table, wishes), Requests(QUIET, wishes), 41))
    bar = next(line for line in found if line.count("█") > 5)
    assert bar.count("█") == pytest.approx(30, abs=1)
    assert bar.count("░") == pytest.approx(10, abs=1)
    assert any(line.startswith("██ big") and line.endswith("3") for line in found)


def test_a_treemap_is_an_indented_list_with_totals() -> None:
    table = table_of(["x", "y"], [], [1.0, 2.0, 3.0, 4.0], "sum", outer=("North", "South"))
    request = Requests(QUIET, TreemapRequest(root_label="All of it"))
    found = lines(tree_rows(arranged_tree(table), request, 70))
    drawn = [line for line in found if "%" in line or "All of it" in line]
    assert drawn[0].split()[-1] == "10"
    assert [line.split()[0] for line in drawn[1:]] == ["South", "y", "x", "North", "y", "x"]
    assert drawn[1].endswith("7   70 %")
    assert drawn[2].startswith("  y")
