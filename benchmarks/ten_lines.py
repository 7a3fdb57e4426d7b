"""The script an analyst would write instead: read, count, draw, label, save."""

import sys

import matplotlib.pyplot as plt
import pandas as pd

counts = pd.read_csv(sys.argv[1])["ticket"].value_counts()
figure, axes = plt.subplots()
bars = axes.bar(counts.index, counts.to_numpy())
axes.bar_label(bars)
axes.set_title("Number of records by ticket")
axes.set_ylabel("Number of records")
figure.savefig(sys.argv[2])
