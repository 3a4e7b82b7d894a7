"""The rules of marking, pure: where an answer is cut out of its pages, what its points add up to, what the points of a
class say of a question, ink as strokes, and marked documents."""

from .cutting import Cut, cuts_of, may_go_on
from .ink import STROKE_POINTS_MOST, TEXT_MOST, BadInk, Stroke, Tool, inkml
from .statistics import Figures, discriminations, figures_of
from .totals import LateRule, Total, Worth, plain_number, total_of, worth_by_itself

__all__ = [
    "STROKE_POINTS_MOST", "TEXT_MOST", "BadInk", "Cut", "Figures", "LateRule",
    "Stroke", "Tool", "Total", "Worth", "cuts_of", "discriminations",
    "figures_of", "inkml", "may_go_on",
    "plain_number", "total_of", "worth_by_itself",
]  # fmt: skip
