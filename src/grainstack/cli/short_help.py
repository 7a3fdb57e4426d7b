"""What the short help of each command shows: the options most used, in the order people reach for them, and examples.

The examples are made for the demo data.
"""

_CHART = ("by", "split", "measure", "stat", "order", "keep_top", "label", "title", "out")

MOST_USED: dict[str, tuple[str, ...]] = {
    "build": ("only", "param", "list", "out"),
    "look": ("rows", "codebook", "sheet", "header_row", "query"),
    "codebook": ("out", "codebook", "sheet", "header_row", "query"),
    "derive": ("band", "recode", "labels", "to_long", "only", "where", "out"),
    "table": (
        "by",
        "split",
        "measure",
        "stat",
        "base",
        "totals",
        "items",
        "net",
        "error_bars",
        "letters",
        "in_cell",
        "out",
    ),
    "bar": (*_CHART[:4], "layout", "error_bars", *_CHART[4:]),
    "dot": (*_CHART[:4], "error_bars", *_CHART[4:]),
    "pie": ("by", "measure", "ring", "set_apart", "keep_top", "label", "title", "out"),
    "treemap": ("by", "measure", "color_by", "root_label", "keep_top", "label", "title", "out"),
    "distribution": ("measure", "by", "form", "value_range", "reference", "title", "out"),
    "weigh": ("target", "weight", "lowest", "highest", "weight_name", "recode", "out"),
    "palettes": ("style", "size", "out"),
    "demo": (),
}

EXAMPLES: dict[str, tuple[str, ...]] = {
    "build": ("plan.toml --only tickets", "plan.toml --list --param year=2024"),
    "look": ("passengers.csv", "costs.csv --rows 0"),
    "codebook": ("passengers.csv", "passengers.csv --codebook codebook.toml"),
    "derive": (
        "passengers.csv --band age=10 --labels --out labelled.csv",
        "passengers.csv --only season=summer --out summer.parquet",
    ),
    "table": (
        "passengers.csv --by route --measure wait --letters",
        "passengers.csv --by route --split ticket --split season --stat share",
    ),
    "bar": (
        "passengers.csv --by route --split ticket --layout percent",
        "passengers.csv --by route --measure wait --error-bars confidence --out wait.png",
    ),
    "dot": (
        "passengers.csv --by route --measure wait --stat mean --stat median",
        "passengers.csv --by ticket --measure age --error-bars confidence --out age.svg",
    ),
    "pie": ("passengers.csv --by ticket", "passengers.csv --by ticket --ring --out ticket.png"),
    "treemap": (
        "costs.csv --by department --by item --measure amount",
        "costs.csv --by department --by item --measure amount --color-by change --out costs.png",
    ),
    "distribution": (
        "passengers.csv --measure wait --by route",
        "passengers.csv --measure wait --by route --form histogram --out wait.png",
    ),
    "weigh": (
        "passengers.csv --target targets.csv --out weighed.csv",
        "passengers.csv --target 'season: Spring=24, Summer=37, Autumn=24, Winter=15' --out weighed.csv",
    ),
    "palettes": ("", "--out palettes.png"),
    "demo": ("demo-out",),
}
