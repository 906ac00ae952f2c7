"""The table of species: what ships with the program, and a person's own changes to it."""

from __future__ import annotations

import csv
from functools import cache
from importlib.resources import files

from plumbbob.core.water.species import Species


@cache
def known_species() -> tuple[Species, ...]:
    """All species that ship with the program, adults in the field, good to some two degrees (docs/physics.md)."""
    return read_species(files("plumbbob.data").joinpath("species.csv").read_text(encoding="utf-8"))


def read_species(text: str) -> tuple[Species, ...]:
    """
    The species of a table.

    Raises
    ------
    KeyError, ValueError
        If a column is missing or no number where one is needed.
    """
    return tuple(
        Species(
            key=row["key"],
            name=row["name"],
            warm_low_c=float(row["warm_low_c"]),
            warm_high_c=float(row["warm_high_c"]),
            avoid_c=float(row["avoid_c"]),
            oxygen_mgl=float(row["oxygen_mgl"]),
            holds=row["holds"],
            light=row["light"],
            bladder=row["bladder"],
            care_m=float(row["care_m"]) if row["care_m"] else None,
            layer=row["layer"],
            looks=row["looks"],
            low_m=float(row["low_m"]),
        )
        for row in csv.DictReader(text.splitlines())
    )


def species_named(name: str) -> Species | None:
    """The species of a name, if the table has it."""
    return next((s for s in known_species() if s.name == name), None)
