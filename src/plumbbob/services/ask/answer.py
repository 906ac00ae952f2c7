"""A question a line, an answer a line: what makes no sense is answered by its error, and the next is read."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from plumbbob.files.errors import FileError
from plumbbob.files.json_text import loads
from plumbbob.files.text import printable
from plumbbob.services.ask import fish, ground, places, presenting, sonar, tackle, water

Json = dict[str, Any]
MOST_BYTES = 1_000_000

QUESTIONS: Mapping[str, Callable[[Any], Json]] = {
    "rod": tackle.rod,
    "tackle": tackle.tackle,
    "fall": tackle.fall,
    "line": tackle.line,
    "reel": tackle.reel,
    "tow": tackle.towed,
    "jig_weight": ground.jig_weight,
    "drag": ground.drag,
    "walker": ground.walker,
    "floater": ground.floater,
    "drop_rig": ground.drop_rig,
    "anchored_bait": ground.anchored_bait,
    "ball": ground.ball,
    "school": ground.school,
    "cadence": presenting.cadence,
    "cast": presenting.cast,
    "plug_cast": presenting.plug_cast,
    "hang": presenting.hang,
    "column": water.column,
    "comfort": water.comfort_of,
    "habits": water.habits,
    "light": water.light,
    "tilt": water.tilt,
    "wind": water.wind,
    "tide": water.tide,
    "hooks": fish.hooks,
    "ice": water.ice,
    "cold_water": water.cold_water,
    "beam": sonar.beam,
    "dead_zone": sonar.dead,
    "shadow": sonar.shadow,
    "scan_speed": sonar.scan_speed,
    "detection": sonar.detection,
    "sound": sonar.sound,
    "lanes": sonar.lanes,
    "care": fish.care,
    "weight": fish.weight,
    "echo": fish.echo,
    "bite": fish.bite,
    "bait": fish.bait,
    "anchor": fish.anchor,
    "places": places.places,
    "depths": places.depths,
    "holes": places.holes,
}


def questions(value: Any) -> Json:
    """What can be asked, each in a sentence."""
    if value not in ({}, None):
        raise ValueError("questions is asked with {}")
    return {name: (work.__doc__ or "").strip().splitlines()[0] for name, work in QUESTIONS.items()}


def answer_question(asked: Any) -> Json:
    """
    The answer to one question.

    Raises
    ------
    ValueError
        In one line, where it makes no sense.
    """
    if not isinstance(asked, Mapping) or len(asked) != 1:
        raise ValueError(
            'a question is an object with one name, such as {"beam": {..}}; {"questions": {}} lists them'
        )
    name, value = next(iter(asked.items()))
    if name == "questions":
        return questions(value)
    work = QUESTIONS.get(name)
    if work is None:
        raise ValueError(f"{str(name)[:40]} can't be asked; {', '.join(QUESTIONS)} can")
    try:
        answer: Json = _finite(work(value))
        return answer
    except KeyError as exc:
        raise ValueError(f"{name}: {exc.args[0]} is missing") from exc
    except (ValueError, ArithmeticError) as exc:
        raise ValueError(f"{name}: {exc}") from exc
    except (TypeError, AttributeError, IndexError) as exc:
        raise ValueError(f"{name}: a value is of the wrong kind") from exc


def _finite(answer: Any) -> Any:
    if isinstance(answer, dict):
        return {k: _finite(v) for k, v in answer.items()}
    if isinstance(answer, list | tuple):
        return [_finite(v) for v in answer]
    return None if isinstance(answer, float) and not math.isfinite(answer) else answer


def answer_text(line: bytes) -> Json:
    """The answer to a line of JSON, or an object with its error."""
    try:
        if len(line) > MOST_BYTES:
            raise ValueError(f"a question has at most {MOST_BYTES // 1_000_000} MB")
        return answer_question(loads(line.decode("utf-8")))
    except UnicodeDecodeError:
        return {"error": "it is no UTF-8 text"}
    except FileError as exc:
        return {"error": printable(str(exc))}
    except (ValueError, OverflowError, RecursionError) as exc:
        return {"error": printable(str(exc))}
