"""Times as people type them: 14:05 is today, 26 Nov 14:05 or 2026-11-26 14:05 another day."""

from __future__ import annotations

from datetime import datetime

_DAYS = ("%Y-%m-%d %H:%M", "%Y-%m-%dT%H:%M", "%d.%m.%Y %H:%M", "%d %b %Y %H:%M")
_THIS_YEAR = ("%d %b %H:%M", "%d.%m. %H:%M", "%m-%d %H:%M")


def write_when(moment: datetime) -> str:
    """A moment as it can be typed."""
    return moment.strftime("%Y-%m-%d %H:%M")


def parse_when(text: str, now: datetime) -> float:
    """
    Seconds since 1970 UTC of a typed local time.

    Parameters
    ----------
    text : str
    now : datetime
        The present in the zone in which the text is meant; it gives what is not typed.

    Raises
    ------
    ValueError
        In one line, with an example.
    """
    plain = " ".join(text.split())
    try:
        clock = datetime.strptime(plain.replace(".", ":"), "%H:%M")
        return now.replace(hour=clock.hour, minute=clock.minute, second=0, microsecond=0).timestamp()
    except ValueError:
        pass
    for form in _DAYS:
        try:
            return datetime.strptime(plain, form).replace(tzinfo=now.tzinfo).timestamp()
        except (ValueError, OverflowError, OSError):
            continue
    for form in _THIS_YEAR:
        try:
            found = datetime.strptime(f"{now.year} {plain}", f"%Y {form}")
            return found.replace(tzinfo=now.tzinfo).timestamp()
        except (ValueError, OverflowError, OSError):
            continue
    raise ValueError(f'"{plain[:40]}" is no time: write 14:05 or 2026-08-15 14:05')


def age_words(seconds: float) -> str:
    """How old it is."""
    if seconds < 5400.0:
        return f"{max(round(seconds / 60.0), 1)} min"
    if seconds < 36 * 3600.0:
        return f"{round(seconds / 3600.0)} h"
    return f"{round(seconds / 86_400.0)} d"
