"""A small random survey: its rows as the file holds them, and its codebook as text."""

import csv
import io
from dataclasses import dataclass
from random import Random

REGIONS = {"1": "North", "2": "South", "3": "East", "4": "West"}
SCALE = {"1": "Bad", "2": "Fair", "3": "Good"}
GRADES = ("low", "middling", "high")  # a known order, without a codebook
TOWNS = ("Ald", "Bren", "Cor", "Dell", "Ene")  # no order of their own
SOURCES = ("a", "b", "c")
USED = ("cafe", "deck", "shop")  # 0/1 columns of one question
ITEMS = ("q1", "q2", "q3")
CODEBOOK = """
[records]
noun = "visits"
[variables.region]
levels = { 1 = "North", 2 = "South", 3 = "East", 4 = "West" }
missing = [9]
[variables.x]
missing = [999]
[variables.sources]
kind = "multi"
[variables.q1]
label = "Staff"
levels = { 1 = "Bad", 2 = "Fair", 3 = "Good" }
missing = [9]
[variables.q2]
label = "Room"
levels = { 1 = "Bad", 2 = "Fair", 3 = "Good" }
missing = [9]
[variables.q3]
label = "Food"
levels = { 1 = "Bad", 2 = "Fair", 3 = "Good" }
missing = [9]
"""

Row = dict[str, str]


@dataclass(frozen=True, slots=True)
class Survey:
    """A survey of a few rows.

    Attributes:
        rows: Each row by column, as text.
        codebook: The codebook's text.
    """

    rows: list[Row]
    codebook: str = CODEBOOK

    def csv(self) -> str:
        """The rows as a CSV file."""
        target = io.StringIO()
        writer = csv.DictWriter(target, list(self.rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(self.rows)
        return target.getvalue()


def random_survey(random: Random) -> Survey:
    """A survey of 4 to 70 rows in two strata of two to four clusters each, with gaps, missing codes and zeros."""
    clusters = [(stratum, f"{stratum}{number}") for stratum in "st" for number in range(random.randint(2, 4))]
    sizes = {stratum: sum(one[0] == stratum for one in clusters) + random.randint(0, 9) for stratum in "st"}
    count = random.choice([4, 9, 20, 40, 70])
    drawn = [*clusters, *(random.choice(clusters) for _ in range(count))][: max(count, len(clusters))]
    gap = random.choice([0.0, 0.1, 0.3])
    return Survey([_row(random, *place, sizes[place[0]], gap) for place in drawn])


def _row(random: Random, stratum: str, cluster: str, population: int, gap: float) -> Row:
    def answer(text: str, *missing: str) -> str:
        return random.choice([*missing, ""]) if random.random() < gap else text

    chosen = [source for source in SOURCES if random.random() < 0.45]
    used = [answer(random.choice("01")) for _ in USED]
    return {
        "region": answer(random.choice([*REGIONS, "1", "1"]), "9"),
        "town": answer(random.choice([*TOWNS, "Ald", "Ald", "Bren"])),
        "grade": answer(random.choice(GRADES)),
        "sources": answer(";".join(chosen)),
        **dict(zip(USED, used, strict=True)),
        **{item: answer(random.choice(list(SCALE)), "9") for item in ITEMS},
        "x": answer(f"{random.choice([random.randint(-5, 40), random.randint(-5, 40) / 4]):g}", "999"),
        "y": answer(str(random.randint(0, 12))),
        "weight": random.choice(["0.5", "1", "1", "2.25", "0"]),
        "stratum": stratum,
        "cluster": cluster,
        "population": str(population),
        "house": random.choice("ab"),
        "houses": str(2 + len(cluster) + int(cluster[1:])),
        "times": random.choice(["0", "1", "2", "5"]),
    }


def given_values(random: Random) -> Survey:
    """One row for each town and grade, some of them missing, with a figure that is summed up already."""
    rows = [
        {"town": town, "grade": grade, "value": str(random.randint(0, 90))}
        for town in TOWNS[: random.randint(1, 5)]
        for grade in GRADES[: random.randint(1, 3)]
    ]
    kept = [row for row in rows if random.random() < 0.85] or rows[:1]
    return Survey(kept, '[records]\nnoun = "visits"\n')
