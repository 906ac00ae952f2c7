"""
The shape of a towed line, steady in the boat's frame (docs/handbook.md, 5.3).

The line is integrated from the body up: tension T and angle phi above the horizontal follow

    dT/ds   = w sin phi + kt cos phi abs(cos phi)
    dphi/ds = (w cos phi - kn sin phi abs(sin phi)) / T
    dx/ds   = cos phi,  dz/ds = sin phi

with kn = rho d Cn U^2 / 2 and kt = rho d Ct U^2 / 2 (Pode 1951; Casarella & Parsons 1970; Berteaux 1976). A body on
the way (ball, sinker, diver) adds its drag and its pull down to the vector (T cos phi, T sin phi). In a uniform
stream the state at s does not depend on what comes after, so one run gives every length at once.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace

RHO_FRESH = 998.0  # kg/m3, 20 degC
GRAVITY = 9.80665
_TURN_RAD, _COARSE_TURN_RAD = 0.12, 0.3  # largest bend of one step
_TURN_SHARE = 0.25  # and of the angle it has
_LEAST_STEPS, _COARSE_LEAST_STEPS = 6, 2  # per segment, at least
_LEAST_STEPS_SHEARED = 32
_MOST_STEPS = 4000
_SLACK_N = 1e-9  # a line without any pull on it has no direction


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
    """What hangs on the line: net weight in water (negative: it floats), drag area, downward lift area."""

    weight_n: float
    drag_area_m2: float
    lift_area_m2: float = 0.0


Piece = Segment | Body


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
    s_m: tuple[float, ...]  # length from the body up
    t_n: tuple[float, ...]  # tension there
    phi_rad: tuple[float, ...]  # angle above the horizontal there
    loads: tuple[int, ...] = ()  # which points carry the bodies on the way, in order

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


class _Path:
    """Points up the line: x and z in metres aft and up from the body, tension and angle at each."""

    __slots__ = ("loads", "phi", "s", "t", "top", "top_s", "x", "z")

    def __init__(self, t: float, phi: float) -> None:
        self.x, self.z, self.s, self.t, self.phi = [0.0], [0.0], [0.0], [t], [phi]
        self.loads: list[int] = []
        self.top, self.top_s = 0.0, 0.0

    def add(self, x: float, z: float, s: float, t: float, phi: float) -> None:
        self.x.append(x)
        self.z.append(z)
        self.s.append(s)
        self.t.append(t)
        self.phi.append(phi)
        if z > self.top:
            self.top, self.top_s = z, s


def _joined(t: float, phi: float, body: Body, q: float) -> tuple[float, float]:
    """Tension and angle above a body, from those below it."""
    along = t * math.cos(phi) + q * body.drag_area_m2
    down = t * math.sin(phi) + body.weight_n + q * body.lift_area_m2
    return max(math.hypot(along, down), _SLACK_N), math.atan2(down, along)


def _step(t: float, p: float, ds: float, w: float, kn: float, kt: float) -> tuple[float, float, float, float]:
    """One step of the classical Runge-Kutta method of fourth order: new T and phi, and the way made in x and z."""
    sin, cos = math.sin, math.cos
    h = ds / 2
    s1, c1 = sin(p), cos(p)
    a1, b1 = w * s1 + kt * c1 * abs(c1), (w * c1 - kn * s1 * abs(s1)) / t
    q = p + h * b1
    s2, c2 = sin(q), cos(q)
    a2, b2 = w * s2 + kt * c2 * abs(c2), (w * c2 - kn * s2 * abs(s2)) / max(t + h * a1, _SLACK_N)
    q = p + h * b2
    s3, c3 = sin(q), cos(q)
    a3, b3 = w * s3 + kt * c3 * abs(c3), (w * c3 - kn * s3 * abs(s3)) / max(t + h * a2, _SLACK_N)
    q = p + ds * b3
    s4, c4 = sin(q), cos(q)
    a4, b4 = w * s4 + kt * c4 * abs(c4), (w * c4 - kn * s4 * abs(s4)) / max(t + ds * a3, _SLACK_N)
    k = ds / 6
    return (
        max(t + k * (a1 + 2 * (a2 + a3) + a4), _SLACK_N),
        p + k * (b1 + 2 * (b2 + b3) + b4),
        k * (c1 + 2 * (c2 + c3) + c4),
        k * (s1 + 2 * (s2 + s3) + s4),
    )


def _run(
    body: Body,
    pieces: Sequence[Piece],
    speed: float,
    rho: float,
    up_to_m: float | None,
    stream: _Stream | None,
    coarse: bool = False,
) -> tuple[_Path, bool]:
    """Integrate up the line; stops where it has risen `up_to_m`, if asked. True if it got there."""
    bend_rad = _COARSE_TURN_RAD if coarse else _TURN_RAD
    least = _LEAST_STEPS_SHEARED if stream else _COARSE_LEAST_STEPS if coarse else _LEAST_STEPS
    sin, cos = math.sin, math.cos
    here = stream.speed_at(stream.body_depth_m) if stream else speed
    t, phi = _joined(0.0, 0.0, body, 0.5 * rho * here * abs(here))
    path = _Path(t, phi)
    x = z = s = 0.0
    for piece in pieces:
        if isinstance(piece, Body):
            here = stream.speed_at(stream.body_depth_m - z) if stream else speed
            t, phi = _joined(t, phi, piece, 0.5 * rho * here * abs(here))
            path.loads.append(len(path.s) - 1)
            path.t[-1], path.phi[-1] = t, phi
            continue
        end = s + piece.length_m
        longest = piece.length_m / least
        w, tiny = piece.weight_npm, 1e-12 * max(end, 1.0)
        half = 0.5 * rho * piece.diameter_m
        kn, kt = half * speed * abs(speed) * piece.cn, half * speed * abs(speed) * piece.ct
        last = piece is pieces[-1]
        for _ in range(_MOST_STEPS):
            left = end - s
            if left <= tiny:
                break
            sine, cosine = sin(phi), cos(phi)
            if stream:
                u = stream.speed_at(stream.body_depth_m - z)
                kn, kt = half * u * abs(u) * piece.cn, half * u * abs(u) * piece.ct
            ds = longest if longest < left else left
            # a slack line swings to its balance at once: steps longer than that would overshoot and ring
            settling = abs(w * sine) + 2 * kn * abs(sine * cosine)
            if settling * ds > 1.5 * t:
                ds = 1.5 * t / settling
            # a line that lies nearly flat changes its small angle by a share of itself
            turn = min(bend_rad, max(_TURN_SHARE * abs(phi), 0.002))
            bend = abs(w * cosine - kn * sine * abs(sine))
            if bend * ds > turn * t:
                ds = turn * t / bend
            if stream:
                # the middle of the step speaks for it
                u = stream.speed_at(stream.body_depth_m - z - ds / 2 * sine)
                kn, kt = half * u * abs(u) * piece.cn, half * u * abs(u) * piece.ct
            nt, nphi, dx, dz = _step(t, phi, ds, w, kn, kt)
            if up_to_m is not None and z + dz >= up_to_m > z:
                # shorten the step until it ends at the height: the rise is nearly straight
                for _ in range(6):
                    ds *= (up_to_m - z) / dz
                    nt, nphi, dx, dz = _step(t, phi, ds, w, kn, kt)
                    if abs(z + dz - up_to_m) < 1e-6:
                        break
                path.add(x + dx, z + dz, s + ds, nt, nphi)
                return path, True
            t, phi, x, z, s = nt, nphi, x + dx, z + dz, s + ds
            path.add(x, z, s, t, phi)
            if up_to_m is not None and phi < -0.2 and last:
                break  # from here on it only floats up
    return path, False


class _Stream:
    """Speed of the water past the boat by depth, with a guess of how deep the body is."""

    __slots__ = ("_slopes", "body_depth_m", "depths", "speeds")

    def __init__(self, profile: Sequence[tuple[float, float]], body_depth_m: float) -> None:
        self.depths, self.speeds = (list(v) for v in zip(*sorted(profile), strict=True))
        self.body_depth_m = body_depth_m
        steps = zip(self.depths, self.depths[1:], self.speeds, self.speeds[1:], strict=False)
        self._slopes = [(v1 - v0) / max(d1 - d0, 1e-9) for d0, d1, v0, v1 in steps]

    def speed_at(self, depth: float) -> float:
        i = bisect_left(self.depths, depth)
        if i == 0:
            return self.speeds[0]
        if i == len(self.depths):
            return self.speeds[-1]
        return self.speeds[i - 1] + self._slopes[i - 1] * (depth - self.depths[i - 1])


def _tow(path: _Path) -> Tow:
    x, z = path.x[-1], path.z[-1]
    return Tow(
        depth_m=z,
        layback_m=x,
        tension_n=path.t[-1],
        angle_deg=math.degrees(path.phi[-1]),
        length_m=path.s[-1],
        x_m=tuple([x - v for v in path.x]),
        z_m=tuple([z - v for v in path.z]),
        s_m=tuple(path.s),
        t_n=tuple(path.t),
        phi_rad=tuple(path.phi),
        loads=tuple(path.loads),
    )


def _check(speed_mps: float) -> None:
    if not (math.isfinite(speed_mps) and speed_mps >= 0.0):
        raise ValueError(f"speed through the water must be zero or more, not {speed_mps:g} m/s")


def tow(
    body: Body,
    pieces: Sequence[Piece],
    speed_mps: float,
    *,
    rho: float = RHO_FRESH,
    stream: Sequence[tuple[float, float]] | None = None,
    coarse: bool = False,
) -> Tow:
    """
    Depth, layback and shape of a line of given length.

    Parameters
    ----------
    body : Body
        At the lower end.
    pieces : sequence of Segment and Body
        From the body up: lengths of line, and bodies where they are clipped on.
    speed_mps : float
        Speed through the water (at every depth, unless `stream` is given).
    rho : float
        Density of the water, kg/m3.
    stream : sequence of (depth_m, speed_mps), optional
        Speed of the water past the boat by depth, straight lines between, constant outside; below zero it runs ahead.
    coarse : bool
        Fewer steps, about 1 % in depth: for differences between two such runs.

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
        return _tow(_run(body, pieces, speed_mps, rho, None, None, coarse)[0])
    # the stream at the body depends on how deep it hangs: secant steps on that depth
    guess = 0.7 * sum(s.length_m for s in pieces if isinstance(s, Segment))
    water = _Stream(stream, guess)
    last: tuple[float, float] | None = None
    path, _ = _run(body, pieces, speed_mps, rho, None, water)
    for _ in range(40):
        error = path.z[-1] - guess
        if abs(error) < 1e-4:
            break
        step = error
        if last is not None and abs(error - last[1]) > 1e-12:
            step = -error * (guess - last[0]) / (error - last[1])
        last = (guess, error)
        guess = max(guess + step, 0.0)
        water.body_depth_m = guess
        path, _ = _run(body, pieces, speed_mps, rho, None, water)
    return _tow(path)


def line_for_depth(
    body: Body,
    pieces: Sequence[Piece],
    depth_m: float,
    speed_mps: float,
    *,
    rho: float = RHO_FRESH,
    longest_m: float = 300.0,
    stream: Sequence[tuple[float, float]] | None = None,
) -> Tow:
    """
    How much of the topmost segment takes the body to a depth; its own length is not used.

    Raises
    ------
    Unreachable
        With the greatest depth that any length up to `longest_m` gives.
    ValueError
        If speed or depth make no sense, or the topmost piece is no line.
    """
    _check(speed_mps)
    if not (math.isfinite(depth_m) and depth_m >= 0.0):
        raise ValueError(f"depth must be zero or more, not {depth_m:g} m")
    top = pieces[-1] if pieces else None
    if not isinstance(top, Segment):
        raise ValueError("the topmost piece must be a line")
    endless = Segment(length_m=longest_m, diameter_m=top.diameter_m, weight_npm=top.weight_npm, cn=top.cn, ct=top.ct)
    water = None if stream is None else _Stream(stream, depth_m)  # how deep the body hangs is what was asked for
    path, reached = _run(body, [*pieces[:-1], endless], speed_mps, rho, max(depth_m, 1e-6), water)
    if not reached:
        raise Unreachable(max(path.top, 0.0), path.top_s)
    return _tow(path)


def length_between(
    body: Body,
    pieces: Sequence[Piece],
    index: int,
    depth_m: float,
    speed_mps: float,
    *,
    rho: float = RHO_FRESH,
    stream: Sequence[tuple[float, float]] | None = None,
    longest_m: float = 300.0,
) -> tuple[float, Tow]:
    """
    How long one segment has to be, with others above it, to take the body to a depth: the length, and the line.

    Parameters
    ----------
    body, pieces, speed_mps, rho, stream
        As for `tow`.
    index : int
        Which of the pieces is asked for; its own length is not used.
    depth_m, longest_m : float

    Raises
    ------
    Unreachable
        With the greatest depth that any length up to `longest_m` gives.
    ValueError
        If the piece is no line, or speed or depth make no sense.

    Notes
    -----
    What is above it changes with it, so the first length with enough depth is bracketed and halved.
    """
    _check(speed_mps)
    if not (math.isfinite(depth_m) and depth_m >= 0.0):
        raise ValueError(f"depth must be zero or more, not {depth_m:g} m")
    segment = pieces[index]
    if not isinstance(segment, Segment):
        raise ValueError("the piece whose length is asked for must be a line")

    def run(length: float) -> Tow:
        made = [*pieces[:index], replace(segment, length_m=length), *pieces[index + 1 :]]
        return tow(body, made, speed_mps, rho=rho, stream=stream)

    low, best = 0.0, (run(0.0).depth_m, 0.0)
    if best[0] >= depth_m:
        return 0.0, run(0.0)
    steps = 60
    for k in range(1, steps + 1):
        high = longest_m * (k / steps) ** 3
        depth = run(high).depth_m
        best = max(best, (depth, high))
        if depth >= depth_m:
            break
        low = high
    else:
        raise Unreachable(best[0], best[1])
    while high - low > 1e-6 * max(high, 1.0):
        middle = (low + high) / 2
        low, high = (low, middle) if run(middle).depth_m >= depth_m else (middle, high)
    return high, run(high)


def to_tip(tension_n: float, phi_rad: float, weight_npm: float, height_m: float) -> tuple[float, float]:
    """
    The line in the air, from where it leaves the water up to the rod tip: its length, and how far aft that is.

    Parameters
    ----------
    tension_n, phi_rad : float
        At the water; an angle below level counts as level.
    weight_npm : float
        Of the line in air, above zero.
    height_m : float
        Of the tip.

    Notes
    -----
    A catenary: the level pull H stays, tension grows by weight times height, so the rest follows without a search.

    Examples
    --------
    >>> length, aft = to_tip(1e6, math.radians(30.0), 1e-3, 2.0)
    >>> round(length, 3), round(aft, 3)
    (4.0, 3.464)
    """
    if height_m <= 0.0:
        return 0.0, 0.0
    low = max(tension_n * math.sin(phi_rad), 0.0)
    level = math.sqrt(max(tension_n**2 - low**2, 0.0))
    # V2^2 = (T + w h)^2 - H^2, written so that a tight line loses no digits
    gain = weight_npm * height_m
    high = math.sqrt(low**2 + 2 * tension_n * gain + gain**2)
    length = height_m * (2 * tension_n + gain) / (high + low)
    return length, math.sqrt(max(length**2 - height_m**2, 0.0)) if level > 0 else 0.0


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
    t, phi = _joined(0.0, 0.0, body, 0.5 * rho * speed_mps**2)
    kn = 0.5 * rho * segment.diameter_m * segment.cn * speed_mps**2
    if kn == 0.0:
        return segment.length_m * math.sin(phi), segment.length_m * math.cos(phi)
    u0 = 1.0 / math.tan(phi)
    u1 = u0 + kn * segment.length_m / t
    return (t / kn * (math.asinh(u1) - math.asinh(u0)), t / kn * (math.hypot(1, u1) - math.hypot(1, u0)))
