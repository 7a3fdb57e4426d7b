"""What the short help of each command shows: the options most used, in the order people reach for them, and examples.

The examples are made for the demo data.
"""

_CHART = ("by", "split", "measure", "stat", "order", "keep_top", "label", "title", "out")

MOST_USED: dict[str, tuple[str, ...]] = {
    "build": ("only", "param", "watch", "fresh", "list", "out"),
    "check": ("only", "param", "strict", "json"),
    "changes": ("strict", "json"),
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
    "topline": ("split", "question", "leave_out", "where", "title", "template", "out", "save_plan"),
    "trace": ("plan", "strict", "json"),
    "palettes": ("style", "size", "out"),
    "demo": (),
}

EXAMPLES: dict[str, tuple[str, ...]] = {
    "build": ("build plan.toml --only tickets", "build plan.toml --list --param year=2024"),
    "check": ("check plan.toml", "check plan.toml --only wait --json"),
    "changes": (
        "build plan.toml --only revenue --out 2025",
        "build plan.toml --only revenue --out 2024 --param year=2024",
        "changes 2024 2025",
    ),
    "look": ("look passengers.csv", "look costs.csv --rows 0"),
    "codebook": ("codebook passengers.csv", "codebook passengers.csv --codebook codebook.toml"),
    "derive": (
        "derive passengers.csv --band age=10 --labels --out labelled.csv",
        "derive passengers.csv --only season=summer --out summer.parquet",
    ),
    "table": (
        "table passengers.csv --by route --measure wait --letters",
        "table passengers.csv --by route --split ticket --split season --stat share",
    ),
    "bar": (
        "bar passengers.csv --by route --split ticket --layout percent",
        "bar passengers.csv --by route --measure wait --error-bars confidence --out wait.png",
    ),
    "dot": (
        "dot passengers.csv --by route --measure wait --stat mean --stat median",
        "dot passengers.csv --by ticket --measure age --error-bars confidence --out age.svg",
    ),
    "pie": ("pie passengers.csv --by ticket", "pie passengers.csv --by ticket --ring --out ticket.png"),
    "treemap": (
        "treemap costs.csv --by department --by item --measure amount",
        "treemap costs.csv --by department --by item --measure amount --color-by change --out costs.png",
    ),
    "distribution": (
        "distribution passengers.csv --measure wait --by route",
        "distribution passengers.csv --measure wait --by route --form histogram --out wait.png",
    ),
    "weigh": (
        "weigh passengers.csv --target targets.csv --out weighed.csv",
        "weigh passengers.csv --target 'season: Spring=24, Summer=37, Autumn=24, Winter=15' --out weighed.csv",
    ),
    "topline": (
        "topline passengers.csv --split season --out topline.docx",
        "topline passengers.csv --question ticket --question wait --out topline.pdf --save-plan topline.toml",
    ),
    "trace": (
        "bar passengers.csv --by route --out route.png",
        "trace route.png",
    ),
    "palettes": ("palettes", "palettes --out palettes.png"),
    "demo": ("demo demo-out",),
}
