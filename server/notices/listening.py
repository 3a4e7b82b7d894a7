"""What happens to folios, and who is told of it: their students and the course's instructors."""

from __future__ import annotations

import logging
from datetime import datetime
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models.signals import post_save
from django.dispatch import receiver

from courses.models import Enrolment
from editions.manifest import file_stem, receipt_as_pdf
from editions.models import Edition, counting
from folios import events
from folios.models import Event, Folio
from marking.asking_about_marks import marker_of
from people.models import User

from .kinds import Kind
from .notifying import Told, notify

logger = logging.getLogger(__name__)


@receiver(post_save, sender=Event)
def tell_of(instance: Event, created: bool, raw: bool = False, **_: object) -> None:
    """In the transaction that writes the event: nobody is told of what did not happen."""
    folio = instance.folio
    if not created or raw or folio.assignment.rehearsal_of_id is not None:
        return
    happened = instance.event
    if isinstance(happened, events.Bound):
        _receipt(folio, happened, instance.at)
    elif isinstance(happened, events.HandedIn):
        _hand_in(folio, happened, instance.at)
    elif isinstance(happened, events.TakenBack):
        _taken_back(folio, happened, instance.at)
    elif isinstance(happened, events.Lengthened):
        closes = moment_words(folio.window().closes, folio)
        text = f"{happened.by} gave you {happened.minutes} minutes more. Your work can now be handed in until {closes}."
        notify(
            [folio.student],
            _about(folio, Kind.TIME_GIVEN, instance, f"{happened.minutes} minutes more", text),
            instance.at,
        )
    elif isinstance(happened, events.Amended):
        closes = moment_words(happened.closes_now, folio)
        text = f"The times of your work were changed in your favour. It can now be handed in until {closes}."
        notify([folio.student], _about(folio, Kind.TIME_GIVEN, instance, "more time", text), instance.at)
    elif isinstance(happened, events.Told):
        told = _about(folio, Kind.WORD, instance, f"a word from {happened.by}", f"“{happened.text}”")
        notify([folio.student], told, instance.at)
    elif isinstance(happened, events.AskedAgain):
        notify([folio.student], _asked_again(folio, happened, instance), instance.at)
    elif isinstance(happened, events.AskingWithdrawn):
        told = _about(folio, Kind.ASKED_AGAIN, instance, "nothing is asked for any more", _withdrawn(happened))
        notify([folio.student], told, instance.at)
    elif isinstance(happened, events.Said):
        _said(folio, happened, instance)
    elif isinstance(happened, events.TakenIn):
        notify([folio.student], _taken_in(folio, happened, instance), instance.at)
    elif isinstance(happened, events.MarksGivenBack | events.MarksTakenBack):
        notify([folio.student], _marks(folio, happened, instance), instance.at)
    elif isinstance(happened, events.MarkQuestioned):
        _mark_questioned(folio, happened, instance)
    elif isinstance(happened, events.Failed):
        text = f"A page of {folio.student.name} could not be opened. The original is kept."
        notify(
            instructors_of(folio),
            _about(folio, Kind.TROUBLE, instance, "a page cannot be opened", text, "record"),
            instance.at,
        )


def _about(folio: Folio, kind: Kind, of: Event, subject: str, text: str, where: str = "board") -> Told:
    path = f"/folios/{folio.pk}" if where == "board" else f"/records/{folio.pk}"
    return Told(kind, f"event {of.pk}", f"{_work(folio)}: {subject}", text, path)


def _receipt(folio: Folio, bound: events.Bound, at: datetime) -> None:
    """With the receipt as a document. An edition that is bound anew is told of anew: its receipt is another one."""
    edition = Edition.objects.get(folio=folio, number=bound.edition)
    kind = Kind.BY_ITSELF if edition.automatic else Kind.RECEIPT
    when = moment_words(edition.handed_in_at, folio, seconds=True)
    late = edition.verdict == "late"
    pages = f"{edition.page_count} page{'s' if edition.page_count != 1 else ''}"
    answers = edition.answers.count()
    if answers:
        pages += f" and {answers} answer{'s' if answers != 1 else ''} on the screen"
    lines = [
        f"Edition {edition.number} of your work was handed in on {when}, {'late' if late else 'in time'}: {pages}."
    ]
    if edition.automatic:
        lines.append("Nobody pressed the button: what had arrived was handed in when the time was up.")
    if edition.open_labels:
        lines.append(f"Open questions: {', '.join(edition.open_labels)}.")
    again = edition.bindings.count()
    if again > 1:
        lines.append("It was bound anew, with a page that could not be opened at first.")
    lines.append("Whoever has the receipt can check it without an account.")
    subject = f"{_work(folio)}: {'handed in by itself' if edition.automatic else 'handed in'}, edition {edition.number}"
    told = Told(
        kind, f"edition {edition.pk} binding {again}", subject, "\n\n".join(lines),
        f"/folios/{folio.pk}/editions/{edition.number}", _receipt_document(edition),
    )  # fmt: skip
    notify([folio.student], told, at)


def _receipt_document(edition: Edition) -> tuple[str, bytes] | None:
    """None where it cannot be drawn: that must not keep the edition from being bound, in whose transaction this is."""
    try:
        return f"{file_stem(edition)}_receipt.pdf", receipt_as_pdf(edition, settings.FOLIO_ADDRESS_IN_MAILS)
    except Exception:
        logger.exception("The receipt of edition %s could not be drawn; it is told of without it", edition.pk)
        return None


def _hand_in(folio: Folio, handed_in: events.HandedIn, at: datetime) -> None:
    how = "by itself at the close" if handed_in.by_itself else ("late" if handed_in.verdict == "late" else "in time")
    text = f"{folio.student.name} handed in edition {handed_in.edition}, {how}."
    told = Told(
        Kind.HAND_IN, f"hand-in {folio.pk} {handed_in.edition}", f"{_work(folio)}: {folio.student.name} handed in",
        text, f"/reading/{folio.assignment_id}/{folio.pk}/{handed_in.edition}",
    )  # fmt: skip
    notify(instructors_of(folio), told, at)


def _taken_back(folio: Folio, happened: events.TakenBack, at: datetime) -> None:
    name = folio.student.name
    text = f"{name} took back edition {happened.edition}. Nothing is handed in until it is again, or the close comes."
    told = Told(
        Kind.HAND_IN, f"taken back {folio.pk} {happened.edition}", f"{_work(folio)}: {name} took the work back", text,
        f"/records/{folio.pk}",
    )  # fmt: skip
    notify(instructors_of(folio), told, at)


def _asked_again(folio: Folio, asked: events.AskedAgain, of: Event) -> Told:
    what = {
        "page": f"page {asked.number} again",
        "all": "all of your work again",
        "place": "you to say which pages answer which question",
    }[asked.what]
    until = moment_words(asked.until, folio)
    text = f"{asked.by} asks for {what}: {_quoted(asked.reason)} It can be handed in until {until}.\n\n" + (
        "What you handed in stays and counts until then."
    )
    subject = f"{_work(folio)}: {'page ' + str(asked.number) if asked.number else 'something'} is asked for again"
    return Told(Kind.ASKED_AGAIN, f"event {of.pk}", subject, text, _board_at(folio, asked.page))


def _board_at(folio: Folio, page: int | None) -> str:
    """The board, at a page by its id."""
    return f"/folios/{folio.pk}?asked={page}" if page else f"/folios/{folio.pk}"


def _withdrawn(ended: events.AskingWithdrawn) -> str:
    what = f"Page {ended.number}" if ended.number else "What was asked for"
    return f"{what} is not needed again any more, says {ended.by}. What you handed in stands."


def _said(folio: Folio, said: events.Said, of: Event) -> None:
    """Staff to the student, the student to the course's instructors."""
    text = f"{said.by}: “{said.text}”"
    if said.staff:
        subject, where = f"{_work(folio)}: a word from {said.by}", _board_at(folio, said.page)
        told = Told(Kind.TALK, f"event {of.pk}", subject, text, where)
        notify([folio.student], told, of.at)
        return
    counts = counting(folio)
    where = f"/reading/{folio.assignment_id}/{folio.pk}/{counts.number}" if counts else f"/records/{folio.pk}"
    told = Told(Kind.ANSWER, f"event {of.pk}", f"{_work(folio)}: a word from {said.by}", text, where)
    notify(instructors_of(folio), told, of.at)


def _taken_in(folio: Folio, taken: events.TakenIn, of: Event) -> Told:
    pages = f"{taken.pages} page{'s' if taken.pages != 1 else ''}"
    counts = moment_words(taken.counts_at, folio)
    text = f"{taken.by} took in {pages} for you: {_quoted(taken.reason)} They count as of {counts}."
    return _about(folio, Kind.TAKEN_IN, of, "pages were taken in for you", text)


def _marks(folio: Folio, happened: events.MarksGivenBack | events.MarksTakenBack, of: Event) -> Told:
    """No points in it: mail is read by others too."""
    if isinstance(happened, events.MarksTakenBack):
        text = f"{happened.by} took the marks back for now: {_quoted(happened.why)} "
        text += "You are told when they are given back again."
        return Told(Kind.GIVEN_BACK, f"event {of.pk}", f"{_work(folio)}: marks taken back", text, f"/folios/{folio.pk}")
    subject = "given back anew" if happened.again else "given back"
    text = f"Your work, edition {happened.edition}, was marked and is {subject}. Look at it question by question."
    return Told(Kind.GIVEN_BACK, f"event {of.pk}", f"{_work(folio)}: {subject}", text, f"/folios/{folio.pk}/returned")


def _mark_questioned(folio: Folio, said: events.MarkQuestioned, of: Event) -> None:
    """The student's question goes to whoever gave the mark, where nobody did to the instructors; the answer back."""
    text = f"{said.by}: “{said.text}”"
    if said.staff:
        told = Told(
            Kind.GIVEN_BACK, f"event {of.pk}", f"{_work(folio)}: an answer about the mark of {said.label}", text,
            f"/folios/{folio.pk}/returned#{said.label}",
        )  # fmt: skip
        notify([folio.student], told, of.at)
        return
    told = Told(
        Kind.MARK_QUESTION, f"event {of.pk}", f"{_work(folio)}: a question about the mark of {said.label}", text,
        f"/marking/{folio.assignment_id}/{folio.pk}#{said.label}",
    )  # fmt: skip
    marker = marker_of(folio, said.question)
    notify([marker] if marker is not None else instructors_of(folio), told, of.at)


def instructors_of(folio: Folio) -> list[User]:
    lines = Enrolment.objects.filter(course=folio.assignment.course_id, role=Enrolment.Role.INSTRUCTOR)
    return [line.person for line in lines.select_related("person")]


def moment_words(at: datetime, folio: Folio, *, seconds: bool = False) -> str:
    zone = ZoneInfo(folio.assignment.course.time_zone)
    return f"{at.astimezone(zone):{'%A %-d %B, %H:%M:%S' if seconds else '%A %-d %B, %H:%M'}}"


def _work(folio: Folio) -> str:
    return f"{folio.assignment.course.code} {folio.assignment.title}"


def _quoted(sentence: str) -> str:
    """With one full stop, whether it came with one or not."""
    return f"“{sentence}”" if sentence.endswith((".", "!", "?")) else f"“{sentence}”."
