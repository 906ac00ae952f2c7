"""The demo's passes over Veyra Lake: those that do not ship are made, the same on every machine."""

from __future__ import annotations

from pathlib import Path

from plumbbob.core.types import Progress
from plumbbob.files.atomic import private_folder

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
