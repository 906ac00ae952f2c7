"""What the rods are, in words: what to let out, what notes said, what a turn does, where a lure drags."""

from __future__ import annotations

import math

import numpy as np

from plumbbob.core.rig.advice import FRESH_BAIT_S, is_natural
from plumbbob.core.rig.calibrate import Judged, Told
from plumbbob.core.rig.lane import Passage, Stretch, Trouble, seconds_to_mark
from plumbbob.core.rig.methods import weight_for_angle
from plumbbob.core.rig.motion import LineRun, Run
from plumbbob.core.rig.rod import FAMILY, Amount, CannotReach, Extra, Family, Method, RigAnswer, RigSettings
from plumbbob.core.units import Kind
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.session import Session
from plumbbob.wording.rig import rig_words


def capital(text: str) -> str:
    """The first letter large."""
    return text[:1].upper() + text[1:]


def amount_words(display: Display, answer: RigAnswer, *, short: bool = False) -> str:
    """What to let out, cast or count."""
    if answer.amount is Amount.COUNT:
        return f"count {answer.value:.0f} s"
    figure = display.words(answer.value, Kind.LENGTH)
    if answer.amount is Amount.CAST:
        return f"cast {figure}"
    words = {Amount.WIRE: "of wire", Amount.LINE: "out", Amount.BEHIND: "behind board"}
    return f"{figure} {words[answer.amount] if short else answer.amount.value}"


def depth_words(display: Display, answer: RigAnswer) -> str:
    """Where the lure runs, with its spread."""
    return f"{display.words(answer.depth_m, Kind.DEPTH)} {display.spread(answer.depth_sd_m, Kind.DEPTH)}"


def extra_words(display: Display, extra: Extra) -> str:
    """One further number."""
    if extra.name == "colours":
        return f"{extra.value:.1f} colours"
    if extra.kind is None:
        return f"{extra.name} {extra.value:.1f} s"
    return f"{extra.name} {display.words(extra.value, extra.kind)}"


def more_words(display: Display, answer: RigAnswer) -> str:
    """How it hangs: how far behind, how steep, what else there is to do."""
    if answer.amount is Amount.COUNT:
        return " · ".join(
            ["free line from the splash, then close", *(extra_words(display, e) for e in answer.extras)]
        )
    if answer.amount is Amount.CAST:
        return " · ".join(extra_words(display, e) for e in answer.extras)
    if answer.method is Method.ICE:
        over = display.words(answer.extras[0].value, Kind.DEPTH)
        return f"start {over} over them and come down in short steps; raise them to it, never go below them"
    parts = [f"{display.words(answer.layback_m, Kind.LENGTH, 0)} behind"]
    if answer.amount is Amount.WIRE:
        parts.append(f"wire blown back {display.words(answer.blow_back_m, Kind.LENGTH, 1)}")
    elif answer.amount is not Amount.BEHIND:
        parts.append(f"line {answer.angle_deg:.0f}° off the vertical")
    if answer.ball is not None and abs(answer.below_ball_m) >= 0.05:
        below = display.words(abs(answer.below_ball_m), Kind.DEPTH)
        whose = "its ball" if answer.amount is Amount.WIRE else "its weight"
        parts.append(f"{below} {'below' if answer.below_ball_m > 0 else 'above'} {whose}")
    if answer.hooks and answer.band is not None:
        top, base = answer.band
        parts.append(f"hooks {display.figure(top, Kind.DEPTH)} to {display.words(base, Kind.DEPTH)}")
    if abs(answer.aside_m) >= 0.5 and answer.method is not Method.BOARD:
        side = "starboard" if answer.aside_m > 0 else "port"
        parts.append(f"{display.words(abs(answer.aside_m), Kind.LENGTH, 0)} to {side}")
    return " · ".join([*parts, *(extra_words(display, e) for e in answer.extras)])


def answer_words(session: Session) -> tuple[bool, str, str, str]:
    """For the rod in hand: whether it can be had, the large figure, where the lure then is, how it hangs."""
    display, rig = session.display, session.rig
    answer = rig.answer
    if isinstance(answer, CannotReach):
        return (
            False,
            f"{display.words(rig.bob_m, Kind.DEPTH)} can't be had this way",
            f"{capital(rig_words(answer.reason, display.words))}.",
            f"Nearest: {display.words(answer.nearest_depth_m, Kind.DEPTH)}.",
        )
    target = rig.target_m
    over = ""
    if target is not None:
        gap = target - answer.depth_m
        over = f", {display.words(abs(gap), Kind.DEPTH)} {'over' if gap >= 0 else 'under'} the fish"
    large = amount_words(display, answer)
    if answer.amount is Amount.WIRE and answer.ball is not None:
        # the ball's own depth is what a counter and a sounder show
        ball = display.words(answer.ball[1], Kind.DEPTH).replace(" ", "\u00a0")
        large = f"ball {ball}, {large.replace(' ', chr(0xA0), 1)}"
    return True, large, f"lure {depth_words(display, answer)}{over}", more_words(display, answer)


def rod_title(rod: RigSettings) -> str:
    """The way it is fished."""
    return capital(rod.method.value)


def rod_words(display: Display, rod: RigSettings, answer: RigAnswer | CannotReach) -> str:
    """Its tackle and what is out, short."""
    if isinstance(answer, CannotReach):
        return rig_words(answer.reason, display.words)
    return f"{amount_words(display, answer, short=True)} · {rod.lure.name}"


# -- notes ------------------------------------------------------------------------------------------------------


def note_words(display: Display, judged: Judged) -> str:
    """One note and what it did."""
    note = judged.note
    amount = amount_of_note(display, note.rod, note.value)
    depth = display.words(note.depth_m, Kind.DEPTH)
    told = {
        Told.TOUCHED: f"ticked bottom at {depth} with {amount}",
        Told.CLEAR: f"no touch over {depth} with {amount}",
        Told.AT: f"ran at {depth} with {amount}",
    }[note.told]
    words = f"{capital(note.rod.method.value)} {told}"
    if judged.contradicts:
        return f"{words}: the other notes say otherwise, look at both."
    gap = judged.says_m - judged.said_before_m
    if abs(gap) < 0.02 * note.depth_m:
        return f"{words}: as the catalogue has it."
    share = 100 * abs(gap) / max(judged.said_before_m, 0.1)
    return f"{words}: runs {share:.0f} % {'deeper' if gap > 0 else 'shallower'} than the catalogue has it."


def amount_of_note(display: Display, rod: RigSettings, value: float) -> str:
    """What was out, or counted."""
    if rod.method in (Method.CAST, Method.PUMP):
        return f"a count of {value:.0f} s"
    return f"{display.words(value, Kind.LENGTH)} out"


def moved_words(session: Session) -> list[str]:
    """How the coefficients of the rod in hand have moved."""
    names = {
        "cn": "line drag",
        "mass": "line weight",
        "cd": "drag",
        "drag": "lure drag",
        "lift": "lip's pull",
        "weight": "lure weight",
        "fall": "drag in the fall",
        "cl": "disc's pull",
    }
    out = []
    mine = {(i.kind, i.name) for i in session.rig.settings.items().values()}
    for moved in session.rig.calibration.moved:
        kind, name, coefficient = moved.key
        if (kind, name) not in mine or moved.sd > 0.97 * moved.prior_sd:
            continue
        out.append(
            f"{names[coefficient]} of {name} ×{moved.factor:.2f}, ±{100 * moved.sd:.0f} % "
            f"(was ±{100 * moved.prior_sd:.0f} %)"
        )
    return out


# -- a turn, a stop, a burst ------------------------------------------------------------------------------------


def motion_words(display: Display, number: int, line: LineRun, run: Run) -> str:
    """What one lure did: how far it sank and rose, and when."""
    start = float(line.depth_m[0])
    low, high = int(line.depth_m.argmax()), int(line.depth_m.argmin())
    sank, rose = float(line.depth_m[low]) - start, start - float(line.depth_m[high])
    touched = np.isfinite(line.room_m) & (line.room_m < 0.05)
    parts = []
    if sank >= 0.15:
        parts.append(f"sinks {display.words(sank, Kind.DEPTH)} in {run.time[low] - run.time[0]:.0f} s")
    if rose >= 0.15:
        parts.append(f"rises {display.words(rose, Kind.DEPTH)}")
    if touched.any():
        parts.append(f"on the bottom after {run.time[int(touched.argmax())] - run.time[0]:.0f} s")
    return f"{number} {', '.join(parts)}" if parts else f"{number} keeps {display.words(start, Kind.DEPTH)}"


def apart_words(display: Display, run: Run) -> str:
    """How near the lines come to each other."""
    least = float(run.nearest_m.min())
    if not math.isfinite(least):
        return ""
    if run.may_cross:
        near = display.words(max(least, 0.0), Kind.LENGTH, 1)
        return f"Lines come within {near}: turn wider, or set them further apart."
    return f"Lines keep {display.words(least, Kind.LENGTH, 0)} apart."


# -- over the bottom --------------------------------------------------------------------------------------------


def stretch_words(display: Display, number: int, stretch: Stretch, out: str = "line") -> str:
    """What goes wrong where, and what to change where."""
    where = f"{display.figure(stretch.from_m, Kind.DISTANCE)} to {display.words(stretch.to_m, Kind.DISTANCE)}"
    if stretch.trouble is Trouble.HIGH:
        what = f"{number} hangs {display.words(stretch.room_m, Kind.DEPTH)} over the bottom from {where}"
        return f"{what}: let {display.words(stretch.change_m, Kind.LENGTH)} out." if stretch.change_m else f"{what}."
    verb = "drags" if stretch.trouble is Trouble.DRAGS else "comes close"
    what = f"{number} {verb} from {where}"
    if stretch.change_m is None:
        return f"{what}: no length of {out} clears it, lift it out or go round."
    return (
        f"{what}: take in {display.words(-stretch.change_m, Kind.LENGTH)} as the boat comes over it, "
        f"back out {display.words(stretch.back_boat_m - stretch.to_m, Kind.LENGTH, 0)} past it."
    )


def next_trouble(passage: Passage, boat_m: float, layback_m: float) -> Stretch | None:
    """The next low stretch that the lure has not passed."""
    at = boat_m - layback_m
    ahead = [s for s in passage.stretches if s.trouble is not Trouble.HIGH and s.to_m > at]
    return ahead[0] if ahead else None


def countdown_words(
    display: Display, number: int, stretch: Stretch, boat_m: float, layback_m: float, speed_mps: float
) -> str:
    """When the lure comes to a shoal, and how much room it has there."""
    left = seconds_to_mark(stretch.from_m, boat_m, layback_m, speed_mps)
    room = display.words(abs(stretch.room_m), Kind.DEPTH)
    has = f"{room} of room" if stretch.room_m > 0 else f"{room} too deep"
    if not math.isfinite(left):
        return f"shoal ahead of lure {number}: {has}"
    return f"lure {number} there in {clock_words(left)}: {has}" if left > 0 else f"under lure {number} now: {has}"


def clock_words(seconds: float) -> str:
    """A short while."""
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes} min {rest} s" if minutes else f"{rest} s"


def mark_lines(session: Session) -> list[str]:
    """Marks that the boat has passed and a lure has yet to reach, as countdowns, the soonest first."""
    rig, boat, display = session.rig, session.lines, session.display
    coming: list[tuple[float, str]] = []
    for mark, along in session.marks_along:
        if along > boat.boat_m:
            continue
        for i, (one, answer) in enumerate(zip(rig.sets, rig.answers, strict=True)):
            if isinstance(answer, CannotReach) or FAMILY[answer.method] is not Family.TROLLED:
                continue
            left = seconds_to_mark(along, boat.boat_m, answer.layback_m, one.rod.speed_mps)
            if left > 0:
                depth = f", {display.words(mark.depth_m, Kind.DEPTH)} down" if mark.depth_m is not None else ""
                coming.append((left, f"Lure {i + 1} at the {mark.kind.value}{depth} in {clock_words(left)}"))
    return [words for _, words in sorted(coming)]


# -- weights ----------------------------------------------------------------------------------------------------


def weight_words(session: Session) -> str:
    """Below the boat: what weight keeps the line steep. A walker: how far its weight is off the bottom."""
    display, rig = session.display, session.rig
    answer, rod = rig.answer, rig.settings
    if isinstance(answer, CannotReach):
        return ""
    if FAMILY[rod.method] is Family.VERTICAL and rod.speed_mps > 0:
        try:
            grams = 1000 * weight_for_angle(rod, max(answer.shape[0][1], 0.5))
        except ValueError as exc:
            return f"{capital(str(exc))}."
        return f"About {grams:.0f} g at the end keep the line within 30° of the vertical in this drift."
    if rod.method is Method.WALKER and answer.ball is not None:
        gap = session.lines.bottom_m - answer.ball[1]
        if math.isfinite(gap):
            off = display.words(abs(gap), Kind.DEPTH)
            near = abs(gap) < max(0.3, answer.depth_sd_m)
            return (
                "Its weight ticks the bottom here."
                if near
                else f"Its weight is {off} {'off' if gap > 0 else 'below'} the bottom here."
            )
    return ""


# -- bait -------------------------------------------------------------------------------------------------------


def bait_words(session: Session) -> str:
    """How old natural bait on the rods is, by the clock; empty without any."""
    rig, age = session.rig, session.lines.bait_age_s
    rods = [str(i + 1) for i, one in enumerate(rig.sets) if is_natural(one.rod)]
    if not rods:
        return ""
    whose = f"Bait on {' and '.join(rods)}"
    if age > FRESH_BAIT_S:
        return f"{whose} is {age / 60:.0f} min old: scent washes out. Shift+F: fresh bait is on."
    return f"{whose} fresh {age / 60:.0f} min ago."


# -- the day ----------------------------------------------------------------------------------------------------
