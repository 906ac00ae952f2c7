"""The table of species: what ships with the program, and a person's own changes to it."""

from __future__ import annotations

import csv
from dataclasses import replace
from functools import cache
from importlib.resources import files

from plumbbob.core.water.species import Species
from plumbbob.formats.waters import Water


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
            weight_a=float(row["weight_a"]) if row["weight_a"] else None,
            weight_b=float(row["weight_b"]) if row["weight_b"] else None,
            low_m=float(row["low_m"]),
        )
        for row in csv.DictReader(text.splitlines())
    )


@cache
def species_names() -> dict[str, dict[str, str]]:
    """By language (as it calls itself, and ``scientific``): each name of the table as it is there, if known."""
    table = {s.key: s.name for s in known_species()}
    text = files("plumbbob.data").joinpath("species_names.csv").read_text(encoding="utf-8")
    rows = list(csv.DictReader(text.splitlines()))
    return {
        language: {table[row["key"]]: row[language] for row in rows if row[language]}
        for language in rows[0]
        if language != "key"
    }


def species_of(water: Water) -> list[Species]:
    """The species of the table that live in a water, by the names people use there."""
    table = {s.key: s for s in known_species()} | {s.name: s for s in known_species()}
    found = ((s, table.get(s.species) or table.get(s.name)) for s in water.inhabitants)
    return [replace(species, name=local.name) for local, species in found if species is not None]


def species_here(name: str, water: Water) -> Species | None:
    """The species of a name as it is used at a water, else of the table."""
    return next((s for s in species_of(water) if s.name == name), species_named(name))


def table_name(species: Species) -> str:
    """The name a species has in the table, whatever it is called at a water."""
    return next((s.name for s in known_species() if s.key == species.key), species.name)


def species_named(name: str) -> Species | None:
    """The species of a name, if the table has it."""
    return next((s for s in known_species() if s.name == name), None)
