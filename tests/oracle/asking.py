"""Random requests, as the plain values that options hold."""

from random import Random
from typing import Any

Wanted = dict[str, Any]

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
FILTERS: tuple[Wanted, ...] = (
    {"only": ("region=1,South",)},
    {"only": ("town=Ald,Bren", "grade=low,high")},
    {"except_": ("grade=middling",)},
    {"except_": ("region=9",)},
    {"where": "x > 3"},
    {"where": "NOT (town = 'Ald')"},
    {"where": "y IS NULL OR y <= 6"},
)
RECODES = {"region": "region: North, South -> Coast; West -> Hills", "town": "town: Ald, Bren -> Ab"}
NETS = {"grade": "grade: Outer = low, high", "town": "town: Ab or Cor = Ald, Cor"}
NOT_OF_PARTS = (  # what parts of a whole cannot be asked for
    *("split", "totals", "order", "drop_rest", "split_keep_top", "stat", "per"),
    *("cluster", "strata", "population"),
)
EDGES = (("10", "10"), ("0,5,20", "0,5,20"), ("under,0,12,over", "under,0,12,over"))


def random_request(random: Random) -> Wanted:
    """A request of a table of survey records; it may be one that has to be refused."""
    request: Wanted = {}
    long = random.random() < 0.15
    columns = [*CATEGORIES, *(["item"] if long else [])]
    if long:
        answer = random.choice(["score", "answer"])
        request |= {"to_long": "item,score=q1,q2,q3"} if answer == "score" else {"items": "item=q1,q2,q3"}
        columns.append(answer)
    random.shuffle(columns)
    by = columns[: random.choice([0, 1, 1, 1, 2])]
    if long and "item" not in by:
        by = ["item", *by[:1]]
    rest = [name for name in columns if name not in by]
    request["by"] = tuple(by)
    if random.random() < 0.45:
        request["split"] = rest.pop()
    if random.random() < 0.15:
        request["panel"] = rest.pop()
    used = {*by, request.get("split"), request.get("panel")}
    request |= _figures(random, [name for name in ("x", "y") if name not in used])
    request |= _records(random, used)
    request |= _design(random, times=random.random() < 0.12)
    if "items" in request and not {"split", "measure"} & set(request) and "answer" not in used:
        request["split"] = "answer"  # it goes without saying
    shown = {*by, request.get("split"), request.get("panel")}
    if "used" in shown:
        request["answers"] = ("used=cafe,deck,shop",)
    several = len(shown & set(SEVERAL))
    several += "base" in request or "panel" in request
    blurred = several > 1 or (several > 0 and "measure" in request)  # what is largest is then a matter of taste
    if by and not blurred and random.random() < 0.25:
        request |= {"keep_top": random.randint(1, 3)} | ({"drop_rest": True} if random.random() < 0.4 else {})
    if "split" in request and not blurred and random.random() < 0.15:
        request["split_keep_top"] = random.randint(1, 3)
    return request | _arranged(random, shown)


def _arranged(random: Random, shown: set[Any]) -> Wanted:
    request: Wanted = {}
    if random.random() < 0.3:
        request["order"] = random.choice(["largest-first", "smallest-first", "alphabetical", "reverse: largest-first"])
    if random.random() < 0.2:
        request["totals"] = True
    netted = [net for name, net in NETS.items() if name in shown and random.random() < 0.25]
    if netted:
        request["net"] = tuple(netted)
    return request


def _figures(random: Random, measures: list[str]) -> Wanted:
    request: Wanted = {}
    if measures and random.random() < 0.2:
        measures = ["z"]
    if measures and random.random() < 0.6:
        random.shuffle(measures)
        request["measure"] = tuple(measures[: random.choice([1, 1, 2])])
        request["stat"] = tuple(random.sample(STATISTICS, random.choice([1, 1, 2])))
        if "rate" in request["stat"]:
            request |= {"measure": ("x",), "per": "y"}
        if "z" in request["measure"]:
            request["compute"] = ("z = CASE WHEN x > 5 THEN x * 2 - y ELSE 1 END",)
    else:
        request["stat"] = random.choice([("count",), ("share",), ("share", "count")])
    if "share" in request["stat"] and random.random() < 0.5:
        request["base"] = random.choice(["category", "series", "panel", "all"])
    if random.random() < 0.15:
        request["level"] = random.choice([80.0, 99.0])
    return request


def _records(random: Random, used: set[Any]) -> Wanted:
    request: Wanted = {}
    if random.random() < 0.35:
        request |= random.choice(FILTERS)
    bands = {name: random.choice(EDGES)[0] for name in ("x", "y") if name in used and random.random() < 0.8}
    if bands:
        request["band"] = tuple(f"{name}={how}" for name, how in bands.items())
        if random.random() < 0.3:
            request["band_closed"] = "right"
    recoded = [rule for name, rule in RECODES.items() if name in used and random.random() < 0.3]
    if recoded:
        request["recode"] = tuple(recoded)
    if random.random() < 0.3:
        request["missing"] = "show"
    return request


def _design(random: Random, *, times: bool) -> Wanted:
    if times:
        return {"times": "times"} | ({"error_bars": "confidence"} if random.random() < 0.5 else {})
    request: Wanted = {}
    if random.random() < 0.5:
        request["weight"] = "weight"
    if random.random() < 0.4:
        request["cluster"] = ("cluster",)
        if random.random() < 0.7:
            request["strata"] = "stratum"
            if random.random() < 0.6:
                request["population"] = ("population",)
                if random.random() < 0.3:
                    request |= {"cluster": ("cluster", "house"), "population": ("population", "houses")}
    return request


def random_chart(random: Random) -> tuple[str, Wanted, Wanted]:
    """A chart of survey records: its kind, what is asked, and the table whose figures it has to draw."""
    kind = random.choice(["bar", "bar", "dot", "pie", "treemap"])
    request = random_request(random)
    for name in ("base", "level"):
        request.pop(name, None)
    table = dict(request)
    if kind in ("pie", "treemap"):
        for one in (request, table):
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
            ):
                one.pop(name, None)
            one["by"] = one["by"][: 1 if kind == "pie" else 2] or ("grade",)
            if "measure" in one:
                one |= {"measure": one["measure"][:1], "stat": ("sum",)}
        table["stat"] = ("sum" if "measure" in table else "count", *(["share"] if kind == "pie" else []))
        return kind, request, table
    if kind == "bar" and random.random() < 0.5:
        layout = random.choice(["percent", "diverging", "stacked", "grouped"])
        request["layout"] = layout
        if layout in ("percent", "diverging") and "measure" not in request:
            request.pop("stat", None)
            table |= {"stat": ("share",)} | (
                {"base": "category"} if request.get("split") or layout == "diverging" else {}
            )
        elif layout == "percent" and request["stat"] == ("sum",) and len(request["measure"]) == 1:
            table |= {"stat": ("share",)} | ({"base": "category"} if request.get("split") else {})
    return kind, request, table


def random_change(random: Random) -> Wanted:
    """A request of two columns whose figures are told as they change, or are tested."""
    request: Wanted = {"by": ("town",), "split": random.choice(["region", "grade"])} | _design(random, times=False)
    request |= random.choice([{"measure": ("x",), "stat": ("mean",)}, {"stat": ("share",)}])
    if random.random() < 0.3:
        request |= random.choice(FILTERS)
    if random.random() < 0.4:
        return request | {"compare": "pairs"}
    kind = random.choice(["difference", "percent", "index", "ratio"])
    return request | {"relative_to": random.choice(["previous", "first"]), "as_": kind}


def random_given(random: Random) -> Wanted:
    """A request of figures that are summed up already."""
    request: Wanted = {"by": ("town",), "split": "grade", "value": "value"}
    if random.random() < 0.5:
        request |= {"stat": ("share",)} | (
            {"base": random.choice(["category", "series", "all"])} if random.random() < 0.6 else {}
        )
    request["value_is"] = random.choice(["count", "sum", "share"])
    if random.random() < 0.3:
        request |= {"keep_top": random.randint(1, 3)} | ({"drop_rest": True} if random.random() < 0.5 else {})
    if random.random() < 0.3:
        request["only"] = ("grade=low,high",)
    return request
