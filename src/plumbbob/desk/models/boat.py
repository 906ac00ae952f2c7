"""The boat, as far as it changes an answer: its kind, where sounder and antenna sit, how fast it reads clean."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PySide6.QtCore import QSettings

from plumbbob.core.sonar.recording import Mount
from plumbbob.core.sonar.sounder_setup import PLANING_MPS
from plumbbob.desk.models.settings import number_of, text_of

KINDS = ("boat", "kayak")


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnBoat:
    """Metres and metres a second; the sounder seen from the antenna."""

    kind: str = KINDS[0]
    mount_depth_m: float = 0.0
    forward_m: float = 0.0
    starboard_m: float = 0.0
    clean_mps: float = PLANING_MPS  # up to here the sounder reads clean

    @property
    def is_kayak(self) -> bool:
        """It drifts faster, and minds wind sooner."""
        return self.kind == "kayak"

    def mount_for(self, mount: Mount) -> Mount:
        """A recording's own mount, with what it leaves open filled in."""
        depth = mount.depth_m if mount.depth_m else self.mount_depth_m
        if mount.forward_m or mount.starboard_m:
            return replace(mount, depth_m=depth)
        return Mount(depth_m=depth, forward_m=self.forward_m, starboard_m=self.starboard_m)


def own_boat(settings: QSettings) -> OwnBoat:
    """As it was set."""
    kind = text_of(settings, "boat/kind", KINDS[0])
    return OwnBoat(
        kind=kind if kind in KINDS else KINDS[0],
        mount_depth_m=number_of(settings, "boat/mount_depth_m", 0.0, 0.0, 10.0),
        forward_m=number_of(settings, "boat/forward_m", 0.0, -50.0, 50.0),
        starboard_m=number_of(settings, "boat/starboard_m", 0.0, -50.0, 50.0),
        clean_mps=number_of(settings, "boat/clean_mps", PLANING_MPS, 0.5, 30.0),
    )
