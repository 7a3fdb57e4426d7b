"""Measures that shape every chart: parts of a type size, of a gap or of a stroke, each with the reason for it.

Measures of one kind of mark alone stand where that is drawn; those a house may change are in `style`.
"""

CAP_HEIGHT = 0.70  # of the type size: capitals and figures of the typeface are as tall
MIDLINE = 0.34  # of the type size: half of a figure's height, so that it stands in the middle of what it is written at
LINE = 1.18  # of the type size: lines of one name stay together, and none touches the next
LOOSE_LINE = 1.35  # of the type size: a line that has air around it, as one over the plot
FIGURE_LINE = 1.05  # of the type size: figures have no descents, and may stand closer than words
NAME_GAP = 1.75  # gaps: between names and what they name, so that nobody takes them for a part of it
FAINT = 0.7  # of a stroke: inside a dark bar a whisker is drawn thinner, as it would stand out
ROUNDING = 1e-9  # of a number: what doubles lose in some steps, and nobody can see
