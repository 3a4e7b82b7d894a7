from django.apps import AppConfig


class EditionsConfig(AppConfig):
    name = "editions"

    def ready(self) -> None:
        from . import binding, checks, closing  # noqa: F401 (connect what they register)
        from .files import register_folders

        register_folders()
