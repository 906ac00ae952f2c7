"""Trips, efforts, limits, kept files; names for files on every row; a history of changes."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"

_TEXT, _NUMBER, _WHOLE = sa.String, sa.Float, sa.Integer
_END = (("extra", _TEXT, False), ("batch", _WHOLE, False))
_REF = (("ref", _TEXT, False),)
_PLACE = (("latitude", _NUMBER, True), ("longitude", _NUMBER, True))
_ADDED = {
    "mark": (*_REF, ("caught", _WHOLE, False), ("name", _TEXT, False), ("picture", _TEXT, False), *_END),
    "catch": (
        *_REF, ("effort", _TEXT, False), ("trip", _TEXT, False), ("weight_kg", _NUMBER, True),
        ("angler", _TEXT, False), ("hook_place", _TEXT, False), ("condition", _TEXT, False), *_PLACE,
        ("fish_depth_m", _NUMBER, True), ("bottom_depth_m", _NUMBER, True), ("picture", _TEXT, False),
        ("around", _TEXT, False), *_END,
    ),
    "moment": (
        *_REF, ("trip", _TEXT, False), ("count", _NUMBER, True), ("seconds", _NUMBER, True),
        ("lure_did", _TEXT, False), ("bearing_deg", _NUMBER, True), ("distance_m", _NUMBER, True), *_END,
    ),
    "rig_note": (*_REF, *_END),
}  # fmt: skip
_NEW = {
    "water": (("water", _TEXT, False), *_PLACE, ("time_zone", _TEXT, False), *_END),
    "trip": (
        *_REF, ("water", _TEXT, False), ("start", _NUMBER, True), ("end", _NUMBER, True), ("anglers", _TEXT, False),
        ("craft", _TEXT, False), ("note", _TEXT, False), *_END,
    ),
    "effort": (
        *_REF, ("trip", _TEXT, False), ("start", _NUMBER, True), ("end", _NUMBER, True), ("rods", _NUMBER, True),
        ("metres", _NUMBER, True), ("spot", _TEXT, False), *_PLACE, ("bottom_depth_m", _NUMBER, True),
        ("lure_depth_m", _NUMBER, True), ("method", _TEXT, False), ("lure", _TEXT, False),
        ("lure_kind", _TEXT, False), ("colour", _TEXT, False), ("lure_length_m", _NUMBER, True),
        ("speed_mps", _NUMBER, True), ("wind_mps", _NUMBER, True), ("wind_from_deg", _NUMBER, True),
        ("cloud", _NUMBER, True), ("water_temperature_c", _NUMBER, True), ("secchi_m", _NUMBER, True),
        ("layer_m", _NUMBER, True), ("bait_distance_m", _NUMBER, True), *_END,
    ),
    "fish_limit": (
        *_REF, ("water", _TEXT, False), ("species", _TEXT, False), ("opens", _TEXT, False), ("closes", _TEXT, False),
        ("least_m", _NUMBER, True), ("most_m", _NUMBER, True), ("slot_low_m", _NUMBER, True),
        ("slot_high_m", _NUMBER, True), ("bag", _NUMBER, True), ("possession", _NUMBER, True),
        ("gear", _TEXT, False), ("source", _TEXT, False), ("dated", _TEXT, False), ("own", sa.Boolean, False), *_END,
    ),
    "kept_file": (
        ("path", _TEXT, False), ("sha256", _TEXT, False), ("size", _WHOLE, False), ("batch", _WHOLE, False)
    ),
    "change": (
        ("time", _NUMBER, False), ("kind", _TEXT, False), ("row", _WHOLE, False), ("before", _TEXT, False),
        ("after", _TEXT, False),
    ),
}  # fmt: skip
_LOOSER = {"mark": ("time", "latitude", "longitude"), "catch": ("time", "mark_id"), "moment": ("time",)}
_INDEXED = (("trip", "start"), ("effort", "trip"), ("catch", "trip"), ("change", "row"))


def upgrade() -> None:
    for table, added in _ADDED.items():
        with op.batch_alter_table(table) as batch:
            for name, kind, nullable in added:
                usual = None if nullable else "0" if kind is _WHOLE else ""
                batch.add_column(sa.Column(name, kind(), nullable=nullable, server_default=usual))
            for name in _LOOSER.get(table, ()):
                kind = sa.Integer if name == "mark_id" else sa.Float
                batch.alter_column(name, existing_type=kind(), nullable=True)
        op.execute(f'UPDATE "{table}" SET ref = lower(hex(randomblob(6)))')
    for table, columns in _NEW.items():
        made = [sa.Column(name, kind(), nullable=nullable) for name, kind, nullable in columns]
        key = sa.PrimaryKeyConstraint("id", name=f"pk_{table}")
        op.create_table(table, sa.Column("id", sa.Integer(), nullable=False), *made, key)
    about = sa.PrimaryKeyConstraint("key", name="pk_about")
    op.create_table("about", sa.Column("key", sa.String()), sa.Column("text", sa.String(), nullable=False), about)
    for table, column in _INDEXED:
        op.create_index(f"ix_{table}_{column}", table, [column])
