"""Grain Stack: from categorical records to honest, report-ready charts."""

__version__ = "0.1.0"
