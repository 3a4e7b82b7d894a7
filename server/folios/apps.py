from django.apps import AppConfig


class FoliosConfig(AppConfig):
    name = "folios"
