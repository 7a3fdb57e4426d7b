"""Makes the demo data. Everything in it is invented; the same seed gives the same files.

Run `python -m grainstack.demo.make_data FOLDER` to write it again.

What a reader can find in it: passengers to Hallow Ness wait clearly longer than those to Pell Isle, while Pell Isle and
Osk Harbour do not differ; the mean wait at Dunmar is pulled up by a few very long ones; at Lower Tarn two quite
different waits hide behind an ordinary mean; Vey Sands has too few answers to say much; the app sells more tickets the
younger the passengers are; and what people think of cleanliness leans differently from route to route. A year earlier
the wait at Dunmar was shorter and the app less used; what else changed is noise. A third of the sailings are the same.
"""

import csv
import math
import random
import sys
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

SEED = 20251125  # the demo data is the same for everybody
SEASONS = ("spring", "summer", "autumn", "winter")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
TICKETS = ("app", "web", "desk", "board", "agent")
PURPOSES = ("work", "school", "visit", "day_trip", "medical", "goods")
VEHICLES = ("foot", "bicycle", "car", "van", "lorry", "coach")
FACILITIES = ("cafe", "lounge", "deck", "shop", "wifi")
PASSENGER_COLUMNS = (
    *("passenger", "sailing", "stratum", "weight", "sailings_in_stratum", "route", "season", "ticket", "purpose"),
    *("age", "wait", "spend", "cleanliness", "staff", "punctuality", "facilities"),
)


class Route(Struct, frozen=True):
    """One ferry route and how its passengers differ.

    Attributes:
        code: As stored.
        answers: Questionnaires wanted.
        sailings: Sailings in a season, spring to winter.
        wait: Usual wait in minutes.
        tickets: Leaning towards app, website, desk, on board and agent.
        pleased: Mean of the opinion on cleanliness before it is cut to 1–5.
    """

    code: int
    answers: int
    sailings: tuple[int, int, int, int]
    wait: float
    tickets: tuple[float, float, float, float, float]
    pleased: float


ROUTES = (
    Route(1, 690, (240, 360, 250, 180), 12.0, (1.9, 1.2, 0.5, 0.15, 0.1), 4.1),
    Route(2, 588, (210, 320, 220, 150), 12.0, (1.3, 1.0, 0.8, 0.8, 0.05), 3.7),
    Route(3, 471, (160, 260, 170, 110), 19.0, (1.1, 1.0, 0.4, 0.8, 0.7), 2.6),
    Route(4, 392, (140, 220, 150, 90), 13.0, (0.8, 1.1, 0.6, 1.5, 0.2), 3.4),
    Route(5, 246, (90, 150, 90, 60), 14.0, (0.7, 1.0, 1.7, 0.6, 0.2), 3.1),
    Route(6, 27, (24, 60, 26, 12), 15.0, (0.6, 1.8, 0.9, 0.3, 0.4), 3.9),
)


def write_all(folder: Path) -> None:
    """Writes every data file into a folder."""
    moods: dict[str, float] = {}
    _write(folder / "passengers.csv", _passengers(moods))
    _write(folder / "passengers_2024.csv", _passengers_before(moods))
    _write(folder / "crossings.csv", _crossings())
    _write(folder / "crossings_wide.csv", _crossings_wide())
    _write(folder / "costs.csv", _costs())
    _write(folder / "targets.csv", TARGETS)


def _write(path: Path, rows: Iterable[Sequence[object]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file, lineterminator="\n").writerows(rows)


def _passengers_before(moods: Mapping[str, float]) -> Iterable[Sequence[object]]:
    """The survey of the year before: other passengers, every third sailing the same and in nearly the same mood."""
    dice = random.Random(SEED + 3)  # noqa: S311 - made-up data, not a secret
    yield PASSENGER_COLUMNS
    number = 0
    for now in ROUTES:
        route = replace(
            now,
            wait=now.wait - 3.5 if now.code == 4 else now.wait,
            tickets=(now.tickets[0] * 0.62, *now.tickets[1:]),
        )
        for season, in_stratum in zip(SEASONS, route.sailings, strict=True):
            wanted = round(0.875 * route.answers * in_stratum / sum(route.sailings))
            drawn = max(2, round(wanted / 13))
            for sailing in range(drawn):
                code = f"{route.code}{season[:2].upper()}{sailing + 1 + (50 if sailing % 3 else 0):02d}"
                mood = 0.8 * moods[code] + dice.gauss(0, 0.17) if code in moods else dice.gauss(0, 0.28)
                interviewed = wanted // drawn + (sailing < wanted % drawn)
                weight = in_stratum / drawn * round(interviewed * dice.uniform(4, 9)) / max(interviewed, 1)
                for _ in range(interviewed):
                    number += 1
                    place = (code, f"{route.code}-{season}", f"{weight:.2f}", in_stratum, route.code, season)
                    yield (f"Q{number:05d}", *place, *_answers(dice, route, season, mood))


def _passengers(moods: dict[str, float]) -> Iterable[Sequence[object]]:
    """One questionnaire a row: sailings drawn within route and season, then passengers on board.

    Args:
        moods: Takes in what puts the passengers of a sailing in a good or bad mood.
    """
    dice = random.Random(SEED)  # noqa: S311 - made-up data, not a secret
    yield PASSENGER_COLUMNS
    number = 0
    for route in ROUTES:
        for season, in_stratum in zip(SEASONS, route.sailings, strict=True):
            wanted = round(route.answers * in_stratum / sum(route.sailings))
            drawn = max(2, round(wanted / 13))
            for sailing in range(drawn):
                mood = dice.gauss(0, 0.28)
                moods[f"{route.code}{season[:2].upper()}{sailing + 1:02d}"] = mood
                interviewed = wanted // drawn + (sailing < wanted % drawn)
                aboard = round(interviewed * dice.uniform(4, 9))
                weight = in_stratum / drawn * aboard / max(interviewed, 1)
                for _ in range(interviewed):
                    number += 1
                    yield (
                        f"P{number:05d}",
                        f"{route.code}{season[:2].upper()}{sailing + 1:02d}",
                        f"{route.code}-{season}",
                        f"{weight:.2f}",
                        in_stratum,
                        route.code,
                        season,
                        *_answers(dice, route, season, mood),
                    )


def _answers(dice: random.Random, route: Route, season: str, mood: float) -> Sequence[object]:
    purpose = _drawn(dice, PURPOSES, _purpose_leaning(season))
    age = _age(dice, purpose)
    young = (45 - age) / 30
    leaning = [
        weight * math.exp(pull * young)
        for weight, pull in zip(route.tickets, (0.8, 0.1, -0.6, -0.2, -0.4), strict=True)
    ]
    ticket = _drawn(dice, TICKETS, leaning) if dice.random() > 0.015 else ""
    pleased = route.pleased + mood + (0.25 if season == "summer" else 0)
    return (
        ticket,
        purpose,
        999 if dice.random() < 0.03 else age,
        "" if dice.random() < 0.01 else _wait(dice, route, season, mood),
        _spend(dice, purpose),
        _opinion(dice, pleased),
        _opinion(dice, 3.9 + mood / 2),
        _opinion(dice, 3.3 - mood - (0.8 if route.code == 3 else 0)),
        _used_facilities(dice, purpose),
    )


def _purpose_leaning(season: str) -> Sequence[float]:
    return (3.0, 1.6, 2.0, 4.5, 0.6, 0.5) if season == "summer" else (4.4, 2.2, 2.0, 1.3, 0.8, 0.8)


def _age(dice: random.Random, purpose: str) -> int:
    if purpose == "school":
        return 15 + min(int(dice.expovariate(0.4)), 12)
    middle = {"work": 42, "medical": 63, "goods": 45}.get(purpose, 48)
    return min(max(round(dice.gauss(middle, 14)), 15), 91)


def _wait(dice: random.Random, route: Route, season: str, mood: float) -> int:
    usual = route.wait * (1.25 if season == "summer" else 1.0) * math.exp(0.25 * mood)
    if route.code == 5:
        usual = dice.choice((5.0, 31.0))
        return max(0, round(dice.gauss(usual, 2.6)))
    if route.code == 4 and dice.random() < 0.035:
        return round(dice.uniform(120, 240))
    return round(usual * dice.lognormvariate(-0.12, 0.5))


def _spend(dice: random.Random, purpose: str) -> str:
    if dice.random() < (0.28 if purpose == "day_trip" else 0.52):
        return "0.00"
    return f"{dice.lognormvariate(1.9 if purpose == 'day_trip' else 1.5, 0.6):.2f}"


def _opinion(dice: random.Random, middle: float) -> int:
    if dice.random() < 0.025:
        return 9
    return min(max(round(dice.gauss(middle, 1.1)), 1), 5)


def _used_facilities(dice: random.Random, purpose: str) -> str:
    if dice.random() < 0.02:
        return ""
    chances = {"cafe": 0.48, "lounge": 0.36, "deck": 0.7 if purpose == "day_trip" else 0.22, "shop": 0.15, "wifi": 0.41}
    used = [name for name in FACILITIES if dice.random() < chances[name]]
    return ";".join(used) or "none"


def _drawn(dice: random.Random, names: Sequence[str], weights: Sequence[float]) -> str:
    return dice.choices(names, weights)[0]


def _crossings() -> Iterable[Sequence[object]]:
    """Route by month by vehicle class for three years, already summed up."""
    dice = random.Random(SEED + 1)  # noqa: S311 - made-up data, not a secret
    yield "year", "month", "route", "vehicle", "crossings", "vehicles", "revenue"
    fares = {"foot": 6.2, "bicycle": 8.0, "car": 27.5, "van": 38.0, "lorry": 96.0, "coach": 120.0}
    usual = {"foot": 5200, "bicycle": 420, "car": 2600, "van": 520, "lorry": 210, "coach": 46}
    for year in (2023, 2024, 2025):
        for place, month in enumerate(MONTHS):
            summer = 1 + 0.75 * math.exp(-(((place - 6.4) / 2.2) ** 2))
            for route in ROUTES:
                crossings = round(sum(route.sailings) / 12 * (0.8 + 0.25 * summer))
                for vehicle in VEHICLES:
                    growth = 1 + (year - 2023) * (0.06 if vehicle in ("foot", "bicycle") else 0.015)
                    swing = 1.0 if vehicle == "lorry" else summer
                    size = sum(route.sailings) / 1030
                    vehicles = round(usual[vehicle] * size * swing * growth * dice.uniform(0.92, 1.08))
                    revenue = round(vehicles * fares[vehicle] * dice.uniform(0.97, 1.03))
                    yield year, month, route.code, vehicle, crossings, vehicles, revenue


def _crossings_wide() -> Iterable[Sequence[object]]:
    """Vehicles a year, one column per year."""
    totals: dict[int, dict[int, int]] = {route.code: {} for route in ROUTES}
    rows = iter(_crossings())
    next(rows)
    for year, _, route, _, _, vehicles, _ in rows:
        by_year = totals[int(str(route))]
        by_year[int(str(year))] = by_year.get(int(str(year)), 0) + int(str(vehicles))
    yield "route", "2023", "2024", "2025"
    for code, by_year in totals.items():
        yield code, *by_year.values()


TARGETS = (  # what the company counted at its gates, by route and by season
    ("variable", "level", "total"),
    ("route", "Pell Isle", 86200),
    ("route", "Osk Harbour", 75800),
    ("route", "Hallow Ness", 58900),
    ("route", "Dunmar", 50600),
    ("route", "Lower Tarn", 34100),
    ("route", "Vey Sands", 4400),
    ("season", "Spring", 71500),
    ("season", "Summer", 117300),
    ("season", "Autumn", 73700),
    ("season", "Winter", 47500),
)


COSTS = {
    "Crew": (("Deck officers", 310), ("Deck ratings", 268), ("Engineers", 240), ("Cabin staff", 150), ("Training", 31)),
    "Fuel": (("Marine diesel", 520), ("Lubricants", 42), ("Shore power", 28)),
    "Upkeep": (("Dry dock", 190), ("Engine parts", 122), ("Paint and coating", 54), ("Safety equipment", 38)),
    "Harbour": (("Berthing", 134), ("Pilotage", 47), ("Waste disposal", 12)),
    "On board": (("Food and drink", 96), ("Cleaning", 61), ("Laundry", 9), ("Shop goods", 33)),
    "Office": (("Insurance", 118), ("Ticket systems", 57), ("Licences", 16)),
}
VESSELS = (("Marrow Gull", 1.0), ("Osk Lantern", 0.82), ("Tarn Piper", 0.55), ("Little Vey", 0.24))


def _costs() -> Iterable[Sequence[object]]:
    """Vessel, department and item, in euros, with the change on last year in percent."""
    dice = random.Random(SEED + 2)  # noqa: S311 - made-up data, not a secret
    yield "vessel", "department", "item", "amount", "change"
    for vessel, size in VESSELS:
        for department, items in COSTS.items():
            for item, amount in items:
                if vessel == "Little Vey" and item in ("Pilotage", "Shop goods", "Laundry"):
                    continue
                euros = round(amount * 1000 * size * dice.uniform(0.85, 1.15), -2)
                drift = 9 if department == "Fuel" else -1
                yield vessel, department, item, int(euros), f"{dice.gauss(drift, 5):.1f}"


if __name__ == "__main__":
    write_all(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
