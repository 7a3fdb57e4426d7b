"""What fuzzing begins with: inputs of every target that are right, and some that were wrong once."""

_SHEET = (
    '<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'
    '<row r="1"><c r="A1" t="inlineStr"><is><t>route</t></is></c><c r="B1" t="inlineStr"><is><t>n</t></is></c></row>'
    '<row r="2"><c r="A2" t="str"><v>app</v></c><c r="B2"><v>1.5</v></c></row>'
    '<row r="3"><c r="A3" t="b"><v>1</v></c><c r="B3" t="e"><v>#N/A</v></c></row></sheetData></worksheet>'
)
SEEDS: dict[str, tuple[str, ...]] = {
    "csv": (
        "route,n\nPell,1\nOsk,2\n",
        'a;b\n"x;""y";1,5\n;\n',
        "\ufeffé\tb\r\n1\t2\r\n",
        "a\n" + "x" * 3000 + "\n",
        "a,a\n1,2\n",
        "\r1xxxx\r\rx",
    ),
    "jsonl": (
        '{"a": 1, "b": "x"}\n{"a": null}\n',
        '{"a": [1, 2], "b": {"c": "\\ud83d"}}\n',
        '{"a": 1e400}\n{"a": "\\u0000"}\n',
    ),
    "spreadsheet": (_SHEET, _SHEET.replace("A2", "XFD1048576"), _SHEET.replace("B3", "B" + "3" * 60)),
    "codebook": (
        '[variables.route]\nlabel = "Route"\nkind = "category"\n[variables.route.levels]\n1 = "Pell"\n2 = "Osk"\n',
        '[records]\nnoun = "visits"\nkind = "sample"\n[design]\nweight = "age"\n[defaults]\nlanguage = "de"\n',
        '[variables.age]\nmissing = [999]\nbands = "under,18,65,over"\nrange = [0, 99]\n',
    ),
    "style": (
        'base = "print"\n[type]\ntitle = 12\n[colors]\nink = "#111111"\n[palettes]\nnominal = ["#336699", "#cc8800"]\n',
    ),
    "plan": (
        '[records]\nfile = "records.csv"\n[params]\ny = 1\n[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\n',
        (
            '[records]\nfile = "records.csv"\n[[table]]\nby = "route"\n'
            '[report]\ntitle = "{{a: mean}}"\n[[report.part]]\nshow = "x"\n'
        ),
    ),
    "condition": (
        "age > 18 and ticket <> 'app'",
        "route in (1, 2) or not (wait between 0 and 5)",
        "ticket like 'a%' and when >= '2025-01-01'",
        "age in ()",
        "((((age > 1))))",
    ),
    "formula": (
        "wait * 2 + age",
        "CASE WHEN age > 30 THEN 1 ELSE 0 END",
        "round(wait / 0, 2)",
        "coalesce(wait, 0)",
        "year(when)",
        "wait * 2e",
        "wait * 1e999",
    ),
    "pattern": ("#,##0.00", "€#,##0", "0 %", "0E0", "'x'#;(#)", "@" * 37 + "0", "0." + "0" * 40),
    "references": (
        "{{wait: mean, Dunmar}}",
        "a {{x}} {{y: share, A, B | 0.0}} {{{z}}}",
        "{{w: mean, route=1, format=0.0}}",
    ),
    "labels": ("Pell Isle", "<b>&amp;\n\t", "\x1b[31m\u202eabc", "=1+1", "🙂 السلام", "🂙�'�لس�&ام", "a -> b; c"),
    "band": ("age=10", "age=0,18,65", "x: age=under,18,over", "when=month", "wait=auto", "age=0.001"),
    "recode": ("route: 1, 2 -> North; 3 -> South", "ticket: app -> 'x, y'", "a -> b"),
    "net": ("route: North = 1, 2", "ticket: Online = app, web", "x = y"),
    "only": ("route=1,2", "ticket='app'", "=", "route="),
    "items": ("which=age,wait", "a,b=c", "x=a*"),
    "to_long": ("which,minutes=age,wait", "a=b", "x,y=age..when"),
    "order": ("largest-first", "reverse: alphabetical", "1, 2", "largest-first: app", ","),
    "in_cell": ("count (base)", "share [limits]", "mean", "p75 (((", "letters error"),
    "color": ("app=#cc0000", "web=red", "=", "app=#12"),
    "value_range": ("0,100", "-1e300,1e300", "5,5", "nan,1", "1"),
    "odd": ("a", "bc"),
    "commands": ("\0\0", "\1\0\x10\1\x20\2", "\2\1\x30\5", "\3\0\7\x08\x11\x12", "\4\3abcdefgh"),
}
