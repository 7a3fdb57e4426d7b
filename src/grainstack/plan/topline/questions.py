"""The questions of some records: which columns are questions, of what form, and which belong together."""

from collections.abc import Iterator, Sequence
from enum import StrEnum
from fnmatch import fnmatchcase

from msgspec import Struct
from msgspec.structs import replace

from grainstack.language import phrase
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.codebook.draft import Finding, drafted
from grainstack.records.variable import Kind
from grainstack.summary.profile import Profile, profile_with

_STEPS = 3  # answers that a scale has at least: of yes and no, many columns have nothing to do with each other
_MOST_LEVELS = 60  # of more categories, nobody reads a chart: they are counted like open answers


class Form(StrEnum):
    """What a question asks for."""

    CATEGORIES = "categories"
    SEVERAL = "several answers"
    SCALE = "items of one scale"
    BANDS = "a number in bands"
    NUMBER = "a number"
    TEXT = "words"


class Question(Struct, frozen=True):
    """A question, or several that share one scale.

    Attributes:
        form: What it asks for.
        columns: Its columns: several for items of one scale alone.
        labels: What each is called.
        wording: The words in which it was asked; empty where nobody noted them.
        levels: How many answers there are to choose from.
        ordered: Whether they run from low to high.
        answers: Columns of 0 and 1 that make it up; empty where it is a column itself.
    """

    form: Form
    columns: tuple[str, ...]
    labels: tuple[str, ...]
    wording: str = ""
    levels: int = 0
    ordered: bool = False
    answers: tuple[str, ...] = ()

    def settled(self) -> "Question":
        """The same, where of several items one is left."""
        alone = self.form is Form.SCALE and len(self.columns) == 1
        return replace(self, form=Form.CATEGORIES) if alone else self


def questions_of(
    profiles: Sequence[Profile], codebook: Codebook, records: int
) -> tuple[list[Question], list[tuple[str, str]]]:
    """The questions in the order of the codebook, then of the records, and what was left out of them, with the reason.

    Args:
        profiles: What is in each column.
        codebook: What is known of them.
        records: How many records there are.
    """
    decimal = profiles[0].decimal if profiles else "."
    known = {one.name: one for one in profiles}
    parts = {name for variable in codebook.variables.values() for name in variable.columns}
    names = [name for name, variable in codebook.variables.items() if name in known or variable.columns]
    names += [name for name in known if name not in names]
    found: list[Question] = []
    left_out: list[tuple[str, str]] = []
    scales: dict[str, tuple[str, ...]] = {}
    for name in names:
        codebook_variable = codebook.variable(name)
        if name in parts:
            continue
        if codebook_variable.columns:
            if set(codebook_variable.columns) <= set(known):
                label = codebook_variable.label or name
                answers = len(codebook_variable.columns)
                found.append(
                    Question(
                        Form.SEVERAL,
                        (name,),
                        (label,),
                        codebook_variable.question,
                        answers,
                        answers=codebook_variable.columns,
                    )
                )
            continue
        profile = known[name]
        if not codebook_variable.kind and not codebook_variable.levels:
            codebook_variable = _with_kind(codebook_variable, profile, decimal)
        seen = profile_with(profile, codebook_variable)
        reason = _reason(name, seen, codebook, records)
        if reason:
            left_out.append((name, reason))
            continue
        found.append(_question(codebook_variable, seen))
        scales[name] = tuple(level.label for level in codebook_variable.levels) or tuple(
            sorted(code for code, _ in seen.levels)
        )
    return list(_together(found, scales)), left_out


def chosen(questions: Sequence[Question], only: Sequence[str], leave_out: Sequence[str]) -> list[Question]:
    """The questions that are wanted; of items of one scale those that are.

    Args:
        questions: All of them.
        only: The columns that are wanted; all where none is named.
        leave_out: The columns that are not.
    """
    found = []
    for one in questions:
        kept = [place for place, name in enumerate(one.columns) if name not in leave_out and (not only or name in only)]
        if kept:
            names, labels = (tuple(texts[place] for place in kept) for texts in (one.columns, one.labels))
            found.append(replace(one, columns=names, labels=labels).settled())
    return found


def _with_kind(codebook_variable: CodebookVariable, profile: Profile, decimal: str) -> CodebookVariable:
    """What is said of a column, with the kind its values suggest where the codebook says none."""
    finding = Finding(profile.name, profile.kind, dict(profile.levels), profile.no_answer)
    guess = drafted([finding], decimal).variables[profile.name]
    return replace(
        codebook_variable, kind=guess.kind, levels=guess.levels, missing=codebook_variable.missing or guess.missing
    )


def _reason(name: str, seen: Profile, codebook: Codebook, records: int) -> str:
    """Why a column is no question; empty if it is one."""
    design = codebook.design
    names = {design.weight, design.strata, *design.cluster, *design.population}
    if name in names or any(fnmatchcase(name, pattern) for pattern in _patterns(design.replicates)):
        return phrase("weights and design")
    if seen.kind is Kind.DATE:
        return phrase("dates")
    if not seen.levels:
        return phrase("no answers")
    if len(seen.levels) == 1 and seen.kind is not Kind.TEXT:
        return phrase("one answer only")
    if (
        not seen.missing
        and seen.different == records > _MOST_LEVELS
        and not any(" " in code for code, _ in seen.levels)
    ):
        return phrase("a different one for each record, as identifiers have")
    return ""


def _patterns(replicates: str | Sequence[str]) -> list[str]:
    """The patterns of columns of replicate weights."""
    texts = [replicates] if isinstance(replicates, str) else list(replicates)
    return [part.strip() for text in texts for part in text.split(",") if part.strip()]


def _question(codebook_variable: CodebookVariable, seen: Profile) -> Question:
    """A column as a question."""
    forms = {
        Kind.MULTI: Form.SEVERAL,
        Kind.NUMBER: Form.BANDS if codebook_variable.bands else Form.NUMBER,
        Kind.TEXT: Form.TEXT,
    }
    form = forms.get(seen.kind, Form.CATEGORIES)
    if form is Form.CATEGORIES and seen.different > _MOST_LEVELS:
        form = Form.TEXT
    label = codebook_variable.label or codebook_variable.name
    return Question(
        form,
        (codebook_variable.name,),
        (label,),
        codebook_variable.question,
        len(seen.levels),
        seen.kind is Kind.ORDERED,
    )


def _together(questions: Sequence[Question], scales: dict[str, tuple[str, ...]]) -> Iterator[Question]:
    """Questions with one scale that stand beside each other as one."""
    waiting: list[Question] = []
    for one in (*questions, None):
        alike = one is not None and _is_item(one) and (not waiting or _same_scale(waiting[-1], one, scales))
        if not alike and waiting:
            yield _joined(waiting)
            waiting = []
        if one is not None and _is_item(one):
            waiting.append(one)
        elif one is not None:
            yield one


def _is_item(one: Question) -> bool:
    return one.form is Form.CATEGORIES and one.levels >= _STEPS


def _same_scale(one: Question, other: Question, scales: dict[str, tuple[str, ...]]) -> bool:
    return scales[one.columns[0]] == scales[other.columns[0]] and one.ordered == other.ordered


def _joined(items: Sequence[Question]) -> Question:
    """One question of several, or the only one as it is."""
    if len(items) == 1:
        return items[0]
    wordings = {one.wording for one in items}
    return replace(
        items[0],
        form=Form.SCALE,
        columns=tuple(one.columns[0] for one in items),
        labels=tuple(one.labels[0] for one in items),
        wording=wordings.pop() if len(wordings) == 1 else "",
    )
