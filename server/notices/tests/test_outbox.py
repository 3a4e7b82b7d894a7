"""Mail: of the transaction that caused it, tried again until it has gone, and no secret kept afterwards."""

from __future__ import annotations

from unittest import mock

from django.core import mail as django_mail
from django.db import transaction
from django.test import TestCase, override_settings
from procrastinate.contrib.django.models import ProcrastinateJob

from notices import outbox
from notices.models import Mail
from testing.desk import NOW


@override_settings(FOLIO_POST_BOX=False)
class Outbox(TestCase):
    def post(self, *, secret: bool = False) -> Mail:
        return outbox.post("ilse@kestrelpoint.example", "A word", "The text", NOW, secret=secret)

    def jobs(self) -> int:
        return ProcrastinateJob.objects.filter(task_name=outbox.SEND_MAIL).count()

    def test_a_message_and_its_job_exist_when_what_caused_them_is_committed_and_only_then(self) -> None:
        with transaction.atomic():
            self.post()
            transaction.set_rollback(True)
        self.assertEqual((Mail.objects.count(), self.jobs()), (0, 0))
        self.post()
        self.assertEqual((Mail.objects.count(), self.jobs()), (1, 1))

    def test_it_is_sent_once_and_a_secret_in_it_is_forgotten(self) -> None:
        mail = self.post(secret=True)
        outbox.send(mail.pk, NOW)
        outbox.send(mail.pk, NOW)
        self.assertEqual([one.body for one in django_mail.outbox], ["The text"])
        mail.refresh_from_db()
        self.assertEqual((mail.text, mail.sent_at), ("", NOW))

    def test_a_mail_server_that_does_not_answer_is_tried_again(self) -> None:
        mail = self.post()
        silent = mock.patch("notices.outbox.EmailMultiAlternatives.send", side_effect=ConnectionRefusedError)
        with silent, self.assertRaises(ConnectionRefusedError):
            outbox.send(mail.pk, NOW)
        mail.refresh_from_db()
        self.assertEqual((mail.sent_at, mail.trouble), (None, "ConnectionRefusedError"))
        outbox.send(mail.pk, NOW)
        mail.refresh_from_db()
        self.assertEqual((mail.sent_at, mail.trouble), (NOW, ""))

    @override_settings(FOLIO_POST_BOX=True, EMAIL_HOST="")
    def test_without_a_mail_server_it_stays_in_the_post_box(self) -> None:
        mail = self.post(secret=True)
        outbox.send(mail.pk, NOW)
        self.assertEqual(django_mail.outbox, [])
        (shown,) = self.client.get("/api/post-box").json()
        self.assertEqual((shown["to"], shown["text"]), ("ilse@kestrelpoint.example", "The text"))
        with override_settings(FOLIO_POST_BOX=False):
            self.assertEqual(self.client.get("/api/post-box").status_code, 404)

    def test_what_lost_its_job_gets_one(self) -> None:
        self.post()
        ProcrastinateJob.objects.all().delete()
        self.assertEqual((outbox.enqueue_unsent(), self.jobs()), (1, 1))
        outbox.enqueue_unsent()
        self.assertEqual(self.jobs(), 1)
