from django.apps import AppConfig


class FoliosConfig(AppConfig):
    name = "folios"

    def ready(self) -> None:
        from . import signals  # noqa: F401 (connects its receivers)
