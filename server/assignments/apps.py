from django.apps import AppConfig


class AssignmentsConfig(AppConfig):
    name = "assignments"

    def ready(self) -> None:
        from plumbing.storage import StorageFolder, register_folder

        from . import drawing  # noqa: F401 (it hears of papers that are saved)

        register_folder(StorageFolder("question-papers", self._question_papers))
        register_folder(StorageFolder("files-beside", self._files_beside))
        register_folder(StorageFolder("paper-pages", self._paper_pages))

    def _question_papers(self) -> set[str]:
        from .models import Assignment

        present = set(Assignment.objects.exclude(question_paper="").values_list("question_paper", flat=True))
        former = Assignment.objects.exclude(former_papers=[]).values_list("former_papers", flat=True)
        return present | {one["paper"] for papers in former for one in papers}

    def _files_beside(self) -> set[str]:
        from .models import FileBeside

        return set(FileBeside.objects.values_list("stored", flat=True))

    def _paper_pages(self) -> set[str]:
        from .drawing import picture_name
        from .models import PaperPage

        rows = PaperPage.objects.values_list("assignment", "image")
        return {picture_name(assignment, image) for assignment, image in rows}
