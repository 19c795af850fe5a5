from django.apps import AppConfig


class Config(AppConfig):
    name = "rellux.server.menus"
    label = "menus"
