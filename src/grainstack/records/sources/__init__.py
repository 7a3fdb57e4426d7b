"""One file per format family. Each gives its rows as Arrow record batches of the columns asked for."""

from grainstack.records.source import Source
from grainstack.records.sources.choosing import open_source

__all__ = ["Source", "open_source"]
