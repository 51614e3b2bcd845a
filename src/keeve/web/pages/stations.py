"""The five stations of a job, and at which of them each part of the sheet is entered."""

from typing import Final, NamedTuple

from keeve.core.message.said import Said, Words, mark


class Station(NamedTuple):
    """One station: its number, the name of its address, and what it is called."""

    number: int
    key: str
    name: Words


STATIONS: Final = (
    Station(1, "measure", mark("Measure")),
    Station(2, "mix", mark("Mix")),
    Station(3, "loads", mark("Loads")),
    Station(4, "mixer", mark("Mixer")),
    Station(5, "look_back", mark("Look back")),
)
_ENTERED_AT: Final = {
    "measure": ("shapes", "waste_percent", "residue_l", "at_hand_bags", "at_hand_l"),
    "mix": (
        "mix", "changes", "moisture_percent", "bulking_percent", "struck_kg", "temperatures", "ice_percent",
        "ratio_cap", "exposure_classes", "admixtures", "steel", "unusual_ok",
    ),
    "loads": ("mixer", "gauges", "jug", "strategy", "place_l_min"),
}  # fmt: skip
_STATION_OF: Final = {part: key for key, parts in _ENTERED_AT.items() for part in parts}


def station_of(field: str) -> Words:
    """Say at which station a field of the job sheet is entered; nothing for what is no part of a sheet."""
    key = _STATION_OF.get(field.split(".", maxsplit=1)[0])
    found = next((station for station in STATIONS if station.key == key), None)
    return Said("{number} {name}", number=str(found.number), name=found.name) if found else ""
