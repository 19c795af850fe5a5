from django.apps import AppConfig


class Config(AppConfig):
    name = "rellux.server.answers"
    label = "answers"
