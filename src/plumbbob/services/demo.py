"""The demo's passes over Veyra Lake: those that do not ship are made, the same on every machine."""

from __future__ import annotations

import shutil
from pathlib import Path

from plumbbob.core.types import Progress
from plumbbob.files.atomic import private_folder, writing
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.waters import data_path

FIRST, SECOND, SIDES, AHEAD = "veyra_first_pass.nc", "veyra_second_pass.nc", "veyra_side_pass.nc", "veyra_ahead.nc"
SEED = 7


def demo_pass(folder: Path, name: str, progress: Progress = lambda _: None) -> Path:
    """
    A pass of the demo in a folder; it is made unless it is there. Two seconds each.

    Raises
    ------
    FileError
        If it can't be written.
    """
    from plumbbob.formats.recording import write_recording
    from plumbbob.sim import veyra
    from plumbbob.sim.down import simulate

    path = folder / name
    if not path.is_file():
        scene = {FIRST: veyra.demo_pass, SECOND: veyra.second_pass, SIDES: veyra.side_pass, AHEAD: veyra.ahead_pass}
        recording, _ = simulate(scene[name](), SEED, progress=progress)
        private_folder(folder)
        write_recording(path, recording)
    return path


def own_copy(folder: Path, name: str) -> Path:
    """
    A pass that ships, in a folder of the person's own: corrections lie beside a recording, never in the program.

    Raises
    ------
    FileError
        If it can't be written.
    """
    shipped, mine = data_path(name), folder / name
    private_folder(folder)
    if not (mine.is_file() and mine.stat().st_size == shipped.stat().st_size):
        try:
            with writing(mine, private=True) as fresh:
                shutil.copyfile(shipped, fresh)
        except OSError as exc:
            raise FileError(mine, "", f"could not be written: {why(exc)}") from exc
    return mine
