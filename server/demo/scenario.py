"""The sample data: Kestrel Point Maritime College. Everybody and everything here is invented."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from folio_camera import handwriting as hand
from folio_camera import solutions
from folio_camera.handwriting import Habit, Style
from folio_camera.scene import Scene
from folio_camera.solutions import Answer
from folio_core.answers import (
    ANSWERED_ON_PAGES,
    AnswerContent,
    Answering,
    AnswerKind,
    Choice,
    ShortAnswer,
    ShortKind,
)

from .sample_people import DACRE, ILSE, JOSS, KAITO, MIRELA, PETRA, SUNNIVA, TOBIN, WREN, Person

PASSWORD = "by-dead-reckoning"
PHOTO_SIZE = (2016, 2688)


MARKER_READS = ("great-circles", ("1a", "1b", "1c"))
DEPARTMENT = "Seamanship and Navigation"


@dataclass(frozen=True, slots=True)
class Part:
    label: str
    title: str
    points: float
    answering: Answering = ANSWERED_ON_PAGES


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet of paper: its answers, and how it was photographed. "2b/1" is the first half of 2b, "2b/2" the rest."""

    labels: tuple[str, ...]
    scene: Scene


@dataclass(frozen=True, slots=True)
class Set:
    """One student's sheets. ``send``: the order they are sent in; ``hand_in``: whether they were."""

    person: Person
    style: Style
    sheets: tuple[Sheet, ...]
    seed: int
    as_pdf: bool = False
    send: tuple[int, ...] = ()
    place: bool = True
    hand_in: bool = True
    left_blank: tuple[str, ...] = ()
    on_screen: tuple[tuple[str, AnswerContent], ...] = ()  # by label


@dataclass(frozen=True, slots=True)
class Work:
    """An assignment; its moments are days from the loading of the demo and a local time of day."""

    key: str
    course: str
    title: str
    instructions: str
    answers: Callable[[], tuple[Answer, ...]]
    parts: tuple[Part, ...]
    opens: tuple[int, str]
    due: tuple[int, str]
    instructions_before: str = ""
    late_until: tuple[int, str] | None = None
    writing_minutes: int | None = None
    honour: str = ""
    sets: tuple[Set, ...] = field(default=())


COURSES = {
    "NAV 231": "Celestial Navigation",
    "OCN 118": "Tides and Waves",
}
TIME_ZONE, PLACE = "America/Halifax", "Kestrel Point"


def scene(desk: str, **more: object) -> Scene:
    return Scene(desk=desk, size=PHOTO_SIZE, **more)  # type: ignore[arg-type]


def _sheets(split: tuple[tuple[str, ...], ...], scenes: tuple[Scene, ...]) -> tuple[Sheet, ...]:
    return tuple(Sheet(labels, scenes[number % len(scenes)]) for number, labels in enumerate(split))


_GREAT_CIRCLES = (("1a", "1b"), ("1c", "2a"), ("2b", "2c"), ("3", "4"), ("5",))
_TO_THE_FOOT = (("1a", "1b", "1c", "2a/1"), ("2a/2", "2b", "2c", "3", "4/1"), ("4/2", "5"))
_DRAWS = (Habit.DRAWS,)
_MESSY = (Habit.DRAWS, Habit.CROSSES_OUT, Habit.MARGIN_NOTES)
_FOLDED = (Habit.FOLDS, Habit.CROSSES_OUT)
_TIDES = (("1a", "1b"), ("2a", "2b"), ("3",))

GREAT_CIRCLES = Work(
    key="great-circles",
    course="NAV 231",
    title="Problem set 5: great circles",
    instructions="Work in degrees and minutes to a tenth. Show the formula before the numbers.\n"
    "The law of cosines needs no proof: "
    "$\\cos d = \\sin\\varphi_A\\sin\\varphi_B + \\cos\\varphi_A\\cos\\varphi_B\\cos\\Delta\\lambda$.\n"
    "You may use tables and a calculator. Write on one side of the paper.",
    answers=solutions.great_circles,
    parts=(
        Part("1a", "the arc from A to B", 4),
        Part("1b", "the distance in nautical miles", 3),
        Part("1c", "the initial course", 5),
        Part("2a", "latitude of the vertex", 4),
        Part("2b", "computed altitude", 6),
        Part("2c", "azimuth", 6),
        Part("3", "mid-latitude sailing", 8),
        Part("4", "area of a spherical triangle", 5),
        Part("5", "rhumb line or great circle", 4),
    ),
    opens=(-6, "09:00"),
    due=(4, "23:59"),
    late_until=(6, "12:00"),
    sets=(
        Set(
            ILSE,
            Style("kalam", hand.BLUE_PEN, "ruled", habits=_DRAWS),
            _sheets(_GREAT_CIRCLES[:4], (scene("wood"), scene("slate", hand_shadow=True))),
            11,
            hand_in=False,
        ),
        Set(
            TOBIN,
            Style("patrick", hand.BLACK_PEN, "squared"),
            _sheets(_TO_THE_FOOT, (scene("dark", light=0.15),)),
            12,
        ),
        Set(
            WREN,
            Style("caveat", hand.BLUE_PEN, "plain", habits=_MESSY),
            _sheets(
                _GREAT_CIRCLES,
                (
                    scene("cloth", tilt=0.5, rotation_deg=9, hand_shadow=True, blur_sigma_px=1.6),
                    scene("wood", tilt=0.4, fill=0.7, rotation_deg=12, blur_sigma_px=3.4),
                ),
            ),
            13,
            left_blank=(),
        ),
        Set(
            PETRA,
            Style("indie", hand.BLACK_PEN, "ruled", habits=_FOLDED),
            _sheets(
                _GREAT_CIRCLES,
                (
                    scene("slate", exif_orientation=6),
                    scene("slate", exif_orientation=8),
                    scene("slate", quarter_turns=1),
                ),
            ),
            14,
        ),
        Set(
            JOSS,
            Style("gochi", hand.FAINT_PENCIL, "ruled"),
            _sheets(_GREAT_CIRCLES[:4], (scene("wood", light=0.5),)),
            15,
            left_blank=("5",),
        ),
        Set(
            MIRELA,
            Style("kalam", hand.BLACK_PEN, "squared", habits=_MESSY),
            _sheets(_GREAT_CIRCLES, (scene("pale"), scene("dark"))),
            16,
            send=(3, 0, 4, 2, 1),
        ),
        Set(
            KAITO, Style("caveat", hand.BLACK_PEN, "ruled"), _sheets(_GREAT_CIRCLES, (scene("dark"),)), 17, as_pdf=True
        ),
        Set(
            SUNNIVA,
            Style("patrick", hand.PENCIL, "plain"),
            _sheets(_GREAT_CIRCLES[:2], (scene("cloth"),)),
            18,
            place=False,
            hand_in=False,
        ),
        Set(
            DACRE,
            Style("gochi", hand.BLUE_PEN, "squared", second_pen=hand.RED_PEN, habits=_FOLDED),
            _sheets(_GREAT_CIRCLES[1:4], (scene("wood", corner="dog_eared"), scene("slate"))),
            19,
            left_blank=("1a", "1b"),
        ),
    ),
)

NOON_SIGHT = Work(
    key="noon-sight",
    course="NAV 231",
    title="Midterm: the noon sight",
    instructions_before="Ninety-five minutes to write, fifteen to photograph and send.\n"
    "One sheet of your own notes is allowed. Bring ruled paper and a dark pen.",
    instructions="Put the label of each part in the margin. Work in degrees and minutes to a tenth.",
    answers=solutions.noon_sight,
    parts=(
        Part("1a", "apparent altitude", 4),
        Part("1b", "observed altitude", 4),
        Part("1c", "zenith distance", 3),
        Part("2a", "latitude at noon", 5),
        Part("2b", "effect of an error", 3),
        Part("3a", "time of noon", 5),
        Part("3b", "computed altitude", 6),
        Part("4", "azimuth and position line", 8),
    ),
    opens=(-1, "08:00"),
    due=(2, "15:00"),
    writing_minutes=95,
    honour="I worked alone, with nothing but the almanac pages that were given out.",
)

TIDES = Work(
    key="tides",
    course="OCN 118",
    title="Set 3: the rule of twelfths",
    instructions="Sketch the curve before you read it. Give heights to a hundredth of a metre.",
    answers=solutions.rule_of_twelfths,
    parts=(
        Part("1a", "range and twelfths", 4),
        Part("1b", "height hour by hour", 6),
        Part("2a", "speed of a swell", 5),
        Part("2b", "its group", 4),
        Part("3", "period of a seiche", 6),
    ),
    opens=(-8, "09:00"),
    due=(1, "18:00"),
    sets=(Set(ILSE, Style("kalam", hand.BLUE_PEN, "squared", habits=_DRAWS), _sheets(_TIDES, (scene("wood"),)), 31),),
)


def _waves_test() -> tuple[Answer, ...]:
    """What of the test is written on paper."""
    labels = {"1b": "5", "2a": "6a", "2b": "6b"}
    answers = solutions.rule_of_twelfths()
    return tuple(replace(one, label=labels[one.label]) for one in answers if one.label in labels)


def _choices(*texts: str) -> tuple[Choice, ...]:
    return tuple(Choice("abcdef"[at], text) for at, text in enumerate(texts))


WAVES = Work(
    key="waves-test",
    course="OCN 118",
    title="Test 2: waves",
    instructions="Questions 1 to 4 are answered on the screen, the others on paper. Give numbers with their units.",
    answers=_waves_test,
    parts=(
        Part("1", "speed and depth", 2, Answering(
            (AnswerKind.CHOSEN,), "Which waves travel at a speed that depends on the depth $h$ **only**?",
            _choices("shallow-water waves, $c = \\sqrt{gh}$", "deep-water waves, $c = \\sqrt{gL/2\\pi}$",
                     "capillary waves", "none of them"), mixed=True, right=("a",))),
        Part("2", "a spring tide", 2, Answering(
            (AnswerKind.CHOSEN,), "When is there a spring tide? Choose all that are right.",
            _choices("at new moon", "at first quarter", "at full moon", "at last quarter"), many=True,
            right=("a", "c"))),
        Part("3a", "speed in shallow water", 3, Answering(
            (AnswerKind.SHORT,), "How fast does a long wave travel in water of 40 m? ($g = 9.81$ m/s²)",
            short=ShortAnswer(ShortKind.NUMBER, "19.8", "m/s", 0.01))),
        Part("3b", "wave length", 3, Answering(
            (AnswerKind.SHORT,), "Give the wave length $L$ of a deep-water wave by its period $T$ and $g$.",
            short=ShortAnswer(ShortKind.MATHS, "g T^2 / (2 pi)"))),
        Part("4", "why groups lag", 5, Answering(
            (AnswerKind.WRITTEN,), "Show that in deep water a group of waves travels at half the speed of its waves.")),
        Part("5", "the tidal curve", 5, Answering(
            (AnswerKind.WRITTEN, AnswerKind.PICTURES),
            "Draw the curve from low water to high water, and say in a sentence where it is steepest.")),
        Part("6a", "speed of a swell", 4),
        Part("6b", "its group", 4),
    ),
    opens=(-2, "09:00"),
    due=(5, "18:00"),
    sets=(
        Set(
            KAITO,
            Style("caveat", hand.BLACK_PEN, "squared", habits=_DRAWS),
            _sheets((("5",), ("6a", "6b")), (scene("wood"),)),
            51,
            on_screen=(
                ("1", AnswerContent(chosen=("a",))),
                ("2", AnswerContent(chosen=("a", "b"))),
                ("3a", AnswerContent(short="71.3 km/h")),
                ("3b", AnswerContent(short="gT²/2π")),
                ("4", AnswerContent(
                    written="In deep water $\\omega^2 = g k$, so\n\n"
                    "$$\\frac{d\\omega}{dk} = \\frac{g}{2\\omega} = \\frac{1}{2}\\,\\frac{\\omega}{k}.$$\n\n"
                    "The left side is the speed of the group, $\\omega/k$ that of the waves: *half of it*."
                )),
                ("5", AnswerContent(written="It is steepest at half tide, in the third and fourth hour.")),
            ),
        ),
    ),
)  # fmt: skip

WORKS = (NOON_SIGHT, GREAT_CIRCLES, TIDES, WAVES)

# What Ilse has on her phone for the midterm: the journey to try by hand, and the browser test's.
ON_THE_PHONE = Set(
    ILSE,
    Style("kalam", hand.BLUE_PEN, "ruled"),
    _sheets(
        (("1a",), ("1b",), ("1c",), ("2a",), ("2b",), ("3a",), ("3b",), ("4",)),
        (scene("wood"), scene("dark", hand_shadow=True)),
    ),
    41,
)


@dataclass(frozen=True, slots=True)
class Roll:
    """A set with the folder its photographs go to and what is written on its sheets."""

    folder: str
    set: Set
    answers: tuple[Answer, ...]


@dataclass(frozen=True, slots=True)
class Sits:
    """Somebody in the midterm while the demo is loaded: begun so many minutes ago, pages in since, and the last of them
    so many minutes ago. The pages are the first ones of this person's own roll."""

    person: Person
    begun: float
    pages: int = 0
    last_page: float = 1.0
    promised: int = 0
    hands_in: bool = False


SITTING = (
    Sits(MIRELA, 104, pages=3, last_page=4, hands_in=True),
    Sits(WREN, 103.5, pages=2, last_page=3.5, promised=2),
    Sits(DACRE, 101),
    Sits(PETRA, 97, pages=1, last_page=0.6),
    Sits(TOBIN, 96, pages=3, last_page=0.3),
    Sits(SUNNIVA, 88),
    Sits(JOSS, 61),
)


def rolls() -> list[Roll]:
    of_sets = [
        Roll(f"{work.key}/{one.person.last.lower()}", one, work.answers()) for work in WORKS for one in work.sets
    ]
    return [*of_sets, phone_roll()]


def phone_roll() -> Roll:
    return Roll("on-ilses-phone", ON_THE_PHONE, NOON_SIGHT.answers())
