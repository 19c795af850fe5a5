from django.apps import AppConfig


class Config(AppConfig):
    name = "rellux.server.zones"
    label = "zones"
