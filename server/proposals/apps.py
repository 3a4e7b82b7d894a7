from django.apps import AppConfig


class ProposalsConfig(AppConfig):
    name = "proposals"

    def ready(self) -> None:
        from . import reading, recording  # noqa: F401 (listen to pages, and to what students place)
