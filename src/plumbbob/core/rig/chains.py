"""Each way whose line stays in the water, as a chain from the lower end up: line, bodies, line to the tip."""

from __future__ import annotations

from dataclasses import dataclass, replace

from plumbbob.core.rig import tackle
from plumbbob.core.rig.line import GRAVITY, Body, Piece, Segment, Tow, to_tip, tow
from plumbbob.core.rig.rod import Method, RigSettings

_LONGEST_M = {Method.DOWNRIGGER: 300.0, Method.FLAT_LINE: 150.0, Method.BOARD: 150.0, Method.CLIP: 200.0}
_SPREADER_M = 0.3  # from a dropper's weight up to the lowest hook


@dataclass(frozen=True, slots=True, kw_only=True)
class Chain:
    """A line from its lower end up; what is let out comes after what is fixed, one kind of line after the other."""

    end: Body
    fixed: tuple[Piece, ...]
    tops: tuple[Segment, ...]  # each as long as there is of it
    lure: int | None = None  # which of the bodies on the way is the lure; None: the lower end
    ball: int | None = None  # which is ball, disc or sinker; -1: the lower end
    hooks: tuple[int, ...] = ()
    tilt_deg: float = 0.0  # of the plane in which it hangs, off the vertical, to starboard
    air_npm: tuple[float, ...] = ()  # weight in air of each of the tops; none: the line ends at the surface
    counted_from_m: float = 0.0  # length below what is measured out

    @property
    def fixed_m(self) -> float:
        """Length of all that is always in the water."""
        return sum(piece.length_m for piece in self.fixed if isinstance(piece, Segment))

    def pieces(self, top_m: float) -> list[Piece]:
        """With so much let out."""
        out: list[Piece] = list(self.fixed)
        left = max(top_m, 0.0)
        for top in self.tops:
            # the last kind gives what is asked for, even past its end
            part = left if top is self.tops[-1] else min(left, top.length_m)
            out.append(replace(top, length_m=part))
            left -= part
            if left <= 0:
                break
        return out


def chain(settings: RigSettings) -> Chain:
    """
    The rod as a chain.

    Raises
    ------
    KeyError
        For ways of casting: their line is not in the water all the time.
    """
    return _MAKERS[settings.method](settings)


def _air(*lines: tackle.LineKind) -> tuple[float, ...]:
    return tuple(line.mass_a_metre() * GRAVITY for line in lines)


def _top(s: RigSettings) -> Segment:
    return s.line.segment(_LONGEST_M.get(s.method, 300.0), rho=s.rho)


def _downrigger(s: RigSettings) -> Chain:
    lead = (s.line.segment(s.lead_m, rho=s.rho), s.ball.body(s.rho))
    wire = s.wire.segment(_LONGEST_M[s.method], rho=s.rho)
    return Chain(end=s.lure.body(), fixed=lead, tops=(wire,), air_npm=_air(s.wire), ball=0, counted_from_m=s.lead_m)


def _plain(s: RigSettings) -> Chain:
    return Chain(end=s.lure.body(), fixed=(), tops=(_top(s),), air_npm=_air(s.line))


def _board(s: RigSettings) -> Chain:
    return Chain(end=s.lure.body(), fixed=(), tops=(_top(s),))


def _core(s: RigSettings) -> Chain:
    fixed = (s.leader.segment(s.leader_m, rho=s.rho),)
    return Chain(
        end=s.lure.body(),
        fixed=fixed,
        tops=(s.core.segment(s.core_m, rho=s.rho), _top(s)),
        air_npm=_air(s.core, s.line),
    )


def _clip(s: RigSettings) -> Chain:
    fixed = (s.line.segment(s.ahead_m, rho=s.rho), s.sinker.body(s.rho))
    return Chain(end=s.lure.body(), fixed=fixed, tops=(_top(s),), air_npm=_air(s.line), ball=0)


def _walker(s: RigSettings) -> Chain:
    fixed = (s.leader.segment(s.leader_m, rho=s.rho), s.sinker.body(s.rho))
    return Chain(end=s.lure.body(), fixed=fixed, tops=(_top(s),), air_npm=_air(s.line), ball=0)


def _diver(s: RigSettings) -> Chain:
    fixed = (s.leader.segment(s.leader_m, rho=s.rho), s.diver.body())
    tilt = s.setting * s.diver.tilt_deg
    return Chain(end=s.lure.body(), fixed=fixed, tops=(_top(s),), air_npm=_air(s.line), ball=0, tilt_deg=tilt)


def _drop_weight(s: RigSettings) -> Chain:
    fixed = (s.leader.segment(s.leader_m, rho=s.rho), s.lure.body())
    return Chain(end=s.sinker.body(s.rho), fixed=fixed, tops=(_top(s),), air_npm=_air(s.line), lure=0, ball=-1)


def _droppers(s: RigSettings) -> Chain:
    fixed: list[Piece] = []
    for i in range(s.hooks):
        fixed += [s.leader.segment(s.hook_gap_m if i else _SPREADER_M, rho=s.rho), s.lure.body()]
    # what is asked for is the depth of the middle one
    middle = (s.hooks - 1) // 2
    hooks = tuple(range(s.hooks))
    return Chain(
        end=s.sinker.body(s.rho),
        fixed=tuple(fixed),
        tops=(_top(s),),
        air_npm=_air(s.line),
        lure=middle,
        ball=-1,
        hooks=hooks,
    )


_MAKERS = {
    Method.DOWNRIGGER: _downrigger,
    Method.FLAT_LINE: _plain,
    Method.WEIGHTED_LINE: _core,
    Method.CLIP: _clip,
    Method.DIVER: _diver,
    Method.WALKER: _walker,
    Method.BOARD: _board,
    Method.JIG: _plain,
    Method.DROP_WEIGHT: _drop_weight,
    Method.DROPPERS: _droppers,
    Method.ICE: _plain,
}
HANGING = frozenset(_MAKERS)  # the ways that are chains


def speed_of(settings: RigSettings) -> float:
    """Speed through the water; through the ice there is none."""
    return 0.0 if settings.method is Method.ICE else settings.speed_mps


def stream_of(settings: RigSettings) -> tuple[tuple[float, float], ...] | None:
    """Speed of the water past the line by depth, where it differs."""
    if settings.method is Method.ICE and settings.current:
        return tuple((d, -v) for d, v in settings.current)
    return settings.stream


def hang(settings: RigSettings, made: Chain, top_m: float, *, coarse: bool = False) -> Tow:
    """The chain with so much of its topmost line in the water."""
    speed, stream = speed_of(settings), stream_of(settings)
    return tow(made.end, made.pieces(top_m), speed, rho=settings.rho, stream=stream, coarse=coarse)


def in_air(settings: RigSettings, made: Chain, solved: Tow, index: int = -1) -> tuple[float, float]:
    """Length of line from the water to the tip, and how far aft of the tip it leaves, were it cut at a point."""
    if not made.air_npm:
        return 0.0, 0.0
    kind, left = 0, solved.s_m[index] - made.fixed_m
    while kind + 1 < len(made.tops) and left > made.tops[kind].length_m:
        left -= made.tops[kind].length_m
        kind += 1
    return to_tip(solved.t_n[index], solved.phi_rad[index], made.air_npm[kind], settings.tip_height_m)
