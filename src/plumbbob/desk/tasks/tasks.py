"""All that works off the interface thread, put together once."""

from __future__ import annotations

from dataclasses import dataclass

from plumbbob.desk.tasks.add_soundings import SoundingsAdder
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.follow_lines import LineFollower
from plumbbob.desk.tasks.follow_live import LiveFollower
from plumbbob.desk.tasks.keep_column import ColumnKeeper
from plumbbob.desk.tasks.keep_tide import TideKeeper
from plumbbob.desk.tasks.keep_waters import WaterKeeper
from plumbbob.desk.tasks.listen import LiveListener
from plumbbob.desk.tasks.log_files import LogFiles
from plumbbob.desk.tasks.plan_lanes import LanePlanner
from plumbbob.desk.tasks.plan_today import DayPlanner
from plumbbob.desk.tasks.replay_day import DayReplay
from plumbbob.desk.tasks.review_log import LogReviewer
from plumbbob.desk.tasks.sounds import Sounds


@dataclass(frozen=True, slots=True, kw_only=True)
class Tasks:
    """What commands and sheets may set going."""

    charter: ChartBuilder
    soundings: SoundingsAdder
    column: ColumnKeeper
    tide: TideKeeper
    lanes: LanePlanner
    day: DayPlanner
    replay: DayReplay
    listener: LiveListener
    follower: LiveFollower
    rigger: LineFollower
    sounds: Sounds
    waters: WaterKeeper
    log_files: LogFiles
    reviewer: LogReviewer
