"""Commands of the Rig stage, as data for the one table."""

from __future__ import annotations

from collections.abc import Callable

from plumbbob.core.rig.advice import where_to_hang
from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import Command, CommandHost, sheet
from plumbbob.desk.models.kept_rods import MOST_RODS
from plumbbob.desk.models.lines_model import Manoeuvre
from plumbbob.desk.models.rig_facts import facts_of
from plumbbob.desk.models.session import Session
from plumbbob.wording.rig import hang_words, rig_words


def _hang(session: Session, asker: CommandHost) -> None:
    rig, display = session.rig, session.display
    fish = rig.target_m
    if fish is None:
        session.say("Pick a fish in Scan first: the bob then knows what it hangs over.", wrong=True)
        return
    hung = where_to_hang(fish, facts_of(session), setting_m=rig.settings.above_fish_m)
    rig.hang_at(hung.depth_m, fish)
    words = f"Hung at {display.words(hung.depth_m, Kind.DEPTH)}: {hang_words(hung.reasons, display.words)}."
    session.say(" ".join([words, *(rig_words(c, display.words) for c in hung.cautions)]))


def _fresh_bait(session: Session, asker: CommandHost) -> None:
    session.lines.put_fresh_bait()
    session.say("Fresh bait on.")


def _next_manoeuvre(session: Session, asker: CommandHost) -> None:
    all_of_them = list(Manoeuvre)
    at = all_of_them.index(session.lines.manoeuvre)
    following = all_of_them[(at + 1) % len(all_of_them)]
    asker.tasks.rigger.follow(following)


def _files(act: str, title: str, name: str, *, read: bool = False) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        path = asker.open_path(title, "CSV (*.csv)") if read else asker.save_path(title, name, "CSV (*.csv)")
        if path is not None:
            getattr(asker.tasks.rigger, act)(path)

    return run


_C = Command
# fmt: off
RIG: tuple[Command, ...] = (
    _C(id="rig.tackle", title="The rod in hand …", menu="Rig", keys=("E",), stage="rig",
       run=sheet("tackle"), checked=lambda s: s.sheet == "tackle",
       help="Its tackle and numbers; line in, depth out."),
    _C(id="rig.packet", title="Tackle as it is bought …", menu="Rig", keys=("Shift+E",), stage="rig",
       run=sheet("packet"), checked=lambda s: s.sheet == "packet",
       help="Type what stands on the packet; see what it means and where it runs."),
    _C(id="rig.floor", title="On the bottom …", menu="Rig", keys=("Q",), stage="rig",
       run=sheet("floor"), checked=lambda s: s.sheet == "floor",
       help="Drag, walk, float, drop, anchor a bait, jig: weight and line for this bottom."),
    _C(id="rig.add", title="One rod more", menu="Rig", keys=("D",), stage="rig",
       run=lambda s, a: a.tasks.rigger.add_rod(), enabled=lambda s: len(s.rig.sets) < MOST_RODS,
       help="Another rod, rigged as the one in hand."),
    _C(id="rig.remove", title="Take the rod out", menu="Rig", keys=("X",), stage="rig",
       run=lambda s, a: a.tasks.rigger.remove_rod(), enabled=lambda s: len(s.rig.sets) > 1,
       help="The rod in hand leaves the spread; Z brings it back."),
    _C(id="rig.note", title="Note what happened …", menu="Rig", keys=("G",), stage="rig",
       run=sheet("note"), checked=lambda s: s.sheet == "note",
       help="It ticked bottom, or was counted to a shelf: tunes the tackle."),
    _C(id="rig.hang", title="Hang it for the fish", menu="Rig", keys=("H",), stage="rig",
       run=_hang, help="Where the fish will see it, clear of bait and mud."),
    _C(id="rig.advice", title="Advice …", menu="Rig", keys=("J",), stage="rig",
       run=sheet("advice"), checked=lambda s: s.sheet == "advice",
       help="Where to hang it, which ways reach it, what to tie on."),
    _C(id="rig.tables", title="Tables for the card …", menu="Rig", keys=("K",), stage="rig",
       run=sheet("tables"), checked=lambda s: s.sheet == "tables",
       help="What to let out for depths at the speeds of the day."),
    _C(id="rig.turn", title="Turn", menu="Rig", keys=("T",), stage="rig",
       run=lambda s, a: a.tasks.rigger.follow(s.lines.manoeuvre),
       help="Follow the lines through a turn; Y does something else."),
    _C(id="rig.manoeuvre", title="Other turn, stop, burst, way ahead", menu="Rig", keys=("Y",), stage="rig",
       run=_next_manoeuvre, help="To port, a stop, a burst of speed, the way ahead."),
    _C(id="rig.play", title="Play it again", menu="Rig", keys=("Shift+T",), stage="rig",
       run=lambda s, a: a.tasks.rigger.play(), enabled=lambda s: s.lines.run is not None,
       help="The lines in motion once more; again stops."),
    _C(id="rig.above", title="From above", menu="Rig", keys=("V",), stage="rig",
       run=lambda s, a: s.lines.look_from_above(not s.lines.above), checked=lambda s: s.lines.above,
       help="The spread from above, or from the side."),
    _C(id="rig.bait", title="Fresh bait on", menu="Rig", keys=("Shift+F",), stage="rig",
       run=_fresh_bait, help="Natural bait was changed: its clock begins anew."),
    _C(id="rig.read_box", title="Read a tackle box …", menu="Rig", stage="rig",
       run=_files("read_box", "Read a tackle box", "", read=True), help="From CSV; the one in use is replaced."),
    _C(id="rig.write_box", title="Write the tackle box …", menu="Rig", stage="rig",
       run=_files("write_box", "Write the tackle box", "tackle.csv"), help="All tackle as CSV, in SI."),
    _C(id="rig.write_tables", title="Write the tables …", menu="Rig", stage="rig",
       run=_files("write_tables", "Write the tables", "rig-tables.csv"), help="The card's tables as CSV, in SI."),
)
# fmt: on
