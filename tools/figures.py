"""Figures of docs/physics.md, drawn from the code: `./run figures [FOLDER]`."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.rig import tackle
from plumbbob.core.rig.calibrate import RigNote, calibrate
from plumbbob.core.rig.casting import retrieve_path
from plumbbob.core.rig.line import tow
from plumbbob.core.rig.methods import depth_of, run, solve
from plumbbob.core.rig.motion import run_along
from plumbbob.core.rig.rod import Method, RigAnswer, RigSettings, default_setup
from plumbbob.core.rig.track import change_track, turn_track

WIDE, HIGH, LEFT, FOOT = 640, 330, 58, 46
COLOURS = ("#20292C", "#8A5F1E", "#1B6670", "#A83A22", "#4C6D31", "#56636A")


@dataclass(frozen=True)
class Curve:
    """One line of a figure."""

    words: str
    x: Sequence[float]
    y: Sequence[float]
    dashed: bool = False
    band: Sequence[float] | None = None  # half its width


def draw(path: Path, title: str, across: str, down: str, curves: Sequence[Curve], *, depth: bool = True) -> None:
    """A figure as SVG: axes with round steps, curves with their words at the right."""
    xs = np.concatenate([np.asarray(c.x, float) for c in curves])
    ys = np.concatenate([np.asarray(c.y, float) for c in curves])
    x0, x1 = float(np.nanmin(xs)), float(np.nanmax(xs))
    y0, y1 = min(0.0, float(np.nanmin(ys))), float(np.nanmax(ys)) * 1.05
    right = WIDE - 158

    def at(x: float, y: float) -> str:
        u = LEFT + (x - x0) / (x1 - x0) * (right - LEFT)
        share = (y - y0) / (y1 - y0)
        v = 34 + (share if depth else 1 - share) * (HIGH - FOOT - 34)
        return f"{u:.1f},{v:.1f}"

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {HIGH}" '
        'font-family="sans-serif" font-size="12">',
        f'<rect width="{WIDE}" height="{HIGH}" fill="#F3F1EA"/>',
        f'<text x="{LEFT}" y="20" font-size="14" font-weight="bold" fill="#20292C">{title}</text>',
    ]
    for value in _steps(x0, x1):
        u = at(value, y0).split(",")[0]
        out.append(f'<line x1="{u}" x2="{u}" y1="34" y2="{HIGH - FOOT}" stroke="#C9C6BA"/>')
        out.append(f'<text x="{u}" y="{HIGH - FOOT + 16}" text-anchor="middle" fill="#404A50">{value + 0.0:g}</text>')
    for value in _steps(y0, y1):
        v = at(x0, value).split(",")[1]
        out.append(f'<line x1="{LEFT}" x2="{right}" y1="{v}" y2="{v}" stroke="#C9C6BA"/>')
        out.append(
            f'<text x="{LEFT - 6}" y="{float(v) + 4:.1f}" text-anchor="end" fill="#404A50">{value + 0.0:g}</text>'
        )
    out.append(f'<text x="{(LEFT + right) / 2}" y="{HIGH - 8}" text-anchor="middle" fill="#404A50">{across}</text>')
    out.append(
        f'<text transform="translate(16,{HIGH / 2}) rotate(-90)" text-anchor="middle" fill="#404A50">{down}</text>'
    )
    for i, curve in enumerate(curves):
        colour = COLOURS[i % len(COLOURS)]
        pairs = [(x, y) for x, y in zip(curve.x, curve.y, strict=True) if np.isfinite(y)]
        if curve.band is not None:
            wide = np.asarray(curve.band, float)
            edge = [at(x, y + b) for (x, y), b in zip(pairs, wide, strict=True)]
            edge += [at(x, y - b) for (x, y), b in reversed(list(zip(pairs, wide, strict=True)))]
            out.append(f'<polygon points="{" ".join(edge)}" fill="{colour}" fill-opacity="0.14"/>')
        dash = ' stroke-dasharray="6 4"' if curve.dashed else ""
        points = " ".join(at(x, y) for x, y in pairs)
        out.append(f'<polyline points="{points}" fill="none" stroke="{colour}" stroke-width="2"{dash}/>')
        y = 48 + 18 * i
        out.append(
            f'<line x1="{right + 10}" x2="{right + 30}" y1="{y}" y2="{y}" stroke="{colour}" stroke-width="2"{dash}/>'
        )
        out.append(f'<text x="{right + 35}" y="{y + 4}" fill="#20292C">{curve.words}</text>')
    out.append("</svg>")
    path.write_text("\n".join(out) + "\n", encoding="utf-8")
    print(path)


def _steps(low: float, high: float) -> list[float]:
    rough = (high - low) / 6
    size = 10 ** np.floor(np.log10(rough))
    step = next(m * size for m in (1, 2, 5, 10) if m * size >= rough)
    first = int(np.ceil(low / step - 1e-9))
    return [k * float(step) for k in range(first, int(high / step + 1e-9) + 1)]


def _rod(method: Method, **changes: Any) -> RigSettings:
    return replace(default_setup(RigSettings(), method), **changes)


def _solved(rod: RigSettings, depth: float) -> RigAnswer:
    answer = solve(rod, depth)
    assert isinstance(answer, RigAnswer)
    return answer


def shapes(folder: Path) -> None:
    """How the lines of several ways hang."""
    curves = []
    for method, depth in (
        (Method.DOWNRIGGER, 8.0),
        (Method.FLAT_LINE, 4.0),
        (Method.WEIGHTED_LINE, 6.0),
        (Method.CLIP, 3.0),
    ):
        answer = _solved(_rod(method), depth)
        curves.append(Curve(method.value, [-p[0] for p in answer.shape], [p[1] for p in answer.shape]))
    jig = _solved(_rod(Method.JIG), 8.0)
    curves.append(Curve(Method.JIG.value, [-p[0] for p in jig.shape], [p[1] for p in jig.shape]))
    draw(
        folder / "shapes.svg",
        "Lines at 0.9 m/s, the jig drifting at 0.25",
        "metres behind the rod tip",
        "depth, m",
        curves,
    )


def speeds(folder: Path) -> None:
    """A lip holds its depth at any speed; weight does not."""
    speed = np.linspace(0.3, 2.4, 43)
    curves = []
    for words, rod, out in (
        ("lipped plug, 30 m", _rod(Method.FLAT_LINE), 30.0),
        ("weighted line, 40 m", _rod(Method.WEIGHTED_LINE), 40.0),
        ("clip 85 g, 20 m", _rod(Method.CLIP, sinker=tackle.CLIP_HEAVY), 20.0),
        ("ball, 9 m of wire", _rod(Method.DOWNRIGGER), 9.0),
        ("disc, 15 m", _rod(Method.DIVER), 15.0),
    ):
        curves.append(Curve(words, speed, [depth_of(replace(rod, speed_mps=float(v)), out) for v in speed]))
    draw(
        folder / "speeds.svg",
        "Depth by speed, with the same line out",
        "speed through the water, m/s",
        "depth, m",
        curves,
    )


def notes(folder: Path) -> None:
    """What a touch of the bottom, and a second one at another length, make of a plug."""
    rod = _rod(Method.FLAT_LINE, speed_mps=1.1)
    said = [RigNote(rod=rod, depth_m=6.1, value=30.0), RigNote(rod=rod, depth_m=4.45, value=15.0)]
    out = np.linspace(5.0, 60.0, 40)
    curves = []
    for words, told in (("catalogue", []), ("one note", said[:1]), ("two notes", said)):
        known = calibrate(told).knowledge
        answers = [run(rod, float(v), known) for v in out]
        found = [a for a in answers if isinstance(a, RigAnswer)]
        curves.append(
            Curve(words, out, [a.depth_m for a in found], dashed=not told, band=[a.depth_sd_m for a in found])
        )
    draw(folder / "notes.svg", "A plug at 1.1 m/s, one standard deviation shaded", "line out, m", "depth, m", curves)


def turns(folder: Path) -> None:
    """Inner and outer line in a turn; a stop."""
    rods = [_rod(Method.CLIP, aside_m=a, speed_mps=0.9) for a in (2.0, -2.0)]
    solved = [_solved(r, 2.5) for r in rods]
    found = run_along(rods, solved, turn_track(0.9, radius_m=12.0, turn_deg=180.0))
    stop = run_along(rods[:1], solved[:1], change_track(0.9, 0.0, for_s=20.0, run_out_s=60.0))
    curves = [
        Curve("inner, in a turn", found.time, found.lines[0].depth_m),
        Curve("outer, in a turn", found.time, found.lines[1].depth_m),
        Curve("in a stop of 20 s", stop.time, stop.lines[0].depth_m, dashed=True),
    ]
    draw(folder / "turns.svg", "Clip weight 28 g in a turn of 12 m radius", "seconds", "depth of the lure, m", curves)


def casts(folder: Path) -> None:
    """A lipped lure reeled in: what a longer cast, a thinner line and a slower reel change."""
    rod = _rod(Method.RETRIEVE)
    curves = []
    for words, made, cast in (
        ("25 m", rod, 25.0),
        ("40 m", rod, 40.0),
        ("40 m, 0.15 mm line", replace(rod, line=replace(rod.line, diameter_m=0.15e-3)), 40.0),
        ("40 m, half as fast", replace(rod, retrieve_mps=0.3), 40.0),
    ):
        path = retrieve_path(made, cast)
        curves.append(Curve(words, [-left for left, _ in path], [z for _, z in path]))
    draw(folder / "casts.svg", "A lipped plug reeled in", "line left, m (minus)", "depth, m", curves)


def against(folder: Path) -> None:
    """The steady solution beside the motion's own end, for lines of many lengths."""
    length = np.linspace(5, 60, 12)
    rod = _rod(Method.FLAT_LINE)
    steady = [tow(rod.lure.body(), [rod.line.segment(float(v))], 0.9).depth_m for v in length]
    moved = []
    for depth in steady:
        answer = _solved(rod, depth)
        moved.append(float(run_along([rod], [answer], change_track(0.9, 0.9, for_s=10.0)).lines[0].depth_m[-1]))
    curves = [Curve("steady", length, steady), Curve("lumped mass", length, moved, dashed=True)]
    draw(folder / "against.svg", "Two models of one flat line", "line in the water, m", "depth, m", curves)


def main(folder: Path) -> None:
    """All of them."""
    folder.mkdir(parents=True, exist_ok=True)
    for figure in (shapes, speeds, notes, turns, casts, against):
        figure(folder)


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "docs/figures"))
