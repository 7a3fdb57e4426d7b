"""A function that is loaded when it is called first: the one place where a step's code is loaded late."""

from collections.abc import Callable
from importlib import import_module
from typing import Any

from msgspec import Struct


class Later(Struct, frozen=True):
    """A function that is loaded when it is called first, so that a help page or a count costs nothing of it.

    Attributes:
        module: Where it is, below `grainstack`.
        name: Its name there.
    """

    module: str
    name: str

    def __call__(self, *arguments: Any, **named: Any) -> Any:  # noqa: ANN401 - as the function has them
        """What the function gives."""
        return self.function(*arguments, **named)

    @property
    def function(self) -> Callable[..., Any]:
        """The function itself."""
        found: Callable[..., Any] = getattr(import_module(f"grainstack.{self.module}"), self.name)
        return found
