from django.apps import AppConfig


class AssignmentsConfig(AppConfig):
    name = "assignments"

    def ready(self) -> None:
        from plumbing.storage import StorageFolder, register_folder

        register_folder(StorageFolder("question-papers", self._question_papers))

    def _question_papers(self) -> set[str]:
        from .models import Assignment

        return set(Assignment.objects.exclude(question_paper="").values_list("question_paper", flat=True))
