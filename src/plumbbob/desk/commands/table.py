"""The one table of commands: menus, buttons, shortcuts and the list of keys are all made from it. No widgets here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from plumbbob.core.units import System
from plumbbob.desk.commands import drawing, marking, seen
from plumbbob.desk.commands.registry import Command, CommandHost, has_pings, sheet
from plumbbob.desk.commands.rig_menu import RIG
from plumbbob.desk.commands.sonar_menu import SCAN_AIDS, SCAN_ECHOES, SCAN_FILES, SCAN_PHOTO
from plumbbob.desk.models.chart_model import Shown, Tool
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.write_chart import ChartOutput, write_chart
from plumbbob.desk.theme import Light
from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import write_gpx
from plumbbob.formats.registry import Content, dialog_filter
from plumbbob.services.marks_out import write_marks
from plumbbob.store.errors import StoreError

MENUS = ("File", "Chart", "Echo", "Mark", "Rig", "Run", "Picture", "Look", "Go", "Help")

# what the mouse does, for the list of keys
GESTURES = (
    ("click", "pick a fish or bait; click water to let go"),
    ("drag the picture", "move it"),
    ("drag the picked echo", "move it where it belongs"),
    ("wheel", "zoom time; with Ctrl depth; with Shift move along"),
    ("drag the bob or a lure", "set the lure's depth; the rig follows"),
    ("drag the water, in Rig", "move the boat along its way"),
    ("drag left of it", "set the depth window"),
    ("wheel, looking ahead", "nearer or farther; with Shift frame by frame"),
    ("click a place, mark or pass", "choose it; a pass opens in Scan"),
)


def _open(session: Session, asker: CommandHost) -> None:
    paths = asker.open_paths("Open or add files", f"{dialog_filter('All that can be read', *Content)};;Any file (*)")
    if paths:
        asker.open_files(paths)


def _write_chart(what: ChartOutput, name: str, pattern: str) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        path = asker.save_path(f"Write {what.value}", name, pattern)
        if path is not None:
            charter = asker.tasks.charter
            if charter.folder is not None:
                write_chart(session, charter.folder, charter.cleaning, path, what)

    return run


def _write_route(session: Session, asker: CommandHost) -> None:
    route = marking.drawn_route(session)
    path = asker.save_path("Write the line as a route", "plumbbob-lane.gpx", "GPX (*.gpx)")
    if route is None or path is None:
        return
    try:
        write_gpx(path, [], [route])
    except FileError as exc:
        session.say(f"{exc}.", wrong=True)
        return
    session.say(f"Route of {len(route.points)} points written to {path.name}. Not for navigation.")


def _has_chart(session: Session) -> bool:
    return session.chart.chart is not None


def _next_shown(session: Session, asker: CommandHost) -> None:
    kinds = list(Shown)
    session.chart.set_shown(kinds[(kinds.index(session.chart.shown) + 1) % len(kinds)])
    session.say(f"Showing {session.chart.shown.value}.")


def _line(session: Session, asker: CommandHost) -> None:
    if session.chart.drawn is not None and session.chart.tool is Tool.MOVE:
        session.chart.set_drawn(None)
        return
    on = session.chart.tool is Tool.MOVE
    session.chart.set_tool(Tool.LINE if on else Tool.MOVE)
    if on:
        session.say("Drag a line across the chart: its cross-section, length and bearing show below.")


def _stop(session: Session, asker: CommandHost) -> None:
    for job in session.jobs.live:
        job.cancel()


def _export(session: Session, asker: CommandHost) -> None:
    pattern = "GPX (*.gpx);;CSV (*.csv);;GeoJSON (*.geojson);;GeoPackage (*.gpkg)"
    path = asker.save_path("Write marks", "plumbbob-marks.gpx", pattern)
    if path is None:
        return
    points = marking.waypoints(session)
    try:
        write_marks(path, points)
    except FileError as exc:
        session.say(f"{exc}.", wrong=True)
        return
    session.say(f"{len(points)} marks written to {path.name}.")


def _mark(session: Session, asker: CommandHost) -> None:
    mark = session.view.mark()
    if mark is None:
        session.say("No position here: nothing to mark.", wrong=True)
        return
    try:
        saved = session.logbook.add_mark(mark)
    except StoreError as exc:
        session.say(str(exc), wrong=True)
        return
    session.say(f"Marked {marking.mark_words(session, saved)}.  Z takes it back.")


def _undo(session: Session, asker: CommandHost) -> None:
    _step_history(session, session.history.undo, "Took back the {}.")


def _redo(session: Session, asker: CommandHost) -> None:
    _step_history(session, session.history.redo, "Did the {} again.")


def _step_history(session: Session, step: Callable[[], str], words: str) -> None:
    try:
        what = step()
    except StoreError as exc:
        session.say(str(exc), wrong=True)
        return
    session.say(words.format(what) if what else "Nothing to take back.")


def _seen(step: int) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        mark = session.logbook.chosen
        if mark is None or mark.seen + step < 1:
            return
        try:
            session.logbook.change_mark(replace(mark, seen=mark.seen + step))
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        session.say(f"{mark.seen + step} seen at this mark.")

    return run


def _remove(session: Session, asker: CommandHost) -> None:
    mark = session.logbook.chosen
    if mark is None:
        return
    try:
        session.logbook.remove_mark(mark.id)
    except StoreError as exc:
        session.say(str(exc), wrong=True)
        return
    session.say("Mark removed with its catches.  Z brings it back.")


def _show_mark(session: Session, asker: CommandHost) -> None:
    mark, down = session.logbook.chosen, session.scan.lead
    if mark is None or down is None:
        return
    near = min(session.scan.reading.fish, key=lambda f: abs(f.time - mark.time), default=None)
    session.set_stage("scan")
    if near is not None and abs(near.time - mark.time) < 0.5:
        session.scan.choose(near)
        return
    session.scan.choose(None)
    ping = int(abs(down.time - mark.time).argmin())
    session.scan.set_cursor(ping, mark.depth_m or 0.0)
    session.scan.keep_in_view(ping)


def _can_show(session: Session) -> bool:
    mark, recording = session.logbook.chosen, session.scan.recording
    return mark is not None and recording is not None and mark.source == recording.name


def _escape(session: Session, asker: CommandHost) -> None:
    if session.questions.open is not None:
        session.questions.ask(None)
    elif session.sheet:
        session.ask_sheet("")
    elif session.catching:
        session.ask_catch(False)
    else:
        session.view.let_go()


def _window_about_bob(session: Session, asker: CommandHost) -> None:
    bob = session.rig.bob_m
    around = (max(bob - 1.5, 0.0), bob + 1.5)
    session.rig.set_window(None if session.rig.window == around else around)


def _replay_speed(session: Session, asker: CommandHost) -> None:
    speeds = (1, 2, 4, 8, 16)
    i = speeds.index(session.scan.replay.speed)
    session.scan.replay.set(session.scan.replay.on, speeds[(i + 1) % len(speeds)])


def _pan(share: float) -> Callable[[Session, CommandHost], None]:
    def run(session: Session, asker: CommandHost) -> None:
        step = share * session.scan.view.pings
        session.scan.pan(step, 0.0)
        session.scan.set_cursor(int(session.scan.cursor.ping + step), session.scan.cursor.depth_m)

    return run


def _bob(metres: float) -> Callable[[Session, CommandHost], None]:
    return lambda s, a: s.rig.drag_to(s.rig.bob_m + metres)


def _light(light: Light) -> Command:
    return Command(
        id=f"look.{light.value}",
        title={Light.DAY: "Day", Light.DUSK: "Dusk", Light.NIGHT: "Night"}[light],
        menu="Look",
        help={
            Light.DAY: "Paper and ink, for sun.",
            Light.DUSK: "Slate and lantern, for low light.",
            Light.NIGHT: "Dim red only, keeps night sight.",
        }[light],
        run=lambda s, a: s.display.set_light(light),
        checked=lambda s: s.display.light is light,
    )


def _units(system: System) -> Command:
    return Command(
        id=f"look.units_{system.value.lower()}",
        title={System.US: "Feet and mph", System.METRIC: "Metres and km/h", System.NAUTICAL: "Fathoms and knots"}[
            system
        ],
        menu="Look",
        help=f"Show all numbers in {system.value} units.",
        run=lambda s, a: s.display.set_system(system),
        checked=lambda s: s.display.system is system,
    )


_C = Command
# fmt: off
COMMANDS: tuple[Command, ...] = (
    _C(id="file.open", title="Open or add files …", menu="File", keys=("O", "Ctrl+O", "Ctrl+I"),
       run=_open, help="Recordings, soundings, charts, columns, GPX, pictures, backups: each by what is in it."),
    _C(id="file.waters", title="Waters …", menu="File", keys=("F9",),
       run=sheet("waters"), checked=lambda s: s.sheet == "waters",
       help="All waters, last visited first; go to one, rename, merge, part, back up."),
    _C(id="file.settings", title="Settings …", menu="File", keys=("F12",),
       run=sheet("settings"), checked=lambda s: s.sheet == "settings",
       help="Units, boat, light by the hour, text, motion."),
    _C(id="file.grid", title="Write depths as GeoTIFF …", menu="File", group="Write", keys=(),
       run=_write_chart(ChartOutput.GRID, "depths.tif", "GeoTIFF (*.tif)"), enabled=_has_chart,
       help="Depths at datum, in metres."),
    _C(id="file.contours", title="Write contours …", menu="File", group="Write", keys=(),
       run=_write_chart(ChartOutput.CONTOURS, "contours.gpkg", "GeoPackage (*.gpkg);;GeoJSON (*.geojson)"),
       enabled=_has_chart,
       help="Depth contours as GeoPackage or GeoJSON."),
    _C(id="file.soundings", title="Write soundings as CSV …", menu="File", group="Write", keys=(),
       run=_write_chart(ChartOutput.SOUNDINGS, "soundings.csv", "CSV (*.csv)"), enabled=_has_chart,
       help="The cleaned soundings at datum."),
    _C(id="file.take_out", title="Take the last soundings out", menu="File", keys=("Ctrl+Shift+I",),
       run=lambda s, a: a.tasks.charter.take_out(), enabled=lambda s: s.chart.chart is not None,
       help="The file added last leaves the chart; it is kept aside in the water's folder."),
    _C(id="file.route", title="Write the line as a GPX route …", menu="File", group="Write", keys=("Ctrl+G",),
       run=_write_route, enabled=lambda s: s.chart.drawn is not None,
       help="The lane or line on the chart, with depths."),
    *SCAN_FILES,
    _C(id="file.export", title="Write marks …", menu="File", group="Write", keys=("Ctrl+E",),
       run=_export, enabled=lambda s: bool(s.logbook.marks), help="GPX 1.1, CSV, GeoJSON or GeoPackage."),
    _C(id="file.stop", title="Stop what is running", menu="File", keys=("Ctrl+.",),
       run=_stop, enabled=lambda s: bool(s.jobs.live), help="Cancel the reading that is under way."),
    _C(id="file.quit", in_modes=True, title="Quit", menu="File", keys=("Ctrl+Q",),
       run=lambda s, a: a.close_window(), help="Close the window. Everything is saved already."),
    _C(id="chart.line", title="Draw a line across", menu="Chart", keys=("D",), stage="water",
       run=_line, enabled=_has_chart, checked=lambda s: s.chart.tool is Tool.LINE,
       help="Drag a line: cross-section, length and bearing."),
    _C(id="chart.lane", title="Lane along this depth", menu="Chart", keys=("E",), stage="water",
       run=lambda s, a: a.tasks.lanes.lay_lane(), enabled=_has_chart,
       help="A line the boat can follow along the cursor's depth."),
    _C(id="chart.holes", title="Holes through the ice", menu="Chart", keys=("H",), stage="water",
       run=lambda s, a: a.tasks.lanes.plan_holes(), enabled=_has_chart, checked=lambda s: s.chart.holes is not None,
       help="Holes from the cursor outwards, as far apart as the sounder sees."),
    _C(id="chart.shown", title="Depth, slope, uncertainty", menu="Chart", keys=("V",), stage="water",
       run=_next_shown, enabled=_has_chart, help="Let the colours say something else."),
    _C(id="chart.profile", title="Temperature down the column …", menu="Chart", keys=("T",), stage="water",
       run=sheet("profile"), checked=lambda s: s.sheet == "profile", help="Type, paste, read or guess the column."),
    _C(id="chart.tide", title="High and low water …", menu="Chart", keys=("Shift+T",), stage="water",
       run=sheet("tide"), checked=lambda s: s.sheet == "tide",
       help="A tide table, typed or read: the level and the stream follow it."),
    _C(id="chart.current", title="Draw a current", menu="Chart", keys=("Shift+A",), stage="water",
       run=drawing.draw_current, enabled=lambda s: _has_chart(s) and s.logbook.is_open,
       checked=lambda s: s.chart.tool is Tool.CURRENT, help="Drag an arrow: where the water goes, how fast."),
    _C(id="chart.built", title="Draw a dock or a bridge", menu="Chart", keys=("Shift+R",), stage="water",
       run=drawing.draw_built, enabled=lambda s: _has_chart(s) and s.logbook.is_open,
       checked=lambda s: s.chart.tool is Tool.BUILT, help="Drag from end to end: its shade and cover count."),
    _C(id="chart.seen", title="Fish along the passes", menu="Chart", keys=("Shift+S",), stage="water",
       run=seen.lay_seen, enabled=_has_chart, checked=lambda s: s.seen.shown,
       help="Fish and bait for the water looked at, in the window's depths; dotted where nothing was looked at."),
    _C(id="chart.counts", title="What counts …", menu="Chart", keys=("K",), stage="water",
       run=sheet("counts"), checked=lambda s: s.sheet == "counts",
       help="How much each reason counts, and the schools."),
    _C(id="chart.cast", title="A cast to the mark …", menu="Chart", keys=("Shift+C",), stage="water",
       run=sheet("cast"), enabled=lambda s: s.logbook.chosen is not None, checked=lambda s: s.sheet == "cast",
       help="How far off to lie from the chosen mark and on which side, where to land, what to count."),
    _C(id="chart.species", title="What the species likes …", menu="Chart", keys=("J",), stage="water",
       run=sheet("species"), enabled=lambda s: s.conditions.species is not None,
       checked=lambda s: s.sheet == "species",
       help="Change the limits of the species whose comfort is shown."),
    _C(id="chart.cleaning", title="Cleaning …", menu="Chart", keys=("X",), stage="water",
       run=sheet("cleaning"), checked=lambda s: s.sheet == "cleaning",
       help="What was left out of the soundings, and why."),
    _C(id="chart.lanes", title="Lanes and holes …", menu="Chart", keys=("Y",), stage="water",
       run=sheet("lanes"), checked=lambda s: s.sheet == "lanes",
       help="Turning radius, distances to keep, cone, holes."),
    *SCAN_ECHOES,
    _C(id="mark.mark", title="Mark", menu="Mark", keys=("Space",),
       run=_mark, enabled=lambda s: s.view.can_mark,
       help="Save the chosen fish, bait, or the place under the cursor."),
    _C(id="mark.catch", title="Note a catch …", menu="Mark", keys=("C",),
       run=lambda s, a: s.ask_catch(not s.catching),
       help="Note a catch on the nearest mark within 50 m, or on a new one, at any time and place."),
    _C(id="mark.typed", title="Mark a place by hand …", menu="Mark", keys=("Ctrl+Space",),
       run=sheet("mark"), checked=lambda s: s.sheet == "mark",
       help="Type where and when; marks need no recording."),
    _C(id="mark.complete", title="To complete …", menu="Mark", keys=("Ctrl+J",),
       run=sheet("complete"), enabled=lambda s: bool(s.logbook.to_complete), checked=lambda s: s.sheet == "complete",
       help="What was noted with one key on the water: species, size, a note."),
    _C(id="mark.more", title="One more seen", menu="Mark", keys=("+", "="),
       run=_seen(1), enabled=lambda s: s.logbook.chosen is not None, help="Count one more at the chosen mark."),
    _C(id="mark.fewer", title="One fewer seen", menu="Mark", keys=("-",),
       run=_seen(-1), enabled=lambda s: s.logbook.chosen is not None and s.logbook.chosen.seen > 1,
       help="Count one fewer at the chosen mark."),
    _C(id="mark.show", title="Show in the picture", menu="Mark", keys=("S",),
       run=_show_mark, enabled=_can_show, help="Go to where the chosen mark was seen."),
    _C(id="mark.remove", title="Remove mark", menu="Mark", keys=("Delete",),
       run=_remove, stage="log", enabled=lambda s: s.logbook.chosen is not None,
       help="Take the chosen mark out of the log."),
    _C(id="mark.undo", in_modes=True, title="Undo", menu="Mark", keys=("Z", "Ctrl+Z"),
       run=_undo, enabled=lambda s: s.history.can_undo, help="Take the last change of the log back."),
    _C(id="mark.redo", in_modes=True, title="Redo", menu="Mark", keys=("Shift+Z", "Ctrl+Shift+Z"),
       run=_redo, enabled=lambda s: s.history.can_redo, help="Do the undone change again."),
    _C(id="rig.method", title="Next way to fish", menu="Rig", keys=("R",),
       run=lambda s, a: s.rig.next_method(), help="Trolled, cast, below the boat, through the ice."),
    *RIG,
    _C(id="rig.up", title="Bob up", menu="Rig", keys=("Shift+Up",),
       run=_bob(-0.1), help="Hang the lure 0.1 m higher."),
    _C(id="rig.down", title="Bob down", menu="Rig", keys=("Shift+Down",),
       run=_bob(0.1), help="Hang the lure 0.1 m deeper."),
    _C(id="rig.window", title="Window about the bob", menu="Rig", keys=("W",),
       run=_window_about_bob, help="Set the depth window about the bob, or clear it."),
    _C(id="picture.next", title="Next fish, place or rod", menu="Picture", keys=(".", "N"),
       run=lambda s, a: s.view.choose_next(1), enabled=lambda s: s.view.has_next,
       help="The next fish along the pass, place worth a look, or rod."),
    _C(id="picture.previous", title="The one before", menu="Picture", keys=(",", "B"),
       run=lambda s, a: s.view.choose_next(-1), enabled=lambda s: s.view.has_next,
       help="The fish, place or rod before."),
    _C(id="picture.replay", title="Replay", menu="Picture", keys=("P",),
       run=lambda s, a: s.scan.replay.set(not s.scan.replay.on), enabled=has_pings,
       checked=lambda s: s.scan.replay.on, help="Play the pass from the cursor on; again pauses."),
    _C(id="picture.faster", title="Replay speed", menu="Picture", keys=("Shift+P",),
       run=_replay_speed, enabled=has_pings, help="1, 2, 4, 8 or 16 times as fast as recorded."),
    _C(id="picture.in", title="Zoom in", menu="Picture", keys=("I",),
       run=lambda s, a: s.view.zoom(0.7), enabled=lambda s: s.view.has_picture,
       help="Closer: fewer pings, or a smaller piece of the chart."),
    _C(id="picture.out", title="Zoom out", menu="Picture", keys=("U",),
       run=lambda s, a: s.view.zoom(1 / 0.7), enabled=lambda s: s.view.has_picture,
       help="Further: more pings, or more of the chart."),
    _C(id="picture.deep_in", title="Zoom in across", menu="Picture", keys=("Shift+I",),
       run=lambda s, a: s.view.widen(0.7), enabled=lambda s: s.view.can_widen,
       help="Less depth, taller, about the cursor; or less far to the sides or ahead."),
    _C(id="picture.deep_out", title="Zoom out across", menu="Picture", keys=("Shift+U",),
       run=lambda s, a: s.view.widen(1 / 0.7), enabled=lambda s: s.view.can_widen, help="More depth, or farther."),
    _C(id="picture.all", title="All of it", menu="Picture", keys=("A",),
       run=lambda s, a: s.view.show_all(), enabled=lambda s: s.view.can_show_all,
       help="The whole recording, the whole water; in Rig depths fill the picture, or true scale."),
    _C(id="picture.water", title="Surface to bottom", menu="Picture", keys=("F",),
       run=lambda s, a: s.view.fit(), enabled=lambda s: s.view.can_widen,
       help="Fit the water on screen; to the sides the whole reach, ahead as far as the fish need."),
    *SCAN_AIDS,
    *SCAN_PHOTO,
    _C(id="picture.left", title="Back along the pass", menu="Picture", keys=("PgUp",),
       run=_pan(-0.8), enabled=has_pings, help="Most of a screen back."),
    _C(id="picture.right", title="On along the pass", menu="Picture", keys=("PgDown",),
       run=_pan(0.8), enabled=has_pings, help="Most of a screen on."),
    _C(id="picture.cursor_left", title="Cursor left", menu="Picture", keys=("Left",),
       run=lambda s, a: s.view.step(-1, 0), enabled=lambda s: s.view.has_picture,
       help="Move the cursor left: back in time, or west."),
    _C(id="picture.cursor_right", title="Cursor right", menu="Picture", keys=("Right",),
       run=lambda s, a: s.view.step(1, 0), enabled=lambda s: s.view.has_picture,
       help="Move the cursor right: on in time, or east."),
    _C(id="picture.cursor_up", title="Cursor up", menu="Picture", keys=("Up",),
       run=lambda s, a: s.view.step(0, -1), enabled=lambda s: s.view.has_picture, help="Move the cursor up."),
    _C(id="picture.cursor_down", title="Cursor down", menu="Picture", keys=("Down",),
       run=lambda s, a: s.view.step(0, 1), enabled=lambda s: s.view.has_picture, help="Move the cursor down."),
    _C(id="picture.brighter", title="Brighter", menu="Picture", keys=("]",),
       run=lambda s, a: s.scan.set_gain(s.scan.gain_db + 3), enabled=has_pings, help="Show weaker echoes."),
    _C(id="picture.darker", title="Darker", menu="Picture", keys=("[",),
       run=lambda s, a: s.scan.set_gain(s.scan.gain_db - 3), enabled=has_pings, help="Show only stronger echoes."),
    _C(id="picture.usual", title="As bright as is right", menu="Picture", keys=("'",),
       run=lambda s, a: s.scan.set_gain(0.0), enabled=has_pings,
       help="Back to what the recording's own levels ask for."),
    _light(Light.DAY),
    _light(Light.DUSK),
    _light(Light.NIGHT),
    _C(id="look.light", in_modes=True, title="Next light", menu="Look", keys=("L",),
       run=lambda s, a: s.display.next_light(), help="Day, dusk, night."),
    _units(System.US),
    _units(System.METRIC),
    _units(System.NAUTICAL),
    _C(id="look.units", title="Next units", menu="Look", keys=("M",),
       run=lambda s, a: s.display.next_system(), help="Feet, metres, fathoms."),
    _C(id="look.larger", in_modes=True, title="Larger text", menu="Look", keys=("Ctrl++", "Ctrl+="),
       run=lambda s, a: s.display.step_text_size(1), help="All text a step larger."),
    _C(id="look.smaller", in_modes=True, title="Smaller text", menu="Look", keys=("Ctrl+-",),
       run=lambda s, a: s.display.step_text_size(-1), help="All text a step smaller."),
    _C(id="help.commands", title="Search what can be done …", menu="Help", keys=("/", "?"),
       run=sheet("commands"), checked=lambda s: s.sheet == "commands",
       help="Type a part of any word; every command, its keys and its menu."),
    _C(id="help.practice", title="Practise reading", menu="Help", keys=("F10",),
       run=lambda s, a: a.practise(),
       help="Made-up passes to read and decide on, the truth at hand; what comes next follows what is weak."),
    _C(id="help.guide", title="Guide", menu="Help", keys=("F1",),
       run=sheet("guide"), checked=lambda s: s.sheet == "guide", help="The guide, at the page of this stage."),
    _C(id="help.back", title="Back", menu="Help", keys=("Esc",),
       run=_escape, help="Close what lies on top, or let go of what is chosen."),
)
# fmt: on
