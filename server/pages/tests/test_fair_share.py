"""Which page is prepared first: the nearer close, then everybody's first page before anybody's second."""

from __future__ import annotations

from typing import Any

from procrastinate.contrib.django.models import ProcrastinateJob

from folios.beginning import create_folio
from pages.models import Original, Page
from testing.desk import NOW, DeskTestCase, picture


class FairShare(DeskTestCase):
    def order(self) -> list[int]:
        """Folios in the order in which their waiting jobs would be taken."""
        jobs = ProcrastinateJob.objects.filter(queue_name="pages", status="todo").order_by("-priority", "id")
        return [self.folio_of(job.args) for job in jobs]

    def folio_of(self, args: dict[str, Any]) -> int:
        if "page_id" in args:
            return Page.objects.get(pk=args["page_id"]).folio_id
        return Original.objects.get(pk=args["original_id"]).folio_id

    def test_one_students_many_pages_do_not_hold_up_anothers_first(self) -> None:
        others = create_folio(self.work, self.tobin, NOW)
        for shade in range(200, 205):
            self.send(picture(shade))
        self.send(picture(), by=self.tobin, folio=others)
        self.send(picture(99), by=self.tobin, folio=others)
        mine, other = self.folio.pk, others.pk
        self.assertEqual(self.order(), [mine, other, mine, other, mine, mine, mine])

    def test_saving_corrections_again_and_again_queues_each_page_once(self) -> None:
        for shade in range(200, 205):
            self.send(picture(shade))
        self.work_off_jobs()
        ProcrastinateJob.objects.all().delete()
        pages = list(Page.objects.values_list("pk", flat=True))
        for turn in (90, 180, 270, 90, 180):
            self.folio.refresh_from_db()
            recipes = {str(page): {"corners": None, "turn": turn, "tone": "clean"} for page in pages}
            self.assertEqual(self.arrange(self.folio.version, order=pages, recipes=recipes).status_code, 200)
        others = create_folio(self.work, self.tobin, NOW)
        self.send(picture(), by=self.tobin, folio=others)
        self.assertEqual(self.order(), [self.folio.pk, others.pk] + [self.folio.pk] * 4)

    def test_the_nearer_close_goes_first_however_many_wait(self) -> None:
        for shade in range(200, 205):
            self.send(picture(shade))
        near = create_folio(self.sitting, self.tobin, NOW)
        for shade in range(100, 103):
            self.send(picture(shade), by=self.tobin, folio=near)
        self.assertEqual(self.order(), [near.pk] * 3 + [self.folio.pk] * 5)
