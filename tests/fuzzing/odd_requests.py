"""Requests that somebody could mean, of records that are few and odd: groups of one, values all alike, huge or missing.

Where bytes make a command line, most of it is refused for one of its words; here most words fit what they belong to.
"""

from random import Random

from grainstack.cli.failing import option_for
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import Entry, entries
from tests.fuzzing.commands import LEFT_OUT
from tests.oracle.asking import STATISTICS

_NAMES = ("route", "ticket", "year", "age", "wait", "when", "facilities", "w", "unit", "area")
_ANSWERS = (
    ("app", "desk", "web"),
    ("low", "high"),
    ("yes", "no"),
    ("only",),
    ("1", "2", "3", "4", "5"),
    ("never", "sometimes", "often"),
)
_COLUMNS = {
    "by": ("route", "ticket", "year", "facilities", "age", "when"),
    "split": ("ticket", "year", "route", "facilities", "when"),
    "panel": ("ticket", "year", "area"),
    **dict.fromkeys(("measure", "per", "second_measure"), ("age", "wait")),
    "weight": ("w",),
    "cluster": ("unit",),
    "strata": ("area",),
    "answers": ("facilities",),
}
_VALUES = {
    "keep_top": ("1", "2", "5"),
    "split_keep_top": ("1", "2"),
    "band": ("age=2", "age=0,3,5", "wait=auto", "when=month", "age=under,2,over", "when=year"),
    "only": ("route=R0", "ticket=app,desk", "year=2021,2022"),
    "except_": ("route=R1", "ticket=app"),
    "where": ("age > 2", "wait IS NULL", "year >= 2022"),
    "recode": ("route: R0, R1 -> North", "ticket: app -> App"),
    "net": ("route: North = R0, R1",),
    "compute": ("z = age / wait", "z = age + 1"),
    "relative_to": ("previous", "first", "R0", "2021"),
    "compare": ("pairs", "rest", "R0"),
    "order": ("largest-first", "smallest-first", "codebook", "reverse: codebook", "R1, R0"),
    "split_order": ("largest-first", "codebook"),
    "label": ("value", "share", "count", "base", "name,value", "none", "value,base"),
    "min_base": ("1", "5", "30"),
    "format": ("#,##0.0", "0%"),
    "confidence": ("90", "99", "50"),
    "value_range": ("0,100", "-1,3", "2,8", "from-zero"),
    "to_long": ("item,score=age,wait",),
    "items": ("item=age,wait",),
    "color": ("app=#cc0000", "R0=#112233"),
    "highlight": ("R0", "app"),
    "opposite": ("app", "no", "low"),
    "touch": ("bars: color=#555", "Dunmar: bold", "no colon", "names: offset=1e3 x"),
    "span": ("Spring, Summer: x", "Dunmar", ","),
    "bracket": ("Spring, Summer", "Dunmar", "a, b, c, d"),
    "annotation": ("Dunmar: x", "no colon", "top-left: " + "y" * 300),
    "reference": ("wait: mean", "2"),
    "size": ("9cm x 6cm", "1280x800px", "300x200px"),
    "stat": STATISTICS,
    "repeats": ("50",),
    "population": ("1000",),
}
_NUMBERS = (
    ("0", "1", "2", "3", "4", "5"),
    ("7",),
    ("0", "0", "0", "1"),
    ("-9", "-3", "0", "3"),
    ("1000000000000", "350000000000000.0", "12"),
    ("1e-9", "3e-10"),
    ("", "", "", "2"),
    ("0.25", "5.125", "9.5"),
)
_OTHERS = ("1", "2", "0.5", "R0", "app", "age", "10")


def odd_records(random: Random) -> str:
    """Records as CSV: one to eighty of them."""
    routes = [f"R{place}" for place in range(random.choice((1, 2, 3, 6)))]
    answers = random.choice(_ANSWERS)
    numbers = random.choice(_NUMBERS)
    years = ("2021", "2022", "2023", "2024", "2025")[: random.choice((1, 2, 3, 5))]
    lines = [",".join(_NAMES)]
    for _ in range(random.choice((1, 2, 3, 5, 8, 12, 30, 80))):
        date = f"202{random.randint(3, 5)}-{random.randint(1, 12):02d}-{random.randint(1, 28):02d}"
        fields = [random.choice(one) if random.random() > 0.05 else "" for one in (routes, answers)]
        fields += [random.choice(years), random.choice(numbers), random.choice(numbers)]
        fields += [date if random.random() > 0.05 else ""]
        fields += [";".join(random.sample(["cafe", "deck", "bar"], random.randint(0, 3)))]
        fields += [random.choice(("1", "1", "2.5", "0.3", "0")), str(random.randint(1, 6)), str(random.randint(1, 3))]
        lines.append(",".join(fields))
    return "\n".join(lines) + "\n"


def odd_request(random: Random) -> list[str]:
    """A command line for `records.csv`."""
    kind = kind_named(random.choice(list(KINDS)))
    options = {one.name: one for model in kind.models for one in entries(model) if one.name not in LEFT_OUT}
    wanted = [random.choice(list(options.values())) for _ in range(random.choice((0, 1, 1, 2, 2, 3, 4, 6)))]
    parts = (("by", 0.95), ("by", 0.15), ("split", 0.4), ("measure", 0.6), ("stat", 0.5))
    usual = [options[name] for name, often in parts if name in options and random.random() < often]
    given = dict.fromkeys(one.name for one in wanted if one not in usual)
    words = [kind.name, "records.csv"]
    for entry in [*usual, *(options[name] for name in given)]:
        words += [option_for(entry.name), *_value(entry, random)]
    return words


def _value(entry: Entry, random: Random) -> list[str]:
    """What stands after an option; nothing after a switch."""
    if entry.default is False:
        return []
    columns = _NAMES if "COLUMN" in entry.word.metavar else ()
    values = _COLUMNS.get(entry.name) or _VALUES.get(entry.name) or entry.word.choices or columns or _OTHERS
    return [random.choice(list(values))]
