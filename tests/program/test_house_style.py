"""A house's own style, from its file, beside the records or named."""

from importlib.util import find_spec
from pathlib import Path

from PIL import Image
from pypdf import PdfReader

from tests.program.conftest import Run, drawn

BAR = ("bar", "passengers.csv", "--by", "route")


def _house(folder: Path, name: str, **sections: str) -> None:
    text = "".join(f"[{section}]\n{lines}\n" for section, lines in sections.items())
    (folder / name).write_text(text, "utf-8")


def test_a_style_beside_the_records_counts_and_is_said(run: Run, folder: Path) -> None:
    _house(folder, "style.toml", colors='ink = "#102040"', numbers='locale = "de"')
    done = run(*BAR, "--out", "x.svg")
    assert "Using the style style.toml." in done.stderr
    svg = (folder / "x.svg").read_text("utf-8")
    assert "#102040" in svg
    assert "100.000" in svg
    plain = run(*BAR, "--style", "report", "--out", "x.svg")
    assert "Using the style" not in plain.stderr
    assert "#102040" not in (folder / "x.svg").read_text("utf-8")


def test_fonts_and_a_logo_come_from_files_beside_it(run: Run, folder: Path) -> None:
    spec = find_spec("matplotlib")
    assert spec is not None
    assert spec.origin is not None
    serif = Path(spec.origin).parent / "mpl-data/fonts/ttf/DejaVuSerif.ttf"
    (folder / "house.ttf").write_bytes(serif.read_bytes())
    Image.new("RGB", (30, 10), "#803300").save(folder / "logo.png")
    _house(folder, "house.toml", fonts='regular = "house.ttf"', logo='file = "logo.png"\nheight = 20')
    outs = [word for ending in ("svg", "png", "pdf") for word in ("--out", f"x.{ending}")]
    done = run(*BAR, "--style", "house.toml", *outs)
    assert done.returncode == 0, done.stderr
    assert "font-family:'house'" in (folder / "x.svg").read_text("utf-8")
    assert 'data-role="logo"' in (folder / "x.svg").read_text("utf-8")
    colors = Image.open(folder / "x.png").convert("RGB").getcolors(1 << 20) or []
    assert (0x80, 0x33, 0x00) in {color for _, color in colors}
    page = PdfReader(folder / "x.pdf").pages[0]
    fonts = page["/Resources"]["/Font"].values()  # type: ignore[index]
    assert any("DejaVuSerif" in str(font.get_object()["/BaseFont"]) for font in fonts)
    assert len(page.images) == 1


def test_what_a_style_cannot_say_stops_the_run_before_anything_is_written(run: Run, folder: Path) -> None:
    for content, said in (
        ("[type]\ntitle = 3", "Give a number of 6 or more"),
        ("[type\n", "is no TOML"),
        ('[fonts]\nregular = "nowhere.ttf"', "there is no file"),
        ('[logo]\nfile = "passengers.csv"', "is no picture"),
    ):
        (folder / "house.toml").write_text(content, "utf-8")
        done = run(*BAR, "--style", "house.toml", "--out", "x.png")
        assert done.returncode == 2
        assert said in done.stderr
        assert not (folder / "x.png").exists()
    assert "there is no file other.toml" in run(*BAR, "--style", "other.toml", "--out", "x.png").stderr


def test_a_style_can_be_drafted_and_used_at_once(run: Run, folder: Path) -> None:
    done = run("palettes", "--style-draft", "mine.toml")
    assert done.returncode == 0, done.stderr
    run(*BAR, "--out", "a.svg")
    run(*BAR, "--style", "mine.toml", "--out", "b.svg")
    assert drawn(folder / "a.svg") == drawn(folder / "b.svg")
