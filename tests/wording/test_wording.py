"""Every code of the core has words, in the reader's units and in the reader's language."""

import gettext
from string import Formatter

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob import wording
from plumbbob.core.live.care import Care
from plumbbob.core.reason import Measure, because
from plumbbob.core.rig import reasons
from plumbbob.core.rig.advice import Noise, Pace, RigFacts, Size, Vertical, advise, ways_to_reach, where_to_hang
from plumbbob.core.rig.reasons import WayReason, WhyNot
from plumbbob.core.rig.rod import CannotReach, Method, RigSettings, default_setup
from plumbbob.core.sonar.picture import Looks, Missing
from plumbbob.core.sonar.reading import SideReason
from plumbbob.core.tally.fish_care import FishCare
from plumbbob.core.tally.limits import Verdict
from plumbbob.core.units import Kind, System, quantity
from plumbbob.core.water.wind import TiltState, WindCaution
from plumbbob.wording import live, log, rig, sonar, water
from plumbbob.wording.rig import advice_words, hang_words, rig_words

RIG_CODES = [v for v in vars(reasons).values() if isinstance(v, type) and v.__module__ == reasons.__name__]


@pytest.mark.parametrize(
    ("table", "codes"),
    [
        (rig.PHRASES, [*RIG_CODES, Pace, Size, Noise]),
        (water.PHRASES, [WindCaution, TiltState]),
        (sonar.PHRASES, [Missing, Looks, SideReason]),
        (sonar.AGAINST, [SideReason]),
        (live.PHRASES, [Care]),
        (log.PHRASES, [FishCare, Verdict]),
    ],
)
def test_every_code_has_its_words_and_no_words_are_left_over(table, codes):
    assert set(table) == {code for kind in codes for code in kind}
    assert all(text and text == text.strip() for text in table.values())


@given(
    st.sampled_from(list(Method)),
    st.floats(0.5, 40.0),
    st.floats(0.0, 3.0),
    st.floats(0.5, 8.0),
    st.floats(2.0, 26.0),
)
def test_whatever_the_core_says_can_be_said_in_words(method, depth, speed, secchi, warm):
    rod = default_setup(RigSettings(speed_mps=speed), method)
    facts = RigFacts(secchi_m=secchi, temperature_c=warm, species="perch", bait_length_m=0.1, bottom_m=depth + 1.0)
    way = next(w for w in ways_to_reach(depth, facts, rod) if w.method is method)
    said = [rig_words(way.reason)]
    if isinstance(way.answer, CannotReach):
        said.append(rig_words(way.answer.reason))
    else:
        said += [rig_words(c) for c in way.answer.cautions]
    said += [hang_words(where_to_hang(depth, facts, vertical=v).reasons) for v in Vertical]
    for piece in advise(depth, facts, [rod]):
        title, text, schools = advice_words(piece)
        said += [title, text, *(why for _, why in schools)]
    assert all(said)
    assert not any("{" in text or "nan" in text.lower() for text in said)


def test_quantities_are_in_the_units_of_the_reader():
    reason = because(WayReason.WALKS_OVER, off=Measure(3.048, Kind.DEPTH))
    assert "3.0 m over" in rig_words(reason)
    assert "10.0 ft over" in rig_words(reason, lambda v, k: quantity(v, k, System.US))


def test_a_catalogue_changes_the_language_and_keeps_the_values(monkeypatch):
    class Turned(gettext.NullTranslations):
        def gettext(self, message: str) -> str:
            return message.replace("has no lip", "fehlt die Schaufel")

    monkeypatch.setattr(wording, "tr", Turned().gettext)
    assert rig_words(because(WhyNot.NO_LIP, lure="spoon")) == "spoon fehlt die Schaufel"


def test_each_phrase_can_be_translated_without_knowing_the_code():
    for text in rig.PHRASES.values():
        assert all(name and name.isidentifier() for _, name, _, _ in Formatter().parse(text) if name is not None)
