"""What a chart or table of a report is called where its own picture does not say it."""

from msgspec.structs import replace

from grainstack.chart.request import WordsRequest
from grainstack.chart.writing.wording import default_title, figures_title
from grainstack.language import in_words, phrase
from grainstack.making.kind import Product
from grainstack.making.make import Made


def title_of(made: Made) -> str:
    """The title of a chart as it stands in the picture, and what a table shows by what.

    Args:
        made: The chart or table.
    """
    if made.kind.product is Product.CHART and (title := made.picture().title):
        return title
    tables = [table for _, table in made.blocks] or [made.table]
    splits = list(dict.fromkeys(table.series.variable.in_sentence for table in tables if table.series is not None))
    if len(splits) < 2:
        return default_title(made.table)
    categories = [one.variable.in_sentence for one in made.table.categories]
    return f"{figures_title(made.table.shown)}{phrase(' by {names}', names=in_words([*categories, *splits]))}"


def plain(made: Made) -> Made:
    """A chart without its title, for documents that write it themselves.

    Args:
        made: The chart.
    """
    words = replace(made.requests[WordsRequest], title="none")
    return replace(made, requests=made.requests.having(words))
