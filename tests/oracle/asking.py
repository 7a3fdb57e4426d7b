"""Random requests, as the plain values that options hold."""

from random import Random
from typing import Any

Asked = dict[str, Any]

CATEGORIES = ("region", "town", "grade", "sources", "used", "x", "y")
SEVERAL = ("sources", "used")  # questions with several answers
STATISTICS = (
    "count",
    "share",
    "sum",
    "mean",
    "median",
    "min",
    "max",
    "sd",
    "variance",
    "iqr",
    "p75",
    "distinct",
    "rate",
)
FILTERS: tuple[Asked, ...] = (
    {"only": ("region=1,South",)},
    {"only": ("town=Ald,Bren", "grade=low,high")},
    {"except_": ("grade=middling",)},
    {"except_": ("region=9",)},
    {"where": "x > 3"},
    {"where": "NOT (town = 'Ald')"},
    {"where": "y IS NULL OR y <= 6"},
)
RECODES = {"region": "region: North, South -> Coast; West -> Hills", "town": "town: Ald, Bren -> Ab"}
NETS = {
    "grade": "grade: Outer = low, high",
    "town": "town: Ab or Cor = Ald, Cor",
    "used": "used: Served = cafe, shop",
    "sources": "sources: A or C = a, c",
}
NOT_OF_PARTS = (  # what parts of a whole cannot be asked for
    *("split", "totals", "order", "drop_rest", "split_keep_top", "stat", "per"),
    *("cluster", "strata", "population"),
)
EDGES = (("10", "10"), ("0,5,20", "0,5,20"), ("under,0,12,over", "under,0,12,over"))


def random_request(random: Random) -> Asked:
    """A request of a table of survey records; it may be one that has to be refused."""
    asked: Asked = {}
    long = random.random() < 0.15
    columns = [*CATEGORIES, *(["item"] if long else [])]
    if long:
        answer = random.choice(["score", "answer"])
        asked |= {"to_long": "item,score=q1,q2,q3"} if answer == "score" else {"items": "item=q1,q2,q3"}
        columns.append(answer)
    random.shuffle(columns)
    by = columns[: random.choice([0, 1, 1, 1, 2])]
    if long and "item" not in by:
        by = ["item", *by[:1]]
    rest = [name for name in columns if name not in by]
    asked["by"] = tuple(by)
    if random.random() < 0.45:
        asked["split"] = rest.pop()
    if random.random() < 0.15:
        asked["panel"] = rest.pop()
    used = {*by, asked.get("split"), asked.get("panel")}
    asked |= _figures(random, [name for name in ("x", "y") if name not in used])
    asked |= _records(random, used)
    asked |= _design(random, times=random.random() < 0.12)
    if "items" in asked and not {"split", "measure"} & set(asked) and "answer" not in used:
        asked["split"] = "answer"  # it goes without saying
    shown = {*by, asked.get("split"), asked.get("panel")}
    if "used" in shown:
        asked["answers"] = ("used=cafe,deck,shop",)
    several = len(shown & set(SEVERAL))
    several += "base" in asked or "panel" in asked
    blurred = several > 1 or (several > 0 and "measure" in asked)  # what is largest is then a matter of taste
    if by and not blurred and random.random() < 0.25:
        asked |= {"keep_top": random.randint(1, 3)} | ({"drop_rest": True} if random.random() < 0.4 else {})
    if "split" in asked and not blurred and random.random() < 0.15:
        asked["split_keep_top"] = random.randint(1, 3)
    cut = bool({"keep_top", "split_keep_top"} & set(asked))  # nets of several answers hold those not shown too
    return asked | _arranged(random, shown - set(SEVERAL) if cut else shown)


def _arranged(random: Random, shown: set[Any]) -> Asked:
    asked: Asked = {}
    if random.random() < 0.3:
        asked["order"] = random.choice(["largest-first", "smallest-first", "alphabetical", "reverse: largest-first"])
    if random.random() < 0.2:
        asked["totals"] = True
    netted = [net for name, net in NETS.items() if name in shown and random.random() < 0.25]
    if netted:
        asked["net"] = tuple(netted)
    return asked


def _figures(random: Random, measures: list[str]) -> Asked:
    asked: Asked = {}
    if measures and random.random() < 0.2:
        measures = ["z"]
    if measures and random.random() < 0.6:
        random.shuffle(measures)
        asked["measure"] = tuple(measures[: random.choice([1, 1, 2])])
        asked["stat"] = tuple(random.sample(STATISTICS, random.choice([1, 1, 2])))
        if "rate" in asked["stat"]:
            asked |= {"measure": ("x",), "per": "y"}
        if "z" in asked["measure"]:
            asked["compute"] = ("z = CASE WHEN x > 5 THEN x * 2 - y ELSE 1 END",)
    else:
        asked["stat"] = random.choice([("count",), ("share",), ("share", "count")])
    if "share" in asked["stat"] and random.random() < 0.5:
        asked["base"] = random.choice(["category", "series", "panel", "all"])
    if random.random() < 0.15:
        asked["confidence"] = random.choice([80.0, 99.0])
    return asked


def _records(random: Random, used: set[Any]) -> Asked:
    asked: Asked = {}
    if random.random() < 0.35:
        asked |= random.choice(FILTERS)
    bands = {name: random.choice(EDGES)[0] for name in ("x", "y") if name in used and random.random() < 0.8}
    if bands:
        asked["band"] = tuple(f"{name}={how}" for name, how in bands.items())
        if random.random() < 0.3:
            asked["band_closed"] = "right"
    recoded = [rule for name, rule in RECODES.items() if name in used and random.random() < 0.3]
    if recoded:
        asked["recode"] = tuple(recoded)
    if random.random() < 0.3:
        asked["missing"] = "show"
    return asked


def _design(random: Random, *, times: bool) -> Asked:
    if times:
        return {"times": "times"} | ({"error_bars": "confidence"} if random.random() < 0.5 else {})
    asked: Asked = {}
    if random.random() < 0.5:
        asked["weight"] = "weight"
    if random.random() < 0.4:
        asked["cluster"] = ("cluster",)
        if random.random() < 0.7:
            asked["strata"] = "stratum"
            if random.random() < 0.6:
                asked["population"] = ("population",)
                if random.random() < 0.3:
                    asked |= {"cluster": ("cluster", "house"), "population": ("population", "houses")}
    return asked


def random_chart(random: Random) -> tuple[str, Asked, Asked]:
    """A chart of survey records: its kind, what is asked, and the table whose figures it has to draw."""
    kind = random.choice(["bar", "bar", "dot", "pie", "treemap"])
    asked = random_request(random)
    for name in ("base", "confidence"):
        asked.pop(name, None)
    table = dict(asked)
    if kind in ("pie", "treemap"):
        for one in (asked, table):
            for name in (
                "split",
                "totals",
                "order",
                "drop_rest",
                "split_keep_top",
                "stat",
                "per",
                "cluster",
                "strata",
                "population",
                "error_bars",
            ):
                one.pop(name, None)
            one["by"] = one["by"][: 1 if kind == "pie" else 2] or ("grade",)
            if "measure" in one:
                one |= {"measure": one["measure"][:1], "stat": ("sum",)}
        table["stat"] = ("sum" if "measure" in table else "count", *(["share"] if kind == "pie" else []))
        return kind, asked, table
    if kind == "bar" and random.random() < 0.5:
        layout = random.choice(["percent", "diverging", "stacked", "grouped"])
        asked["layout"] = layout
        if layout in ("percent", "diverging") and "measure" not in asked:
            asked.pop("stat", None)
            table |= {"stat": ("share",)} | (
                {"base": "category"} if asked.get("split") or layout == "diverging" else {}
            )
        elif layout == "percent" and asked["stat"] == ("sum",) and len(asked["measure"]) == 1:
            table |= {"stat": ("share",)} | ({"base": "category"} if asked.get("split") else {})
    return kind, asked, table


def random_change(random: Random) -> Asked:
    """A request of two columns whose figures are told as they change, or are tested."""
    asked: Asked = {"by": ("town",), "split": random.choice(["region", "grade"])} | _design(random, times=False)
    asked |= random.choice([{"measure": ("x",), "stat": ("mean",)}, {"stat": ("share",)}])
    if random.random() < 0.3:
        asked |= random.choice(FILTERS)
    if random.random() < 0.4:
        return asked | {"compare": "pairs"}
    kind = random.choice(["difference", "percent", "index", "ratio"])
    # only levels with an order of their own have one before
    return asked | {"split": "grade", "relative_to": random.choice(["previous", "first"]), "as_": kind}


def random_given(random: Random) -> Asked:
    """A request of figures that are summed up already."""
    asked: Asked = {"by": ("town",), "split": "grade", "value": "value"}
    if random.random() < 0.5:
        asked |= {"stat": ("share",)} | (
            {"base": random.choice(["category", "series", "all"])} if random.random() < 0.6 else {}
        )
    asked["value_is"] = random.choice(["count", "sum", "share"])
    if random.random() < 0.3:
        asked |= {"keep_top": random.randint(1, 3)} | ({"drop_rest": True} if random.random() < 0.5 else {})
    if random.random() < 0.3:
        asked["only"] = ("grade=low,high",)
    return asked
