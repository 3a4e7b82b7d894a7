"""The question papers of the scenario's assignments."""

from __future__ import annotations

from assignments.printed_paper import Heading, printed_paper

from .scenario import COURSES, Work

_QUESTIONS = {
    "great-circles": {
        "1": "A lies at 38° 30.0' S, B at 33° 54.0' S. The difference of longitude is 72° 24.0'.",
        "1a": "Find the great-circle arc from A to B.",
        "1b": "Give the distance in nautical miles.",
        "1c": "Find the initial course from A.",
        "2a": "Find the latitude of the vertex of this great circle.",
        "2b": "From 41° 12.0' N a star of declination 16° 24.0' N is at hour angle 33° 30.0'. Compute its altitude.",
        "2c": "Compute its azimuth.",
        "3": "A vessel at 38° 30.0' N sails 240 nm on 052°. By mid-latitude sailing, "
        "find the change of latitude and longitude.",
        "4": "A spherical triangle has angles of 90°, 75° and 60°. Find its area on the earth.",
        "5": "Compare the rhumb line from A to B with the great circle, and say when the difference matters.",
    },
    "noon-sight": {
        "1": "At noon the lower limb of the sun stands at 52° 14.2'. Index error 1.8' on the arc, height of eye 3 m.",
        "1a": "Find the apparent altitude.",
        "1b": "Find the observed altitude.",
        "1c": "Find the zenith distance and name it.",
        "2a": "The declination is 20° 48.0' S. Find the latitude.",
        "2b": "The altitude was 2.5' too high. How far is the latitude off, and which way?",
        "3a": "In longitude 63° 24.0' W, with an equation of time of 14 minutes, at what UT is it noon?",
        "3b": "In latitude 37° S, at hour angle 24°, compute the sun's altitude.",
        "4": "Find the azimuth for 3b, and say how the position line runs.",
    },
    "tides": {
        "1": "Low water is 0.8 m, high water 5.6 m.",
        "1a": "Give the range and a twelfth of it.",
        "1b": "Give the height after each hour of the rise.",
        "2a": "A swell has a wave length of 85 m in deep water. Find its speed and period.",
        "2b": "How long does its group take over 300 km?",
        "3": "A basin is 12 km long and 18 m deep, closed at both ends. Find the period of its slowest seiche.",
    },
    "waves-test": {
        "1": "Which waves travel at a speed that depends on the depth only? Choose one on the screen.",
        "2": "When is there a spring tide? Choose on the screen.",
        "3a": "How fast does a long wave travel in water of 40 m?",
        "3b": "Give the wave length of a deep-water wave by its period.",
        "4": "Show that in deep water a group of waves travels at half the speed of its waves. Type it.",
        "5": "Draw the tidal curve from low water (0.8 m) to high water (5.6 m), and say where it is steepest.",
        "6a": "A swell has a wave length of 85 m in deep water. Find its speed and period.",
        "6b": "How long does its group take over 300 km?",
    },
}
_COLLEGE = "Kestrel Point Maritime College"


def question_paper(work: Work) -> bytes:
    course = f"{work.course} {COURSES[work.course]}"
    heading = Heading(
        _COLLEGE, work.title, course, f"{work.instructions_before}\n{work.instructions}".strip().splitlines()
    )
    return printed_paper(heading, _QUESTIONS[work.key], {part.label: part.points for part in work.parts}, _COLLEGE)
