"""The words of the water now: what to mind. Guidance only: local rules and licensed practice come first."""

from __future__ import annotations

from enum import Enum

from plumbbob.core.live.care import Care

PHRASES: dict[Enum, str] = {
    Care.WIND_ASHORE: "Wind {wind}, gusts half as strong again: too much for this craft, make for the lee shore.",
    Care.WIND_MIND: "Wind {wind}, gusts half as strong again: jacket worn, lee shore in reach.",
    Care.THIN_ICE: "Ice {thick}: stay off it. Ask locally; no thickness is certain.",
    Care.ICE: "On ice: no thickness is certain. Check every few steps, picks worn, never alone; ask locally.",
    Care.BATTERY: "This computer's battery may not last the way home: turn while it shows the way.",
    Care.HOME_NOW: "Time to turn for home.",
    Care.HOME_SOON: "Turn for home in {minutes} min.",
    Care.COLD_WATER: "Water {water}: jacket worn. One minute of gasping, ten of useful hands.",
    Care.DARK: "Dark: lights on, white light at hand, jacket worn. Local rules say which lights.",
    Care.DUSK: "Light is going: lights ready, know the way back.",
    Care.HEAT: "Air {air}: drink, shade, rest.",
    Care.THUNDER: "Thunder heard is in range: off the water, rods down, wait 30 min after the last.",
    Care.HOOKS: "Hooks: eyes covered, fish in the net first, wet hands.",
}
