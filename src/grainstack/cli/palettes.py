"""`grainstack palettes`: every palette, and how it looks to readers who see colours differently."""

from pathlib import Path

from grainstack.chart.look.style_file import look_of, style_text
from grainstack.chart.palette_sheet import palettes_scene, palettes_text
from grainstack.chart.picture_request import PictureRequest
from grainstack.cli.command_requests import PalettesOutput
from grainstack.cli.drafted import write_drafted
from grainstack.cli.failing import say, show
from grainstack.cli.kinds import terminal_width
from grainstack.endings import PICTURE_ENDINGS
from grainstack.errors import IdleError, RequestError
from grainstack.making.house_style import styled
from grainstack.option_names import option
from grainstack.paint.painters import painted_in
from grainstack.plan.file.schema import line_for
from grainstack.requests import Requests
from grainstack.whole_files import check_targets, write_all


def run(requests: Requests) -> None:
    """Shows the palettes in ordinary and three dichromatic visions."""
    picture: PictureRequest = requests[PictureRequest]
    if draft := requests[PalettesOutput].style_draft:
        _draft(Path(draft), picture)
        return

    targets = [Path(name) for name in requests[PalettesOutput].out]
    check_targets(targets, [], PICTURE_ENDINGS)
    if targets:
        look = look_of(styled(Requests(picture))[0])
        endings = [target.suffix.lower() for target in targets]
        write_all(targets, painted_in(palettes_scene(picture.points, look), endings, picture.dpi))
        for target in targets:
            say(f"Wrote {target}.")
    else:
        requests.check_formats(())
        if picture.given():
            raise IdleError(f"{option('style')} makes no difference in a terminal.", "Name a picture, or leave it out.")
        show(palettes_text(colors=terminal_width()[1]))


def _draft(target: Path, picture: PictureRequest) -> None:
    """Writes a style that comes along as a file to change."""
    if picture.in_file:
        raise RequestError(
            f"{option('style')} {picture.style_named} is a file already.",
            "Name a style that comes along to draft from.",
        )
    check_targets([target], [], (".toml",))
    text = line_for("style") + style_text(picture.style_named)
    write_drafted(
        target, text, "style", f"Wrote {target}. Use it with --style {target}, or as style.toml beside the records."
    )
