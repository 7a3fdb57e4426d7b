"""Questions with the same answers, put together."""

from grainstack.errors import RequestError
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.speech import option
from grainstack.summary.request import SummaryRequest


def check_items(requests: Requests) -> None:
    """Refuses figures in which the answers of one person to several questions would be added together.

    Raises:
        RequestError: Nothing is shown by question.
    """
    columns = requests[RecordsRequest].item_columns
    if columns is None or columns[0] in requests[SummaryRequest].dimensions:
        return
    name = columns[0]
    raise RequestError(
        f"The answers to several questions would be added together: nothing is shown by {name}.",
        f"Show them {option('by', name)}, {option('split', name)} or {option('panel', name)}.",
    )
