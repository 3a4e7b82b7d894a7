"""What people are told of, and how each kind of notice reaches them unless they choose otherwise."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import models


class ByMail(models.TextChoices):
    """When a notice is mailed; in the application it is always told."""

    AT_ONCE = "at_once"
    DAILY = "daily"
    NEVER = "never"


class Kind(models.TextChoices):
    RECEIPT = "receipt"
    BY_ITSELF = "by_itself"
    TIME_GIVEN = "time_given"
    WORD = "word"
    ASKED_AGAIN = "asked_again"
    TALK = "talk"
    TAKEN_IN = "taken_in"
    GIVEN_BACK = "given_back"
    GIVEN_OUT = "given_out"
    OPENING = "opening"
    CLOSING = "closing"
    HAND_IN = "hand_in"
    TROUBLE = "trouble"
    ANSWER = "answer"
    MARK_QUESTION = "mark_question"


@dataclass(frozen=True, slots=True)
class About:
    """``words``: what it tells of, after "mails you". ``staff``: told to who teaches, else to students."""

    words: str
    by_mail: ByMail
    staff: bool = False


ABOUT = {
    Kind.RECEIPT: About("the receipt of each edition that is handed in", ByMail.AT_ONCE),
    Kind.BY_ITSELF: About("what was handed in by itself at the close", ByMail.AT_ONCE),
    Kind.TIME_GIVEN: About("time that is given", ByMail.AT_ONCE),
    Kind.WORD: About("a word from staff about a folio", ByMail.AT_ONCE),
    Kind.ASKED_AGAIN: About("what staff ask for again", ByMail.AT_ONCE),
    Kind.TALK: About("a question or an answer about your pages", ByMail.AT_ONCE),
    Kind.TAKEN_IN: About("pages that staff take in for you", ByMail.AT_ONCE),
    Kind.GIVEN_BACK: About("marked work that is given back, and answers about it", ByMail.AT_ONCE),
    Kind.GIVEN_OUT: About("work that is given out", ByMail.DAILY),
    Kind.OPENING: About("timed work that opens within a day", ByMail.AT_ONCE),
    Kind.CLOSING: About("work that is due within a day and not handed in", ByMail.AT_ONCE),
    Kind.HAND_IN: About("each hand-in", ByMail.DAILY, staff=True),
    Kind.TROUBLE: About("pages that cannot be opened", ByMail.DAILY, staff=True),
    Kind.ANSWER: About("what a student says about their pages", ByMail.AT_ONCE, staff=True),
    Kind.MARK_QUESTION: About("what a student asks about a mark", ByMail.AT_ONCE, staff=True),
}
