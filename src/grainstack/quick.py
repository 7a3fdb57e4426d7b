"""`dataclass` as in the standard library, made in a fraction of the time.

The standard one compiles six functions for each class with slots that cannot be changed, and a command defines more
than a hundred such classes before it does anything. Here only `__init__` is compiled; comparing, hashing, showing and
pickling are the same few functions for all classes. Type checkers see the standard decorator.
"""

from __future__ import annotations

import dataclasses
from operator import attrgetter
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
    slots: dict[str, Any] = {}  # what its `__init__` knows of the slots, which are there once the class is made
    if init:
        content["__init__"] = _initialiser(fields, slots, frozen=frozen, check="__post_init__" in dir(cls))
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
    made = type(cls)(cls.__name__, cls.__bases__, content)
    made.__qualname__ = cls.__qualname__
    slots.update({f"_set_{name}": getattr(made, name).__set__ for name in names})
    return made


def _initialiser(
    fields: tuple[dataclasses.Field[Any], ...], known: dict[str, Any], *, frozen: bool, check: bool
) -> Callable[..., None]:
    known["_missing"] = _MISSING
    arguments, lines = [], []
    for field in fields:
        name, value = field.name, field.name
        if field.default_factory is not dataclasses.MISSING:
            known[f"_make_{name}"] = field.default_factory
            argument, value = f"{name}=_missing", f"_make_{name}() if {name} is _missing else {name}"
        elif field.default is not dataclasses.MISSING:
            known[f"_default_{name}"] = field.default
            argument = f"{name}=_default_{name}"
        else:
            argument = name
        if field.init:
            arguments.append(argument)
            lines.append(_line(name, value, frozen=frozen))
        elif argument != name:  # a field that is no argument starts with its default, if it has one
            lines.append(_line(name, f"_make_{name}()" if value != name else f"_default_{name}", frozen=frozen))
    if check:
        lines.append("self.__post_init__()")
    body = "\n    ".join(lines or ["pass"])
    exec(f"def __init__(self, {', '.join(arguments)}):\n    {body}", known)  # noqa: S102 - as the standard library does
    made: Callable[..., None] = known["__init__"]
    return made


def _line(name: str, value: str, *, frozen: bool) -> str:
    """The statement that gives a field its value: that of a class that cannot be changed, straight to its slot."""
    return f"_set_{name}(self, {value})" if frozen else f"self.{name} = {value}"


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
