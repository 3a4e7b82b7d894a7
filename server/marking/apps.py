from django.apps import AppConfig


class MarkingConfig(AppConfig):
    name = "marking"
