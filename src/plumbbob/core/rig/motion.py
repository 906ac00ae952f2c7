"""
Lines in motion: what a turn, a stop or a burst of speed does to every lure, in time.

Each line is a chain of nodes with links of fixed length between them (a lumped-mass line). A step of time is
implicit: Newton's method finds the speeds and tensions at its end, drag and the links' lengths with them. So a thin
line, whose own motion dies away in milliseconds, is stepped in tenths of a second. A link that would push is slack.

Places are metres: x east, y north, z down; the boat's track is the motion of its middle, rods stand abeam of it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy.linalg.lapack import dgbsv

from plumbbob.core.rig.line import GRAVITY, Body, Segment
from plumbbob.core.rig.methods import board_place, hanging
from plumbbob.core.rig.rod import CannotReach, Method, RigAnswer, RigSettings
from plumbbob.core.rig.track import LONGEST_S, Track
from plumbbob.core.types import Floats

Bottom = Callable[[Floats, Floats], Floats]  # depth of the bottom at x, y; NaN where not known

_LINKS = 14  # of a line, about
_STEP_S = 0.5
_NEWTON, _CLOSE_M = 6, 1e-3  # steps of Newton's method at most; the last one's way, which is ten times its error
_GIVE_PER_N = 1e-6  # stretch of a metre of line by a newton: next to nothing, and no system is singular
_STIFFNESS_NPM = 50.0  # weighs a link's stretch against its tension in telling slack from taut
_AIR = 1.2 / 1000.0  # how much less the air drags than the water
_SURFACE_M = 0.3  # over which a node goes from air to water
_SET_N = 0.5  # a board pulls once its line does
_EYE = np.eye(3)
_LEAST_MASS_KG, _LEAST_BODY_KG = 1e-4, 0.01
_FLOAT_NPM = 60.0  # a board's buoyancy, N a metre it is pushed under
_KEEP_S = 0.5
_NEAR_M = 1.0  # lines nearer than this to each other may cross


def _dot(a: Floats, b: Floats) -> Floats:
    return np.einsum("ij,ij->i", a, b)


def _outer(a: Floats, b: Floats) -> Floats:
    return a[:, :, None] * b[:, None, :]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LineRun:
    """One rod over the time of a run."""

    depth_m: Floats  # of the lure
    x: Floats
    y: Floats
    speed_mps: Floats  # of the lure through the water
    tension_n: Floats  # at the rod
    room_m: Floats  # from the lure down to the bottom; NaN where that is not known
    shape: Floats  # (time, node, 3), from the tip to the lower end
    lure_node: int

    @property
    def deepest_m(self) -> float:
        """Of the whole run."""
        return float(self.depth_m.max())


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Run:
    """A spread of rods along a track."""

    time: Floats
    boat_x: Floats
    boat_y: Floats
    lines: tuple[LineRun, ...]
    nearest_m: Floats  # between any two lines; infinite with one line

    @property
    def may_cross(self) -> bool:
        """Two lines come so near that they may tangle."""
        return bool((self.nearest_m < _NEAR_M).any())


@dataclass(slots=True)
class _Nodes:
    """All lines' nodes, one after the other; the first of each line is its rod tip."""

    first: list[int] = field(default_factory=list)
    lure: list[int] = field(default_factory=list)
    start: list[Floats] = field(default_factory=list)  # places aft and down of the tip, at the start
    length: list[float] = field(default_factory=list)  # of the link before each node; 0 for a tip
    dn: list[float] = field(default_factory=list)  # rho d cn / 2 of that link
    dt: list[float] = field(default_factory=list)  # rho d ct / 2
    weight: list[float] = field(default_factory=list)  # in water, N, of the node with half of both links
    air: list[float] = field(default_factory=list)  # what more it weighs in air
    mass: list[float] = field(default_factory=list)  # with added mass, kg
    drag: list[float] = field(default_factory=list)  # rho A / 2 of the body at the node
    lift: list[tuple[float, float]] = field(default_factory=list)  # rho A / 2, down and to starboard
    floats: list[bool] = field(default_factory=list)
    pull: list[float] = field(default_factory=list)  # tension of the link before each node, at the start

    def add(
        self, place: tuple[float, float, float], length: float, line: Segment | None, rho: float, pull: float = 0.0
    ) -> None:
        self.start.append(np.array(place))
        self.length.append(length)
        d = line.diameter_m if line else 0.0
        self.dn.append(0.5 * rho * d * line.cn if line else 0.0)
        self.dt.append(0.5 * rho * d * line.ct if line else 0.0)
        for values in (self.weight, self.air, self.mass, self.drag):
            values.append(0.0)
        self.lift.append((0.0, 0.0))
        self.floats.append(False)
        self.pull.append(pull)
        if line is None:
            return
        area = math.pi * d * d / 4 * length
        own = line.weight_npm * length / GRAVITY + rho * area
        for node, share in ((-1, 0.5), (-2, 0.5)):
            self.weight[node] += share * line.weight_npm * length
            self.air[node] += share * rho * area * GRAVITY
            self.mass[node] += share * (own + rho * area)

    def straight(self, to: tuple[float, float, float], line: Segment, links: int, rho: float, pull: float) -> None:
        """A straight line from the last node to a place."""
        start = self.start[-1]
        for i in range(1, links + 1):
            x, y, z = start + (np.array(to) - start) * i / links
            self.add((float(x), float(y), float(z)), line.length_m / links, line, rho, pull)

    def load(self, body: Body, rho: float, tilt_rad: float = 0.0) -> None:
        """Put a body on the last node."""
        self.weight[-1] += body.weight_n
        own = max(1.1 * abs(body.weight_n) / GRAVITY, _LEAST_BODY_KG)
        self.air[-1] += own * GRAVITY - body.weight_n
        self.mass[-1] += 1.5 * own  # with the water it drags along
        self.drag[-1] += 0.5 * rho * body.drag_area_m2
        lift = 0.5 * rho * body.lift_area_m2
        down, side = self.lift[-1]
        self.lift[-1] = (down + lift * math.cos(tilt_rad), side + lift * math.sin(tilt_rad))


def _lay_out(nodes: _Nodes, s: RigSettings, value: float) -> None:
    """One rod as nodes: from the tip down its steady shape, links in proportion to the pieces' lengths."""
    found = hanging(s, value)
    if found is None or found[1].length_m <= 0.0:
        raise ValueError(f"{s.method.value} has no line in the water to follow")
    made, steady, air, aft = found
    nodes.first.append(len(nodes.length))
    nodes.add((0.0, s.aside_m, -s.tip_height_m), 0.0, None, s.rho)
    side = 0.0
    if s.method is Method.BOARD:
        side, aft = board_place(s, steady)
        # what pulls on the board: its own drag and lift, and what it tows
        q = 0.5 * s.rho * s.speed_mps**2
        pull = math.hypot(q * s.board.side_area_m2, q * s.board.drag_area_m2 + steady.tension_n)
        nodes.straight((aft, s.aside_m + side, 0.0), s.line.segment(s.board_m, rho=s.rho), 3, s.rho, pull)
        nodes.load(s.board.body(), s.rho, math.copysign(math.pi / 2, side))
        nodes.weight[-1], nodes.floats[-1] = 0.0, True
    # from the tip down: the line of each piece, and what hangs at its lower end
    pieces: list[tuple[Segment, Body | None]] = []
    below: Body | None = made.end
    bodies = 0
    for piece in made.pieces(max(steady.length_m - made.fixed_m, 0.0)):
        if isinstance(piece, Body):
            below = piece
            bodies += 1
        elif piece.length_m > 0:
            pieces.append((piece, below))
            below = None
    pieces.reverse()
    if air > 0 and pieces:
        line = replace(pieces[0][0], length_m=air)
        nodes.straight(
            (aft, s.aside_m, 0.0), line, min(max(round(air / 4.0), 1), 3 * _LINKS), s.rho, steady.tension_n
        )
    x_up, z_up = np.array(steady.x_m), np.array(steady.z_m)
    tilt = math.radians(made.tilt_deg)
    lure, along = -1, 0.0
    for line, body in pieces:
        links = max(round(_LINKS * line.length_m / steady.length_m), 2 if line.length_m > 1.0 else 1)
        for _ in range(links):
            along += line.length_m / links
            at = max(steady.length_m - along, 0.0)
            back, deep = float(np.interp(at, steady.s_m, x_up)), float(np.interp(at, steady.s_m, z_up))
            place = (aft + back, s.aside_m + side + deep * math.sin(tilt), deep * math.cos(tilt))
            middle = at + line.length_m / links / 2
            pull = float(np.interp(middle, steady.s_m, steady.t_n))
            nodes.add(place, line.length_m / links, line, s.rho, pull)
        if body is made.end:
            nodes.load(body, s.rho, tilt if made.ball == -1 else 0.0)
            lure = len(nodes.length) - 1 if made.lure is None else lure
        elif body is not None:
            bodies -= 1
            nodes.load(body, s.rho, tilt if bodies == made.ball else 0.0)
            lure = len(nodes.length) - 1 if bodies == made.lure else lure
    nodes.lure.append(lure)


def run_along(
    rods: Sequence[RigSettings],
    answers: Sequence[RigAnswer],
    track: Track,
    *,
    bottom: Bottom | None = None,
    step_s: float = _STEP_S,
    progress: Callable[[float], None] = lambda fraction: None,
) -> Run:
    """
    Where every lure goes while the boat follows a track.

    Parameters
    ----------
    rods : sequence of RigSettings
        Ways whose line is in the water; speeds in them are those of the start.
    answers : sequence of RigAnswer
        What is out on each, as solved for the start.
    track : Track
    bottom : callable, optional
        Depth of the bottom at places; lures come to lie on it.
    step_s : float
        Step of time; the truth is approached as it goes to nothing.
    progress : callable

    Returns
    -------
    Run, a state every half second.

    Raises
    ------
    ValueError
        If there is no rod, one is cast, or the track lasts less than two steps or more than four hours.

    Notes
    -----
    Lumped mass, implicit Euler, links that do not stretch (the model of Walton & Polachek 1960). Drag of a link is
    put on its two ends; a current shears by depth where the rod's settings say so.
    """
    if not rods or any(isinstance(a, CannotReach) for a in answers):
        raise ValueError("a run needs at least one rod that reaches its depth")
    lasts = float(track.time[-1] - track.time[0])
    if not 2 * step_s <= lasts <= LONGEST_S:
        raise ValueError(f"a track lasts from two steps of time to {LONGEST_S / 3600:g} hours, not {lasts:g} s")
    # a board whose line goes slack takes many more of Newton's steps than the other lines: they are followed apart
    boards = [i for i, s in enumerate(rods) if s.method is Method.BOARD]
    others = [i for i in range(len(rods)) if i not in boards]
    lines: dict[int, LineRun] = {}
    stepper: _Stepper | None = None
    for k, group in enumerate(g for g in (others, boards) if g):
        nodes = _Nodes()
        for i in group:
            _lay_out(nodes, rods[i], answers[i].value)
        tell = partial(_part_done, progress, k * len(others) / len(rods), len(group) / len(rods))
        stepper = _Stepper(nodes, [rods[i] for i in group], track, bottom, step_s)
        found = stepper.run(tell)
        lines.update(zip(group, found, strict=True))
    assert stepper is not None
    ordered = tuple(lines[i] for i in range(len(rods)))
    time, boat_x, boat_y = stepper.way
    return Run(time=time, boat_x=boat_x, boat_y=boat_y, lines=ordered, nearest_m=_nearest(ordered))


def _part_done(progress: Callable[[float], None], before: float, share: float, fraction: float) -> None:
    progress(before + share * fraction)


class _Stepper:
    """The state of all nodes and how it goes on by one step."""

    def __init__(
        self, nodes: _Nodes, rods: Sequence[RigSettings], track: Track, bottom: Bottom | None, step_s: float
    ) -> None:
        self.nodes, self.track, self.bottom, self.h = nodes, track, bottom, step_s
        n = len(nodes.length)
        self.n = n
        self.tips = np.array(nodes.first)
        self.is_tip = np.zeros(n, bool)
        self.is_tip[self.tips] = True
        self.length = np.array(nodes.length)
        self.half = 0.5 * self.length
        self.dn, self.dt = np.array(nodes.dn), np.array(nodes.dt)
        self.weight, self.air = np.array(nodes.weight), np.array(nodes.air)
        self.mass = np.maximum(np.array(nodes.mass), _LEAST_MASS_KG)
        self.drag, self.lift = np.array(nodes.drag), np.array(nodes.lift)
        self.floats = np.array(nodes.floats)
        self.rod = np.cumsum(self.is_tip) - 1  # which line a node is of
        self.aside = np.array([r.aside_m for r in rods])
        self.tip_z = np.array([-r.tip_height_m for r in rods])
        shears = [np.array(r.current or [(0.0, 0.0)]) for r in rods]
        self.sheared = any(r.current for r in rods)
        self.shears = shears
        self.inner = ~self.is_tip
        self.bands = _band_places(n)
        self.time = np.arange(track.time[0], track.time[-1] + 1e-9, step_s)
        self.boat, self.heading = self._way()
        self._start()

    def _way(self) -> tuple[Floats, Floats]:
        """The boat at each step, and its heading: along the water, as a rod sees it."""
        t = self.track
        boat = np.stack([np.interp(self.time, t.time, t.x), np.interp(self.time, t.time, t.y)], axis=1)
        drift = np.array(t.current_mps)
        way = np.gradient(boat, self.time, axis=0) - drift
        moving = np.hypot(*way.T) > 0.05
        heading = np.arctan2(way[:, 0], way[:, 1])
        # a boat at rest keeps its heading
        if moving.any():
            index = np.where(moving, np.arange(len(moving)), -1)
            index = np.maximum.accumulate(index)
            index[index < 0] = int(np.flatnonzero(moving)[0])
            heading = heading[index]
        heading = np.unwrap(heading)
        width = max(round(1.0 / self.h), 1)
        if width > 1 and len(heading) > 2 * width:
            padded = np.pad(heading, width, mode="edge")
            heading = np.convolve(padded, np.full(2 * width + 1, 1 / (2 * width + 1)), mode="valid")
        return boat, heading

    def _tips_at(self, k: int) -> Floats:
        c, s = math.cos(self.heading[k]), math.sin(self.heading[k])
        out = np.empty((len(self.tips), 3))
        out[:, 0] = self.boat[k, 0] + self.aside * c
        out[:, 1] = self.boat[k, 1] - self.aside * s
        out[:, 2] = self.tip_z
        return out

    def _start(self) -> None:
        """The steady shape behind the boat, all of it moving as the boat does."""
        c, s = math.cos(self.heading[0]), math.sin(self.heading[0])
        shape = np.array(self.nodes.start)
        x = self.boat[0, 0] - shape[:, 0] * s + shape[:, 1] * c
        y = self.boat[0, 1] - shape[:, 0] * c - shape[:, 1] * s
        self.place = np.stack([x, y, shape[:, 2]], axis=1)
        v = (self.boat[1] - self.boat[0]) / self.h if len(self.boat) > 1 else np.zeros(2)
        self.speed = np.zeros((self.n, 3))
        self.speed[:, :2] = v
        self.before = self.speed.copy()
        self.pull = np.array(self.nodes.pull)

    def _water(self) -> Floats:
        """Speed of the water at each node."""
        out = np.zeros((self.n, 3))
        out[:, :2] = self.track.current_mps
        if self.sheared:
            k = self.step
            ahead = np.array([math.sin(self.heading[k]), math.cos(self.heading[k])])
            for line, shear in enumerate(self.shears):
                mine = self.rod == line
                along = np.interp(self.place[mine, 2], shear[:, 0], shear[:, 1])
                out[mine, :2] += along[:, None] * ahead
        return out

    def _drag(self, link: Floats, flow: Floats, wet: Floats) -> tuple[Floats, Floats]:
        """Drag and lift on each node (n, 3), against its flow, and how they follow its speed (n, 3, 3)."""
        # half of each link on its lower end (0), half on its upper end, the node before it (1)
        own = np.empty((2, self.n, 3))
        own[0], own[1, 1:], own[1, 0] = flow, flow[:-1], 0.0
        share = np.empty((2, self.n))
        share[0], share[1, 1:], share[1, 0] = self.half * wet, self.half[1:] * wet[:-1], 0.0
        u_t = np.einsum("kij,ij->ki", own, link)
        across = own - u_t[:, :, None] * link
        u_n = np.sqrt(np.einsum("kij,kij->ki", across, across))
        cross, lengthwise = share * self.dn * u_n, share * self.dt * np.abs(u_t)
        part = cross[:, :, None] * across + (lengthwise * u_t)[:, :, None] * link
        # across: cross (1 - l l') + cross u u' / |u|^2; along: twice the lengthwise
        weight = cross / np.maximum(u_n, 1e-9) ** 2
        bend = weight[:, :, None, None] * (across[:, :, :, None] * across[:, :, None, :])
        bend += (2 * lengthwise - cross)[:, :, None, None] * _outer(link, link)
        for axis in range(3):
            bend[:, :, axis, axis] += cross
        force, slope = part[0], bend[0]
        force[:-1] += part[1, 1:]
        slope[:-1] += bend[1, 1:]
        size = np.sqrt(_dot(flow, flow))
        drag = self.drag * wet
        force += (drag * size)[:, None] * flow
        unit = flow / np.maximum(size, 1e-9)[:, None]
        slope += (drag * size)[:, None, None] * (_EYE + _outer(unit, unit))
        # lift stands across the flow, so it is a turning part that does no work, whatever the step
        # a board whose line is slack swims flat and does not pull
        pulled = np.where(self.floats, np.clip(self.pull / _SET_N, 0.0, 1.0), 1.0)
        side, down = pulled * self.lift[:, 1] * size * wet, self.lift[:, 0] * size * wet
        turn = np.zeros((self.n, 3, 3))
        turn[:, 0, 1], turn[:, 1, 0] = -side, side
        level = np.maximum(np.hypot(flow[:, 0], flow[:, 1]), 1e-9)
        for axis in (0, 1):
            turn[:, axis, 2] = down * flow[:, axis] / level
            turn[:, 2, axis] = -turn[:, axis, 2]
        pushed = np.einsum("ijk,ik->ij", turn, flow)
        # and it grows with the square of the speed
        return force + pushed, slope + turn + _outer(pushed, unit / np.maximum(size, 1e-9)[:, None])

    def advance(self, k: int) -> None:
        """One step of time, to index `k` of the boat's way: Newton's method on the speeds and tensions at its end."""
        h, self.step = self.h, k
        old, before = self.place, self.speed
        water = self._water()
        # as it went on from the last step, so will it
        speed, pull = 2 * before - self.before, self.pull.copy()
        speed[self.tips] = (self._tips_at(k) - old[self.tips]) / h
        # what is in the water is told by the last places: a node on its way out keeps no step from ending
        wet = np.clip(0.5 + old[:, 2] / _SURFACE_M, _AIR, 1.0)
        wet[self.floats] = 1.0
        for _ in range(_NEWTON):
            place = old + h * speed
            gap = np.zeros((self.n, 3))
            gap[1:] = place[1:] - place[:-1]
            gap[self.tips] = 0.0
            size = np.maximum(np.sqrt(_dot(gap, gap)), 1e-6)
            link = gap / size[:, None]
            drag, slope = self._drag(link, speed - water, wet)
            rest = (self.mass / h)[:, None] * (speed - before) + drag + pull[:, None] * link
            rest[:-1] -= pull[1:, None] * link[1:]
            rest[:, 2] -= self.weight + self.air * (1 - wet)
            slope[:, range(3), range(3)] += (self.mass / h)[:, None]
            # a board pushed under the surface is lifted, out of the water it falls back
            rest[self.floats, 2] += _FLOAT_NPM * place[self.floats, 2]
            slope[self.floats, 2, 2] += _FLOAT_NPM * h
            stiff = h * (np.maximum(pull, 0.0) / size)[:, None, None] * (_EYE - _outer(link, link))
            change = self._newton(link, size - self.length, pull, rest, slope, stiff)
            pull += change[:, 0]
            speed += change[:, 1:]
            if h * float(np.abs(change[:, 1:]).max()) < _CLOSE_M:
                break
        self.place, self.speed, self.before, self.pull = old + h * speed, speed, before, np.maximum(pull, 0.0)
        self._come_to_rest()

    def _newton(
        self, link: Floats, stretch: Floats, pull: Floats, rest: Floats, slope: Floats, stiff: Floats
    ) -> Floats:
        """Changes of tension and speed (n, 4): every node with the links at both its ends, as one banded system."""
        h, n = self.h, self.n
        give = _GIVE_PER_N * self.length
        here, down, up = np.zeros((n, 4, 4)), np.zeros((n, 4, 4)), np.zeros((n, 4, 4))  # to itself, before, after
        right = np.zeros((n, 4))
        here[:, 1:, 1:] = slope + stiff
        here[:-1, 1:, 1:] += stiff[1:]
        down[:, 1:, 1:] = -stiff
        up[:-1, 1:, 1:] = -stiff[1:]
        here[:, 1:, 0] = link
        up[:-1, 1:, 0] = -link[1:]
        right[:, 1:] = -rest
        # a link that is not stretched and would have to push is slack
        taut = self.inner & (pull + _STIFFNESS_NPM * (stretch - give * pull) > 0)
        here[:, 0, 1:] = np.where(taut[:, None], h * link, 0.0)
        down[:, 0, 1:] = -here[:, 0, 1:]
        here[:, 0, 0] = np.where(taut, -give, 1.0)
        right[:, 0] = np.where(taut, give * pull - stretch, -pull)
        for block in (here, down, up):
            block[self.tips] = 0.0
        here[self.tips] = np.eye(4)
        right[self.tips] = 0.0
        # LAPACK's band form, with room above for what its pivots fill in
        bands = np.zeros(4 * n * 22)
        for block, index in zip((here, down[1:], up[:-1]), self.bands, strict=True):
            bands[index] = block
        _, _, solved, wrong = dgbsv(
            7, 7, bands.reshape(4 * n, 22).T, right.ravel(), overwrite_ab=True, overwrite_b=True
        )
        if wrong:
            raise FloatingPointError("the lines could not be followed through this motion")
        return solved.reshape(n, 4)

    def _come_to_rest(self) -> None:
        """What has sunk to the bottom lies on it."""
        if self.bottom is None:
            return
        floor = self.bottom(self.place[:, 0], self.place[:, 1])
        under = np.isfinite(floor) & (self.place[:, 2] > floor)
        if under.any():
            self.place[under, 2] = floor[under]
            self.speed[under, 2] = np.minimum(self.speed[under, 2], 0.0)

    def run(self, progress: Callable[[float], None]) -> list[LineRun]:
        """All of the track."""
        every = max(round(_KEEP_S / self.h), 1)
        kept: list[tuple[Floats, Floats, Floats]] = [(self.place.copy(), self.speed.copy(), self.pull.copy())]
        index = [0]
        n = len(self.time)
        for k in range(1, n):
            self.advance(k)
            if not np.isfinite(self.place).all():
                raise FloatingPointError("the lines could not be followed through this motion")
            if k % every == 0 or k == n - 1:
                kept.append((self.place.copy(), self.speed.copy(), self.pull.copy()))
                index.append(k)
            if k % 40 == 0:
                progress(k / n)
        progress(1.0)
        at = np.array(index)
        self.way = (self.time[at], self.boat[at, 0], self.boat[at, 1])
        return self._told(kept)

    def _told(self, kept: list[tuple[Floats, Floats, Floats]]) -> list[LineRun]:
        places = np.stack([p for p, _, _ in kept])
        speeds = np.stack([v for _, v, _ in kept])
        pulls = np.stack([t for _, _, t in kept])
        ends = [*self.nodes.first[1:], self.n]
        lines = []
        for first, end, lure in zip(self.nodes.first, ends, self.nodes.lure, strict=True):
            at = places[:, lure]
            through = speeds[:, lure] - np.array([*self.track.current_mps, 0.0])
            floor = self.bottom(at[:, 0], at[:, 1]) if self.bottom is not None else np.full(len(at), np.nan)
            lines.append(
                LineRun(
                    depth_m=np.maximum(at[:, 2], 0.0),  # what floats lies on the water
                    x=at[:, 0],
                    y=at[:, 1],
                    speed_mps=np.sqrt((through**2).sum(axis=1)),
                    tension_n=pulls[:, first + 1],
                    room_m=floor - at[:, 2],
                    shape=places[:, first:end],
                    lure_node=lure - first,
                )
            )
        return lines


def _band_places(n: int) -> tuple[NDArray[np.int64], ...]:
    """Where in LAPACK's columns of 22 the blocks go: of a node to itself, to the one before, to the one after."""
    row, column = np.arange(4)[:, None], np.arange(4)[None, :]
    node = np.arange(n)[:, None, None]
    return tuple(
        (4 * (node[a:b] + step) + column) * 22 + 14 + row - column - 4 * step
        for step, a, b in ((0, 0, n), (-1, 1, n), (1, 0, n - 1))
    )


def _nearest(lines: Sequence[LineRun]) -> Floats:
    """Least distance between any two lines at each time, away from the rods, from nodes set close along each."""
    nearest = np.full(len(lines[0].depth_m), np.inf)
    fine = [_fine(line.shape) for line in lines]
    for i, a in enumerate(fine):
        for b in fine[i + 1 :]:
            # |a - b|^2 = |a|^2 + |b|^2 - 2 a.b, about a place between them so that no digits are lost
            middle = a.mean(axis=1, keepdims=True)
            p, q = a - middle, b - middle
            gap = (p**2).sum(axis=2)[:, :, None] + (q**2).sum(axis=2)[:, None, :] - 2 * p @ q.transpose(0, 2, 1)
            nearest = np.minimum(nearest, np.sqrt(np.maximum(gap.min(axis=(1, 2)), 0.0)))
    return nearest


def _fine(shape: Floats) -> Floats:
    """A line's nodes and the middles between them, without what is in the air and the first metres under the rod."""
    middles = (shape[:, 1:] + shape[:, :-1]) / 2
    both = np.concatenate([shape[:, 2:], middles[:, 2:]], axis=1)
    return both
