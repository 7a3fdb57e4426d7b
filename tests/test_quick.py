"""The quick `dataclass` does what the standard one does."""

import dataclasses
import pickle
from typing import Any

import pytest

from grainstack.quick import dataclass as quick


def made(decorator: Any) -> tuple[type, type, type]:  # noqa: ANN401
    """The same classes by either decorator."""

    @decorator(frozen=True, slots=True)
    class Base:
        """Something."""

        a: int
        b: str = "x"

        def __post_init__(self) -> None:
            if self.a < 0:
                raise ValueError("below 0")

    @decorator(frozen=True, slots=True)
    class Child(Base):
        """Something more."""

        c: list[int] = dataclasses.field(default_factory=list)
        d: float = 1.5

        @property
        def twice(self) -> int:
            """Both."""
            return 2 * self.a

    @decorator(slots=True)
    class Growing:
        """Something that changes."""

        a: int
        total: int = dataclasses.field(init=False)
        seen: int = dataclasses.field(init=False, default=3)
        kept: list[int] = dataclasses.field(init=False, default_factory=list)
        parts: dict[str, int] = dataclasses.field(default_factory=dict)

        def __post_init__(self) -> None:
            self.total = self.a

    return Base, Child, Growing


BASE, CHILD, GROWING = made(quick)
STANDARD = made(dataclasses.dataclass)


@pytest.mark.parametrize("arguments", [{"a": 1}, {"a": 2, "b": "y", "d": 3.0}, {"a": 0, "c": [1, 2]}])
def test_objects_are_made_shown_and_compared_alike(arguments: dict[str, Any]) -> None:
    ours, theirs = CHILD(**arguments), STANDARD[1](**arguments)
    assert repr(ours) == repr(theirs)
    assert dataclasses.asdict(ours) == dataclasses.asdict(theirs)
    assert ours == CHILD(**arguments)
    assert ours != dataclasses.replace(ours, a=9)
    assert ours != theirs
    assert ours.twice == theirs.twice
    assert [field.name for field in dataclasses.fields(ours)] == [field.name for field in dataclasses.fields(theirs)]
    assert CHILD(*arguments.values()) == CHILD(**dict(zip(("a", "b", "c", "d"), arguments.values(), strict=False)))


def test_fields_that_are_no_arguments_start_with_their_defaults() -> None:
    for growing in (GROWING, STANDARD[2]):
        made_ = growing(4, {"x": 1})
        assert (made_.total, made_.seen, made_.kept, made_.parts) == (4, 3, [], {"x": 1})
        assert made_.kept is not growing(4).kept
        with pytest.raises(TypeError):
            growing(4, seen=5)


def test_defaults_are_not_shared_and_checks_run() -> None:
    assert CHILD(1).c is not CHILD(1).c
    for base in (BASE, STANDARD[0]):
        with pytest.raises(ValueError, match="below 0"):
            base(-1)
        with pytest.raises(TypeError):
            base()
        with pytest.raises(TypeError):
            base(1, nothing=2)


def test_frozen_objects_do_not_change_and_have_no_other_attributes() -> None:
    for one in (BASE(1), CHILD(1)):
        with pytest.raises(dataclasses.FrozenInstanceError):
            one.a = 2
        with pytest.raises(dataclasses.FrozenInstanceError):
            del one.a
        assert not hasattr(one, "__dict__")
    assert hash(BASE(1)) == hash(BASE(1))
    assert len({BASE(1), BASE(1), BASE(2)}) == 2


def test_objects_that_change_do() -> None:
    for growing in (GROWING, STANDARD[2]):
        one = growing(3)
        one.parts["x"] = one.total
        assert (one.total, one.parts, growing(3).parts) == (3, {"x": 3}, {})
        with pytest.raises(TypeError):
            hash(one)
        with pytest.raises(AttributeError):
            one.other = 1


@quick(frozen=True, slots=True)
class Kept:
    """Something that is pickled."""

    a: int
    b: tuple[str, ...] = ()


def test_objects_pickle() -> None:
    one = Kept(3, ("x",))
    assert pickle.loads(pickle.dumps(one)) == one  # noqa: S301 - made here
