"""The language of a plan: its entries and its report speak the same one."""

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from grainstack.language import ENGLISH, LANGUAGES, language_of
from grainstack.plan.file.plan import PlanEntry
from grainstack.summary.options import LanguageRequest


class Spoken(Struct, frozen=True):
    """A language that is spoken somewhere in a plan.

    Attributes:
        language: One of `LANGUAGES`.
        where: The first place that speaks it, for messages.
    """

    language: str
    where: str


def report_tag(content: Mapping[str, Any]) -> str:
    """The language tag that a plan gives its report; empty for none.

    Args:
        content: The plan.
    """
    report = content.get("report", {})
    tag = report.get("language", "") if isinstance(report, dict) else ""
    return tag if isinstance(tag, str) else ""


def languages_spoken(entries: Sequence[PlanEntry], tag: str, at_report: str) -> list[Spoken]:
    """The languages of a plan, each with the first place that speaks it; English alone where nothing is said.

    Args:
        entries: Its entries.
        tag: The language tag of its report; one that has no catalogue is spoken by nobody.
        at_report: The place of the report.
    """
    places = [(entry.requests[LanguageRequest].language or ENGLISH, entry.where) for entry in entries]
    if tag.partition("-")[0].lower() in LANGUAGES:
        places.append((language_of(tag), at_report))
    first: dict[str, str] = {}
    for language, where in places:
        first.setdefault(language, where)
    return [Spoken(language, where) for language, where in first.items()] or [Spoken(ENGLISH, "")]
