"""A minute of fuzzing, the same each time: nothing ends in anything but a result or a message.

`make fuzz` goes on with other inputs, led by what parts of the program they reach.
"""

from pathlib import Path
from random import Random

import pytest

from tests.fuzzing.mutating import mutated
from tests.fuzzing.seeds import SEEDS
from tests.fuzzing.targets import TARGETS, fed
from tests.soak import SOAK

pytestmark = pytest.mark.soak

COUNT = 300 * SOAK  # inputs for each target: with all targets, about a minute


def test_every_target_has_seeds() -> None:
    assert SEEDS.keys() == TARGETS.keys()


@pytest.mark.parametrize("name", TARGETS)
def test_anything_ends_in_a_result_or_a_message(tmp_path: Path, name: str) -> None:
    random = Random(name if SOAK == 1 else None)  # noqa: S311 - nothing here is secret
    seeds = [text.encode("utf-8", "surrogatepass") for text in SEEDS[name]]
    taken = 0
    for data in [*seeds, *mutated(seeds, random, COUNT)]:
        try:
            taken += fed(name, data, tmp_path)
        except Exception as error:
            raise AssertionError(f"{name} fed with {data!r}") from error
    assert taken, "it took nothing"
