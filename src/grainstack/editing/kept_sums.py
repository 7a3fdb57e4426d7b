"""Sums of records, kept by what they are of: another look, order, form, base or statistic reads nothing."""

from collections.abc import Callable

from msgspec.structs import replace

from grainstack.errors import GrainStackError, RequestError
from grainstack.making.make import Begun, read_into
from grainstack.records.opened import Opened
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.partial import Partial
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator, needs_of

_MOST = 12  # sums: going back and forth reads nothing


class StoppedError(GrainStackError):
    """Reading was stopped, by somebody or for a later change."""


class KeptSums:
    """The sums of one sitting."""

    def __init__(self) -> None:
        self._kept: list[tuple[RecordsRequest, Partial]] = []

    def forget(self) -> None:
        """Keeps none: the records are others now."""
        self._kept.clear()

    def known(self, requests: Requests) -> Partial | None:
        """The sums that serve a request; None where the records must be read for it.

        Args:
            requests: The request, settled.
        """
        records, summary = requests[RecordsRequest], requests[SummaryRequest]
        for place, (of_records, partial) in enumerate(self._kept):
            if of_records == records and (serving := partial.serving(summary)):
                self._kept.append(self._kept.pop(place))
                return serving
        return None

    def read(self, one: Begun, opened: Opened, report_rows: Callable[[int], None]) -> Partial:
        """The sums of what is begun, read with what its likeliest changes need besides.

        Args:
            one: What is begun.
            opened: Its records.
            report_rows: Told how many rows were read each time some were; it may stop the reading.

        Raises:
            RecordsError: Records that cannot be read.
            StoppedError: Whatever it raises.
        """
        summary = one.requests[SummaryRequest]
        partial = Partial(one.partial.view, Accumulator(_with_likely_changes(summary)))
        read_into([partial], opened, report_rows)
        self._kept.append((one.requests[RecordsRequest], partial))
        del self._kept[:-_MOST]
        serving = partial.serving(summary)
        if serving is None:
            raise AssertionError(summary)
        return serving


def _with_likely_changes(summary: SummaryRequest) -> SummaryRequest:
    """A request whose sums serve counts and shares alike, or a mean with limits and without."""
    if summary.value or summary.base == "measures":
        return summary
    try:
        if not summary.measure and set(summary.stat) <= {"count", "share"}:
            likely = replace(summary, stat=("count", "share"))
        elif summary.spread.error_bars == "none":
            likely = replace(summary, spread=replace(summary.spread, error_bars="confidence"))
        else:
            return summary
    except RequestError:
        return summary
    wider = Accumulator(likely).serving(summary) is not None and needs_of(likely) == needs_of(summary)
    return likely if wider else summary
