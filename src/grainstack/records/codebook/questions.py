"""What a file does not tell of itself, asked one question at a time: the answers make the codebook."""

from collections.abc import Callable, Sequence
from types import MappingProxyType

from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import listed
from grainstack.records.codebook.codebook import LISTED, Codebook, CodebookVariable
from grainstack.records.codebook.draft import Finding, design_guesses, families
from grainstack.records.dates import DAY_FIRST, MONTH_FIRST, date_order
from grainstack.records.kinds import says_no_answer
from grainstack.records.known_orders import good_end
from grainstack.records.numerals import form_of, parsed
from grainstack.records.variable import Kind, Level

YES, NO = "yes", "no"
_SHOWN = 6  # values that tell what a column holds
_FEWEST_STEPS = 3  # of a scale with two ends


class Question(Struct, frozen=True):
    """Something that can be understood in several ways.

    Attributes:
        key: What it is called in a file of decisions: `kind of age`.
        text: The question.
        evidence: What was found in the records.
        choices: The answers there are; empty where any text is one.
        proposed: The likely answer.
    """

    key: str
    text: str
    evidence: str
    choices: tuple[str, ...]
    proposed: str


Ask = Callable[[Question], str]


def asked(codebook: Codebook, known: Codebook | None, findings: Sequence[Finding], decimal: str, ask: Ask) -> Codebook:
    """A drafted codebook in which everything that can be understood in several ways was asked.

    Args:
        codebook: The draft.
        known: A codebook there is already: what it says is not asked again.
        findings: What was found in the records.
        decimal: The sign before decimals as the file shows it.
        ask: Gives the answer to a question, one of its choices.
    """
    known = known or Codebook()
    codebook = _about_records(codebook, known, findings, decimal, ask)
    design = {codebook.design.weight, codebook.design.strata, *codebook.design.cluster}
    alike = {name: listed(names) for names in families(codebook, findings) for name in names}
    ask = _once(ask)
    variables = {}
    for finding in findings:
        mine, drafted = known.variables.get(finding.name), codebook.variables[finding.name]
        called = alike.get(finding.name, finding.name)
        variables[finding.name] = mine or (drafted if finding.name in design else _about(drafted, finding, called, ask))
    variables |= {name: variable for name, variable in known.variables.items() if name not in variables}
    return replace(codebook, variables=MappingProxyType(variables), defaults=known.defaults)


def _about_records(
    codebook: Codebook, known: Codebook, findings: Sequence[Finding], decimal: str, ask: Ask
) -> Codebook:
    """What is asked of all records together: what one is, how numbers and dates are written, the survey's design."""
    nouns = known.nouns or {"*": ask(Question("noun", "What is one row, in the plural?", "", (), "records"))}
    form = next((form for one in findings if (form := form_of(one.counts, decimal)).doubtful), None)
    sign, dates, design = known.decimal or codebook.decimal, known.dates, known.design
    if form is not None and not known.decimal:
        question = f"Has {form.doubtful} thousands or decimals?"
        little, much = "a few and a fraction", "thousands"
        signs = (little, much) if "." in form.doubtful else (much, little)
        evidence = f"with a decimal point it is {signs[0]}, with a decimal comma {signs[1]}"
        sign = "," if ask(Question("decimal", question, evidence, ("point", "comma"), "point")) == "comma" else "."
    doubtful = next((text for one in findings if (text := date_order(one.counts).doubtful)), "")
    if doubtful and not dates:
        dates = ask(Question("dates", f"Does {doubtful} begin with its day or its month?", "", _ORDERS, DAY_FIRST))
    if not design.given():
        for role, name in design_guesses([one.name for one in findings]).items():
            seen = _values(next(one for one in findings if one.name == name))
            if ask(Question(f"{role} is {name}", f"Is `{name}` the {_ROLES[role]}?", seen, (YES, NO), YES)) == YES:
                design = replace(design, **{role: (name,) if role == "cluster" else name})
    return replace(
        codebook, nouns=MappingProxyType(dict(nouns)), kinds=known.kinds, decimal=sign, dates=dates, design=design
    )


_ORDERS = (DAY_FIRST, MONTH_FIRST)
_ROLES = {
    "weight": "weight of each record in a survey",
    "strata": "group that was sampled on its own",
    "cluster": "unit that was drawn, with several records in it",
}


def _once(ask: Ask) -> Ask:
    """Asks each question once: columns that have the same answers share theirs."""
    answers: dict[str, str] = {}

    def answer(question: Question) -> str:
        if question.key not in answers:
            answers[question.key] = ask(question)
        return answers[question.key]

    return answer


def _about(variable: CodebookVariable, finding: Finding, called: str, ask: Ask) -> CodebookVariable:
    """What is asked of a column: codes for no answer, what its numbers are, and which end of a scale is good.

    Args:
        variable: What the draft says of it.
        finding: What was found in it.
        called: The columns that have the same answers, itself among them.
        ask: Gives answers.
    """
    for code in (code for code in finding.no_answer if not says_no_answer(code)):
        text = f"Does {code} in {called} mean `no answer`?"
        evidence = f"{finding.counts[code]:,} records; the others are {_values(finding, without=(code,))}"
        if ask(Question(f"{called} {code} is no answer", text, evidence, (YES, NO), YES)) == NO:
            variable = _with_code(variable, code)
    if finding.kind is Kind.NUMBER and variable.kind in (Kind.ORDERED, Kind.CATEGORY):
        choices = (Kind.ORDERED.value, Kind.CATEGORY.value, Kind.NUMBER.value)
        seen = _values(finding, without=tuple(variable.missing))
        text = f"Are the numbers in {called} steps of a scale, codes of categories, or amounts?"
        kind = Kind(ask(Question(f"kind of {called}", text, seen, choices, variable.kind.value)))
        levels = () if kind is Kind.NUMBER else variable.levels
        variable = replace(variable, kind=kind, levels=levels, order=LISTED)
    steps = [level.label for level in variable.levels]
    of_codes = finding.kind is Kind.NUMBER and variable.kind is Kind.ORDERED  # seasons have no good end
    if of_codes and len(steps) >= _FEWEST_STEPS and not (variable.good or good_end(steps)):
        text = f"Which end of {called} is the good one?"
        evidence = f"first: {steps[0]}; last: {steps[-1]}"
        answer = ask(Question(f"good end of {called}", text, evidence, ("first", "last", "neither"), "neither"))
        variable = replace(variable, good="" if answer == "neither" else answer)
    return variable


def _with_code(variable: CodebookVariable, code: str) -> CodebookVariable:
    """A column in which a code is an answer after all; a level in its place where it has levels."""
    levels = variable.levels
    if levels:
        levels = (*levels, Level(code, code))
        if all(parsed(level.code) is not None for level in levels):
            levels = tuple(sorted(levels, key=lambda level: parsed(level.code) or 0.0))
    return replace(variable, missing=variable.missing - {code}, levels=levels)


def _values(finding: Finding, without: Sequence[str] = ()) -> str:
    codes = [code for code in finding.counts if code not in without]
    if finding.kind is Kind.NUMBER:
        codes.sort(key=lambda code: parsed(code) or 0.0)
        if len(codes) > 2 * _SHOWN:
            return f"{codes[0]} to {codes[-1]}"
    return listed(codes, _SHOWN)
