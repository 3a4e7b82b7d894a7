from django.apps import AppConfig


class AskingConfig(AppConfig):
    name = "asking"
