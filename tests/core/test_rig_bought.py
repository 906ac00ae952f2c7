"""Tackle from its packet: the tables of the handbook, and what has to hold for any size."""

import math
from contextlib import suppress
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.rig.bought import Form, Material, Packet, Trailer, lure_of, weight_in_water
from plumbbob.core.rig.bought_lines import LineMaterial, capacity_m, line_of, retrieve_a_turn
from plumbbob.core.rig.bought_weights import Sinker, board_of, disc_of, sinker_of
from plumbbob.core.rig.fall import Falling, fall_speed, time_to_depth
from plumbbob.core.rig.line import tow
from plumbbob.core.rig.methods import run
from plumbbob.core.rig.rod import Method, RigSettings, default_setup
from plumbbob.core.rig.tackle import MONO, Lure
from plumbbob.formats.bought_words import item_words, line_words, lure_words, packet_of, timed, weight_words

RHO = 1000.0


def a_jig(grams, tail=False, **changes):
    trailer = Trailer.PADDLE if tail else Trailer.NONE
    return lure_of(
        Packet(form=Form.BALL_JIG, mass_kg=grams / 1000, trailer=trailer, trailer_m=0.1, **changes), rho=RHO
    )


FALLS = [
    (3.5, False, 0.20, (5.1, 12.3, 21.1)), (3.5, True, 0.28, (11.5, 24.4, 38.7)), (7, False, 0.28, (4.4, 10.6, 18.0)),
    (7, True, 0.35, (8.5, 18.2, 29.0)), (14, False, 0.35, (3.8, 8.8, 14.8)), (14, True, 0.20, (6.1, 12.7, 19.7)),
    (28, False, 0.28, (3.0, 6.7, 11.0)), (28, True, 0.35, (4.7, 10.0, 15.8)),
]  # fmt: skip


@pytest.mark.parametrize(("grams", "tail", "mm", "seconds"), FALLS)
def test_falls_are_those_of_the_table(grams, tail, mm, seconds):
    jig = a_jig(grams, tail)
    falling = Falling(
        weight_n=jig.weight_n,
        drag_area_m2=jig.fall_area_m2,
        line_diameter_m=mm / 1000,
        line_ct=0.02 * math.pi,
    )
    for depth, told in zip((5.0, 10.0, 15.0), seconds, strict=True):
        assert time_to_depth(falling, depth, rho=RHO)[0] == pytest.approx(told, abs=0.11)


@pytest.mark.parametrize(
    ("words", "weight_n", "mps"),
    [
        ("7 g spoon", 0.0599, 0.41),
        ("14 g spoon", 0.1212, 0.50),
        ("28 g spoon", 0.2424, 0.59),
        ("28 g slab", 0.2504, 1.58),
        ("14 g blade", 0.1212, 1.27),
        ("14 g tail spinner", 0.124, 0.74),
        ("8 g stick worm 12 cm", 0.0102, 0.145),
        ("10.5 g tungsten bullet", 0.0969, 1.8),
    ],
)
def test_forms_fall_as_the_table_has_it(words, weight_n, mps):
    lure = lure_words(words, RHO)
    assert lure.weight_n == pytest.approx(weight_n, rel=0.02)
    assert math.sqrt(2 * lure.weight_n / (RHO * lure.fall_area_m2)) == pytest.approx(mps, rel=0.07)


@pytest.mark.parametrize(("printed", "cm", "ratio"), [(2, 7, 0.15), (3, 8, 0.24), (4.5, 9, 0.40), (6, 10, 0.57)])
def test_a_printed_depth_gives_the_lip(printed, cm, ratio):
    plug = lure_of(Packet(form=Form.PLUG, length_m=cm / 100, printed_m=printed), rho=RHO)
    assert plug.lift_area_m2 / plug.drag_area_m2 == pytest.approx(ratio, abs=0.015)
    at_30 = tow(plug.body(), [MONO.segment(30.0, rho=RHO)], 1.0, rho=RHO)
    assert at_30.depth_m == pytest.approx(printed, rel=0.02)


def test_a_print_for_casting_means_a_deeper_diver():
    trolled, cast = (
        lure_of(Packet(form=Form.PLUG, length_m=0.09, printed_m=3.0, printed_cast=c)) for c in (False, True)
    )
    assert cast.lift_area_m2 > 1.3 * trolled.lift_area_m2
    assert lure_of(Packet(form=Form.PLUG, length_m=0.09, printed_m=3.0)).lift_sd > trolled.lift_sd


@given(
    form=st.sampled_from([f for f in Form if f not in (Form.PLUG, Form.FLOATING)]),
    grams=st.floats(1.0, 200.0),
    trailer=st.sampled_from(list(Trailer)),
)
def test_heavier_falls_faster_and_nothing_is_without_drag(form, grams, trailer):
    light = lure_of(Packet(form=form, mass_kg=grams / 1000, trailer=trailer))
    heavy = lure_of(Packet(form=form, mass_kg=2 * grams / 1000, trailer=trailer))
    assert light.drag_area_m2 > 0
    assert light.fall_area_m2 > 0
    by_weight = heavy.weight_n / heavy.fall_area_m2 - light.weight_n / light.fall_area_m2
    assert by_weight >= -1e-9
    assert set(light.uncertain()) >= {"drag", "fall"}


@given(st.sampled_from(list(Material)), st.floats(0.001, 1.0))
def test_a_weight_keeps_what_its_metal_says(material, kg):
    sinker = sinker_of(Sinker.ROUND, kg, material)
    assert sinker.body(RHO).weight_n == pytest.approx(weight_in_water(kg, sinker.density, RHO))
    assert 0 < sinker.body(1025.0).weight_n < sinker.body(RHO).weight_n < 9.81 * kg


def test_a_timed_fall_takes_the_place_of_the_form():
    packet = packet_of("7 g ball jig, 10 cm paddle tail")
    told = lure_of(timed(packet, 8.0, 20.0, MONO))
    assert time_to_depth(told.falling(MONO), 8.0)[0] == pytest.approx(20.0, abs=0.3)
    assert told.fall_sd < lure_of(packet).fall_sd / 3
    with pytest.raises(ValueError, match="nothing of that weight"):
        timed(packet, 50.0, 1.0, MONO)
    with pytest.raises(ValueError, match="floats"):
        lure_of(Packet(form=Form.FLOATING, fall_mps=0.2))


def test_what_cannot_be_is_said_in_a_line():
    for packet in ({"form": Form.SPOON}, {"form": Form.PLUG, "length_m": 0.05, "printed_m": 29.0}):
        with pytest.raises(ValueError, match=r"missing|cannot run"):
            lure_of(Packet(**packet))
    for changes in ({"mass_kg": 9.0}, {"blade": "square"}, {"body": "odd"}, {"length_m": -1.0}):
        with pytest.raises(ValueError, match=r"outside|known|nothing"):
            Packet(form=Form.SPOON, **changes)
    with pytest.raises(ValueError, match="strength"):
        line_of(LineMaterial.NYLON)


@pytest.mark.parametrize(
    ("words", "form", "grams", "trailer", "centimetres"),
    [
        ("3/8 oz ball jig with a 4 in curly tail", Form.BALL_JIG, 10.63, Trailer.CURLY, 10.16),
        ("3/8 ounce jig with a four inch tail", Form.BALL_JIG, 10.63, Trailer.PADDLE, 10.16),
        ("1/2 oz football jig with creature 9 cm", Form.FOOTBALL, 14.17, Trailer.CREATURE, 9.0),
        ("7g round jig, 10 cm paddle tail", Form.BALL_JIG, 7.0, Trailer.PADDLE, 10.0),
        ("1 1/2 oz slab", Form.SLAB, 42.52, Trailer.NONE, None),
        ("tungsten bullet 10,5 g", Form.BULLET, 10.5, Trailer.NONE, None),
    ],
)
def test_words_of_a_packet(words, form, grams, trailer, centimetres):
    packet = packet_of(words)
    assert (packet.form, packet.trailer) == (form, trailer)
    assert packet.mass_kg * 1000 == pytest.approx(grams, abs=0.01)
    if centimetres is not None:
        assert packet.trailer_m * 100 == pytest.approx(centimetres, abs=0.01)


def test_words_of_plugs_lines_and_weights():
    plug = packet_of("slim plug 3 1/2 in, runs 15 ft trolled")
    assert (plug.form, plug.body, plug.printed_cast) == (Form.PLUG, "slender", False)
    assert plug.length_m == pytest.approx(0.0889)
    assert plug.printed_m == pytest.approx(4.572)
    assert line_words("0.28 nylon").diameter_m == pytest.approx(0.28e-3)
    assert line_words("10 lb braid").diameter_m == pytest.approx(0.168e-3, abs=1e-6)
    assert line_words("lead core").colour_m > 9
    assert weight_words("2 oz pyramid").mass_kg == pytest.approx(0.0567, abs=1e-4)
    assert disc_of(0.08).area_m2 == pytest.approx(0.00503, abs=1e-5)
    assert item_words("board", "board 25 cm").side_area_m2 == board_of(0.25).side_area_m2
    for kind, words in (
        ("lure", "a thing"), ("lure", ""), ("line", "string"), ("weight", "egg sinker"), ("lure", "jig" * 200),
        ("diver", "disc"), ("lure", "spoon"),
    ):  # fmt: skip
        with pytest.raises(ValueError, match=r"\w") as told:
            item_words(kind, words)
        assert "\n" not in str(told.value)


@given(st.text(max_size=120))
def test_no_words_break_it(words):
    with suppress(ValueError):
        assert isinstance(lure_words(words), Lure)


@given(full=st.floats(0.03, 0.1), share=st.floats(0.3, 0.95), out=st.floats(0.0, 1.0))
def test_a_turn_takes_less_the_emptier_the_spool(full, share, out):
    turn = retrieve_a_turn(full, share * full, 6.0, 150.0, 150.0 * out)
    assert math.pi * share * full * 6.0 - 1e-9 <= turn <= math.pi * full * 6.0 + 1e-9


def test_spools_hold_by_the_square_of_the_line():
    assert capacity_m(100.0, 0.4e-3, 0.2e-3) == 400.0
    with pytest.raises(ValueError, match="core"):
        retrieve_a_turn(0.04, 0.05, 6.0, 100.0, 0.0)


def test_usual_tackle_runs_as_practice_has_it():
    def at(method, value, **changes):
        return run(replace(default_setup(RigSettings(), method), **changes), value)

    blown = at(Method.DOWNRIGGER, 30.0, speed_mps=1.0, lead_m=0.1)
    assert 6.6 < blown.layback_m < 9.2  # wires hum: 10 to 40 % more than a smooth one
    board = at(Method.BOARD, 20.0, speed_mps=1.0, board_m=20.0)
    assert (
        45
        < math.degrees(math.atan2(abs(board.aside_m), 20.0 * math.cos(math.asin(min(abs(board.aside_m) / 20, 1)))))
        < 62
    )
    slow, fast = (at(Method.WEIGHTED_LINE, 6 + 5 * 9.144, speed_mps=v).depth_m for v in (0.7, 1.1))
    assert slow > 1.4 * fast
    assert fall_speed(a_jig(7).falling(MONO), 0.0) > 1.4


@pytest.mark.parametrize("printed", [2.0, 3.0, 4.5, 6.0])
def test_thirty_metres_from_the_tip_run_at_the_print(printed):
    plug = lure_of(Packet(form=Form.PLUG, length_m=0.09, printed_m=printed), tip_m=1.2)
    rod = replace(default_setup(RigSettings(speed_mps=1.0), Method.FLAT_LINE), lure=plug, tip_height_m=1.2)
    assert run(rod, 30.0).depth_m == pytest.approx(printed, rel=0.09)
    assert plug.lift_area_m2 > lure_of(Packet(form=Form.PLUG, length_m=0.09, printed_m=printed)).lift_area_m2
