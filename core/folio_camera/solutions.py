"""Worked answers of the scenario, with every number computed here.

Formulas: spherical law of cosines for altitude and great circles (Bowditch, The American Practical Navigator,
sight reduction and the sailings); the rule of twelfths (common practice); deep-water waves c = √(gL/2π) and
Merian's formula for a seiche T = 2L/√(gh) (Open University, Waves, Tides and Shallow-Water Processes). Titles are
from memory.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

GRAVITY = 9.81
_DEG = math.pi / 180


@dataclass(frozen=True, slots=True)
class Answer:
    """``figure``: what is drawn below the lines, one of `figures.FIGURES`, or nothing."""

    label: str
    lines: tuple[str, ...]
    figure: str = ""


def angle(degrees: float) -> str:
    """Degrees and minutes to a tenth, as navigators write them: 38° 12.4'."""
    tenths = round(abs(degrees) * 600)
    whole, rest = divmod(tenths, 600)
    return f"{'-' if degrees < 0 else ''}{whole}° {rest / 10:04.1f}'"


def altitude(latitude: float, declination: float, hour_angle: float) -> float:
    """Computed altitude in degrees: sin Hc = sin L sin d + cos L cos d cos t."""
    L, d, t = latitude * _DEG, declination * _DEG, hour_angle * _DEG
    return math.asin(math.sin(L) * math.sin(d) + math.cos(L) * math.cos(d) * math.cos(t)) / _DEG


def azimuth_angle(latitude: float, declination: float, height: float) -> float:
    """Azimuth angle in degrees from the elevated pole: cos Z = (sin d − sin L sin Hc) / (cos L cos Hc)."""
    L, d, h = latitude * _DEG, declination * _DEG, height * _DEG
    return math.acos((math.sin(d) - math.sin(L) * math.sin(h)) / (math.cos(L) * math.cos(h))) / _DEG


def great_circle(lat_a: float, lat_b: float, longitude_difference: float) -> float:
    """Angular distance in degrees; sixty nautical miles each."""
    return altitude(lat_a, lat_b, longitude_difference) * -1 + 90


def great_circles() -> tuple[Answer, ...]:
    """NAV 231, problem set 5."""
    lat_a, lat_b, dlong = -38.5, -33.9, 72.4
    arc = great_circle(lat_a, lat_b, dlong)
    course = azimuth_angle(abs(lat_a), abs(lat_b), 90 - arc)
    vertex = math.acos(math.sin(course * _DEG) * math.cos(lat_a * _DEG)) / _DEG
    height = altitude(41.2, 16.4, 33.5)
    z = azimuth_angle(41.2, 16.4, height)
    excess = 90 + 75 + 60 - 180
    departure = 240 * math.sin(52 * _DEG)
    mean_lat = 38.5 + 240 * math.cos(52 * _DEG) / 120
    rhumb = 60 * math.hypot(lat_a - lat_b, dlong * math.cos(36.2 * _DEG))
    return (
        Answer(
            "1a",
            (
                "A is 38° 30.0' S, B is 33° 54.0' S",
                f"the pole angle P = {angle(dlong)}",
                "cos D = sin LA sin LB + cos LA cos LB cos P",
                f"cos D = {math.cos(arc * _DEG):.5f}",
                f"D = {angle(arc)}",
            ),
            figure="triangle",
        ),
        Answer("1b", ("one minute of arc is one nautical mile", f"D = {arc:.4f} x 60", f"  = {arc * 60:.1f} nm")),
        Answer(
            "1c",
            (
                "cos C = (sin LB - sin LA cos D) / (cos LA sin D)",
                f"C = {angle(course)}",
                f"initial course S {course:.1f}° E = {180 - course:.1f}°",
            ),
        ),
        Answer(
            "2a",
            (
                "at the vertex the course is 090°",
                "cos Lv = sin C cos LA",
                f"cos Lv = {math.cos(vertex * _DEG):.5f}",
                f"Lv = {angle(vertex)} S",
            ),
        ),
        Answer(
            "2b",
            (
                "sin h = sin L sin d + cos L cos d cos t",
                "L = 41° 12.0' N  d = 16° 24.0' N  t = 33° 30.0'",
                f"sin h = {math.sin(height * _DEG):.5f}",
                f"Hc = {angle(height)}",
            ),
        ),
        Answer(
            "2c",
            (
                "cos Z = (sin d - sin L sin h) / (cos L cos h)",
                f"cos Z = {math.cos(z * _DEG):.5f}",
                f"Z = N {z:.1f}° W",
                f"Zn = {360 - z:.1f}°",
            ),
        ),
        Answer(
            "3",
            (
                "mid-latitude sailing: 240 nm on course 052°",
                f"d lat = 240 cos 52° = {240 * math.cos(52 * _DEG):.1f}'",
                f"dep = 240 sin 52° = {departure:.1f} nm",
                f"d long = dep / cos Lm = {departure / math.cos(mean_lat * _DEG):.1f}'",
            ),
        ),
        Answer(
            "4",
            (
                "angles 90°, 75° and 60°",
                f"spherical excess E = {excess}°",
                f"area = E R^2 = {excess * _DEG:.4f} R^2",
                "R = 3440 nm",
                f"area = {excess * _DEG * 3440**2 / 1e6:.2f} million sq nm",
            ),
        ),
        Answer(
            "5",
            (
                "rhumb line by mid-latitude, Lm = 36° 12'",
                f"distance = {rhumb:.0f} nm",
                f"the great circle saves {rhumb - arc * 60:.0f} nm",
                "the saving grows with latitude",
            ),
        ),
    )


def noon_sight() -> tuple[Answer, ...]:
    """NAV 231, the midterm."""
    sextant, index_error, dip, refraction, semidiameter = 52 + 14.2 / 60, 1.8 / 60, 3.1 / 60, 0.8 / 60, 16.1 / 60
    observed = sextant - index_error - dip - refraction + semidiameter
    declination = -20.8
    zenith = 90 - observed
    height = altitude(-37.0, declination, 24.0)
    z = azimuth_angle(37.0, -declination, height)
    noon = 12 + 63.4 / 15 - 14 / 60
    return (
        Answer(
            "1a",
            (
                "hs = 52° 14.2'  index error 1.8' on the arc",
                f"dip for 3 m = {dip * 60:.1f}'",
                f"ha = {angle(sextant - index_error - dip)}",
            ),
        ),
        Answer(
            "1b",
            (
                f"refraction {refraction * 60:.1f}'  semidiameter {semidiameter * 60:.1f}' lower limb",
                f"Ho = {angle(observed)}",
            ),
        ),
        Answer("1c", ("the sun bears north, so the zenith", "is south of the sun", f"z = 90° - Ho = {angle(zenith)}")),
        Answer(
            "2a",
            (
                f"declination S {angle(-declination)}",
                "lat = z + dec, same name",
                f"lat = {angle(zenith - declination)} S",
            ),
        ),
        Answer("2b", ("an error of 1' in Ho is 1 nm in latitude", f"2.5' too high: {2.5} nm too far north")),
        Answer(
            "3a",
            (
                "longitude 63° 24.0' W",
                f"63.4 / 15 = {63.4 / 15:.4f} h",
                f"noon = {noon:.3f} h UT with eq. of time 14 min",
                f"  = {int(noon)} h {int(noon % 1 * 60)} min",
            ),
        ),
        Answer(
            "3b",
            ("t = 24°  L = 37° S  d = 20° 48' S", f"sin Hc = {math.sin(height * _DEG):.5f}", f"Hc = {angle(height)}"),
        ),
        Answer(
            "4",
            (
                "cos Z = (sin d - sin L sin h) / (cos L cos h)",
                f"Z = S {z:.1f}° W",
                f"Zn = {180 + z:.1f}°",
                "so the position line runs at right angles to it",
            ),
        ),
    )


def rule_of_twelfths() -> tuple[Answer, ...]:
    """OCN 118, set 3."""
    low, high = 0.8, 5.6
    span = high - low
    after = [low + span * share / 12 for share in (1, 3, 6, 9, 11, 12)]
    length = 85.0
    speed = math.sqrt(GRAVITY * length / (2 * math.pi))
    seiche = 2 * 12_000 / math.sqrt(GRAVITY * 18)
    return (
        Answer(
            "1a",
            (
                f"range = {high} - {low} = {span:.1f} m",
                f"one twelfth = {span / 12:.2f} m",
                "hours 1 to 6: 1, 2, 3, 3, 2, 1 twelfths",
            ),
        ),
        Answer("1b", (*(f"after {hour} h: {level:.2f} m" for hour, level in enumerate(after, 1)),), figure="tide"),
        Answer(
            "2a",
            (
                f"c = sqrt(g L / 2 pi), L = {length:.0f} m",
                f"c = {speed:.2f} m/s",
                f"T = L / c = {length / speed:.2f} s",
            ),
        ),
        Answer(
            "2b",
            (
                "the group moves at half the speed",
                f"cg = {speed / 2:.2f} m/s",
                f"300 km takes {300_000 / (speed / 2) / 3600:.1f} h",
            ),
        ),
        Answer(
            "3",
            (
                "closed basin, 12 km long, 18 m deep",
                "T = 2 L / sqrt(g h)",
                f"T = {seiche:.0f} s = {seiche / 60:.1f} min",
            ),
        ),
    )
