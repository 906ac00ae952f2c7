"""The commands of the Scan stage: correcting echoes, aids to reading, files of a pass."""

from __future__ import annotations

from collections.abc import Callable

from plumbbob.core.sonar.corrections import middle_of
from plumbbob.core.sonar.fish_association import summarise
from plumbbob.core.types import Progress
from plumbbob.desk.commands import ice_holes, intercept, sonar_views
from plumbbob.desk.commands.registry import Command, CommandHost, has_pings, sheet
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.side_model import Across
from plumbbob.desk.tasks import apply_corrections as correcting
from plumbbob.desk.tasks.scan_evidence import Edit
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.registry import Content, dialog_filter

_DRAWN = ("fish", "bait", "weed", "timber", "brush pile")


def _is_read(session: Session) -> bool:
    return session.scan.document.is_read and session.scan.lead is not None


def _looks_down(session: Session) -> bool:
    return session.scan.document.is_read and session.view.corrects_echoes and session.scan.down is not None


def _has_echo(session: Session) -> bool:
    return session.scan.chosen is not None and session.view.corrects_echoes


def _can_relabel(session: Session) -> bool:
    return _has_echo(session) or session.view.renamed is not None


def _can_draw(session: Session) -> bool:
    return _looks_down(session) or (session.scan.document.is_read and session.view.draws_fish)


def _can_say(session: Session) -> bool:
    return session.view.can_judge


def _looks(name: str) -> Callable[[Session], bool]:
    return lambda s: s.view.name == name and s.view.is_offered


def _has_file(session: Session) -> bool:
    return session.scan.path is not None and session.scan.down is not None


def _nudge(pings: int, depth: int) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        scan, echo = session.scan, session.scan.chosen
        if echo is None or scan.down is None:
            return
        _, time, depth_m, _, _ = middle_of(echo)
        step = max(scan.view.pings / 300, 1.0) * scan.down.typical_interval_s
        correcting.move(session, echo, time + pings * step, depth_m + 0.1 * depth)

    return run


def _draw(session: Session, asker: CommandHost) -> None:
    scan = session.scan
    if session.view.draws_fish:
        scan.drawing.set(DrawTool.LOOK if scan.drawing.tool is DrawTool.DRAW else DrawTool.DRAW, _DRAWN[0])
        session.say("Click the fish; D again puts the pen away." if scan.drawing.tool is DrawTool.DRAW else "")
        return
    if scan.drawing.tool is not DrawTool.DRAW:
        scan.drawing.set(DrawTool.DRAW, _DRAWN[0])
        return
    scan.drawing.set(DrawTool.DRAW, _DRAWN[(_DRAWN.index(scan.drawing.label) + 1) % len(_DRAWN)])


def _depths_that_matter(session: Session, asker: CommandHost) -> None:
    """The window, the band of free fish, the cold layer: the one after what is on screen."""
    scan, held = session.scan, summarise(session.scan.reading)
    spans: list[tuple[str, float, float]] = []
    if session.rig.window is not None:
        spans.append(("the depth window", *session.rig.window))
    if held.suspended >= 3:
        spans.append(("most fish that hang free", held.band_top_m, held.band_base_m))
    layer = scan.reading.cold_layer
    if layer is not None:
        spans.append(("the cold layer", layer.depth_m - 1.5, layer.depth_m + 1.5))
    if not spans:
        session.say("No window, no free fish and no layer here: Shift+I zooms in on depth.")
        return
    middle = (scan.view.top_m + scan.view.base_m) / 2
    now = next((i for i, (_, a, b) in enumerate(spans) if abs((a + b) / 2 - middle) < 0.05), -1)
    if now == len(spans) - 1 and now >= 0:
        scan.show_water()
        session.say("Surface to bottom.")
        return
    words, top, base = spans[now + 1]
    scan.show_depths(top, base)
    session.say(f"Showing {words}.")


def _compare(session: Session, asker: CommandHost) -> None:
    if session.scan.comparison.other is not None:
        session.scan.comparison.lay(None)
        return
    path = asker.open_path("Compare with another pass", "Recordings (*.nc)")
    if path is not None:
        asker.compare_with(path)


def _write_contacts(session: Session, asker: CommandHost) -> None:
    path = asker.save_path("Write what was read", "contacts.csv", "CSV (*.csv);;GeoJSON (*.geojson);;GPX (*.gpx)")
    if path is None:
        return
    from plumbbob.formats.contacts import write_contacts

    try:
        inputs = [session.scan.path] if session.scan.path is not None else []
        count = write_contacts(path, session.scan.reading, inputs=inputs)
    except (FileError, OSError) as exc:
        session.say(f"Not written: {why(exc)}.", wrong=True)
        return
    session.say(f"{count} contacts written to {path.name}. Not for navigation.")


def _edit_recording(how: Edit) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        scan = session.scan
        if scan.path is None or scan.down is None:
            return
        other = asker.open_path("Join with", "Recordings (*.nc)") if how is Edit.JOIN else scan.path
        if other is None:
            return
        out = asker.save_path("Write a recording", f"{scan.path.stem}-{how.value}.nc", "Recordings (*.nc)")
        if out is not None:
            asker.edit_recording(how, other, out)

    return run


def _open_photo(session: Session, asker: CommandHost) -> None:
    path = asker.open_path("Open a picture of a sonar screen", dialog_filter("Pictures", Content.PICTURE))
    if path is not None:
        asker.open_photo(path)


def _photo_track(session: Session, asker: CommandHost) -> None:
    path = asker.open_path("Where the boat went", dialog_filter("GPX tracks", Content.TRACK))
    if path is None:
        return
    from plumbbob.formats.gpx import read_track

    try:
        session.screen_picture.set_track(read_track(path))
    except FileError as exc:
        session.say(f"{exc}.", wrong=True)


def _photo_step(step: Step) -> Callable[[Session, CommandHost], None]:
    return lambda s, a: s.screen_picture.start(step)


def _at_step(*steps: Step) -> Callable[[Session], bool]:
    return lambda s: s.screen_picture.step in steps


def _has_photo(session: Session) -> bool:
    return session.view.name == "picture" and session.screen_picture.pixels is not None


def _set_up(session: Session, asker: CommandHost) -> None:
    sheet("width" if session.view.name == "side" else "setup")(session, asker)


def _write_xtf(session: Session, asker: CommandHost) -> None:
    recording = session.scan.recording
    if recording is None:
        return
    path = asker.save_path("Write the sides as XTF", f"{recording.name.removesuffix('.nc')}.xtf", "XTF (*.xtf)")
    if path is None:
        return

    def work(progress: Progress) -> int:
        from plumbbob.formats.xtf import write_xtf

        return write_xtf(path, recording, progress=progress)

    session.jobs.start(
        f"Writing {path.name}", work, lambda pings: session.say(f"{pings:,} pings written to {path.name}.")
    )


_C = Command
# fmt: off
SCAN_PHOTO: tuple[Command, ...] = (
    _C(id="photo.corners", title="Corners of a photo", menu="Picture", keys=("F2",), stage="scan",
       run=_photo_step(Step.CORNERS), enabled=_has_photo, checked=_at_step(Step.CORNERS),
       help="Click the screen's four corners: tilt and perspective are taken out."),
    _C(id="photo.near", title="Surface, or the boat's line", menu="Picture", keys=("F3",), stage="scan",
       run=_photo_step(Step.NEAR), enabled=_has_photo, checked=_at_step(Step.NEAR),
       help="Click where the picture's scale is zero."),
    _C(id="photo.far", title="A depth or range of the scale", menu="Picture", keys=("F4",), stage="scan",
       run=_photo_step(Step.FAR), enabled=_has_photo, checked=_at_step(Step.FAR),
       help="Click a line of the scale, and type what it reads."),
    _C(id="photo.clock", title="Two clocks", menu="Picture", keys=("F6",), stage="scan",
       run=_photo_step(Step.EARLY), enabled=_has_photo, checked=_at_step(Step.EARLY, Step.LATE),
       help="Click two places whose time you know, and type the times."),
    _C(id="photo.ramp", title="Colour bar", menu="Picture", keys=("F7",), stage="scan",
       run=_photo_step(Step.RAMP), enabled=_has_photo, checked=_at_step(Step.RAMP),
       help="Click both ends of the picture's own colour bar, the quiet end first."),
    _C(id="photo.track", title="Places from a GPX track …", menu="Picture", keys=(), stage="scan",
       run=_photo_track, enabled=_has_photo, help="Where the boat was at the picture's times."),
    _C(id="photo.read", title="Read the picture", menu="Picture", keys=("F8",), stage="scan",
       run=lambda s, a: a.read_photo(), enabled=lambda s: _has_photo(s) and s.screen_picture.scale.missing is None,
       help="Make a pass of it: bottom, layer, fish, heights, marks; its scale is kept beside it."),
)
SCAN_FILES: tuple[Command, ...] = (
    _C(id="file.photo", title="Open a picture of a screen …", menu="File", keys=("Ctrl+Shift+O",),
       group="Picture of a screen",
       run=_open_photo, help="PNG or JPEG off any sonar screen; dropping or pasting one does the same."),
    _C(id="file.paste", title="Paste a picture", menu="File", group="Picture of a screen", keys=("Ctrl+V",),
       run=lambda s, a: a.paste_photo(), help="Open the picture on the clipboard."),
    _C(id="file.contacts", title="Write what was read …", menu="File", group="Write", keys=("Ctrl+Shift+E",),
       run=_write_contacts, enabled=_is_read, help="Fish, bait and structure as CSV, GeoJSON or GPX."),
    _C(id="file.xtf", title="Write the sides as XTF …", menu="File", group="Write", keys=(),
       run=_write_xtf, enabled=lambda s: s.side.view is not None,
       help="The view to the sides with its positions, for other programs."),
    _C(id="file.picture", title="Write the picture …", menu="File", group="Write", keys=("Ctrl+P",),
       run=lambda s, a: a.write_picture(), enabled=has_pings, help="The pass on screen with its scales, as PNG."),
    _C(id="file.cut", title="Write the part on screen …", menu="File", group="Write", keys=(),
       run=_edit_recording(Edit.CUT), enabled=_has_file, help="A recording of its own from what is on screen."),
    _C(id="file.join", title="Join with another recording …", menu="File", group="Write", keys=(),
       run=_edit_recording(Edit.JOIN), enabled=_has_file, help="One recording of both, in order of time."),
    _C(id="file.thin", title="Write every second ping …", menu="File", group="Write", keys=(),
       run=_edit_recording(Edit.THIN), enabled=_has_file, help="A recording half as large."),
)
SCAN_ECHOES: tuple[Command, ...] = (
    _C(id="echo.accept", title="Yes, that is right", menu="Echo", keys=("Y",), stage="scan",
       run=lambda s, a: correcting.accept(s), enabled=_can_say,
       help="Keep the chosen echo, whatever a later reading says."),
    _C(id="echo.reject", title="No, take it out", menu="Echo", keys=("X", "Backspace"), stage="scan",
       run=lambda s, a: correcting.reject(s), enabled=_is_read,
       help="The chosen echo is nothing; without one, the cold layer under the cursor."),
    _C(id="echo.relabel", title="Call it something else", menu="Echo", keys=("T",), stage="scan",
       run=lambda s, a: correcting.relabel(s), enabled=_can_relabel,
       help="Fish, bait, weed, timber, brush pile, lure, bubbles, other: the next one."),
    _C(id="echo.left", title="Move it left", menu="Echo", keys=("Ctrl+Left",), stage="scan",
       run=_nudge(-1, 0), enabled=_has_echo, help="Move the chosen echo along the pass; dragging it does the same."),
    _C(id="echo.right", title="Move it right", menu="Echo", keys=("Ctrl+Right",), stage="scan",
       run=_nudge(1, 0), enabled=_has_echo, help="Move the chosen echo along the pass."),
    _C(id="echo.up", title="Move it up", menu="Echo", keys=("Ctrl+Up",), stage="scan",
       run=_nudge(0, -1), enabled=_has_echo, help="Move the chosen echo up."),
    _C(id="echo.down", title="Move it down", menu="Echo", keys=("Ctrl+Down",), stage="scan",
       run=_nudge(0, 1), enabled=_has_echo, help="Move the chosen echo down."),
    _C(id="echo.draw", title="Draw what is missing", menu="Echo", keys=("D",), stage="scan",
       run=_draw, enabled=_can_draw, checked=lambda s: s.scan.drawing.tool is DrawTool.DRAW,
       help="Click a fish, or drag a box about bait, weed, timber, a brush pile; again for the next kind. "
       "To the sides and ahead: click a fish."),
    _C(id="echo.bottom", title="Draw the bottom", menu="Echo", keys=("E",), stage="scan",
       run=lambda s, a: s.scan.drawing.switch(DrawTool.BOTTOM),
       enabled=_looks_down, checked=lambda s: s.scan.drawing.tool is DrawTool.BOTTOM,
       help="Drag along where the bottom really is."),
    _C(id="echo.forget", title="Take out all corrections", menu="Echo", keys=(), stage="scan",
       run=lambda s, a: correcting.forget_all(s), enabled=lambda s: bool(s.scan.document.corrections),
       help="Back to what was read; one undo brings them back."),
)
SCAN_AIDS: tuple[Command, ...] = (
    _C(id="picture.view", title="Look down, aside, ahead", menu="Picture", keys=("Q",), stage="scan",
       run=lambda s, a: sonar_views.next_view(s), enabled=lambda s: bool(s.offered),
       help="The next view that this recording has; the keys do the same in each."),
    _C(id="side.ground", title="True ground range", menu="Picture", keys=("Shift+G",), stage="scan",
       run=lambda s, a: sonar_views.ground_or_slant(s), enabled=_looks("side"),
       checked=lambda s: s.side.across is Across.GROUND, help="Distances along the bottom, or slant range again."),
    _C(id="side.water", title="Water cut out", menu="Picture", keys=("Shift+C",), stage="scan",
       run=lambda s, a: sonar_views.water_kept_or_cut(s), enabled=_looks("side"),
       checked=lambda s: s.side.across is Across.CUT,
       help="Leave the water between boat and bottom out, or keep it."),
    _C(id="side.gauge", title="Height from a shadow", menu="Picture", keys=("Shift+H",), stage="scan",
       run=lambda s, a: sonar_views.gauge(s), enabled=_looks("side"), checked=lambda s: s.side.clicks is not None,
       help="Click an echo, then where its shadow starts and ends: height, distance, size, place."),
    _C(id="side.slope", title="Slope from the chart", menu="Picture", keys=("Shift+T",), stage="scan",
       run=lambda s, a: sonar_views.slope_from_chart(s), enabled=_looks("side"),
       checked=lambda s: s.side.slope_given is not None,
       help="Measure on the chart's slope across the track; again takes the bottom as level."),
    _C(id="side.swath", title="Swath on the chart", menu="Picture", keys=("Shift+M",),
       run=lambda s, a: a.lay_swath(), enabled=lambda s: s.side.view is not None or bool(s.chart.swaths),
       checked=lambda s: s.chart.swaths_shown, help="Lay what the fans saw on the chart, or take it off."),
    _C(id="ahead.approach", title="The other way to cast", menu="Rig", keys=("Shift+A",), stage="scan",
       run=lambda s, a: sonar_views.other_approach(s), enabled=_looks("forward"),
       help="Past the fish and over it, or swinging down to it on a tight line."),
    _C(id="chart.ice", title="Holes in the ice", menu="Chart", keys=("Shift+H",), stage="water",
       run=ice_holes.plan_holes, enabled=ice_holes.can_plan_holes,
       help="A first round of holes over the chart in walking order; about the chosen mark, a finer one."),
    _C(id="chart.wait", title="Wait between bait and deep water", menu="Chart", keys=("Shift+B",),
       run=lambda s, a: intercept.wait_between(s), enabled=intercept.can_wait,
       checked=lambda s: s.chart.drawn is not None and s.chart.drawn.wait is not None,
       help="The way hunters come up from deep water to the bait, and where to wait on it."),
    _C(id="picture.layer", title="The depths that matter", menu="Picture", keys=("J",), stage="scan",
       run=_depths_that_matter, enabled=_looks_down,
       help="Fill the height with the window, the fish, or the cold layer; again for the next."),
    _C(id="picture.compare", title="Compare with another pass …", menu="Picture", keys=("K",), stage="scan",
       run=_compare, enabled=_looks_down, checked=lambda s: s.scan.comparison.other is not None,
       help="Another pass over the same place below this one, laid along it by position; again takes it away."),
    _C(id="picture.split", title="Chart beside it", menu="Picture", keys=("V",), stage="scan",
       run=lambda s, a: s.scan.comparison.show_chart(not s.scan.comparison.with_chart),
       checked=lambda s: s.scan.comparison.with_chart,
       help="The chart beside the picture; a cursor in one leads the other."),
    _C(id="picture.evidence", title="Seen against looked at …", menu="Picture", keys=("H",), stage="scan",
       run=sheet("evidence"), checked=lambda s: s.sheet == "evidence",
       help="Fish and bait by depth, per water really looked at, all passes of the day."),
    _C(id="picture.setup", title="Set up the sounder …", menu="Picture", keys=("G",), stage="scan",
       run=_set_up, checked=lambda s: s.sheet in ("setup", "width"),
       help="Range, ping rate and speed for what is sought, and what the beam really sees."),
)
# fmt: on
