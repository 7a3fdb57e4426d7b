"""Grain Stack: from categorical records to honest, report-ready charts.

`import grainstack as gs`, then `gs.bar("survey.csv", by="route", measure="wait")` gives a chart that shows itself in a
notebook, and that `.save("wait.svg")` writes; `gs.table`, `gs.dot`, `gs.pie`, `gs.treemap` and `gs.distribution` alike.
Data are a path, an address, a table of any library that speaks Arrow, or a dictionary of columns.
"""

from importlib import import_module

__version__ = "0.1.0"
__all__ = ["Error", "Result", "__version__", "bar", "distribution", "dot", "pie", "table", "treemap"]


def __getattr__(name: str) -> object:
    """What the first call needs is loaded by it, so that the import costs nothing."""
    if name in __all__ and name.islower() and not name.startswith("_"):
        return import_module("grainstack.api.functions").function_named(name)
    if name == "Result":
        return import_module("grainstack.api.results").Result
    if name == "Error":
        return import_module("grainstack.errors").GrainStackError
    raise AttributeError(f"module 'grainstack' has no attribute {name!r}")
