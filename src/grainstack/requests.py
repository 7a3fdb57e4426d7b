"""Everything one table or chart is asked for: one request model each, looked up by its class."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TypeVar

from grainstack.words import Request, check_needs

R = TypeVar("R", bound=Request)


@dataclass(frozen=True, slots=True, init=False)
class Requests:
    """The request models of one table or chart.

    A model that was not given stands for its defaults: nothing of it was asked for.

    Args:
        models: The models, each of another class.
    """

    models: tuple[Request, ...]

    def __init__(self, *models: Request) -> None:
        object.__setattr__(self, "models", models)

    def __getitem__(self, model: type[R]) -> R:
        """The request of a class, or one of its descendants'."""
        for one in self.models:
            if isinstance(one, model):
                return one
        return model()

    def __iter__(self) -> Iterator[Request]:
        return iter(self.models)

    def having(self, *changed: Request) -> "Requests":
        """The same with some models in the place of those of their classes, or added."""
        classes = {type(one) for one in changed}
        return Requests(*(one for one in self.models if type(one) not in classes), *changed)

    def check(self) -> None:
        """Refuses fields that make no difference without others that were not given.

        Raises:
            RequestError: Names both.
        """
        check_needs(list(self.models))
