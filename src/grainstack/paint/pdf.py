"""PDF of one picture: its SVG, set on a page of its size as real text, with its alternative text."""

from grainstack.chart.marks import Text
from grainstack.chart.scene import Scene
from grainstack.language import spoken
from grainstack.paint.svg import typeset_drawing
from grainstack.paint.typeset import faces_of, fonts_for, typeset

# What `sys.inputs` holds is text and is set as such, whatever is in it.
_PAGE = """
#let given = sys.inputs
#set document(title: given.title, description: given.alt, keywords: given.trace, date: none)
#set page(width: eval(given.width), height: eval(given.height), margin: 0pt)
#set text(lang: given.language)
#image(bytes(given.drawing), format: "svg", width: 100%, alt: given.alt)
"""


def paint(scene: Scene, dpi: float = 72.0) -> bytes:
    """The scene as a one-page PDF with selectable text; shapes have no pixels, so `dpi` makes no difference."""
    del dpi
    with fonts_for(faces_of(mark for mark in scene.marks if isinstance(mark, Text))) as (fonts, known):
        inputs = {
            "title": scene.title or scene.alt or " ",
            "alt": scene.alt or scene.title or " ",
            "trace": scene.trace,
            "width": f"{scene.width}pt",
            "height": f"{scene.height}pt",
            "language": spoken().name,
            "drawing": typeset_drawing(scene, known),
        }
        return typeset(_PAGE, inputs, fonts)
