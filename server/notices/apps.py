from django.apps import AppConfig


class NoticesConfig(AppConfig):
    name = "notices"

    def ready(self) -> None:
        from . import listening  # noqa: F401 (hears what happens to folios)
