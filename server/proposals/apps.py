from django.apps import AppConfig


class ProposalsConfig(AppConfig):
    name = "proposals"

    def ready(self) -> None:
        from . import reading  # noqa: F401 (listens to pages that are ready)
