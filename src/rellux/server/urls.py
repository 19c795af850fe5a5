"""Where everything is: pages, which are one file, and the API, which is not loaded before somebody asks it for something."""

from django.urls import path, re_path

from .index import index

handler404 = "rellux.server.api.errors.not_found"
handler500 = "rellux.server.api.errors.server_error"

API = "rellux.server.api.urls"
urlpatterns = [
    re_path(r"^(?!api/|app/).*$", index),
    path("api/v1/", (API, None, None)),
]
