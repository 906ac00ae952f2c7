"""A review as the JSON object that `plumbbob review --json` prints (docs/formats.md)."""

from __future__ import annotations

from typing import Any

from plumbbob.core.tally.dimensions import Dimension
from plumbbob.core.tally.questions import Part
from plumbbob.core.tally.review import Review, findings_and_same, hours_to_tell
from plumbbob.services.review import LogReview, told_of
from plumbbob.wording import review as words
from plumbbob.wording import sentence


def review_json(log: str, made: LogReview) -> dict[str, Any]:
    """Plain lists, dicts and numbers, SI."""
    found = made.review
    answer: dict[str, Any] = {
        "log": log,
        "trips": found.trips,
        "rod_hours": round(found.hours, 3),
        "fish": made.read.catches,
        "fish_in_effort": found.fish,
        "rate_per_rod_hour": round(found.rate, 4) if found.hours > 0.0 else None,
        "rates": {name: _bins(found, name) for name in found.rates},
        "findings": [_finding(found, k, part) for k, _, part in findings_and_same(found.findings)],
        "cannot_be_told_apart": [
            {
                "one": _where(found, t.one),
                "other": _where(found, t.other),
                "sentence": words.tie(found, t, words.metric),
            }
            for t in found.findings.ties
        ],
        "explained": [
            {**_where(found, a.part), "ratio": round(a.ratio, 3), "sentence": words.aside(found, a, words.metric)}
            for a in found.asides
        ],
        "try_next": [
            {
                **_where(found, t.part),
                "rod_hours": round(t.hours, 1),
                "sentence": words.test(found, t, words.metric),
            }
            for t in found.tests
        ],
        "without_a_fish": [
            {"spot": b.name, "trips": b.trips, "rod_hours": round(b.hours, 2), "expected": round(b.expected, 1)}
            for b in found.blanks
        ],
        "sidelines": [sentence(r, words.PHRASES) for r in made.sidelines],
        "left_out": told_of(made),
    }
    if found.silence is not None:
        answer["why"] = words.silence(found.silence)
    return answer


def _bins(found: Review, name: str) -> list[dict[str, Any]]:
    dimension = found.dimension(name)
    assert dimension is not None
    return [
        {
            **_label(dimension, r.bin, r.bin),
            "trips": r.trips,
            "rod_hours": round(r.hours, 3),
            "fish": r.fish,
            "rate": round(r.rate, 4),
            "low": round(r.low, 4),
            "high": round(r.high, 4),
            "enough": r.enough,
            **({} if r.enough else {"more_rod_hours": round(hours_to_tell(found, r), 1)}),
        }
        for r in found.rates[name]
    ]


def _finding(found: Review, k: int, part: Part) -> dict[str, Any]:
    finding, evidence = found.findings.found[k], found.evidence[k]
    return {
        **_where(found, part),
        "ratio": round(finding.ratio, 3),
        "low": round(finding.low, 3),
        "high": round(finding.high, 3),
        "sentence": words.finding(found, finding, part, words.metric),
        "against": words.against(found, finding, evidence, words.metric),
        "fish": evidence.fish,
        "rod_hours": round(evidence.hours, 2),
        "trips": evidence.trips,
        "chance": round(finding.chance, 4),
    }


def _where(found: Review, part: Part) -> dict[str, Any]:
    dimension = found.pieces.dimensions[part.dimension]
    return {"by": dimension.name, **_label(dimension, part.first, part.last)}


def _label(dimension: Dimension, first: int, last: int) -> dict[str, Any]:
    if dimension.edges is None:
        return {"value": dimension.names[first]}
    return {"from": float(dimension.edges[first]), "to": float(dimension.edges[last + 1])}
