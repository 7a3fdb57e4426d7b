"""Everything one table or chart is asked for: one request model each, looked up by its class."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any, TypeVar

from grainstack.earlier_names import with_current_names
from grainstack.errors import IdleError
from grainstack.option_fields import Medium, Request, check_needs, entries, types_of
from grainstack.option_names import option

R = TypeVar("R", bound=Request)


class Requests:
    """The request models of one table or chart.

    Args:
        models: The models, each of another class.
    """

    __slots__ = ("models",)

    def __init__(self, *models: Request) -> None:
        self.models = models

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Requests) and self.models == other.models

    def __hash__(self) -> int:
        return hash(self.models)

    def __getitem__(self, model: type[R]) -> R:
        """The request of a class, or one of its descendants'.

        Raises:
            KeyError: Nothing of the kind can be asked for here; see `usual`.
        """
        for one in self.models:
            if isinstance(one, model):
                return one
        raise KeyError(model.__name__)

    def usual(self, model: type[R]) -> R:
        """The same; a model that does not belong here stands for its defaults: nothing of it was asked for."""
        return next((one for one in self.models if isinstance(one, model)), None) or model()

    def __iter__(self) -> Iterator[Request]:
        return iter(self.models)

    def having(self, *changed: Request) -> "Requests":
        """The same with some models in the place of those of their classes, or added."""
        classes = {type(one) for one in changed}
        return Requests(*(one for one in self.models if type(one) not in classes), *changed)

    def check(self) -> None:
        """Refuses fields that make no difference without others that were not given.

        Raises:
            IdleError: Names both.
        """
        check_needs(list(self.models))

    def check_formats(self, formats: Sequence[str]) -> None:
        """Refuses fields that make no difference in what is written.

        Args:
            formats: What that is: `csv`, `png`; empty for a terminal.

        Raises:
            IdleError: Names the first.
        """
        for request in self.models:
            given = request.given()
            for entry in entries(type(request)):
                if entry.name not in given:
                    continue
                if entry.word.medium is Medium.PICTURE and not formats:
                    raise IdleError(
                        f"{option(entry.name)} makes no difference in a terminal.",
                        f"Name a picture with {option('out')} FILE, or leave it out.",
                    )
                if entry.word.medium is Medium.CSV and "csv" not in formats:
                    raise IdleError(
                        f"{option(entry.name)} makes no difference: no CSV is written.", "Write one, or leave it out."
                    )


def filled(models: Sequence[type[Request]], values: Mapping[str, Any]) -> Requests:
    """Request models made of plain values, by the names of their fields; what is not given stays at its default.

    A field that is itself a model is filled with the one of that class, or with what one of its ancestors was given.

    Args:
        models: The request models.
        values: What was asked, by field name.

    Raises:
        RequestError: A value that cannot be.
        KeyError: A name that no model has.
    """
    values = with_current_names(values)  # a file made before may hold earlier ones
    if unknown := set(values) - {name for model in models for name in types_of(model)}:
        raise KeyError(", ".join(sorted(unknown)))
    made: dict[type[Request], Request] = {}
    for model in models:
        values = {**values, **model.implied(values)}
    for model in sorted(models, key=_holds_models):
        types = types_of(model)
        own = {name: _plain(values[name]) for name in types if name in values}
        for name, kind in types.items():
            if isinstance(kind, type) and issubclass(kind, Request):
                own[name] = _inner(kind, made)
        made[model] = model(**own)
    return Requests(*(made[model] for model in models))


def _holds_models(model: type[Request]) -> bool:
    return any(isinstance(kind, type) and issubclass(kind, Request) for kind in types_of(model).values())


def _inner(wanted: type[Request], made: Mapping[type[Request], Request]) -> Request:
    for model, request in made.items():
        if issubclass(wanted, model):
            return wanted(**{name: getattr(request, name) for name in types_of(model)})
    return wanted()


def _plain(value: Any) -> Any:  # noqa: ANN401 - a field of any type
    return tuple(value) if isinstance(value, list) else value
