"""What every chart has around its own marks: page, legend, axes, plots, labels, and the last word on collisions."""
