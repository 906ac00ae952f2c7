"""
The shape of a towed line, steady in the boat's frame (handbook of the field, 5.3).

The line is integrated from the body up: tension T and angle phi above the horizontal follow

    dT/ds   = w sin phi + kt cos phi |cos phi|
    dphi/ds = (w cos phi - kn sin phi |sin phi|) / T
    dx/ds   = cos phi,  dz/ds = sin phi

with kn = rho d Cn U^2 / 2 and kt = rho d Ct U^2 / 2 (Pode 1951; Casarella & Parsons 1970; Berteaux 1976).
In a uniform stream the state at s does not depend on what comes after, so one run gives every length at once.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

RHO_FRESH = 998.0  # kg/m3, 20 degC
GRAVITY = 9.80665
_TURN_RAD = 0.06  # largest bend of one step
_TURN_SHARE = 0.25  # and of the angle it has
_LEAST_STEPS = 16  # per segment, at least
_LEAST_STEPS_SHEARED = 100
_MOST_STEPS = 4000


@dataclass(frozen=True, slots=True, kw_only=True)
class Segment:
    """A piece of line of one kind; weight in water is negative for a line that floats."""

    length_m: float
    diameter_m: float
    weight_npm: float  # N/m in water
    cn: float = 1.2  # drag across, on diameter times length
    ct: float = 0.015  # drag along, on diameter times length

    def __post_init__(self) -> None:
        if not (self.length_m >= 0 and self.diameter_m >= 0 and self.cn >= 0 and self.ct >= 0):
            raise ValueError(f"a line cannot have negative length, diameter or drag: {self}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """What hangs at the end: net weight in water (negative: it floats), drag area, downward lift area."""

    weight_n: float
    drag_area_m2: float
    lift_area_m2: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tow:
    """A solved line. Depth and layback of the body, seen from where the line enters the water."""

    depth_m: float
    layback_m: float
    tension_n: float  # at the surface
    angle_deg: float  # of the line at the surface, above the horizontal
    length_m: float  # in the water
    x_m: tuple[float, ...]  # aft of the entry, from the body up
    z_m: tuple[float, ...]  # depth, from the body up

    @property
    def angle_from_vertical_deg(self) -> float:
        """Of the line at the surface."""
        return 90.0 - self.angle_deg


class Unreachable(ValueError):
    """No length of this line takes the body so deep; `greatest_depth_m` is as deep as it gets."""

    def __init__(self, greatest_depth_m: float, length_m: float) -> None:
        super().__init__(f"at most {greatest_depth_m:.1f} m deep, with {length_m:.0f} m of line")
        self.greatest_depth_m = greatest_depth_m
        self.length_m = length_m


@dataclass(slots=True)
class _State:
    """Tension, angle and place of the end of what has been integrated, in metres aft and up from the body."""

    t: float
    phi: float
    x: float
    z: float
    s: float


class _Path:
    """Points along the line, and the highest one so far."""

    def __init__(self, state: _State) -> None:
        self.x, self.z, self.s = [state.x], [state.z], [state.s]
        self.top, self.top_s = state.z, state.s

    def add(self, state: _State) -> None:
        self.x.append(state.x)
        self.z.append(state.z)
        self.s.append(state.s)
        if state.z > self.top:
            self.top, self.top_s = state.z, state.s


def _start(body: Body, speed: float, rho: float) -> _State:
    q = 0.5 * rho * speed * speed
    drag = q * body.drag_area_m2
    down = body.weight_n + q * body.lift_area_m2
    return _State(max(math.hypot(drag, down), 1e-9), math.atan2(down, drag), 0.0, 0.0, 0.0)


def _rates(t: float, phi: float, w: float, kn: float, kt: float) -> tuple[float, float, float, float]:
    s, c = math.sin(phi), math.cos(phi)
    return w * s + kt * c * abs(c), (w * c - kn * s * abs(s)) / t, c, s


def _step(state: _State, ds: float, w: float, kn: float, kt: float) -> _State:
    """One step of the classical Runge-Kutta method of fourth order."""
    t, p = state.t, state.phi
    a1, b1, c1, d1 = _rates(t, p, w, kn, kt)
    h = ds / 2
    a2, b2, c2, d2 = _rates(max(t + h * a1, 1e-9), p + h * b1, w, kn, kt)
    a3, b3, c3, d3 = _rates(max(t + h * a2, 1e-9), p + h * b2, w, kn, kt)
    a4, b4, c4, d4 = _rates(max(t + ds * a3, 1e-9), p + ds * b3, w, kn, kt)
    k = ds / 6
    return _State(
        max(t + k * (a1 + 2 * a2 + 2 * a3 + a4), 1e-9),
        p + k * (b1 + 2 * b2 + 2 * b3 + b4),
        state.x + k * (c1 + 2 * c2 + 2 * c3 + c4),
        state.z + k * (d1 + 2 * d2 + 2 * d3 + d4),
        state.s + ds,
    )


def _next_step(state: _State, w: float, kn: float, longest: float) -> float:
    s, c = abs(math.sin(state.phi)), math.cos(state.phi)
    bend = abs(w * c - kn * s * s) / state.t if state.phi >= 0 else abs(w * c + kn * s * s) / state.t
    # a slack line swings to its balance at once: steps longer than that would overshoot and ring
    settling = (abs(w) * s + 2 * kn * s * abs(c)) / state.t
    longest = min(longest, 1.5 / settling) if settling > 0 else longest
    # a line that lies nearly flat changes its small angle by a share of itself
    turn = min(_TURN_RAD, max(_TURN_SHARE * abs(state.phi), 0.002))
    return min(longest, turn / bend) if bend > 0 else longest


def _run(
    body: Body,
    segments: Sequence[Segment],
    speed: float,
    rho: float,
    up_to_m: float | None,
    stream: _Stream | None,
) -> tuple[_State, _Path, bool]:
    """Integrate up the line; stops where it has risen `up_to_m`, if asked. True if it got there."""
    at_body = stream.speed_at(stream.body_depth_m) if stream else speed
    state = _start(body, at_body, rho)
    path = _Path(state)
    for segment in segments:
        end = state.s + segment.length_m
        longest = segment.length_m / (_LEAST_STEPS_SHEARED if stream else _LEAST_STEPS)
        for _ in range(_MOST_STEPS):
            left = end - state.s
            if left <= 1e-12 * max(end, 1.0):
                break
            u = speed
            if stream:
                # the middle of the step speaks for it
                u = stream.speed_at(stream.body_depth_m - state.z - longest / 2 * math.sin(state.phi))
            q = 0.5 * rho * segment.diameter_m * u * abs(u)
            w, kn, kt = segment.weight_npm, q * segment.cn, q * segment.ct
            ds = min(_next_step(state, w, kn, longest), left)
            new = _step(state, ds, w, kn, kt)
            if up_to_m is not None and new.z >= up_to_m > state.z:
                # shorten the step until it ends at the height: the rise is nearly straight
                for _ in range(6):
                    ds *= (up_to_m - state.z) / (new.z - state.z)
                    new = _step(state, ds, w, kn, kt)
                    if abs(new.z - up_to_m) < 1e-6:
                        break
                path.add(new)
                return new, path, True
            state = new
            path.add(state)
            if up_to_m is not None and state.phi < -0.2:
                break
    return state, path, False


@dataclass(frozen=True, slots=True)
class _Stream:
    """Speed of the water past the boat by depth, with a guess of how deep the body is."""

    depths: tuple[float, ...]
    speeds: tuple[float, ...]
    body_depth_m: float

    def speed_at(self, depth: float) -> float:
        d, v = self.depths, self.speeds
        if depth <= d[0]:
            return v[0]
        for i in range(1, len(d)):
            if depth <= d[i]:
                return v[i - 1] + (v[i] - v[i - 1]) * (depth - d[i - 1]) / (d[i] - d[i - 1])
        return v[-1]


def _tow(state: _State, path: _Path) -> Tow:
    return Tow(
        depth_m=state.z,
        layback_m=state.x,
        tension_n=state.t,
        angle_deg=math.degrees(state.phi),
        length_m=state.s,
        x_m=tuple(state.x - x for x in path.x),
        z_m=tuple(state.z - z for z in path.z),
    )


def _check(speed_mps: float) -> None:
    if not (math.isfinite(speed_mps) and speed_mps >= 0.0):
        raise ValueError(f"speed through the water must be zero or more, not {speed_mps:g} m/s")


def tow(
    body: Body,
    segments: Sequence[Segment],
    speed_mps: float,
    *,
    rho: float = RHO_FRESH,
    stream: Sequence[tuple[float, float]] | None = None,
) -> Tow:
    """
    Depth, layback and shape of a line of given length.

    Parameters
    ----------
    body : Body
    segments : sequence of Segment
        From the body up.
    speed_mps : float
        Speed through the water (at every depth, unless `stream` is given).
    rho : float
        Density of the water, kg/m3.
    stream : sequence of (depth_m, speed_mps), optional
        Speed of the water past the boat by depth, straight lines between, constant outside.

    Returns
    -------
    Tow

    Raises
    ------
    ValueError
        If the speed is negative or not a number.

    Examples
    --------
    >>> mono = Segment(length_m=20, diameter_m=0.0003, weight_npm=0.097e-3, cn=1.2, ct=0.015)
    >>> solved = tow(Body(weight_n=2.0, drag_area_m2=0.5 / 500), [mono], 1.0, rho=1000)
    >>> round(solved.depth_m, 3), round(solved.layback_m, 3), round(solved.angle_deg, 2)
    (13.694, 13.757, 26.72)
    """
    _check(speed_mps)
    if stream is None:
        state, path, _ = _run(body, segments, speed_mps, rho, None, None)
        return _tow(state, path)
    depths, speeds = zip(*sorted(stream), strict=True)
    # the stream at the body depends on how deep it hangs: secant steps on that depth
    guess, step = 0.7 * sum(s.length_m for s in segments), None
    last: tuple[float, float] | None = None
    for _ in range(40):
        state, path, _ = _run(body, segments, speed_mps, rho, None, _Stream(depths, speeds, guess))
        error = state.z - guess
        if abs(error) < 1e-5:
            break
        if last is not None and abs(error - last[1]) > 1e-12:
            step = -error * (guess - last[0]) / (error - last[1])
        else:
            step = error
        last = (guess, error)
        guess = max(guess + step, 0.0)
    return _tow(state, path)


def line_for_depth(
    body: Body,
    segments: Sequence[Segment],
    depth_m: float,
    speed_mps: float,
    *,
    rho: float = RHO_FRESH,
    longest_m: float = 300.0,
) -> Tow:
    """
    How much of the topmost segment takes the body to a depth; its own length is not used.

    Raises
    ------
    Unreachable
        With the greatest depth that any length up to `longest_m` gives.
    ValueError
        If speed or depth make no sense.
    """
    _check(speed_mps)
    if not depth_m >= 0.0:
        raise ValueError(f"depth must be zero or more, not {depth_m:g} m")
    top = segments[-1]
    endless = Segment(length_m=longest_m, diameter_m=top.diameter_m, weight_npm=top.weight_npm, cn=top.cn, ct=top.ct)
    state, path, reached = _run(body, [*segments[:-1], endless], speed_mps, rho, max(depth_m, 1e-6), None)
    if not reached:
        raise Unreachable(max(path.top, 0.0), path.top_s)
    return _tow(state, path)


def weightless_depth_m(
    body: Body, segment: Segment, speed_mps: float, *, rho: float = RHO_FRESH
) -> tuple[float, float]:
    """
    Closed form for a line without weight and without drag along it: depth and layback.

    Notes
    -----
    T is constant; with u = cot phi: depth = T/kn (asinh u1 - asinh u0), layback = T/kn (sqrt(1+u1^2) - sqrt(1+u0^2)).
    Used to test the integration.
    """
    start = _start(body, speed_mps, rho)
    kn = 0.5 * rho * segment.diameter_m * segment.cn * speed_mps**2
    if kn == 0.0:
        return segment.length_m * math.sin(start.phi), segment.length_m * math.cos(start.phi)
    u0 = 1.0 / math.tan(start.phi)
    u1 = u0 + kn * segment.length_m / start.t
    return (
        start.t / kn * (math.asinh(u1) - math.asinh(u0)),
        start.t / kn * (math.hypot(1, u1) - math.hypot(1, u0)),
    )
