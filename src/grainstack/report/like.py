"""`like`: the looks of another chart, as its picture or its plan tells them."""

import tomllib
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from grainstack.earlier_names import with_current_names
from grainstack.errors import RequestError, nearest, reason_of
from grainstack.making.kind import Product
from grainstack.making.looks import looks_in
from grainstack.option_fields import Entry, Request, entries
from grainstack.option_names import option
from grainstack.plan.file.entries import name_of
from grainstack.report.trace_reading import traced
from grainstack.toml_schema import value_of

_IN_PLAN = ".toml:"


def looks_of(like: str, models: Sequence[type[Request]]) -> dict[str, Any]:
    """The looks of another chart, by option.

    Args:
        like: A picture, or an entry of a plan as `plan.toml:NAME`.
        models: The request models of the chart that takes them over.

    Raises:
        RequestError: There is no such chart, or it tells nothing of its looks.
    """
    if _IN_PLAN not in like:
        looks = looks_in(with_current_names(traced(Path(like)).asked), models)
        return {name: tuple(value) if isinstance(value, list) else value for name, value in looks.items()}
    plan, _, name = like.partition(_IN_PLAN)
    looks = looks_in(with_current_names(_entry(Path(f"{plan}.toml"), name)), models)
    known: dict[str, Entry] = {entry.name: entry for model in models for entry in entries(model)}
    try:
        return {key: value_of(known[key], value) for key, value in looks.items()}
    except ValueError as error:
        raise RequestError(f"{option('like')} {like}: a look {error}.", "Mend it in the plan.") from None


def _entry(plan: Path, name: str) -> Mapping[str, Any]:
    """A chart of a plan, with the plan's defaults under what it says itself."""
    try:
        content = tomllib.loads(plan.read_text("utf-8-sig"))
    except (OSError, UnicodeDecodeError) as error:
        raise RequestError(f"{option('like')}: {plan} cannot be read: {reason_of(error)}.", "Name another.") from None
    except tomllib.TOMLDecodeError as error:
        raise RequestError(f"{option('like')}: {plan} is no TOML: {error}.", "Mend it there.") from None
    charts = {name_of(one, Product.CHART, place): one for place, one in enumerate(content.get("chart", []))}
    if name not in charts:
        raise RequestError(f"{option('like')}: {plan} has no chart `{name}`.", nearest(name, list(charts)))
    defaults = {key: value for key, value in content.get("defaults", {}).items() if not isinstance(value, dict)}
    return {**defaults, **charts[name]}
