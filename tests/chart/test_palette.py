"""Colours stay apart in every kind of colour vision, and text on them can be read."""

from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.chart.look.color import INK, PAPER, contrast, is_between, linear, text_on
from grainstack.chart.look.palette import FIELDS, FURROW, KILN, MEADOW, MUTED, shades
from grainstack.chart.look.vision import distance
from grainstack.chart.treemaps.treemap_picture import Shades

# Machado GM, Oliveira MM, Fernandes LAF (2009), A physiologically-based model for simulation of color vision
# deficiency, IEEE Transactions on Visualization and Computer Graphics 15(6), 1291-1298, severity 1.0, for linear RGB.
VISIONS = {
    "ordinary": np.eye(3),
    "protanopia": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "deuteranopia": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "tritanopia": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}


def oklab(color: str, vision: str) -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
    """Björn Ottosson (2020), A perceptual color space for image processing."""
    light = np.clip(VISIONS[vision] @ np.array(linear(color)), 0, 1)
    cones = np.cbrt(
        np.array(
            [
                [0.4122214708, 0.5363325363, 0.0514459929],
                [0.2119034982, 0.6806995451, 0.1073969566],
                [0.0883024619, 0.2817188376, 0.6299787005],
            ]
        )
        @ light
    )
    matrix = np.array(
        [
            [0.2104542553, 0.7936177850, -0.0040720468],
            [1.9779984951, -2.4285922050, 0.4505937099],
            [0.0259040371, 0.7827717662, -0.8086757660],
        ]
    )
    return np.asarray(matrix @ cones)


@pytest.mark.parametrize("vision", VISIONS)
def test_any_two_category_colours_stay_apart(vision: str) -> None:
    gaps = [float(np.linalg.norm(oklab(one, vision) - oklab(other, vision))) for one, other in combinations(FIELDS, 2)]
    assert min(gaps) >= 0.115


@pytest.mark.parametrize("color", [*FIELDS, *MEADOW, *KILN, *FURROW])
def test_white_or_ink_can_be_read_on_every_colour(color: str) -> None:
    assert contrast(text_on(color), color) >= 4.5
    assert text_on(color) in (PAPER, INK)


@pytest.mark.parametrize("palette", ["meadow", "kiln", "furrow", "slate"])
@pytest.mark.parametrize("count", range(1, 41))
def test_every_shade_of_a_ramp_carries_white_or_ink_and_is_one_of_its_own(palette: str, count: int) -> None:
    ramp = shades(palette, count)
    assert len(set(ramp)) == count
    for color in ramp:
        assert contrast(text_on(color), color) >= 4.5


@pytest.mark.parametrize("stops", [MEADOW, KILN, FURROW])
def test_a_ramp_of_values_has_no_jump(stops: tuple[str, ...]) -> None:
    ramp = Shades(0.0, 256.0, 128.0 if stops is FURROW else float("nan"), stops)
    colors = [oklab(ramp.of(value), "ordinary") for value in range(257)]
    steps = [float(np.linalg.norm(other - one)) for one, other in pairwise(colors)]
    assert max(steps) <= 4 * sum(steps) / len(steps)  # colours of 8 bits and 64 blends between two stops


@pytest.mark.parametrize("palette", ["meadow", "kiln"])
@pytest.mark.parametrize("count", range(2, 25))
def test_a_ramp_always_gets_darker(palette: str, count: int) -> None:
    lightness = [float(oklab(color, "ordinary")[0]) for color in shades(palette, count)]
    assert all(one > other for one, other in pairwise(lightness))


@pytest.mark.parametrize("palette", ["meadow", "kiln", "furrow", "slate"])
@pytest.mark.parametrize("count", range(1, 13))
def test_shades_for_dots_are_seen_on_paper(palette: str, count: int) -> None:
    ramp = shades(palette, count, on_paper=True)
    assert len(set(ramp)) == count
    assert min(contrast(color, PAPER) for color in ramp) >= 3


@pytest.mark.parametrize(("on_paper", "most"), [(False, 10), (True, 7)])
@pytest.mark.parametrize("palette", ["meadow", "kiln", "furrow", "slate"])
@pytest.mark.parametrize("count", range(2, 11))
def test_steps_of_a_ramp_are_told_apart(palette: str, count: int, *, on_paper: bool, most: int) -> None:
    if count > most:
        pytest.skip("paper has no room for more")
    ramp = shades(palette, count, on_paper=on_paper, ramp=True)
    assert min(distance(one, other) for one, other in combinations(ramp, 2)) >= 0.09


@given(st.text("0123456789abcdef", min_size=6, max_size=6))
def test_text_is_white_or_ink_and_read_unless_it_gets_a_plate(digits: str) -> None:
    color = f"#{digits}"
    assert text_on(color) in (PAPER, INK)
    assert contrast(text_on(color), color) >= 4.5 or is_between(color)


def test_text_can_be_read_on_paper() -> None:
    assert contrast(INK, PAPER) >= 4.5
    assert contrast(MUTED, PAPER) >= 4.5
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
