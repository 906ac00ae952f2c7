"""Tide from a table of high and low waters: level and stream by the hour, when it runs and when it is slack."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

SLACK_SHARE = 0.25  # of the strongest stream of the day: below it is slack water
_STRONG_SHARE = 0.8


class Stream(Enum):
    """What the water does."""

    FLOOD = "flood"
    EBB = "ebb"
    SLACK = "slack"


@dataclass(frozen=True, slots=True)
class HighOrLow:
    """One line of a tide table."""

    time: float  # seconds since 1970 UTC
    level_m: float  # over the chart's datum


@dataclass(frozen=True, slots=True, kw_only=True)
class TideNow:
    """The tide at a moment."""

    level_m: float
    rises_mph: float  # metres an hour; below 0 it falls
    stream: Stream
    share: float  # of the strongest run of the table, 0 to 1
    current_mps: float  # NaN where no strength was given


class TideTable:
    """High and low waters in order; between two of them the level follows half a cosine."""

    def __init__(self, turns: Sequence[HighOrLow]) -> None:
        self.turns = tuple(sorted(turns, key=lambda t: t.time))
        if len(self.turns) < 2:
            raise ValueError("a tide needs two turns at least, a high and a low water")
        for a, b in zip(self.turns, self.turns[1:], strict=False):
            if not b.time - a.time >= 600.0:
                raise ValueError("two turns of the tide lie within ten minutes")
        self._times = [t.time for t in self.turns]
        self.fastest_mph = max(  # steepest rise or fall between any two turns, metres an hour
            math.pi / 2 * abs(b.level_m - a.level_m) / (b.time - a.time) * 3600.0
            for a, b in zip(self.turns, self.turns[1:], strict=False)
        )

    def at(self, time: float, strongest_mps: float = math.nan) -> TideNow:
        """
        Level and stream at a moment.

        Parameters
        ----------
        time : float
        strongest_mps : float
            Current at the strongest run of the table, where it is known; it goes with the speed of the level.

        Raises
        ------
        ValueError
            Outside the table.

        Notes
        -----
        The rule of twelfths is the same curve in steps. Stream and level are in step on open coasts; in narrows and
        rivers the stream turns later: a local table comes first.

        Examples
        --------
        >>> table = TideTable([HighOrLow(0.0, 1.0), HighOrLow(6 * 3600.0, 5.0)])
        >>> now = table.at(3 * 3600.0, 0.8)
        >>> round(now.level_m, 2), now.stream.value, round(now.current_mps, 2), table.at(60.0).stream.value
        (3.0, 'flood', 0.8, 'slack')
        """
        k = bisect_right(self._times, time) - 1
        if time == self.turns[-1].time:
            k -= 1
        if not 0 <= k < len(self.turns) - 1:
            raise ValueError("the table of tides does not reach so far")
        a, b = self.turns[k], self.turns[k + 1]
        whole = b.time - a.time
        x = math.pi * (time - a.time) / whole
        level = a.level_m + (b.level_m - a.level_m) * (1 - math.cos(x)) / 2
        rises = (b.level_m - a.level_m) * math.pi / 2 * math.sin(x) / whole * 3600.0
        fastest = self.fastest_mph
        share = abs(rises) / fastest if fastest > 0 else 0.0
        stream = Stream.SLACK if share < SLACK_SHARE else Stream.FLOOD if rises > 0 else Stream.EBB
        return TideNow(level_m=level, rises_mph=rises, stream=stream, share=share, current_mps=share * strongest_mps)

    def runs(self, start: float, end: float, *, step_s: float = 600.0) -> tuple[tuple[float, float], ...]:
        """Spans of strongest run between two moments: the hours that feed fish on edges and on the bottom."""
        spans: list[tuple[float, float]] = []
        begun: float | None = None
        t = max(start, self.turns[0].time)
        last = min(end, self.turns[-1].time)
        while t <= last:
            strong = self.at(t).share >= _STRONG_SHARE
            if strong and begun is None:
                begun = t
            if not strong and begun is not None:
                spans.append((begun, t))
                begun = None
            t += step_s
        if begun is not None:
            spans.append((begun, last))
        return tuple(spans)


def wait_or_land(
    hooks: int, on: int, per_hour: float, wait_s: float, lost_per_minute: float = 0.03
) -> tuple[float, float]:
    """
    Fish to expect with several hooks: landing what hangs now, or waiting for more while some get off.

    Parameters
    ----------
    hooks, on : int
        On the line, and with a fish.
    per_hour : float
        Bites an hour a free hook while the school is there.
    wait_s : float
    lost_per_minute : float
        Share of hooked fish that get off a minute.

    Returns
    -------
    land, wait : float
        Expected fish by landing at once, and by waiting so long.

    Examples
    --------
    >>> [round(v, 2) for v in wait_or_land(5, 1, 30.0, 60.0)]
    [1.0, 2.52]
    """
    if not 0 <= on <= hooks:
        raise ValueError("no more fish than hooks")
    kept = math.exp(-lost_per_minute * wait_s / 60.0)
    fresh = (hooks - on) * (1.0 - math.exp(-per_hour * wait_s / 3600.0))
    return float(on), on * kept + fresh * math.sqrt(kept)
