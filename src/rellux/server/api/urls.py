"""Where everything of the API is."""

from django.urls import include, path
from drf_spectacular.views import SpectacularAPIView

from . import schema  # noqa: F401 - registers itself with the schema generator

urlpatterns = [
    path("schema", SpectacularAPIView.as_view(), name="schema"),
    path("", include("rellux.server.rigs.urls")),
    path("", include("rellux.server.wiring.urls")),
    path("", include("rellux.server.setup.urls")),
    path("", include("rellux.server.guarding.urls")),
    path("", include("rellux.server.proving.urls")),
    path("", include("rellux.server.menus.urls")),
    path("", include("rellux.server.links.urls")),
    path("", include("rellux.server.runs.urls")),
    path("", include("rellux.server.profiles.urls")),
    path("", include("rellux.server.tuning.urls")),
    path("", include("rellux.server.calibration.urls")),
    path("", include("rellux.server.questions.urls")),
    path("", include("rellux.server.library.urls")),
    path("", include("rellux.server.equipment.urls")),
    path("", include("rellux.server.zones.urls")),
    path("", include("rellux.server.sheets.urls")),
]
