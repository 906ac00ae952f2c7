"""Notes of the rig between the log, which keeps a rod as text, and the core."""

from __future__ import annotations

import json
from dataclasses import replace

from plumbbob.core.rig.calibrate import RigNote, Told
from plumbbob.formats.rig_json import kept_rod, rod_json
from plumbbob.store.values import SavedNote


def note_of(saved: SavedNote) -> RigNote:
    """
    A note as the log holds it, for the core.

    Raises
    ------
    ValueError
        If it is not one.
    """
    try:
        rod = kept_rod(json.loads(saved.rod))
        note = RigNote(rod=rod, told=Told(saved.told), depth_m=saved.depth_m, value=saved.value, words=saved.words)
    except (KeyError, TypeError) as exc:
        raise ValueError(str(exc)) from exc
    return replace(note, id=saved.id, time=saved.time)


def saved_note(note: RigNote) -> SavedNote:
    """A note as the log holds it."""
    return SavedNote(
        id=note.id,
        time=note.time,
        told=note.told.value,
        depth_m=note.depth_m,
        value=note.value,
        words=note.words,
        rod=json.dumps(rod_json(note.rod)),
    )
