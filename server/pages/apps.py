from django.apps import AppConfig


class PagesConfig(AppConfig):
    name = "pages"

    def ready(self) -> None:
        from .files import register_folders

        register_folders()
