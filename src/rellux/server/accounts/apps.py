from django.apps import AppConfig


class Config(AppConfig):
    name = "rellux.server.accounts"
    label = "accounts"

    def ready(self) -> None:
        from rellux.server.api import schema  # noqa: F401 - registers itself with the schema generator
