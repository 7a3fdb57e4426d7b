"""`dataclass` as in the standard library, made in a fraction of the time.

The standard one compiles six functions for each class with slots that cannot be changed, and a command defines more
than a hundred such classes before it does anything. Here classes with as many arguments share one compiled `__init__`;
comparing, hashing, showing and pickling are the same few functions for all classes. Type checkers see the standard
decorator.
"""

from __future__ import annotations

import dataclasses
from functools import cache
from operator import attrgetter, methodcaller
from types import CodeType, FunctionType
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable
    from dataclasses import dataclass as dataclass  # noqa: PLC0414 - exported under its own name
else:

    def dataclass(
        cls: type | None = None, /, *, frozen: bool = False, slots: bool = False, init: bool = True
    ) -> type | Callable[[type], type]:
        """As `dataclasses.dataclass`, for classes with slots; any other is made by that one."""
        if cls is None:
            return lambda one: dataclass(one, frozen=frozen, slots=slots, init=init)
        if not slots:
            return dataclasses.dataclass(cls, frozen=frozen, init=init)
        plain = dataclasses.dataclass(cls, init=False, repr=False, eq=False)
        return _finished(plain, frozen=frozen, init=init)


_MISSING = object()


def _finished(cls: type, *, frozen: bool, init: bool) -> type:
    """The class with slots for its fields, and the functions that belong to it."""
    fields = dataclasses.fields(cls)
    names = tuple(field.name for field in fields)
    content = dict(cls.__dict__)
    inherited = {name for base in cls.__mro__[1:] for name in getattr(base, "__slots__", ())}
    for name in (*names, "__dict__", "__weakref__"):
        content.pop(name, None)
    content["__slots__"] = tuple(name for name in names if name not in inherited)
    values = _values_of(names)
    functions: dict[str, Callable[..., Any] | None] = {
        "__repr__": _shown(names),
        "__eq__": _equal(values),
        "__hash__": _hashed(values) if frozen else None,
        "__getstate__": lambda self: list(values(self)),
        "__setstate__": _restored(names),
    }
    if frozen:
        functions |= {"__setattr__": _refuse_change, "__delattr__": _refuse_change}
    written = {name for name, value in cls.__dict__.items() if not (name == "__hash__" and value is None)}
    content |= {name: function for name, function in functions.items() if name not in written}
    made: Any = type(cls)(cls.__name__, cls.__bases__, content)
    made.__qualname__ = cls.__qualname__
    if init:
        made.__init__ = _initialiser(made, fields)
    return made  # type: ignore[no-any-return] # a class


def _initialiser(cls: Any, fields: tuple[dataclasses.Field[Any], ...]) -> FunctionType:  # noqa: ANN401 - any class
    """The function that gives each slot its value."""
    names, defaults, known, starts = ["self"], [], {}, []
    for field in fields:
        fill, make, given = getattr(cls, field.name).__set__, field.default_factory, field.default
        if make is not dataclasses.MISSING:
            fill, given = _filled_anew(fill, make), _MISSING
        if field.init:
            known[f"_fill_{len(names)}"] = fill
            names.append(field.name)
            defaults += [] if given is dataclasses.MISSING else [given]
        elif given is not dataclasses.MISSING:  # a field that is no argument starts with its default
            starts.append((fill, given))
    checked = hasattr(cls, "__post_init__")
    if starts:
        known["_end"] = _ended(starts, checked=checked)
    elif checked:
        known["_end"] = methodcaller("__post_init__")
    code = _code(len(names), ends="_end" in known)
    code = code.replace(co_varnames=tuple(names), co_qualname=f"{cls.__qualname__}.__init__")
    return FunctionType(code, known, "__init__", tuple(defaults))


def _filled_anew(fill: Callable[[Any, Any], None], make: Callable[[], Any]) -> Callable[[Any, Any], None]:
    """Fills a slot, with a new default where none is given."""
    return lambda self, value: fill(self, make() if value is _MISSING else value)


def _ended(starts: list[tuple[Callable[[Any, Any], None], Any]], *, checked: bool) -> Callable[[Any], None]:
    """Fills the slots that are no arguments, then has the class look at its values."""

    def end(self: Any) -> None:  # noqa: ANN401
        for fill, given in starts:
            fill(self, given)
        if checked:
            self.__post_init__()

    return end


@cache
def _code(count: int, *, ends: bool) -> CodeType:
    """What fills as many slots as there are arguments: compiled once for all classes that have as many.

    Args:
        count: How many arguments there are, with the object itself.
        ends: Whether something is to be done at the end.
    """
    lines = [f"_fill_{place}(self, _{place})" for place in range(1, count)] + ["_end(self)"] * ends
    arguments = ", ".join(["self", *(f"_{place}" for place in range(1, count))])
    made: dict[str, Any] = {}
    exec(f"def __init__({arguments}): {'; '.join(lines) or 'pass'}", made)  # noqa: S102 - as the standard library does
    code: CodeType = made["__init__"].__code__
    return code


def _values_of(names: tuple[str, ...]) -> Callable[[Any], tuple[Any, ...]]:
    """What gives the values of the fields of an object, as a tuple."""
    if not names:
        return lambda _: ()
    if len(names) == 1:
        one = attrgetter(names[0])
        return lambda self: (one(self),)
    return attrgetter(*names)


def _shown(names: tuple[str, ...]) -> Callable[[Any], str]:
    def __repr__(self: Any) -> str:  # noqa: ANN401, N807 - any object; as the method is called
        parts = ", ".join(f"{name}={getattr(self, name)!r}" for name in names)
        return f"{type(self).__qualname__}({parts})"

    return __repr__


def _equal(values: Callable[[Any], tuple[Any, ...]]) -> Callable[[Any, object], bool]:
    def __eq__(self: Any, other: object) -> bool:  # noqa: ANN401, N807
        return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

    return __eq__


def _hashed(values: Callable[[Any], tuple[Any, ...]]) -> Callable[[Any], int]:
    return lambda self: hash(values(self))


def _restored(names: tuple[str, ...]) -> Callable[[Any, list[Any]], None]:
    def __setstate__(self: Any, state: list[Any]) -> None:  # noqa: ANN401, N807
        for name, value in zip(names, state, strict=True):
            object.__setattr__(self, name, value)

    return __setstate__


def _refuse_change(_: Any, name: str, *__: object) -> None:  # noqa: ANN401
    raise dataclasses.FrozenInstanceError(f"cannot change field {name!r}")
