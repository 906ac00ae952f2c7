"""What comes over a wire: pings and sentences out of dirt, however the bytes are cut."""

import json
import math
import zlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.formats.wire_nmea import GpsdScanner, MomentBuilder, SentenceScanner
from plumbbob.formats.wire_pings import PingHeader, PingScanner, WirePing, header_line, header_of, ping_bytes
from plumbbob.sim.serve import sentence

DOWN = PingHeader(
    "down", 0.5, -100.0, 1480.0, 0.4,
    (("frequency", 2e5), ("beam_width", 12.0), ("pulse_length", 1e-4), ("tvg", "40logR")),
)  # fmt: skip
SIDE = PingHeader(
    "side", 0.5, -100.0, 1480.0, 0.4,
    (("frequency", 4e5), ("beam_width_along", 1.0), ("beam_width_across", 50.0), ("tvg", "none")),
)  # fmt: skip
AHEAD = PingHeader(
    "forward", 0.5, -100.0, 1480.0, 0.4, (("frequency", 9e5), ("beam_width", 1.5), ("tvg", "none")), (5.0, 10.0, 15.0)
)
NOON = 1786795200.0  # 2026-08-15 12:00 UTC


def ping(k=0, samples=6, view="down", size=1):
    echo = bytes((7 * k + j) % 251 for j in range(samples * size))
    return WirePing(1e9 + k, 0.0, 0.02, samples, echo, 12.0 if view == "forward" else math.nan)


def line(**said):
    usual = {"time": 1.0, "range_start": 0.0, "range_step": 0.1, "samples": 3, "crc32": zlib.crc32(b"abc")}
    return json.dumps({**usual, **said}).encode() + b"\nabc"


def scanned(data, header=DOWN, cuts=()):
    """What a scanner makes of bytes that come in pieces."""
    scanner, out, at = PingScanner(), [], 0
    whole = header_line(header) + data
    for cut in (*sorted(cuts), len(whole)):
        out += scanner.feed(whole[at:cut])
        at = max(at, cut)
    return out + scanner.close(), scanner


@pytest.mark.parametrize(("header", "size"), [(DOWN, 1), (SIDE, 2), (AHEAD, 3)])
def test_pings_come_as_they_were_sent(header, size):
    sent = [ping(k, 5 + k, header.view, size) for k in range(6)]
    data = b"".join(ping_bytes(p, len(header.beam_angle)) for p in sent)
    got, scanner = scanned(data, header)
    assert [p.echo for p in got] == [p.echo for p in sent]
    assert [p.time for p in got] == [p.time for p in sent]
    assert header_of(header_line(header).strip()) == header
    assert not scanner.left_out


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.integers(0, 3), min_size=1, max_size=8),
    st.lists(st.integers(0, 900), max_size=12),
    st.integers(0, 10**6),
)
def test_dirt_and_cuts_change_nothing_of_the_whole_pings(kinds, cuts, seed):
    """Whole pings come through whatever stands between them, however the bytes arrive, and none is invented."""
    rng = np.random.default_rng(seed)
    data, sent = b"", []
    for k, kind in enumerate(kinds):
        one = ping(k, int(rng.integers(1, 40)))
        made = ping_bytes(one)
        if kind == 0:
            data += rng.integers(0, 256, int(rng.integers(1, 50)), dtype=np.uint8).tobytes().replace(b"{", b"(")
        elif kind == 1:
            bad = bytearray(made)
            bad[-1] ^= 0xFF
            data += bytes(bad)
        elif kind == 2:
            data += made[: len(made) - 1 - int(rng.integers(0, one.samples))]  # cut short
        else:
            data += made
            sent.append(one)
    data += ping_bytes(ping(99))
    sent.append(ping(99))
    got, _ = scanned(data, cuts=cuts)
    assert [p.time for p in got] == [p.time for p in sent]


@pytest.mark.parametrize(
    ("bad", "reason"),
    [
        (line(range_step=0), "range"),
        (line(range_start=-1), "range"),
        (line(time="now"), "numbers"),
        (b'{"time": NaN, "range_start": 0, "range_step": 1, "samples": 3, "crc32": 1}\nabc', ""),
        (line(samples=0), "samples"),
        (line(samples=3.0), "samples"),
        (line(samples=4_000_000_000), "samples"),
        (line(samples=True), "samples"),
        (line(crc32=7), "checksum"),
        (line(azimuth=3.0, beams=1), "another view"),
        (line(colour="blue"), "keys"),
        (header_line(SIDE), "another header"),
        (b'{"a": "' + b"x" * 5000 + b'"}\n', ""),
        (b"{" * 300, ""),
        (b"[" * 3000 + b"\n", ""),
    ],
)
def test_what_does_not_agree_is_left_out_and_the_next_ping_comes(bad, reason):
    got, scanner = scanned(ping_bytes(ping(1)) + bad + ping_bytes(ping(2)))
    assert [p.time for p in got] == [1e9 + 1, 1e9 + 2]
    if reason:
        assert scanner.left_out[reason] == 1


def test_an_announced_size_that_does_not_come_is_not_waited_for():
    scanner = PingScanner()
    scanner.feed(header_line(DOWN))
    long = line(samples=60_000, crc32=1)
    assert scanner.feed(long) == []
    # once a whole ping lies behind it, it is given, though the long one has not come
    got = scanner.feed(ping_bytes(ping(5)))
    assert [p.time for p in got] == [1e9 + 5]
    assert scanner.left_out["cut short"] == 1


def test_a_ping_lies_in_the_middle_of_anothers_bytes():
    inner = ping_bytes(ping(3))
    outer = WirePing(1e9 + 1, 0.0, 0.02, len(inner) + 4, b"ab" + inner + b"cd")
    broken = bytearray(ping_bytes(outer))
    broken[-1] ^= 1
    got, _ = scanned(bytes(broken))
    assert [p.time for p in got] == [1e9 + 3]
    whole, _ = scanned(ping_bytes(outer))
    assert [p.echo for p in whole] == [outer.echo]


@pytest.mark.parametrize(
    "change",
    [
        {"version": 2},
        {"view": "up"},
        {"scale_factor": 0},
        {"sound_speed": 0},
        {"frequency": -1},
        {"tvg": "loud"},
        {"beam_width": None},
        {"format": "other"},
    ],
)
def test_a_header_that_is_none_is_refused_and_nothing_behind_it_read(change):
    said = {**json.loads(header_line(DOWN)), **change}
    scanner = PingScanner()
    assert scanner.feed(json.dumps(said).encode() + b"\n" + ping_bytes(ping())) == []
    assert scanner.is_refused
    assert scanner.left_out["no header"] == 1
    endless = PingScanner()
    for _ in range(40):
        endless.feed(b"x" * 4096)
    assert endless.is_refused


# -- sentences -------------------------------------------------------------------------------------------------------


def rmc(clock, north=44.5, state="A", talker="GN", date="150826", speed="4.0"):
    minutes = 60 * (north % 1)
    return f"{talker}RMC,{clock},{state},{int(north)}{minutes:08.5f},N,04003.00000,W,{speed},90.0,{date},,"


def fixes(sentences, clock=NOON, step=0.05):
    builder, out = MomentBuilder(), []
    for k, one in enumerate(sentences):
        out += builder.take(one, step * k, clock)
    return out + builder.settled(1e3, clock), builder


@settings(max_examples=50, deadline=None)
@given(st.lists(st.integers(0, 400), max_size=10), st.binary(max_size=40))
def test_sentences_are_found_whatever_stands_before_and_however_they_are_cut(cuts, dirt):
    bodies = [rmc("120000.00"), "GPHDT,12.0,T", "YXMTW,18.5,C"]
    plain = dirt.replace(b"$", b"x").replace(b"!", b"x")
    data = b"".join(plain + sentence(b) for b in bodies)
    scanner, out, at = SentenceScanner(), [], 0
    for cut in (*sorted(cuts), len(data)):
        out += scanner.feed(data[at:cut])
        at = max(at, cut)
    assert out == bodies
    assert scanner.feed(sentence(bodies[0]).replace(b"RMC", b"RMD")) == []
    assert scanner.left_out["checksum"] == 1


def test_one_fix_a_moment_by_the_best_sentence():
    gga = "GNGGA,120000.00,4430.60000,N,04003.00000,W,1,09,1.0,310,M,0,M,,"
    gll = "GNGLL,4431.20000,N,04003.00000,W,120000.00,A,A"
    vtg = "GNVTG,77.0,T,,M,9.0,N,16.7,K"
    more = [vtg, "YXMTW,18.5,C", "GPHDT,33.0,T", rmc("120001.00", speed="")]
    got, builder = fixes([gll, gga, rmc("120000.00"), *more])
    assert [f.time for _, f in got] == [NOON, NOON + 1.0]
    first = got[0][1]
    assert first.latitude == pytest.approx(44.5)
    assert first.speed_mps == pytest.approx(4.0 * 0.514444)
    assert math.isnan(got[1][1].speed_mps)
    assert builder.temperature[1] == 18.5
    assert builder.heading[1] == 33.0
    only, _ = fixes([gll, gga])
    assert only[0][1].latitude == pytest.approx(44.51)
    late, _ = fixes([rmc("120000.00"), rmc("120001.00"), gga.replace("120001", "120000")])
    assert len(late) == 2


def test_void_and_impossible_sentences_are_counted():
    got, builder = fixes(
        [
            rmc("120000.00", state="V"),
            "GNGGA,120001.00,4430.60000,N,04003.00000,W,0,00,9.9,,M,,M,,",
            rmc("126100.00"),
            rmc("120002.00", north=44.5).replace("4430", "9530"),
            "GNRMC,120003.00,A,,N,,W,1,1,150826,,",
            "GNHDT,x,T",
            "GNRMC",
        ]
    )
    assert not got
    assert builder.left_out["void"] == 2
    assert builder.left_out["numbers"] == 5


def test_the_day_comes_from_a_date_or_the_clock_and_turns_at_midnight():
    gga = "GNGGA,{},4430.60000,N,04003.00000,W,1,09,1.0,310,M,0,M,,"
    midnight = NOON + 43_200.0
    got, _ = fixes([gga.format("235959.00"), gga.format("000000.00")], clock=midnight + 2.0)
    assert [f.time for _, f in got] == [midnight - 1.0, midnight]
    dated, _ = fixes([rmc("235959.00"), rmc("000000.00", date="160826")], clock=midnight - 40 * 86_400)
    assert [f.time for _, f in dated] == [midnight - 1.0, midnight]
    zda, _ = fixes(["GNZDA,120000.00,15,08,2026,00,00", gga.format("120000.00")], clock=0.0)
    assert zda[0][1].time == NOON


def test_gpsd_reports_are_fixes_where_they_are_good():
    scanner = GpsdScanner()
    tpv = {"class": "TPV", "mode": 3, "time": "2026-08-15T12:00:00.500Z", "lat": 44.2, "lon": -40.0, "speed": 1.5}
    lines = [
        {"class": "VERSION"},
        tpv,
        {**tpv, "mode": 1},
        {**tpv, "lat": 99},
        {**tpv, "time": "soon"},
        {**tpv, "lat": None},
    ]
    data = b"".join(json.dumps(one).encode() + b"\n" for one in lines) + b"{broken\n"
    got = scanner.feed(data[:50]) + scanner.feed(data[50:])
    assert [(f.time, f.speed_mps) for f in got] == [(NOON + 0.5, 1.5)]
    assert math.isnan(got[0].course_deg)
    assert scanner.left_out == {"void": 1, "numbers": 3, "not JSON": 1}
