"""From a log's tables to a record of effort and catches: what can't be used is counted by why, never guessed."""

from __future__ import annotations

from dataclasses import dataclass, field
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd

from plumbbob.core.tally.record import NUMBERS, WORDS, Codes, FishingRecord, Words
from plumbbob.core.types import Floats, Mask
from plumbbob.formats.log_frames import LogFrames, numbers, times

_MOST_RODS, _LONGEST_S = 30.0, 48 * 3600.0
_NEAR_S = 600.0  # a catch written so long beside its effort still is of it
_BELOW_0 = ("bottom_m", "lure_depth_m", "lure_length_m", "speed_mps", "wind_mps", "layer_m", "bait_distance_m")


@dataclass(slots=True)
class ReadRecord:
    """
    A record, and what stands beside it.

    Parameters
    ----------
    record : FishingRecord
    trip_names, water_names : list of str
        By the record's codes.
    effort_row, catch_row : int arrays
        The rows of the tables that the record's efforts and catches are of.
    catches : int
        All that were written, also those outside any effort.
    left_out : dict
        By why.
    """

    record: FishingRecord
    trip_names: list[str]
    water_names: list[str]
    effort_row: Codes
    catch_row: Codes
    catches: int
    left_out: dict[str, int] = field(default_factory=dict)


def record_of(frames: LogFrames) -> ReadRecord:
    """Efforts with their conditions and catches with their efforts."""
    efforts, trips = frames.tables["efforts"], frames.tables["trips"]
    start, end, rods = times(efforts["start"]), times(efforts["end"]), numbers(efforts["rods"])
    rods = np.where(efforts["rods"].to_numpy() == "", 1.0, rods)
    use = _usable(frames, start, end, rods)
    use &= ~_overlapping(frames, efforts, start, end, use)
    rows = np.flatnonzero(use)
    kept = efforts.iloc[rows]
    trip_names = list(dict.fromkeys([t for t in trips["trip"] if t] + [t for t in kept["trip"] if t]))
    code = {name: k for k, name in enumerate(trip_names)}
    trip = np.array([code.get(t, -1) for t in kept["trip"]], np.int64)
    water, water_names = _waters(frames, trip_names, trip)
    day = np.floor(start[rows] / 86400.0)
    for key in sorted({(w, d) for w, d in zip(water[trip < 0], day[trip < 0], strict=True)}):
        # effort of no trip: a day on a water is one
        trip[(trip < 0) & (water == key[0]) & (day == key[1])] = len(trip_names)
        trip_names.append("")
    waters = _Waters(frames, water_names)
    columns = {n: _known(frames, n, numbers(kept[n]), kept[n]) for n in NUMBERS}
    latitude, longitude = numbers(kept["latitude"]), numbers(kept["longitude"])
    off = (np.abs(latitude) > 90.0) | (np.abs(longitude) > 540.0)
    frames.count("places beyond the earth", int(off.sum()))
    record = FishingRecord(
        trip=trip, water=water, start_s=start[rows], end_s=end[rows], rods=rods[rows],
        utc_offset_s=waters.offsets(water, start[rows], longitude),
        latitude=np.where(off, np.nan, latitude), longitude=np.where(off, np.nan, longitude),
        water_latitude=waters.latitude[water], water_longitude=waters.longitude[water],
        numbers=columns, words={n: _words(kept[n]) for n in WORDS},
        catch_effort=np.zeros(0, np.int64), catch_s=np.zeros(0), trips=len(trip_names),
    )  # fmt: skip
    return _with_catches(frames, record, rows, trip_names, water_names)


def _usable(frames: LogFrames, start: Floats, end: Floats, rods: Floats) -> Mask:
    untimed = ~(np.isfinite(start) & np.isfinite(end))
    turned = ~untimed & (end <= start)
    odd_rods = ~untimed & ~turned & ~((rods >= 0.0) & (rods <= _MOST_RODS))
    long = ~untimed & ~turned & ~odd_rods & (end - start > _LONGEST_S)
    none = ~untimed & ~turned & ~odd_rods & (rods == 0.0)
    for why, which in (
        ("efforts without a start or an end", untimed), ("efforts that end before they start", turned),
        (f"efforts with rods below 0 or over {_MOST_RODS:.0f}", odd_rods), ("efforts of more than two days", long),
        ("efforts without a rod", none),
    ):  # fmt: skip
        frames.count(why, int(which.sum()))
    return ~(untimed | turned | odd_rods | long | none)


def _overlapping(frames: LogFrames, efforts: pd.DataFrame, start: Floats, end: Floats, use: Mask) -> Mask:
    """Efforts of the very same tackle that begin while the one before runs: written twice, or never ended."""
    same = ["trip", "spot", "method", "lure", "lure_kind", "colour", "lure_depth_m", "rods"]
    group = efforts.groupby(same, sort=False).ngroup().to_numpy() if len(efforts) else np.zeros(0, np.int64)
    order = np.lexsort((end, start, group, ~use))
    order = order[use[order]]
    found = np.zeros(use.size, bool)
    if order.size > 1:
        g, s, e = group[order], start[order], end[order]
        # two like rods over the very same time are two rods
        late = (g[1:] == g[:-1]) & (s[1:] < e[:-1] - 60.0) & ~((s[1:] == s[:-1]) & (e[1:] == e[:-1]))
        found[order[1:][late]] = True
    frames.count("efforts that overlap one of the same tackle", int(found.sum()))
    return found


def _known(frames: LogFrames, name: str, values: Floats, texts: pd.Series) -> Floats:
    """Numbers that can be; negative depths and the like are not known."""
    wrong = np.isnan(values) & (texts.to_numpy() != "")
    if name in _BELOW_0:
        wrong |= values < 0.0
    if name == "water_temperature_c":
        wrong |= (values < -3.0) | (values > 45.0)
    frames.count(f"values of {name} that can't be", int(wrong.sum()))
    return np.where(wrong, np.nan, values)


def _words(texts: pd.Series) -> Words:
    code, written = pd.factorize(texts.to_numpy())
    names = sorted({w.strip() for w in written} - {""})
    at = {name: k for k, name in enumerate(names)}
    return Words(np.array([at.get(w.strip(), -1) for w in written], np.int64)[code], tuple(names))


def _waters(frames: LogFrames, trip_names: list[str], trip: Codes) -> tuple[Codes, list[str]]:
    trips = frames.tables["trips"]
    names = list(dict.fromkeys([w for w in frames.tables["waters"]["water"] if w] + [w for w in trips["water"] if w]))
    only = 0 if len(names) == 1 else len(names)
    code = {w: k for k, w in enumerate(names)}
    of_trip = {t: code.get(w, only) for t, w in zip(trips["trip"], trips["water"], strict=True)}
    by_code = np.array([of_trip.get(t, only) for t in trip_names] + [only], np.int64)
    return by_code[trip], [*names, ""]


class _Waters:
    """Places and clocks of the waters, the last one for effort of no water."""

    def __init__(self, frames: LogFrames, names: list[str]) -> None:
        table = frames.tables["waters"].drop_duplicates("water").set_index("water")
        table = table.reindex(names, fill_value="")
        self.latitude, self.longitude = numbers(table["latitude"]), numbers(table["longitude"])
        self.latitude[np.abs(self.latitude) > 90.0] = np.nan
        self.zones: list[ZoneInfo | None] = []
        odd = 0
        for zone in table["time_zone"]:
            try:
                self.zones.append(ZoneInfo(zone.strip()) if zone.strip() else None)
            except (ValueError, OSError, KeyError):  # a zone that is none, or leads elsewhere
                self.zones.append(None)
                odd += 1
        frames.count("time zones that are none", odd)

    def offsets(self, water: Codes, start_s: Floats, longitude: Floats) -> Floats:
        """Seconds to add to UTC; by the sun to whole hours where the zone is not known."""
        by_sun = np.where(np.isfinite(longitude), longitude, np.nan_to_num(self.longitude[water]))
        made = np.round(((by_sun + 180.0) % 360.0 - 180.0) / 15.0) * 3600.0
        for k, zone in enumerate(self.zones):
            here = water == k
            if zone is None or not here.any():
                continue
            utc = pd.DatetimeIndex((start_s[here] * 1e9).astype("int64"), tz="UTC")
            local = utc.tz_convert(zone).tz_localize(None)
            made[here] = (local.asi8 - utc.tz_localize(None).asi8) / 1e9
        return made


def _with_catches(
    frames: LogFrames, record: FishingRecord, rows: Codes, trip_names: list[str], water_names: list[str]
) -> ReadRecord:
    """The record with each catch at its effort: by its name, else by its trip and time."""
    from dataclasses import replace

    catches, efforts = frames.tables["catches"], frames.tables["efforts"]
    when = times(catches["time"])
    by_name = {name: k for k, name in enumerate(efforts["effort"].to_numpy()[rows]) if name}
    effort = np.array([by_name.get(name, -1) for name in catches["effort"]], np.int64)
    named = effort >= 0
    of = np.maximum(effort, 0)
    if rows.size:
        beside = named & (
            (when < record.start_s[of] - _NEAR_S) | (when > record.end_s[of] + _NEAR_S)
        )  # a time that is not known is within
        effort[beside] = -1
        _by_time(record, catches, trip_names, when, effort, (catches["effort"] == "").to_numpy())
    inside = effort >= 0
    frames.count("catches outside any effort", int((~inside).sum()))
    return ReadRecord(
        replace(record, catch_effort=effort[inside], catch_s=when[inside]), trip_names, water_names, rows,
        np.flatnonzero(inside), len(catches), frames.left_out,
    )  # fmt: skip


def _by_time(
    record: FishingRecord, catches: pd.DataFrame, trip_names: list[str], when: Floats, effort: Codes, nameless: Mask
) -> None:
    """Catches that name no effort: that of their trip whose time holds them, by depth where several do."""
    code = {name: k for k, name in enumerate(trip_names) if name}
    depth = numbers(catches["lure_depth_m"])
    of_trip: dict[int, Codes] = {}
    for k in np.flatnonzero(nameless & np.isfinite(when)):
        trip = code.get(catches["trip"].iat[k], -1)
        if trip < 0:
            continue
        if trip not in of_trip:
            of_trip[trip] = np.flatnonzero(record.trip == trip)
        here = of_trip[trip]
        here = here[(record.start_s[here] <= when[k]) & (record.end_s[here] >= when[k])]
        if not here.size:
            continue
        apart = np.abs(record.numbers["lure_depth_m"][here] - depth[k])
        effort[k] = here[int(np.argmin(np.nan_to_num(apart, nan=1e3)))]
