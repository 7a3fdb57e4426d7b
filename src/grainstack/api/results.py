"""What a call gives back: a table or chart that shows itself, is written to files, and can be asked for a change."""

import os
from collections.abc import Mapping, Sequence
from contextlib import AbstractContextManager
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from grainstack.api.naming import advised
from grainstack.endings import CHART_ENDINGS, TABLE_ENDINGS
from grainstack.language import speaking
from grainstack.making.command_line import command_line
from grainstack.making.kind import Product
from grainstack.plan.file.saving import NewEntry, first_plan
from grainstack.report.output_formats import outputs_of
from grainstack.report.print_request import table_text
from grainstack.report.table_files import figure_rows, figures_as_arrow
from grainstack.requests import Requests
from grainstack.summary.options import LanguageRequest
from grainstack.whole_files import check_targets, write_all

if TYPE_CHECKING:
    from collections.abc import Callable

    import pyarrow as pa

    from grainstack.making.make import Made


class Result:
    """A table or chart.

    Args:
        made: It.
        typed: What was asked, before it was settled.
        files: The files it was made of.
        idle: What was asked for and made no difference, in words.
        again: Makes it again with other values.
    """

    def __init__(
        self,
        made: "Made",
        typed: Requests,
        files: Sequence[str],
        idle: Sequence[str],
        again: "Callable[[Mapping[str, Any]], Result]",
    ) -> None:
        self._made, self._typed, self._files, self._idle = made, typed, tuple(files), tuple(idle)
        self._again = again

    @property
    def advice(self) -> tuple[str, ...]:
        """What to know before it is used: what made no difference, assumptions in reading, and advice."""
        with self._speaking():
            advice = [str(one) for one in self._made.advice]
            return tuple(advised(text) for text in (*self._idle, *self._made.notes, *advice))

    @property
    def figures(self) -> list[dict[str, Any]]:
        """A row for each figure: its levels, estimate, limits, standard error, degrees, base and marks."""
        return figure_rows(self._made)

    @property
    def facts(self) -> tuple[str, ...]:
        """The sentences of its note: base, what was left out, weighting, limits, tests."""
        with self._speaking():
            return self._made.table.provenance.sentences()

    @cached_property
    def table(self) -> "pa.Table":
        """Its figures as an Arrow table, which any library of tables takes over without a copy."""
        return figures_as_arrow(self._made)

    def __arrow_c_stream__(self, requested_schema: object = None) -> object:
        """Its figures, as a capsule."""
        return self.table.__arrow_c_stream__(requested_schema)

    def to_pandas(self) -> Any:  # noqa: ANN401 - of a library that need not be installed
        """Its figures as a DataFrame."""
        return self.table.to_pandas()

    @property
    def command(self) -> str:
        """The command line that makes the same, where records and codebook are files."""
        return command_line(self._made.kind.name, self._files, self._typed)

    @property
    def entry(self) -> str:
        """The plan that makes the same, as TOML, where records and codebook are files."""
        return first_plan(NewEntry(self._made.kind, self._typed))

    def change(self, **values: Any) -> "Result":  # noqa: ANN401 - whatever the call takes
        """A new one with some values changed; None takes one back.

        Args:
            **values: As the function takes them that made this.

        Raises:
            TypeError: A name that the function does not have.
            GrainStackError: What cannot be.
        """
        return self._again(values)

    def save(self, *files: str | os.PathLike[str]) -> "Result":
        """Writes it to files; each ending picks a format.

        Args:
            *files: The files.

        Raises:
            GrainStackError: A format that it has not, or a file that cannot be written; then none is written.
        """
        targets = [Path(os.fspath(file)) for file in files]
        chart = self._made.kind.product is Product.CHART
        inputs = [Path(file) for file in self._files if "://" not in file]
        check_targets(targets, inputs, CHART_ENDINGS if chart else TABLE_ENDINGS)
        write_all(targets, self._written([target.suffix.lower() for target in targets]))
        return self

    def __str__(self) -> str:
        with self._speaking():
            if self._made.kind.product is Product.TABLE:
                return advised(table_text(self._made, None, str))
            scene = self._made.picture()
            return f"{scene.title or self._made.kind.name}\n{scene.alt}"

    def __repr__(self) -> str:
        return f"<grainstack {self._made.kind.name}: {self._made.table.provenance.statistics}>"

    def _repr_mimebundle_(self, **_: object) -> dict[str, str]:
        """What a notebook shows: a chart as SVG, a table as HTML."""
        if self._made.kind.product is Product.TABLE:
            return {"text/html": self._repr_html_() or "", "text/plain": str(self)}
        return {"image/svg+xml": self._repr_svg_() or "", "text/plain": str(self)}

    def _repr_svg_(self) -> str | None:
        """A chart as SVG, with tips and alternative text; None for a table."""
        if self._made.kind.product is Product.TABLE:
            return None
        return self._written([".svg"])[0].decode()

    def _repr_html_(self) -> str | None:
        """A table as a part of a page; None for a chart, which is a picture."""
        if self._made.kind.product is Product.CHART:
            return None
        whole = self._written([".html"])[0].decode()
        start, end = whole.find("<table"), whole.rfind("</table>")
        return whole[start : end + len("</table>")] if start >= 0 else whole

    def _written(self, endings: Sequence[str]) -> tuple[bytes, ...]:
        with self._speaking():
            return outputs_of(self._made, endings).contents

    def _speaking(self) -> AbstractContextManager[None]:
        return speaking(self._typed.usual(LanguageRequest).language)
